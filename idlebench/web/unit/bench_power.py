"""What has power on the bench, what is being reformed, and what is wet."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.db.models import Q
from django.db.models.functions import Coalesce
from django.utils import timezone

from ..records import steady
from ..records.models import (
    PowerSession,
    ReformRun,
    UnitProcedure,
)
from ..records.prepared import Prepared


@dataclass(frozen=True)
class Wet:
    """What is wet in a unit, in words, and when it is dry; None where nothing dries yet."""

    words: str
    until: datetime | None


@dataclass(frozen=True)
class BenchPower:
    """What is on on the whole bench: the open session, reforming runs in words by unit, and what is wet."""

    session: PowerSession | None
    runs: dict[int, list[str]]
    wet: dict[int, list[Wet]]


#: What is on on the whole bench; none of it asks for a key.
_SESSIONS = Prepared(
    lambda _: PowerSession.objects.order_by().filter(ended=None).values_list("pk", "unit_id", "step", "title", "began")
)


_RUNS = Prepared(
    lambda _: (
        ReformRun.objects.order_by()
        .filter(discharged=None)
        .values_list("part__board__unit_id", "part__ref", "part__board__name")
    )
)


_WET = Prepared(
    lambda _: (
        UnitProcedure.objects.order_by()
        .filter(Q(dries_until__isnull=False) | Q(soaked=True))
        .annotate(where=Coalesce("board__unit_id", "unit_id"))
        .values_list("where", "title", "dries_until", "boot", "dries_steady", "soaked")
    )
)


def open() -> BenchPower:
    """What is on on the whole bench: the session that is open, reforming runs by unit, and what is wet."""
    live = None
    for pk, unit, step, title, began in _SESSIONS.rows(0):
        live = PowerSession(pk=pk, unit_id=unit, step=step, title=title, began=began)
    by_unit: dict[int, list[str]] = {}
    for unit, ref, board in _RUNS.rows(0):
        by_unit.setdefault(unit, []).append(f"{ref} on {board}")
    return BenchPower(live, by_unit, wet_now())


def wet_now() -> dict[int, list[Wet]]:
    """What dries or is to be dried, in words by unit. A board takes the water in it along to another unit."""
    found: dict[int, list[Wet]] = {}
    for unit, title, until, boot, by_steady, soaked in _WET.rows(0):
        at = dries_at(until, boot, by_steady)
        if at is None and not soaked:
            continue
        words = (
            f" dries until {timezone.localtime(at):%H:%M on %-d %b}" if at else " has begun, and nothing is drying yet"
        )
        found.setdefault(unit, []).append(Wet(f"{title}{words}", at))
    return found


def dries_at(until: datetime | None, boot: str, by_steady: datetime | None) -> datetime | None:
    """When a wait is over, by the later of both clocks; None where none runs.

    Args:
        until: by the wall clock. boot, by_steady: the same by the steady clock of a start of this machine.
    """
    now, steady_now = timezone.now(), steady.now()
    ends = [until] if until is not None else []
    if steady_now is not None and by_steady is not None and boot == steady.boot():
        ends.append(now + (by_steady - steady_now))
    last = max(ends, default=None)
    return last if last is not None and last > now else None
