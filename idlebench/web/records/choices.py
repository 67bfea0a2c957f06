"""What was decided for each place."""

from __future__ import annotations

from django.db import models
from simple_history.models import HistoricalRecords

from .jobs import Board
from .parts import Part


class Choice(models.Model):
    """A part taken for a place, the old one left in, or a mains filter part left out for a test; with the reasons as they stood then."""

    TAKE, KEEP, OUT = "take", "keep", "out"

    part = models.OneToOneField(Part, on_delete=models.CASCADE, related_name="choice")
    action = models.CharField(
        max_length=6, choices=[(TAKE, "use a new part"), (KEEP, "keep the old part"), (OUT, "leave out for a test")]
    )
    item = models.CharField(max_length=60, blank=True)
    # settled by a person to this part; otherwise a buying plan may take another that fits
    by_hand = models.BooleanField(default=True)
    verdict = models.CharField(max_length=12, blank=True)
    reasons = models.JSONField(default=list)
    # what of the place was corrected after it was chosen, in words; such a choice counts for nothing
    outdated = models.CharField(max_length=300, blank=True, default="")
    at = models.DateTimeField(auto_now=True)

    history = HistoricalRecords(table_name="choose_historicalchoice")

    class Meta:
        db_table = "choose_choice"
        ordering = ["id"]

    def __str__(self) -> str:
        return self.item or "old part kept"


class DeviceChoice(models.Model):
    """A regulator or fuse taken for a place, with the reasons as they stood then.

    With OUTDATED for a verdict it counts for nothing: its place was described anew since, and the reason says how.
    """

    OUTDATED = "outdated"

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="device_choices")
    ref = models.CharField(max_length=12)
    item = models.CharField(max_length=60)
    verdict = models.CharField(max_length=12)
    reasons = models.JSONField(default=list)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        db_table = "choose_otherchoice"
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["board", "ref"], name="other_choice_once")]

    def __str__(self) -> str:
        return f"{self.ref}: {self.item}"


class FuseBlown(models.Model):
    """A fuse that blew, and the cause once it was found."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="blown")
    ref = models.CharField(max_length=12)
    at = models.DateTimeField()
    cause = models.CharField(max_length=300, blank=True)

    class Meta:
        db_table = "choose_fuseblown"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.ref} blew {self.at:%Y-%m-%d}"
