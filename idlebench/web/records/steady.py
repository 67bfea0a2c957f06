"""The clock that only counts: nobody sets it, it counts on while the machine sleeps, and begins anew with each start of the machine.

Kept as a time of its own, so that it moves with the other times of a row. Where a machine has none, the wall clock alone is believed,
and the pages on which something is waited for say so.
"""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path

from django.utils import timezone

from idlebench.core.prove.clock import Moment

#: What the counting starts from.
START = datetime(2000, 1, 1, tzinfo=UTC)
_BOOT = Path("/proc/sys/kernel/random/boot_id")


@cache
def boot() -> str:
    """This start of the machine, "" where it has no steady clock."""
    try:
        return _BOOT.read_text().strip()[:36] if hasattr(time, "CLOCK_BOOTTIME") else ""
    except OSError:
        return ""


def now() -> datetime | None:
    """What the steady clock says."""
    return START + timedelta(seconds=time.clock_gettime(time.CLOCK_BOOTTIME)) if boot() else None


def at(wall: datetime) -> datetime | None:
    """What the steady clock said, or will say, when the wall clock, as it goes now, says a time."""
    said = now()
    return None if said is None else said + (wall - timezone.now())


def moment(wall: datetime) -> Moment:
    """A time by both clocks, as the core reckons with it."""
    said = at(wall)
    return Moment(wall.timestamp(), boot(), (said - START).total_seconds()) if said else Moment(wall.timestamp())


def as_seconds(said: datetime | None) -> float:
    """What was kept of the steady clock, s; 0 where nothing was."""
    return (said - START).total_seconds() if said else 0.0
