"""The time that a resistor and a capacitor make.

Source: charging through a resistance: Horowitz and Hill, The Art of Electronics (2015), 1.4.2; k is ln of the ratio that the circuit
switches at.
"""

from __future__ import annotations

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show


def timing(value: float, resistance: float, k: float = 1.1, old_value: float = 0.0) -> Calculation:
    """Time k·R·C, s; old_value: F that stood there, to show how the time moves (0 for none).

    >>> round(timing(10e-6, 47e3).values['seconds'], 3)
    0.517
    """
    for name, number, unit in (("value", value, "F"), ("resistance", resistance, "Ω"), ("k", k, "")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    seconds = k * resistance * value
    lines = [
        CalculationLine(
            label="Time",
            formula="k · R · C",
            numbers=f"{k:g} · {show(resistance, 'Ω')} · {show(value, 'F')}",
            value=seconds,
            unit="s",
            source="RC charge",
        )
    ]
    values = {"seconds": seconds}
    if old_value > 0:
        values["change"] = value / old_value - 1
        lines.append(
            CalculationLine(label="Against the old part", formula="C ÷ C₀ − 1", numbers=f"{show(value, 'F')} ÷ {show(old_value, 'F')} − 1",
                 value=f"{values['change'] * 100:+.1f} %".replace("-", "−"), unit="", source="same resistor")
        )  # fmt: skip
    return Calculation(
        name="timing", values=values, lines=tuple(lines), cautions=("A leaky part in a timing place makes it late, or never.",),
        inputs={"value": value, "resistance": resistance, "k": k, "old_value": old_value},
    )  # fmt: skip
