"""A job that comes from another bench: its bundle read and looked at as a whole, and only then written, all of it at once."""

from __future__ import annotations

import csv
import errno
import io
import json
import secrets
import sys
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.db import DatabaseError, connection, connections, models, transaction
from django.utils import timezone

from idlebench.core.board.parts import Capacitor
from idlebench.core.board.tables import read_catalogue
from idlebench.core.judge.policy import POLICIES, read_policy
from idlebench.core.refusal import BadInput

from ..photos.files import keep, kept_or_gone
from ..photos.pictures import ours
from ..records.models import Board, CatalogueItem, Job, Part, Photo, ShopPolicy, Underlay, Unit, folder
from ..records.trial import on_trial
from ..unit.state import states_of
from .job_rows import OUTLIVED, TABLES, Numbers, Table, as_value, values_in
from .leaving import DESCRIBED, FORMAT, PAGE, PHOTOS, VERSION, job_fields, picture_name, small_name

#: The most that is unpacked, bytes, altogether and of one file; the most files, and rows of one table.
LARGEST, LARGEST_FILE, FILES, ROWS = 400_000_000, 60_000_000, 4000, 200_000
#: Files beside the tables.
BESIDE = (PAGE, DESCRIBED, "checks.csv", "catalogue.csv")


@dataclass(frozen=True)
class Bundle:
    """A bundle that was read whole. lines: by table, column values; a row's number is its place, from 1."""

    job: dict[str, Any]
    policy: dict[str, Any] | None
    lines: dict[str, list[dict[str, Any]]]
    photos: dict[str, bytes]
    parts: tuple[Capacitor, ...]


@contextmanager
def clear(name: str) -> Iterator[None]:
    """Whatever a made-up file does to its readers is told as one clear line."""
    try:
        yield
    except BadInput:
        raise
    except OSError as error:
        if error.errno != errno.EINVAL:  # any other is the disk's, not the file's
            raise
        raise BadInput(
            "places outside of the file", f"a job's bundle that is whole in {name}", "Nothing was taken.", "bundle"
        ) from None
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, RecursionError) as error:
        raise BadInput(
            str(error)[:58] or type(error).__name__,
            f"a job's bundle that is whole in {name}",
            "Nothing was taken.",
            "bundle",
        ) from None
    except (
        ValueError,
        TypeError,
        KeyError,
        AttributeError,
        LookupError,
        OverflowError,
        csv.Error,
        ValidationError,
    ) as error:
        raise BadInput(
            str(error)[:58] or type(error).__name__,
            f"a job's bundle as Idle Bench writes it in {name}",
            "Nothing was taken.",
            "bundle",
        ) from None


def is_bundle(place: Path) -> bool:
    """Whether a file is a zip that holds a job of this kind; one of typed files is taken in otherwise."""
    try:
        with zipfile.ZipFile(place) as bundle:
            info = bundle.getinfo(PAGE)
            if info.file_size > LARGEST_FILE:
                return True
            page = json.loads(bundle.read(info))
        return not isinstance(page, dict) or page.get("version") != 1
    except (
        OSError,
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        RecursionError,
        RuntimeError,
        NotImplementedError,
        zlib.error,
        EOFError,
    ):
        return False


def read(place: Path) -> Bundle:
    """Read a bundle whole.

    Raises:
        BadInput: what is wrong with it.
    """
    with clear(place.name), zipfile.ZipFile(place) as bundle:
        infos = {info.filename: info for info in bundle.infolist()}
        _looked_over(place.name, bundle, infos)

        def data(name: str) -> bytes:
            if name not in infos:
                raise BadInput(place.name, f"{name} in the bundle", "Nothing was taken.", "bundle")
            return bundle.read(infos[name])

        page = _page(place.name, data(PAGE))
        lines = {table.name: _lines(table, data(f"{table.name}.csv")) for table in TABLES}
        photos = {name.removeprefix(f"{PHOTOS}/"): data(name) for name in infos if name.startswith(f"{PHOTOS}/")}
        found = read_catalogue(data("catalogue.csv")) if "catalogue.csv" in infos else None
        if found is not None and found.problems:
            raise BadInput("catalogue.csv", "a table in which every row can be read", str(found.problems[0]), "bundle")
        made = Bundle(*page, lines, photos, tuple(found.parts) if found else ())
        _whole(made)
        return made


def _looked_over(name: str, bundle: zipfile.ZipFile, infos: Mapping[str, zipfile.ZipInfo]) -> None:
    """Refuse a zip by its list: files that do not belong there, twice or too much."""
    tables = {f"{table.name}.csv" for table in TABLES}
    for info in bundle.infolist():
        folder_, _, file = info.filename.partition("/")
        photo = (
            folder_ == PHOTOS
            and file.endswith(".jpg")
            and file.isascii()
            and file.replace(".", "").isalnum()
            and len(file) < 60
        )
        link = (info.external_attr >> 16) & 0o170000 not in (0, 0o100000)
        if not (info.filename in BESIDE or info.filename in tables or photo) or link:
            raise BadInput(
                f"{name} holds {info.filename[:60]!r}",
                "the files of a bundle and no others",
                "Nothing was taken.",
                "bundle",
            )
        if info.file_size > LARGEST_FILE:
            raise BadInput(
                f"{info.filename}, {info.file_size / 1e6:.0f} MB",
                f"at most {LARGEST_FILE / 1e6:.0f} MB",
                "Nothing was taken.",
                "bundle",
            )
    if len(bundle.infolist()) != len(infos) or len(infos) > FILES:
        raise BadInput(name, f"each file once, at most {FILES}", "Nothing was taken.", "bundle")
    if sum(info.file_size for info in infos.values()) > LARGEST:
        raise BadInput(name, f"at most {LARGEST / 1e6:.0f} MB unpacked", "Nothing was taken.", "bundle")


def _page(name: str, data: bytes) -> tuple[dict[str, Any], dict[str, Any] | None]:
    """The job's own row and its policy."""
    page = json.loads(data.decode("utf-8"))
    if not isinstance(page, dict) or page.get("format") != FORMAT:
        raise BadInput(name, f'a job.json with "format": "{FORMAT}"', "Nothing was taken.", "bundle")
    version = page.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version > VERSION:
        raise BadInput(
            f"{name}, version {str(version)[:20]}", f"version {VERSION} or older",
            "It was made by a newer Idle Bench: take it in with that one. Nothing was taken.", "bundle",
        )  # fmt: skip
    told, row = page["job"], {}
    if not isinstance(told, dict):
        raise BadInput(str(told)[:40], "an object for job", "Nothing was taken.", "bundle")
    for f in job_fields():
        row[f.name] = _of_json(f, told[f.name])
    policy = page.get("policy")
    if policy is not None:
        if row["policy"] in POLICIES:
            raise BadInput(row["policy"], "a policy of the shop's own", "Nothing was taken.", "bundle")
        read_policy(policy)
    elif row["policy"] not in POLICIES:
        raise BadInput(row["policy"], f"a policy that ships, or the bundle's own: {', '.join(POLICIES)}", "", "bundle")
    return row, policy


def _of_json(f: models.Field, value: Any) -> Any:
    """A value of the job's row, as JSON has it."""
    if value is None and f.null:
        return None
    wanted = (
        (list, dict)
        if isinstance(f, models.JSONField)
        else (int, float)
        if isinstance(f, (models.FloatField, models.IntegerField))
        else (str,)
    )
    if not isinstance(value, wanted) or isinstance(value, bool):
        raise BadInput(
            f"{f.name}: {str(value)[:40]}",
            "another kind of value",
            "It stands in job.json. Nothing was taken.",
            "bundle",
        )
    if isinstance(f, models.JSONField):
        return as_value(f, json.dumps(value), PAGE)
    if isinstance(f, models.IntegerField):
        return as_value(f, str(value), PAGE)
    if isinstance(f, models.FloatField):
        as_value(f, repr(value), PAGE)
        return value
    if isinstance(f, models.DateTimeField):
        return f.to_python(value) if "\x00" not in value else as_value(f, value, PAGE)
    if len(value) > (f.max_length or 10_000) or "\x00" in value:
        raise BadInput(f"{f.name}: {value[:40]}", f"at most {f.max_length} letters", "It stands in job.json.", "bundle")
    return value


def _lines(table: Table, data: bytes) -> list[dict[str, Any]]:
    """A table's rows, each value as its column has it."""
    csv.field_size_limit(min(sys.maxsize, LARGEST_FILE))
    reader = csv.reader(io.StringIO(data.decode("utf-8"), newline=""), strict=True)
    name, fields = f"{table.name}.csv", table.fields
    wanted = ["no", "where", *(f.name for f in fields)]
    header = next(reader, [])
    if header != wanted:
        raise BadInput(
            f"{name}: {', '.join(header)[:60]}",
            f"the columns {', '.join(wanted)[:120]}",
            "Nothing was taken.",
            "bundle",
        )
    lines = []
    for number, cells in enumerate(reader, 1):
        if len(cells) != len(wanted) or cells[0] != str(number) or number > ROWS:
            raise BadInput(
                f"row {number} of {name}",
                f"{len(wanted)} cells, numbered from 1 to at most {ROWS}",
                "Nothing was taken.",
                "bundle",
            )
        lines.append(
            {f.name: as_value(f, cell, f"{name}, row {number}") for f, cell in zip(fields, cells[2:], strict=True)}
        )
    return lines


def _whole(bundle: Bundle) -> None:
    """Refuse a bundle that speaks of rows or photos it does not hold, or that would come with power on."""
    counts = {table.model: len(bundle.lines[table.name]) for table in TABLES}
    for table in TABLES:
        for f in table.fields:
            if not isinstance(f, models.ForeignKey) or f.related_model is Job:
                continue
            outlived = table.is_history and f.related_model in (Part, Board)
            for line in bundle.lines[table.name]:
                number = line[f.name]
                if number is not None and not (1 <= number <= counts.get(f.related_model, 0)) and not outlived:
                    raise BadInput(
                        f"{table.name}.csv, {f.name} {number}", "a row of the bundle", "Nothing was taken.", "bundle"
                    )
    if any(line["job"] != 1 for line in bundle.lines["units"]):
        raise BadInput("units.csv", "units of one job", "Nothing was taken.", "bundle")
    if any(line["ended"] is None for line in bundle.lines["sessions"]) or any(
        line["discharged"] is None for line in bundle.lines["reforming"]
    ):
        raise BadInput("a bundle with power on", "a job at rest", "Nothing was taken.", "bundle")
    wanted = set()
    for name, model in (("photos", Photo), ("underlays", Underlay)):
        for number, line in enumerate(bundle.lines[name], 1):
            if line["file"] != picture_name(model, number):
                raise BadInput(
                    f"{name}.csv, file {line['file'][:40]}", picture_name(model, number), "Nothing was taken.", "bundle"
                )
            wanted |= {line["file"], *([small_name(line["file"])] if model is Photo else [])}
    if wanted != set(bundle.photos):
        odd = sorted(wanted ^ set(bundle.photos))[0]
        raise BadInput(
            f"photo {odd[:60]}", "every photo the tables speak of, and no other", "Nothing was taken.", "bundle"
        )
    for name, data in bundle.photos.items():
        ours(data, name)


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
            with on_trial():
                _written(bundle, numbers, names)
                for state in states_of(Unit.objects.values_list("pk", flat=True)):
                    if not state.stages:
                        raise ValueError("a unit that cannot be judged")
            return _written(bundle, numbers, names)
    except (DatabaseError, ArithmeticError, StopIteration) as error:
        raise BadInput(
            str(error)[:58], f"a job that can be read in {place.name}", "Nothing was taken.", "bundle"
        ) from None


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
        _own_parts(bundle.parts)
        return Job.objects.get(pk=job.pk)


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
            row.condemned = row.judged_alone(year)
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
                f"{model._meta.verbose_name} {number}", "a row of the bundle", "Nothing was taken.", "bundle"
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
