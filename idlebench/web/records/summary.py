"""What the Bench says of a unit, kept so that it need not be reckoned for each page."""

from __future__ import annotations

from django.db import models


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
