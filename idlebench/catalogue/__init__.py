"""The house catalogue: invented capacitors made from physical scaling, regulators, fuses, causes, procedures and the glossary, as
tables.

`make.py` and `make_devices.py` write them (`make data`); nothing is typed into the large tables by hand.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

from ..core.board.tables import read_catalogue
from ..core.choose.cells_and_diodes import Battery, Diode
from ..core.choose.device_tables import read_batteries, read_diodes, read_fuses, read_regulators
from ..core.choose.fuses import Fuse
from ..core.choose.regulators_and_fuses import Regulator
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
def house_regulators() -> tuple[Regulator, ...]:
    """The regulators of the house catalogue; read once."""
    return read_regulators((FOLDER / "regulators.csv").read_bytes()).parts


@cache
def house_fuses() -> tuple[Fuse, ...]:
    """The fuses of the house catalogue; read once."""
    return read_fuses((FOLDER / "fuses.csv").read_bytes()).parts


@cache
def house_batteries() -> tuple[Battery, ...]:
    """The cells of the house catalogue; read once."""
    return read_batteries((FOLDER / "batteries.csv").read_bytes()).parts


@cache
def house_procedures() -> dict[str, Procedure]:
    """The procedures that ship, by name; read once."""
    found = [read_procedure(path.read_bytes()) for path in sorted((FOLDER / "procedures").glob("*.json"))]
    return {procedure.name: procedure for procedure in found}


@cache
def house_diodes() -> tuple[Diode, ...]:
    """The diodes and bridges of the house catalogue; read once."""
    return read_diodes((FOLDER / "diodes.csv").read_bytes()).parts


@cache
def house_evidence() -> Evidence:
    """What signs speak for which cause where there is no model; read once."""
    return read_evidence((FOLDER / "causes.csv").read_bytes(), (FOLDER / "evidence.csv").read_bytes())
