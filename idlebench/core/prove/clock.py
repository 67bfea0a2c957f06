"""How long ago something happened, by two clocks: the wall clock, which people set, and one that only counts.

The wall clock is believed where it is the more careful one: what may have grown old is as old as the older of both says, what must
have lasted has lasted as long as the younger says. Source: workshop practice, because a clock that was set by hand must not empty
a store nor shorten a wait.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

#: So far a wall clock may be behind what was written down before, s: it is trimmed by others all the time.
TRIMMED = 2.0


@dataclass(frozen=True)
class Moment:
    """A point in time.

    Attributes:
        at: s by the wall clock. boot: the start of the machine whose steady clock counts here, "" where it has none.
        steady: s by that clock, which counts on while the machine sleeps.
    """

    at: float
    boot: str = ""
    steady: float = 0.0


def _both(since: Moment, now: Moment) -> tuple[float, float | None]:
    """Seconds by the wall clock, and by the steady one, None where that tells nothing."""
    known = bool(since.boot) and since.boot == now.boot
    return now.at - since.at, now.steady - since.steady if known else None


def lasted(since: Moment, now: Moment) -> float:
    """How long something lasted at least, s: the smaller of both clocks. Over another start of the machine it is no more than
    the time since that start: before it, nobody knows whether it went on.

    >>> lasted(Moment(0.0, 'a', 10.0), Moment(3600.0, 'a', 70.0))
    60.0
    """
    wall, steady = _both(since, now)
    if steady is not None:
        return min(wall, steady)
    return min(wall, now.steady) if since.boot and now.boot else wall


def age(since: Moment, now: Moment) -> float:
    """How old something is at most, s: the larger of both clocks; endless where another start of the machine lies between.

    >>> age(Moment(0.0, 'a', 10.0), Moment(-3600.0, 'a', 70.0))
    60.0
    """
    wall, steady = _both(since, now)
    if steady is not None:
        return max(wall, steady)
    return math.inf if since.boot and now.boot else wall


def set_back(since: Moment, now: Moment) -> float:
    """By how much the wall clock says less now than when something was written down, s; 0 where it does not."""
    return max(0.0, since.at - now.at) if since.at - now.at > TRIMMED else 0.0
