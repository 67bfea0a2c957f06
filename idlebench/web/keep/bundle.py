"""Taking in a job bundle: a folder or zip with job.json and the tables it names. All of it, or nothing.

What a person would type goes through the services a person's own typing goes through, gates included.
"""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from django.db import transaction

from idlebench.core.board.tables import PLAN, READINGS
from idlebench.core.refusal import BadInput
from idlebench.core.text import csvtable
from idlebench.core.text.csvtable import Column

from ..choose import services as choosing
from ..intake import dismantling, services, triage
from ..ledger import services as handing
from ..photos import services as showing
from ..photos.files import kept_or_gone
from ..proving import services as proving
from ..records.models import Job, Unit
from ..survey import services as surveying
from ..swap import services as swapping
from ..unit.state import board_state, unit_state

FORMAT, VERSION = "idlebench-job", 1

Source = Callable[[str], bytes]


def _source(place: Path) -> Source:
    """How files of a bundle are read, from a folder or a zip; nothing outside of it, nothing too large."""
    if place.is_dir():
        root = place.resolve()

        def from_folder(name: str) -> bytes:
            path = (root / name).resolve()
            if not path.is_relative_to(root) or not path.is_file():
                raise BadInput(name, f"a file of the bundle {place.name}", "", "bundle")
            return path.read_bytes()

        return from_folder
    if not place.is_file():
        raise BadInput(str(place), "a folder or zip with a job.json", "", "bundle")

    def from_zip(name: str) -> bytes:
        try:
            with zipfile.ZipFile(place) as bundle:
                info = bundle.getinfo(name)
                if info.file_size > csvtable.MAX_BYTES:
                    raise BadInput(name, f"a file of at most {csvtable.MAX_BYTES / 1e6:.0f} MB", "", "bundle")
                return bundle.read(info)
        except KeyError:
            raise BadInput(name, f"a file of the bundle {place.name}", "", "bundle") from None
        except (zipfile.BadZipFile, RuntimeError, NotImplementedError):
            raise BadInput(place.name, "a zip file that can be opened", "", "bundle") from None

    return from_zip


def _rows(data: bytes, columns: tuple[Column, ...], name: str) -> list[dict[str, Any]]:
    table = csvtable.read_table(data, columns)
    if table.problems:
        raise BadInput(name, "a table in which every row can be read", str(table.problems[0]), "bundle")
    return table.rows


def _typed(data: Mapping[str, Any], name: str) -> dict[str, str]:
    """A JSON object as if typed into a form; lists become lines."""
    if not isinstance(data, Mapping):
        raise BadInput(str(data)[:40], f"an object for {name}", "", "job.json")
    return {
        key: "\n".join(map(str, value)) if isinstance(value, list) else "" if value is None else str(value)
        for key, value in data.items()
    }


def _listed(data: Mapping[str, Any], name: str) -> list[Any]:
    value = data.get(name, [])
    if not isinstance(value, list):
        raise BadInput(str(value)[:40], f"a list of {name}", "", "job.json")
    return value


@kept_or_gone()
@transaction.atomic
def import_folder(place: Path) -> Job:
    """Take in a job.

    Raises:
        BadInput: what is wrong with the bundle; nothing was taken.
    """
    source = _source(Path(place))
    try:
        data = json.loads(source("job.json").decode("utf-8"))
    except (UnicodeDecodeError, json.JSONDecodeError) as error:
        raise BadInput("job.json", "a JSON file in UTF-8", str(error), "bundle") from None
    if not isinstance(data, Mapping) or data.get("format") != FORMAT or data.get("version") != VERSION:
        raise BadInput("job.json", f'"format": "{FORMAT}" and "version": {VERSION}', "", "bundle")
    units = _listed(data, "units")
    names = ", ".join(str(u.get("name", "")) for u in units if isinstance(u, Mapping))
    job = services.take_in_job({**_typed(data.get("job", {}), "job"), "units": names})
    for unit, facts in zip(job.units.order_by("id"), units, strict=True):
        _unit(unit, facts, source)
    return job


def _unit(unit: Unit, facts: Mapping[str, Any], source: Source) -> None:
    if any(facts.get(k) for k in ("serial", "symptoms", "missing", "found", "repairs", "dates")):
        services.describe_unit(unit, _typed(facts, "unit"))
    if facts.get("worth") is not None or facts.get("damage"):
        triage.value(unit, _typed(facts, "unit"))
    unit.first_look = [str(key) for key in _listed(facts, "first_look")]
    unit.save(update_fields=["first_look"])
    for text in _listed(facts, "dismantling"):
        dismantling.take_off(unit, str(text))
    for typed in _listed(facts, "boards"):
        board = services.add_board(unit, _typed(typed, "board"))
        if typed.get("survey"):
            loaded = surveying.load_csv(board, source(typed["survey"]), good_rows=False)
            if loaded.problems:
                raise BadInput(
                    typed["survey"], "a survey in which every row can be read", str(loaded.problems[0]), "bundle"
                )
    for photo in _listed(facts, "photos"):
        _photo(unit, photo, source)
    if facts.get("plan"):
        _plan(unit, _rows(source(facts["plan"]), PLAN, facts["plan"]))
    if facts.get("readings"):
        _readings(unit, _rows(source(facts["readings"]), READINGS, facts["readings"]))
    if facts.get("reassembled"):
        for line in reversed(dismantling.lines(unit)):
            dismantling.put_back(line.row)
    if facts.get("handed_over"):
        handing.hand_over(unit_state(unit.pk))


def _photo(unit: Unit, facts: Mapping[str, Any], source: Source) -> None:
    """A photo of the bundle: pinned to the unit or a board, and squared up under the board where its corners are given."""
    typed = _typed(facts, "photo")
    board = unit.boards.filter(name=typed.get("board", "")).first()
    if typed.get("board") and board is None:
        raise BadInput(typed["board"], f"a board of unit {unit.name}", "", "photos")
    name = typed.get("file", "")
    to = {"to": f"board:{board.pk}" if board else "unit", "words": typed.get("words", "")}
    photo, _ = showing.take_photo(unit, source(name), name, to)
    if board and typed.get("square"):
        width, height = board.width, board.height
        corners = [(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)]
        showing.lay_under(board, typed.get("side") or "parts", photo, showing.read_points(typed["square"]), corners)


def _plan(unit: Unit, rows: list[dict[str, Any]]) -> None:
    boards = {b.name: b.pk for b in unit.boards.all()}
    for row in rows:
        if row["board"] not in boards:
            raise BadInput(row["board"], f"one of the boards {', '.join(boards)}", "", "plan")
    for name, pk in boards.items():
        state, board = board_state(pk)
        mine = [row for row in rows if row["board"] == name]
        for row in mine:
            part = board.find(row["ref"])
            if part is None:
                raise BadInput(row["ref"], f"a place of {name}", "", "plan")
            if row["action"] == "keep":
                choosing.leave_in(board, part)
                continue
            best = choosing.ranking_for(state, part, fits=1, refused=0).best if not row["item"] else None
            item = row["item"] or (best.part.part if best else "")
            choosing.take(state, board, part, item)
        _, board = board_state(pk)
        for row in mine:
            if row["swapped"]:
                swapping.swapped(board, board.find(row["ref"]), live=False, note=row["note"])


def _readings(unit: Unit, rows: list[dict[str, Any]]) -> None:
    """Play readings in order: power goes on at a step when its first live reading comes, and off at the next cold one."""
    for row in rows:
        state = unit_state(unit.pk)
        check = state.progress.check(row["check"])
        if check is None:
            raise BadInput(row["check"], "a check of this unit", "", "readings")
        if state.session and (
            not check.live or (state.progress.step(check.step).rewire and state.live_step != check.step)
        ):
            proving.make_idle(state.session)
            state = unit_state(unit.pk)
        if check.live and state.live_step != check.step:
            proving.power_on(state, check.step)
            state = unit_state(unit.pk)
        proving.take_reading(state, check.key, row["reading"])
        if row["reason"]:
            proving.override(unit_state(unit.pk), check.key, row["reason"])
    state = unit_state(unit.pk)
    if state.session:
        proving.make_idle(state.session)
