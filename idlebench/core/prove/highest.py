"""What rails would stand at on the highest mains, before a board meets them: read on a variable transformer, else foreseen by the model.

Source: mains of ±10 %: IEC 60038:2009, table 1. The limits are the rail's own, and what its chips stand at the most where that is typed.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..refusal import Block
from ..text.quantity import show
from ..text.rails_and_chips import Rail

#: The highest mains, as a share of nominal.
HIGHEST = 1.1


@dataclass(frozen=True)
class HighRail:
    """A rail as it was read, V, and as it would stand on the highest mains by its supply's model, V at mains V."""

    rail: Rail
    read: float
    high: float
    mains: float

    @property
    def limit(self) -> float:
        """The most it may stand at, by size, V."""
        band = abs(self.rail.nominal) * (1 + self.rail.tolerance)
        return min(band, self.rail.most) if self.rail.most else band

    @property
    def over(self) -> bool:
        return abs(self.high) > self.limit * 1.0001

    @property
    def words(self) -> str:
        """It in a sentence: it was foreseen, and not read."""
        return (
            f"{self.rail.name} read {show(self.read, 'V')}. At {self.mains:.0f} V mains it would be "
            f"{show(self.high, 'V', 4)}, calculated from today's reading; at most {show(self.limit, 'V')} is "
            "allowed."
        )


def over_volts(rails: Iterable[HighRail], typed: Iterable[Rail]) -> tuple[Block, ...]:
    """Why no board is fed yet: a rail that would leave its band on the highest mains, or whose clamp acts above what its chips stand.

    Args:
        rails: as foreseen, none where they were read there or no model is.
        typed: all rails of the supplies.

    Returns:
        Each reason against it, none where all rails stay in their band.
    """
    found = [
        Block(
            "over voltage",
            one.words,
            "Find what lets the rail rise before a board is connected: feedback, regulator, or the mains tap.",
        )
        for one in rails
        if one.over
    ]
    found += [
        Block(
            "clamp",
            f"The crowbar or clamp of {rail.name} acts at {show(rail.clamp, 'V')}, and its chips withstand "
            f"{show(rail.most, 'V')}.",
            "The crowbar protects nothing: connect another board first, or correct the rail at Intake.",
        )
        for rail in typed
        if rail.clamp and rail.most and rail.clamp > rail.most
    ]
    return tuple(found)
