"""A supplier's own price list as offers: which of its columns is which of ours, its prices a column for each quantity.

A heading says from how many pieces its price counts: ``Price 10+``, ``from 25``, ``100 pcs``; one without a number is the price from
the first pack on. ``Price per 100`` is of a hundred pieces. Days may be given in weeks.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..board.column_map import NAMES as PART_NAMES
from ..board.column_map import Foreign, guess_of
from ..refusal import BadInput
from ..text.csvtable import Problem, read_table
from .buy_tables import OFFERS
from .orders import Offer

#: Such a list as a supplier may write it, for whoever has none at hand.
EXAMPLE = """Order code;Available;MOQ;Lead time (weeks);Unit price;Price 10+;from 100
GP105-100u-25;1200;5;2;0,24;0,20;0,12
LL105-47u-16;40;1;1;0,10;0,09;0,07
"""
#: Our columns, and words by which headings of price lists speak of them, the more exact first.
NAMES: dict[str, tuple[str, ...]] = {
    "part": PART_NAMES["part"],
    "supplier": PART_NAMES["supplier"],
    "pack": ("pack", "multiple", "order multiple", "moq", "qty per"),
    "stock": PART_NAMES["stock"],
    "lead_days": ("lead time", "lead day", "lead week", "delivery"),
    "breaks": ("breaks", "price breaks", "price list", "staffel"),
}
#: What each is called where it is matched.
CALLED = {
    "part": "the part's name",
    "supplier": "who sells it",
    "pack": "pieces that are sold together",
    "stock": "how many there are",
    "lead_days": "until it is here",
    "breaks": "all prices in one cell, 1:0.20 10:0.12",
}
#: Columns of prices in one list.
PRICES = tuple(f"price_{n}" for n in range(1, 9))
_PRICE = re.compile(r"price|cost|each|€|eur", re.I)
_PER = re.compile(r"(?:per|/)\s*(\d{1,6})\b", re.I)
_FROM = re.compile(
    r"(?:from|at|@|≥|>=|qty|quantity|\bx)\s*(\d{1,6})\b|\b(\d{1,6})\s*(?:\+|pcs|pieces|off|up\b|or more)", re.I
)
_BARE = re.compile(r"\s*(\d{1,6})\s*")


@dataclass(frozen=True)
class TableOffers:
    """Offers of a price list, and the rows that could not be read."""

    offers: tuple[Offer, ...]
    problems: tuple[Problem, ...]


def quantity_in(header: str) -> int | None:
    """From how many pieces on a heading's price counts; None where it says nothing.

    >>> [quantity_in(h) for h in ('Price 10+', 'from 25', '100', 'Unit price', 'Price per 100 (1000 pcs)')]
    [10, 25, 100, None, 1000]
    """
    text = _PER.sub(" ", header)
    hit = (
        _BARE.fullmatch(text) or _FROM.search(text) or (re.search(r"(\d{1,6})", text) if _PRICE.search(text) else None)
    )
    return next((int(group) for group in hit.groups() if group), None) if hit else None


def pieces_in(header: str) -> int:
    """Of how many pieces a heading's price is.

    >>> pieces_in('Price per 100'), pieces_in('€/1000 from 5000'), pieces_in('Price 10+')
    (100, 1000, 1)
    """
    hit = _PER.search(header)
    return max(1, int(hit[1])) if hit else 1


def guess(header: Sequence[str]) -> dict[str, str]:
    """Which column of a price list is likely which of ours; prices in the order of their quantities.

    >>> guess(['Order code', 'Stock', 'Price 1+', 'Price 10+', 'MOQ'])
    {'part': 'Order code', 'pack': 'MOQ', 'stock': 'Stock', 'price_1': 'Price 1+', 'price_2': 'Price 10+'}
    """
    found = guess_of(header, NAMES)
    left = [name for name in header if name not in found.values()]
    priced = [name for name in left if _PRICE.search(name) or quantity_in(name) is not None]
    if "breaks" in found:
        return found
    priced.sort(key=lambda name: quantity_in(name) or 0)
    return found | dict(zip(PRICES, priced, strict=False))


def check(columns: Mapping[str, str], header: Sequence[str], supplier: str = "") -> dict[str, str]:
    """A map as chosen, held against a heading.

    Args:
        columns: the columns.
        header: the headings, or one of them.
        supplier: who sells all of it, where no column says so.

    Returns:
        Our column for each of theirs that is taken.

    Raises:
        BadInput: a column that is not there or used twice, none for the part, the supplier or a price, a quantity twice.
    """
    chosen = {ours: theirs for ours, theirs in columns.items() if theirs and (ours in NAMES or ours in PRICES)}
    for ours, theirs in chosen.items():
        if theirs not in header:
            raise BadInput(theirs, f"one of the columns {', '.join(header)[:120]}", field=ours)
        if list(chosen.values()).count(theirs) > 1:
            raise BadInput(theirs, "each column once", "Two of ours point to it.", field=ours)
    if "part" not in chosen:
        raise BadInput("", "the column that holds the part", "Choose it from the list.", field="part")
    if "supplier" not in chosen and not supplier.strip():
        raise BadInput(
            "", "who sells it", "Choose the column with it, or type one name for the whole list.", field="supplier"
        )
    priced = [chosen[one] for one in PRICES if one in chosen]
    if not priced and "breaks" not in chosen:
        raise BadInput("", "a column that holds a price", "Choose it from the list.", field=PRICES[0])
    if priced and "breaks" in chosen:
        raise BadInput(
            chosen["breaks"], "prices in one column or in several, not both", "Leave one of them out.", field="breaks"
        )
    quantities = [quantity_in(name) for name in priced]
    for name, quantity in zip(priced, quantities, strict=True):
        if quantity == 0 or quantities.count(quantity) > 1:
            said = "from the first pack on" if quantity is None else f"from {quantity} pieces on"
            raise BadInput(
                name, "headings that say from how many pieces each price counts",
                f"This column is read as the price {said}, and another one is, too.",
                field="price",
            )  # fmt: skip
    return chosen


def read_offers(
    foreign: Foreign, columns: Mapping[str, str], supplier: str = "", most: int | None = None
) -> TableOffers:
    """Read a price list through a map that was checked.

    Args:
        foreign: the foreign table as it stands.
        columns: the columns.
        supplier: who sells what has no supplier of its own.
        most: rows, for a preview.

    Returns:
        The offers, and a problem for each row that cannot be read.
    """
    at = {ours: foreign.header.index(theirs) for ours, theirs in columns.items()}
    priced = [(columns[one], at[one]) for one in PRICES if one in at]
    weeks = 7 if "week" in columns.get("lead_days", "").lower() else 1
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([column.name for column in OFFERS])
    for row in foreign.rows[:most]:
        cells = {ours: row[i] if i < len(row) else "" for ours, i in at.items()}
        prices = [(name, row[i]) for name, i in priced if i < len(row) and row[i]]
        writer.writerow(
            [
                cells.get("part", ""),
                cells.get("supplier", "") or supplier.strip(),
                _number(cells.get("pack", "")),
                cells.get("breaks", "") or _breaks(prices, _number(cells.get("pack", ""))),
                _number(cells.get("stock", "")),
                _times(_number(cells.get("lead_days", "")), weeks),
            ]
        )
    table = read_table(out.getvalue(), OFFERS)
    problems = [
        replace(p, column="price", complaint=p.complaint.replace("a breaks", "a price")) if p.column == "breaks" else p
        for p in table.problems
    ]
    seen, offers = {}, []
    for one in table.rows:
        key = one["part"], one["supplier"], one["pack"]
        if (first := seen.setdefault(key, one["line"])) != one["line"]:
            problems.append(
                Problem(one["line"], "part", one["part"], f"Line {first} offers the same: remove one of the two.")
            )
            continue
        told = {name: one[name] for name in ("part", "supplier", "pack", "breaks", "stock", "lead_days")}
        offers.append(Offer(**told))
    return TableOffers(tuple(offers), tuple(sorted(problems, key=lambda problem: problem.line)))


def _breaks(prices: Sequence[tuple[str, str]], pack: str) -> str:
    """Price columns as our breaks; a price of several pieces is divided, one without a quantity counts from the first pack on."""
    found = []
    for header, cell in prices:
        each, number = pieces_in(header), cell.strip().strip("€").removesuffix("EUR").strip()
        if each != 1:
            number = _times(number, 1 / each)
        found.append(
            (quantity_in(header) or (int(pack) if pack.isdigit() and int(pack) else 1), number.replace(" ", ""))
        )
    return " ".join(f"{quantity}:{number}" for quantity, number in sorted(found))


def _number(text: str) -> str:
    """A number without the words around it: ``25 pcs``, ``> 500``, ``in stock: 40``; what has no single one stays as it is."""
    found = re.findall(r"-?\d+(?:[.,]\d+)?", text)
    return found[0] if len(found) == 1 else text


def _times(text: str, factor: float) -> str:
    if factor == 1:
        return text
    try:
        return f"{float(text.replace(',', '.')) * factor:.10g}"
    except ValueError:
        return text
