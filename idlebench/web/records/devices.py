"""Who may reach the bench from elsewhere, and what it may reach: paired devices, codes to pair one, and instruments."""

from __future__ import annotations

from contextvars import ContextVar

from django.conf import settings
from django.db import models
from django.utils import timezone

#: The name of the device whose request is being answered; "" for this machine.
ACTING: ContextVar[str] = ContextVar("acting", default="")


def acting() -> str:
    """The device that acts now, "" for this machine: what every line of the log and every reading keeps."""
    return ACTING.get()


class Device(models.Model):
    """A phone or another computer that was paired: its login, its name, and what it may do. Ended, it is kept for the log."""

    LOOK, WORK = "look", "work"
    MAY = [(LOOK, "look"), (WORK, "work")]

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="device")
    name = models.CharField(max_length=40)
    may = models.CharField(max_length=4, choices=MAY, default=LOOK)
    paired = models.DateTimeField(default=timezone.now)
    seen = models.DateTimeField(default=timezone.now)
    ended = models.DateTimeField(null=True, blank=True)
    session = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["name"], condition=models.Q(ended=None), name="one_paired_of_a_name")
        ]

    def __str__(self) -> str:
        return self.name


class PairingCode(models.Model):
    """A code that was shown on this machine: its fingerprint, what it gives, and whether it was used. Good once, for a while."""

    mark = models.CharField(max_length=64)
    may = models.CharField(max_length=4, choices=Device.MAY, default=Device.LOOK)
    made = models.DateTimeField(default=timezone.now)
    spent = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"code of {self.made:%Y-%m-%d %H:%M}"


class WrongCode(models.Model):
    """A wrong code that came in: when, and from where."""

    at = models.DateTimeField(default=timezone.now)
    address = models.CharField(max_length=60)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.address} at {self.at:%H:%M}"


class Instrument(models.Model):
    """A measuring instrument that may be asked: named on this machine. No other address is ever connected to."""

    name = models.CharField(max_length=40, unique=True)
    address = models.CharField(max_length=120, unique=True)
    identity = models.CharField(max_length=100, blank=True)
    # a key of instruments.KINDS, and what it read when it was tried last
    kind = models.CharField(max_length=8, default="meter")
    last = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return f"{self.name}, {self.address}"
