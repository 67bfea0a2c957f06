"""A job's rows as numbered lines, and back: the tables of a bundle, one declaration for both ways.

Rows are numbered from 1 in the order they came; what is gone and only spoken of any more is numbered after those that are there.
So the same job gives the same bundle on whatever bench it lies.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models
from django.utils.dateparse import parse_datetime

from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import disarmed, rearmed

from ..records.models import (
    Bag,
    Board,
    Cause,
    Choice,
    Clue,
    DeviceChoice,
    DeviceSwap,
    DismantleStep,
    Entry,
    Event,
    FuseBlown,
    Job,
    KnownFault,
    Mend,
    Modification,
    Part,
    Photo,
    PowerSession,
    ProcedureStep,
    Reading,
    ReformReading,
    ReformRun,
    Swap,
    Underlay,
    Unit,
    UnitProcedure,
)

#: What the bench keeps for itself, and reckons anew where the job arrives.
OWN = {
    "id",
    "turn",
    "follow_up",
    "condemned",
    "history_id",
    "history_user",
    "boot",
    "steady",
    "dries_steady",
    "free_steady",
}


#: Columns that a bundle has from a version on, by table; one of before is read as if they had what a new row has.
SINCE = {
    "units": {
        "burn": 7,
        "hours_a_day": 8,
        "next_look": 8,
        "next_look_of": 8,
        "condition": 11,
        "decision": 11,
        "decision_why": 11,
    },
    "plan": {"by_hand": 3},
    "plan_versions": {"by_hand": 3},
    "boards": {
        "wiring": 4,
        "stands_for": 4,
        "replaced": 4,
        "truth": 5,
        "came_from": 6,
        "called": 6,
        "monitor_model": 7,
        "own_checks": 10,
        "serial": 11,
    },
    "swaps": {"safety": 4, "took": 9},
    "device_swaps": {"took": 9},
    "reforming_readings": {"volts": 9},
    "sessions": {"off_now": 7},
    "photos": {"ref": 10},
    "clues": {"as_found": 11},
}
#: Tables that a bundle has from a version on; in one of before they are empty.
TABLES_SINCE = {
    "device_swaps": 4, "mends": 4, "bags": 4, "procedures": 4, "procedure_steps": 4, "clues": 7, "causes": 7,
    "modifications": 11, "known_faults": 11,
}  # fmt: skip


@dataclass(frozen=True)
class Table:
    """A table of a bundle: its file's name, its rows' model, how the rows of a job are found, and what it tells."""

    name: str
    model: type[models.Model]
    of_job: str
    about: str

    @property
    def fields(self) -> list[models.Field]:
        """The columns, as the model has them, without what the bench keeps for itself."""
        return [
            f for f in self.model._meta.concrete_fields if f.name not in OWN or (self.is_history and f.name == "id")
        ]

    def fields_of(self, version: int) -> list[models.Field]:
        """The columns as a bundle of a version has them."""
        since = SINCE.get(self.name, {})
        return [f for f in self.fields if since.get(f.name, 0) <= version]

    @property
    def since(self) -> int:
        """The first version of a bundle that has it."""
        return TABLES_SINCE.get(self.name, 0)

    @property
    def is_history(self) -> bool:
        return hasattr(self.model, "history_type")

    def rows(self, job: Job) -> models.QuerySet:
        """The job's rows, in the order they came."""
        return self.model._base_manager.filter(**{self.of_job: job.pk}).order_by("pk")


PARTS, CHOICES = Part.history.model, Choice.history.model
#: Every table of a bundle, what others point to first.
TABLES = (
    Table("units", Unit, "job", "the machines of the job"),
    Table("boards", Board, "unit__job", "their boards; rails, chips, zones and devices as typed lines"),
    Table("dismantling", DismantleStep, "unit__job", "the dismantling log"),
    Table("survey", Part, "board__unit__job", "the parts found: the columns of the survey table"),
    Table("survey_versions", PARTS, "board__unit__job", "what the survey said before each change"),
    Table("plan", Choice, "part__board__unit__job", "what was decided for each place, with its reasons"),
    Table("plan_versions", CHOICES, "part__board__unit__job", "what was decided before each change"),
    Table("devices", DeviceChoice, "board__unit__job", "regulators and fuses that were chosen"),
    Table("fuses", FuseBlown, "board__unit__job", "fuses that blew, and why"),
    Table("swaps", Swap, "part__board__unit__job", "what was soldered in"),
    Table("device_swaps", DeviceSwap, "board__unit__job", "parts that are no capacitors, changed"),
    Table("mends", Mend, "board__unit__job", "damage and its repairs"),
    Table(
        "modifications", Modification, "board__unit__job", "what was added, moved or removed, and how it is put back"
    ),
    Table("bags", Bag, "board__unit__job", "what was bagged for each board"),
    Table("procedures", UnitProcedure, "unit__job", "procedures on the machines, as they were when they were added"),
    Table("procedure_steps", ProcedureStep, "procedure__unit__job", "results of their steps"),
    Table("readings", Reading, "unit__job", "readings of checks, with the limits of that time"),
    Table("sessions", PowerSession, "unit__job", "times under power"),
    Table("record", Event, "unit__job", "all that happened, in order: the proof is worked out from it"),
    Table("clues", Clue, "unit__job", "symptoms that were seen and readings taken to find a fault"),
    Table("causes", Cause, "unit__job", "suspects, and what it turned out to be"),
    Table("known_faults", KnownFault, "unit__job", "faults that the owner accepted"),
    Table("reforming", ReformRun, "part__board__unit__job", "reforming runs"),
    Table("reforming_readings", ReformReading, "run__part__board__unit__job", "currents read in them"),
    Table("photos", Photo, "unit__job", "photos, and what each shows"),
    Table("underlays", Underlay, "board__unit__job", "photos squared up under a board"),
    Table("log", Entry, "unit__job", "everything that was done, in words"),
)
#: Models whose rows are spoken of after they are gone, by their rows' numbers.
OUTLIVED = (Board, Part, Choice, Swap, DeviceSwap, Mend, Modification, UnitProcedure)
_LETTER = {"p": Part, "b": Board, "d": DeviceSwap, "m": Mend, "n": Modification, "q": UnitProcedure}


@dataclass
class Numbers:
    """Row keys to numbers, or the other way. known: by model. gone: what to give for a key that is not known."""

    known: dict[type[models.Model], dict[int, int]]
    gone: Callable[[type[models.Model], int], int]
    seen: dict[type[models.Model], dict[int, int]] = field(default_factory=dict)

    def of(self, model: type[models.Model], key: int) -> int:
        """The number of a row."""
        found = self.known.get(model, {}).get(key)
        if found is None:
            found = self.seen.setdefault(model, {}).get(key)
        if found is None:
            found = self.seen[model][key] = self.gone(model, key)
        return found

    def in_key(self, key: str) -> str:
        """A check's or step's key with the rows in it renumbered. Rows stand where core.prove puts them: nowhere else is a
        word such as p5 a row, for rails and chips are called so too."""
        words = key.split(".")
        if words[0] == "cold":
            spots = {3} if words[1:3] == ["fuse", "rating"] else {2}
        elif words[0] == "proc":
            spots = {1}
        else:
            spots = {2} if words[:2] == ["up", "life"] else set()
            if len(words) > 1 and words[-1].startswith("b"):
                spots.add(len(words) - 1)  # of a second supply: its board comes last
        return ".".join(self.in_word(w) if i in spots else w for i, w in enumerate(words))

    def in_word(self, word: str) -> str:
        """A row as the record calls it, p12 or b3, renumbered; any other word as it is."""
        hit = re.fullmatch(r"([pbdmnq])([0-9]{1,15})", word)
        return f"{hit[1]}{self.of(_LETTER[hit[1]], int(hit[2]))}" if hit else word

    def in_evidence(self, was: Any) -> Any:
        """What a reading was taken of, the fitted piece and the boards in it renumbered."""
        if not isinstance(was, dict):
            return was
        found = dict(was)
        if isinstance(was.get("part"), str) and (hit := re.fullmatch(r"(.* #)([0-9]{1,15})", was["part"], re.S)):
            found["part"] = f"{hit[1]}{self.of(Swap, int(hit[2]))}"
        if isinstance(was.get("boards"), str):
            found["boards"] = ", ".join(sorted(map(self.in_word, was["boards"].split(", "))))
        return found


def _renumbered(model: type[models.Model], name: str, value: Any, numbers: Numbers) -> Any:
    """A field's value with the rows it speaks of renumbered."""
    if value is None:
        return None
    if model is Event and name in ("row", "board"):
        return numbers.in_word(value)
    if model in (Event, Reading) and name in ("key", "step"):
        return numbers.in_key(value)
    if model is KnownFault and name == "key":
        return numbers.in_key(value)
    if model in (PowerSession, Clue) and name == "step":
        return numbers.in_key(value)
    if model is Event and name == "was":
        return numbers.in_evidence(value)
    if model is PARTS and name == "id":
        return numbers.of(Part, value)
    if model is CHOICES and name == "id":
        return numbers.of(Choice, value)
    return value


def values_out(table: Table, row: models.Model, numbers: Numbers) -> dict[str, Any]:
    """A row's values by column, the rows it points to by their numbers."""
    found = {}
    for f in table.fields:
        value = getattr(row, f.attname)
        if isinstance(f, models.ForeignKey):
            found[f.name] = None if value is None else numbers.of(f.related_model, value)
        else:
            found[f.name] = _renumbered(table.model, f.name, value, numbers)
    return found


def values_in(table: Table, line: dict[str, Any], numbers: Numbers) -> dict[str, Any]:
    """The same the other way: what a row is made with."""
    found = {}
    for f in table.fields:
        value = line[f.name]
        if isinstance(f, models.ForeignKey):
            found[f.attname] = None if value is None else numbers.of(f.related_model, value)
        else:
            found[f.name] = _renumbered(table.model, f.name, value, numbers)
    return found


def as_text(f: models.Field, value: Any) -> str:
    """A value as it stands in a table of a bundle. What a spreadsheet would take for a formula is disarmed."""
    if value is None:
        return ""
    if isinstance(f, models.BooleanField):
        return "yes" if value else "no"
    if isinstance(f, models.DateTimeField):
        return value.astimezone(UTC).isoformat()
    if isinstance(f, models.DateField):
        return value.isoformat()
    if isinstance(f, models.JSONField):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(f, models.FloatField):
        return repr(float(value))
    if isinstance(f, (models.IntegerField, models.ForeignKey)):
        return str(value)
    return disarmed(str(value))


def as_value(f: models.Field, text: str, where: str) -> Any:
    """The value again.

    Raises:
        BadInput: it is none of this column's.
    """
    try:
        return _value(f, text)
    except (ValueError, TypeError, OverflowError, RecursionError, ValidationError):
        raise BadInput(text[:60], _expected(f), f"It is in {where}, column {f.name}.", field="bundle") from None


def _expected(f: models.Field) -> str:
    kinds = (
        (models.BooleanField, "yes or no"), (models.DateTimeField, "a time such as 2026-11-25T17:00:00+00:00"),
        (models.DateField, "a day such as 2026-11-25"),
        (models.JSONField, "JSON"), (models.FloatField, "a number"), ((models.IntegerField, models.ForeignKey), "a whole number"),
    )  # fmt: skip
    if f.choices:
        return f"one of {', '.join(str(key) or '(empty)' for key, _ in f.choices)}"
    return next((words for kind, words in kinds if isinstance(f, kind)), f"at most {f.max_length or 'some'} letters")


def _value(f: models.Field, text: str) -> Any:
    if "\x00" in text:
        raise ValueError
    if isinstance(f, models.BooleanField) and not (f.null and text == ""):
        return {"yes": True, "no": False}[text] if text in ("yes", "no") else _wrong()
    if text == "" and (f.null or (isinstance(f, models.ForeignKey) and f.null)):
        return None
    if isinstance(f, models.DateTimeField):
        found = parse_datetime(text)
        return found if isinstance(found, datetime) and found.tzinfo is not None else _wrong()
    if isinstance(f, models.DateField):
        return date.fromisoformat(text)
    if isinstance(f, models.JSONField):
        found = json.loads(text)
        plain = isinstance(found, type(f.get_default()) if f.has_default() else (list, dict))
        return found if plain and _shallow(found) else _wrong()
    if isinstance(f, models.FloatField):
        found = float(text)
        return found if math.isfinite(found) and abs(found) < 1e30 else _wrong()
    if isinstance(f, (models.IntegerField, models.ForeignKey)):
        found = int(text) if re.fullmatch(r"-?[0-9]{1,15}", text) else _wrong()
        return found if found >= 0 or not isinstance(f, (models.PositiveIntegerField, models.ForeignKey)) else _wrong()
    plain = rearmed(text)
    if (f.max_length and len(plain) > f.max_length) or (f.choices and plain not in {key for key, _ in f.choices}):
        raise ValueError
    return plain


def _wrong() -> Any:
    raise ValueError


def _shallow(value: Any, depth: int = 0) -> bool:
    """Lists and objects of plain values, a few deep, without what a database cannot keep."""
    if isinstance(value, dict):
        return depth < 6 and all(isinstance(k, str) and _shallow(v, depth + 1) for k, v in value.items())
    if isinstance(value, list):
        return depth < 6 and all(_shallow(v, depth + 1) for v in value)
    if isinstance(value, float):
        return math.isfinite(value)
    return not isinstance(value, str) or (
        ("\x00" not in value and value.isprintable()) or "\n" in value or "\t" in value
    )


def schema_of(table: Table) -> dict[str, Any]:
    """The table's description as a table schema of the open formats."""
    fields = [
        {"name": "no", "type": "integer"},
        {"name": "where", "type": "string", "description": "in words; not read back"},
    ]
    for f in table.fields:
        kinds = (
            (models.BooleanField, "boolean"), (models.DateTimeField, "datetime"), (models.DateField, "date"), (models.JSONField, "any"),
            (models.FloatField, "number"), ((models.IntegerField, models.ForeignKey), "integer"),
        )  # fmt: skip
        told: dict[str, Any] = {"name": f.name, "type": next((k for kind, k in kinds if isinstance(f, kind)), "string")}
        if told["type"] == "boolean":
            told |= {"trueValues": ["yes"], "falseValues": ["no"]}
        if told["type"] == "datetime":
            told["format"] = "any"
        fields.append(told)
    return {"fields": fields, "missingValues": [""], "primaryKey": "no"}


def where_of(row: models.Model) -> str:
    """Where a row belongs, in words a person can look for: unit, board and part."""
    part = row if isinstance(row, Part) else getattr(row, "part", None) if hasattr(row, "part_id") else None
    if isinstance(row, ReformReading):
        part = row.run.part
    board = part.board if part is not None else row if isinstance(row, Board) else getattr(row, "board", None)
    if not isinstance(board, Board):
        board = None
    unit = board.unit if board is not None else row if isinstance(row, Unit) else getattr(row, "unit", None)
    words = [unit.name if unit is not None else "", board.name if board is not None else ""]
    return " / ".join(w for w in [*words, part.ref if isinstance(part, Part) else ""] if w)
