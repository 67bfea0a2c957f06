"""Rails to ground before power: both ways, and what a sound board reads there.

Source: continuity, climbs and shorts: workshop practice, because a meter's leads and drive set them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..text.quantity import show
from ..text.rails_and_chips import Rail, is_on
from .checks import (
    BoardFacts,
    Check,
    key_of,
)
from .facts import NO_SHORT

#: Most resistance of a connection, Ω.
CONTINUITY = 2.0


#: A rail under this share of V/I reads like a short.
SHORT_SHARE = 0.5


def least_resistance(rail: Rail) -> float:
    """Under this a rail reads like a short, Ω: it would draw over twice its rated current; never under 2 Ω.

    >>> from idlebench.core.text.rails_and_chips import read_rail
    >>> least_resistance(read_rail('+12 V 0.5 A'))
    12.0
    """
    by_load = SHORT_SHARE * abs(rail.nominal) / rail.current if rail.current else 0.0
    return max(CONTINUITY, by_load)


#: A meter's ohms ranges drive about so much current into a store and end at so many volts: how long a reading climbs.
DRIVEN, DRIVEN_TO = 0.1e-3, 0.5


#: A climb of under so long is not worth a word, s.
CLIMB = 2.0


def climbs(board: BoardFacts, rail: Rail) -> float:
    """How long a reading of ohms climbs while the stores of a rail charge, s: C · 0.5 V ÷ 0.1 mA, as an order of size.

    >>> from idlebench.core.board.parts import Fitted
    >>> from idlebench.core.text.rails_and_chips import read_rail
    >>> climbs(BoardFacts(name='PS-1', parts=(Fitted(ref='C1', value=1e-3, volts=16.0, rail='+5 V'),)), read_rail('+5V'))
    5.0
    """
    return sum(p.value for p in board.parts if is_on(rail, p.rail)) * DRIVEN_TO / DRIVEN


#: A store in order passes at most 0.01·C·V: over its own volts that is 100 s ÷ C, Ω. Source: IEC 60384-4:2016, 4.9.
LEAK_SECONDS = 100.0


#: Under this much more than the least a rail may read, an end is not worth a word.
TELLING = 10.0


def ends_at(board: BoardFacts, rail: Rail) -> float:
    """What a rail reads at least once its stores are charged and nothing else stands on it, Ω; 0 where no store is listed on it.

    >>> from idlebench.core.board.parts import Fitted
    >>> from idlebench.core.text.rails_and_chips import read_rail
    >>> ends_at(BoardFacts(name='PS-1', parts=(Fitted(ref='C1', value=1e-3, volts=16.0, rail='+5 V'),)), read_rail('+5V'))
    100000.0
    """
    leaks = sum(p.value for p in board.parts if is_on(rail, p.rail) and p.kind in ("wet", "tantalum"))
    return LEAK_SECONDS / leaks if leaks else 0.0


def rails_to_ground(board: BoardFacts, boards: Sequence[BoardFacts]) -> list[Check]:
    """Every rail both ways: black lead to ground first, then the leads changed over."""
    # on a fed board a rail of one name is one net, whichever supply makes it
    rails = list({r.name: r for r in board.rails or fed_rails(boards)}.values())
    # AC reads the same both ways
    direct = [rail for rail in rails if not rail.ac]
    return [*_one_way(board, boards, rails), *(_other_way(check) for check in _one_way(board, boards, direct))]


#: Said of the way in which the junctions between a rail and ground conduct: red on ground, on a negative rail red on the rail.
CONDUCT = (
    " Chips conduct like diodes this way and read lower: that is not a fault. On the diode range "
    "type the volts, such as 0.45 V: over 0.2 V is a junction, not a short."
)


def _other_way(check: Check) -> Check:
    """The same rail with the leads changed over: chips conduct like diodes this way."""
    return replace(
        check,
        key=check.key.replace("cold.rail", "cold.back", 1),
        names=tuple(name.replace("cold.rail", "cold.back", 1) for name in check.names),
        point=f"ground to {check.rail}, {check.board}",
        ask="Leads swapped: red to ground." + ("" if check.rail.startswith("−") else CONDUCT),
        why=f"{check.why} A short reads the same both ways.",
    )


def _one_way(board: BoardFacts, boards: Sequence[BoardFacts], rails: Sequence[Rail]) -> list[Check]:
    checks = []
    for rail in rails:
        climb = climbs(board, rail)
        climbing = (
            f" Its capacitors charge: expect the reading to climb for about {show(climb, 's', 1)}."
            if climb >= CLIMB
            else ""
        )
        least = least_resistance(rail)
        ends = ends_at(board, rail)
        if ends > TELLING * least:
            climbing += (
                f" Its capacitors alone end over {show(ends, 'Ω', 1)}; chips and regulators bring it to some "
                "hundred ohms or more."
            )
        why = (
            f"Half of V/I: a rail below that would draw over twice its {rail.current:g} A."
            if rail.current
            else "Over 2 Ω is not a short."
        )
        checks.append(
            Check(
                key=key_of("cold.rail", board.id, rail.name),
                step="cold",
                kind="resistance",
                point=f"{rail.name} to ground, {board.name}",
                ask=f"Black lead to ground. Wait until the reading is steady.{climbing}{CONDUCT if rail.nominal < 0 else ''}",
                low=least,
                safety=True,
                board=board.name,
                rail=rail.name,
                why=why,
                fact=NO_SHORT,
                names=(key_of("cold.rail", board.name, rail.name),),
                rows=frozenset({board.id}),
                # a rail reaches every board that is plugged to it
                boards=frozenset(b.id for b in boards),
                of=(("rail", rail.as_line()),),
            )
        )
    return checks


def fed_rails(boards: Sequence[BoardFacts]) -> tuple[Rail, ...]:
    """The rails of all supplies of a unit."""
    return tuple(rail for board in boards if board.supply for rail in board.rails)
