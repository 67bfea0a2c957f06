"""Readings of checks, and the times a unit had power."""

from __future__ import annotations

from django.db import models

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

    class Meta:
        db_table = "proving_powersession"
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(models.Value(1), condition=models.Q(ended=None), name="one_live_unit"),
        ]

    def __str__(self) -> str:
        return f"{self.unit}: {self.title}"
