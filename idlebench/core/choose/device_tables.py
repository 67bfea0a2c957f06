"""The tables of regulators and fuses, from CSV to parts and back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields
from typing import Any

from ..board.tables import Read
from ..refusal import BadInput
from ..text.csvtable import Column, Problem, choice, number, read_table, words, write_table
from .regulators_and_fuses import Fuse, Regulator

REGULATORS = (
    words("part", "name", 60, required=True),
    words("series", "series", 60),
    choice("type", ("linear", "module"), "linear or switching module", "linear"),
    number("volts", "V", "volts out, with the sign", low=-200, high=200, required=True),
    number("current", "A", "current", low=0, high=100, required=True),
    number("dropout", "V", "dropout", default=0.0, low=0, high=20),
    number("v_in_max", "V", "greatest volts in", default=0.0, low=0, high=500),
    words("pins", "pins in order, such as input ground output", 60),
    words("tab", "what the tab is joined to", 12),
    number("theta_jc", "", "junction to case, K/W", default=0.0, low=0, high=500),
    number("height", "mm", "height", default=0.0, low=0, high=200),
    number("min_load", "A", "least load", default=0.0, low=0, high=100),
    number("efficiency", "", "of a module", default=0.0, low=0, high=1),
    number("esr_low", "Ω", "least ESR of its output store", default=0.0, low=0, high=100),
    number("esr_high", "Ω", "greatest ESR of its output store", default=0.0, low=0, high=100),
    number("price", "", "price of a piece", default=0.0, low=0, high=1e5),
    number("stock", "", "pieces on the shelf", default=0.0, low=0, high=1e6),
)
FUSES = (
    words("part", "name", 60, required=True),
    words("series", "series", 60),
    number("rating", "A", "rating", low=0, high=200, required=True),
    choice("characteristic", ("FF", "F", "M", "T", "TT"), "characteristic"),
    number("volts_ac", "V", "volts AC", default=0.0, low=0, high=1000),
    number("volts_dc", "V", "volts DC", default=0.0, low=0, high=1000),
    number("breaking", "A", "breaking capacity", default=0.0, low=0, high=1e6),
    choice("size", ("5x20", "6.3x32"), "size, mm"),
    choice("mounting", ("holder", "leads"), "how it is held", "holder"),
    number("melting", "", "melting I²t, A²s", default=0.0, low=0, high=1e6),
    number("price", "", "price of a piece", default=0.0, low=0, high=1e5),
    number("stock", "", "pieces on the shelf", default=0.0, low=0, high=1e6),
)


def _regulator(row: dict[str, Any]) -> Regulator:
    pins = tuple(str(row["pins"]).split())
    if len(pins) not in (0, 3):
        raise BadInput(str(row["pins"]), "three pins in order, such as input ground output", "", "pins")
    if not row["volts"] or not row["current"]:
        raise BadInput(row["part"], "volts and current that are not zero", "", "volts")
    if row["type"] == "module" and not row["efficiency"]:
        raise BadInput(row["part"], "the efficiency of a module", "", "efficiency")
    return Regulator(**{**row, "pins": pins, "stock": int(row["stock"])})


def _fuse(row: dict[str, Any]) -> Fuse:
    for name in ("rating", "characteristic", "size", "melting"):
        if not row[name]:
            raise BadInput(row["part"], f"a fuse with its {name}", f"Fill in {name}.", name)
    return Fuse(**{**row, "stock": int(row["stock"])})


def _read(data: bytes | str, columns: tuple[Column, ...], build: Callable[[dict[str, Any]], Any]) -> Read:
    table = read_table(data, columns, unique="part")
    parts, problems = [], list(table.problems)
    for row in table.rows:
        line = row.pop("line")
        try:
            parts.append(build(row))
        except BadInput as error:
            problems.append(Problem(line, error.field, error.read, str(error)))
    return Read(tuple(parts), tuple(problems), tuple(table.unknown))


def read_regulators(data: bytes | str) -> Read:
    """Regulators from a table, and the rows that cannot be read or contradict themselves."""
    return _read(data, REGULATORS, _regulator)


def read_fuses(data: bytes | str) -> Read:
    """Fuses from a table, and the rows that cannot be read or contradict themselves."""
    return _read(data, FUSES, _fuse)


def write_regulators(parts: list[Regulator]) -> str:
    """Regulators as the table that reads back the same."""
    return write_table(REGULATORS, ({**_row(p), "pins": " ".join(p.pins)} for p in parts))


def write_fuses(parts: list[Fuse]) -> str:
    """Fuses as the table that reads back the same."""
    return write_table(FUSES, (_row(p) for p in parts))


def _row(part: Regulator | Fuse) -> dict[str, Any]:
    return {f.name: getattr(part, f.name) for f in fields(part)}
