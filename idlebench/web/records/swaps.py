"""What was swapped, and when."""

from __future__ import annotations

from django.db import models

from .parts import Part


class Swap(models.Model):
    """A new part soldered in; the paint dab of the bench. The old part's readings on the way out stay with the part."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, related_name="swap")
    item = models.CharField(max_length=60)
    value = models.FloatField()
    kind = models.CharField(max_length=12)
    mounting = models.CharField(max_length=12)
    bipolar = models.BooleanField(default=False)
    note = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "swap_swap"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.part}: {self.item}"
