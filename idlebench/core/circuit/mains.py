"""What the mains drives through a capacitor to earth.

Source: Horowitz and Hill, The Art of Electronics (2015), 1.7; limits: each names its standard beside it.
"""

from __future__ import annotations

import math

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

#: Touch current limits, A: of metal that no earth is joined to, of hand-held and of other earthed equipment, and of class ES1.
UNEARTHED, HAND_HELD, EARTHED, ES1 = 0.25e-3, 0.75e-3, 3.5e-3, 0.5e-3
LIMITS = (
    ("unearthed metal", UNEARTHED, "IEC 60950-1:2005, table 5A"),
    ("hand-held, earthed", HAND_HELD, "IEC 60950-1:2005, table 5A"),
    ("other earthed equipment", EARTHED, "IEC 60950-1:2005, table 5A"),
    ("class ES1", ES1, "IEC 62368-1:2018, table 4"),
)
#: The mains may be over nominal by this share (IEC 60038:2009, table 1), a part over its marking by that (letter M of IEC 60062:2016,
#: clause 5).
HIGHEST, TOLERANCE = 0.1, 0.2
SOURCE = "2πfCV of a capacitance on a sine: Horowitz and Hill, The Art of Electronics (2015), 1.7"


def earth_leakage(
    value: float, mains: float = 230.0, frequency: float = 50.0, tolerance: float = TOLERANCE
) -> Calculation:
    """Current that a line-to-earth part passes, as marked and at the worst.

    Args:
        value: F, all parts from line to earth together.
        mains: V rms.
        frequency: Hz.
        tolerance: how far the parts may be over their marking, as a share.

    Returns:
        Working with current (A, nominal) and current_worst (A, at the highest mains and the upper tolerance).


    Raises:
        BadInput: a number that is not above zero, or a tolerance that no part has.

    >>> [round(1e6 * amps) for amps in earth_leakage(4.7e-9).values.values()]
    [340, 448]
    """
    if not 0 <= tolerance <= 1:
        raise BadInput(f"{tolerance:g}", "a share from 0 to 1", field="tolerance")
    for name, number, unit in (("value", value, "F"), ("mains", mains, "V"), ("frequency", frequency, "Hz")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    current = 2 * math.pi * frequency * value * mains
    worst = current * (1 + HIGHEST) * (1 + tolerance)
    drawn = f"2π · {frequency:g} · {show(value, 'F')} · {mains:g}"
    lines = (
        CalculationLine(
            label="Current to earth", formula="I = 2πfCV", numbers=drawn, value=current, unit="A", source=SOURCE
        ),
        CalculationLine(
            label="At the highest mains and upper tolerance",
            formula="I · 1.1 · (1 + tolerance)",
            numbers=f"{current:.4g} · 1.1 · {1 + tolerance:g}",
            value=worst,
            unit="A",
            source="IEC 60038:2009, table 1; IEC 60062:2016, clause 5",
        ),
        *(
            CalculationLine(
                label=f"Limit, {title}",
                formula="touch current",
                numbers=show(limit, "A"),
                value=limit,
                unit="A",
                source=source,
            )
            for title, limit, source in LIMITS
        ),
    )
    cautions = ["Only class Y parts may be fitted from line to earth. Prove the earth lead before use."]
    over = [title for title, limit, _ in sorted(LIMITS, key=lambda one: one[1]) if worst > limit]
    if worst > EARTHED:
        cautions.insert(
            0,
            f"{show(worst, 'A')} at the worst is above the limit even for earthed equipment: a smaller value is wanted.",
        )
    elif over:
        cautions.insert(0, f"{show(worst, 'A')} at the worst is above the limit of {', '.join(over)}.")
    return Calculation(
        name="earth_leakage",
        values={"current": current, "current_worst": worst},
        lines=lines,
        cautions=tuple(cautions),
        inputs={"value": value, "mains": mains, "frequency": frequency, "tolerance": tolerance},
    )
