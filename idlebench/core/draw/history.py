"""A rail over time: what was read of it while there was power, session after session, with its limits and what happened between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..text.quantity import show
from ..wording import many
from .plots import Tick

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BELOW = 640.0, 210.0, 58.0, 12.0, 30.0, 26.0
#: A session is drawn at least this long, s, so that its start and end can be told apart.
SHORTEST = 20.0
#: Ticks stand so far apart, or further.
TICK = 80.0
#: Most events whose words are written between two sessions.
MOST = 3


@dataclass(frozen=True)
class Session:
    """A time under power: s on some clock, None where it still goes on; the step it was at."""

    began: float
    ended: float | None
    title: str


@dataclass(frozen=True)
class Dot:
    """A reading: place, whether it is inside, its words."""

    x: float
    y: float
    inside: bool
    says: str


@dataclass(frozen=True, kw_only=True)
class Mark:
    """Where a session begins: its place, how wide it is, its step, and what was done before it."""

    x: float
    width: float
    title: str
    before: str
    number: int

    @property
    def shown(self) -> str:
        """Its number, as the list under the drawing has it."""
        return f"{self.number}{' ◆' if self.before else ''}"


@dataclass(frozen=True, kw_only=True)
class History:
    """The drawing: readings, the line through those of each session, sessions, the limits' band, ticks across and up."""

    dots: tuple[Dot, ...]
    lines: tuple[str, ...]
    marks: tuple[Mark, ...]
    band: tuple[float, float]
    up: tuple[Tick, ...]
    across: tuple[Tick, ...]
    says: str
    width: float = WIDTH
    height: float = HEIGHT

    @property
    def tall(self) -> float:
        """How tall the band of its limits is."""
        return round(self.band[1] - self.band[0], 1)


def history(
    readings: Sequence[tuple[float, float]], sessions: Sequence[Session], events: Sequence[tuple[float, str]], low: float, high: float,
    now: float, unit: str = "V",
) -> History | None:  # fmt: skip
    """A rail over the time it had power; time without power takes no room.

    Args:
        readings: (s, value), those under power.
        sessions: in order.
        events: (s, words) of work that was done. low, high: limits.
        low: the lower limit, in SI; None for none.
        high: the upper limit, in SI; None for none.
        now: s, the end of a session that still goes on.
        unit: its unit.

    Returns:
        The drawing; None where there are under two readings, for one shows nothing over time.
    """
    spans = [(s.began, max(s.ended if s.ended is not None else now, s.began + SHORTEST), s.title) for s in sessions]
    held: list[list[tuple[float, float]]] = [[] for _ in spans]
    for at, value in sorted(readings):
        # a reading is of the session that began last before it
        number = sum(began <= at for began, _, _ in spans) - 1
        if number >= 0:
            held[number].append((at, value))
    kept = [(span, dots) for span, dots in zip(spans, held, strict=True) if dots]
    if sum(len(dots) for _, dots in kept) < 2:
        return None
    kept = [((b, max(e, dots[-1][0]), title), dots) for (b, e, title), dots in kept]
    total = sum(ended - began for (began, ended, _), _ in kept)
    values = [value for _, dots in kept for _, value in dots]
    room = max(high - low, 1e-9)
    bottom, top = min(low - 0.4 * room, *values), max(high + 0.4 * room, *values)

    def y_at(value: float) -> float:
        return round(HEIGHT - BELOW - (HEIGHT - BELOW - TOP) * (value - bottom) / (top - bottom), 1)

    def across_at(seconds: float) -> float:
        return round(LEFT + (WIDTH - LEFT - RIGHT) * seconds / total, 1)

    dots, lines, marks, ticks, gone, last = [], [], [], [Tick(LEFT, "0")], 0.0, float("-inf")
    for (began, ended, title), here in kept:
        start = across_at(gone)
        done = [words for at, words in events if last < at <= began and words]
        before = ", ".join(dict.fromkeys(done[-MOST:]))
        marks.append(
            Mark(
                x=start,
                width=round(across_at(gone + ended - began) - start, 1),
                title=title,
                before=before,
                number=len(marks) + 1,
            )
        )
        points = [(across_at(gone + at - began), value) for at, value in here]
        dots += [
            Dot(x, y_at(v), low <= v <= high, f"{show(v, unit, 4)} after {(at - began) / 60:.1f} min of {title}")
            for (x, v), (at, _) in zip(points, here, strict=True)
        ]
        lines.append(" ".join(f"{x},{y_at(v)}" for x, v in points))
        gone, last = gone + ended - began, ended
        if across_at(gone) - ticks[-1].at >= TICK:
            ticks.append(Tick(across_at(gone), f"{gone / 60:.1f} min"))
    up = tuple(Tick(y_at(v), show(v, unit, 4)) for v in (low, high))
    span = f"{show(min(values), unit, 4)} to {show(max(values), unit, 4)}"
    said = f"{many(len(dots), 'reading')} over {gone / 60:.0f} min under power, {span}"
    return History(
        dots=tuple(dots),
        lines=tuple(lines),
        marks=tuple(marks),
        band=(y_at(high), y_at(low)),
        up=up,
        across=tuple(ticks),
        says=said,
    )
