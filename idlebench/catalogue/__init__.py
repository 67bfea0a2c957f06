"""The house catalogue: invented capacitors, made from physical scaling, shipped as a CSV of the open format."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from ..core.choose.rules import Columns
from ..core.tables import read_catalogue

PATH = Path(__file__).with_name("capacitors.csv")


@cache
def house_columns() -> Columns:
    """The house catalogue, laid out for ranking; read once."""
    return Columns.of(read_catalogue(PATH.read_bytes()).parts)
