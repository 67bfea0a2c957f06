"""The workshop's own page: what stands in the head of a sheet for an owner. One row."""

from __future__ import annotations

from django.db import models


class Workshop(models.Model):
    """Who answers for the work. lines: address, a line each. answered: for how long, in words. costs: whether the sheet says the cost.

    logo: a small JPEG of our own making, empty for none.
    """

    name = models.CharField(max_length=80, blank=True)
    lines = models.CharField(max_length=300, blank=True)
    contact = models.CharField(max_length=120, blank=True)
    worker = models.CharField(max_length=80, blank=True)
    answered = models.CharField(max_length=160, blank=True)
    costs = models.BooleanField(default=False)
    logo = models.BinaryField(default=bytes, blank=True)

    def __str__(self) -> str:
        return self.name or "the workshop"
