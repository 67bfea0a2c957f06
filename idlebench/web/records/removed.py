"""What was removed by mistake or on purpose, kept for a while."""

from __future__ import annotations

from django.db import models


class Removed(models.Model):
    """A job, unit or board with everything of it, as it was when it was removed; it can be brought back whole."""

    what = models.CharField(max_length=8)
    title = models.CharField(max_length=200)
    rows = models.TextField()
    count = models.PositiveIntegerField(default=0)
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at"]
        verbose_name_plural = "removed"

    def __str__(self) -> str:
        return self.title
