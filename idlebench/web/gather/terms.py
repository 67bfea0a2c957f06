"""Suppliers' terms and what they offer."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.db import transaction

from idlebench.core.board.column_map import PREVIEW, Foreign, read_foreign
from idlebench.core.plan.buy_tables import OFFERS, SUPPLIERS, rows_of
from idlebench.core.plan.foreign_offers import NAMES, PRICES, check, guess, read_offers
from idlebench.core.plan.orders import Offer
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import Problem, decode

from ..records.models import ColumnMap, Supplier, SupplierOffer


def say_terms(typed: Mapping[str, str]) -> Supplier:
    """Keep a supplier's terms, as typed; those of one that is known are replaced.

    Raises:
        BadInput: what cannot be read, and in which field.
    """
    found = {}
    for column in SUPPLIERS:
        text = typed.get(column.name, "").strip()
        try:
            if not text and column.required:
                raise BadInput("", "the supplier's name")
            found[column.name] = column.take(text) if text else column.default
        except BadInput as error:
            raise error.within(column.name) from None
    name = found.pop("supplier")
    if len(name) > 60:
        raise BadInput(name, "a name of at most 60 characters", field="supplier")
    row, _ = Supplier.objects.update_or_create(name=name, defaults=found)
    return row


def terms_typed(name: str) -> dict[str, str]:
    """A supplier's terms as they would be typed, to be corrected; empty where nobody said them."""
    row = Supplier.objects.filter(name=name).first()
    if row is None:
        return {}
    told = {"supplier": name, "free_above": "never" if row.free_above is None else f"{row.free_above:g}"}
    return told | {field: f"{getattr(row, field):g}" for field in ("postage", "handling", "minimum")}


@transaction.atomic
def delete_terms(name: str) -> int:
    """Delete a supplier with its terms and offers; how many offers went.

    Raises:
        BadInput: nobody said its terms.
    """
    row = Supplier.objects.filter(name=name).first()
    if row is None:
        raise BadInput(name, "a supplier whose terms are known", "Load the page again.", field="supplier")
    offers = row.offers.count()
    row.delete()
    return offers


@dataclass(frozen=True, kw_only=True)
class Preview:
    """A price list before it is taken: its heading, the map, the first offers read by it, and what cannot be read of them."""

    foreign: Foreign
    columns: dict[str, str]
    offers: tuple[Offer, ...]
    problems: tuple[Problem, ...]
    wrong: BadInput | None


@dataclass(frozen=True)
class Loaded:
    """How many offers were taken, suppliers that are new, and rows that cannot be read."""

    offers: int
    fresh: list[str]
    problems: tuple[Problem, ...]
    rows: int


def is_ours(data: bytes) -> bool:
    """Whether a table of offers has our own headings."""
    first = decode(data).strip().splitlines()[:1]
    named = {cell.strip().strip('"').lower() for line in first for cell in re.split("[,;\t]", line)}
    return {"part", "supplier", "breaks"} <= named


def preview(data: bytes, named: Mapping[str, str], supplier: str, kept: str = "") -> Preview:
    """Look at a price list through a map: the one typed, else the one kept under a name, else the guess.

    A map kept for the same supplier's parts serves, too: its price is the price of the first pack.
    """
    foreign = read_foreign(data)
    columns = dict(named) or _kept(kept, foreign.header) or guess(foreign.header)
    try:
        read = read_offers(foreign, check(columns, foreign.header, supplier), supplier, PREVIEW)
        return Preview(foreign=foreign, columns=columns, offers=read.offers, problems=read.problems, wrong=None)
    except BadInput as error:
        return Preview(foreign=foreign, columns=columns, offers=(), problems=(), wrong=error)


def _kept(name: str, header: Sequence[str]) -> dict[str, str]:
    rows = {row.what: row.columns for row in ColumnMap.objects.filter(name=name)} if name else {}
    columns = rows.get(ColumnMap.OFFERS) or rows.get(ColumnMap.PARTS, {})
    if columns.get("price") in header:
        columns = {**columns, PRICES[0]: columns["price"]}
    return {ours: theirs for ours, theirs in columns.items() if theirs in header and (ours in NAMES or ours in PRICES)}


def load_foreign(data: bytes, named: Mapping[str, str], supplier: str, name: str, *, good_rows: bool) -> Loaded:
    """Take a price list in through a map of our columns to its own, and keep the map under a name.

    Args:
        supplier: who sells what has no supplier of its own. good_rows: take what can be read where some cannot; else nothing is.

    Raises:
        BadInput: a map that does not go with the list, or no name for it.
    """
    foreign = read_foreign(data)
    columns = check(named, foreign.header, supplier)
    if not 2 <= len(name) <= 60:
        raise BadInput(name, "a name for this list, to find it next time", "Such as the supplier's name.", field="name")
    read = read_offers(foreign, columns, supplier)
    if read.problems and not good_rows:
        return Loaded(0, [], read.problems, len(read.offers))
    with transaction.atomic():
        ColumnMap.objects.update_or_create(name=name, what=ColumnMap.OFFERS, defaults={"columns": columns})
        return Loaded(len(read.offers), _take(read.offers), read.problems, len(read.offers))


def load_offers(data: bytes) -> tuple[int, list[str]]:
    """Take in a table of offers; those of the same part, supplier and pack are replaced. How many, and suppliers that are new.

    Raises:
        BadInput: a row cannot be read; nothing is taken.
    """
    rows = rows_of(data, OFFERS, lambda r: (r["part"], r["supplier"], r["pack"]), "offers")
    offers = [
        Offer(
            part=r["part"],
            supplier=r["supplier"],
            pack=r["pack"],
            breaks=r["breaks"],
            stock=r["stock"],
            lead_days=r["lead_days"],
        )
        for r in rows
    ]
    return len(offers), _take(offers)


@transaction.atomic
def _take(offers: Sequence[Offer]) -> list[str]:
    """Keep offers, those of the same part, supplier and pack replaced; suppliers that are new."""
    names = dict.fromkeys(offer.supplier[:60] for offer in offers)
    known = {row.name: row for row in Supplier.objects.filter(name__in=names)}
    fresh = [name for name in names if name not in known]
    known |= {name: Supplier.objects.create(name=name) for name in fresh}
    SupplierOffer.objects.bulk_create(
        [
            SupplierOffer(
                part=offer.part[:60], supplier=known[offer.supplier[:60]], pack=offer.pack, breaks=offer.breaks,
                stock=offer.stock, lead_days=offer.lead_days,
            )
            for offer in offers
        ],
        update_conflicts=True, update_fields=["breaks", "stock", "lead_days"], unique_fields=["part", "supplier", "pack"],
    )  # fmt: skip
    return fresh
