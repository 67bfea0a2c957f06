"""Power is noted beside the database as well: a database that was put in another's place knows nothing of it.

A backup, or a copy of the file, may be of a time before power was put on. Whoever trusted it would reach into a charged machine.
"""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone

from idlebench.core.prove import Event as CoreEvent
from idlebench.core.prove.record import POWER, RESTORED

from .. import home
from ..records import steady
from ..records.models import Event, PowerSession, Unit


def _note() -> Path:
    return settings.HOME / "power"


def power_is_on(session: PowerSession) -> None:
    """Note the power that is on, once that is written for good."""
    words = f"{session.pk} unit {session.unit.name} since {session.began.isoformat()}\n"
    transaction.on_commit(lambda: home.written(_note(), words.encode()))


def power_is_off() -> None:
    """Note that none is on, once that is written for good."""
    transaction.on_commit(lambda: _note().unlink(missing_ok=True))


def looked_at() -> str:
    """At a start: what is not known of power, in words, "" for nothing. Then every unit's record says so as well.

    A session that is open goes on where only the server was started anew. Over another start of the computer nobody knows what was
    done to the machine meanwhile. One of which only the note beside the database tells is of a database that was put in another's place.
    """
    words = ""
    if (live := PowerSession.objects.filter(ended=None).select_related("unit").first()) is not None:
        began = Event.objects.filter(unit=live.unit_id, kind=POWER).order_by("-pk").first()
        here = began is not None and began.boot == steady.boot()
        words = "" if here else f"the computer was restarted while unit {live.unit.name} had power"
    elif _note().exists():
        said = _note().read_text(errors="replace").split(" ")[0]
        known = said.isdecimal() and len(said) < 16 and PowerSession.objects.filter(pk=int(said)).exists()
        words = "" if known else "the database is older than the last time a machine had power"
        _note().unlink(missing_ok=True)
    if words:
        older_copy(words)
    return words


def older_copy(words: str, alias: str = "default") -> None:
    """Write into the record of every unit that the database is older than what was done since: power may have been on, and hands inside.

    Args:
        alias: of the database.
    """
    now = timezone.now()
    with transaction.atomic(using=alias):
        units = Unit.objects.using(alias)
        event = CoreEvent(kind=RESTORED, at=now.timestamp(), words=words)
        Event.objects.using(alias).bulk_create(Event.of(unit, event, now) for unit in units.all())
        units.update(turn=models.F("turn") + 1)
