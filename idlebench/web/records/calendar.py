"""When the shop works, and the calendar as it was last planned."""

from __future__ import annotations

from django.db import models
from django.utils.functional import cached_property

from .kept_plans import KeptCalendar


class ShopHours(models.Model):
    """When hands are at work: minutes a day from a minute of the day on, and weekdays that are free, 0 for Monday. One row."""

    minutes = models.PositiveIntegerField(default=120)
    begins = models.PositiveIntegerField(default=19 * 60)
    free = models.JSONField(default=list)
    hands = models.PositiveIntegerField(default=1)
    # hours of further people, each with begins, minutes and free of their own
    others = models.JSONField(default=list)
    # how much it matters that a unit is done early, by its key; 1 where nobody said
    weights = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"{self.minutes} min a day"

    @property
    def told(self) -> dict[str, object]:
        """All that a plan rests on of it, as plain values."""
        return {name: getattr(self, name) for name in ("minutes", "begins", "free", "hands", "others", "weights")}


class CalendarPlan(models.Model):
    """The calendar as it was last planned. begins: minute 0. found: its tasks, minutes from there, and what moved since the one before."""

    at = models.DateTimeField()
    begins = models.DateTimeField()
    found = models.JSONField()

    def __str__(self) -> str:
        return f"calendar of {self.at:%Y-%m-%d %H:%M}"

    @cached_property
    def kept(self) -> KeptCalendar:
        """The plan that this row holds."""
        return KeptCalendar.read(self.found)
