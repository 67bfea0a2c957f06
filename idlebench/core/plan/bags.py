"""A bag for a board: what goes into it, pocket by pocket, and what is wrong with it at the board.

Source: workshop practice, because boards get mixed up.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Pocket:
    """A pocket: its number from 1, the part in it, and the places it is for."""

    number: int
    part: str
    refs: tuple[str, ...]

    @property
    def pieces(self) -> int:
        return len(self.refs)

    @property
    def words(self) -> str:
        """As it stands on the label."""
        return f"{self.number}  {self.pieces} × {self.part}: {' '.join(self.refs)}"


def pockets(places: Iterable[tuple[str, str, float]]) -> tuple[Pocket, ...]:
    """What goes into a bag: one kind a pocket, sorted by value.

    Args:
        places: reference, part and value in F of each place whose piece lies here.

    Returns:
        The pockets, by value.

    >>> [p.words for p in pockets([('C2', 'B', 1e-4), ('C1', 'A', 1e-5), ('C3', 'B', 1e-4)])]
    ['1  1 × A: C1', '2  2 × B: C2 C3']
    """
    kinds: dict[str, tuple[float, list[str]]] = {}
    for ref, part, value in places:
        kinds.setdefault(part, (value, []))[1].append(ref)
    ordered = sorted(kinds.items(), key=lambda kind: (kind[1][0], kind[0]))
    return tuple(Pocket(i, part, tuple(refs)) for i, (part, (_, refs)) in enumerate(ordered, 1))


@dataclass(frozen=True)
class BagPlace:
    """A place of a bag held against the board: done once it is swapped, odd where the board asks another part now."""

    pocket: Pocket
    ref: str
    done: bool
    odd: str = ""


def held(bag: Sequence[Pocket], asked: Mapping[str, str], done: Iterable[str]) -> tuple[BagPlace, ...]:
    """A bag checked off at its board.

    Args:
        bag: pockets of the bag.
        asked: what each place takes now, by reference.
        done: references of places that are swapped.

    Returns:
        Each place with what lies for it.
    """
    swapped = set(done)
    found = []
    for pocket in bag:
        for ref in pocket.refs:
            now = asked.get(ref, "")
            odd = "" if ref in swapped or now == pocket.part else f"{ref} uses {now or 'nothing'} now"
            found.append(BagPlace(pocket, ref, ref in swapped, odd))
    return tuple(found)


def missing(bag: Sequence[Pocket], asked: Mapping[str, str], done: Iterable[str]) -> tuple[str, ...]:
    """Places of the board that wait for a part and are not in the bag."""
    inside = {ref for pocket in bag for ref in pocket.refs}
    return tuple(ref for ref in asked if ref not in inside and ref not in set(done))
