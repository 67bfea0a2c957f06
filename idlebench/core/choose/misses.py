"""Where nothing goes in: by how much the nearest part misses, and what hands can do about it."""

from __future__ import annotations

from dataclasses import dataclass

from .rank import Candidate, Ranking
from .rules import FAILS

#: Rules that are about room: hands may find a way.
OF_ROOM = {"diameter": "width", "height": "height", "pitch": "lead pitch"}


@dataclass(frozen=True)
class Miss:
    """The nearest part that does not go in for want of room. by: mm. what: of what. ways: what may be done, in words."""

    part: str
    by: float
    what: str
    ways: tuple[str, ...]

    @property
    def words(self) -> str:
        return f"The nearest, {self.part}, misses by {self.by:.1f} mm of {self.what}"


def nearest_miss(ranking: Ranking) -> Miss | None:
    """The nearest part that room alone refuses; None where something goes in, or more than room is in the way.

    Args:
        ranking: what a search gave for a place.

    Returns:
        The miss with ways round it.
    """
    if ranking.best is not None:
        return None
    found = [(over, what, c) for c in ranking.candidates if (miss := _by_room(c)) for over, what in [miss]]
    if not found:
        return None
    over, what, nearest = min(found, key=lambda one: one[0])
    return Miss(nearest.part.part, over, what, _ways(ranking, nearest, what))


def _by_room(candidate: Candidate) -> tuple[float, str] | None:
    """How much room a part wants that is refused for that alone: the most of it, mm, and of what."""
    failed = [r for r in candidate.reasons if r.status == FAILS]
    if not failed or any(r.rule not in OF_ROOM or r.value is None or r.limit is None for r in failed):
        return None
    over, rule = max((abs(r.value - r.limit), r.rule) for r in failed)
    return over, OF_ROOM[rule]


def _ways(ranking: Ranking, nearest: Candidate, what: str) -> tuple[str, ...]:
    part, old = nearest.part, ranking.need.old
    ways = []
    if what == "height" and part.mounting == "radial":
        ways.append(f"lay it flat, where {part.height:g} × {part.diameter:g} mm are free beside the place")
    if what == "lead pitch":
        ways.append("bend its leads to the holes, in sleeves where they cross anything")
    if what == "width":
        ways.append("stand it on longer leads above its neighbours, in a sleeve, or beside the place on wires")
    if not old.room_height and not old.room_diameter:
        ways.append("measure the room: it was guessed by the old part's size")
    ways.append("put a part of another series on the Shelf, lower or narrower")
    return tuple(ways)
