"""Reading a CSV file forgivingly about form and strictly about meaning; writing one that reads back the same."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..refusal import BadInput, no_longer_than
from .quantity import EXPONENT, read

#: Larger files are refused unread, bytes.
MAX_BYTES = 8_000_000
#: More rows than this in one table are refused.
MAX_ROWS = 100_000
#: A cell is never longer, characters: a quotation mark that is not closed would take the rest of the file.
LONGEST_CELL = 131_072


#: Text that a spreadsheet would reckon instead of showing; and what begins with a sign and is a voltage or a number all the same.
_FORMULA = re.compile(r"[=+\-@\t\r']")
_SIGNED = re.compile(r"[+\-−][0-9][0-9.,]* ?[A-Za-zµΩ%]{0,6}(?: [A-Za-z0-9 ]*)?")


def disarmed(text: str) -> str:
    """A text as it stands in a CSV cell: a spreadsheet shows it, whatever it begins with.

    >>> disarmed('=1+1'), disarmed('+5 V'), disarmed("'tis")
    ("'=1+1", '+5 V', "''tis")
    """
    return f"'{text}" if _FORMULA.match(text) and not _SIGNED.fullmatch(text) else text


def rearmed(text: str) -> str:
    """The text again, from the cell that disarmed gave.

    >>> rearmed("'=1+1"), rearmed('+5 V'), rearmed("''tis"), rearmed("'tis")
    ('=1+1', '+5 V', "'tis", "'tis")
    """
    return text[1:] if text[:1] == "'" and _FORMULA.match(text[1:]) else text


@dataclass(frozen=True, kw_only=True)
class Column:
    """A column: how its text becomes a value, how a value is written, whether a row may leave it out, and its help.

    headed: whether the first row must name it, though a cell may be empty.
    """

    name: str
    take: Callable[[str], Any]
    write: Callable[[Any], str] = str
    required: bool = False
    default: Any = None
    unit: str = ""
    about: str = ""
    headed: bool = False


@dataclass(frozen=True)
class Problem:
    """A row that cannot be read: its line in the file, the column, what was read, and the mend."""

    line: int
    column: str
    text: str
    complaint: str

    def __str__(self) -> str:
        return f"Line {self.line}, column {self.column or '–'}: {self.complaint}"


@dataclass
class Table:
    """Rows read (by column name, with their line), the problems met, and columns that were not known."""

    rows: list[dict[str, Any]] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    unknown: list[str] = field(default_factory=list)


def decode(data: bytes | str) -> str:
    """Bytes of a file to text.

    Args:
        data: the file's bytes.

    Returns:
        The text, without its mark of order.

    Raises:
        BadInput: too large, not UTF-8, or not text.
    """
    if isinstance(data, str):
        return data
    if len(data) > MAX_BYTES:
        raise BadInput(
            f"a file of {len(data) / 1e6:.0f} MB", f"at most {MAX_BYTES / 1e6:.0f} MB", "Split the table.", field="file"
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise BadInput(
            f"byte {data[error.start]:#04x} in line {line}",
            "text in UTF-8",
            "In the spreadsheet choose “CSV UTF-8” when saving.",
            field="file",
        ) from None
    if "\x00" in text:
        raise BadInput("a binary file", "a CSV table", "Save the sheet as CSV first.", field="file")
    return text


def read_table(
    data: bytes | str, columns: Sequence[Column], unique: str = "", tell: Callable[[int, int], None] | None = None
) -> Table:
    """Read a CSV table.

    Args:
        data: the file.
        columns: what is known.
        unique: a column whose values may not repeat.
        tell: called now and then with how many lines were read of how many; it may raise to stop.

    Returns:
        The rows, and a problem for each that cannot be read.

    Raises:
        BadInput: the file as a whole cannot be taken.
    """
    text = decode(data)
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise BadInput(
            "an empty file",
            f"a header row with {' and '.join(c.name for c in columns if c.required or c.headed)}",
            field="file",
        )
    # a row of titles is short, whatever the table holds
    no_longer_than(lines[0], 20_000, "header")
    delimiter = max(",;\t", key=lines[0].count)
    # other packages raise it for the whole process
    csv.field_size_limit(LONGEST_CELL)
    reader = csv.reader(io.StringIO(text, newline=None), delimiter=delimiter)
    header = [name.strip().lower().replace(" ", "_") for name in _first_row(reader)]
    known = {column.name: column for column in columns}
    _check_header(header, known)
    table = Table(unknown=[name for name in header if name and name not in known])
    seen: dict[str, int] = {}
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                _take_row(table, header, row, known, reader.line_num, unique, seen)
            if tell and reader.line_num % 200 == 0:
                tell(reader.line_num, len(lines))
            if len(table.rows) > MAX_ROWS:
                raise BadInput(f"over {MAX_ROWS} rows", f"at most {MAX_ROWS}", "Split the table.", field="file")
    except csv.Error as error:
        raise BadInput(str(error), "a CSV table", f"Check line {reader.line_num}.", field="file") from None
    return table


def _first_row(reader: Iterator[list[str]]) -> list[str]:
    """The first row that is not empty.

    Args:
        reader: rows of the file.

    Returns:
        Its cells.

    Raises:
        BadInput: there is none, or it is no row of a table.
    """
    try:
        return next(row for row in reader if any(row))
    except (csv.Error, StopIteration) as error:
        raise BadInput(str(error)[:60] or "no rows", "a CSV table with a header row", field="file") from None


def _check_header(header: list[str], known: Mapping[str, Column]) -> None:
    missing = [c.name for c in known.values() if (c.required or c.headed) and c.name not in header]
    if missing:
        raise BadInput(
            ", ".join(header)[:60],
            f"a header row with {', '.join(missing)}",
            "The first row names the columns.",
            field="file",
        )
    twice = [name for name in known if header.count(name) > 1]
    if twice:
        raise BadInput(twice[0], "each column once", "Remove or rename one of the two.", field="file")


def _take_row(table: Table, header, row, known, line, unique, seen) -> None:
    if len(row) > len(header) and any(cell.strip() for cell in row[len(header) :]):
        table.problems.append(
            Problem(
                line,
                "",
                row[len(header)],
                f"{len(row)} cells under {len(header)} columns. Quote cells that hold the delimiter.",
            )
        )
        return
    cells = {name: cell.strip() for name, cell in zip(header, row, strict=False)}
    values, notes, failed = {"line": line}, [], False
    for name, column in known.items():
        text = cells.get(name, "")
        try:
            if not text and column.required:
                raise BadInput("", f"a {name}", "")
            values[name] = column.take(text) if text else column.default
        except BadInput as error:
            table.problems.append(Problem(line, name, text[:60], str(error)))
            failed = True
    for name, cell in cells.items():
        if name and name not in known and cell:
            notes.append(f"{name}: {cell}")
    if failed:
        return
    if notes:
        values["note"] = "; ".join(filter(None, [values.get("note") or "", *notes]))
    if unique:
        key = str(values[unique]).upper()
        if key in seen:
            table.problems.append(
                Problem(
                    line,
                    unique,
                    str(values[unique]),
                    f"{values[unique]} is in line {seen[key]} already. Each {unique} may occur once.",
                )
            )
            return
        seen[key] = line
    table.rows.append(values)


def write_table(columns: Sequence[Column], rows: Iterable[Mapping[str, Any]]) -> str:
    """Write rows under the columns' names; empty cells for what is unknown."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([c.name for c in columns])
    for row in rows:
        writer.writerow([_cell(column, row.get(column.name)) for column in columns])
    return out.getvalue()


def _cell(column: Column, value: Any) -> str:
    if (
        value is None
        or value == ""
        or (value == column.default and not column.required and not isinstance(value, float))
    ):
        return ""
    return column.write(value)


def exact(value: float, letters: str = "pnum kM") -> str:
    """A number with its prefix that reads back as the very same float; the plain number where no prefix does.

    >>> exact(4.7e-6), exact(0.0063), exact(0.0047, "pnu")
    ('4.7u', '6.3m', '4700u')
    """
    for letter in letters:
        power = EXPONENT[letter.strip()]
        number = value / 10.0**power
        if 1 <= abs(number) < (1000 if letter != letters[-1] else 1e7):
            text = f"{number:.12g}"
            if "e" not in text and float(f"{text}e{power}") == value:
                return text + letter.strip()
    return repr(value)


def _plain(value: float) -> str:
    """A number without a prefix that reads back as the very same float."""
    short = f"{value:.12g}"
    return short if float(short) == value else repr(value)


def number(
    name: str, unit: str = "", about: str = "", *, required: bool = False, default: Any = None, **bounds: float
) -> Column:
    """A column of values with a unit."""
    plain = unit in ("mm", "°C", "h", "")
    return Column(
        name=name,
        take=lambda text: read(text, unit, **bounds),
        write=_plain if plain else exact,
        required=required,
        default=default,
        unit=unit,
        about=about,
    )


def whole(name: str, about: str = "", default: int = 0, low: int = 0) -> Column:
    """A column of whole numbers."""

    def take(text: str) -> int:
        value = read(text, "", low=low, high=10_000_000)
        if value != int(value):
            raise BadInput(text, "a whole number")
        return int(value)

    return Column(name=name, take=take, write=str, default=default, about=about)


def choice(name: str, allowed: Sequence[str], about: str = "", default: str = "") -> Column:
    """A column of one of some words."""

    def plain(word: str) -> str:
        return word.strip().lower().replace(" ", "_").replace("-", "_")

    def take(text: str) -> str:
        for option in allowed:
            if plain(text) == plain(option):
                return option
        raise BadInput(text, f"one of {', '.join(allowed)}")

    return Column(name=name, take=take, default=default, about=about)


def yes_no(name: str, about: str = "") -> Column:
    """A column of yes and no."""

    def take(text: str) -> bool:
        low = text.lower()
        if low in ("yes", "y", "1", "true", "x", "ja"):
            return True
        if low in ("no", "n", "0", "false", "-", "nein"):
            return False
        raise BadInput(text, "yes or no")

    return Column(name=name, take=take, write=lambda v: "yes" if v else "", default=False, about=about)


def words(name: str, about: str = "", longest: int = 200, required: bool = False) -> Column:
    """A column of text."""

    def take(text: str) -> str:
        if len(text) > longest:
            raise BadInput(text, f"at most {longest} characters")
        return rearmed(text)

    return Column(name=name, take=take, write=disarmed, required=required, default="", about=about)


def schema(name: str, path: str, columns: Sequence[Column], *key: str) -> dict[str, Any]:
    """A Frictionless resource that describes a table of these columns, every cell a text that this program reads."""
    fields = [
        {
            "name": c.name,
            "type": "string",
            "description": f"{c.about} [{c.unit}]" if c.unit else c.about,
            **({"constraints": {"required": True}} if c.required else {}),
        }
        for c in columns
    ]
    return {
        "name": name,
        "path": path,
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "schema": {"fields": fields, "primaryKey": [*key], "missingValues": [""]},
    }
