"""Reading a supplier's own export: which of its columns is which of ours, guessed from names and units, then kept.

A column may carry its unit in its name: ``Cap (uF)``, ``Ripple mA``, ``Life khrs``.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than
from ..text.csvtable import decode
from ..text.folding import folded
from ..text.quantity import decimal
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
#: Units in a header and what they multiply a bare number by, by the unit of our own column.
SCALES = {
    "F": {"uf": 1e-6, "µf": 1e-6, "nf": 1e-9, "pf": 1e-12, "mfd": 1e-6},
    "A": {"ma": 1e-3},
    "Ω": {"mohm": 1e-3, "mohms": 1e-3, "mω": 1e-3},
    "Hz": {"khz": 1e3, "mhz": 1e6},
    "h": {"khrs": 1e3, "kh": 1e3, "khours": 1e3},
    "mm": {"cm": 10.0},
    "V": {"kv": 1e3},
}
#: Letters of a heading at most.
LONGEST = 120
#: Columns that are given at a frequency, and where it is kept.
AT = {"esr": "esr_frequency", "ripple": "ripple_frequency"}
#: Rows shown before anything is taken.
PREVIEW = 5


#: Such an export as a supplier may write it, for whoever has none at hand.
EXAMPLE = """Order code;Family;Cap (uF);Rated voltage V;Dia mm;Length mm;Ripple mA;Life khrs;Price
GZ-100-16;GZ;100;16;6,3;11;250;5;0,12
GZ-220-16;GZ;220;16;8;11,5;330;5;0,15
"""


@dataclass(frozen=True)
class Foreign:
    """A foreign table: its header, its rows, the guess of which column is which of ours (ours → header), and in which line of the
    file each row begins."""

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guess: dict[str, str]
    lines: tuple[int, ...] = ()


def _plain(name: str) -> str:
    return " ".join(re.sub(r"[^a-z0-9øµω ]+", " ", folded(name).replace("_", " ")).split())


def guess(header: Sequence[str]) -> dict[str, str]:
    """Which foreign column is likely which of ours, each used once.

    >>> guess(['Order code', 'Cap (uF)', 'Rated volt. V', 'Dia mm'])
    {'part': 'Order code', 'volts': 'Rated volt. V', 'value': 'Cap (uF)', 'diameter': 'Dia mm'}
    """
    return guess_of(header, NAMES)


def guess_of(header: Sequence[str], known: Mapping[str, Sequence[str]]) -> dict[str, str]:
    """The same for any columns: names by which headings speak of each of ours, the more exact first."""
    found: dict[str, str] = {}
    for ours, names in known.items():
        for name in names:
            # a short name such as x or y is a word of its own
            word = rf"\b{re.escape(name)}" + (r"\b" if len(name) < 3 else "")
            hit = next((h for h in header if h not in found.values() and re.search(word, _plain(h))), None)
            if hit:
                found[ours] = hit
                break
    return found


def read_foreign(data: bytes | str) -> Foreign:
    """Read a foreign table as it stands.

    Args:
        data: the file's bytes.

    Returns:
        Its header and rows, and what each column is guessed to be.

    Raises:
        BadInput: not a table with a header and a row.
    """
    text = decode(data)
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) < 2:
        raise BadInput(f"{len(lines)} lines", "a header row and at least one part", field="file")
    delimiter = max(",;\t", key=lines[0].count)
    rows, begins, line = [], [], 1
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    for row in reader:
        if any(cell.strip() for cell in row):
            rows.append(tuple(cell.strip() for cell in row))
            begins.append(line)
        line = reader.line_num + 1
    header = rows[0]
    for name in header:
        no_longer_than(name, LONGEST, "heading")
    if len(header) < 2:
        raise BadInput(lines[0][:60], "columns apart by commas, semicolons or tabs", field="file")
    return Foreign(header, tuple(rows[1:]), guess(header), tuple(begins[1:]))


def check_map(columns: Mapping[str, str], header: Sequence[str]) -> dict[str, str]:
    """A map as chosen, held against a header.

    Args:
        columns: the columns.
        header: the headings, or one of them.

    Returns:
        Our column for each of theirs that is taken.

    Raises:
        BadInput: a column that is not there, one used twice, or part, value or volts left out.
    """
    known = {c.name for c in CATALOGUE}
    chosen = {ours: theirs for ours, theirs in columns.items() if ours in known and theirs}
    for ours, theirs in chosen.items():
        if theirs not in header:
            raise BadInput(theirs, f"one of the columns {', '.join(header)[:120]}", field=ours)
        if list(chosen.values()).count(theirs) > 1:
            raise BadInput(theirs, "each column once", "Two of ours point to it.", field=ours)
    for ours in ("part", "value", "volts"):
        if ours == "volts" and "ac_volts" in chosen:
            continue
        if ours not in chosen:
            raise BadInput("", f"the column that holds the {ours}", "Choose it from the list.", field=ours)
    return chosen


def scale_of(header: str, unit: str) -> tuple[float, str]:
    """What a bare number under a header is multiplied by, and the word that said so. unit: of our column, the only one looked
    for: ``Impedance 100kHz (mΩ)`` is in mΩ.

    >>> scale_of('Cap (uF)', 'F'), scale_of('Height mm', 'mm'), scale_of('Impedance 100kHz (mΩ)', 'Ω')
    ((1e-06, 'uf'), (1.0, ''), (0.001, 'mω'))
    """
    known = SCALES.get(unit, {})
    for word in re.split(r"[^a-zµω]+", header.lower().replace("Ω", "ω").replace("μ", "µ")):
        if word in known:
            return known[word], word
    return 1.0, ""


def frequency_in(header: str) -> float | None:
    """The frequency that a heading names, Hz: ``Ripple 120 Hz``, ``Impedance 100kHz``.

    >>> frequency_in('Impedance 100kHz (mΩ)'), frequency_in('ESR')
    (100000.0, None)
    """
    hit = re.search(r"(?<![\d.,])(\d+(?:[.,]\d+)?)\s*(k|M)?Hz", header, re.I)
    if not hit:
        return None
    return float(hit[1].replace(",", ".")) * {"k": 1e3, "m": 1e6}.get((hit[2] or "").lower(), 1.0)


def scaled(text: str, header: str, unit: str) -> str:
    """A cell under a heading that names its unit, in our column's own unit; anything but a bare number stays as it is."""
    factor, _ = scale_of(header, unit)
    if factor == 1.0 or not re.fullmatch(r"-?[\d.,]+", text):
        return text
    try:
        number = decimal(text.lstrip("-"), unit)
        return f"{float(number) * factor * (-1 if text.startswith('-') else 1):.12g}" + ("F" if unit == "F" else "")
    except (BadInput, ValueError):
        return text


def translated(foreign: Foreign, columns: Mapping[str, str], most: int | None = None) -> str:
    """The foreign table under our column names, ready to be read as a catalogue; most: rows, for a preview."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    # a heading that names its frequency says at which its column is given
    at = {
        AT[ours]: frequency
        for ours, theirs in columns.items()
        if ours in AT and AT[ours] not in columns and (frequency := frequency_in(theirs))
    }
    writer.writerow([*columns, *at])
    units = {column.name: column.unit for column in CATALOGUE}
    places = [(foreign.header.index(theirs), theirs, units[ours]) for ours, theirs in columns.items()]
    for row in foreign.rows[:most]:
        cells = [scaled(row[i] if i < len(row) else "", theirs, unit) for i, theirs, unit in places]
        writer.writerow([*cells, *(f"{frequency:g}" for frequency in at.values())])
    return out.getvalue()
