"""How capacitors age and what they may carry: ESR when new, leakage, life, ripple by frequency.

Source: SOURCE_ESR and SOURCE_LIFE; leakage: IEC 60384-4:2016, 4.9; ESR at 100 kHz and ripple by frequency: workshop practice, because
IEC 60384-4:2016, 2.2, leaves them to each series: the tables that makers share; 15 years: workshop practice, because seals age whatever
the hours say.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

#: tan δ at 120 Hz, 20 °C by rated volts (workshop practice, because IEC 60384-4:2016, 2.2, leaves it to each series: the table
#: that makers share); a rating between two rows takes the lower row.
TAN_DELTA = (
    (6.3, 0.22),
    (10, 0.19),
    (16, 0.16),
    (25, 0.14),
    (35, 0.12),
    (50, 0.10),
    (63, 0.09),
    (100, 0.08),
    (160, 0.20),
    (350, 0.24),
)

#: ESR at 100 kHz as a share of that at 120 Hz, the upper end of what is usual.
SHARE_100K = {"general": 0.5, "low_impedance": 0.2}

#: Longest life that is ever claimed, h (15 years).
LIFE_CAP = 131_400.0

#: Ripple multipliers over log frequency. Low-impedance series: 1 at 100 kHz, by value up to (µF); general: 1 at 120 Hz.
LOW_IMPEDANCE_RIPPLE = (
    (180e-6, (0.40, 0.75, 0.90, 1.0)),
    (560e-6, (0.50, 0.85, 0.94, 1.0)),
    (1800e-6, (0.60, 0.87, 0.95, 1.0)),
    (3900e-6, (0.75, 0.90, 0.95, 1.0)),
    (math.inf, (0.85, 0.95, 0.98, 1.0)),
)
_LOW_IMPEDANCE_AT = (120.0, 1e3, 10e3, 100e3)
GENERAL_RIPPLE = ((50.0, 0.8), (120.0, 1.0), (300.0, 1.1), (1e3, 1.3), (10e3, 1.5))

SOURCE_ESR = "tan δ: workshop practice, because IEC 60384-4:2016 leaves it to each series: the table that makers share"
SOURCE_LIFE = "Ten-degree (Arrhenius) rule with ripple heating, worked here from L₀·2^((T₀−T)/10)"


def tan_delta(value: float, volts: float) -> float:
    """Dissipation factor at 120 Hz of a new wet part.

    Source: as SOURCE_ESR; + 0.02 for each further 1000 µF or part of it above 1000 µF.

    Args:
        value: F.
        volts: V rated.

    Returns:
        0 to 1.

    >>> round(tan_delta(4700e-6, 25), 3)
    0.22
    """
    base = TAN_DELTA[0][1]
    for rating, tangent in TAN_DELTA:
        if volts >= rating - 1e-9:
            base = tangent
    further = math.ceil(round((value - 1000e-6) / 1000e-6, 9))
    return base + 0.02 * max(0, further)


def frequency_share(frequency: float | np.ndarray, low_impedance: bool | np.ndarray = False) -> float | np.ndarray:
    """ESR of a wet part at a frequency (Hz) as a share of that at 120 Hz: 1 up to 120 Hz, falling in log f to 100 kHz, flat
    above; works on arrays.

    >>> frequency_share(120), frequency_share(100e3), frequency_share(100e3, True)
    (1.0, 0.5, 0.2)
    """
    end = np.where(low_impedance, SHARE_100K["low_impedance"], SHARE_100K["general"])
    gone = np.interp(np.log10(frequency), np.log10([120.0, 100e3]), [0.0, 1.0])
    share = (1 - gone) + end * gone
    return float(share) if np.ndim(share) == 0 else share


def esr_at(esr: float, read_at: float, wanted: float, low_impedance: bool = False) -> float:
    """A wet part's ESR (Ω) read at one frequency (Hz), as it is at another, by its own kind of series.

    0.13 Ω at 100 kHz of a low-impedance part is 0.65 Ω at 120 Hz, of a general one 0.26 Ω.

    >>> round(esr_at(0.13, 100e3, 120, True), 4), round(esr_at(0.13, 100e3, 120), 4)
    (0.65, 0.26)
    """
    return esr * frequency_share(wanted, low_impedance) / frequency_share(read_at, low_impedance)


def new_esr(value: float, volts: float, frequency: float = 120.0, low_impedance: bool = False) -> float:
    """The most a new wet part of this value and rating may read, Ω at a frequency (Hz).

    Args:
        value: the value, in SI.
        volts: V.
        frequency: Hz.
        low_impedance: whether it is of a low-impedance series.

    Returns:
        Ω.

    Raises:
        BadInput: value, volts or frequency not above zero.

    >>> round(new_esr(22e-6, 16), 2), round(new_esr(470e-6, 10), 3), round(new_esr(4700e-6, 25), 4)
    (9.65, 0.536, 0.0621)
    """
    for number, unit, name in ((value, "F", "value"), (volts, "V", "volts"), (frequency, "Hz", "frequency")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    return tan_delta(value, volts) / (2 * math.pi * 120 * value) * frequency_share(frequency, low_impedance)


def new_esr_working(value: float, volts: float, frequency: float = 120.0) -> Calculation:
    """The new-part ESR limit with its lines."""
    esr, tangent = new_esr(value, volts, frequency), tan_delta(value, volts)
    at_120 = tangent / (2 * math.pi * 120 * value)
    lines = [
        CalculationLine(
            label="Loss of a new part at 120 Hz",
            formula="tan δ by rated volts",
            numbers=f"{show(volts, 'V')}, {show(value, 'F')}",
            value=tangent,
            unit="",
            source=SOURCE_ESR,
        ),
        CalculationLine(
            label="ESR of a new part at 120 Hz",
            formula="tan δ ÷ (2πfC)",
            numbers=f"{tangent:.2f} ÷ (2π · 120 · {show(value, 'F')})",
            value=at_120,
            unit="Ω",
            source=SOURCE_ESR,
        ),
    ]
    if frequency > 120:
        share = frequency_share(frequency)
        lines.append(
            CalculationLine(
                label=f"At {show(frequency, 'Hz')}",
                formula="share of the 120 Hz figure",
                numbers=f"{at_120:.4g} · {share:.2f}",
                value=esr,
                unit="Ω",
                source="General series read 0.35–0.5 of it at 100 kHz",
            )
        )
    cautions = ("A reading in circuit is in parallel with its neighbours: a good reading clears nothing.",)
    return Calculation(
        name="new_esr",
        values={"esr": esr},
        lines=tuple(lines),
        cautions=cautions,
        inputs={"value": value, "volts": volts, "frequency": frequency},
    )


def leakage_limit(value: float, volts: float, reformed: bool = False) -> float:
    """Most leakage after 2 to 5 minutes at rated volts, A. Three times as much for a part just reformed.

    >>> round(leakage_limit(4700e-6, 16) * 1e6, 1)
    752.0
    """
    return max(0.01 * value * 1e6 * volts, 3.0) * 1e-6 * (3 if reformed else 1)


def life(
    rated_life: float,
    rated_temperature: float,
    ambient: float,
    ripple: float | np.ndarray,
    rated_ripple: float | np.ndarray,
) -> float | np.ndarray:
    """Expected life, h, at an ambient (°C) and ripple (A) against the ratings; works on arrays too.

    L = L₀·2^((T₀−Tₐ)/10)·2^((ΔT₀−ΔT)/5), ΔT = ΔT₀·(I/I₀)², ΔT₀ = 5 K, at most 15 years.

    >>> round(float(life(2000, 85, 60, 0.9, 1.0)))
    12906
    """
    rated = np.asarray(rated_ripple)
    ratio = np.divide(ripple, rated, out=np.zeros(np.broadcast(ripple, rated).shape), where=rated > 0)
    hours = life_of(np.asarray(rated_life), np.asarray(rated_temperature), ambient, ratio)
    return float(hours) if hours.ndim == 0 else hours


def life_of(
    rated_life: np.ndarray, rated_temperature: np.ndarray, ambient: np.ndarray | float, ratio: np.ndarray
) -> np.ndarray:
    """Expected life, h, from the ripple as a share of the rating: the one formula, over arrays."""
    doublings = (rated_temperature - ambient) * 0.1 + 1.0 - np.minimum(ratio * ratio, 100.0)
    return np.minimum(rated_life * np.exp2(doublings), LIFE_CAP)


def show_years(hours: float) -> str:
    """Expected life in years, as people read it.

    >>> show_years(36_214), show_years(LIFE_CAP)
    ('4.1 y', '15 y +')
    """
    return "15 y +" if hours >= LIFE_CAP - 1 else f"{hours / 8760:.1f} y"


def life_working(
    life_h: float, rated_temperature: float, ambient: float, ripple: float, rated_ripple: float
) -> Calculation:
    """The life reckoning with its lines."""
    hours = life(life_h, rated_temperature, ambient, ripple, rated_ripple)
    rise = 5.0 * (ripple / rated_ripple) ** 2
    uncapped = life_h * 2 ** ((rated_temperature - ambient) / 10) * 2 ** ((5 - rise) / 5)
    lines = (
        CalculationLine(
            label="Heating by ripple",
            formula="ΔT = 5 K · (I/I₀)²",
            numbers=f"5 · ({ripple:.3g}/{rated_ripple:.3g})²",
            value=rise,
            unit="K",
            source=SOURCE_LIFE,
        ),
        CalculationLine(
            label="Cooler than rated",
            formula="2^((T₀ − Tₐ)/10)",
            numbers=f"2^(({rated_temperature:g} − {ambient:g})/10)",
            value=2 ** ((rated_temperature - ambient) / 10),
            unit="×",
            source=SOURCE_LIFE,
        ),
        CalculationLine(
            label="Less ripple than rated",
            formula="2^((5 − ΔT)/5)",
            numbers=f"2^((5 − {rise:.3g})/5)",
            value=2 ** ((5 - rise) / 5),
            unit="×",
            source=SOURCE_LIFE,
        ),
        CalculationLine(
            label="Expected life",
            formula="L₀ · both, at most 15 y",
            numbers=f"{life_h:g} h gives {uncapped:.0f} h",
            value=hours,
            unit="h",
            source=SOURCE_LIFE,
        ),
        CalculationLine(
            label="In years of running day and night",
            formula="h ÷ 8760",
            numbers=f"{hours:.0f} ÷ 8760",
            value=hours / 8760,
            unit="y",
            source="",
        ),
    )
    cautions = []
    if ripple > rated_ripple:
        cautions.append("The ripple is above the rating: the formula is kind here, the part is not.")
    if ambient > rated_temperature:
        cautions.append("The ambient is above the rated temperature: choose a hotter rating.")
    if uncapped > LIFE_CAP:
        cautions.append("More than 15 years is not claimed: seals age whatever the formula says.")
    return Calculation(
        name="life",
        values={"hours": hours},
        lines=lines,
        cautions=tuple(cautions),
        inputs={
            "life": life_h,
            "rated_temperature": rated_temperature,
            "ambient": ambient,
            "ripple": ripple,
            "rated_ripple": rated_ripple,
        },
    )


#: The band of general series, after those of the low-impedance ones.
GENERAL_BAND = len(LOW_IMPEDANCE_RIPPLE)


@lru_cache(maxsize=1024)
def ripple_table(frequency: float) -> tuple[float, ...]:
    """What share of its rating a part carries at a frequency (Hz): for each band of low-impedance series, then for general ones."""
    log_f = math.log10(max(frequency, 50.0))
    at = np.log10(_LOW_IMPEDANCE_AT)
    general = float(np.interp(log_f, np.log10([f for f, _ in GENERAL_RIPPLE]), [m for _, m in GENERAL_RIPPLE]))
    return (*(_from_row(log_f, at, row) for _, row in LOW_IMPEDANCE_RIPPLE), general)


def ripple_band(value: np.ndarray | float, low_impedance: np.ndarray | bool) -> np.ndarray:
    """The band of a part by value (F) and series, as ripple_table counts them."""
    limits = np.array([limit for limit, _ in LOW_IMPEDANCE_RIPPLE[:-1]])
    return np.where(low_impedance, np.searchsorted(limits * 1.0001, np.asarray(value, dtype=float)), GENERAL_BAND)


def ripple_multiplier(frequency: float, value: np.ndarray | float, low_impedance: np.ndarray | bool) -> np.ndarray:
    """What share of its rating a part carries at a frequency (Hz), by value (F) and series; works on arrays.

    Low-impedance series are rated at 100 kHz, general ones at 120 Hz. Interpolated in log f; the first segment of the
    low-impedance table is carried on down to 50 Hz.

    >>> float(ripple_multiplier(1e3, 470e-6, True)), float(ripple_multiplier(50, 470e-6, False))
    (0.85, 0.8)
    """
    return np.array(ripple_table(frequency))[ripple_band(value, low_impedance)]


def _from_row(log_f: float, at: np.ndarray, row: tuple[float, ...]) -> float:
    if log_f < at[0]:
        return float(row[0] + (row[1] - row[0]) / (at[1] - at[0]) * (log_f - at[0]))
    return float(np.interp(log_f, at, row))
