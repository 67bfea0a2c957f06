"""The catalogue: loading it, and having it ready for ranking."""

from __future__ import annotations

import secrets
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from django.db import connection, transaction
from django.utils import timezone

from idlebench.catalogue import PATH
from idlebench.core.board.column_map import PREVIEW, Foreign, check_map, read_foreign, translated
from idlebench.core.board.parts import Capacitor
from idlebench.core.board.quickline import read_line
from idlebench.core.board.tables import STOCK, read_catalogue
from idlebench.core.choose.device_tables import read_devices
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import Problem, read_table

from ..records.models import CAPACITOR_FIELDS, CatalogueItem, ColumnMap, ShelfDevice, StagedItem
from ..unit.stock import KINDS as DEVICES
from ..unit.stock import add_own, devices


@dataclass(frozen=True)
class Loaded:
    """What a catalogue file gave."""

    added: int
    changed: int
    problems: list[Problem]
    rows: int


#: How far long work is: what is done, how much of how much. It may raise to stop.
Tell = Callable[[str, int, int], None]
#: Rows laid down in one transaction, and the pause after it, s.
AT_ONCE, PAUSE = 1000, 0.03
#: Rows taken over in one transaction; and what stands before the name of a batch that is laid down whole.
TAKEN_AT_ONCE, WHOLE = 4000, "whole:"


def load_csv(data: bytes, *, good_rows: bool, tell: Tell = lambda doing, done, total: None) -> Loaded:
    """Take a catalogue CSV in, all of it or nothing; parts known by name are brought up to date.

    The table is read, and laid down in pieces, before any of it is taken over, in pieces too: nobody waits long for the write
    lock. Once it is laid down whole that is written down, and whatever stops the program then, the rest is taken over when it
    starts again.
    """
    found = read_catalogue(data, lambda done, total: tell("reading", done, total))
    if found.problems and not good_rows:
        return Loaded(0, 0, list(found.problems), len(found.parts))
    batch = secrets.token_hex(8)
    try:
        for i in range(0, len(found.parts), AT_ONCE):
            tell("writing the parts", i, len(found.parts))
            _lay_down(batch, found.parts[i : i + AT_ONCE])
            # somebody who waits for the lock looks for it a few times in a blink, and finds it free here
            time.sleep(PAUSE)
        tell("taking over", len(found.parts), len(found.parts))
        laid = StagedItem.objects.filter(batch=batch).values("part")
        changed = CatalogueItem.objects.filter(part__in=laid).count()
        StagedItem.objects.create(batch=WHOLE + batch, part="", value=0.0, volts=0.0)
        _take_over(batch)
    finally:
        _let_go(batch)
    return Loaded(len(found.parts) - changed, changed, list(found.problems), len(found.parts))


def _lay_down(batch: str, parts: Sequence[Capacitor]) -> None:
    """Lay rows down, as plain values: the lock is held for as long as the database needs, and no longer."""
    rows = [(batch, *(getattr(part, name) for name in CAPACITOR_FIELDS)) for part in parts]
    spots = ", ".join(["%s"] * (1 + len(CAPACITOR_FIELDS)))
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.executemany(
            f"INSERT INTO records_stageditem (batch, {', '.join(CAPACITOR_FIELDS)}) VALUES ({spots})", rows
        )


def _take_over(batch: str) -> None:
    """Take what was laid down over into the catalogue, a few thousand rows at a time; done twice it is as done once."""
    rows = list(StagedItem.objects.filter(batch=batch).order_by("id").values_list("id", flat=True)[::TAKEN_AT_ONCE])
    for first, after in zip(rows, [*rows[1:], None], strict=True):
        _taken_over(batch, first, after)
        time.sleep(PAUSE)


@transaction.atomic
def _taken_over(batch: str, first: int, after: int | None) -> None:
    """Take some rows over: from one on, up to before another."""
    columns = ", ".join(CAPACITOR_FIELDS)
    others = [name for name in CAPACITOR_FIELDS if name != "part"]
    renewed = ", ".join(f"{name} = excluded.{name}" for name in (*others, "changed"))
    # a part that is as it was is left alone, and so are its four indexes
    differs = " OR ".join(f"shelf_catalogueitem.{name} IS NOT excluded.{name}" for name in others)
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO shelf_catalogueitem ({columns}, changed) SELECT {columns}, %s FROM records_stageditem "
            f"WHERE batch = %s AND id >= %s AND (%s IS NULL OR id < %s) ORDER BY id "
            f"ON CONFLICT (part) DO UPDATE SET {renewed} WHERE {differs}",
            [timezone.now(), batch, first, after, after],
        )


def _let_go(batch: str) -> None:
    """Let go what was laid down, and that it was whole."""
    while rows := list(StagedItem.objects.filter(batch=batch).values_list("id", flat=True)[:TAKEN_AT_ONCE]):
        StagedItem.objects.filter(batch=batch, id__lte=max(rows)).delete()
        time.sleep(PAUSE)
    StagedItem.objects.filter(batch=WHOLE + batch).delete()


def sweep_staged() -> None:
    """After a stop of the program: take over what was laid down whole, let go what was not."""
    for name in StagedItem.objects.filter(batch__startswith=WHOLE).values_list("batch", flat=True).distinct():
        _take_over(name.removeprefix(WHOLE))
    StagedItem.objects.all().delete()


@transaction.atomic
def read_again(row: CatalogueItem, typed: str) -> None:
    """Keep what a used part measures now, out of circuit.

    Raises:
        BadInput: it cannot be read, or it is no used part.
    """
    if row.used_read is None:
        raise BadInput(row.part, "a part out of a donor", "A new part is not measured.", field="measured")
    found = read_line(f"C1 {typed}").changes if typed.strip() else {}
    if not {"capacitance"} <= found.keys() <= {"capacitance", "esr"} or (row.kind == "wet" and "esr" not in found):
        raise BadInput(typed, "what it measures out of circuit, such as cap 98u esr 0.3", field="measured")
    row.value, row.esr, row.used_read = found["capacitance"], found.get("esr", 0.0), timezone.now()
    row.save()


@transaction.atomic
def load_devices(data: bytes, what: str, *, good_rows: bool) -> Loaded:
    """Take a table of parts that are no capacitors in. what: a key of device_tables.TABLES."""
    found = read_devices(what, data)
    if found.problems and not good_rows:
        return Loaded(0, 0, list(found.problems), len(found.parts))
    known = {d.part for d in devices()}
    for part in found.parts:
        add_own(part)
    changed = sum(part.part in known for part in found.parts)
    return Loaded(len(found.parts) - changed, changed, list(found.problems), len(found.parts))


#: Series that joined the generic sizes after 0.1.0, by the series that they stand beside.
JOINED = {"MJ 100": "MF 100", "LK 105": "GP 105"}


@transaction.atomic
def stock_up(data: bytes) -> int:
    """Take in what lies on a shelf: part, price, pack, supplier, lead_days, stock, for parts that are known; how many."""
    table = read_table(data, STOCK, unique="part")
    if table.problems:
        raise BadInput(str(table.problems[0]), "a table of what is in stock", field="file")
    rows = {row["part"]: row for row in table.rows}
    items = list(CatalogueItem.objects.filter(part__in=rows))
    names = [c.name for c in STOCK if c.name != "part"]
    now = timezone.now()
    for item in items:
        item.changed = now
        for name in names:
            setattr(item, name, rows[item.part][name])
    # rows written again over themselves: to update many with a value each takes Django ten times as long
    CatalogueItem.objects.bulk_create(
        items, batch_size=400, update_conflicts=True, update_fields=[*names, "changed"], unique_fields=["part"]
    )
    lying = [
        ShelfDevice(part=device.part, what=what, price=rows[device.part]["price"], stock=rows[device.part]["stock"])
        for what in DEVICES
        for device in devices(what)
        if device.part in rows
    ]
    ShelfDevice.objects.bulk_create(
        lying, update_conflicts=True, update_fields=["what", "price", "stock"], unique_fields=["part"]
    )
    return len(rows)


def ensure_house_catalogue() -> int:
    """Load the generic sizes into an empty shelf, without prices, suppliers or stock; the number of parts on it.

    A series that joined the generic sizes later joins a shelf that has the series it stands beside.
    """
    if not CatalogueItem.objects.exists():
        load_csv(PATH.read_bytes(), good_rows=False)
    for series, beside in JOINED.items():
        there = CatalogueItem.objects.filter(series__in=(series, beside)).values_list("series", flat=True).distinct()
        if set(there) == {beside}:
            parts = [p for p in read_catalogue(PATH.read_bytes()).parts if p.series == series]
            CatalogueItem.objects.bulk_create(
                CatalogueItem(**{name: getattr(part, name) for name in CAPACITOR_FIELDS}) for part in parts
            )
    return CatalogueItem.objects.count()


@dataclass(frozen=True, kw_only=True)
class Preview:
    """A foreign table before it is taken: its header, the map, the first parts read by it, and what cannot be read of them."""

    foreign: Foreign
    columns: dict[str, str]
    parts: tuple[Capacitor, ...]
    problems: list[Problem]
    wrong: BadInput | None


def preview(data: bytes, named: Mapping[str, str], kept: str = "") -> Preview:
    """Look at a foreign table through a map: the one typed, else the one kept under a name, else the guess."""
    foreign = read_foreign(data)
    row = ColumnMap.objects.filter(name=kept, what=ColumnMap.PARTS).first() if kept else None
    columns = dict(named) or ({k: v for k, v in row.columns.items() if v in foreign.header} if row else foreign.guess)
    try:
        chosen = check_map(columns, foreign.header)
        found = read_catalogue(translated(foreign, chosen, PREVIEW))
        return Preview(foreign=foreign, columns=columns, parts=found.parts, problems=list(found.problems), wrong=None)
    except BadInput as error:
        return Preview(foreign=foreign, columns=columns, parts=(), problems=[], wrong=error)


def load_foreign(
    data: bytes, named: Mapping[str, str], name: str, *, good_rows: bool, tell: Tell = lambda doing, done, total: None
) -> Loaded:
    """Take a foreign table in through a map of our columns to its own, and keep the map under a name.

    Raises:
        BadInput: a map that does not go with the table, or no name for it.
    """
    foreign = read_foreign(data)
    columns = check_map(dict(named), foreign.header)
    if not 2 <= len(name) <= 60:
        raise BadInput(
            name, "a name for this export, to find it next time", "Such as the supplier's name.", field="name"
        )
    loaded = load_csv(translated(foreign, columns).encode(), good_rows=good_rows, tell=tell)
    if not loaded.problems or good_rows:
        ColumnMap.objects.update_or_create(name=name, what=ColumnMap.PARTS, defaults={"columns": columns})
    return loaded
