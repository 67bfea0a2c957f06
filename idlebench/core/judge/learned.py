"""The shop's own minutes for a swap, learned from dab to dab. Source: a median, so that one long place does not tell for all."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median

#: A gap of more than this is a pause, s; one of less than this was logged together with the one before it.
PAUSE, TOGETHER = 20 * 60.0, 5.0
#: From so many on the shop's own minutes count.
LEAST = 5


@dataclass(frozen=True)
class Learned:
    """How long a kind of place takes: minutes, the median of so many."""

    minutes: float
    of: int

    @property
    def words(self) -> str:
        """Minutes and seconds, and on how many they rest.

        >>> Learned(3.17, 14).words
        '3 min 10 s, the median of 14'
        """
        whole, rest = divmod(round(self.minutes * 60), 60)
        return f"{whole} min {rest} s, the median of {self.of}" if whole else f"{rest} s, the median of {self.of}"


def learned(swap_marks: Iterable[tuple[float, str, int]]) -> dict[str, Learned]:
    """Minutes by kind of place, from dab to dab on one machine; pauses are left out.

    Args:
        swap_marks: each with its time in s on any clock, the kind of place, and the machine it was on.

    Returns:
        Minutes and how many they rest on, by kind of place.

    >>> learned([(i * 200.0, 'radial', 1) for i in range(6)])['radial'].of
    5
    """
    gaps: dict[str, list[float]] = {}
    before: dict[int, float] = {}
    for at, kind, unit in sorted(swap_marks):
        gap = at - before.get(unit, at)
        before[unit] = at
        if TOGETHER <= gap <= PAUSE:
            gaps.setdefault(kind, []).append(gap / 60)
    return {kind: Learned(median(found), len(found)) for kind, found in gaps.items() if len(found) >= LEAST}
