"""The house catalogue: invented capacitors made from physical scaling, parts of other kinds, causes, procedures and the glossary, as
tables.

`make.py` and `make_devices.py` write them (`make data`); nothing is typed into the large tables by hand.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from ..core.board.tables import read_catalogue
from ..core.choose.device_tables import TABLES, read_devices
from ..core.choose.rules import Columns
from ..core.faults.table import Evidence, read_evidence
from ..core.prove.procedures import Procedure, read_procedure

FOLDER = Path(__file__).parent
PATH = Path(__file__).with_name("capacitors.csv")


@cache
def house_columns() -> Columns:
    """The house catalogue, laid out for ranking; read once."""
    return Columns.of(read_catalogue(PATH.read_bytes()).parts)


@cache
def house_devices(what: str) -> tuple[Any, ...]:
    """The parts of a kind that are no capacitors, a key of TABLES, as the house catalogue has them; read once."""
    return read_devices(what, (FOLDER / TABLES[what].file).read_bytes()).parts


@cache
def house_procedures() -> dict[str, Procedure]:
    """The procedures that ship, by name; read once."""
    found = [read_procedure(path.read_bytes()) for path in sorted((FOLDER / "procedures").glob("*.json"))]
    return {procedure.name: procedure for procedure in found}


@cache
def house_evidence() -> Evidence:
    """What signs speak for which cause where there is no model; read once."""
    return read_evidence((FOLDER / "causes.csv").read_bytes(), (FOLDER / "evidence.csv").read_bytes())
