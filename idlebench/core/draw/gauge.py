"""A rail gauge in percent of its length."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..text.quantity import show


@dataclass(frozen=True)
class Gauge:
    """A rail gauge in percent of its length: the allowed band, the nominal, and the reading if there is one."""

    band_from: float
    band_width: float
    nominal: float
    low_text: str
    nominal_text: str
    high_text: str
    needle: float | None
    words: str

    @property
    def ticks(self) -> tuple[float, float, float]:
        """Where low, nominal and high stand, percent."""
        return (self.band_from, self.nominal, round(self.band_from + self.band_width, 2))

    @property
    def labels(self) -> tuple[tuple[float, str], ...]:
        """The numbers under the ticks, each at its percent."""
        return tuple(zip(self.ticks, (self.low_text, self.nominal_text, self.high_text), strict=True))


def gauge(nominal: float, low: float, high: float, reading: float | None) -> Gauge:
    """A rail's gauge; by size, so that −12 V reads like +12 V. A reading off the scale stands at its end."""
    sign = 1 if nominal >= 0 else -1
    ends = sorted((low * sign, high * sign))
    middle, half = abs(nominal), max(ends[1] - abs(nominal), abs(nominal) - ends[0])
    start, span = middle - 3 * half, 6 * half

    def at(x: float) -> float:
        return round(min(max(100 * (x - start) / span, 0.0), 100.0), 2)

    needle = None if reading is None or not math.isfinite(reading) else at(reading * sign)
    words = f"allowed {show(ends[0], 'V')} to {show(ends[1], 'V')}"
    if reading is not None:
        words = f"reads {show(reading, 'V')}, {words}"
    low_at, high_at = at(ends[0]), at(ends[1])
    return Gauge(
        low_at,
        round(high_at - low_at, 2),
        at(middle),
        f"{ends[0]:.4g}",
        f"{middle:.4g}",
        f"{ends[1]:.4g}",
        needle,
        words,
    )
