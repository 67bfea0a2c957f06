"""The glossary: each term of the field in one sentence, for those who are new to it, and where it is used.

Source: workshop practice, because a beginner needs the sense of a word before its standard; limits and figures stand where they are used.
"""

from __future__ import annotations

import csv
import re
from dataclasses import dataclass
from pathlib import Path

PATH = Path(__file__).with_name("glossary.csv")
#: Names of pages that a term may be used on, and their addresses; "" where the page belongs to a unit or a board.
PAGES = {
    "Intake": "", "Survey": "", "Measure": "", "Choose": "", "The supply": "", "Gather": "gather_shop", "Swap": "", "Cold checks": "",
    "First power": "", "Hand-over": "", "Suspects": "", "Reforming": "", "Shelf": "shelf", "Calculators": "reckoner",
    "Practice": "practice", "Procedures": "procedures", "Ledger": "ledger", "Policies": "policies",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Term:
    """A term of the field.

    Attributes:
        key: its name in addresses, small letters and dashes.
        title: the term as it is written in a sentence.
        meaning: one sentence.
        used: the pages that use it, names of PAGES.
        also: other words for it.
    """

    key: str
    title: str
    meaning: str
    used: tuple[str, ...]
    also: tuple[str, ...]


def _key(title: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", title.lower().replace("+", " plus")).strip("-")


def _split(cell: str) -> tuple[str, ...]:
    return tuple(cell.split("|")) if cell else ()


def read_terms(text: str) -> tuple[Term, ...]:
    """The terms of a table with the columns term, meaning, used and also, in order of the alphabet."""
    rows = csv.DictReader(text.splitlines())
    terms = (
        Term(key=_key(r["term"]), title=r["term"], meaning=r["meaning"], used=_split(r["used"]), also=_split(r["also"]))
        for r in rows
    )
    return tuple(sorted(terms, key=lambda term: term.title.lower()))


TERMS = read_terms(PATH.read_text(encoding="utf-8"))
#: Each spelling of each term, in small letters.
BY_WORD = {word.lower(): term for term in TERMS for word in (term.title, term.key, *term.also)}


def term_for(word: str) -> Term | None:
    """The term that a word names, in any of its spellings; None where there is none.

    >>> term_for('Smoothing capacitor').title, term_for('nothing of the kind')
    ('reservoir capacitor', None)
    """
    return BY_WORD.get(word.strip().lower())
