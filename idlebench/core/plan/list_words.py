"""Cells of a supplier's price list as people write them: numbers with either decimal sign, stock in words, days, breaks, currency.

Source: workshop practice, because no standard says how a price list is written: what can be read in one way only is read, the rest
is named and left to a person.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from ..refusal import Ambiguous, BadInput, no_longer_than
from ..text.folding import folded

#: Which sign is the decimal one in a list.
COMMA, POINT = "comma", "point"
#: Letters of a cell at most, and of one that holds several prices.
LONGEST, LONGEST_BREAKS = 200, 1000
#: Days in a unit of time, by how words of it begin.
DAYS = {
    "day": 1.0, "tag": 1.0, "jour": 1.0, "dag": 1.0, "d": 1.0, "week": 7.0, "woche": 7.0, "semaine": 7.0, "weken": 7.0, "wk": 7.0,
    "month": 30.0, "monat": 30.0, "mois": 30.0, "maand": 30.0, "hour": 1 / 24, "stunde": 1 / 24, "std": 1 / 24, "heure": 1 / 24,
    "uur": 1 / 24, "uren": 1 / 24, "h": 1 / 24,
}  # fmt: skip
#: Words that say when something comes, days.
SAID = {
    "next day": 1.0, "nachster tag": 1.0, "morgen": 1.0, "tomorrow": 1.0, "lendemain": 1.0, "demain": 1.0, "volgende dag": 1.0,
    "same day": 0.0, "today": 0.0, "heute": 0.0, "vandaag": 0.0, "immedia": 1.0, "sofort": 1.0, "direct": 1.0,
}  # fmt: skip
#: Words for enough, and for none; those for none are asked first.
NONE_THERE = (
    "out of stock", "not in stock", "not available", "unavailable", "sold out", "nicht", "ausverkauft", "vergriffen", "rupture", "epuise",
    "indisponible", "niet", "uitverkocht", "none", "nein", "non", "nee", "no",
)  # fmt: skip
ENOUGH = (
    "in stock", "available", "plenty", "ample", "auf lager", "lagernd", "verfugbar", "lieferbar", "en stock", "disponible", "op voorraad",
    "leverbaar", "beschikbaar", "yes", "ja", "oui", "ok", "✓", "✔",
)  # fmt: skip
#: Currencies by what stands in headings and cells.
CURRENCIES = {
    "€": "EUR", "eur": "EUR", "euro": "EUR", "$": "USD", "usd": "USD", "us$": "USD", "£": "GBP", "gbp": "GBP", "chf": "CHF", "sfr": "CHF",
    "sek": "SEK", "dkk": "DKK", "nok": "NOK", "pln": "PLN", "zł": "PLN", "czk": "CZK", "kč": "CZK", "huf": "HUF", "jpy": "JPY", "¥": "JPY",
    "cad": "CAD", "aud": "AUD",
}  # fmt: skip
_NUMBER = re.compile(r"[-−]?\d+(?:[.,'’]\d+|[   ](?=\d{3}(?!\d))\d{3})*")
#: A number whose decimal sign is known: thousands by threes, or none.
_GROUPED = {
    COMMA: re.compile(r"-?(?:\d+|\d{1,3}(?:\.\d{3})+)(?:,\d+)?"), POINT: re.compile(r"-?(?:\d+|\d{1,3}(?:,\d{3})+)(?:\.\d+)?")
}  # fmt: skip
_PAIR = re.compile(
    r"(?P<least>\d[\d.,' ]*?)\s*(?:[-–]\s*\d[\d.,']*|\+)?\s*(?:pcs|pieces|stk|stuck|stuks|pces|st)?\.?\s*(?:\+|:|=|@|×|\bx\b|\ba\b|→|->)\s*"
    r"(?P<price>(?:[€$£¥]|[a-z]{3})?\s*\d+(?:[.,]\d+)*\s*(?:[€$£¥]|[a-z]{3}\b)?)",
    re.I,
)
_SIGN = re.compile(r"us\$|[€$£¥]|[^\W\d_]+", re.I)


def style_of(cells: Iterable[str]) -> str:
    """Which sign is the decimal one in a list, from its numbers that can be read in one way only; "" where they disagree or say nothing.

    >>> style_of(['0,24', '1.250']), style_of(['0.24', '1,250']), style_of(['0.24', '0,10']), style_of(['1.250'])
    ('comma', 'point', '', '')
    """
    seen = set()
    for cell in cells:
        for token in _NUMBER.findall(cell):
            sign = _tells(plain := re.sub(r"[\s'’]", "", token).replace("−", "-"))
            seen |= {sign} if sign and _GROUPED[sign].fullmatch(plain) else set()
    return seen.pop() if len(seen) == 1 else ""


def _tells(token: str) -> str:
    """Which decimal sign a number shows; "" where it could be either."""
    last = max(token.rfind("."), token.rfind(","))
    if last < 0:
        return ""
    sign, other = (COMMA, POINT) if token[last] == "," else (POINT, COMMA)
    before, after = token[:last].lstrip("-−"), token[last + 1 :]
    if token.count(token[last]) > 1:
        return other
    if set(before) & set(".,") or len(after) != 3 or before == "0" or len(before) > 3:
        return sign
    return ""


def number(text: str, style: str = "", *, whole: bool = False) -> float:
    """The one number in a cell, whatever stands around it.

    Args:
        text: the cell.
        style: which sign is the decimal one, COMMA, POINT, or "" where it is not known.
        whole: it counts pieces: ``1.250`` is 1250 where nothing else says what it is.

    Returns:
        The number.

    Raises:
        BadInput: none, or more than one; or it could be read in two ways.

    >>> number('€ 1.250,50'), number('1.250', COMMA), number('1.250', POINT), number("1'250 pcs")
    (1250.5, 1250.0, 1.25, 1250.0)
    """
    found = _NUMBER.findall(no_longer_than(text, LONGEST))
    if len(found) != 1:
        raise BadInput(text, "one number" if not found else "a single number")
    token = re.sub(r"[\s'’]", "", found[0]).replace("−", "-")
    sign = _tells(token) or style
    if "." not in token and "," not in token:
        return float(token)
    if not sign and whole:
        sign = POINT if "," in token else COMMA
    if not sign:
        ways = re.sub("[.,]", "", token), token.replace(",", ".")
        raise Ambiguous(text, f"{ways[0]} or {ways[1]}", "Choose the number format of this list.", instead=ways)
    if not _GROUPED[sign].fullmatch(token):
        raise BadInput(text, "a number", "Thousands are apart by three digits.")
    return float(token.replace(".", "").replace(",", ".") if sign == COMMA else token.replace(",", ""))


def price(text: str, style: str = "") -> float:
    """A price in the list's own currency.

    Args:
        text: the cell.
        style: which sign is the decimal one.

    Returns:
        The number.

    Raises:
        BadInput: no number, or none above 0.
    """
    if not _NUMBER.search(text):
        raise BadInput(text, "a price, such as 0.24")
    found = number(text, style)
    if found <= 0:
        raise BadInput(text, "a price above 0")
    return found


def stock(text: str, style: str = "") -> int | None:
    """How many a supplier has; None for enough.

    Args:
        text: the cell.
        style: which sign is the decimal one.

    Returns:
        Pieces, or None.

    >>> stock('> 100'), stock('yes'), stock('auf Lager'), stock('out of stock'), stock('1.250'), stock('')
    (100, None, None, 0, 1250, None)

    Raises:
        BadInput: words that say neither, fewer than a number, or no whole number.
    """
    said = folded(no_longer_than(text, LONGEST)).strip()
    if not said:
        return None
    if not re.search(r"\d", said):
        for words, means in ((NONE_THERE, 0), (ENOUGH, None)):
            if any(re.search(rf"(?<!\w){re.escape(word)}(?!\w)", said) for word in words):
                return means
    if "<" in said or not re.search(r"\d", said):
        raise BadInput(text, "a number of pieces, yes or no", "Type a number. Leave the field empty for enough.")
    return _pieces(text, style, 0)


def pack(text: str, style: str = "") -> int:
    """Pieces that are sold together; 1 where nothing is said."""
    return _pieces(text, style, 1) if text.strip() else 1


def _pieces(text: str, style: str, least: int) -> int:
    found = number(text, style, whole=True)
    if found != int(found):
        raise BadInput(text, "whole pieces")
    if found < least or found > 100_000_000:
        raise BadInput(text, f"{least or 'no'} or more pieces" if least == 0 else "1 or more")
    return int(found)


def days(text: str, unit: float = 1.0) -> float | None:
    """Until it is here; the later end of a span.

    Args:
        text: the cell.
        unit: days of a bare number.

    Returns:
        Days, None where nothing is said.

    >>> days('2-3 Tage'), days('next day'), days('1 Woche'), days('48 h'), days('2', 7.0), days('')
    (3.0, 1.0, 7.0, 2.0, 14.0, None)

    Raises:
        BadInput: none of these, or over 1000 days.
    """
    said = folded(no_longer_than(text, LONGEST)).strip()
    if not said:
        return None
    if not re.search(r"\d", said):
        for words, means in SAID.items():
            if re.search(rf"(?<!\w){words}", said):
                return means
        if re.search(r"(?<!\w)(?:a|one|eine?|une?|een) (?:week|woche|semaine)", said):
            return 7.0
    found = re.fullmatch(
        r"(?:\D*?)(?:(\d+(?:[.,]\d+)?)\s*(?:-|–|to|bis|a|tot|/)\s*)?(\d+(?:[.,]\d+)?)\s*\+?\s*([a-z]*)[^\d]*", said
    )
    if not found:
        raise BadInput(text, "days, such as 3, 2-3 days, next day")
    words = found[3]
    times = next(
        (
            DAYS[name]
            for name in sorted(DAYS, key=len, reverse=True)
            if words.startswith(name) and (len(name) > 1 or words == name)
        ),
        unit,
    )
    total = float(found[2].replace(",", ".")) * times
    if total > 1000:
        raise BadInput(text, "at most 1000 days")
    return total


def pairs(text: str) -> list[tuple[str, str]]:
    """Breaks in one cell as they stand: from how many, and the price. ``1: $0.25; 10: $0.18``, ``1-9 = 0,25 / 10+ 0,18``.

    >>> pairs('1: $0.25; 10: $0.18'), pairs('1:0.20 10:0.12'), pairs('0.20')
    ([('1', '$0.25'), ('10', '$0.18')], [('1', '0.20'), ('10', '0.12')], [])
    """
    if len(text) > LONGEST_BREAKS:
        return []
    plain = re.sub(r"(?<=\d)\s*\+\s*(?=[€$£¥]|\d)", ": ", text)
    return [(hit["least"].strip(), hit["price"].strip()) for hit in _PAIR.finditer(plain)]


def currencies(texts: Iterable[str]) -> set[str]:
    """Currencies that are named in headings and cells, as their three letters.

    >>> sorted(currencies(['Unit price ($)', '0,20 €', 'cost']))
    ['EUR', 'USD']
    """
    return {
        CURRENCIES[hit] for text in set(texts) for word in _SIGN.findall(text) if (hit := word.lower()) in CURRENCIES
    }


def says_breaks(cells: Sequence[str]) -> bool:
    """Whether most cells of a column hold several prices each."""
    told = [cell for cell in cells if cell.strip()]
    return bool(told) and sum(len(pairs(cell)) > 1 for cell in told) * 2 > len(told)
