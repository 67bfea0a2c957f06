"""The log of everything that was done."""

from __future__ import annotations

from django.db import models

from .devices import acting
from .jobs import Unit


class Entry(models.Model):
    """One line of the log."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="entries")
    at = models.DateTimeField()
    kind = models.CharField(max_length=16)
    text = models.CharField(max_length=600)
    # who did it: the name of a paired device, "" for this machine
    device = models.CharField(max_length=40, blank=True, default=acting)

    class Meta:
        db_table = "ledger_entry"
        ordering = ["-id"]
        verbose_name_plural = "entries"

    def __str__(self) -> str:
        return self.text
