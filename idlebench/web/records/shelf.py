"""The catalogue: what can be bought and what lies on the shelf."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import fields
from typing import Any

from django.db import models

from idlebench.core.board.parts import Capacitor

from .devices import acting

CAPACITOR_FIELDS = tuple(f.name for f in fields(Capacitor))


def capacitor_of(row: Iterable[Any]) -> Capacitor:
    """A row of CAPACITOR_FIELDS as the core knows it."""
    return Capacitor(**dict(zip(CAPACITOR_FIELDS, row, strict=True)))


class CatalogueColumns(models.Model):
    """The columns of the catalogue table, SI units, sizes in mm."""

    series = models.CharField(max_length=60, blank=True, db_index=True)
    kind = models.CharField(max_length=12)
    value = models.FloatField(db_index=True)
    volts = models.FloatField()
    mounting = models.CharField(max_length=12)
    diameter = models.FloatField(default=0.0)
    height = models.FloatField(default=0.0)
    pitch = models.FloatField(default=0.0)
    tolerance = models.FloatField(default=0.2)
    ac_volts = models.FloatField(default=0.0)
    safety = models.CharField(max_length=8, blank=True)
    temperature = models.FloatField(default=85.0)
    life = models.FloatField(default=0.0)
    ripple = models.FloatField(default=0.0)
    ripple_frequency = models.FloatField(default=120.0)
    esr = models.FloatField(default=0.0)
    esr_frequency = models.FloatField(default=120.0)
    bipolar = models.BooleanField(default=False)
    low_impedance = models.BooleanField(default=False)
    pulse = models.BooleanField(default=False)
    price = models.FloatField(default=0.0)
    pack = models.PositiveIntegerField(default=1)
    supplier = models.CharField(max_length=60, blank=True)
    lead_days = models.PositiveIntegerField(default=0)
    stock = models.PositiveIntegerField(default=0)
    note = models.CharField(max_length=400, blank=True)

    class Meta:
        abstract = True


class CatalogueItem(CatalogueColumns):
    """A capacitor of a catalogue."""

    part = models.CharField(max_length=60, unique=True)
    changed = models.DateTimeField(auto_now=True, db_index=True)
    # of a part out of a donor: when it was last read out of circuit; null for a new one
    used_read = models.DateTimeField(null=True, blank=True)

    class Meta:
        db_table = "shelf_catalogueitem"
        ordering = ["series", "value", "volts", "part"]

    def __str__(self) -> str:
        return self.part

    def to_core(self) -> Capacitor:
        """The row as the core knows it."""
        return Capacitor(**{name: getattr(self, name) for name in CAPACITOR_FIELDS})

    @classmethod
    def cores(cls, names: Collection[str]) -> dict[str, Capacitor]:
        """Some parts by their names, as the core knows them; those that the shelf does not have are left out."""
        rows = cls.objects.order_by().filter(part__in=names).values_list(*CAPACITOR_FIELDS) if names else ()
        return {row[0]: capacitor_of(row) for row in rows}


class StagedItem(CatalogueColumns):
    """A row of a large table on its way in: laid down in pieces, and taken over all at once."""

    batch = models.CharField(max_length=24, db_index=True)
    part = models.CharField(max_length=60)

    def __str__(self) -> str:
        return self.part


class ShelfDevice(models.Model):
    """A part that is no capacitor on the shelf: what a person has of a generic size, or one of their own with its facts."""

    part = models.CharField(max_length=60, unique=True)
    # a key of choose.device_tables.TABLES
    what = models.CharField(max_length=12)
    # columns of its table; empty for a generic size, of which only price and stock are kept
    facts = models.JSONField(default=dict)
    price = models.FloatField(default=0.0)
    stock = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["what", "part"]

    def __str__(self) -> str:
        return self.part


class StockChange(models.Model):
    """Pieces of a part that were counted by hand: how many lay there before and since, and what was said of it."""

    part = models.CharField(max_length=60, db_index=True)
    was = models.PositiveIntegerField()
    now = models.PositiveIntegerField()
    why = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    # who did it: the name of a paired device, "" for this machine
    device = models.CharField(max_length=40, blank=True, default=acting)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.part}: {self.was} to {self.now}"


class ColumnMap(models.Model):
    """Which column of a supplier's table is which of ours, kept for the next time: an export of parts, or a list of prices."""

    PARTS, OFFERS = "parts", "offers"
    name = models.CharField(max_length=60)
    what = models.CharField(max_length=10, default=PARTS)
    columns = models.JSONField()

    class Meta:
        db_table = "shelf_columnmap"
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["name", "what"], name="one_map_a_name")]

    def __str__(self) -> str:
        return self.name
