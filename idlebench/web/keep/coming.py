"""A job that comes from another bench: its bundle read, tried on a bench in memory, and written, all of it at once."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.db import DatabaseError, connection, connections, models, transaction
from django.utils import timezone

from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.need import need_of
from idlebench.core.refusal import BadInput

from ..ledger.narrative import story
from ..ledger.sheets import sheet
from ..photos.files import keep, kept_or_gone
from ..records import steady
from ..records.models import CatalogueItem, ImportedRecord, Job, Part, ShopHours, ShopPolicy, Unit, folder
from ..records.scratch import scratch_database
from ..unit.picture import board_picture, heat_of
from ..unit.series import judged_alone
from ..unit.state import UnitState, states_of
from .bundle_file import ROWS, Bundle, clear, read
from .job_rows import OUTLIVED, TABLES, Numbers, Table, values_in
from .leaving import small_name


@kept_or_gone()
def take_in(place: Path) -> Job:
    """Take a job in from its bundle: read and looked at, tried on a bench in memory, and then written in one piece.

    Raises:
        BadInput: what is wrong with the bundle; nothing was taken.
    """
    bundle = read(place)
    names = _photo_names(bundle)
    for name, data in bundle.photos.items():
        keep(folder() / names[name], data)
    try:
        with clear(place.name):
            numbers = _numbers_in(bundle)
            with scratch_database():
                _written(bundle, numbers, names)
                for state in states_of(Unit.objects.values_list("pk", flat=True)):
                    _looked_through(state)
            return _written(bundle, numbers, names)
    except (DatabaseError, ArithmeticError, StopIteration) as error:
        raise BadInput(
            str(error)[:58], f"a job that can be read in {place.name}", "Nothing was imported.", field="bundle"
        ) from None


def _looked_through(state: UnitState) -> None:
    """Judge a unit, draw its boards and tell its sheet: what is wrong with it shows here, and not on a page later."""
    told = sheet(state)
    if not state.stages or not story(state, told, whole=False):
        raise ValueError("a unit that cannot be judged")
    for procedure in state.row.procedures.all():
        procedure.to_core()
    for board in state.boards:
        board_picture(board)
        heat_of(board)
        for part in board.parts:
            need_of(part.core, state.mains, policy=state.policy)


def _photo_names(bundle: Bundle) -> dict[str, str]:
    """What each picture is called here: a name that no other has; a thumbnail's is its photo's."""
    names = {
        name: f"{secrets.token_hex(12)}{'.flat' if '.flat.' in name else ''}.jpg"
        for name in bundle.photos
        if ".small." not in name
    }
    return names | {small_name(name): small_name(here) for name, here in names.items() if ".flat." not in name}


def _written(bundle: Bundle, numbers: Numbers, names: Mapping[str, str]) -> Job:
    """The rows, with keys of this bench. They are laid ready as plain values before the bench is locked for writing: a thousand
    rows then keep others waiting for some milliseconds, and each has the times that it had.
    """
    ready = [_ready(table.model, _rows_of(table, bundle, numbers, names)) for table in TABLES]
    facts = dict(bundle.job)
    began = facts.pop("began")
    with transaction.atomic(using=Job.objects.db):
        if bundle.policy is not None:
            facts["policy"] = _policy(facts["policy"], bundle.policy)
        job = Job.objects.create(pk=numbers.of(Job, 1), **facts)
        Job.objects.filter(pk=job.pk).update(began=began)
        with connections[Job.objects.db].cursor() as cursor:
            for sql, rows in ready:
                cursor.executemany(sql, rows)
        arrived(job)
        _own_parts(bundle.parts)
        _weigh(job, bundle.weights)
        return Job.objects.get(pk=job.pk)


def arrived(job: Job) -> None:
    """Mark the record of each unit of a job as another bench's, up to its last event."""
    now = timezone.now()
    for unit, last in job.units.annotate(last=models.Max("events__pk")).values_list("pk", "last"):
        ImportedRecord.objects.create(unit_id=unit, last=last or 0, at=now, boot=steady.boot(), steady=steady.at(now))


def _weigh(job: Job, weights: Mapping[str, float]) -> None:
    """How much it matters that its units are done early, in this shop's calendar."""
    keys = {name: str(pk) for pk, name in job.units.values_list("pk", "name")}
    if weights.keys() - keys.keys():
        raise BadInput(
            ", ".join(sorted(weights.keys() - keys.keys()))[:60],
            "units of the bundle",
            "Nothing was imported.",
            field="bundle",
        )
    if weights:
        shop = ShopHours.objects.first() or ShopHours()
        shop.weights = {**shop.weights, **{keys[name]: weight for name, weight in weights.items()}}
        shop.save()


def _ready(model: type[models.Model], rows: list[models.Model]) -> tuple[str, list[list[Any]]]:
    """A statement that writes a table's rows, and their values as the database takes them."""
    fields = model._meta.concrete_fields
    columns = ", ".join(f'"{f.column}"' for f in fields)
    spots = ", ".join(["%s"] * len(fields))
    values = [[f.get_db_prep_save(getattr(row, f.attname), connection) for f in fields] for row in rows]
    return f'INSERT INTO "{model._meta.db_table}" ({columns}) VALUES ({spots})', values


def _rows_of(table: Table, bundle: Bundle, numbers: Numbers, names: Mapping[str, str]) -> list[models.Model]:
    """A table's rows, not saved."""
    first, year, rows = min(numbers.known[table.model].values(), default=0), timezone.localdate().year, []
    for i, line in enumerate(bundle.lines[table.name]):
        facts = values_in(table, line, numbers)
        if "file" in facts:
            facts["file"] = names[facts["file"]]
        row = table.model(pk=first + i, **facts)
        if table.model is Part:
            row.condemned = judged_alone(row, year)
        rows.append(row)
    return rows


@transaction.atomic
def _numbers_in(bundle: Bundle) -> Numbers:
    """Keys of this bench for the numbers of a bundle: a stretch of each table that nobody has or gets, gone rows' too."""
    known: dict[type[models.Model], dict[int, int]] = {Job: {1: _reserved(Job, 1)}}
    firsts: dict[type[models.Model], int] = {}
    spoken = _spoken_of(bundle)
    for table in TABLES:
        count = len(bundle.lines[table.name])
        first = firsts[table.model] = _reserved(table.model, max(count, spoken.get(table.model, 0)))
        known[table.model] = {i: first + i - 1 for i in range(1, count + 1)}

    def gone(model: type[models.Model], number: int) -> int:
        if model not in OUTLIVED or not 1 <= number <= ROWS * 4:
            raise BadInput(
                f"{model._meta.verbose_name} {number}", "a row of the bundle", "Nothing was imported.", field="bundle"
            )
        return firsts[model] + number - 1

    return Numbers(known, gone)


def _spoken_of(bundle: Bundle) -> dict[type[models.Model], int]:
    """The highest number by which a bundle speaks of a row of each kind that outlives itself, there or gone."""
    probe = Numbers({}, lambda kind, number: number)
    for table in TABLES:
        for line in bundle.lines[table.name]:
            values_in(table, line, probe)
    return {model: min(max(probe.seen[model]), ROWS * 4) for model in OUTLIVED if probe.seen.get(model)}


def _reserved(model: type[models.Model], count: int) -> int:
    """The first of a stretch of keys that no row has, and that none gets later."""
    table = model._meta.db_table
    with connection.cursor() as cursor:
        cursor.execute("SELECT seq FROM sqlite_sequence WHERE name = %s", [table])
        row = cursor.fetchone()
        last = max(row[0] if row else 0, model._base_manager.aggregate(n=models.Max("pk"))["n"] or 0)
        if row:
            cursor.execute("UPDATE sqlite_sequence SET seq = %s WHERE name = %s", [last + count, table])
        else:
            cursor.execute("INSERT INTO sqlite_sequence (name, seq) VALUES (%s, %s)", [table, last + count])
    return last + 1


def _policy(name: str, data: dict[str, Any]) -> str:
    """The bundle's policy among the shop's own; under another name where the shop has another of this one."""
    there = ShopPolicy.objects.filter(name=name).first()
    if there is not None and there.data == data:
        return name
    if there is None:
        return ShopPolicy.objects.create(name=name, data=data).name
    taken, number = set(ShopPolicy.objects.values_list("name", flat=True)), 2
    while f"{name[:16]}-{number}" in taken:
        number += 1
    other = f"{name[:16]}-{number}"
    return ShopPolicy.objects.create(name=other, data={**data, "name": other}).name


def _own_parts(parts: tuple[Capacitor, ...]) -> None:
    """Parts of the sender's own that this shelf does not know."""
    known = set(CatalogueItem.objects.filter(part__in=[p.part for p in parts]).values_list("part", flat=True))
    now = timezone.now()
    CatalogueItem.objects.bulk_create(
        CatalogueItem(**{f: getattr(p, f) for f in CatalogueItem().to_core().__dataclass_fields__}, changed=now)
        for p in parts
        if p.part not in known
    )
