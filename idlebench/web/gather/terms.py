"""Suppliers' terms and what they offer."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.db import transaction

from idlebench.core.board.column_map import PREVIEW, Foreign, read_foreign
from idlebench.core.plan.buy_tables import OFFERS, SUPPLIERS, rows_of, typed_row
from idlebench.core.plan.foreign_offers import (
    COUNTS_FROM,
    NAMES,
    PRICES,
    check,
    currency_of,
    guess,
    read_offers,
    style_of,
)
from idlebench.core.plan.orders import Offer
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import Problem, decode, write_table
from idlebench.core.text.quantity import read

from ..records.models import ColumnMap, Supplier, SupplierOffer

#: The currency of the shop.
OURS = "EUR"


def say_terms(typed: Mapping[str, str]) -> Supplier:
    """Keep a supplier's terms, as typed; those of one that is known are replaced.

    Raises:
        BadInput: what cannot be read, and in which field.
    """
    found = typed_row(SUPPLIERS, typed)
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
    """A price list before it is taken.

    Attributes:
        foreign: its heading and rows. columns: the map. offers: what is read by it, and the first few of it.
        problems: rows that cannot be read. style: the decimal sign it is read with, "" where nothing shows it.
        currency: what its prices are in, "" where nothing says so. wrong: why nothing can be read.
    """

    foreign: Foreign
    columns: dict[str, str]
    offers: tuple[Offer, ...] = ()
    problems: tuple[Problem, ...] = ()
    style: str = ""
    currency: str = ""
    wrong: BadInput | None = None

    @property
    def first(self) -> tuple[Offer, ...]:
        return self.offers[:PREVIEW]

    @property
    def abroad(self) -> bool:
        """Whether its prices are in another currency than ours."""
        return self.currency not in ("", OURS)


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


@dataclass(frozen=True)
class Written:
    """How a list is written, as it was said: the decimal sign, "" for as it shows; € for one of its own currency, "" for not said."""

    style: str = ""
    rate: str = ""

    def euros(self, currency: str) -> float:
        """€ for one of a list's currency.

        Raises:
            BadInput: it is another than ours, and the rate is none.
        """
        if currency in ("", OURS):
            return 1.0
        try:
            return read(self.rate, "", above=0, high=1e6)
        except BadInput:
            text = "Type the rate of today from a bank. Prices are saved in €."
            raise BadInput(
                self.rate, f"the exchange rate, € per {currency}, such as 0.92", text, field="rate"
            ) from None


def preview(
    data: bytes, named: Mapping[str, str], supplier: str, kept: str = "", written: Written = Written()
) -> Preview:
    """Look at a price list through a map: the one typed, else the one kept under a name, else the guess.

    A map kept for the same supplier's parts serves, too: its price is the price of the first pack.
    """
    foreign = read_foreign(data)
    columns = dict(named) or _kept(kept, foreign.header) or guess(foreign.header, foreign.rows)
    currency = ""
    try:
        checked = check(columns, foreign.header, supplier)
        currency = currency_of(foreign, checked)
        style = written.style or style_of(foreign, checked)
        offers = read_offers(foreign, checked, supplier, style=style, rate=written.euros(currency))
    except BadInput as error:
        return Preview(foreign=foreign, columns=columns, currency=currency, wrong=error)
    return Preview(
        foreign=foreign, columns=columns, offers=offers.offers, problems=offers.problems, style=style, currency=currency
    )


def _kept(name: str, header: Sequence[str]) -> dict[str, str]:
    rows = {row.what: row.columns for row in ColumnMap.objects.filter(name=name)} if name else {}
    columns = rows.get(ColumnMap.OFFERS) or rows.get(ColumnMap.PARTS, {})
    if columns.get("price") in header:
        columns = {**columns, PRICES[0]: columns["price"]}
    return {
        ours: theirs for ours, theirs in columns.items() if theirs in header and (ours in NAMES or ours in PRICES)
    } | {at: columns[at] for at in COUNTS_FROM if at in columns}


def load_foreign(
    data: bytes, named: Mapping[str, str], supplier: str, name: str, *, good_rows: bool, written: Written = Written()
) -> Loaded:
    """Take a price list in through a map of our columns to its own, and keep the map under a name.

    Args:
        supplier: who sells what has no supplier of its own. good_rows: take what can be read where some cannot; else nothing is.
        written: how the list is written, as it was said.

    Raises:
        BadInput: a map that does not go with the list, no name for it, or a currency whose rate nobody said.
    """
    foreign = read_foreign(data)
    columns = check(named, foreign.header, supplier)
    if not 2 <= len(name) <= 60:
        raise BadInput(name, "a name for this list, to find it next time", "Such as the supplier's name.", field="name")
    rate = written.euros(currency_of(foreign, columns))
    found = read_offers(foreign, columns, supplier, style=written.style, rate=rate)
    if found.problems and not good_rows:
        return Loaded(0, [], found.problems, len(found.offers))
    with transaction.atomic():
        ColumnMap.objects.update_or_create(name=name, what=ColumnMap.OFFERS, defaults={"columns": columns})
        return Loaded(len(found.offers), _take(found.offers), found.problems, len(found.offers))


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


def written_offers() -> str:
    """All offers as a table with our own headings, which is taken in as it is."""
    rows = [
        {
            "part": row.part, "supplier": row.supplier.name, "pack": row.pack, "stock": row.stock, "lead_days": row.lead_days,
            "breaks": " ".join(f"{least}:{price:.10g}" for least, price in row.breaks),
        }
        for row in SupplierOffer.objects.select_related("supplier")
    ]  # fmt: skip
    return write_table(OFFERS, rows)
