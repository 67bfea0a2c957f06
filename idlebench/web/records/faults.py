"""What was seen and read of a fault beside the checks, and what it turned out to be."""

from __future__ import annotations

from django.db import models

from .devices import acting
from .jobs import Board, Job, Unit


class Clue(models.Model):
    """A sign that was seen, or a reading taken to find a fault, kept as typed. None is removed: one is taken back."""

    SIGN, READING, NET = "sign", "reading", "net"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="clues")
    board = models.ForeignKey(Board, on_delete=models.CASCADE, null=True, blank=True, related_name="clues")
    kind = models.CharField(max_length=8, choices=[(SIGN, "a sign"), (READING, "a reading"), (NET, "ohms of a net")])
    text = models.CharField(max_length=200)
    # the step that had power then, "" with everything off
    step = models.CharField(max_length=20, blank=True)
    # read of the simulated bench and not of a machine
    simulated = models.BooleanField(default=False)
    # told of the time before the unit came here: it weighs, and proves nothing
    as_found = models.BooleanField(default=False)
    at = models.DateTimeField()
    dropped = models.DateTimeField(null=True, blank=True)
    device = models.CharField(max_length=40, blank=True, default=acting)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.text


class KnownFault(models.Model):
    """A fault that stays, accepted by the owner: it is said on the sheet, and is in the way of nothing that is safe.

    key: of the check that failed, "" where none tells it. follow_up: the job that was made of it.
    """

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="known_faults")
    text = models.CharField(max_length=300)
    key = models.CharField(max_length=120, blank=True)
    owner = models.CharField(max_length=80)
    at = models.DateTimeField()
    follow_up = models.ForeignKey(Job, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    device = models.CharField(max_length=40, blank=True, default=acting)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.text


class Cause(models.Model):
    """A suspect that was taken on, and what came of it: confirmed by work on it and a check that passed since, or ruled out.

    rails: those whose readings failed then, apart by semicolons. role, series, age, heat: what the shop counts it by.
    """

    OPEN, CONFIRMED, RULED_OUT = "", "confirmed", "ruled out"

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="causes")
    board = models.ForeignKey(Board, on_delete=models.CASCADE, null=True, blank=True, related_name="causes")
    ref = models.CharField(max_length=80)
    failure = models.CharField(max_length=80)
    place = models.CharField(max_length=80, blank=True)
    share = models.FloatField(default=0.0)
    rails = models.CharField(max_length=200, blank=True)
    role = models.CharField(max_length=24, blank=True)
    series = models.CharField(max_length=60, blank=True)
    age = models.CharField(max_length=20, blank=True)
    heat = models.CharField(max_length=20, blank=True)
    simulated = models.BooleanField(default=False)
    at = models.DateTimeField()
    outcome = models.CharField(max_length=10, blank=True, choices=[(CONFIRMED, "confirmed"), (RULED_OUT, "ruled out")])
    words = models.CharField(max_length=300, blank=True)
    settled = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["unit", "board", "ref", "failure"], condition=models.Q(outcome=""), name="cause_open_once"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.ref} {self.failure}"
