"""What a meter that is asked again and again shows: when its reading stands still, and whether its leads touch anything.

Leads in the air read 0 V and OL, which for a discharge, a short or insulation is the good answer. There contact is shown first: a voltage
that falls, ohms that are no OL, or the two leads put to one point a moment before. Lifted leads alone never answer a check.
Source: workshop practice, because meters settle over about three readings, and a meter of 6 000 counts shows four digits.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from .checks import Check

#: So many readings within this share of the last one, or within so many counts of its last digit, stand still.
READINGS, SHARE, COUNTS = 3, 0.01, 5
#: A volt reading that was above this and has fallen by half came from something, V.
FELL_FROM = 0.5
#: Two leads on one point read under this, Ω; it shows contact for so long, s.
LEADS, LEADS_LAST = 2.0, 30.0


@dataclass(frozen=True)
class Sample:
    """One reading of a watched meter. value: SI, inf for OL. at: s by any clock that only counts."""

    value: float
    at: float


def lifted_passes(check: Check) -> bool:
    """Whether leads in the air, 0 V and OL, would pass a check."""
    return not check.seen and (check.passes(0.0) if check.unit in ("V", "A") else check.passes(math.inf))


def digit(value: float) -> float:
    """The last digit that a meter of 6 000 counts shows of a value.

    >>> [digit(v) for v in (0.0, 5.0, 12.0, 325.0)]
    [0.0001, 0.001, 0.01, 0.1]
    """
    size = abs(value)
    decades = 0 if size < 0.6 else math.floor(math.log10(size / 6)) + 2
    return 10.0 ** (decades - 4)


def steady(samples: Sequence[Sample]) -> float | None:
    """The reading once it stands still: the last of three that agree; None before.

    Args:
        samples: in order.

    Returns:
        The value, inf where the meter shows OL.
    """
    last = [one.value for one in samples[-READINGS:]]
    if len(last) < READINGS:
        return None
    value = last[-1]
    if any(math.isinf(one) for one in last):
        return math.inf if all(math.isinf(one) for one in last) else None
    room = max(SHARE * abs(value), COUNTS * digit(value))
    return value if all(abs(one - value) <= room for one in last) else None


def in_contact(check: Check, samples: Sequence[Sample], leads: float | None, now: float) -> bool:
    """Whether the leads were seen to touch something.

    Args:
        check: that is read.
        samples: of this check, in order.
        leads: when both leads were last read on one point, None for never.
        now: by the same clock, s.

    Returns:
        Whether a reading of it may count. A check that leads in the air do not pass needs no contact shown.
    """
    if not lifted_passes(check) or (leads is not None and now - leads <= LEADS_LAST):
        return True
    if check.unit == "V":
        most = max((abs(one.value) for one in samples), default=0.0)
        return bool(samples) and FELL_FROM < most < math.inf and abs(samples[-1].value) <= most / 2
    # leads in the air read no ohms at all
    return bool(samples) and math.isfinite(samples[-1].value)
