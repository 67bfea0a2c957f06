"""What lies on the shelf, laid out for ranking, and pieces counted in."""

from __future__ import annotations

from dataclasses import fields, replace
from datetime import datetime

from django.db import transaction
from django.db.models import Count, F, Max, Value

from idlebench.catalogue import house_devices
from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.by_limits import LimitPart
from idlebench.core.choose.cells_and_diodes import HELD, Battery, Diode
from idlebench.core.choose.device_tables import TABLES, what_of
from idlebench.core.choose.fuses import Fuse
from idlebench.core.choose.regulators_and_fuses import Regulator
from idlebench.core.choose.rules import Columns
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

from ..records.models import CAPACITOR_FIELDS, CatalogueItem, ShelfDevice, StockChange, capacitor_of
from ..records.prepared import Prepared

#: A part of a catalogue that is no capacitor.
Device = Regulator | Fuse | Battery | Diode | LimitPart
#: Their kinds, keys of device_tables.TABLES.
KINDS = tuple(TABLES)

#: How many rows there are, and when one was changed last: what the catalogue is laid out by.
_STAMP = Prepared(
    lambda _: (
        CatalogueItem.objects.order_by()
        .annotate(all=Value(1))
        .values("all")
        .annotate(n=Count("pk"), last=Max("changed"))
        .values_list("n", "last")
    )
)

_ready: dict[str, object] = {"stamp": None, "columns": None, "used": frozenset()}


def columns() -> Columns:
    """The catalogue laid out for ranking; read anew only when it changed."""
    stamp = next(iter(_STAMP.rows(0)), (0, None))
    if _ready["stamp"] != stamp:
        _ready.update(stamp=stamp, **(_of_few(*stamp) or _of_all()))
    return _ready["columns"]


#: Parts that changed since the catalogue was laid out, at the most, for it not to be laid out anew.
FEW = 500


def _of_few(count: int, last: datetime | None) -> dict[str, object] | None:
    """The catalogue as it was laid out, with the parts that changed since; None where it is to be laid out anew."""
    before, columns_, used = _ready["stamp"], _ready["columns"], _ready["used"]
    if before is None or before[1] is None or last is None or last < before[1]:
        return None
    rows = CatalogueItem.objects.filter(changed__gte=before[1]).values_list("used_read", *CAPACITOR_FIELDS)
    parts = [(read, capacitor_of(row)) for read, *row in rows[: FEW + 1]]
    if len(parts) > FEW:
        return None
    found = columns_.changed(part for _, part in parts)
    if len(found) != count:
        # some went away, or were renamed
        return None
    return {"columns": found, "used": used - {p.part for _, p in parts} | {p.part for read, p in parts if read}}


def _of_all() -> dict[str, object]:
    rows = CatalogueItem.objects.order_by("id").values_list(*CAPACITOR_FIELDS)
    used = frozenset(CatalogueItem.objects.filter(used_read__isnull=False).values_list("part", flat=True))
    return {"columns": Columns.of(capacitor_of(row) for row in rows), "used": used}


def used_parts() -> frozenset[str]:
    """Parts out of donors: none of them is taken but by a person."""
    columns()
    return _ready["used"]


def forget() -> None:
    """Read the catalogue anew the next time: another bench took this one's place."""
    _ready.update(stamp=None, columns=None)


def devices(*whats: str) -> tuple[Device, ...]:
    """Generic parts of some kinds and those of one's own, with what lies on the shelf; of all kinds where none is named."""
    kinds = whats or KINDS
    rows: dict[str, list[ShelfDevice]] = {what: [] for what in kinds}
    for row in ShelfDevice.objects.filter(what__in=kinds):
        rows[row.what].append(row)
    return tuple(part for what in kinds for part in _with_own(what, rows[what]))


def marked(device: Device | None) -> str:
    """What a list says of a part beside its name."""
    if device is None:
        return "not on the Shelf any more"
    if isinstance(device, Fuse):
        return f"{device.characteristic} {show(device.rating, 'A')} {device.size}"
    if isinstance(device, Battery):
        held = f", {HELD[device.held]}"
        return show(device.volts, "V") + (f", diode {show(device.diode, 'V')}" if device.diode else "") + held
    if isinstance(device, Regulator | Diode):
        return f"{show(device.volts, 'V')} {show(device.current, 'A')}"
    return device.marked


def regulators() -> tuple[Regulator, ...]:
    """Generic regulators and those of one's own, with what lies on the shelf."""
    return devices("regulator")


def fuses() -> tuple[Fuse, ...]:
    """Generic fuses and those of one's own, with what lies on the shelf."""
    return devices("fuse")


def _with_own(what: str, own_rows: list[ShelfDevice]) -> tuple[Device, ...]:
    make = TABLES[what].make
    rows = {row.part: row for row in own_rows}
    found = [
        replace(part, price=rows[part.part].price, stock=rows[part.part].stock) if part.part in rows else part
        for part in house_devices(what)
    ]
    own = [row for row in rows.values() if row.facts]
    made = [make(**{**row.facts, "part": row.part, "price": row.price, "stock": row.stock}) for row in own]
    return (*(p for p in found if not (p.part in rows and rows[p.part].facts)), *made)


def device_of(part: str) -> Device | None:
    """A regulator or fuse by name."""
    return next((d for d in devices() if d.part == part), None)


@transaction.atomic
def count_in(part: str, pieces: int) -> CatalogueItem | ShelfDevice:
    """Put pieces that arrived on the shelf (a negative number takes them off), never below none."""
    device = device_of(part) if not CatalogueItem.objects.filter(part=part).exists() else None
    if device is not None:
        if device.stock + pieces < 0:
            raise BadInput(str(pieces), f"at most the {device.stock} in stock", field="pieces")
        row, _ = ShelfDevice.objects.get_or_create(part=part, defaults={"what": what_of(device), "price": device.price})
        row.stock += pieces
        row.save()
        return row
    item = CatalogueItem.objects.select_for_update().filter(part=part).first()
    if item is None:
        raise BadInput(part, "a part of the catalogue", field="part")
    if item.stock + pieces < 0:
        raise BadInput(str(pieces), f"at most the {item.stock} in stock", field="pieces")
    CatalogueItem.objects.filter(pk=item.pk).update(stock=F("stock") + pieces)
    item.refresh_from_db()
    item.save(update_fields=["changed"])
    return item


@transaction.atomic
def recount(part: str, pieces: int, price: float | None, why: str = "") -> CatalogueItem | ShelfDevice:
    """Say how many pieces lie on the shelf and what one costs, €; None: nobody says it. What was there before is kept.

    Raises:
        BadInput: no such part.
    """
    row = CatalogueItem.objects.select_for_update().filter(part=part).first()
    if row is None:
        device = device_of(part)
        if device is None:
            raise BadInput(part, "a part of the Shelf", field="part")
        facts = {"what": what_of(device), "price": device.price, "stock": device.stock}
        row, _ = ShelfDevice.objects.get_or_create(part=part, defaults=facts)
    if row.stock != pieces:
        StockChange.objects.create(part=part, was=row.stock, now=pieces, why=why)
    row.stock, row.price = pieces, price or 0.0
    row.save(update_fields=["stock", "price", *(["changed"] if isinstance(row, CatalogueItem) else [])])
    return row


@transaction.atomic
def add_own(part: Capacitor | Device) -> str:
    """Put one part of one's own on the Shelf, or bring it up to date; its name.

    Raises:
        BadInput: the name is that of a generic size of another kind.
    """
    capacitor = isinstance(part, Capacitor)
    if (capacitor and device_of(part.part)) or (
        not capacitor and CatalogueItem.objects.filter(part=part.part).exists()
    ):
        raise BadInput(part.part, "a name that no other part has", "Write name … for another part.", field="line")
    if capacitor:
        facts = {name: getattr(part, name) for name in CAPACITOR_FIELDS if name != "part"}
        CatalogueItem.objects.update_or_create(part=part.part, defaults=facts)
        return part.part
    facts = {f.name: getattr(part, f.name) for f in fields(part) if f.name not in ("part", "price", "stock")}
    ShelfDevice.objects.update_or_create(
        part=part.part, defaults={"what": what_of(part), "facts": facts, "price": part.price, "stock": part.stock}
    )
    return part.part
