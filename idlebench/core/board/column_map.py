"""Reading a supplier's own export: which of its columns is which of ours, guessed from names and units, then kept.

A column may carry its unit in its name: ``Cap (uF)``, ``Ripple mA``, ``Life khrs``.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..refusal import BadInput
from ..text.csvtable import decode
from .tables import CATALOGUE

#: Words by which foreign headers speak of our columns, the more exact first.
NAMES: dict[str, tuple[str, ...]] = {
    "part": ("part number", "part no", "order code", "order no", "article", "mpn", "sku", "part"),
    "series": ("series", "family", "range"),
    "kind": ("kind", "technology", "dielectric", "type"),
    "ripple_frequency": ("ripple frequency", "ripple freq"),
    "esr_frequency": ("esr frequency", "impedance frequency"),
    "ripple": ("ripple",),
    "esr": ("esr", "impedance"),
    "ac_volts": ("ac volt", "vac", "voltage ac"),
    "volts": ("rated volt", "voltage", "volts", "wv", "vdc"),
    "value": ("capacitance", "cap", "value"),
    "tolerance": ("tolerance", "tol"),
    "safety": ("safety", "class"),
    "temperature": ("temp",),
    "life": ("life", "endurance", "load life"),
    "bipolar": ("bipolar", "non polar"),
    "mounting": ("mounting", "case style", "termination"),
    "diameter": ("diameter", "dia", "width", "ø"),
    "height": ("height", "length"),
    "pitch": ("pitch", "lead spacing", "ls"),
    "low_impedance": ("low impedance", "low esr", "low z"),
    "pulse": ("pulse",),
    "price": ("price", "cost"),
    "pack": ("pack", "moq", "qty per"),
    "supplier": ("supplier", "vendor", "distributor"),
    "lead_days": ("lead time", "lead day", "delivery"),
    "stock": ("stock", "on hand", "available"),
    "note": ("note", "remark", "comment"),
}
#: Units in a header and what they multiply a bare number by, for our column's own unit.
SCALES = {
    "uf": 1e-6, "µf": 1e-6, "nf": 1e-9, "pf": 1e-12, "ma": 1e-3, "mohm": 1e-3, "mω": 1e-3, "khz": 1e3, "mhz": 1e6,
    "khrs": 1e3, "kh": 1e3, "cm": 10.0, "kv": 1e3,
}  # fmt: skip
#: Rows shown before anything is taken.
PREVIEW = 5


@dataclass(frozen=True)
class Foreign:
    """A foreign table: its header, its rows, and the guess of which column is which of ours (ours → header)."""

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guess: dict[str, str]


def _plain(name: str) -> str:
    return " ".join(re.sub(r"[^a-z0-9øµω ]+", " ", name.lower().replace("_", " ")).split())


def guess(header: Sequence[str]) -> dict[str, str]:
    """Which foreign column is likely which of ours, each used once.

    >>> guess(['Order code', 'Cap (uF)', 'Rated volt. V', 'Dia mm'])
    {'part': 'Order code', 'volts': 'Rated volt. V', 'value': 'Cap (uF)', 'diameter': 'Dia mm'}
    """
    found: dict[str, str] = {}
    for ours, names in NAMES.items():
        for name in names:
            hit = next(
                (h for h in header if h not in found.values() and re.search(rf"\b{re.escape(name)}", _plain(h))), None
            )
            if hit:
                found[ours] = hit
                break
    return found


def read_foreign(data: bytes | str) -> Foreign:
    """Read a foreign table as it stands.

    Raises:
        BadInput: not a table with a header and a row.
    """
    text = decode(data)
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) < 2:
        raise BadInput(f"{len(lines)} lines", "a header row and at least one part", "", "file")
    delimiter = max(",;\t", key=lines[0].count)
    rows = [
        tuple(cell.strip() for cell in row) for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=delimiter)
    ]
    header = rows[0]
    if len(header) < 2:
        raise BadInput(lines[0][:60], "columns apart by commas, semicolons or tabs", "", "file")
    return Foreign(header, tuple(rows[1:]), guess(header))


def check_map(columns: Mapping[str, str], header: Sequence[str]) -> dict[str, str]:
    """A map as chosen, held against a header.

    Raises:
        BadInput: a column that is not there, one used twice, or part, value or volts left out.
    """
    known = {c.name for c in CATALOGUE}
    chosen = {ours: theirs for ours, theirs in columns.items() if ours in known and theirs}
    for ours, theirs in chosen.items():
        if theirs not in header:
            raise BadInput(theirs, f"one of the columns {', '.join(header)[:120]}", "", ours)
        if list(chosen.values()).count(theirs) > 1:
            raise BadInput(theirs, "each column once", "Two of ours point to it.", ours)
    for ours in ("part", "value", "volts"):
        if ours not in chosen:
            raise BadInput("", f"the column that holds the {ours}", "Choose it from the list.", ours)
    return chosen


def scale_of(header: str) -> tuple[float, str]:
    """What a bare number under a header is multiplied by, and the unit that said so.

    >>> scale_of('Cap (uF)'), scale_of('Height mm')
    ((1e-06, 'uf'), (1.0, ''))
    """
    for word in re.split(r"[^a-zµω]+", header.lower()):
        if word in SCALES:
            return SCALES[word], word
    return 1.0, ""


def _cell(text: str, header: str) -> str:
    factor, _ = scale_of(header)
    plain = text.replace(",", ".")
    if factor != 1.0 and re.fullmatch(r"-?\d+(?:\.\d+)?", plain):
        return f"{float(plain) * factor:.12g}"
    return text


def translated(foreign: Foreign, columns: Mapping[str, str], most: int | None = None) -> str:
    """The foreign table under our column names, ready to be read as a catalogue; most: rows, for a preview."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns)
    places = [(foreign.header.index(theirs), theirs) for theirs in columns.values()]
    for row in foreign.rows[:most]:
        writer.writerow([_cell(row[i] if i < len(row) else "", theirs) for i, theirs in places])
    return out.getvalue()
