"""The cold checks that a unit's own parts, rails, chips and pins ask for.

Source: each check names its own as it is shown; continuity, climbs and shorts: workshop practice, because a meter's leads and drive set
them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..board.parts import polarity_mark
from ..circuit import discharge
from ..refusal import BadInput
from ..text.quantity import show
from .adapters import cold_checks_of
from .changed import changed_checks
from .checks import (
    EARTH_CARRIES,
    EARTH_MOST,
    INSULATION,
    INSULATION_CLASS_2,
    BoardFacts,
    Check,
    Store,
    key_of,
    stores_of,
)
from .cold_mains import emptied_by_itself, fuse_marking, lifted_for_insulation, mains_side, pins_charged, regulators
from .cold_rails import CONTINUITY, fed_rails, rails_to_ground
from .control_wires import cold_control
from .facts import DISCHARGED, FUSE_WHOLE, INSIDE, JOINED, MAINS_SIDE, POLARITY
from .hazards import Unlisted
from .monitor_cold import cold_checks_of_monitor, discharge_checks, tube_checks


def cold_checks(
    boards: Sequence[BoardFacts], mains: float = 230.0, apart: Sequence[str] = (), unlisted: Sequence[Unlisted] = ()
) -> tuple[Check, ...]:
    """Everything to be checked before power, made from the unit's own parts, rails, chips and pins.

    Args:
        boards: the unit's boards.
        mains: V rms, nominal.
        apart: what of the dismantling log is not back, in words.
        unlisted: stores that are on no list any more and may be charged.

    Returns:
        The checks, in the order in which they are asked.
    """
    checks: list[Check] = []
    highest = max((abs(rail.nominal) for rail in fed_rails(boards)), default=0.0)
    # a tube first: nobody reaches past it
    for board in boards:
        checks += discharge_checks(board)
    for board in boards:
        checks += [_discharge(store, board.id) for store in stores_of(board, highest)]
    checks += _unlisted(unlisted, checks)
    for board in boards:
        checks += (
            _supply_checks(board, mains) + mains_side(board, mains) + emptied_by_itself(board, mains) + _polarity(board)
        )
        checks += rails_to_ground(board, boards) + regulators(board) + _pins(board)
        checks += (
            cold_control(board) + changed_checks(board, boards) + cold_checks_of_monitor(board) + _isolation(board)
        )
    # looked at last: whatever is read inside the case asks for it again
    checks.append(
        Check(
            key="cold.look.loose",
            step="cold",
            kind="look",
            point="inside the case",
            ask=f"No tool, screw, clipping or solder ball left inside. Shake and listen.{_counted(apart)}",
            safety=True,
            why="Loose metal can short the mains side.",
            fact=INSIDE,
        )
    )
    return tuple(checks)


def _counted(apart: Sequence[str]) -> str:
    """The screws and plugs that are off by the dismantling log: what is not in the tray is in the case."""
    return f" The dismantling log has {'; '.join(apart)}: count the screws in the tray." if apart else ""


def _unlisted(unlisted: Sequence[Unlisted], asked: Sequence[Check]) -> list[Check]:
    """The discharge of what is on no list any more; not of what came back to it."""
    keys = {check.key for check in asked}
    # a part listed anew under its name, on its board, is read there
    again = {(board, check.point) for check in asked if check.fact == DISCHARGED for board in check.boards}
    tubes = [check for store in unlisted if store.tube for check in tube_checks(store.on, store.board, store.volts)]
    # its clip lead is asked for no more, so nobody can say that it came off: none keeps the discharge young
    found = [replace(check, kept_by=f"{check.kept_by}.unlisted") for check in tubes]
    for store in unlisted:
        if not store.tube:
            was = Store(
                ref=store.name, board=store.on, value=store.farads, volts=store.volts, row=store.row, fitted=store.part
            )
            found.append(_discharge(was, store.board))
    said = "No longer listed, but may still be in the machine."
    return [
        replace(check, why=f"{said} {check.why}")
        for check in found
        if check.key not in keys and not any((board, check.point) in again for board in check.boards)
    ]


def _discharge(store: Store, board: str) -> Check:
    """The discharge of a store on a board, by the board's row."""
    bleed = _bleed(store)
    how, reckoned = f"{discharge.TOO_MUCH} {show(store.value * store.volts**2 / 2, 'J')} stored.", {}
    if bleed is not None:
        w = discharge.discharge(store.value, store.volts, bleed.ohms).values
        how = (
            f"{bleed.words}, across it: {store.volts:.3g} V falls to 10 V in {show(w['seconds'], 's')}, "
            f"{w['first_power']:.3g} W at first, {show(w['energy'], 'J')} stored."
        )
        inputs = (("value", store.value), ("volts", store.volts), ("resistance", bleed.ohms))
        reckoned = {"reckoning": "discharge", "inputs": inputs}
    dangerous = store.volts > discharge.DANGEROUS
    if dangerous:
        how += " Read it a minute after the resistor is off: charge creeps back."
    caution = (
        "Unplugged, one hand, insulated resistor. Stored charge can kill. This is work for trained "
        "people; local codes come first."
        if dangerous
        else ""
    )
    return Check(
        key=f"cold.discharge.{store.row}",
        step="cold",
        kind="dc_volts",
        point=f"across {store.ref}",
        ask=f"Discharged. {how}",
        low=-discharge.SAFE_TO_HANDLE,
        high=discharge.SAFE_TO_HANDLE,
        safety=True,
        board=store.board,
        caution=caution,
        why=discharge.SOURCE,
        aspect="discharge",
        nominal=store.volts,
        **reckoned,
        fact=DISCHARGED,
        names=(key_of("cold.discharge", store.board, store.ref), key_of("up.feed.discharge", store.ref)),
        rows=frozenset({store.row, board}),
        boards=frozenset({board}),
        of=(
            ("value", show(store.value, "F")),
            ("most volts", f"{store.volts:.4g} V"),
            ("part", store.fitted or "the old part"),
        ),
    )


def _bleed(store: Store) -> discharge.Bleed | None:
    """The resistor that empties a capacitor, None for one that it would not stand."""
    try:
        return discharge.bleed_for(store.value, store.volts) if store.volts <= discharge.ONE_RESISTOR else None
    except BadInput:
        return None


def _supply_checks(board: BoardFacts, mains: float) -> list[Check]:
    if not board.supply:
        return []
    name, checks = board.name, []
    lead = "Lead undamaged, strain relief holds, the switch opens each pole that it should. Unplugged."
    if board.adapter is not None:
        checks += cold_checks_of(board, board.adapter)
        lead = "The adapter's case undamaged, no scorch or crack, its lead undamaged at both ends. Unplugged."
    own = dict.fromkeys(("rows", "boards"), frozenset({board.id}))
    # what another board feeds has no plug, lead or earth of its own, and keeps its fuse
    if not board.behind:
        checks.append(_lead(board, mains, lead, own))
    # behind an adapter no mains come into the machine
    if board.adapter is None and not board.behind:
        checks += [*_line_first(board), *_earth_and_insulation(board)]
    marked = fuse_marking(board)
    if marked:
        of = (("marking", marked),)
        checks.append(
            Check(
                key=f"cold.fuse.rating.{board.id}",
                step="cold",
                kind="look",
                point="fuse holder",
                ask=f"The fuse fitted is {marked}, as marked. Never a bigger one.",
                safety=True,
                board=name,
                why="A marked rating always stays.",
                fact=FUSE_WHOLE,
                names=(key_of("cold.fuse.rating", name),),
                of=of,
                **own,
            )
        )
        checks.append(
            Check(
                key=f"cold.fuse.{board.id}",
                step="cold",
                kind="continuity",
                point="fuse",
                ask="Across the fuse, leads subtracted.",
                high=CONTINUITY,
                safety=True,
                board=name,
                why="Continuity passes at 2 Ω less the leads.",
                fact=FUSE_WHOLE,
                names=(key_of("cold.fuse", name),),
                of=of,
                **own,
            )
        )
    return checks


def _lead(board: BoardFacts, mains: float, ask: str, own: dict[str, frozenset[str]]) -> Check:
    """The plug, the lead and the switch, or an adapter's case."""
    return Check(
        key=f"cold.cont.{board.id}.plug",
        step="cold",
        kind="look",
        point="plug, lead and switch",
        ask=ask,
        safety=True,
        board=board.name,
        caution=pins_charged(board, mains) if board.adapter is None else "",
        why="Local codes come first.",
        fact=MAINS_SIDE,
        names=(key_of("cold.cont", board.name, "plug"),),
        of=(("supply", board.supply),),
        **own,
    )


def _isolation(board: BoardFacts) -> list[Check]:
    """An isolation transformer before a chassis that is joined to the mains."""
    if not board.hot_chassis:
        return []
    return [
        Check(
            key=f"cold.hot.{board.id}",
            step="cold",
            kind="look",
            point="isolation of the hot chassis",
            ask="The chassis is joined to the mains. An isolation transformer marked for the machine is in front "
            "of it; even so, no scope and no earthed lead on the primary.",
            safety=True,
            board=board.name,
            caution="Hot chassis. Chassis, screws and shafts are live either way the plug is turned. They can kill. Touch nothing under "
            "power.",
            why="Local codes come first.",
            fact=MAINS_SIDE,
            of=(("chassis", "hot"),),
            **dict.fromkeys(("rows", "boards"), frozenset({board.id})),
        )
    ]


def _line_first(board: BoardFacts) -> list[Check]:
    """Switch and fuse stand in the line, where a plug tells which pole that is."""
    return [
        Check(
            key=f"cold.pole.{board.id}",
            step="cold",
            kind="look",
            point="line and neutral",
            ask="Polarised plug: by the meter, the line pin leads through fuse and switch, and neutral goes "
            "straight in. Plug that fits both ways: both poles count as line, also with the switch off; then "
            "answer yes.",
            safety=True,
            board=board.name,
            why="Workshop practice, because a switch or a fuse in neutral alone leaves everything after it live.",
            fact=MAINS_SIDE,
            names=(key_of("cold.pole", board.name),),
            rows=frozenset({board.id}),
            boards=frozenset({board.id}),
        )
    ]


def _earth_and_insulation(board: BoardFacts) -> list[Check]:
    """Earth pin to bare metal; insulation, by those who have the meter.

    Source: 0.1 Ω at 10 A or more: IEC 60335-1:2010, 27.5. 0.3 Ω by a multimeter: workshop practice, because its few milliamperes prove a
    contact and nothing more. 1 and 2 MΩ at 500 V DC: EN 50678:2020, clause 5, a test after repair; IEC 60335-1:2010, 16.3, and IEC
    62368-1:2018, 5.4.9, test what is new by electric strength, which is not done to an old machine.
    """
    common = {
        "step": "cold",
        "kind": "resistance",
        "safety": True,
        "board": board.name,
        "fact": MAINS_SIDE,
        "rows": frozenset({board.id}),
        "boards": frozenset({board.id}),
        "of": (("earth", "earthed" if board.earthed else "no earth pin"),),
    }
    checks = []
    if board.earthed:
        limit = min(board.earth_limit, EARTH_MOST)
        checks.append(
            Check(
                key=f"cold.earth.{board.id}",
                point="earth pin to bare metal",
                ask="Unplugged. Leads subtracted: type 0.42 - 0.15 for a reading and the leads held together. A multimeter shows that the "
                "earth is connected, not that it carries a fault's current.",
                high=limit,
                why=f"At most {show(EARTH_MOST, 'Ω')} by a multimeter; local codes may ask less.",
                names=(key_of("cold.earth", board.name),),
                **common,
            )
        )
        checks.append(
            Check(
                key=f"cold.earth10.{board.id}",
                point="earth pin to bare metal, at 10 A or more",
                ask="By those who have the tester: 10 A or more from the earth pin to bare metal. Subtract the lead of the machine: type "
                "0.18 - 0.1 for a reading and the lead.",
                high=EARTH_CARRIES,
                caution="The tester's current heats thin wires: stop when anything warms.",
                why=f"At most {show(EARTH_CARRIES, 'Ω')} and the lead: IEC 60335-1:2010, 27.5. If it is not read, the "
                "sheet says so.",
                names=(key_of("cold.earth10", board.name),),
                optional=True,
                **common,
            )
        )
    low = INSULATION if board.earthed else INSULATION_CLASS_2
    lifted = lifted_for_insulation(board)
    to = "earth" if board.earthed else "the outputs and all metal that can be touched"
    checks.append(
        Check(
            key=f"cold.insulation.{board.id}",
            point=f"insulation, line and neutral to {to}",
            ask=f"By those who have the meter: 500 V DC, line and neutral joined, switch on, boards unplugged.{lifted}",
            low=low,
            caution="500 V on the leads: hands off while it reads, and discharge what the tester charged.",
            why=f"At least {show(low, 'Ω')}, the limit after repair (EN 50678:2020, clause 5). If it is not read, "
            "the sheet says so.",
            names=(key_of("cold.insulation", board.name),),
            optional=True,
            **{**common, "of": (*common["of"], *((("lifted", lifted.strip()),) if lifted else ()))},
        )
    )
    return checks


def _polarity(board: BoardFacts) -> list[Check]:
    checks = []
    for part in board.parts:
        if part.ref in board.swapped and part.polar:
            mark, row = polarity_mark(part.kind, part.mounting, part.bipolar), board.part_id(part.ref)
            checks.append(
                Check(
                    key=f"cold.polarity.{row}",
                    step="cold",
                    kind="look",
                    point=part.ref,
                    ask=f"Polarity checked again: {mark.words}, against the board's print.",
                    safety=True,
                    board=board.name,
                    why="A part fitted backwards bursts.",
                    fact=POLARITY,
                    names=(key_of("cold.polarity", board.name, part.ref),),
                    rows=frozenset({row, board.id}),
                    boards=frozenset({board.id}),
                    of=(("mark", mark.words), ("part", board.fitted.get(part.ref, ""))),
                )
            )
    return checks


def _pins(board: BoardFacts) -> list[Check]:
    checks = []
    for chip in board.chips:
        for pin in chip.pins:
            if pin.is_ not in ("ground", "supply"):
                continue
            to = "ground" if pin.is_ == "ground" else pin.rail
            checks.append(
                Check(
                    key=key_of("cold.pin", board.id, chip.ref, pin.number),
                    step="cold",
                    kind="continuity",
                    point=f"{chip.ref} pin {pin.number} to {to}",
                    ask=f"{chip.label or chip.ref}: from the pin itself, not its socket.",
                    high=CONTINUITY,
                    board=board.name,
                    why="Continuity passes at 2 Ω less the leads.",
                    fact=JOINED,
                    names=(key_of("cold.pin", board.name, chip.ref, pin.number),),
                    **dict.fromkeys(("rows", "boards"), frozenset({board.id})),
                    of=(("pin", f"{chip.ref} {pin.number} to {to}"),),
                )
            )
    return checks
