"""A monitor before power: its tube discharged, its covers, its stages and joints.

Source: SOURCE; the rest: workshop practice, because sheets name volts and not how far they may stray.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..board.devices import is_plug
from ..board.mends import reflow
from ..board.monitor_lines import Monitor
from ..circuit.monitor import tube_charge
from ..text.quantity import show
from .checks import BoardFacts, Check
from .facts import CLIPPED, DISCHARGED, JOINED, NO_SHORT

#: F that the glass and coating of a tube may hold.
TUBE = 1e-9


#: Roles that only a monitor has.
STAGES = ("retrace_tuning", "deflection_coupling", "boost", "tube_supply", "field_store", "video")


#: How long a discharge is held, s, and after how long it is done again.
HELD, AGAIN = 10.0, 600.0


#: Under this a resistance from collector to emitter, or of a field chip's output to ground, is a short, Ω.
TRANSISTOR, FIELD_CHIP = 1000.0, 5.0


TRAINED = "Tube work is for trained people; local codes come first."


SOURCE = "Workshop practice, because glass and coating of a picture tube keep their charge for years; X-radiation: IEC 60065:2014, clause 6"


def of_monitor(board: BoardFacts, boards: Sequence[BoardFacts]) -> bool:
    """Whether a board belongs to a monitor: the one with its lines, or one that carries a part of its stages or is called after it,
    as the neck board VM-12N of VM-12."""
    if board.monitor is not None:
        return True
    names = [b.name for b in boards if b.monitor is not None]
    return any(p.role in STAGES for p in board.parts) or any(board.name.startswith(name) for name in names)


def discharge_checks(board: BoardFacts) -> list[Check]:
    """The tube discharged through a resistor, then directly, then again after ten minutes: power and half an hour void each."""
    return tube_checks(board.name, board.id, board.monitor.anode) if board.monitor is not None else []


def tube_checks(name: str, row: str, anode: float) -> list[Check]:
    """The same of a tube by the name and the row of its board, and the volts of its anode."""
    energy = tube_charge(TUBE, anode).values["energy"]
    held = show(HELD, "s")
    asked = (
        (
            "tube1", f"tube of {name}, through the resistor",
            f"Off, unplugged. Clip the lead to the tube's own outer braid first, one hand, then its tip under the anode cup: about "
            f"1 MΩ rated above {show(anode, 'V')}, held {held}. It may hold {show(energy, 'J')}.", "",  0.0,
        ),
        (
            "tube2", f"tube of {name}, by a direct lead",
            f"The same way without the resistor, held {held}: the resistor may be open.", "tube1", HELD,
        ),
        (
            "tube3", f"tube of {name}, once more after ten minutes",
            "Charge creeps back out of the glass: directly once more. Keep anode and braid clipped together "
            "while you handle neck or cap.",
            "tube2", AGAIN,
        ),
    )  # fmt: skip
    return [
        Check(
            key=f"cold.{key}.{row}",
            step="cold",
            kind="look",
            point=point,
            ask=ask,
            safety=True,
            board=name,
            caution=f"{TRAINED} Goggles: the neck is thin glass and the tube can implode.",
            why=SOURCE,
            aspect="discharge",
            nominal=anode,
            reckoning="tube_charge",
            inputs=(("value", TUBE), ("volts", anode)),
            fact=DISCHARGED,
            rows=frozenset({row}),
            boards=frozenset({row}),
            of=(("anode", f"{anode:g} V"),),
            after=(f"cold.{before}.{row}", seconds) if before else (),
            kept_by=f"cold.tubeclip.{row}",
        )
        for key, point, ask, before, seconds in asked
    ]


def cold_checks_of_monitor(board: BoardFacts) -> list[Check]:
    """What is looked at and read of a monitor without power."""
    m = board.monitor
    if m is None:
        return []
    own: dict = {"rows": frozenset({board.id}), "boards": frozenset({board.id}), "board": board.name}
    checks = [
        Check(
            key=f"cold.tubeclip.{board.id}",
            step="cold",
            kind="look",
            point="anode clipped to the braid",
            ask="A clip lead joins anode and outer braid: while it is on, the discharge stays valid. Take it off "
            "again, and answer no, before power.",
            optional=True,
            why="Charge creeps back only into an open tube.",
            fact=CLIPPED,
            caution=TRAINED,
            **own,
        ),
        Check(
            key=f"cold.braid.{board.id}",
            step="cold",
            kind="continuity",
            point="tube's outer braid to the chassis ground",
            ask="Check every strap of it: an open braid leaves the coating charged.",
            high=2.0,
            safety=True,
            fact=JOINED,
            why="Continuity passes at 2 Ω less the leads.",
            **own,
        ),
        Check(
            key=f"cold.coils.{board.id}",
            step="cold",
            kind="look",
            point="plugs of the deflection coils, neck board, anode cap",
            ask="Fully in, undamaged, each where it was. Without its coil a field stage burns a line into the screen.",
            safety=True,
            fact=JOINED,
            **own,
        ),
        Check(
            key=f"cold.sheets.{board.id}",
            step="cold",
            kind="look",
            point="insulating sheets and covers",
            ask="In place, none forgotten, none torn.",
            safety=True,
            fact=JOINED,
            **own,
        ),
    ]
    if board.supply and m.stage is not None:
        checks.append(
            Check(key=f"cold.stageoff.{board.id}", step="cold", kind="look", point="line stage off the supply",
                  ask="Its plug or link out, until the supply is proven and B+ was tested on a lamp.", safety=True, fact=JOINED,
                  why="A fault of the supply shows in a lamp, not in the line transistor.", **own)
        )  # fmt: skip
    if m.stage is not None:
        name = m.stage.transistor or "line transistor"
        checks.append(
            Check(key=f"cold.line.{board.id}", step="cold", kind="resistance", point=f"{name}, collector to emitter",
                  ask="Red lead on the collector, black lead on the emitter. The built-in diode has its anode at the emitter, so it blocks "
                  "this way and conducts the other way; base to emitter reads 30 to 50 Ω. Both are normal.",
                  low=TRANSISTOR, safety=True, fact=NO_SHORT,
                  why="If it is shorted, it destroys the supply.", **own)
        )  # fmt: skip
    if m.output is not None:
        checks.append(
            Check(key=f"cold.field.{board.id}", step="cold", kind="resistance", point=f"{m.output.chip}, output to ground",
                  ask="Its heatsink tight, paste not dried out. Wait until the reading is steady: its capacitor "
                  "charges.",
                  low=FIELD_CHIP, safety=True, fact=NO_SHORT, why="Under 5 Ω it is shorted.", **own)
        )  # fmt: skip
    for ref, why in joints(board, m):
        checks.append(
            Check(key=f"cold.tjoint.{board.id}.{ref.lower()}", step="cold", kind="look", point=f"{ref}, its joints",
                  ask=f"With a lens: a ring round a pin is a crack. Resolder it if in doubt. {why[:1].upper()}{why[1:]}.", fact=JOINED,
                  why="Joints of hot or heavy parts crack first.", **own)
        )  # fmt: skip
    return checks


def joints(board: BoardFacts, monitor: Monitor) -> list[tuple[str, str]]:
    """Joints that are looked at each by each: the line transformer's first, then what is pulled, hot or heavy."""
    found: dict[str, str] = {}
    if monitor.stage is not None and monitor.stage.transformer:
        found[monitor.stage.transformer] = "the line transformer: heavy, hot, and shaken at the line rate"
    for ref, why in reflow(board.parts, board.devices, board.chips):
        found.setdefault(ref, why)
    for chip in board.chips:
        if is_plug(chip.ref):
            found.setdefault(chip.ref, "a connector")
    return list(found.items())
