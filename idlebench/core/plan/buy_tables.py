"""The tables of a buying plan: what is wanted, offers, suppliers, the shelf."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from ..refusal import BadInput, no_longer_than
from ..text.csvtable import Column, Table, read_table
from ..text.quantity import read
from .orders import Offer, Shop, Supplier, Wanted

#: What is taken in one table, and of alternatives, breaks and pieces in one cell.
MOST_FITS, MOST_BREAKS, MOST_PIECES, MOST_EUROS, MOST_DAYS = 40, 20, 100_000, 100_000.0, 1000.0
#: Days that an offer without lead days is taken to need.
UNKNOWN_LEAD = 14.0


def _name(text: str) -> str:
    return no_longer_than(text, 80)


def _pieces(text: str) -> int:
    value = read(text, "", low=0, high=MOST_PIECES)
    if value != int(value):
        raise BadInput(text, "whole pieces")
    return int(value)


def _some(text: str) -> int:
    if (pieces := _pieces(text)) < 1:
        raise BadInput(text, "1 or more")
    return pieces


def _euros(text: str) -> float:
    return read(text.lstrip("€ "), "", low=0.0, high=MOST_EUROS)


def _free_above(text: str) -> float | None:
    """Goods from which postage is free, €; None for never, in words or as a dash.

    >>> _free_above('€40'), _free_above('never'), _free_above('-')
    (40.0, None, None)
    """
    return None if text.strip().lower() in ("never", "no", "none", "-", "–") else _euros(text)


def read_fits(text: str) -> tuple[tuple[str, float], ...]:
    """The parts that go into a place, each with what it is worse by, € a piece.

    Args:
        text: as it was typed.

    Returns:
        The parts with €, best first.

    >>> read_fits('A:0|B:0.05|C')
    (('A', 0.0), ('B', 0.05), ('C', 0.0))

    Raises:
        BadInput: a part twice, or a number that is none or below 0.
    """
    found: dict[str, float] = {}
    for one in no_longer_than(text, 4000).split("|"):
        part, colon, worse = one.strip().rpartition(":")
        part = (part if colon else worse).strip()
        if not part:
            raise BadInput(one, "a part and what it is worse by, such as A:0|B:0.05")
        if part in found:
            raise BadInput(part, "each part once")
        found[part] = read(worse, "", low=0.0, high=MOST_EUROS) if colon else 0.0
    if len(found) > MOST_FITS:
        raise BadInput(text, f"at most {MOST_FITS} parts", f"There are {len(found)}.")
    return tuple(found.items())


def read_breaks(text: str) -> tuple[tuple[int, float], ...]:
    """Prices by how many are bought: from so many pieces on, € a piece.

    Args:
        text: as it was typed.

    Returns:
        (from how many, € a piece), rising.

    >>> read_breaks('1:0.20 10:0.12')
    ((1, 0.2), (10, 0.12))

    Raises:
        BadInput: pieces that do not rise, a price of 0 or less, or what is neither.
    """
    found: list[tuple[int, float]] = []
    for one in no_longer_than(text, 1000).split():
        pieces, colon, price = one.partition(":")
        if not colon:
            raise BadInput(one, "pieces and a price, such as 1:0.20 10:0.12")
        least, each = _some(pieces), _euros(price)
        if each <= 0:
            raise BadInput(one, "a price above 0")
        if found and least <= found[-1][0]:
            raise BadInput(text, "breaks with rising pieces", f"{least} stands after {found[-1][0]}.")
        found.append((least, each))
    if not found or len(found) > MOST_BREAKS:
        raise BadInput(text, f"1 to {MOST_BREAKS} breaks, such as 1:0.20 10:0.12")
    return tuple(found)


DEMAND = (
    Column(name="job", take=_name, default="", about="the job it is for"),
    Column(name="ref", take=_name, required=True, about="the place"),
    Column(name="quantity", take=_some, default=1, unit="pieces", about="pieces, all of one part"),
    Column(
        name="fits",
        take=read_fits,
        required=True,
        about="parts that go in, each with what it is worse by: A:0|B:0.05",
        unit="€",
    ),
)
OFFERS = (
    Column(name="part", take=_name, required=True, about="the part"),
    Column(name="supplier", take=_name, required=True, about="who sells it"),
    Column(name="pack", take=_some, default=1, unit="pieces", about="pieces that are sold together"),
    Column(
        name="breaks",
        take=read_breaks,
        default=(),
        headed=True,
        unit="€",
        about="prices a piece by pieces bought: 1:0.20 10:0.12; empty: not known",
    ),
    Column(name="stock", take=_pieces, default=None, unit="pieces", about="how many there are; empty: enough"),
    Column(
        name="lead_days",
        take=lambda t: read(t, "", low=0.0, high=MOST_DAYS),
        default=UNKNOWN_LEAD,
        unit="days",
        about="until it is here",
    ),
)
SUPPLIERS = (
    Column(name="supplier", take=_name, required=True, about="its name"),
    Column(name="postage", take=_euros, default=0.0, unit="€", about="of a parcel"),
    Column(
        name="free_above", take=_free_above, default=None, unit="€", about="goods from which it is free; empty: never"
    ),
    Column(name="handling", take=_euros, default=0.0, unit="€", about="of a line"),
    Column(name="minimum", take=_euros, default=0.0, unit="€", about="least goods of an order"),
)
#: What is corrected of a part on the Shelf.
ON_SHELF = (
    Column(name="stock", take=_pieces, required=True, unit="pieces", about="how many pieces are in stock"),
    Column(name="price", take=_euros, default=None, unit="€", about="of a piece; empty: not known"),
    Column(name="why", take=lambda t: no_longer_than(t, 120), default="", about="the reason of the change"),
)
SHELF = (
    Column(name="part", take=_name, required=True, about="the part"),
    Column(name="quantity", take=_pieces, required=True, unit="pieces", about="pieces that lie there"),
)  # fmt: skip


def typed_row(columns: Sequence[Column], typed: Mapping[str, str]) -> dict[str, Any]:
    """The values of a form that has a field for each column, as a row of its table would have them.

    Args:
        columns: the columns.
        typed: what was typed, by the columns' names.

    Returns:
        A value for each column; its default where nothing was typed.

    Raises:
        BadInput: a field that cannot be read or has to be filled; its name is the field of the refusal.
    """
    found = {}
    for column in columns:
        text = typed.get(column.name, "").strip()
        try:
            if not text and column.required:
                raise BadInput("", column.about)
            found[column.name] = column.take(text) if text else column.default
        except BadInput as error:
            raise error.within(column.name) from None
    return found


def rows_of(data: bytes | str, columns: Sequence[Column], key: Callable[[dict], object], what: str) -> list[dict]:
    """The rows of a table that can be read as a whole.

    Args:
        data: the file's bytes.
        columns: the columns.
        key: the key it is known by.
        what: what it is.

    Returns:
        The rows, a cell under each column's name.

    Raises:
        BadInput: a row cannot be read, or two say the same thing.
    """
    table: Table = read_table(data, columns)
    if table.problems:
        more = f" And {len(table.problems) - 1} more." if len(table.problems) > 1 else ""
        raise BadInput(
            str(table.problems[0])[:60],
            "a table in which every row can be read",
            f"{table.problems[0]}{more}",
            field=what,
        )
    seen: dict[object, int] = {}
    for row in table.rows:
        if (first := seen.setdefault(key(row), row["line"])) != row["line"]:
            raise BadInput(
                f"line {row['line']}",
                f"each of the {what} once",
                f"Line {first} is the same: remove one of the two.",
                field=what,
            )
    return table.rows  # fmt: skip


def read_shop(
    demand: bytes | str, offers: bytes | str, suppliers: bytes | str, shelf: bytes | str | None = None
) -> Shop:
    """What a plan is made from, from its tables.

    Args:
        demand: the table of what is wanted.
        offers: offers.
        suppliers: suppliers, or their table.
        shelf: what lies on the shelf.

    Returns:
        What is wanted, offered and here, with all terms.

    Raises:
        BadInput: a table, or a row of one, cannot be read; two rows are alike; an offer's supplier has no terms.
    """
    wanted = tuple(
        Wanted(r["job"], r["ref"], r["quantity"], r["fits"])
        for r in rows_of(demand, DEMAND, lambda r: (r["job"], r["ref"]), "demand")
    )
    offered = tuple(
        Offer(
            part=r["part"],
            supplier=r["supplier"],
            pack=r["pack"],
            breaks=r["breaks"],
            stock=r["stock"],
            lead_days=r["lead_days"],
        )
        for r in rows_of(offers, OFFERS, lambda r: (r["part"], r["supplier"], r["pack"]), "offers")
    )
    terms = {
        r["supplier"]: Supplier(
            name=r["supplier"],
            postage=r["postage"],
            free_above=r["free_above"],
            handling=r["handling"],
            minimum=r["minimum"],
        )
        for r in rows_of(suppliers, SUPPLIERS, lambda r: r["supplier"], "suppliers")
    }
    lying = {r["part"]: r["quantity"] for r in rows_of(shelf, SHELF, lambda r: r["part"], "shelf")} if shelf else {}
    return Shop(wanted, offered, terms, lying)
