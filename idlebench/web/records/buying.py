"""What is bought: suppliers and what they offer, the plan as it was last made, orders and what of them has come."""

from __future__ import annotations

from django.db import models
from django.utils.functional import cached_property

from idlebench.core.plan import orders as plan

from .devices import acting
from .jobs import Unit
from .kept_plans import KeptBuying


class Supplier(models.Model):
    """A supplier's terms, €."""

    name = models.CharField(max_length=60, unique=True)
    postage = models.FloatField(default=0.0)
    free_above = models.FloatField(null=True, blank=True)
    handling = models.FloatField(default=0.0)
    minimum = models.FloatField(default=0.0)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def to_core(self) -> plan.Supplier:
        """The terms as the core knows them."""
        return plan.Supplier(
            name=self.name,
            postage=self.postage,
            free_above=self.free_above,
            handling=self.handling,
            minimum=self.minimum,
        )


class SupplierOffer(models.Model):
    """A part as a supplier sells it. breaks: (from how many pieces, € a piece) pairs. stock: None where nothing is said."""

    part = models.CharField(max_length=60, db_index=True)
    supplier = models.ForeignKey(Supplier, on_delete=models.CASCADE, related_name="offers")
    pack = models.PositiveIntegerField(default=1)
    breaks = models.JSONField()
    stock = models.PositiveIntegerField(null=True, blank=True)
    lead_days = models.FloatField(default=14.0)

    class Meta:
        ordering = ["part", "id"]
        constraints = [models.UniqueConstraint(fields=["part", "supplier", "pack"], name="offer_once")]

    def __str__(self) -> str:
        return f"{self.part} from {self.supplier}"

    def to_core(self) -> plan.Offer:
        """The offer as the core knows it; its supplier is loaded with it."""
        breaks = tuple((int(least), float(price)) for least, price in self.breaks)
        return plan.Offer(
            part=self.part,
            supplier=self.supplier.name,
            pack=self.pack,
            breaks=breaks,
            stock=self.stock,
            lead_days=self.lead_days,
        )


class BuyingPlan(models.Model):
    """The buying plan that was last made. stamp: what it rests on. found: the plan by each aim, as the core tells it."""

    at = models.DateTimeField()
    stamp = models.CharField(max_length=64)
    found = models.JSONField()

    def __str__(self) -> str:
        return f"plan of {self.at:%Y-%m-%d %H:%M}"

    @cached_property
    def kept(self) -> KeptBuying:
        """The plan that this row holds."""
        return KeptBuying.read(self.found)

    def keep(self, kept: KeptBuying) -> None:
        """Hold another plan; the row is not saved."""
        self.found, self.kept = kept.written(), kept


class Order(models.Model):
    """A parcel that was ordered. closed: nothing more of it will come."""

    supplier = models.CharField(max_length=60)
    at = models.DateTimeField()
    postage = models.FloatField(default=0.0)
    lead_days = models.FloatField(default=0.0)
    closed = models.BooleanField(default=False)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"order {self.pk} from {self.supplier}"


class OrderLine(models.Model):
    """A part of an order: pieces ordered, € a piece (None: nobody says it), and how many have come.

    short: that no more will come was said.
    """

    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="lines")
    part = models.CharField(max_length=60)
    quantity = models.PositiveIntegerField()
    price = models.FloatField(null=True)
    arrived = models.PositiveIntegerField(default=0)
    short = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.quantity} {self.part}"

    @property
    def open(self) -> int:
        """Pieces that are still to come."""
        return 0 if self.short else self.quantity - self.arrived


class OfferOut(models.Model):
    """That a supplier does not deliver a part, whatever it offers: nothing is planned from there until this is taken away."""

    part = models.CharField(max_length=60)
    supplier = models.CharField(max_length=60)
    at = models.DateTimeField()

    class Meta:
        ordering = ["part", "supplier"]
        constraints = [models.UniqueConstraint(fields=["part", "supplier"], name="offer_out_once")]

    def __str__(self) -> str:
        return f"{self.part} does not come from {self.supplier}"


class FirstClaim(models.Model):
    """That a unit comes before others for the pieces of a part: who is given it last comes first."""

    part = models.CharField(max_length=60, db_index=True)
    unit = models.ForeignKey(Unit, on_delete=models.CASCADE, related_name="first_claims")

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.part} to {self.unit} first"


class GatherStep(models.Model):
    """What was done in Gather, so that it can be taken back, the last first."""

    ORDERED, ARRIVED, SHORT, GIVEN = "ordered", "arrived", "short", "given"

    kind = models.CharField(max_length=8)
    order = models.ForeignKey(Order, on_delete=models.CASCADE, null=True, related_name="steps")
    claim = models.ForeignKey(FirstClaim, on_delete=models.CASCADE, null=True)
    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, null=True)
    pieces = models.PositiveIntegerField(default=0)
    # of an order, the places that were settled anew for it: each with its part before and since
    settled = models.JSONField(default=list)
    at = models.DateTimeField()
    # who did it: the name of a paired device, "" for this machine
    device = models.CharField(max_length=40, blank=True, default=acting)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.order or self.claim}"
