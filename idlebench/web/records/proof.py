"""The record of a unit: its events in order, the readings among them, and the times it had power."""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import datetime

from django.db import models

from idlebench.core.prove import Event as CoreEvent
from idlebench.core.prove.record import IMPORTED

from . import steady as clocks
from .devices import acting
from .jobs import Unit
from .prepared import Prepared


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


#: What the record says of an arrival.
IMPORTED_WORDS = "imported from a file"


class ImportedRecord(models.Model):
    """That a unit came with a file. Up to the last event of then its record is another bench's: it proves nothing here until somebody
    takes it over by name, and is never a proof that a store is empty or that nothing was left inside. It belongs to this bench, and does
    not go along when the job leaves again.

    last: the key of its last event then. taken: when, by whom and why it was taken over.
    """

    unit = models.OneToOneField(Unit, on_delete=models.CASCADE, related_name="imported_record")
    last = models.PositiveBigIntegerField()
    at = models.DateTimeField()
    boot = models.CharField(max_length=36, blank=True)
    steady = models.DateTimeField(null=True)
    taken = models.DateTimeField(null=True, blank=True)
    by = models.CharField(max_length=60, blank=True)
    reason = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.unit} came with a file"


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
    # when it was by this machine's steady clock, and at which start of the machine; they stay on the bench that wrote them
    boot = models.CharField(max_length=36, blank=True)
    steady = models.DateTimeField(null=True)

    class Meta:
        db_table = "records_event"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.words or self.key or self.step}".strip()

    @classmethod
    def to_core(cls, units: Iterable[int], as_told: bool = False) -> dict[int, list[tuple[int, CoreEvent]]]:
        """The events of units as the core knows them, each with its key. Plain values: a page reads hundreds.

        An endless resistance was kept without a number. What came with a file is marked, and after it stands that it came.

        Args:
            as_told: as a file tells them: without what only this bench knows of them, marks and the steady clock.
        """
        found: dict[int, list[tuple[int, CoreEvent]]] = {}
        came: dict[int, tuple[int, CoreEvent]] = {}
        units = list(units)
        rows = _EVENTS.rows(units[0]) if len(units) == 1 else _events_of(units)
        for (
            unit,
            last,
            taken,
            arrived,
            arrived_boot,
            arrived_steady,
            pk,
            kind,
            at,
            row,
            board,
            what,
            mains,
            *rest,
        ) in rows:
            key, value, endless, overridden, step, was, words, boot_, steady = rest
            events = found.setdefault(unit, [])
            if last is not None and not as_told and unit not in came:
                seconds = clocks.as_seconds(arrived_steady)
                told = CoreEvent(
                    kind=IMPORTED, at=arrived.timestamp(), words=IMPORTED_WORDS, boot=arrived_boot, steady=seconds
                )
                came[unit] = (last, told)
            if unit in came and pk > last and came[unit] not in events:
                events.append(came[unit])
            clock = {} if as_told else {"boot": boot_, "steady": clocks.as_seconds(steady)}
            imported = unit in came and pk <= last and taken is None
            events.append(
                (
                    pk,
                    CoreEvent(
                        kind=kind,
                        at=at.timestamp(),
                        row=row,
                        board=board,
                        what=what,
                        mains=mains,
                        key=key,
                        value=float("inf") if endless else value,
                        overridden=overridden,
                        step=step,
                        was=was,
                        words=words,
                        imported=imported,
                        **clock,
                    ),
                )
            )
        for unit, one in came.items():
            if one not in found[unit]:
                found[unit].append(one)
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
            was=None if event.was is None else dict(event.was), boot=clocks.boot(), steady=clocks.at(at), **facts, **also,
        )  # fmt: skip


def _events_of(units: Iterable[int]) -> models.QuerySet:
    """The events of units in order, each with what is known of its unit's import."""
    return Event.objects.filter(unit__in=units).order_by("id").values_list(
            "unit_id", *(f"unit__imported_record__{name}" for name in ("last", "taken", "at", "boot", "steady")),
            "pk", "kind", "at", "row", "board", "what", "mains", "key", "value", "endless", "overridden", "step", "was", "words",
            "boot", "steady",
    )  # fmt: skip


_EVENTS = Prepared(lambda unit: _events_of([unit]))


class RoundAnswer(models.Model):
    """An answer of a round that was judged, by the page's own key: sent twice, it is told what became of it and changes nothing."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="round_answers")
    # made by the page: one for each answer, one for each page that was loaded
    key = models.CharField(max_length=40)
    play = models.CharField(max_length=40)
    # the event of the reading, and what the page was told
    event = models.PositiveBigIntegerField()
    told = models.JSONField()
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["unit", "key"], name="answer_once_in_unit")]

    def __str__(self) -> str:
        return f"answer {self.key}"
