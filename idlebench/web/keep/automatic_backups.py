"""Backups that are made by themselves, and how long each is kept."""

from __future__ import annotations

import sqlite3
from datetime import date, timedelta
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connections
from django.utils import timezone

from idlebench.core.refusal import BadInput

from ..ledger.figures import count_anew
from ..records.models import Job
from ..unit.series import rejudge
from .backups import live, log, make, photo_files
from .removing import sweep

#: Kept of the backups that are made by themselves: one a day, and one a week.
DAILY, WEEKLY = 7, 8


def made_by_themselves() -> list[Path]:
    """The backups that were made by themselves, the newest first."""
    return sorted(settings.BACKUPS.glob("day-????-??-??.zip"), reverse=True)


def all_kept() -> list[Path]:
    """Every backup in the bench's own folder, the newest first."""
    return sorted(settings.BACKUPS.glob("*.zip"), key=lambda p: p.stat().st_mtime, reverse=True)


def automatic(today: date) -> Path | None:
    """Today's backup, where there is none yet; older ones go, but for one a day of the last week and one a week before that."""
    settings.BACKUPS.mkdir(parents=True, exist_ok=True, mode=0o700)
    to, made = settings.BACKUPS / f"day-{today:%Y-%m-%d}.zip", None
    if not to.exists() and Job.objects.exists():
        made = make(to).path
    for path in made_by_themselves():
        if path.name not in {f"day-{day:%Y-%m-%d}.zip" for day in _wanted(today)}:
            path.unlink(missing_ok=True)
    return made


def _wanted(today: date) -> set[date]:
    """Which days' backups are kept: the last ones, and the first there is of each week before."""
    days = sorted(date.fromisoformat(p.stem.removeprefix("day-")) for p in made_by_themselves())
    weeks: dict[tuple[int, int], date] = {}
    for day in days:
        weeks.setdefault(day.isocalendar()[:2], day)
    return {*days[-DAILY:], *sorted(weeks.values())[-WEEKLY:]}


def by_the_clock() -> None:
    """What is done at the start and then every hour: the day's backup, and letting go what was removed a month ago."""
    try:
        automatic(timezone.localdate())
        sweep()
        rejudge()
        count_anew()
    except (BadInput, OSError, sqlite3.Error, DatabaseError) as error:
        log.error("Today's backup was not made: %s", error)
    finally:
        connections.close_all()


def sweep_unclaimed(older: timedelta = timedelta(days=1)) -> int:
    """Put photo files that no row speaks of aside, as a write that was cut off leaves them; how many. They are not deleted."""
    folder = settings.PHOTOS
    if not folder.is_dir():
        return 0
    known, before, count = photo_files(live()), (timezone.now() - older).timestamp(), 0
    for path in folder.glob("*.jpg"):
        if path.name not in known and path.stat().st_mtime < before:
            aside = folder / "unclaimed"
            aside.mkdir(exist_ok=True, mode=0o700)
            path.replace(aside / path.name)
            count += 1
    return count
