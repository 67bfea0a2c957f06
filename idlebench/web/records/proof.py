"""The record of a unit: its events in order, the readings among them, and the times it had power."""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import datetime

from django.db import models

from idlebench.core.prove import Event as CoreEvent

from .devices import acting
from .jobs import Unit


class Reading(models.Model):
    """A reading of a check, with the limits as they stood. The last one of a key counts; none is ever removed."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="readings")
    key = models.CharField(max_length=120)
    step = models.CharField(max_length=20)
    point = models.CharField(max_length=120)
    ask = models.CharField(max_length=300, blank=True)
    typed = models.CharField(max_length=60)
    value = models.FloatField(null=True)
    symbol = models.CharField(max_length=8, blank=True)
    limits = models.CharField(max_length=80)
    passed = models.BooleanField()
    overridden = models.BooleanField(default=False)
    reason = models.CharField(max_length=500, blank=True)
    at = models.DateTimeField()
    # who took it: the name of a paired device, "" for this machine
    device = models.CharField(max_length=40, blank=True, default=acting)

    class Meta:
        db_table = "proving_reading"
        ordering = ["id"]
        indexes = [models.Index(fields=["unit", "key"])]

    def __str__(self) -> str:
        return f"{self.point}: {self.typed}"


class PowerSession(models.Model):
    """A stretch of time in which a unit had power. At most one is open on the whole bench."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="sessions")
    step = models.CharField(max_length=20)
    title = models.CharField(max_length=120)
    began = models.DateTimeField()
    ended = models.DateTimeField(null=True, blank=True)
    # what failed in a way that hurts: it is switched off at once, and nothing else goes on before it is
    off_now = models.CharField(max_length=160, blank=True)

    class Meta:
        db_table = "proving_powersession"
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(models.Value(1), condition=models.Q(ended=None), name="one_live_unit"),
        ]

    def __str__(self) -> str:
        return f"{self.unit}: {self.title}"


class Event(models.Model):
    """One thing that happened to a unit, in order: what the proof is reckoned from. None is ever changed or removed.

    row, board: "p12" and "b3", the rows of a part and a board; no foreign keys, for the record outlives what it speaks of.
    was: of a reading, what the thing was like then; null where nobody noted it.
    """

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="events")
    at = models.DateTimeField()
    kind = models.CharField(max_length=16)
    row = models.CharField(max_length=24, blank=True)
    board = models.CharField(max_length=24, blank=True)
    what = models.CharField(max_length=16, blank=True)
    mains = models.BooleanField(default=False)
    key = models.CharField(max_length=120, blank=True)
    value = models.FloatField(null=True)
    endless = models.BooleanField(default=False)
    overridden = models.BooleanField(default=False)
    step = models.CharField(max_length=20, blank=True)
    was = models.JSONField(null=True)
    words = models.CharField(max_length=300, blank=True)
    reading = models.OneToOneField(Reading, on_delete=models.CASCADE, null=True, related_name="event")

    class Meta:
        db_table = "records_event"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.words or self.key or self.step}".strip()

    @classmethod
    def to_core(cls, units: Iterable[int]) -> dict[int, list[tuple[int, CoreEvent]]]:
        """The events of units as the core knows them, each with its key. Plain values: a page reads hundreds.

        An endless resistance was kept without a number.
        """
        found: dict[int, list[tuple[int, CoreEvent]]] = {}
        rows = cls.objects.filter(unit__in=units).order_by("id").values_list(
            "unit_id", "pk", "kind", "at", "row", "board", "what", "mains", "key", "value", "endless", "overridden", "step",
            "was", "words",
        )  # fmt: skip
        for unit, pk, kind, at, row, board, what, mains, key, value, endless, *rest in rows:
            value = float("inf") if endless else value
            event = CoreEvent(kind, at.timestamp(), row, board, what, mains, key, value, *rest)
            found.setdefault(unit, []).append((pk, event))
        return found

    @classmethod
    def of(cls, unit: Unit, event: CoreEvent, at: datetime, **also: object) -> Event:
        """A row for an event of the core, not saved yet."""
        endless = event.value is not None and math.isinf(event.value)
        facts = {
            name: getattr(event, name)
            for name in ("kind", "row", "board", "what", "mains", "key", "overridden", "step")
        }
        return cls(
            unit=unit, at=at, value=None if endless else event.value, endless=endless, words=event.words[:300],
            was=None if event.was is None else dict(event.was), **facts, **also,
        )  # fmt: skip
