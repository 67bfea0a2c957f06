"""What the Bench says of a unit, kept so that it need not be reckoned for each page."""

from __future__ import annotations

from django.db import models


class UnitCounts(models.Model):
    """What the shop's figures count of a unit, and the stamp of what it was counted from. No foreign key: it may be lost at any time."""

    unit = models.PositiveBigIntegerField(primary_key=True)
    turn = models.PositiveIntegerField()
    stamp = models.CharField(max_length=64)
    parts = models.PositiveIntegerField()
    # what is in, by part and by kind of place, and how many of the places were bad
    data = models.JSONField()

    class Meta:
        verbose_name_plural = "unit counts"

    def __str__(self) -> str:
        return f"counts of unit {self.unit}"


class FailureCount(models.Model):
    """How many parts of a unit failed, of how many, by one thing that they are counted by."""

    unit = models.PositiveBigIntegerField(db_index=True)
    by = models.CharField(max_length=12)
    name = models.CharField(max_length=80, blank=True)
    failed = models.PositiveIntegerField()
    of = models.PositiveIntegerField()

    class Meta:
        ordering = ["id"]
        # in the order in which they are added up
        indexes = [models.Index(fields=["by", "name", "failed", "of"], name="failures_added_up")]

    def __str__(self) -> str:
        return f"{self.by} {self.name}: {self.failed} of {self.of}"


class Summary(models.Model):
    """What was reckoned of a unit, and the stamp of all it was reckoned from. No foreign key: it may be lost at any time."""

    unit = models.PositiveBigIntegerField(primary_key=True)
    stamp = models.CharField(max_length=64)
    data = models.JSONField()
    # when it was reckoned, and when the next of its conclusions may be another by the clock alone; None where none is
    made = models.DateTimeField(null=True)
    until = models.DateTimeField(null=True)

    class Meta:
        verbose_name_plural = "summaries"

    def __str__(self) -> str:
        return f"summary of unit {self.unit}"
