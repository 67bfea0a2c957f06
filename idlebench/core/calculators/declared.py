"""What a reckoning is declared by: its inputs, its function, its curve.

Source: each line of a reckoning names its own.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ..refusal import BadInput
from ..text.calculation import Calculation
from ..text.quantity import read, show


@dataclass(frozen=True, kw_only=True)
class Input:
    """A typed input. unit "" with options or text=True is a word; whole asks a whole number."""

    name: str
    label: str
    default: str
    unit: str = ""
    help: str = ""
    options: tuple[str, ...] = ()
    text: bool = False
    whole: bool = False
    low: float | None = None
    high: float | None = None

    @property
    def shown(self) -> str:
        """The default as people read it."""
        value = self.take(self.default)
        if isinstance(value, str):
            return value or "not known"
        return show(value, self.unit)

    def take(self, text: str) -> float | int | str:
        """Read the typed text.

        Args:
            text: as it was typed.

        Returns:
            A number in SI, a whole number, or the text.

        Raises:
            BadInput: naming this input.
        """
        if self.options:
            if text not in self.options:
                raise BadInput(text, f"one of {', '.join(o or '(empty)' for o in self.options)}", field=self.name)
            return text
        if self.text:
            return text
        value = read(text, self.unit, field=self.name, low=self.low, high=self.high)
        if not self.whole:
            return value
        if value != int(value):
            raise BadInput(text, "a whole number", field=self.name)
        return int(value)


#: How many points a curve of a reckoning has.
CURVE_POINTS = 25


@dataclass(frozen=True)
class Curve:
    """How a reckoning's value moves with one input: its label and unit, points (input, value) in SI, and where the input stands."""

    label: str
    unit: str
    points: tuple[tuple[float, float], ...]
    at: float


@dataclass(frozen=True, kw_only=True)
class Reckoning:
    """A named piece of arithmetic with its inputs. result: the value shown large, with its unit. slow: whether a supply is simulated
    for it, so that no curve of it is drawn while somebody types."""

    name: str
    title: str
    about: str
    inputs: tuple[Input, ...]
    function: Callable[..., Calculation]
    result: str
    result_unit: str
    slow: bool = False

    def defaults(self) -> dict[str, str]:
        return {i.name: i.default for i in self.inputs}

    def headline(self, working: Calculation) -> str:
        """What the value shown large is called: the label of the line of the working that it is the value of."""
        value = working.values[self.result]
        return next((line.label for line in reversed(working.lines) if line.value == value), self.title)

    def curve(self, typed: Mapping[str, str]) -> Curve | None:
        """The value shown large over a number of the inputs, from a quarter of what it is to four times as much.

        The input is the first that is a number above zero and moves the value; None where there is none. Places of it at which
        nothing can be reckoned are left out.
        """
        if self.slow:
            return None
        taken = {i.name: i.take(typed.get(i.name, i.default)) for i in self.inputs}
        for one in self.inputs:
            at = taken[one.name]
            if one.whole or not isinstance(at, float) or at <= 0:
                continue
            points = []
            for n in range(CURVE_POINTS):
                x = at * 16 ** (n / (CURVE_POINTS - 1) - 0.5)
                try:
                    y = self.function(**{**taken, one.name: x}).values[self.result]
                except BadInput:
                    continue
                if isinstance(y, int | float) and math.isfinite(y):
                    points.append((x, float(y)))
            if len(points) > 4 and len({round(y, 12) for _, y in points}) > 1:
                return Curve(one.label, one.unit, tuple(points), at)
        return None

    def run(self, typed: Mapping[str, str]) -> Calculation:
        """Reckon from typed inputs; those left out take their default.

        Args:
            typed: as it was typed.

        Returns:
            Its values, and the lines that show how they come about.

        Raises:
            BadInput: an unknown input, or one that cannot be read; the field names it.
        """
        known = {i.name: i for i in self.inputs}
        for name in typed:
            if name not in known:
                raise BadInput(name, f"one of the inputs {', '.join(known)}", field=name)
        return self.function(**{name: i.take(typed.get(name, i.default)) for name, i in known.items()})


VALUE = Input(name="value", label="Value", default="220u", unit="F", help="marked value", low=1e-13, high=10)
VOLTS = Input(name="volts", label="Volts", default="325", unit="V", help="what it is charged to", low=0, high=1e6)
