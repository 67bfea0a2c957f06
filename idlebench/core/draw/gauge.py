"""A rail gauge in percent of its length."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..text.quantity import show


@dataclass(frozen=True, kw_only=True)
class Gauge:
    """A gauge in percent of its length: the allowed band, its marks with their numbers, the reading if there is one, and what is
    expected as a frame: from, and width; 0 wide where nothing is. before: where an earlier reading stood.
    """

    band_from: float
    band_width: float
    labels: tuple[tuple[float, str], ...]
    needle: float | None
    words: str
    expected_from: float = 0.0
    expected_width: float = 0.0
    before: float | None = None

    @property
    def ticks(self) -> tuple[float, ...]:
        """Where its marks stand, percent."""
        return tuple(at for at, _ in self.labels)


#: A frame is never narrower than this, percent of the length: it has to be seen.
NARROWEST = 0.8


def gauge(
    nominal: float, low: float, high: float, reading: float | None,
    expected: tuple[float, float] | None = None, before: float | None = None,
) -> Gauge:  # fmt: skip
    """A rail's gauge; by size, so that −12 V reads like +12 V. A reading off the scale stands at its end.

    Args:
        nominal: V that the rail should have.
        low: the lower limit, in SI; None for none.
        high: the upper limit, in SI; None for none.
        reading: what was read; None for nothing.
        expected: from low to high by value, V.
        before: an earlier reading, V.

    Returns:
        Band, ticks and needles, 0 to 100.
    """
    sign = 1 if nominal >= 0 else -1
    ends = sorted((low * sign, high * sign))
    middle, half = abs(nominal), max(ends[1] - abs(nominal), abs(nominal) - ends[0])
    start, span = middle - 3 * half, 6 * half
    marks = ((ends[0], f"{ends[0]:.4g}"), (middle, f"{middle:.4g}"), (ends[1], f"{ends[1]:.4g}"))
    frame = sorted(x * sign for x in expected) if expected else None
    return _drawn(start, span, ends, marks, _sized(reading, sign), frame, _sized(before, sign), reading)


def from_nought(
    limit: float, reading: float | None, expected: tuple[float, float] | None = None, before: float | None = None
) -> Gauge:
    """A gauge of what may be anything from nought to a limit, V: ripple."""
    marks = ((0.0, "0"), (limit, show(limit, "V")))
    return _drawn(
        0.0, limit * 5 / 3, [0.0, limit], marks, reading, sorted(expected) if expected else None, before, reading
    )


def of_figure(before: float, after: float, limit: float, at_least: bool, unit: str) -> Gauge:
    """A gauge of a figure of a supply that has one limit: what it was as the mark before, what it will be as the needle.

    Args:
        before: what stood or was read before, None for nothing.
        after: what comes or stands afterwards.
        limit: the limit, in SI.
        at_least: whether it has to be above the limit; else from nought to it.
        unit: its unit.

    Returns:
        Band, ticks and needles, 0 to 100.
    """
    if at_least:
        # room on both sides of the limit, as much as the figures need
        away = max(abs(before - limit), abs(after - limit), 0.05 * abs(limit), 1e-9)
        start, span, ends = limit - 0.6 * away, 1.8 * away, [limit, limit + 1.2 * away]
        marks: tuple[tuple[float, str], ...] = ((limit, show(limit, unit)),)
    else:
        top = max(limit * 5 / 3, min(max(before, after) * 1.1, limit * 4))
        start, span, ends, marks = 0.0, top, [0.0, limit], ((0.0, "0"), (limit, show(limit, unit)))
    drawn = _drawn(start, span, ends, marks, after, None, before, None)
    word = "at least" if at_least else "at most"
    return replace(
        drawn, words=f"{show(before, unit)} as it stands, {show(after, unit)} with it, {word} {show(limit, unit)}"
    )


def _sized(value: float | None, sign: int) -> float | None:
    return None if value is None else value * sign


def _drawn(
    start: float, span: float, ends: Sequence[float], marks: Sequence[tuple[float, str]], needle: float | None,
    frame: Sequence[float] | None, before: float | None, reading: float | None,
) -> Gauge:  # fmt: skip
    def at(x: float) -> float:
        return round(min(max(100 * (x - start) / span, 0.0), 100.0), 2)

    def at_all(x: float | None) -> float | None:
        return None if x is None or not math.isfinite(x) else at(x)

    words = f"allowed {show(ends[0], 'V')} to {show(ends[1], 'V')}"
    left = wide = 0.0
    if frame:
        words += f", expected {show(frame[0], 'V')} to {show(frame[1], 'V')}"
        left, right = at(frame[0]), at(frame[1])
        wide = max(right - left, NARROWEST)
        left = max(0.0, min(left, 100.0 - wide))
    if reading is not None:
        words = f"reads {show(reading, 'V')}, {words}"
    return Gauge(
        band_from=at(ends[0]),
        band_width=round(at(ends[1]) - at(ends[0]), 2),
        labels=tuple((at(x), text) for x, text in marks),
        needle=at_all(needle),
        words=words,
        expected_from=left,
        expected_width=round(wide, 2),
        before=at_all(before),
    )
