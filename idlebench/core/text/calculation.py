"""The arithmetic that a result carries with it, so that a person can follow it and disagree."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any

from .quantity import show


@dataclass(frozen=True, kw_only=True)
class CalculationLine:
    """One step of arithmetic.

    Attributes:
        label: what it is, in words.
        formula: the formula in symbols.
        numbers: the formula with the numbers put in.
        value: the result in SI, or a text where it is one.
        unit: its unit.
        source: where the rule comes from.
    """

    label: str
    formula: str
    numbers: str
    value: float | str | None
    unit: str = ""
    source: str = ""

    @property
    def shown(self) -> str:
        """The result as people read it."""
        return self.value if isinstance(self.value, str) else show(self.value, self.unit)


@dataclass(frozen=True, kw_only=True)
class Calculation:
    """A named result with the lines that led to it.

    Attributes:
        name: the reckoning's name.
        values: the results by key, SI.
        lines: the arithmetic, in order.
        cautions: what to be careful about, in words.
        inputs: what went in, SI.
    """

    name: str
    values: dict[str, Any]
    lines: tuple[CalculationLine, ...] = ()
    cautions: tuple[str, ...] = ()
    inputs: dict[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """The shape that the command line prints."""
        return {
            "name": self.name,
            "inputs": self.inputs,
            "values": self.values,
            "working": [asdict(line) for line in self.lines],
            "cautions": list(self.cautions),
        }
