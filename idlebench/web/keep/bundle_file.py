"""A job's bundle as a file: read whole and looked at, whoever made it; what is wrong with it is one clear line."""

from __future__ import annotations

import csv
import errno
import io
import json
import sys
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models
from django.utils import timezone

from idlebench.core.board.parts import Capacitor
from idlebench.core.board.tables import read_catalogue
from idlebench.core.judge.policy import POLICIES, read_policy
from idlebench.core.prove.record import HANDED, IDLE, POWER, REOPENED
from idlebench.core.refusal import BadInput

from ..photos.pictures import ours
from ..records.models import Board, Job, Part, Photo, Underlay
from .job_rows import TABLES, Table, as_value
from .leaving import DESCRIBED, FORMAT, JOB_SINCE, PAGE, PHOTOS, VERSION, job_fields, picture_name, small_name

#: The most that is unpacked, bytes, altogether and of one file; the most files, and rows of one table.
LARGEST, LARGEST_FILE, FILES, ROWS = 400_000_000, 60_000_000, 4000, 200_000
#: Files beside the tables.
BESIDE = (PAGE, DESCRIBED, "checks.csv", "catalogue.csv")


@dataclass(frozen=True, kw_only=True)
class Bundle:
    """A bundle that was read whole. lines: by table, column values; a row's number is its place, from 1. weights: how much each unit
    matters that somebody said it of, by name."""

    job: dict[str, Any]
    policy: dict[str, Any] | None
    lines: dict[str, list[dict[str, Any]]]
    photos: dict[str, bytes]
    parts: tuple[Capacitor, ...]
    weights: dict[str, float]


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
            "places outside of the file", f"a complete job bundle in {name}", "Nothing was imported.", field="bundle"
        ) from None
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, RecursionError) as error:
        raise BadInput(
            str(error)[:58] or type(error).__name__,
            f"a complete job bundle in {name}",
            "Nothing was imported.",
            field="bundle",
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
            "Nothing was imported.",
            field="bundle",
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
                raise BadInput(place.name, f"{name} in the bundle", "Nothing was imported.", field="bundle")
            return bundle.read(infos[name])

        job, policy = _page(place.name, data(PAGE))
        version = json.loads(data(PAGE))["version"]
        lines = {
            table.name: _lines(table, data(f"{table.name}.csv"), version) if table.since <= version else []
            for table in TABLES
        }
        photos = {name.removeprefix(f"{PHOTOS}/"): data(name) for name in infos if name.startswith(f"{PHOTOS}/")}
        found = read_catalogue(data("catalogue.csv")) if "catalogue.csv" in infos else None
        if found is not None and found.problems:
            raise BadInput(
                "catalogue.csv", "a table in which every row can be read", str(found.problems[0]), field="bundle"
            )
        made = Bundle(
            job=job,
            policy=policy,
            lines=lines,
            photos=photos,
            parts=tuple(found.parts) if found else (),
            weights=_weights(json.loads(data(PAGE))),
        )
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
                "Nothing was imported.",
                field="bundle",
            )
        if info.file_size > LARGEST_FILE:
            raise BadInput(
                f"{info.filename}, {info.file_size / 1e6:.0f} MB",
                f"at most {LARGEST_FILE / 1e6:.0f} MB",
                "Nothing was imported.",
                field="bundle",
            )
    if len(bundle.infolist()) != len(infos) or len(infos) > FILES:
        raise BadInput(name, f"each file once, at most {FILES}", "Nothing was imported.", field="bundle")
    if sum(info.file_size for info in infos.values()) > LARGEST:
        raise BadInput(name, f"at most {LARGEST / 1e6:.0f} MB unpacked", "Nothing was imported.", field="bundle")


def _page(name: str, data: bytes) -> tuple[dict[str, Any], dict[str, Any] | None]:
    """The job's own row and its policy."""
    page = json.loads(data.decode("utf-8"))
    if not isinstance(page, dict) or page.get("format") != FORMAT:
        raise BadInput(name, f'a job.json with "format": "{FORMAT}"', "Nothing was imported.", field="bundle")
    version = page.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version > VERSION:
        raise BadInput(
            f"{name}, version {str(version)[:20]}", f"version {VERSION} or older",
            "It was made by a newer Idle Bench: import it there. Nothing was imported.", field="bundle",
        )  # fmt: skip
    told, row = page["job"], {}
    if not isinstance(told, dict):
        raise BadInput(str(told)[:40], "an object for job", "Nothing was imported.", field="bundle")
    for f in job_fields():
        new = JOB_SINCE.get(f.name, 0) > version
        row[f.name] = f.get_default() if new else _of_json(f, told[f.name])
    _parcels(row["parcels"])
    policy = page.get("policy")
    if policy is not None:
        if row["policy"] in POLICIES:
            raise BadInput(row["policy"], "a policy of the shop's own", "Nothing was imported.", field="bundle")
        read_policy(policy)
    elif row["policy"] not in POLICIES:
        raise BadInput(row["policy"], f"a supplied policy, or the bundle's own: {', '.join(POLICIES)}", field="bundle")
    return row, policy


def _parcels(lines: list[Any]) -> None:
    """Refuse parcels that no sheet can tell."""
    wanted = {"supplier": str, "at": str, "part": str, "quantity": int, "price": (int, float, type(None))}
    for line in lines:
        if (
            not isinstance(line, dict)
            or set(line) != set(wanted)
            or not all(isinstance(line[k], kind) for k, kind in wanted.items())
        ):
            raise BadInput(
                str(line)[:60], f"a parcel with {', '.join(wanted)}", "Nothing was imported.", field="bundle"
            )


def _weights(page: dict[str, Any]) -> dict[str, float]:
    """How much each unit matters, by its name."""
    found = page.get("weights", {})
    plain = isinstance(found, dict) and all(isinstance(w, (int, float)) and 0 < w <= 1000 for w in found.values())
    if not plain:
        raise BadInput(str(found)[:60], "a weight for units by their names", "Nothing was imported.", field="bundle")
    return found


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
            "It is in job.json. Nothing was imported.",
            field="bundle",
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
        raise BadInput(
            f"{f.name}: {value[:40]}", f"at most {f.max_length} letters", "It is in job.json.", field="bundle"
        )
    return value


def _lines(table: Table, data: bytes, version: int) -> list[dict[str, Any]]:
    """A table's rows, each value as its column has it; what a bundle of before does not know is as in a new row."""
    csv.field_size_limit(min(sys.maxsize, LARGEST_FILE))
    reader = csv.reader(io.StringIO(data.decode("utf-8"), newline=""), strict=True)
    name, fields = f"{table.name}.csv", table.fields_of(version)
    new = {f.name: f.get_default() for f in table.fields if f not in fields}
    wanted = ["no", "where", *(f.name for f in fields)]
    header = next(reader, [])
    if header != wanted:
        raise BadInput(
            f"{name}: {', '.join(header)[:60]}",
            f"the columns {', '.join(wanted)[:120]}",
            "Nothing was imported.",
            field="bundle",
        )
    lines = []
    for number, cells in enumerate(reader, 1):
        if len(cells) != len(wanted) or cells[0] != str(number) or number > ROWS:
            raise BadInput(
                f"row {number} of {name}",
                f"{len(wanted)} cells, numbered from 1 to at most {ROWS}",
                "Nothing was imported.",
                field="bundle",
            )
        lines.append(
            new
            | {f.name: as_value(f, cell, f"{name}, row {number}") for f, cell in zip(fields, cells[2:], strict=True)}
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
                        f"{table.name}.csv, {f.name} {number}",
                        "a row of the bundle",
                        "Nothing was imported.",
                        field="bundle",
                    )
    if any(line["job"] != 1 for line in bundle.lines["units"]):
        raise BadInput("units.csv", "units of one job", "Nothing was imported.", field="bundle")
    if any(line["ended"] is None for line in bundle.lines["sessions"]) or any(
        line["discharged"] is None for line in bundle.lines["reforming"]
    ):
        raise BadInput("a bundle with power on", "a job at rest", "Nothing was imported.", field="bundle")
    _true_to_itself(bundle)
    wanted = set()
    for name, model in (("photos", Photo), ("underlays", Underlay)):
        for number, line in enumerate(bundle.lines[name], 1):
            if line["file"] != picture_name(model, number):
                raise BadInput(
                    f"{name}.csv, file {line['file'][:40]}",
                    picture_name(model, number),
                    "Nothing was imported.",
                    field="bundle",
                )
            wanted |= {line["file"], *([small_name(line["file"])] if model is Photo else [])}
    if wanted != set(bundle.photos):
        odd = sorted(wanted ^ set(bundle.photos))[0]
        raise BadInput(
            f"photo {odd[:60]}",
            "every photo that the tables name, and no other",
            "Nothing was imported.",
            field="bundle",
        )
    for name, data in bundle.photos.items():
        ours(data, name)


#: So exactly a session and its event agree.
SAME = timedelta(seconds=5)
#: So far another bench's clock may be ahead of ours.
AHEAD = timedelta(minutes=10)
#: Times that lie ahead by right: until when something waits or dries.
LATER = ("waits_until", "dries_until", "free_at")


def _true_to_itself(bundle: Bundle) -> None:
    """Refuse what no bench writes: times that are still to come, power and a hand-over that the record knows nothing of."""
    latest = timezone.now() + AHEAD
    for table in TABLES:
        times = [f.name for f in table.fields if isinstance(f, models.DateTimeField) and f.name not in LATER]
        for number, line in enumerate(bundle.lines[table.name], 1):
            late = next((name for name in times if line[name] is not None and line[name] > latest), None)
            if late is not None:
                raise _odd(f"{line[late]:%Y-%m-%d %H:%M} in {table.name}.csv, row {number}", "a time in the past")
    record: dict[int, list[dict[str, Any]]] = {}
    for line in bundle.lines["record"]:
        record.setdefault(line["unit"], []).append(line)
    for number, session in enumerate(bundle.lines["sessions"], 1):
        began, ended = session["began"], session["ended"]
        on = [
            e for e in record.get(session["unit"], []) if e["kind"] == POWER and began - SAME <= e["at"] <= ended + SAME
        ]
        if ended < began or not on:
            raise _odd(f"row {number} of sessions.csv, of power", "the same power in record.csv")
    for number, unit in enumerate(bundle.lines["units"], 1):
        events = [e["kind"] for e in record.get(number, [])]
        if next((kind for kind in reversed(events) if kind in (POWER, IDLE)), IDLE) == POWER:
            raise _odd(f"record.csv, unit {unit['name'][:20]} with power on", "a job at rest")
        sealed = next((kind for kind in reversed(events) if kind in (HANDED, REOPENED)), REOPENED) == HANDED
        if sealed != (unit["handed_over"] is not None):
            raise _odd(f"unit {unit['name'][:20]}, {'open' if sealed else 'handed over'}", "the same in record.csv")


def _odd(read_: str, expected: str) -> BadInput:
    return BadInput(read_, expected, "The file was edited by hand. Nothing was imported.", field="bundle")
