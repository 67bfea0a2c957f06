"""Cold checks of what stands before the rails: the tap, line to neutral, windings, the pins of regulators.

Source: SOURCE; spreads: workshop practice, because windings of one size differ by maker by three times.
"""

from __future__ import annotations

from ..board.roles import effective_role
from ..circuit import transformer
from ..circuit.discharge import PINS_FROM, plug_pins
from ..text.quantity import show
from .checks import (
    BoardFacts,
    Check,
    key_of,
)
from .facts import MAINS_SIDE, NO_SHORT

#: Half of what a transformer loses under load is lost in its mains side, half in its other windings.
HALF = 0.5
#: How far copper may read from what the label lets expect: sizes are rough, makers differ.
SPREAD = 3.0
#: A winding that is not open reads under this much more, Ω: leads, plugs and a fusible wire in it.
LEADS = 2.0
#: Line to neutral of a switching supply under this is a shorted part, Ω.
SHORTED = 1000.0
#: A mains winding whose size nobody knows: of a kVA or so at the one end, of two VA at the other, Ω.
UNKNOWN_WINDING = (2.0, 5000.0)
#: Two pins of a regulator under this are shorted, Ω.
SHORT = 2.0
SOURCE = "Copper from the label: regulation by size, half of it in each side; workshop practice, because labels do not give ohms."


def copper(volts: float, va: float, mains: float) -> tuple[float, float]:
    """Ohms of the mains side and of the other side of a transformer with one winding, by its label.

    A 25 VA transformer loses 15 % under load: 0.15 · V²/VA, half of it in each side.

    >>> tuple(round(ohms, 2) for ohms in copper(15, 25, 230))
    (158.7, 0.68)
    """
    share = HALF * transformer.regulation(va)
    return share * mains**2 / va, share * volts**2 / va


def mains_side(board: BoardFacts, mains: float) -> list[Check]:
    """The tap, line to neutral and every winding of a supply."""
    if not board.supply or board.adapter is not None or board.behind:
        return []
    common = {
        "step": "cold", "board": board.name, "fact": MAINS_SIDE, "rows": frozenset({board.id}), "boards": frozenset({board.id}),
    }  # fmt: skip
    checks = [
        Check(
            key=f"cold.tap.{board.id}",
            kind="look",
            point="mains tap or selector",
            ask=f"Set to {mains:g} V, or the next tap above it. If there is no tap, the label says {mains:g} V."
            + _tapped(board, mains),
            safety=True,
            why="On a tap too low everything after it runs higher and hotter.",
            names=(key_of("cold.tap", board.name),),
            of=(("mains", f"{mains:g} V"),),
            **common,
        ),
        _line_to_neutral(board, mains, common),
    ]
    for number, winding in enumerate(board.sources):
        if winding.open:
            # the label of an open winding tells nothing of its copper
            continue
        ohms = copper(winding.volts, winding.va or 25.0, mains)[1]
        checks.append(
            Check(
                key=key_of(
                    "cold.winding", board.id, winding.name, f"{winding.volts:g}", *([str(number)] if number else [])
                ),
                kind="resistance",
                point=f"{winding.name}, across it",
                ask=f"Its plug off the board. About {show(ohms, 'Ω', 2)} is expected; with leads subtracted it may read a little more.",
                high=SPREAD * ohms + LEADS,
                why=f"{SOURCE} Open: a wire is off, or its thermal fuse has blown.",
                names=(key_of("cold.winding", board.name, winding.name, f"{winding.volts:g}"),),
                of=(("winding", f"{winding.volts:g} V {winding.va:g} VA"),),
                **common,
            )
        )
    return checks


def _tapped(board: BoardFacts, mains: float) -> str:
    """What follows from the tap that is listed as in use."""
    at = next((w.at for w in board.sources if w.at), 0.0)
    if not at or abs(at / mains - 1) <= 0.005:
        return ""
    share = abs(mains / at - 1) * 100
    if at < mains:
        return f" The {at:g} V tap is listed: everything after it reads {share:.0f} % more. Take the next tap above."
    return f" The {at:g} V tap is listed: everything after it reads {share:.0f} % less."


def _line_to_neutral(board: BoardFacts, mains: float, common: dict) -> Check:
    own = {
        "kind": "resistance", "point": "line to neutral at the plug", "safety": True, "names": (key_of("cold.mains-ohms", board.name),),
        **common,
    }  # fmt: skip
    key, unplugged = f"cold.mains-ohms.{board.id}", "Unplugged, fuse in, switch on."
    loaded = [w for w in board.sources if not w.open]
    if loaded:
        va = sum(w.va or 25.0 for w in loaded)
        ohms = copper(1.0, va, mains)[0]
        return Check(
            key=key,
            ask=f"{unplugged} The mains winding: about {show(ohms, 'Ω', 2)} is expected. OL: fuse, switch, lead or thermal fuse is open.",
            low=ohms / SPREAD,
            high=ohms * SPREAD,
            why=f"{SOURCE} Far below it, turns are shorted.",
            of=(("transformer", f"{va:g} VA at {mains:g} V"),),
            **own,
        )
    if board.supply == "linear":
        low, high = UNKNOWN_WINDING
        return Check(
            key=key,
            ask=f"{unplugged} The mains winding: its size is not known, so any reading between a short and an "
            "open wire may be right.",
            low=low,
            high=high,
            why="Type the transformer's volts and VA at Intake to get the expected reading.",
            of=(("transformer", f"not known, {mains:g} V"),),
            **own,
        )
    return Check(
        key=key,
        ask=f"{unplugged} Wait until the reading is steady: the reservoir capacitor charges. Read it both "
        "ways, type the lower.",
        low=SHORTED,
        why="Under 1 kΩ the bridge, the reservoir, the switch or an X part is shorted; the fuse would blow.",
        of=(("supply", board.supply),),
        **own,
    )


def across_line(board: BoardFacts) -> float:
    """F of all parts across the line of a board."""
    return sum(p.value for p in board.parts if effective_role(p.role, p.safety) == "mains_x" and p.looks != "missing")


#: How far a bleeder may read above its marking, and a thermistor from what it has when cold, as shares.
BLEEDER_OVER, THERMISTOR_STRAY = 0.1, 0.3


def emptied_by_itself(board: BoardFacts, mains: float) -> list[Check]:
    """Bleeders, the discharge resistor of the filter parts, and thermistors: read, for nobody sees when one has failed."""
    common = {
        "step": "cold", "kind": "resistance", "board": board.name, "fact": MAINS_SIDE, "rows": frozenset({board.id}),
        "boards": frozenset({board.id}), "safety": True,
    }  # fmt: skip
    checks, filters = [], across_line(board)
    for device in board.devices:
        if device.what not in ("bleeder", "thermistor") or not device.ohms:
            continue
        key, of = key_of(f"cold.{device.what}", board.id, device.ref), (("marked", show(device.ohms, "Ω")),)
        if device.what == "thermistor":
            checks.append(
                Check(
                    key=key, point=f"{device.ref}, across it", of=of,
                    ask=f"Cold, at room temperature, leads subtracted: about {show(device.ohms, 'Ω')}. Scorched or cracked: replace it.",
                    low=device.ohms * (1 - THERMISTOR_STRAY), high=device.ohms * (1 + THERMISTOR_STRAY) + LEADS / 10,
                    why="±20 % when new (IEC 60539-1:2016, zero-power resistance), and the temperature of the room. "
                        "Shorted, nothing limits the switch-on pulse.",
                    **common,
                )
            )  # fmt: skip
            continue
        caution, more = "", f"Open, {device.serves or 'its capacitor'} stays charged for days."
        if device.across_mains and filters:
            pins = plug_pins(filters, device.ohms, mains)
            held = (pins.values["volts_1s"], pins.values["volts_2s"])
            more = f"Calculated for {show(filters, 'F')}: the plug's pins hold {held[0]:.3g} V after 1 s, {held[1]:.3g} V after 2 s."
            caution = " ".join(pins.cautions)
        checks.append(
            Check(
                key=key, point=f"{device.ref}, across it", of=of, high=device.ohms * (1 + BLEEDER_OVER),
                ask=f"Switch off, once the reading is steady: {show(device.ohms, 'Ω')} or less, because other parts "
                    "are in parallel in circuit.",
                why=more, caution=caution, **common,
            )
        )  # fmt: skip
    return checks


def pins_charged(board: BoardFacts, mains: float) -> str:
    """What is said of the plug's pins where nothing empties the filter parts; "" where something does, or they are small."""
    filters = across_line(board)
    if filters <= PINS_FROM or any(d.across_mains for d in board.devices):
        return ""
    return (
        f"The plug's pins may hold {2**0.5 * mains:.0f} V: {show(filters, 'F')} are across the line, "
        "and no discharge resistor is listed. Do not touch the pins."
    )


def lifted_for_insulation(board: BoardFacts) -> str:
    """Which parts of a board an insulation test at 500 V would damage, or be failed by, and what to do; "" where none is listed."""

    def named(*whats: str) -> str:
        return " and ".join(d.ref for d in board.devices if d.what in whats)

    always, either = named("arrester"), named("varistor", "bleeder")
    said = f" Lift one leg of {always} first: an arrester fires at 500 V." if always else ""
    if either:
        said += (
            f" Lift one leg of {either} first, or test at 250 V and note it: at 500 V they conduct, which is "
            "not a fault."
        )
    return said


def regulators(board: BoardFacts) -> list[Check]:
    """Pin to pin of each regulator that stayed; one that was changed has checks of its own."""
    changed = {one.ref for one in board.changed}
    return [
        Check(
            key=key_of("cold.reg", board.id, device.ref),
            step="cold",
            kind="resistance",
            point=f"{device.ref}, pin to pin",
            ask="The lowest of the three pairs, once the reading is steady: capacitors charge first.",
            low=SHORT,
            board=board.name,
            why="Under 2 Ω is a short. A regulator shorted from input to output puts its input on the rail.",
            fact=NO_SHORT,
            names=(key_of("cold.reg", board.name, device.ref),),
            rows=frozenset({board.id}),
            boards=frozenset({board.id}),
            safety=True,
            of=(("regulator", device.marked or device.ref),),
        )
        for device in board.devices
        if device.what == "regulator" and device.ref not in changed
    ]


def fuse_marking(board: BoardFacts) -> str:
    """What is marked on a supply's fuse: as typed for the board, else as its fuses are listed."""
    listed = ", ".join(f"{d.ref} {d.marked}" for d in board.devices if d.what == "fuse")
    return board.fuse or listed
