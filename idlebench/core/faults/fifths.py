"""How right the shares of suspects are: pooled in fifths, how often what was said to so many per cent was so.

Of shares near 70 % seven in ten should be right. The trials' figures stand beside the shop's own record.

Source: worked here from counts; an interval is that of Clopper and Pearson at 90 %, as in `figures`.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from .figures import interval

#: Where the fifths begin; and fewer shares than this are not judged.
EDGES, FEWEST = (0.0, 0.2, 0.4, 0.6, 0.8), 150


@dataclass(frozen=True, kw_only=True)
class Fifth:
    """Shares from low on, a fifth wide: how many were said, how many of them were right, and their mean."""

    low: float
    said: int
    right: int
    mean: float

    @property
    def share_right(self) -> float:
        return self.right / self.said if self.said else 0.0

    @property
    def off(self) -> float:
        """How far what was right lies from what was said, a share.

        >>> round(Fifth(low=0.6, said=200, right=150, mean=0.70).off, 2)
        0.05
        """
        return abs(self.share_right - self.mean)

    @property
    def between(self) -> tuple[float, float]:
        """Between what the true share lies."""
        return interval(self.right, self.said) if self.said else (0.0, 1.0)

    @property
    def range(self) -> str:
        """Which shares these are, in words."""
        return f"{100 * self.low:.0f} to {100 * self.low + 20:.0f} %"

    @property
    def words(self) -> str:
        """As people read it.

        >>> Fifth(low=0.6, said=200, right=150, mean=0.70).words
        '150 of 200'
        """
        return f"{self.right} of {self.said}" if self.said else "none yet"


def in_fifths(told: Iterable[tuple[float, bool]]) -> tuple[Fifth, ...]:
    """Shares pooled in fifths.

    Args:
        told: shares as they were said, 0 to 1, and whether each was right.

    Returns:
        All five, from the lowest.

    >>> [(one.low, one.said, one.right) for one in in_fifths([(0.05, False), (0.71, True), (1.0, True)]) if one.said]
    [(0.0, 1, 0), (0.6, 1, 1), (0.8, 1, 1)]
    """
    bins: list[list[tuple[float, bool]]] = [[] for _ in EDGES]
    for share, right in told:
        bins[min(int(share * len(EDGES) + 1e-9), len(EDGES) - 1)].append((share, right))
    return tuple(
        Fifth(
            low=low,
            said=len(inside),
            right=sum(right for _, right in inside),
            mean=sum(share for share, _ in inside) / len(inside) if inside else low + 0.1,
        )
        for low, inside in zip(EDGES, bins, strict=True)
    )
