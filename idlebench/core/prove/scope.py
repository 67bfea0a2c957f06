"""A scope's capture of a rail: read from the table it saves, and its ripple told apart by spectrum.

Scopes write a few lines about themselves, a heading, and time and volts below it; some write several channels, some a comma for the
decimal point. What hums at the mains and its multiples comes through the store; what is above is the converter's.

Source: the discrete Fourier transform: Oppenheim and Schafer, Discrete-Time Signal Processing (1989), 8.1; from where a tone counts:
workshop practice, because scopes of a bench show 8 bits.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..refusal import BadInput
from ..text.quantity import show

Floats = NDArray[np.float64]
#: Lines before the numbers begin, and points, at most; the table's size, bytes.
LINES_BEFORE, MOST_POINTS, MOST_BYTES = 60, 1_000_000, 40_000_000
#: Fewest points, and cycles of the mains, that tell anything.
FEWEST, LEAST_CYCLES = 50, 0.9
#: Up to this frequency ripple is the mains', Hz; multiples that are told by name.
MAINS_UP_TO = 2500.0
#: From this frequency on something may switch, Hz; and how far a tone must stand out of what is round it.
SWITCHES_FROM, STANDS_OUT = 5000.0, 8.0
#: Steps that differ by more than this share of themselves are brought to even ones.
UNEVEN = 0.02
SCALES = {
    "s": 1.0,
    "ms": 1e-3,
    "us": 1e-6,
    "µs": 1e-6,
    "ns": 1e-9,
    "v": 1.0,
    "mv": 1e-3,
    "uv": 1e-6,
    "µv": 1e-6,
    "volt": 1.0,
    "second": 1.0,
}
_TIME = re.compile(r"time|second|^t\b|^x\b|\(m?s\)|\[m?s\]", re.I)
_VOLTS = re.compile(r"volt|ch\s?\d|channel|^y\b|ampl|\(m?v\)|\[m?v\]|^[1-4]$", re.I)


@dataclass(frozen=True)
class Capture:
    """Time in s from its beginning, volts; columns: what they were called in the table."""

    time: Floats
    volts: Floats
    columns: tuple[str, str] = ("", "")


@dataclass(frozen=True, kw_only=True)
class Ripple:
    """Ripple of a capture, V: all of it p-p, what the mains leave p-p, what is above p-p; rms at the mains and at twice the mains;
    the frequency that stands out above, Hz, 0 where none does.
    """

    whole: float
    mains: float
    switching: float
    once: float
    twice: float
    rate: float
    mean: float

    @property
    def words(self) -> str:
        """What it is made of, in words."""
        where = (
            f"at {show(self.rate, 'Hz')}" if self.rate else f"above {show(MAINS_UP_TO, 'Hz')}, with no distinct tone"
        )
        above = f"{show(self.switching, 'V')} p-p {where}"
        return f"{show(self.mains, 'V')} p-p of the mains, {above}"


def read_capture(data: bytes | str, time: str = "", volts: str = "") -> Capture:
    """Read a scope's table.

    Args:
        data: the file's bytes.
        time: s of each point.
        volts: V.

    Returns:
        The points by channel, s and V.

    Raises:
        BadInput: no table, one column, time that runs back, too few points or too many.
    """
    text = _text(data)
    lines = [line for line in text.splitlines() if line.strip()]
    delimiter, comma = _form(lines)
    cells = [_cells(line, delimiter) for line in lines[: LINES_BEFORE + 2]]
    first = next((i for i, row in enumerate(cells) if sum(_number(c, comma) is not None for c in row) >= 2), None)
    if first is None:
        narrow = any(_number(c, comma) is not None for row in cells for c in row)
        raise BadInput(
            "one column of numbers" if narrow else "no numbers", "a table with time in one column and volts in another",
            "Let the scope save its waveform as CSV, time included.", field="capture",
        )  # fmt: skip
    if len(lines) - first > MOST_POINTS:
        raise BadInput(
            f"{len(lines) - first} points",
            f"at most {MOST_POINTS}",
            "Save fewer points, or a shorter piece.",
            field="capture",
        )
    header, units = _heading(cells, first, comma)
    t, v = _columns(header, cells[first], comma, time, volts)
    rows = [_cells(line, delimiter) for line in lines[first:]]
    numbers = np.array([[_at(row, t, comma), _at(row, v, comma)] for row in rows])
    good = np.isfinite(numbers).all(axis=1)
    numbers = numbers[good] * [_scale(header, units, t), _scale(header, units, v)]
    return _whole(numbers, (_name(header, t), _name(header, v)), first)


def from_trace(time: Sequence[float], volts: Sequence[float], name: str) -> Capture:
    """A capture from the points that a scope sent, held to the same rules as a table.

    Args:
        time: s of each point.
        volts: V.
        name: its name.

    Returns:
        The points of one channel, s and V.

    Raises:
        BadInput: too few points, or a time that runs back.
    """
    return _whole(np.column_stack([time, volts]).astype(float), ("time", name), 0)


def _text(data: bytes | str) -> str:
    if len(data) > MOST_BYTES:
        raise BadInput(
            f"{len(data) / 1e6:.0f} MB", f"at most {MOST_BYTES / 1e6:.0f} MB", "Save fewer points.", field="capture"
        )
    if isinstance(data, str):
        return data
    if b"\x00" in data[:4096]:
        raise BadInput("a binary file", "a CSV table", "Let the scope save its waveform as CSV.", field="capture")
    return data.decode("utf-8-sig", "replace")


def _form(lines: Sequence[str]) -> tuple[str, bool]:
    """What cells are apart by, and whether the decimal point is a comma."""
    some = lines[:200]
    if not some:
        raise BadInput("an empty file", "a table of time and volts", field="capture")
    for delimiter in (";", "\t"):
        if sum(delimiter in line for line in some) > len(some) / 2:
            return delimiter, any(re.search(r"\d,\d", line) for line in some) and not any(
                re.search(r"\d\.\d", line) for line in some
            )
    if sum("," in line for line in some) > len(some) / 2:
        return ",", False
    return "", False


def _cells(line: str, delimiter: str) -> list[str]:
    return [cell.strip().strip('"') for cell in (line.split(delimiter) if delimiter else line.split())]


def _number(cell: str, comma: bool) -> float | None:
    text = cell.replace(",", ".") if comma else cell
    try:
        return float(text) if re.fullmatch(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?", text) else None
    except ValueError:
        return None


def _at(row: Sequence[str], column: int, comma: bool) -> float:
    found = _number(row[column], comma) if column < len(row) else None
    return math.nan if found is None else found


def _heading(cells: Sequence[Sequence[str]], first: int, comma: bool) -> tuple[list[str], list[str]]:
    """The names of the columns, and a row of units below them where there is one."""
    above = [list(row) for row in cells[max(0, first - 2) : first] if len(row) >= 2]
    above = [row for row in above if all(_number(c, comma) is None for c in row)]
    if not above:
        return [], []
    if len(above) == 2 and all(_word(c) in SCALES for c in above[-1] if c):
        return above[0], above[1]
    return above[-1], []


def _word(cell: str) -> str:
    return re.sub(r"[^a-zµ]", "", cell.lower().replace("μ", "µ"))


def _columns(header: Sequence[str], row: Sequence[str], comma: bool, time: str, volts: str) -> tuple[int, int]:
    known = [i for i, cell in enumerate(row) if _number(cell, comma) is not None]
    chosen = []
    for name in (time, volts):
        if name and name not in header:
            raise BadInput(name, f"one of the columns {', '.join(header)[:120]}", field="capture")
        chosen.append(list(header).index(name) if name else None)
    named = [i for i in known if i < len(header)]
    t = chosen[0] if chosen[0] is not None else next((i for i in named if _TIME.search(header[i])), known[0])
    rest = [i for i in known if i != t]
    v = (
        chosen[1]
        if chosen[1] is not None
        else next((i for i in rest if i < len(header) and _VOLTS.search(header[i])), rest[0])
    )
    return t, v


def _name(header: Sequence[str], column: int) -> str:
    return header[column] if column < len(header) else f"column {column + 1}"


def _scale(header: Sequence[str], units: Sequence[str], column: int) -> float:
    """What numbers of a column are multiplied by, from its unit: beside its name, or in the row below."""
    if column < len(units) and _word(units[column]) in SCALES:
        return SCALES[_word(units[column])]
    name = header[column].lower().replace("μ", "µ") if column < len(header) else ""
    hit = re.search(r"[\[(]\s*([mµun]?[sv])\s*[\])]|\b(ms|us|µs|ns|mv|uv|µv)\b", name)
    return SCALES[next(group for group in hit.groups() if group)] if hit else 1.0


def _whole(numbers: Floats, columns: tuple[str, str], before: int) -> Capture:
    """The capture with even steps.

    Args:
        numbers: numbers, None where one is missing.
        columns: the columns.
        before: what stood or was read before, None for nothing.

    Returns:
        The capture, evenly spaced.

    Raises:
        BadInput: too few points, or time that does not run on.
    """
    if len(numbers) < FEWEST:
        raise BadInput(f"{len(numbers)} points", f"at least {FEWEST}", "Save the whole waveform.", field="capture")
    time, volts = numbers[:, 0], numbers[:, 1]
    steps = np.diff(time)
    if (steps <= 0).any():
        line = before + int(np.argmax(steps <= 0)) + 2
        raise BadInput(
            f"{time[line - before - 1]:g} s after {time[line - before - 2]:g} s near line {line}", "time that runs on from line to line",
            "Is it the time column? Save two captures in two files.", field="capture",
        )  # fmt: skip
    time = time - time[0]
    if steps.max() - steps.min() > UNEVEN * steps.mean():
        even = np.linspace(0.0, time[-1], len(time))
        time, volts = even, np.interp(even, time, volts)
    return Capture(time, volts, columns)


def ripple_of(capture: Capture, mains: float) -> Ripple:
    """A capture's ripple, told apart by spectrum.

    Args:
        capture: what the scope sent.
        mains: Hz.

    Returns:
        V peak to peak, and its parts at the mains and above.

    Raises:
        BadInput: it is shorter than a cycle of the mains.

    >>> t = np.arange(8000) / 200e3
    >>> wave = 5 + 0.05 * np.sin(2 * np.pi * 100 * t) + 0.02 * np.sin(2 * np.pi * 42e3 * t)
    >>> found = ripple_of(Capture(t, wave), 50.0)
    >>> round(found.mains, 3), round(found.switching, 3), round(found.rate), round(found.twice, 4)
    (0.1, 0.04, 42000, 0.0354)
    """
    step = capture.time[1] - capture.time[0]
    span = step * len(capture.time)
    if span * mains < LEAST_CYCLES:
        raise BadInput(
            f"{show(span, 's')} of it", f"a cycle of the mains or more, {show(1 / mains, 's')}",
            "Set the scope to 5 ms a division, or slower.", field="capture",
        )  # fmt: skip
    # whole cycles, so that nothing of one frequency shows at another
    cycles = max(1, math.floor(span * mains + 1e-6))
    count = min(len(capture.volts), round(cycles / mains / step))
    volts = capture.volts[:count]
    mean = float(volts.mean())
    tones = np.fft.rfft(volts - mean)
    rates = np.fft.rfftfreq(count, step)
    low = rates <= MAINS_UP_TO
    slow = np.fft.irfft(np.where(low, tones, 0), count)
    fast = np.fft.irfft(np.where(low, 0, tones), count)
    size = np.abs(tones) / count * math.sqrt(2)

    def near(hertz: float) -> float:
        return float(size[int(np.argmin(np.abs(rates - hertz)))])

    # the tail of steep edges falls off with frequency: what switches stands out far above it
    high = rates > SWITCHES_FROM
    above = np.where(high, size, 0.0)
    top = int(above.argmax())
    stands_out = high.any() and above[top] > STANDS_OUT * np.median(size[high]) and above[top] > 1e-6
    # harmonics of the mains have others of their size beside them
    stands_out = stands_out and max(near(rates[top] - 2 * mains), near(rates[top] + 2 * mains)) < above[top] / 2
    return Ripple(
        whole=float(np.ptp(volts)), mains=float(np.ptp(slow)), switching=float(np.ptp(fast)), once=near(mains), twice=near(2 * mains),
        rate=float(rates[top]) if stands_out else 0.0, mean=mean,
    )  # fmt: skip


def drawn(capture: Capture, points: int = 600) -> tuple[Floats, Floats]:
    """The capture as it is drawn: of each piece its lowest and its highest, so that nothing narrow is lost."""
    pieces = max(1, points // 2)
    if len(capture.time) <= points:
        return capture.time, capture.volts
    edges = np.linspace(0, len(capture.time), pieces + 1).astype(int)
    time = np.repeat((capture.time[edges[:-1]] + capture.time[edges[1:] - 1]) / 2, 2)
    volts = np.array([f(capture.volts[a:b]) for a, b in pairwise(edges) for f in (np.min, np.max)])
    return time, volts
