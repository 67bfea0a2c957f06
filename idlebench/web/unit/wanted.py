"""What open units wait for, what lies here or comes for it, and who gets which piece."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from django.db.models import Exists, F, OuterRef, Q, Sum, Value

from idlebench.core.plan.buy_tables import UNKNOWN_LEAD
from idlebench.core.plan.orders import Offer, Supplier

from ..records.models import (
    CatalogueItem,
    Choice,
    DeviceChoice,
    DeviceSwap,
    FirstClaim,
    OfferOut,
    OrderLine,
    SupplierOffer,
)
from ..records.models import Supplier as SupplierRow
from .stock import devices as all_devices

#: Who sells a part of which the Shelf names nobody.
NOBODY = "not named"


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place that waits for its part. pk: its part's row, 0 for a regulator or fuse."""

    pk: int
    job: int
    unit: int
    unit_name: str
    board: int
    board_name: str
    ref: str
    item: str
    by_hand: bool

    @property
    def name(self) -> str:
        """How a plan and an order name it."""
        return f"{self.unit_name} {self.board_name} {self.ref}"


def _place(row: tuple) -> Place:
    pk, job, unit, unit_name, board, board_name, ref, item, by_hand, _ = row
    return Place(
        pk=pk, job=job, unit=unit, unit_name=unit_name, board=board, board_name=board_name, ref=ref, item=item, by_hand=bool(by_hand)
    )  # fmt: skip


def places() -> list[Place]:
    """What every open unit still waits for, capacitors first, the oldest job first."""
    at = "part__board__unit"
    # nothing more is planned for a donor
    parts = Choice.objects.order_by().exclude(part__board__unit__decision="donor").filter(
        part__board__unit__handed_over=None, part__board__replaced="", part__swap=None, action=Choice.TAKE, outdated=""
    ).values_list(
        "part_id", f"{at}__job_id", f"{at}_id", f"{at}__name", "part__board_id", "part__board__name", "part__ref", "item", "by_hand",
        "pk",
    )  # fmt: skip
    there = DeviceSwap.objects.filter(board=OuterRef("board_id"), ref=OuterRef("ref"))
    devices = (
        DeviceChoice.objects.order_by()
        .exclude(board__unit__decision="donor")
        .filter(~Exists(there), ~Q(verdict=DeviceChoice.OUTDATED), board__unit__handed_over=None, board__replaced="")
    )
    others = devices.values_list(
        Value(0), "board__unit__job_id", "board__unit_id", "board__unit__name", "board_id", "board__name", "ref", "item",
        Value(True), "pk",
    )  # fmt: skip

    def turn(row: tuple) -> tuple:
        # capacitors by unit, board and part; what is none by board, in the order it was taken
        return (not row[0], row[1], row[2] if row[0] else 0, row[4], row[0] or row[9])

    return [_place(row) for row in sorted((*parts, *others), key=turn)]


@dataclass(frozen=True, kw_only=True)
class Stock:
    """What is known of the parts that places want: pieces here and coming, offers and terms. said: suppliers who told their terms."""

    here: Mapping[str, int]
    coming: Mapping[str, int]
    offers: tuple[Offer, ...]
    terms: Mapping[str, Supplier]
    said: frozenset[str] = frozenset()

    @cached_property
    def offered(self) -> frozenset[str]:
        return frozenset(offer.part for offer in self.offers)

    def have(self, part: str) -> int:
        return self.here.get(part, 0) + self.coming.get(part, 0)


def stock_of(parts: Iterable[str]) -> Stock:
    """Pieces and offers of some parts.

    What suppliers were said to offer stands before the price that the Shelf has. A new part of which nobody says a price is offered
    without one. What was said not to come is no offer, nor is a part out of a donor.
    """
    names = set(parts)
    here: dict[str, int] = {}
    out = set(OfferOut.objects.filter(part__in=names).values_list("part", "supplier"))
    rows = SupplierOffer.objects.filter(part__in=names).select_related("supplier")
    offers = [offer for offer in (row.to_core() for row in rows) if (offer.part, offer.supplier) not in out]
    named, priced = {offer.part for offer in offers}, {offer.part for offer in offers if offer.priced}

    def on_shelf(part: str, supplier: str, pack: int, price: float, days: float) -> None:
        if part in (priced if price > 0 else named) or (part, supplier) in out:
            return
        breaks = ((1, price),) if price > 0 else ()
        offers.append(Offer(part=part, supplier=supplier, pack=pack, breaks=breaks, stock=None, lead_days=days))

    columns = ("part", "stock", "price", "pack", "supplier", "lead_days", "used_read")
    for part, stock, price, pack, supplier, days, used in CatalogueItem.objects.filter(part__in=names).values_list(
        *columns
    ):
        here[part] = stock
        if used is None or price > 0:
            on_shelf(part, supplier or NOBODY, max(1, pack), price, float(days or UNKNOWN_LEAD))
    for device in all_devices() if names - set(here) else ():
        if device.part in names:
            here[device.part] = device.stock
            on_shelf(device.part, NOBODY, 1, device.price, UNKNOWN_LEAD)
    terms = {row.name: row.to_core() for row in SupplierRow.objects.all()}
    said = frozenset(terms)
    for name in {offer.supplier for offer in offers}:
        terms.setdefault(name, Supplier(name=name))
    return Stock(here=here, coming=coming(names), offers=tuple(offers), terms=terms, said=said)


def coming(parts: Iterable[str]) -> dict[str, int]:
    """Pieces of some parts that are ordered and not here yet."""
    lines = OrderLine.objects.filter(part__in=set(parts), short=False, order__closed=False)
    rows = lines.values("part").annotate(open=Sum(F("quantity") - F("arrived"))).values_list("part", "open")
    return {part: pieces for part, pieces in rows if pieces > 0}


@dataclass(frozen=True, kw_only=True)
class Waiting:
    """Places that wait for a part: those for which a piece lies here or comes, in the order of the jobs, and those without."""

    part: str
    here: int
    coming: int
    got: tuple[Place, ...]
    later: tuple[Place, ...]
    without: tuple[Place, ...]

    @property
    def may_get(self) -> tuple[Place, ...]:
        """Places of units to which a piece could be given that goes to another unit now, one for each unit."""
        holders = {place.unit for place in (*self.got, *self.later)}
        first = {place.unit: place for place in reversed(self.without)}
        return tuple(place for unit, place in reversed(first.items()) if holders - {unit})


def waiting(wanted: list[Place], stock: Stock | None = None) -> list[Waiting]:
    """Who gets which piece: units that were given a part before others, then the oldest job; never more than there are.

    Args:
        stock: of what they want, for who has it already.
    """
    stock = stock or stock_of(p.item for p in wanted)
    by_part: dict[str, list[Place]] = {}
    for place in wanted:
        by_part.setdefault(place.item, []).append(place)
    given: dict[str, list[int]] = {}
    for part, unit in FirstClaim.objects.filter(part__in=by_part).values_list("part", "unit_id"):
        given.setdefault(part, []).append(unit)
    found = []
    for part, members in by_part.items():
        if first := given.get(part):
            members.sort(key=lambda place: first.index(place.unit) if place.unit in first else len(first))
        here, later = stock.here.get(part, 0), stock.coming.get(part, 0)
        found.append(
            Waiting(
                part=part,
                here=here,
                coming=later,
                got=tuple(members[:here]),
                later=tuple(members[here : here + later]),
                without=tuple(members[here + later :]),
            )
        )
    return found


def shares(unit: int, here: Mapping[str, int]) -> dict[str, tuple[int, int]]:
    """Of each part that a unit waits for: pieces that lie here for it, and pieces that come for it; those of others are left out.

    Args:
        here: what lies here of the parts that the unit waits for.
    """
    wanted = [place for place in places() if place.item in here]
    stock = Stock(here=here, coming=coming(here), offers=(), terms={})
    return {
        one.part: (sum(p.unit == unit for p in one.got), sum(p.unit == unit for p in one.later))
        for one in waiting(wanted, stock)
    }
