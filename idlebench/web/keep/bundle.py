"""Taking in a job bundle: a folder or zip with job.json and the tables it names. All of it, or nothing.

What a person would type goes through the services a person's own typing goes through, gates included.
"""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable, Mapping
from itertools import takewhile
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from idlebench.core.board.tables import PLAN, READINGS
from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.text import csvtable
from idlebench.core.text.csvtable import Column

from ..choose import services as choosing
from ..intake import dismantling, forms, services, triage
from ..ledger import services as handing
from ..photos import services as showing
from ..photos.files import kept_or_gone
from ..photos.forms import read_photo, read_points
from ..proving import services as proving
from ..records.models import Job, Unit
from ..survey import services as surveying
from ..swap import services as swapping
from . import coming
from .bundle_file import clear, is_bundle

FORMAT, VERSION = "idlebench-job", 1

Source = Callable[[str], bytes]


def _source(place: Path) -> Source:
    """How files of a bundle are read, from a folder or a zip; nothing outside of it, nothing too large."""
    if place.is_dir():
        root = place.resolve()

        def from_folder(name: str) -> bytes:
            path = (root / name).resolve()
            if not path.is_relative_to(root) or not path.is_file():
                raise BadInput(name, f"a file of the bundle {place.name}", field="bundle")
            return path.read_bytes()

        return from_folder
    if not place.is_file():
        raise BadInput(str(place), "a folder or zip with a job.json", field="bundle")

    def from_zip(name: str) -> bytes:
        try:
            with zipfile.ZipFile(place) as bundle:
                info = bundle.getinfo(name)
                if info.file_size > csvtable.MAX_BYTES:
                    raise BadInput(name, f"a file of at most {csvtable.MAX_BYTES / 1e6:.0f} MB", field="bundle")
                return bundle.read(info)
        except KeyError:
            raise BadInput(name, f"a file of the bundle {place.name}", field="bundle") from None
        except (zipfile.BadZipFile, RuntimeError, NotImplementedError):
            raise BadInput(place.name, "a zip file that can be opened", field="bundle") from None

    return from_zip


def _rows(data: bytes, columns: tuple[Column, ...], name: str) -> list[dict[str, Any]]:
    table = csvtable.read_table(data, columns)
    if table.problems:
        raise BadInput(name, "a table in which every row can be read", str(table.problems[0]), field="bundle")
    return table.rows


def _typed(data: Mapping[str, Any], name: str) -> dict[str, str]:
    """A JSON object as if typed into a form; lists become lines."""
    if not isinstance(data, Mapping):
        raise BadInput(str(data)[:40], f"an object for {name}", field="job.json")
    return {
        key: "\n".join(map(str, value)) if isinstance(value, list) else "" if value is None else str(value)
        for key, value in data.items()
    }


def _listed(data: Mapping[str, Any], name: str) -> list[Any]:
    value = data.get(name, [])
    if not isinstance(value, list):
        raise BadInput(str(value)[:40], f"a list of {name}", field="job.json")
    return value


def ask_if_here(place: Path) -> None:
    """Refuse a job's file that is on this bench already: a second one is taken in only by who says so.

    Raises:
        Blocked: the job is here; it says under which number. What else may be wrong with the file, take_in says.
    """
    try:
        with clear(place.name):
            told = json.loads(_source(place)("job.json").decode("utf-8"))["job"]
        name, machine, began = str(told["name"]).strip(), str(told["machine"]).strip(), told.get("began")
        # a bundle knows to the microsecond when its job began; a typed one is known by what it is called
        same = {"began": parse_datetime(began)} if began else {"name": name, "machine": machine}
        here = Job.objects.filter(**same).first()
    except (BadInput, ValueError, KeyError, TypeError, AttributeError):
        return
    if here is not None:
        known = Block(
            "here already",
            f"This job is on the bench already: job {here.number}, {here.name}.",
            "Import it again, as another job, only if a second one is meant.",
        )
        raise Blocked("The job is not imported", (known,))


def take_in(place: Path) -> Job:
    """Take a job in: a bundle that a bench made, or a folder or zip of typed files.

    Raises:
        BadInput: what is wrong with it; nothing was taken.
    """
    if place.is_file() and is_bundle(place):
        return coming.take_in(place)
    with kept_or_gone(), transaction.atomic():
        job = import_folder(place)
        coming.arrived(job)
        return job


@kept_or_gone()
def import_folder(place: Path) -> Job:
    """Take in a job.

    Raises:
        BadInput: what is wrong with the bundle; nothing was taken.
    """
    with clear(Path(place).name), transaction.atomic():
        return _typed_in(place)


def _typed_in(place: Path) -> Job:
    source = _source(Path(place))
    try:
        data = json.loads(source("job.json").decode("utf-8"))
    except (UnicodeDecodeError, json.JSONDecodeError) as error:
        raise BadInput("job.json", "a JSON file in UTF-8", str(error), field="bundle") from None
    if not isinstance(data, Mapping) or data.get("format") != FORMAT or data.get("version") != VERSION:
        raise BadInput("job.json", f'"format": "{FORMAT}" and "version": {VERSION}', field="bundle")
    units = _listed(data, "units")
    names = ", ".join(str(u.get("name", "")) for u in units if isinstance(u, Mapping))
    typed = {**_typed(data.get("job", {}), "job"), "units": names}
    # what a table tells was read of the machines: the stand-in begins after it
    typed, meter = {**typed, "meter": ""}, typed.get("meter", "")
    job = services.take_in_job(*forms.new_job(typed))
    for unit, facts in zip(job.units.order_by("id"), units, strict=True):
        _unit(unit, facts, source)
    if meter:
        job.meter = forms.job_facts({**typed, "meter": meter})["meter"]
        job.save(update_fields=["meter"])
    return job


def _unit(unit: Unit, facts: Mapping[str, Any], source: Source) -> None:
    if any(facts.get(k) for k in ("serial", "symptoms", "missing", "found", "repairs", "dates", "burn")):
        services.describe_unit(unit, forms.unit_facts(_typed(facts, "unit")))
    if facts.get("worth") is not None or facts.get("damage"):
        triage.value(unit, **forms.worth_facts(_typed(facts, "unit")))
    unit.first_look = [str(key) for key in _listed(facts, "first_look")]
    skipped = facts.get("look_skipped") or {}
    if not isinstance(skipped, Mapping):
        raise BadInput(str(skipped)[:40], "an object of reasons by look", field="look_skipped")
    unit.save(update_fields=["first_look"])
    for key, reason in skipped.items():
        services.skip_look(unit, str(key), str(reason))
    for text in _listed(facts, "dismantling"):
        dismantling.take_off(unit, str(text))
    for typed in _listed(facts, "boards"):
        board = services.add_board(unit, forms.board_facts(_typed(typed, "board")))
        if typed.get("survey"):
            loaded = surveying.load_csv(board, source(typed["survey"]), good_rows=False)
            if loaded.problems:
                raise BadInput(
                    typed["survey"], "a survey in which every row can be read", str(loaded.problems[0]), field="bundle"
                )
    for photo in _listed(facts, "photos"):
        _photo(unit, photo, source)
    plan = _rows(source(facts["plan"]), PLAN, facts["plan"]) if facts.get("plan") else []
    readings = _rows(source(facts["readings"]), READINGS, facts["readings"]) if facts.get("readings") else []
    _choices(unit, plan)
    first = list(takewhile(lambda row: row["check"].startswith("cold.discharge."), readings))
    now = proving.replay(unit.pk, first, timezone.now() - proving.lasts(readings))
    _swaps(unit, plan)
    now = proving.replay(unit.pk, readings[len(first) :], now)
    if facts.get("reassembled"):
        for line in reversed(dismantling.lines(unit)):
            dismantling.put_back(line.row)
    if facts.get("handed_over"):
        handing.hand_over(unit.pk, now)


def _photo(unit: Unit, facts: Mapping[str, Any], source: Source) -> None:
    """A photo of the bundle: pinned to the unit or a board, and squared up under the board where its corners are given."""
    typed = _typed(facts, "photo")
    board = unit.boards.filter(name=typed.get("board", "")).first()
    if typed.get("board") and board is None:
        raise BadInput(typed["board"], f"a board of unit {unit.name}", field="photos")
    name = typed.get("file", "")
    to = {"to": f"board:{board.pk}" if board else "unit", "words": typed.get("words", "")}
    photo, _ = showing.take_photo(unit, source(name), name, *read_photo(unit, to))
    if board and typed.get("square"):
        width, height = board.width, board.height
        corners = [(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)]
        showing.lay_under(board, typed.get("side") or "parts", photo, read_points(typed["square"]), corners)


def _choices(unit: Unit, rows: list[dict[str, Any]]) -> None:
    """Settle the places of a plan."""
    settled = {"keep": choosing.LEFT_IN, "out": choosing.LEFT_OUT}
    for pk, mine in _by_board(unit, rows):
        choosing.settle_all(pk, [(row["ref"], settled.get(row["action"], row["item"])) for row in mine])


def _swaps(unit: Unit, rows: list[dict[str, Any]]) -> None:
    """Log the swaps of a plan: after the discharges that its readings begin with, before all that follows."""
    for pk, mine in _by_board(unit, rows):
        if done := [(row["ref"], row["note"]) for row in mine if row["swapped"] and row["action"] != "keep"]:
            swapping.swapped_all(pk, done)


def _by_board(unit: Unit, rows: list[dict[str, Any]]) -> list[tuple[int, list[dict[str, Any]]]]:
    boards = {b.name: b.pk for b in unit.boards.all()}
    for row in rows:
        if row["board"] not in boards:
            raise BadInput(row["board"], f"one of the boards {', '.join(boards)}", field="plan")
    return [(pk, mine) for name, pk in boards.items() if (mine := [row for row in rows if row["board"] == name])]
