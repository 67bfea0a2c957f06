"""What a fuse sees: the current that is drawn, and the pulse of charging an empty store.

Source: ∫i²dt of an RC charge: Horowitz and Hill, The Art of Electronics (2015), 1.4.2; IEC 60127-2:2014, clause 9, for what a fuse
carries; UL 248-14:2000 holds one at 110 % in open air only, so 75 %: workshop practice, because fuse makers ask for it; ISO 3:1973, the
R10 row.
"""

from __future__ import annotations

import math

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

#: Ratings that fuses are made in, A (R10).
RATINGS = (
    0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0,
)  # fmt: skip
#: What a fuse runs at, day and night, as a share of its rating, by its standard: one of IEC 60127-2:2014, clause 9,
#: carries its rating (and 1.5 times it for an hour), one of UL 248-14:2000 is rated by its melting at 1.35 times it, and runs at 75 %.
CARRIES = {"iec": 1.0, "ul": 0.75}
CARRIES_SOURCE = {
    "iec": "IEC 60127-2:2014, clause 9",
    "ul": "75 % of its rating: workshop practice, because UL 248-14:2000 holds a fuse at 110 % in open air only, and makers ask for it",
}
#: Share of a fuse's melting I²t that a pulse may have for it to live 10 000 switch-ons. Workshop practice, because no standard gives it:
#: the table of pulses that fuse makers share.
PULSES = 0.29
#: How far the mains may be over nominal, as a share: IEC 60038:2009, table 1.
HIGHEST = 1.1
TITLES = {"T": "time-lag", "F": "quick-acting"}
SOURCE = "∫i²dt = V²C/(2R) of charging a capacitor through a resistance: Horowitz and Hill, The Art of Electronics (2015), 1.4.2"
PULSES_SOURCE = (
    "workshop practice, because no standard gives it: 10 000 switch-ons, by the table of pulses that fuse makers share"
)


def inrush_i2t(volts: float, value: float, resistance: float) -> float:
    """∫i²dt of charging a store, A²s: V at the peak, F, Ω.

    >>> round(inrush_i2t(325, 220e-6, 10.6), 3)
    1.096
    """
    for name, number, unit in (("volts", volts, "V"), ("value", value, "F"), ("resistance", resistance, "Ω")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    return volts**2 * value / (2 * resistance)


def inrush(volts: float, value: float, resistance: float) -> Calculation:
    """The pulse of charging an empty store, with its lines."""
    i2t, peak = inrush_i2t(volts, value, resistance), volts / resistance
    lines = (
        CalculationLine(
            label="Peak current",
            formula="V ÷ R",
            numbers=f"{volts:g} ÷ {resistance:g}",
            value=peak,
            unit="A",
            source="Ohm's law",
        ),
        CalculationLine(
            label="Pulse",
            formula="V²C ÷ 2R",
            numbers=f"{volts:g}² · {show(value, 'F')} ÷ (2 · {resistance:g})",
            value=i2t,
            unit="A²s",
            source=SOURCE,
        ),
        CalculationLine(
            label="Melting I²t that stands 10 000 of them",
            formula="pulse ÷ 0.29",
            numbers=f"{i2t:.4g} ÷ {PULSES}",
            value=i2t / PULSES,
            unit="A²s",
            source=PULSES_SOURCE,
        ),
    )
    return Calculation(
        name="inrush",
        values={"i2t": i2t, "peak": peak, "melting_wanted": i2t / PULSES},
        lines=lines,
        cautions=(
            "A cold NTC resistor or the winding is what limits it: with the machine warm, the next switch-on is harder.",
        ),
        inputs={"volts": volts, "value": value, "resistance": resistance},
    )


def next_rating(current: float, standard: str = "iec") -> float:
    """The least rating that carries a current, A.

    Args:
        current: A.
        standard: a key of CARRIES.

    Returns:
        A, of the R10 row.

    Raises:
        BadInput: above the row, or no such standard.

    >>> next_rating(0.9), next_rating(0.9, 'ul')
    (1.0, 1.25)
    """
    if standard not in CARRIES:
        raise BadInput(standard, f"one of {', '.join(CARRIES)}", field="standard")
    carries = CARRIES[standard]
    found = next((r for r in RATINGS if r >= current / carries - 1e-12), None)
    if found is None:
        most = show(RATINGS[-1] * carries, "A")
        raise BadInput(show(current, "A"), f"up to {most}", "Such a circuit has a breaker.", field="power")
    return found


def fuse(
    power: float,
    efficiency: float,
    power_factor: float,
    mains_min: float,
    store: float = 0.0,
    resistance: float = 10.0,
    standard: str = "iec",
) -> Calculation:
    """The fuse that would stand in where the marking is missing.

    Args:
        power: W out. efficiency, power_factor: up to 1.
        efficiency: power out by power in, 0 to 1.
        power_factor: power by V·A, 0 to 1.
        mains_min: V rms, the lowest.
        store: F charged at switch-on, 0 for none.
        resistance: Ω that limits the pulse.
        standard: a key of CARRIES, whose fuse it is.

    Returns:
        Working with current (A at the lowest mains), rating (A), characteristic (T or F), i2t (A²s at the highest mains).


    Raises:
        BadInput: a share outside 0 to 1, or a number not above zero.
    """
    for name, share in (("efficiency", efficiency), ("power_factor", power_factor)):
        if not 0 < share <= 1:
            raise BadInput(f"{share:g}", "a share above 0, up to 1", field=name)
    for name, number, unit in (("power", power, "W"), ("mains_min", mains_min, "V")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    current = power / (efficiency * power_factor * mains_min)
    rating = next_rating(current, standard)
    highest = HIGHEST * mains_min / 0.9
    i2t = inrush_i2t(math.sqrt(2) * highest, store, resistance) if store else 0.0
    characteristic = "T" if store else "F"
    drawn = f"{power:g} ÷ ({efficiency:g} · {power_factor:g} · {mains_min:g})"
    pulse = f"(√2 · {highest:.4g})² · {show(store, 'F')} ÷ (2 · {resistance:g})"
    lines = [
        CalculationLine(
            label="Current at the lowest mains",
            formula="P ÷ (η · PF · V)",
            numbers=drawn,
            value=current,
            unit="A",
            source="power balance",
        ),
        CalculationLine(
            label=f"Rating, {characteristic} ({TITLES[characteristic]})",
            formula=f"≥ I ÷ {CARRIES[standard]:g}, from the R10 row",
            numbers=f"{current:.4g} ÷ {CARRIES[standard]:g}",
            value=rating,
            unit="A",
            source=CARRIES_SOURCE[standard],
        ),
    ]
    if store:
        lines += [
            CalculationLine(
                label="Pulse at switch-on, highest mains",
                formula="V²C ÷ 2R",
                numbers=pulse,
                value=i2t,
                unit="A²s",
                source=SOURCE,
            ),
            CalculationLine(
                label="Melting I²t wanted",
                formula="pulse ÷ 0.29",
                numbers=f"{i2t:.4g} ÷ {PULSES}",
                value=i2t / PULSES,
                unit="A²s",
                source=PULSES_SOURCE,
            ),
        ]
    cautions = (
        "A marked rating always stays. This figure only replaces a missing marking, and has to be "
        "checked against the circuit.",
        "Never a bigger fuse to stop it blowing: if a second fuse blows, the cause is not found yet.",
        "On the mains side: high breaking capacity, unless the makers marked low.",
    )
    return Calculation(
        name="fuse",
        values={"current": current, "rating": rating, "characteristic": characteristic, "i2t": i2t},
        lines=tuple(lines),
        cautions=cautions,
        inputs={
            "power": power,
            "efficiency": efficiency,
            "power_factor": power_factor,
            "mains_min": mains_min,
            "store": store,
            "resistance": resistance,
            "standard": standard,
        },
    )
