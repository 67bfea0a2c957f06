"""What was swapped and mended, and when."""

from __future__ import annotations

from django.db import models

from idlebench.core.board.mends import Mend as CoreMend
from idlebench.core.board.mends import read_mend
from idlebench.core.board.modifications import Modification as CoreModification
from idlebench.core.board.modifications import read_modification
from idlebench.core.plan.bags import Pocket

from .jobs import Board
from .parts import Part

#: A safety class that nobody noted.
UNKNOWN = "?"


class Swap(models.Model):
    """A new part soldered in; the paint dab of the bench. The old part's readings on the way out stay with the part."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, related_name="swap")
    item = models.CharField(max_length=60)
    value = models.FloatField()
    kind = models.CharField(max_length=12)
    mounting = models.CharField(max_length=12)
    bipolar = models.BooleanField(default=False)
    # the piece's safety class, "" for none; UNKNOWN of those logged before it was noted, where the Shelf knows them no more
    safety = models.CharField(max_length=8, blank=True, default=UNKNOWN)
    note = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    # whether a piece came off the shelf for it; None where nobody noted it
    took = models.BooleanField(null=True)

    class Meta:
        db_table = "swap_swap"
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.part}: {self.item}"


class DeviceSwap(models.Model):
    """A part that is no capacitor, changed for another: what stood there as it was marked, what is in, and what its checks rest on."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="device_swaps")
    ref = models.CharField(max_length=12)
    what = models.CharField(max_length=12)
    was = models.CharField(max_length=300, blank=True)
    item = models.CharField(max_length=60)
    # of the part that is in, as core.prove.changed asks it
    facts = models.JSONField(default=dict)
    read_out = models.CharField(max_length=120, blank=True)
    note = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    # whether a piece came off the shelf for it; None where nobody noted it
    took = models.BooleanField(null=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["board", "ref"], name="device_swapped_once")]

    def __str__(self) -> str:
        return f"{self.ref}: {self.item}"


class Mend(models.Model):
    """A damage of a board and its mend, kept as typed; the net it is on, where one was known."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="mends")
    line = models.CharField(max_length=300)
    net = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.line

    def to_core(self) -> CoreMend:
        """The mend as the core reads it."""
        return read_mend(self.line)


class Modification(models.Model):
    """A modification of a board, kept as typed: what was added, lifted, moved, removed or changed, and how it is put back."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="modifications")
    line = models.CharField(max_length=300)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.line

    def to_core(self) -> CoreModification:
        """The modification as the core reads it."""
        return read_modification(self.line)


class Bag(models.Model):
    """What was bagged for a board: of each pocket the part and its places, as it was when it was bagged."""

    board = models.OneToOneField(Board, on_delete=models.CASCADE, related_name="bag")
    contents = models.JSONField(default=list)
    at = models.DateTimeField()

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"bag of {self.board}"

    def to_core(self) -> tuple[Pocket, ...]:
        """The pockets as the core knows them; what this version cannot read is left out."""
        found = []
        for number, one in enumerate(self.contents, 1):
            if isinstance(one, dict) and isinstance(one.get("part"), str) and isinstance(one.get("refs"), list):
                found.append(Pocket(number, one["part"], tuple(map(str, one["refs"]))))
        return tuple(found)
