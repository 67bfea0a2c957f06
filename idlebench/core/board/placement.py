"""Tables of others as a survey: the placement table of a board editor, or a part list pasted from a page.

Columns are known by what their headings say, as suppliers' exports are; a reference cell may hold several. Only capacitors are
taken: the rest of the table is counted, not complained of.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..refusal import BadInput
from ..text.csvtable import Problem
from ..text.quantity import read
from .column_map import Foreign, guess_of, read_foreign, scaled
from .tables import SURVEY, TableParts, read_survey

#: Words by which foreign headings speak of our survey columns, the more exact first.
NAMES: dict[str, tuple[str, ...]] = {
    "ref": ("reference", "designator", "refdes", "ref des", "part ref", "ref", "position"),
    "value": ("value", "val", "capacitance", "cap", "comment", "component"),
    "x": ("pos x", "posx", "mid x", "midx", "center x", "centre x", "location x", "x"),
    "y": ("pos y", "posy", "mid y", "midy", "center y", "centre y", "location y", "y"),
    "angle": ("rotation", "rot", "turn", "angle", "orientation"),
    "side": ("side", "layer", "tb"),
    "volts": ("rated volt", "voltage", "volts", "volt", "wv"),
    "kind": ("kind", "dielectric", "technology"),
    "diameter": ("diameter", "dia", "ø"),
    "height": ("height",),
    "pitch": ("pitch", "lead spacing"),
    "temperature": ("temp",),
    "safety": ("safety",),
    "series": ("series",),
    "note": ("note", "remark", "description", "package", "footprint"),
}
SIDES = {
    "parts": ("top", "t", "front", "f", "f.cu", "toplayer", "component", "parts", "1"),
    "solder": ("bottom", "b", "back", "b.cu", "bottomlayer", "solder", "2"),
}
#: Turn as board editors count it, ° against the clock with pin 1 (plus) to the left, and as we do, with it.
_REFS = re.compile(r"[\s,;]+")


@dataclass(frozen=True)
class Placement:
    """What a foreign table gave: what could be read of it, and how many rows were no capacitors."""

    read: TableParts
    others: int


def is_placement(header: Sequence[str]) -> bool:
    """Whether a heading is a foreign one that speaks of references and values."""
    low = [name.strip().lower() for name in header]
    found = guess_of(header, NAMES)
    return not {"ref", "value"} <= set(low) and {"ref", "value"} <= set(found)


def read_placement(data: bytes | str) -> Placement:
    """Read a foreign table of parts as a survey.

    Args:
        data: the file's bytes.

    Returns:
        The parts with their places, and a problem for each row that cannot be read.

    Raises:
        BadInput: no table, or no column that speaks of references or values.
    """
    foreign = read_foreign(data)
    columns = guess_of(foreign.header, NAMES)
    for ours in ("ref", "value"):
        if ours not in columns:
            raise BadInput(
                ", ".join(foreign.header)[:120],
                f"a column with the {ours} of each part",
                "Name it so in its heading.",
                field="file",
            )
    rows, others, problems = _rows(foreign, columns)
    out = io.StringIO()
    writer = csv.DictWriter(out, [*columns], lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)
    found = read_survey(out.getvalue()) if rows else TableParts((), (), ())
    upright = bool(found.parts) and all((p.y or 0) <= 0 for p in found.parts) and any(p.y for p in found.parts)
    parts = tuple(p.with_(y=-p.y) if upright and p.y is not None else p for p in found.parts)
    return Placement(TableParts(parts, (*problems, *found.problems), ()), others)


def _rows(foreign: Foreign, columns: Mapping[str, str]) -> tuple[list[dict[str, str]], int, list[Problem]]:
    units = {column.name: column.unit for column in SURVEY}
    places = {ours: foreign.header.index(theirs) for ours, theirs in columns.items()}
    rows, others, problems = [], 0, []
    for number, row in enumerate(foreign.rows, 2):
        cells = {ours: row[i].strip() if i < len(row) else "" for ours, i in places.items()}
        refs = [ref for ref in _REFS.split(cells["ref"].upper()) if ref]
        capacitors = [ref for ref in refs if re.fullmatch(r"C\d{1,5}[A-Z]?", ref)]
        others += len(refs) - len(capacitors)
        for ref in capacitors:
            try:
                rows.append({**{o: _cell(o, text, columns[o], units[o]) for o, text in cells.items()}, "ref": ref})
            except BadInput as error:
                problems.append(Problem(number, error.field or "", error.read[:60], str(error)))
    return rows, others, problems


def _cell(ours: str, text: str, header: str, unit: str) -> str:
    """A cell as our survey reads it."""
    if ours == "side":
        low = text.lower().replace(" ", "")
        return next((side for side, words in SIDES.items() if low in words), text)
    if ours == "angle" and text:
        turned = (-read(re.sub(r"°|deg", "", text), "", field="angle", low=-3600, high=3600)) % 360
        return f"{turned:g}"
    if ours in ("x", "y", "diameter", "height", "pitch") and (mil := re.fullmatch(r"(-?[\d.]+)\s*mils?", text, re.I)):
        return f"{float(mil[1]) * 0.0254:.6g}"
    if ours == "value":
        # editors write value and volts in one cell: 100uF/16V
        return re.split(r"\s*/\s*|\s+", text)[0] if re.search(r"[\s/]\d+(\.\d+)?\s*V\b", text) else text
    return scaled(text, header, unit)


__all__ = ["Placement", "is_placement", "read_placement"]
