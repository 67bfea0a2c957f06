"""A job on its way to another bench: everything of it in one file, in the open formats, the same bytes from whatever bench."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from dataclasses import replace
from datetime import UTC
from pathlib import Path
from typing import Any

from django.db import models

from idlebench import catalogue
from idlebench.core.board.tables import write_catalogue
from idlebench.core.refusal import BadInput

from .. import home
from ..records.as_it_stood import as_it_stood
from ..records.models import CatalogueItem, Choice, Event, Job, OrderLine, Photo, ShopHours, ShopPolicy, Swap, Underlay
from ..unit.state import states_of
from .at_rest import must_be_at_rest
from .job_rows import OUTLIVED, OWN, TABLES, Numbers, Table, as_text, schema_of, values_out, where_of

FORMAT, VERSION = "idlebench-job", 11
#: Columns of the job's own row that a bundle has from a version on.
JOB_SINCE = {"parcels": 8}
#: The page of a bundle, the description of its tables, and where its photos lie.
PAGE, DESCRIBED, PHOTOS = "job.json", "datapackage.json", "photos"
#: The time that every file of a bundle carries: the same job gives the same bytes.
ALWAYS = (2000, 1, 1, 0, 0, 0)


def bundle_of(pk: int) -> tuple[str, bytes]:
    """A job as a bundle: a name for the file, and its bytes.

    Raises:
        Job.DoesNotExist: there is none. Blocked: a unit of it has power, or a part of it stands on volts.
        BadInput: a photo's file is missing.
    """
    with as_it_stood():
        job = Job.objects.get(pk=pk)
        must_be_at_rest("The job cannot be exported now", job)
        files = _files(job)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as bundle:
        for name, data in files.items():
            info = zipfile.ZipInfo(name, ALWAYS)
            info.external_attr = 0o600 << 16
            info.compress_type = zipfile.ZIP_STORED if name.startswith(PHOTOS) else zipfile.ZIP_DEFLATED
            bundle.writestr(info, data)
    plain = "".join(c if c.isalnum() else "-" for c in job.name.lower()).strip("-")[:40] or "job"
    return f"job-{job.number}-{plain}.zip", out.getvalue()


def export(pk: int, to: Path) -> Path:
    """Write a job's bundle into a file, whole or not at all.

    Raises:
        BadInput: the file is there already or cannot be written; and as bundle_of.
    """
    if to.exists():
        raise BadInput(str(to), "a file that is not there yet", "Nothing is written over.", field="file")
    _, data = bundle_of(pk)
    try:
        home.written(to, data)
    except OSError as error:
        raise BadInput(f"{to} ({error.strerror or error})", "a place that can be written", field="file") from None
    return to


def numbers_out(job: Job, rows: dict[str, list[models.Model]]) -> Numbers:
    """Each row's number: by table, in the order they came."""
    known = {table.model: {row.pk: i for i, row in enumerate(rows[table.name], 1)} for table in TABLES}
    known[Job] = {job.pk: 1}
    found = Numbers(known, lambda model, key: 0)

    def gone(model: type[models.Model], key: int) -> int:
        if model not in OUTLIVED:
            raise BadInput(f"{model._meta.verbose_name} {key}", f"a row of job {job.number}", field="job")
        return len(known[model]) + len(found.seen[model]) + 1

    found.gone = gone
    return found


def _files(job: Job) -> dict[str, bytes]:
    """Every file of the bundle by its name."""
    rows = {table.name: list(_with_places(table, job)) for table in TABLES}
    numbers = numbers_out(job, rows)
    files = {PAGE: _page(job), DESCRIBED: _described()}
    for table in TABLES:
        files[f"{table.name}.csv"] = _table(table, rows[table.name], numbers)
    files["checks.csv"] = _checks(rows["units"], numbers)
    files["catalogue.csv"] = _own_parts(rows)
    for name, path in sorted(_pictures(rows).items()):
        if not path.is_file():
            raise BadInput(path.name, "a photo's file in this bench's folder", "Restore a backup first.", field="photo")
        files[f"{PHOTOS}/{name}"] = path.read_bytes()
    return files


def picture_name(model: type[models.Model], number: int) -> str:
    """What a picture is called in a bundle: by its row's number, whatever this bench calls it."""
    return f"{number:04d}.jpg" if model is Photo else f"{number:04d}.flat.jpg"


def small_name(name: str) -> str:
    """What a photo's thumbnail is called beside it."""
    return name.replace(".jpg", ".small.jpg")


def _pictures(rows: dict[str, list[models.Model]]) -> dict[str, Path]:
    """Every picture of the job by its name in the bundle."""
    found = {}
    for number, photo in enumerate(rows["photos"], 1):
        name = picture_name(Photo, number)
        found |= {name: photo.path, small_name(name): photo.small}
    return found | {picture_name(Underlay, number): row.path for number, row in enumerate(rows["underlays"], 1)}


def _with_places(table: Table, job: Job) -> models.QuerySet:
    """The rows with what where_of looks at, in few queries."""
    paths = {
        "boards": ("unit",), "dismantling": ("unit",), "survey": ("board__unit",), "plan": ("part__board__unit",),
        "devices": ("board__unit",), "fuses": ("board__unit",), "swaps": ("part__board__unit",),
        "device_swaps": ("board__unit",), "mends": ("board__unit",), "bags": ("board__unit",), "procedures": ("unit", "board__unit"),
        "procedure_steps": ("procedure__unit",), "readings": ("unit",),
        "sessions": ("unit",), "record": ("unit",), "reforming": ("part__board__unit",),
        "reforming_readings": ("run__part__board__unit",), "photos": ("unit", "board__unit", "part__board__unit"),
        "underlays": ("board__unit",), "log": ("unit",),
    }  # fmt: skip
    return table.rows(job).select_related(*paths[table.name]) if table.name in paths else table.rows(job)


def job_fields() -> list[models.Field]:
    """What of a job's row goes with it."""
    return [f for f in Job._meta.concrete_fields if f.name not in OWN]


def parcels_of(job: Job) -> list[dict[str, Any]]:
    """What was ordered for a job, here and where it came from: lines of parcels whose part was taken for a place of it, the
    oldest first. A parcel serves several jobs: it stays with the shop, and is told to whoever takes the job on.
    """
    taken = set(Choice.objects.filter(part__board__unit__job=job).exclude(item="").values_list("item", flat=True))
    taken |= set(Swap.objects.filter(part__board__unit__job=job).values_list("item", flat=True))
    found = {_key(one): one for one in job.parcels}
    for line in OrderLine.objects.filter(part__in=taken).select_related("order"):
        one = {
            "supplier": line.order.supplier, "at": line.order.at.astimezone(UTC).isoformat(), "part": line.part,
            "quantity": line.quantity, "price": line.price,
        }  # fmt: skip
        found.setdefault(_key(one), one)
    return [found[key] for key in sorted(found)]


def _key(parcel: dict[str, Any]) -> tuple[str, ...]:
    return tuple(str(parcel.get(name, "")) for name in ("at", "supplier", "part"))


def weights_of(job: Job) -> dict[str, float]:
    """How much it matters that each unit of a job is done early, by its name; those of which nobody said it are left out."""
    said = (ShopHours.objects.first() or ShopHours()).weights
    return {unit.name: said[str(unit.pk)] for unit in job.units.all() if str(unit.pk) in said}


def _page(job: Job) -> bytes:
    told: dict[str, Any] = {
        f.name: f.value_to_string(job) if isinstance(f, models.DateTimeField) else getattr(job, f.name)
        for f in job_fields()
    }
    told["parcels"] = parcels_of(job)
    policy = ShopPolicy.objects.filter(name=job.policy).first()
    page = {
        "format": FORMAT,
        "version": VERSION,
        "job": told,
        "policy": policy.data if policy else None,
        "weights": weights_of(job),
        "tables": {table.name: table.about for table in TABLES},
    }
    return (json.dumps(page, ensure_ascii=False, indent=1) + "\n").encode()


def _described() -> bytes:
    resources = [
        {"name": table.name.replace("_", "-"), "path": f"{table.name}.csv", "description": table.about, "encoding": "utf-8",
         "format": "csv", "mediatype": "text/csv", "schema": schema_of(table)}
        for table in TABLES
    ]  # fmt: skip
    page = {"name": FORMAT, "version": str(VERSION), "resources": resources}
    return (json.dumps(page, ensure_ascii=False, indent=1) + "\n").encode()


def _csv(header: list[str], lines: list[list[str]]) -> bytes:
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerows([header, *lines])
    return out.getvalue().encode()


def _table(table: Table, rows: list[models.Model], numbers: Numbers) -> bytes:
    lines = []
    for number, row in enumerate(rows, 1):
        values = values_out(table, row, numbers)
        if "file" in values:
            values["file"] = picture_name(table.model, number)
        where = "" if table.is_history else where_of(row)
        lines.append(
            [str(number), as_text(models.TextField(), where), *(as_text(f, values[f.name]) for f in table.fields)]
        )
    return _csv(["no", "where", *(f.name for f in table.fields)], lines)


def _checks(units: list[models.Model], numbers: Numbers) -> bytes:
    """What each unit asks, and how it stands: reckoned from the rest, told for those who read the file, not read back."""
    lines = []
    told = Event.to_core([unit.pk for unit in units], as_told=True)
    for state in states_of([unit.pk for unit in units]):
        state.told(told.get(state.row.pk, []))
        for step in state.proof.steps:
            for check in step.checks:
                words = [state.row.name, step.title, numbers.in_key(check.key), check.point, check.ask, check.limits]
                stood = state.proof.status_of(check).word
                lines.append([as_text(models.TextField(), text) for text in (*words, stood)])
    return _csv(["unit", "step", "check", "point", "ask", "limits", "stands"], lines)


def _own_parts(rows: dict[str, list[models.Model]]) -> bytes:
    """Parts of one's own that this job took or swapped in: their facts. What they cost and how many lie there is the shop's."""
    names = {row.item for table in ("plan", "swaps") for row in rows[table] if row.item}
    house = {part.part for part in catalogue.house_columns().parts}
    own = CatalogueItem.objects.filter(part__in=names - house).order_by("part")
    blank = {"price": 0.0, "supplier": "", "stock": 0, "lead_days": 0, "pack": 1}
    return write_catalogue([replace(row.to_core(), **blank) for row in own]).encode()
