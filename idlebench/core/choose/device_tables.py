"""The tables of parts that are no capacitors, from CSV to parts and back: one reader and one writer for all kinds."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, fields
from typing import Any

from ..board.tables import TableParts
from ..circuit.packages import PACKAGES
from ..refusal import BadInput
from ..text.csvtable import Column, Problem, choice, number, read_table, words, write_table
from .by_limits import TRANSISTOR_TYPES, Optocoupler, Transistor, Zener
from .cells_and_diodes import CHEMISTRIES, DIODE_KINDS, HELD, LEADS, Battery, Diode
from .fuses import Fuse
from .regulators_and_fuses import Regulator
from .resistors import RESISTOR_KINDS, Resistor

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


#: What every table ends with.
_BOUGHT = (
    number("price", "", "price of a piece", default=0.0, low=0, high=1e5),
    number("stock", "", "pieces on the shelf", default=0.0, low=0, high=1e6),
)
_NAMED = (words("part", "name", 60, required=True), words("series", "series", 60))
RESISTORS = (
    *_NAMED,
    choice("kind", RESISTOR_KINDS, "film, wirewound or fusible", "film"),
    number("ohms", "Ω", "resistance", above=0, high=1e9, required=True),
    number("tolerance", "%", "tolerance, percent", default=5.0, above=0, high=50),
    number("watts", "W", "watts", above=0, high=1e3, required=True),
    number("volts", "V", "greatest volts", default=0.0, low=0, high=50e3),
    *_BOUGHT,
)
ZENERS = (
    *_NAMED,
    number("volts", "V", "volts", above=0, high=1e3, required=True),
    number("tolerance", "%", "tolerance, percent", default=5.0, above=0, high=50),
    number("watts", "W", "watts", above=0, high=1e3, required=True),
    *_BOUGHT,
)
OPTOCOUPLERS = (
    *_NAMED,
    number("ctr_low", "%", "least transfer ratio, percent", above=0, high=5000, required=True),
    number("ctr_high", "%", "greatest transfer ratio, percent", above=0, high=5000, required=True),
    number("volts", "V", "collector to emitter", default=0.0, low=0, high=1e3),
    number("holds_off", "V", "rms between its two sides", default=0.0, low=0, high=20e3),
    *_BOUGHT,
)
TRANSISTORS = (
    *_NAMED,
    choice("type", TRANSISTOR_TYPES, "type", "npn"),
    number("volts", "V", "greatest volts", above=0, high=10e3, required=True),
    number("current", "A", "greatest current", above=0, high=1e3, required=True),
    number("watts", "W", "watts", above=0, high=1e3, required=True),
    number("gain", "", "least current gain", default=0.0, low=0, high=1e5),
    *_BOUGHT,
)
#: Columns that are written in percent and held as shares.
PERCENT = ("tolerance", "ctr_low", "ctr_high")


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


def _of_limits(make: type) -> Callable[[dict[str, Any]], Any]:
    def build(row: dict[str, Any]) -> Any:
        shares = {name: row[name] / 100 for name in PERCENT if name in row}
        if shares.get("ctr_low", 0.0) > shares.get("ctr_high", 1e9):
            raise BadInput(row["part"], "a least transfer ratio under the greatest", field="ctr_low")
        return make(**{**row, **shares, "stock": int(row["stock"])})

    return build


@dataclass(frozen=True)
class DeviceTable:
    """A table of parts of a kind. columns: of it. build: a part from a row. make: the class of its parts. file: its name in the house
    catalogue."""

    columns: tuple[Column, ...]
    build: Callable[[dict[str, Any]], Any]
    make: type
    file: str


#: The tables by kind, keys of devices.TITLES.
TABLES = {
    "regulator": DeviceTable(REGULATORS, _regulator, Regulator, "regulators.csv"),
    "fuse": DeviceTable(FUSES, _fuse, Fuse, "fuses.csv"),
    "battery": DeviceTable(BATTERIES, _battery, Battery, "batteries.csv"),
    "diode": DeviceTable(DIODES, _diode, Diode, "diodes.csv"),
    "resistor": DeviceTable(RESISTORS, _of_limits(Resistor), Resistor, "resistors.csv"),
    "zener": DeviceTable(ZENERS, _of_limits(Zener), Zener, "zeners.csv"),
    "optocoupler": DeviceTable(OPTOCOUPLERS, _of_limits(Optocoupler), Optocoupler, "optocouplers.csv"),
    "transistor": DeviceTable(TRANSISTORS, _of_limits(Transistor), Transistor, "transistors.csv"),
}


def read_devices(what: str, data: bytes | str) -> TableParts:
    """Parts of a kind from their table, and the rows that cannot be read or contradict themselves.

    Args:
        what: a key of TABLES.
        data: the table, CSV.

    Returns:
        The parts, and a problem for each row that cannot be read.

    Raises:
        BadInput: the file as a whole cannot be taken.
    """
    kind = TABLES[what]
    table = read_table(data, kind.columns, unique="part")
    parts, problems = [], list(table.problems)
    for row in table.rows:
        line = row.pop("line")
        try:
            parts.append(kind.build(row))
        except BadInput as error:
            problems.append(Problem(line, error.field, error.read, str(error)))
    return TableParts(tuple(parts), tuple(problems), tuple(table.unknown))


def write_devices(what: str, parts: Iterable[Any]) -> str:
    """Parts of a kind as the table that reads back the same."""
    return write_table(TABLES[what].columns, (_row(part) for part in parts))


def what_of(part: Any) -> str:
    """The kind of a part that is no capacitor, a key of TABLES."""
    return next(what for what, table in TABLES.items() if isinstance(part, table.make))


def _row(part: Any) -> dict[str, Any]:
    row = {one.name: getattr(part, one.name) for one in fields(part)}
    if "pins" in row:
        row["pins"] = " ".join(row["pins"])
    return {name: round(value * 100, 9) if name in PERCENT else value for name, value in row.items()}
