"""The cold checks that a unit's own parts, rails, chips and pins ask for."""

from __future__ import annotations

from collections.abc import Sequence

from ..board.parts import polarity_mark
from ..circuit import discharge
from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .checks import BoardFacts, Check, key_of, stores_of

#: Most resistance of a connection, Ω.
CONTINUITY = 2.0
#: A rail under this share of V/I reads like a short.
SHORT_SHARE = 0.5
#: The resistor that stores are emptied through, Ω.
BLEED = 2200.0


def cold_checks(boards: Sequence[BoardFacts]) -> tuple[Check, ...]:
    """Everything to be checked before power, made from the unit's own parts, rails, chips and pins."""
    checks: list[Check] = []
    for board in boards:
        checks += _discharges(board)
    checks.append(
        Check(
            "cold.look.loose",
            "cold",
            "look",
            "inside the case",
            "No tool, screw, clipping or solder ball left inside. Shake and listen.",
            safety=True,
            why="Loose metal finds the primary.",
        )
    )
    for board in boards:
        checks += _supply_checks(board) + _polarity(board) + _rails_to_ground(board, boards) + _pins(board)
    return tuple(checks)


def _discharges(board: BoardFacts) -> list[Check]:
    checks = []
    for store in stores_of(board):
        w = discharge.discharge(store.value, store.volts, BLEED).values
        how = (
            f"{show(BLEED, 'Ω')} across it: {store.volts:g} V falls to 10 V in {show(w['seconds'], 's')}, "
            f"{w['first_power']:.3g} W at first, {show(w['energy'], 'J')} stored."
        )
        caution = (
            "Unplugged, one hand, insulated resistor. Stored charge can kill; this is work for trained people, local codes come first."
            if store.volts > discharge.DANGEROUS
            else ""
        )
        checks.append(
            Check(
                key_of("cold.discharge", board.name, store.ref),
                "cold",
                "dc_volts",
                f"across {store.ref}",
                f"Discharged. {how}",
                low=-discharge.SAFE_TO_HANDLE,
                high=discharge.SAFE_TO_HANDLE,
                safety=True,
                board=board.name,
                caution=caution,
                why=discharge.SOURCE,
                aspect="discharge",
                reckoning="discharge",
                inputs=(("value", store.value), ("volts", store.volts), ("resistance", BLEED)),
            )
        )
    return checks


def _supply_checks(board: BoardFacts) -> list[Check]:
    if not board.supply:
        return []
    name, checks = board.name, []
    checks.append(
        Check(
            key_of("cold.cont", name, "plug"),
            "cold",
            "look",
            "plug, lead and switch",
            "Lead whole, earth pin to case under 2 Ω, switch opens the line. Unplugged.",
            safety=True,
            board=name,
            why="Local codes come first.",
        )
    )
    if board.fuse:
        checks.append(
            Check(
                key_of("cold.fuse.rating", name),
                "cold",
                "look",
                "fuse holder",
                f"The fuse fitted is {board.fuse}, as marked. Never a bigger one.",
                safety=True,
                board=name,
                why="A marked rating is always kept.",
            )
        )
        checks.append(
            Check(
                key_of("cold.fuse", name),
                "cold",
                "continuity",
                "fuse",
                "Across the fuse, leads subtracted.",
                high=CONTINUITY,
                safety=True,
                board=name,
                why="Continuity passes at 2 Ω less the leads.",
            )
        )
    return checks


def _polarity(board: BoardFacts) -> list[Check]:
    checks = []
    for part in board.parts:
        if part.ref in board.swapped and part.polar:
            mark = polarity_mark(part.kind, part.mounting, part.bipolar)
            checks.append(
                Check(
                    key_of("cold.polarity", board.name, part.ref),
                    "cold",
                    "look",
                    part.ref,
                    f"Polarity seen again: {mark.words}, against the board's print.",
                    safety=True,
                    board=board.name,
                    why="A part fitted backwards bursts.",
                )
            )
    return checks


def least_resistance(rail: Rail) -> float:
    """Under this a rail reads like a short, Ω: it would draw over twice its rated current; never under 2 Ω.

    >>> from idlebench.core.text.rails_and_chips import read_rail
    >>> least_resistance(read_rail('+12 V 0.5 A'))
    12.0
    """
    by_load = SHORT_SHARE * abs(rail.nominal) / rail.current if rail.current else 0.0
    return max(CONTINUITY, by_load)


def _rails_to_ground(board: BoardFacts, boards: Sequence[BoardFacts]) -> list[Check]:
    checks = []
    for rail in board.rails or fed_rails(boards):
        least = least_resistance(rail)
        why = (
            f"Half of V/I: a rail under it would draw over twice its {rail.current:g} A."
            if rail.current
            else "Over 2 Ω is no short."
        )
        checks.append(
            Check(
                key_of("cold.rail", board.name, rail.name),
                "cold",
                "resistance",
                f"{rail.name} to ground, {board.name}",
                "Black lead to ground. Wait until the reading stands still.",
                low=least,
                safety=True,
                board=board.name,
                rail=rail.name,
                why=why,
            )
        )
    return checks


def fed_rails(boards: Sequence[BoardFacts]) -> tuple[Rail, ...]:
    return tuple(rail for board in boards if board.supply for rail in board.rails)


def _pins(board: BoardFacts) -> list[Check]:
    checks = []
    for chip in board.chips:
        for pin in chip.pins:
            if pin.is_ not in ("ground", "supply"):
                continue
            to = "ground" if pin.is_ == "ground" else pin.rail
            checks.append(
                Check(
                    key_of("cold.pin", board.name, chip.ref, pin.number),
                    "cold",
                    "continuity",
                    f"{chip.ref} pin {pin.number} to {to}",
                    f"{chip.label or chip.ref}: from the pin itself, not its socket.",
                    high=CONTINUITY,
                    board=board.name,
                    why="Continuity passes at 2 Ω less the leads.",
                )
            )
    return checks
