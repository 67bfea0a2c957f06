"""Where a coupling capacitor begins to cut the low end."""

from __future__ import annotations

import math

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

SOURCE = "First-order high-pass, −3 dB: Horowitz and Hill, The Art of Electronics (2015), 1.7"


def corner(value: float, resistance: float) -> Calculation:
    """Corner frequency 1/(2πRC), Hz, of a value (F) into a resistance (Ω).

    >>> round(corner(4.7e-6, 10e3).values['frequency'], 2)
    3.39
    """
    for name, number, unit in (("value", value, "F"), ("resistance", resistance, "Ω")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    frequency = 1 / (2 * math.pi * resistance * value)
    lines = (
        CalculationLine(
            label="Corner",
            formula="f = 1/(2πRC)",
            numbers=f"1 ÷ (2π · {show(resistance, 'Ω')} · {show(value, 'F')})",
            value=frequency,
            unit="Hz",
            source=SOURCE,
        ),
    )
    return Calculation(
        name="corner",
        values={"frequency": frequency},
        lines=lines,
        cautions=("A smaller value moves the corner up and thins the sound.",),
        inputs={"value": value, "resistance": resistance},
    )
