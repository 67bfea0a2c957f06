"""What the mains drives through a capacitor to earth."""

from __future__ import annotations

import math

from ..refusal import BadInput
from ..text.quantity import show
from ..working import Line, Working

#: Touch current limits, A (IEC 60990 and product standards practice).
HAND_HELD = 0.5e-3
EARTHED = 3.5e-3
SOURCE = "2πfCV; touch current limits as in IEC 60990 practice"


def earth_leakage(value: float, mains: float = 230.0, frequency: float = 50.0) -> Working:
    """Current that a line-to-earth part passes.

    Args:
        value: F, all parts from line to earth together. mains: V rms. frequency: Hz.

    >>> round(earth_leakage(4.7e-9).values['current'] * 1e3, 3)
    0.34
    """
    for name, number, unit in (("value", value, "F"), ("mains", mains, "V"), ("frequency", frequency, "Hz")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", "", name)
    current = 2 * math.pi * frequency * value * mains
    lines = (
        Line(
            "Current to earth",
            "I = 2πfCV",
            f"2π · {frequency:g} · {show(value, 'F')} · {mains:g}",
            current,
            "A",
            SOURCE,
        ),
        Line("Limit, hand-held", "touch current", "0.5 mA", HAND_HELD, "A", SOURCE),
        Line("Limit, earthed class I", "touch current", "3.5 mA", EARTHED, "A", SOURCE),
    )
    cautions = ["Only class Y parts may stand from line to earth. The earth lead must be proven before use."]
    if current > EARTHED:
        cautions.insert(
            0, f"{show(current, 'A')} is above the limit even for earthed equipment: a smaller value is wanted."
        )
    elif current > HAND_HELD:
        cautions.insert(0, f"{show(current, 'A')} is above 0.5 mA: only for earthed class I equipment.")
    return Working(
        "earth_leakage",
        {"current": current},
        lines,
        tuple(cautions),
        {"value": value, "mains": mains, "frequency": frequency},
    )
