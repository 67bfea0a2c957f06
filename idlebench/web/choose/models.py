"""What was decided for each place."""

from __future__ import annotations

from django.db import models
from simple_history.models import HistoricalRecords

from ..survey.models import Part


class Choice(models.Model):
    """A part taken for a place, or the old one left in; with the reasons as they stood then."""

    TAKE, KEEP = "take", "keep"

    part = models.OneToOneField(Part, on_delete=models.CASCADE, related_name="choice")
    action = models.CharField(max_length=6, choices=[(TAKE, "take a new part"), (KEEP, "leave the old one in")])
    item = models.CharField(max_length=60, blank=True)
    verdict = models.CharField(max_length=12, blank=True)
    reasons = models.JSONField(default=list)
    at = models.DateTimeField(auto_now=True)

    history = HistoricalRecords()

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.item or "left in"
