"""What lies on the shelf, laid out for ranking, and pieces counted in."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Count, F, Max

from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.rules import Columns
from idlebench.core.refusal import BadInput

from ..records.models import CAPACITOR_FIELDS, CatalogueItem

_ready: dict[str, object] = {"stamp": None, "columns": None}


def columns() -> Columns:
    """The catalogue laid out for ranking; read anew only when it changed."""
    stamp = tuple(CatalogueItem.objects.aggregate(n=Count("id"), last=Max("changed")).values())
    if _ready["stamp"] != stamp:
        rows = CatalogueItem.objects.order_by("id").values_list(*CAPACITOR_FIELDS)
        _ready.update(stamp=stamp, columns=Columns.of(Capacitor(*row) for row in rows))
    return _ready["columns"]


@transaction.atomic
def count_in(part: str, pieces: int) -> CatalogueItem:
    """Put pieces that arrived on the shelf (a negative number takes them off), never below none."""
    item = CatalogueItem.objects.select_for_update().filter(part=part).first()
    if item is None:
        raise BadInput(part, "a part of the catalogue", "", "part")
    if item.stock + pieces < 0:
        raise BadInput(str(pieces), f"at most the {item.stock} on the shelf", "", "pieces")
    CatalogueItem.objects.filter(pk=item.pk).update(stock=F("stock") + pieces)
    item.refresh_from_db()
    item.save(update_fields=["changed"])
    return item
