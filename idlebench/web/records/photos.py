"""Photos of a unit, and the ones that lie squared up under a board drawing."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

from .jobs import Board, DismantleStep, Unit
from .parts import Part


def folder() -> Path:
    """Where the pictures of this bench lie."""
    place = Path(settings.PHOTOS)
    place.mkdir(parents=True, exist_ok=True)
    return place


class Photo(models.Model):
    """A photo as it was re-encoded, pinned to a unit and perhaps to a step, a board, a spot on it (mm) or a part."""

    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="photos")
    board = models.ForeignKey(Board, on_delete=models.SET_NULL, null=True, blank=True, related_name="photos")
    part = models.ForeignKey(Part, on_delete=models.SET_NULL, null=True, blank=True, related_name="photos")
    step = models.ForeignKey(DismantleStep, on_delete=models.SET_NULL, null=True, blank=True, related_name="photos")
    # reference of a part that is no capacitor: such parts are lines of their board
    ref = models.CharField(max_length=12, blank=True)
    x = models.FloatField(null=True, blank=True)
    y = models.FloatField(null=True, blank=True)
    words = models.CharField(max_length=200, blank=True)
    file = models.CharField(max_length=60, unique=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    at = models.DateTimeField()
    removed = models.DateTimeField(null=True, blank=True)

    class Meta:
        db_table = "photos_photo"
        ordering = ["id"]

    def __str__(self) -> str:
        return self.words or f"photo {self.pk}"

    @property
    def path(self) -> Path:
        return folder() / self.file

    @property
    def small(self) -> Path:
        """The thumbnail beside it."""
        return folder() / self.file.replace(".jpg", ".small.jpg")

    @property
    def pinned_to(self) -> str:
        """What it is pinned to, in words."""
        if self.part:
            return f"{self.part.board.name} {self.part.ref}"
        if self.step:
            return f"step: {self.step.text}"[:60]
        if self.board and self.ref:
            return f"{self.board.name} {self.ref}"
        if self.board:
            spot = f" at {self.x:g}, {self.y:g} mm" if self.x is not None and self.y is not None else ""
            return f"{self.board.name}{spot}"
        return f"unit {self.unit.name}"


class Underlay(models.Model):
    """A photo squared up to a board's side by four points: pixels in the photo, mm on the board as seen from that side."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="underlays")
    side = models.CharField(max_length=8, default="parts")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="underlays")
    pixels = models.JSONField()
    millimetres = models.JSONField()
    file = models.CharField(max_length=60)

    class Meta:
        db_table = "photos_underlay"
        constraints = [models.UniqueConstraint(fields=["board", "side"], name="underlay_once_a_side")]

    def __str__(self) -> str:
        return f"{self.photo} under {self.board}"

    @property
    def path(self) -> Path:
        return folder() / self.file

    @property
    def found_path(self) -> Path:
        """What was found in it, beside it."""
        return self.path.with_suffix(".found.json")
