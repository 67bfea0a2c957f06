"""The tables of regulators, fuses, cells and diodes, from CSV to parts and back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields
from typing import Any

from ..board.tables import TableParts
from ..circuit.packages import PACKAGES
from ..refusal import BadInput
from ..text.csvtable import Column, Problem, choice, number, read_table, words, write_table
from .cells_and_diodes import CHEMISTRIES, DIODE_KINDS, HELD, LEADS, Battery, Diode
from .fuses import Fuse
from .regulators_and_fuses import Regulator

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
    choice("package", ("", *PACKAGES), "package", ""),
    number("theta_jc", "", "junction to case, K/W", default=0.0, low=0, high=500),
    number("height", "mm", "height", default=0.0, low=0, high=200),
    number("min_load", "A", "least load", default=0.0, low=0, high=100),
    number("efficiency", "", "of a module", default=0.0, low=0, high=1),
    number("esr_low", "Ω", "least ESR of its output capacitor", default=0.0, low=0, high=100),
    number("esr_high", "Ω", "greatest ESR of its output capacitor", default=0.0, low=0, high=100),
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
    choice("mounting", ("holder", "leads"), "holder or mounting", "holder"),
    number("melting", "", "melting I²t, A²s", default=0.0, low=0, high=1e6),
    number("price", "", "price of a piece", default=0.0, low=0, high=1e5),
    number("stock", "", "pieces on the shelf", default=0.0, low=0, high=1e6),
)
BATTERIES = (
    words("part", "name", 60, required=True),
    words("series", "series", 60),
    choice("chemistry", tuple(CHEMISTRIES), "kind of cell", "lithium"),
    number("volts", "V", "volts of the set", low=0, high=100, required=True),
    number("capacity", "", "what it holds, Ah", default=0.0, low=0, high=1e4),
    number("diode", "V", "volts that a diode in its lead takes, 0 without one", default=0.0, low=0, high=3),
    choice("held", tuple(HELD), "how it is mounted", LEADS),
    number("diameter", "mm", "diameter", default=0.0, low=0, high=200),
    number("height", "mm", "height", default=0.0, low=0, high=200),
    number("price", "", "price of a piece", default=0.0, low=0, high=1e5),
    number("stock", "", "pieces on the shelf", default=0.0, low=0, high=1e6),
)
DIODES = (
    words("part", "name", 60, required=True),
    words("series", "series", 60),
    choice("kind", tuple(DIODE_KINDS), "kind", "plain"),
    number("volts", "V", "reverse volts", low=0, high=50e3, required=True),
    number("current", "A", "average current", low=0, high=1e3, required=True),
    number("surge", "A", "surge of one half cycle", default=0.0, low=0, high=1e5),
    number("drop", "V", "drop at its current", default=1.0, low=0, high=20),
    number("recovery", "s", "recovery time, 0 where none is given", default=0.0, low=0, high=1),
    choice("mounting", ("axial", "radial", "tab"), "mounting", "axial"),
    number("price", "", "price of a piece", default=0.0, low=0, high=1e5),
    number("stock", "", "pieces on the shelf", default=0.0, low=0, high=1e6),
)


def _regulator(row: dict[str, Any]) -> Regulator:
    pins = tuple(str(row["pins"]).split())
    if len(pins) not in (0, 3):
        raise BadInput(str(row["pins"]), "three pins in order, such as input ground output", field="pins")
    if not row["volts"] or not row["current"]:
        raise BadInput(row["part"], "volts and current that are not zero", field="volts")
    if row["type"] == "module" and not row["efficiency"]:
        raise BadInput(row["part"], "the efficiency of a module", field="efficiency")
    if row["package"] and not pins and row["type"] == "linear":
        *pins, row["tab"] = PACKAGES[row["package"]].pins(row["volts"] < 0)
    return Regulator(**{**row, "pins": tuple(pins), "stock": int(row["stock"])})


def _fuse(row: dict[str, Any]) -> Fuse:
    for name in ("rating", "characteristic", "size", "melting"):
        if not row[name]:
            raise BadInput(row["part"], f"a fuse with its {name}", f"Fill in {name}.", field=name)
    return Fuse(**{**row, "stock": int(row["stock"])})


def _battery(row: dict[str, Any]) -> Battery:
    if not row["volts"]:
        raise BadInput(row["part"], "volts that are not zero", field="volts")
    return Battery(**{**row, "stock": int(row["stock"])})


def _diode(row: dict[str, Any]) -> Diode:
    if not row["volts"] or not row["current"]:
        raise BadInput(row["part"], "volts and current that are not zero", field="volts")
    return Diode(**{**row, "stock": int(row["stock"])})


def _read(data: bytes | str, columns: tuple[Column, ...], build: Callable[[dict[str, Any]], Any]) -> TableParts:
    table = read_table(data, columns, unique="part")
    parts, problems = [], list(table.problems)
    for row in table.rows:
        line = row.pop("line")
        try:
            parts.append(build(row))
        except BadInput as error:
            problems.append(Problem(line, error.field, error.read, str(error)))
    return TableParts(tuple(parts), tuple(problems), tuple(table.unknown))


def read_regulators(data: bytes | str) -> TableParts:
    """Regulators from a table, and the rows that cannot be read or contradict themselves."""
    return _read(data, REGULATORS, _regulator)


def read_fuses(data: bytes | str) -> TableParts:
    """Fuses from a table, and the rows that cannot be read or contradict themselves."""
    return _read(data, FUSES, _fuse)


def read_batteries(data: bytes | str) -> TableParts:
    """Cells from a table, and the rows that cannot be read or contradict themselves."""
    return _read(data, BATTERIES, _battery)


def read_diodes(data: bytes | str) -> TableParts:
    """Diodes and bridges from a table, and the rows that cannot be read or contradict themselves."""
    return _read(data, DIODES, _diode)


def write_batteries(parts: list[Battery]) -> str:
    """Cells as the table that reads back the same."""
    return write_table(BATTERIES, (_row(p) for p in parts))


def write_diodes(parts: list[Diode]) -> str:
    """Diodes and bridges as the table that reads back the same."""
    return write_table(DIODES, (_row(p) for p in parts))


def write_regulators(parts: list[Regulator]) -> str:
    """Regulators as the table that reads back the same."""
    return write_table(REGULATORS, ({**_row(p), "pins": " ".join(p.pins)} for p in parts))


def write_fuses(parts: list[Fuse]) -> str:
    """Fuses as the table that reads back the same."""
    return write_table(FUSES, (_row(p) for p in parts))


def _row(part: Regulator | Fuse | Battery | Diode) -> dict[str, Any]:
    return {f.name: getattr(part, f.name) for f in fields(part)}
