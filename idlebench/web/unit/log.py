"""Writing the log of a unit."""

from __future__ import annotations

from django.utils import timezone

from ..records.models import Entry, Unit


def log(unit: Unit, kind: str, text: str) -> Entry:
    """Write one line of the log."""
    return Entry.objects.create(unit=unit, at=timezone.now(), kind=kind, text=text[:600])
