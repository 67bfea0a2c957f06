"""Whether a bench has anything of its owner's: a copy of an empty one would only look like a backup."""

from __future__ import annotations

from idlebench.catalogue import house_columns

from ..records.models import (
    CatalogueItem,
    ColumnMap,
    Job,
    OfferOut,
    PracticeRun,
    Removed,
    ShelfDevice,
    ShopProcedure,
    Supplier,
    SupplierOffer,
    Workshop,
)

#: What a bench has only since somebody typed, took in or practised something.
_OWN = (Job, Removed, Supplier, SupplierOffer, ShelfDevice, ShopProcedure, PracticeRun, ColumnMap, OfferOut, Workshop)


def untouched() -> bool:
    """Whether nothing on the bench is anybody's own: no job, price, part, procedure or practice, and nothing on the shelf."""
    if any(model.objects.exists() for model in _OWN) or CatalogueItem.objects.filter(stock__gt=0).exists():
        return False
    house = {part.part for part in house_columns().parts}
    return set(CatalogueItem.objects.order_by().values_list("part", flat=True)) <= house
