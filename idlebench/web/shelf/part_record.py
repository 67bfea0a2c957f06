"""A part of the Shelf with all that is known of it: stock, who sells it, where it waits and where it is in, what became of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from idlebench.core.plan.buy_tables import OFFERS, ON_SHELF, typed_row
from idlebench.core.refusal import BadInput, no_longer_than
from idlebench.core.wording import many

from ..records.models import DeviceSwap, GatherStep, OfferOut, OrderLine, StockChange, Supplier, SupplierOffer, Swap
from ..unit.stock import recount
from ..unit.wanted import Place, places

#: Lines of history and places shown at once.
SHOWN = 40


@dataclass(frozen=True, kw_only=True)
class OfferLine:
    """An offer as it is corrected. breaks: prices as they are typed, "" where none is known. out: no plan uses it."""

    pk: int
    supplier: str
    pack: int
    breaks: str
    stock: str
    lead_days: float
    out: bool


@dataclass(frozen=True, kw_only=True)
class Happened:
    """A line of a part's history."""

    at: datetime
    text: str
    board: int | None = None


@dataclass(frozen=True, kw_only=True)
class PartRecord:
    """What is known of a part beside its figures. coming: pieces on order. out: suppliers that did not deliver it, so no plan uses them."""

    offers: tuple[OfferLine, ...]
    out: tuple[OfferOut, ...]
    waits: tuple[Place, ...]
    coming: int
    history: tuple[Happened, ...]
    suppliers: tuple[str, ...]


def record_of(part: str) -> PartRecord:
    """All of it; the history the latest first."""
    out = tuple(OfferOut.objects.filter(part=part))
    excluded = {one.supplier for one in out}
    rows = SupplierOffer.objects.filter(part=part).select_related("supplier")
    lines = OrderLine.objects.filter(part=part).select_related("order").order_by("-id")[:SHOWN]
    return PartRecord(
        offers=tuple(_offer(row, row.supplier.name in excluded) for row in rows),
        out=out,
        waits=tuple(place for place in places() if place.item == part)[:SHOWN],
        coming=sum(line.open for line in lines),
        history=tuple(sorted(_history(part, lines), key=lambda one: one.at, reverse=True)[:SHOWN]),
        suppliers=tuple(Supplier.objects.values_list("name", flat=True)),
    )


def _offer(row: SupplierOffer, out: bool) -> OfferLine:
    breaks = " ".join(f"{least}:{price:.10g}" for least, price in row.breaks)
    stock = "" if row.stock is None else str(row.stock)
    return OfferLine(
        pk=row.pk, supplier=row.supplier.name, pack=row.pack, breaks=breaks, stock=stock, lead_days=row.lead_days, out=out
    )  # fmt: skip


def _history(part: str, lines: list[OrderLine]) -> list[Happened]:
    found = [
        Happened(at=line.order.at, text=f"{line.quantity} ordered from {line.order.supplier}" + _each(line.price))
        for line in lines
    ]
    steps = GatherStep.objects.filter(line__part=part).select_related("line", "line__order")[:SHOWN]
    for step in steps:
        words = f"{step.pieces} received" if step.kind == GatherStep.ARRIVED else "rest not delivered"
        found.append(Happened(at=step.at, text=f"{words} from {step.line.order.supplier}"))
    for change in StockChange.objects.filter(part=part)[:SHOWN]:
        why = f": {change.why}" if change.why else ""
        found.append(Happened(at=change.at, text=f"stock corrected from {change.was} to {change.now}{why}"))
    for swap in Swap.objects.filter(item=part).select_related("part__board__unit").order_by("-id")[:SHOWN]:
        board = swap.part.board
        found.append(
            Happened(
                at=swap.at, text=f"soldered in: unit {board.unit.name}, {board.name} {swap.part.ref}", board=board.pk
            )
        )
    for swap in DeviceSwap.objects.filter(item=part).select_related("board__unit").order_by("-id")[:SHOWN]:
        board = swap.board
        found.append(
            Happened(at=swap.at, text=f"fitted: unit {board.unit.name}, {board.name} {swap.ref}", board=board.pk)
        )
    return found


def _each(price: float | None) -> str:
    return ", no price" if price is None else f", €{price:.2f} each"


def correct(part: str, typed: Mapping[str, str]) -> str:
    """Say the stock and the price of a part as they are; what was done, in words.

    Raises:
        BadInput: what cannot be read, and in which field.
    """
    found = typed_row(ON_SHELF, typed)
    recount(part, found["stock"], found["price"], found["why"])
    return f"{many(found['stock'], 'piece')} of {part} in stock"


def save_offer(part: str, typed: Mapping[str, str]) -> SupplierOffer:
    """Keep what a supplier offers of a part, as it was typed; one of the same supplier and pack is replaced.

    Args:
        part: its name.
        typed: supplier, pack, breaks, stock, lead_days; and the row that is corrected under "offer", "" for a new one.

    Raises:
        BadInput: what cannot be read, and in which field; a corrected offer that is gone.
    """
    found = typed_row(OFFERS[1:], typed)
    name = no_longer_than(found.pop("supplier"), 60)
    with transaction.atomic():
        if typed.get("offer"):
            delete_offer(part, typed["offer"])
        row, _ = Supplier.objects.get_or_create(name=name)
        made, _ = SupplierOffer.objects.update_or_create(
            part=part, supplier=row, pack=found.pop("pack"), defaults=found
        )
    return made


def delete_offer(part: str, pk: str) -> str:
    """Take an offer away; who made it.

    Raises:
        BadInput: there is no such offer.
    """
    plain = pk.isascii() and pk.isdigit() and len(pk) < 16
    row = SupplierOffer.objects.select_related("supplier").filter(pk=int(pk), part=part).first() if plain else None
    if row is None:
        raise BadInput(pk, "an offer of this part", "Load the page again.", field="offer")
    row.delete()
    return row.supplier.name
