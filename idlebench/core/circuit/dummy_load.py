"""A resistor to load a supply with before anything dear is connected.

Source: Horowitz and Hill, The Art of Electronics (2015), 1.2.2; E24: IEC 60063:2015, table 1; 0.6 of the rating: workshop practice,
because a resistor at its full rating is at 200 °C and more.
"""

from __future__ import annotations

import eseries

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

#: Power ratings that resistors are sold in, W.
RATINGS = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 17.0, 25.0, 50.0, 100.0, 200.0)
#: The most of its rating a resistor should run at.
DERATING = 0.6
SOURCE = "Ohm's law; E24 row of IEC 60063:2015, table 1; 0.6 of the rating: workshop practice, because a full one burns hands"


def dummy_load(volts: float, current: float) -> Calculation:
    """The E24 resistor that draws at least a current from a rail, and the rating it wants.

    Args:
        volts: V of the rail (its sign does not matter).
        current: A, the rail's minimum.

    Returns:
        Working with resistance (Ω), power (W), rating (W).


    Raises:
        BadInput: volts or current of zero, or a load past the greatest resistor sold.

    >>> dummy_load(5, 0.5).values
    {'resistance': 10.0, 'power': 2.5, 'rating': 5.0}
    """
    volts = abs(volts)
    if not volts > 0:
        raise BadInput(show(volts, "V"), "a rail above zero volts", field="volts")
    if not current > 0:
        raise BadInput(show(current, "A"), "a current above zero", field="current")
    exact = volts / current
    resistance = float(eseries.find_less_than_or_equal(eseries.E24, exact * (1 + 1e-9)))
    power = volts**2 / resistance
    needed = power / DERATING
    rating = next((r for r in RATINGS if r >= needed * (1 - 1e-9)), None)
    if rating is None:
        raise BadInput(
            show(current, "A"),
            f"a load under {show(RATINGS[-1] * DERATING / volts, 'A')} at {show(volts, 'V')}",
            "Share the load among several resistors.",
            field="current",
        )
    lines = (
        CalculationLine(
            label="Resistance that draws it",
            formula="R = V/I",
            numbers=f"{volts:g} ÷ {current:g}",
            value=exact,
            unit="Ω",
            source=SOURCE,
        ),
        CalculationLine(
            label="Next value down in E24",
            formula="draws at least the minimum",
            numbers=f"≤ {show(exact, 'Ω')}",
            value=resistance,
            unit="Ω",
            source=SOURCE,
        ),
        CalculationLine(
            label="Power",
            formula="P = V²/R",
            numbers=f"{volts:g}² ÷ {resistance:g}",
            value=power,
            unit="W",
            source=SOURCE,
        ),
        CalculationLine(
            label="Rating",
            formula="P ÷ 0.6, next size sold",
            numbers=f"{power:.3g} ÷ 0.6 = {needed:.3g}",
            value=rating,
            unit="W",
            source=SOURCE,
        ),
    )
    cautions = [
        "It runs hot: stand it clear of the bench and of cables.",
        "A filament lamp is no steady load: cold it has a tenth of its hot resistance.",
    ]
    return Calculation(
        name="dummy_load",
        values={"resistance": resistance, "power": power, "rating": rating},
        lines=lines,
        cautions=tuple(cautions),
        inputs={"volts": volts, "current": current},
    )
