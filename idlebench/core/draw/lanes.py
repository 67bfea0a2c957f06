"""A calendar as lanes: a lane for each unit, a column for each day on which hands are at work."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..plan.schedule import DAY, Planned

#: Widths and heights of the drawing, its own units: a day's column, a lane, the strip of days above, the names at the left,
#: and what is left free above and below a bar.
COLUMN, LANE, HEAD, NAMES, INSET = 96.0, 34.0, 22.0, 110.0, 6.0
#: Width of a letter in a bar.
LETTER = 6.0
#: Days shown at most.
MOST_DAYS = 9


@dataclass(frozen=True, kw_only=True)
class Bar:
    """A stretch of work in a lane: place and size, and whether it goes on on another day."""

    name: str
    unit: str
    x: float
    y: float
    width: float
    height: float
    part: bool

    @property
    def letters(self) -> int:
        """How many letters go into it."""
        return int((self.width - 6) / LETTER)


@dataclass(frozen=True, kw_only=True)
class Lanes:
    """The drawing. lanes: name and y of each. days: number of the day from now, and x. bars: work. marks: name, x and y of what
    only comes. later: days with work that are not drawn.
    """

    width: float
    height: float
    lanes: tuple[tuple[str, float], ...]
    days: tuple[tuple[int, float], ...]
    bars: tuple[Bar, ...]
    marks: tuple[tuple[str, float, float], ...]
    later: int


def lanes_of(tasks: Sequence[Planned], minutes: int) -> Lanes:
    """Draw planned tasks.

    Args:
        tasks: the tasks.
        minutes: that hands are at work a day.

    Returns:
        Bars, days and marks in units of the drawing.
    """
    units = list(dict.fromkeys(p.task.unit for p in sorted(tasks, key=lambda p: p.start)))
    pieces = [(p, begin // DAY, begin % DAY, begin % DAY + end - begin) for p in tasks for begin, end in p.pieces]
    days = sorted({day for _, day, _, _ in pieces})
    shown = {day: NAMES + i * COLUMN for i, day in enumerate(days[:MOST_DAYS])}
    y = {unit: HEAD + i * LANE for i, unit in enumerate(units)}
    bars, marks = [], []
    for planned, day, begin, end in pieces:
        if day not in shown:
            continue
        x = shown[day] + COLUMN * min(begin, minutes) / minutes
        if not planned.task.hands:
            marks.append((planned.task.name, x, y[planned.task.unit] + INSET))
            continue
        whole = end - begin == planned.task.hands
        top, wide = y[planned.task.unit] + INSET, max(COLUMN * (end - begin) / minutes, 2.0)
        bars.append(
            Bar(
                name=planned.task.name,
                unit=planned.task.unit,
                x=x,
                y=top,
                width=wide,
                height=LANE - 2 * INSET,
                part=not whole,
            )
        )
    return Lanes(
        width=NAMES + COLUMN * max(1, len(shown)), height=HEAD + LANE * max(1, len(units)), lanes=tuple((unit, y[unit]) for unit in units),
        days=tuple(shown.items()), bars=tuple(bars), marks=tuple(marks), later=len(days) - len(shown),
    )  # fmt: skip
