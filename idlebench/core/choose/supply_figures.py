"""What a supply model gives: a figure with its limit, what a place is told, and a branch with both."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..circuit.supply import Settled
from ..circuit.supply_lines import Branch
from ..text.calculation import CalculationLine
from ..text.quantity import show


@dataclass(frozen=True, kw_only=True)
class Figure:
    """A figure of a supply with the old parts as they are and with the chosen ones; better: whether less or more is better.

    limit: what it is held against, None where there is none; bad: whether the new one misses it. say: what to do about it.
    """

    name: str
    unit: str
    before: float
    after: float
    limit: float | None = None
    at_least: bool = True
    say: str = ""
    source: str = ""

    @property
    def bad(self) -> bool:
        if self.limit is None:
            return False
        return self.after < self.limit - 1e-12 if self.at_least else self.after > self.limit + 1e-12

    def line(self) -> CalculationLine:
        """The figure as a line of working."""
        return CalculationLine(
            label=self.name,
            formula=self.source,
            numbers=f"before {show(self.before, self.unit)}",
            value=self.after,
            unit=self.unit,
            source=self.source,
        )


@dataclass(frozen=True, kw_only=True)
class PlaceFacts:
    """What the supply tells a store's place: worst volts, ripple A at Hz, the words for where they came
    from, and the rail it serves."""

    volts: float
    ripple: float
    frequency: float
    said: tuple[str, ...]
    rail: str = ""


@dataclass(frozen=True, kw_only=True)
class BranchState:
    """A branch reckoned: nominal before and after, its figures, what its places are told, and what cannot work."""

    branch: Branch
    before: Settled
    after: Settled
    figures: tuple[Figure, ...]
    places: dict[str, PlaceFacts] = field(default_factory=dict)

    @property
    def moved(self) -> tuple[Figure, ...]:
        """The figures that the chosen parts move by a hundredth or more."""
        return tuple(f for f in self.figures if abs(f.after - f.before) > 0.01 * max(abs(f.before), 1e-12))

    @property
    def troubles(self) -> tuple[Figure, ...]:
        return tuple(f for f in self.figures if f.bad)
