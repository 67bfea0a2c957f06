"""Suppliers' terms and what they offer."""

from __future__ import annotations

from collections.abc import Mapping

from django.db import transaction

from idlebench.core.plan.buy_tables import OFFERS, SUPPLIERS, rows_of
from idlebench.core.refusal import BadInput

from ..records.models import Supplier, SupplierOffer


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
        raise BadInput(name, "a name of at most 60 characters", "", "supplier")
    row, _ = Supplier.objects.update_or_create(name=name, defaults=found)
    return row


def load_offers(data: bytes) -> tuple[int, list[str]]:
    """Take in a table of offers; those of the same part, supplier and pack are replaced. How many, and suppliers that are new.

    Raises:
        BadInput: a row cannot be read; nothing is taken.
    """
    rows = rows_of(data, OFFERS, lambda r: (r["part"], r["supplier"], r["pack"]), "offers")
    with transaction.atomic():
        names = dict.fromkeys(row["supplier"] for row in rows)
        known = {row.name: row for row in Supplier.objects.filter(name__in=names)}
        fresh = [name for name in names if name not in known]
        known |= {name: Supplier.objects.create(name=name[:60]) for name in fresh}
        SupplierOffer.objects.bulk_create(
            [
                SupplierOffer(
                    part=row["part"][:60], supplier=known[row["supplier"]], pack=row["pack"], breaks=row["breaks"],
                    stock=row["stock"], lead_days=row["lead_days"],
                )
                for row in rows
            ],
            update_conflicts=True, update_fields=["breaks", "stock", "lead_days"], unique_fields=["part", "supplier", "pack"],
        )  # fmt: skip
    return len(rows), fresh
