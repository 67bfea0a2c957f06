"""A supplier's own price list as offers: which of its columns is which of ours, its prices a column for each quantity.

A heading says from how many pieces its price counts: ``Price 10+``, ``from 25``, ``100 pcs``; one without a number is the price from
the first pack on. ``Price per 100`` is of a hundred pieces. Days may be given in weeks.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from ..board.column_map import NAMES as PART_NAMES
from ..board.column_map import Foreign, guess_of
from ..refusal import BadInput, no_longer_than
from ..text.csvtable import Problem
from ..text.folding import folded
from . import list_words
from .buy_tables import MOST_BREAKS, MOST_EUROS, UNKNOWN_LEAD
from .orders import Offer

#: Such a list as a supplier may write it, for whoever has none at hand.
EXAMPLE = """Order code;Available;MOQ;Lead time (weeks);Unit price;Price 10+;from 100
GP105-100u-25;1200;5;2;0,24;0,20;0,12
LL105-47u-16;40;1;1;0,10;0,09;0,07
"""
#: Our columns, and words by which headings of price lists speak of them, the more exact first.
NAMES: dict[str, tuple[str, ...]] = {
    "part": (
        *PART_NAMES["part"][:-1], "bestellnummer", "bestell nr", "artikelnummer", "artikel nr", "artikelnr", "art nr", "bestelnummer",
        "bestelcode", "reference", "code article", "code", "artikel", "part",
    ),
    "supplier": (*PART_NAMES["supplier"], "lieferant", "anbieter", "fournisseur", "leverancier"),
    "pack": (
        "pack", "multiple", "order multiple", "moq", "qty per", "verpackungseinheit", "vpe", "ve", "mindestmenge", "mindestbestell",
        "gebinde", "conditionnement", "quantite min", "lot", "verpakking", "minimale", "minimum",
    ),
    "stock": (*PART_NAMES["stock"], "in stock", "bestand", "lager", "verfugbar", "disponib", "dispo", "voorraad", "beschikbaar"),
    "lead_days": (
        "lead time", "lead day", "lead week", "delivery", "lieferzeit", "lieferfrist", "lieferung", "delai", "livraison", "levertijd",
        "levering",
    ),
    "breaks": ("breaks", "price breaks", "price list", "staffel"),
}  # fmt: skip
#: What each is called where it is matched.
CALLED = {
    "part": "the part's name",
    "supplier": "who sells it",
    "pack": "pieces that are sold together",
    "stock": "how many there are",
    "lead_days": "until it is here",
    "breaks": "all prices in one cell",
}
#: Columns of prices in one list.
PRICES = tuple(f"price_{n}" for n in range(1, 9))
#: From how many pieces each of them counts, as it is typed; empty where its heading says so.
COUNTS_FROM = tuple(f"from_{n}" for n in range(1, 9))
_PRICE = re.compile(r"price|cost|each|€|eur\b|preis|prix|prijs|\btarif|\$|£", re.I)
_PER = re.compile(r"(?:\bper|/|\bpro|\bje|\bpar|\bles|\bpour)\s*(\d{1,6})\b", re.I)
_FROM = re.compile(
    r"(?:from|at|@|≥|>=|qty|quantity|\bab|\bdes|\ba partir de|\bvanaf|\bmenge|\baantal|\bx)\s*(\d{1,6})\b"
    r"|\b(\d{1,6})\s*(?:\+|pcs|pieces|pces|stk|stuck|stuks|off|up\b|or more)",
    re.I,
)
_BARE = re.compile(r"\s*(\d{1,6})\s*")


@dataclass(frozen=True)
class TableOffers:
    """Offers of a price list, and the rows that could not be read; the currency that is named in it, "" where none is."""

    offers: tuple[Offer, ...]
    problems: tuple[Problem, ...]
    currency: str = ""


@lru_cache(maxsize=256)
def quantity_in(header: str) -> int | None:
    """From how many pieces on a heading's price counts; None where it says nothing.

    >>> [quantity_in(h) for h in ('Price 10+', 'from 25', '100', 'Unit price', 'Price per 100 (1000 pcs)')]
    [10, 25, 100, None, 1000]

    >>> [quantity_in(h) for h in ('Preis ab 10', 'dès 100', '25 stuks', 'à partir de 50', 'Preis pro 100 Stück')]
    [10, 100, 25, 50, None]
    """
    text = _PER.sub(" ", folded(header))
    hit = (
        _BARE.fullmatch(text) or _FROM.search(text) or (re.search(r"(\d{1,6})", text) if _PRICE.search(text) else None)
    )
    return next((int(group) for group in hit.groups() if group), None) if hit else None


@lru_cache(maxsize=256)
def pieces_in(header: str) -> int:
    """Of how many pieces a heading's price is.

    >>> pieces_in('Price per 100'), pieces_in('€/1000 from 5000'), pieces_in('Price 10+')
    (100, 1000, 1)
    """
    hit = _PER.search(folded(header))
    return max(1, int(hit[1])) if hit else 1


def guess(header: Sequence[str], rows: Sequence[Sequence[str]] = ()) -> dict[str, str]:
    """Which column of a price list is likely which of ours; prices in the order of their quantities. rows: the first ones, for cells
    that hold several prices each.

    >>> guess(['Order code', 'Stock', 'Price 1+', 'Price 10+', 'MOQ'])
    {'part': 'Order code', 'pack': 'MOQ', 'stock': 'Stock', 'price_1': 'Price 1+', 'price_2': 'Price 10+'}
    """
    found = guess_of(header, NAMES)
    left = [name for name in header if name not in found.values()]
    for i, name in enumerate(header):
        if (
            "breaks" not in found
            and name in left
            and list_words.says_breaks([row[i] for row in rows[:20] if i < len(row)])
        ):
            found["breaks"] = name
    if "breaks" in found:
        return found
    priced = [name for name in left if _PRICE.search(folded(name)) or quantity_in(name) is not None]
    priced.sort(key=lambda name: quantity_in(name) or 0)
    return found | dict(zip(PRICES, priced, strict=False))


def check(columns: Mapping[str, str], header: Sequence[str], supplier: str = "") -> dict[str, str]:
    """A map as chosen, held against a heading.

    Args:
        columns: the columns.
        header: the headings, or one of them.
        supplier: who sells all of it, where no column says so.

    Returns:
        Our column for each of theirs that is taken, and from how many pieces a price counts where that was typed.

    Raises:
        BadInput: a column that is not there or used twice, none for the part, the supplier or a price, a quantity twice or none.
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
    typed = {
        at: columns[at].strip()
        for at, one in zip(COUNTS_FROM, PRICES, strict=True)
        if one in chosen and columns.get(at, "").strip()
    }
    for at, text in typed.items():
        if not text.isascii() or not text.isdigit() or not 0 < int(text[:9]) == int(text) <= 1_000_000:
            raise BadInput(text, "the least quantity of the price, such as 10", field=at)
    quantities = [_counts_from(chosen | typed, one) for one in PRICES if one in chosen]
    for name, quantity in zip(priced, quantities, strict=True):
        if quantity == 0 or quantities.count(quantity) > 1:
            said = "from the first pack on" if quantity is None else f"from {quantity} pieces on"
            raise BadInput(
                name, "one price for each least quantity",
                f"Two columns hold the price {said}. Type the least quantity beside the column.",
                field="price",
            )  # fmt: skip
    return chosen | typed


def _counts_from(columns: Mapping[str, str], price: str) -> int | None:
    """From how many pieces a price column counts: as typed, else as its heading says."""
    typed = columns.get(COUNTS_FROM[PRICES.index(price)], "")
    return int(typed) if typed else quantity_in(columns[price])


def currency_of(foreign: Foreign, columns: Mapping[str, str]) -> str:
    """The currency that the headings and cells of the prices name, or a column of currencies.

    Args:
        foreign: the list.
        columns: the columns.

    Returns:
        Its three letters, "" where nothing is said.

    Raises:
        BadInput: more than one.
    """
    headed = [h for h in foreign.header if re.search(r"currency|wahrung|devise|valuta", folded(h))]
    names = [columns[one] for one in (*PRICES, "breaks") if one in columns] + headed
    at = [foreign.header.index(name) for name in names]
    found = list_words.currencies([*names, *(row[i] for row in foreign.rows for i in at if i < len(row))])
    if len(found) > 1:
        raise BadInput(
            " and ".join(sorted(found)), "one currency in a list", "Split the list, one currency each.", field="price"
        )
    return found.pop() if found else ""


def style_of(foreign: Foreign, columns: Mapping[str, str]) -> str:
    """Which sign is the decimal one in a list's prices and counts; "" where that cannot be told."""
    at = [foreign.header.index(columns[one]) for one in (*PRICES, "breaks", "stock", "pack") if one in columns]
    return list_words.style_of(row[i] for row in foreign.rows for i in at if i < len(row))


def read_offers(
    foreign: Foreign,
    columns: Mapping[str, str],
    supplier: str = "",
    most: int | None = None,
    style: str = "",
    rate: float = 1.0,
) -> TableOffers:
    """Read a price list through a map that was checked.

    Args:
        foreign: the foreign table as it stands.
        columns: the columns.
        supplier: who sells what has no supplier of its own.
        most: rows, for a preview.
        style: which sign is the decimal one, as it was said; "" for as the list shows it.
        rate: € for one of the list's own currency.

    Returns:
        The offers, and a problem for each row that cannot be read, by the supplier's own column and line.

    Raises:
        BadInput: prices in more than one currency.
    """
    currency = currency_of(foreign, columns)
    reader = _Reader(foreign, columns, supplier.strip(), style or style_of(foreign, columns), rate)
    seen: dict[tuple[str, str, int], int] = {}
    offers, problems = [], []
    for row, line in list(zip(foreign.rows, foreign.lines or range(2, len(foreign.rows) + 2), strict=True))[:most]:
        try:
            offer = reader.offer(row)
        except BadInput as error:
            problems.append(Problem(line, error.field, error.read, error.plain))
            continue
        if (first := seen.setdefault((offer.part, offer.supplier, offer.pack), line)) != line:
            said = f"Line {first} offers the same: remove one of the two."
            problems.append(Problem(line, columns["part"], offer.part, said))
            continue
        offers.append(offer)
    return TableOffers(tuple(offers), tuple(problems), currency)


@dataclass(frozen=True)
class _Reader:
    """Reads rows of a list. style, rate: as read_offers has them."""

    foreign: Foreign
    columns: Mapping[str, str]
    supplier: str
    style: str
    rate: float

    def offer(self, row: Sequence[str]) -> Offer:
        """What a row offers.

        Args:
            row: its cells.

        Returns:
            The offer.

        Raises:
            BadInput: a cell that cannot be read; its field is the supplier's own heading.
        """
        part = self._cell(row, "part", lambda text: no_longer_than(text, 80))
        if not part:
            raise BadInput("", "a part", "Type its name, or leave the row out.", field=self.columns["part"])
        seller = self._cell(row, "supplier", lambda text: no_longer_than(text, 80)) or self.supplier
        if not seller:
            raise BadInput("", "who sells it", field=self.columns.get("supplier", "supplier"))
        pack = self._cell(row, "pack", lambda text: list_words.pack(text, self.style)) or 1
        unit = 7.0 if re.search(r"week|woche|semaine|weken", folded(self.columns.get("lead_days", ""))) else 1.0
        lead = self._cell(row, "lead_days", lambda text: list_words.days(text, unit))
        stock = self._cell(row, "stock", lambda text: list_words.stock(text, self.style))
        return Offer(
            part=part, supplier=seller, pack=pack, breaks=self._breaks(row, pack), stock=stock,
            lead_days=UNKNOWN_LEAD if lead is None else lead,
        )  # fmt: skip

    def _cell(self, row: Sequence[str], ours: str, take: Callable[[str], object]) -> object:
        theirs = self.columns.get(ours)
        if theirs is None:
            return None
        at = self.foreign.header.index(theirs)
        return self._taken(row[at] if at < len(row) else "", theirs, take)

    @staticmethod
    def _taken(text: str, theirs: str, take: Callable[[str], object]) -> object:
        try:
            return take(text)
        except BadInput as error:
            raise error.within(theirs) from None

    def _breaks(self, row: Sequence[str], pack: int) -> tuple[tuple[int, float], ...]:
        """Prices by how many are bought, rising; none where the row has none."""
        if "breaks" in self.columns:
            return self._cell(row, "breaks", self._of_cell)
        found = []
        for one in PRICES:
            text = self._cell(row, one, str)
            if text:
                theirs = self.columns[one]
                each = self._taken(text, theirs, self._euros) / pieces_in(theirs)
                found.append((_counts_from(self.columns, one) or pack, each))
        return self._taken("", self.columns.get(PRICES[0], ""), lambda _: self._rising(found, "prices"))

    def _of_cell(self, text: str) -> tuple[tuple[int, float], ...]:
        if not text:
            return ()
        pairs = list_words.pairs(text)
        if not pairs:
            return ((1, self._euros(text)),)
        found = [(list_words.pack(least, self.style), self._euros(price)) for least, price in pairs]
        return self._rising(found, text)

    def _euros(self, text: str) -> float:
        found = round(list_words.price(text, self.style) * self.rate, 10)
        if found > MOST_EUROS:
            raise BadInput(text, f"a price of at most €{MOST_EUROS:.0f}")
        return found

    @staticmethod
    def _rising(found: list[tuple[int, float]], text: str) -> tuple[tuple[int, float], ...]:
        rising = sorted(found)
        if len({least for least, _ in rising}) < len(rising):
            raise BadInput(text, "one price from each number of pieces on")
        if len(rising) > MOST_BREAKS:
            raise BadInput(text, f"at most {MOST_BREAKS} prices")
        return tuple(rising)
