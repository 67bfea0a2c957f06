"""The parts found on a board."""

from __future__ import annotations

from django.db import models
from simple_history.models import HistoricalRecords

from idlebench.core.board.parts import FITTED_FIELDS, Fitted
from idlebench.core.judge.reform import CurrentReading

from .jobs import Board


class Part(models.Model):
    """A part as surveyed: the columns of the survey table, SI units, sizes in mm."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="parts")
    ref = models.CharField(max_length=12)
    value = models.FloatField()
    volts = models.FloatField(null=True, blank=True)
    kind = models.CharField(max_length=12, default="wet")
    mounting = models.CharField(max_length=12, default="radial")
    diameter = models.FloatField(null=True, blank=True)
    height = models.FloatField(null=True, blank=True)
    pitch = models.FloatField(null=True, blank=True)
    temperature = models.FloatField(null=True, blank=True)
    bipolar = models.BooleanField(default=False)
    safety = models.CharField(max_length=8, blank=True)
    role = models.CharField(max_length=24, default="unknown")
    rail = models.CharField(max_length=40, blank=True)
    rail_volts = models.FloatField(null=True, blank=True)
    ripple = models.FloatField(null=True, blank=True)
    frequency = models.FloatField(null=True, blank=True)
    ambient = models.FloatField(null=True, blank=True)
    room_diameter = models.FloatField(null=True, blank=True)
    room_height = models.FloatField(null=True, blank=True)
    series = models.CharField(max_length=60, blank=True)
    date = models.CharField(max_length=20, blank=True)
    looks = models.CharField(max_length=12, blank=True)
    esr = models.FloatField(null=True, blank=True)
    esr_frequency = models.FloatField(null=True, blank=True)
    capacitance = models.FloatField(null=True, blank=True)
    leakage = models.FloatField(null=True, blank=True)
    in_circuit = models.BooleanField(default=False)
    x = models.FloatField(null=True, blank=True)
    y = models.FloatField(null=True, blank=True)
    angle = models.FloatField(default=0.0)
    note = models.CharField(max_length=1000, blank=True)
    side = models.CharField(max_length=8, default="parts")
    reformed = models.BooleanField(default=False)
    by_hand = models.CharField(max_length=12, blank=True)
    by_hand_reason = models.CharField(max_length=300, blank=True)
    version = models.PositiveIntegerField(default=0)
    # whether its own looks and readings condemn it: what its series is counted by, see tally.py
    condemned = models.BooleanField(default=False)

    history = HistoricalRecords(table_name="survey_historicalpart")

    class Meta:
        db_table = "survey_part"
        ordering = ["board_id", "id"]
        constraints = [models.UniqueConstraint(fields=["board", "ref"], name="ref_once_on_board")]
        indexes = [models.Index(fields=["ref", "id"], name="part_by_ref")]

    def __str__(self) -> str:
        return self.ref

    def to_core(self) -> Fitted:
        """The row as the core knows it."""
        return Fitted(**{name: getattr(self, name) for name in FITTED_FIELDS})

    def take(self, part: Fitted) -> None:
        """Take over every field of a core value."""
        for name in FITTED_FIELDS:
            setattr(self, name, getattr(part, name))

    def save(self, *args: object, **kwargs: object) -> None:
        """Save, and count the version on: a form that was opened on an older one is told so."""
        self.version += 1
        super().save(*args, **kwargs)


class ReformRun(models.Model):
    """A reforming run of a part. Open until the store is logged as discharged."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="reforming")
    resistance = models.FloatField()
    began = models.DateTimeField()
    outcome = models.CharField(max_length=8, blank=True)
    discharged = models.FloatField(null=True, blank=True)

    class Meta:
        db_table = "survey_reformrun"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"reforming {self.part}"


class ReformReading(models.Model):
    """A current read in a run."""

    run = models.ForeignKey(ReformRun, on_delete=models.CASCADE, related_name="readings")
    step = models.PositiveSmallIntegerField()
    minutes = models.FloatField()
    current = models.FloatField()
    warm = models.BooleanField(default=False)
    # V across the part; null where nobody read them
    volts = models.FloatField(null=True)

    class Meta:
        db_table = "survey_reformreading"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.current} A"

    def to_core(self) -> CurrentReading:
        """The reading as the core knows it."""
        return CurrentReading(
            step=self.step, minutes=self.minutes, current=self.current, warm=self.warm, volts=self.volts
        )
