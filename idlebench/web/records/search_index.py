"""The full-text index of the bench, kept by triggers: jobs, units, boards, parts, the Shelf, suppliers, procedures and the ledger.

A row of the index is a row of a table: its number is the row's key and its kind together. Values and volts are words of one form: ``10u``
finds what was typed as ``0.01m``. The index is made anew where its own form changed; triggers never forget a row, whoever writes it.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import connections

from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read

#: Counted on by each change of what a row says.
FORM = "form 1"
#: What a row's number is its key times, plus its kind.
KINDS_AT_MOST = 32


def _value(column: str) -> str:
    """F as one word, in whole picofarads."""
    return f"CASE WHEN {{row}}.{column} > 0 THEN ' f' || CAST(ROUND({{row}}.{column} * 1e12) AS INTEGER) ELSE '' END"


def _volts(column: str) -> str:
    """V as one word, in whole millivolts."""
    return f"CASE WHEN {{row}}.{column} > 0 THEN ' mv' || CAST(ROUND({{row}}.{column} * 1e3) AS INTEGER) ELSE '' END"


@dataclass(frozen=True)
class Source:
    """A table of which each row can be found. number: of its kind. says: what is indexed of a row, in SQL. index: where it is kept; what
    there are thousands of has an index of its own, so that the few are not looked for among them."""

    kind: str
    number: int
    table: str
    says: str
    index: str = "find_index"


def _words(*columns: str) -> str:
    return " || ' ' || ".join(f"COALESCE({{row}}.{name}, '')" for name in columns)


def _capacitor(*columns: str) -> str:
    """Some columns of a capacitor, with its value and volts in their one form."""
    return f"{_words(*columns)} || {_value('value')} || {_volts('volts')}"


SOURCES = (
    Source("job", 1, "jobs_job", _words("name", "owner", "machine")),
    Source("unit", 2, "jobs_unit", _words("name", "serial", "symptoms")),
    Source("board", 3, "jobs_board", _words("name", "title", "serial", "others", "chips")),
    Source("part", 4, "survey_part", _capacitor("ref", "series"), "find_parts"),
    Source("catalogue", 5, "shelf_catalogueitem", _capacitor("part", "series"), "find_catalogue"),
    Source("shelf", 6, "records_shelfdevice", _words("part", "what")),
    Source("supplier", 7, "records_supplier", _words("name")),
    Source("procedure", 8, "records_shopprocedure", _words("name")),
    Source("on a unit", 9, "records_unitprocedure", _words("title")),
    Source("ledger", 10, "ledger_entry", _words("text"), "find_ledger"),
)
INDEXES = tuple(dict.fromkeys(source.index for source in SOURCES))
KINDS = {source.number: source.kind for source in SOURCES}
_EDGE = re.compile(r"[^\w]+")


def _triggers() -> dict[str, str]:
    found = {}
    for source in SOURCES:
        new = f"NEW.id * {KINDS_AT_MOST} + {source.number}"
        old = f"OLD.id * {KINDS_AT_MOST} + {source.number}"
        put = f"INSERT INTO {source.index} (rowid, says) VALUES ({new}, {source.says.format(row='NEW')});"
        out = f"DELETE FROM {source.index} WHERE rowid = {old};"
        name = f"find_{source.table}"
        found[f"{name}_insert"] = f"AFTER INSERT ON {source.table} BEGIN {put} END"
        found[f"{name}_update"] = f"AFTER UPDATE ON {source.table} BEGIN {out} {put} END"
        found[f"{name}_delete"] = f"AFTER DELETE ON {source.table} BEGIN {out} END"
    return found


def install(using: str = "default") -> None:
    """Make the index and its triggers where they are missing, and the index anew where its form is another."""
    with connections[using].cursor() as cursor:
        cursor.execute("SELECT 1 FROM sqlite_master WHERE name = 'find_index'")
        there = cursor.fetchone() is not None
        if there:
            cursor.execute("SELECT says FROM find_index WHERE rowid = 0")
            there = cursor.fetchone() == (FORM,)
        take_away(using)
        if not there:
            rebuild(using)
        for name, does in _triggers().items():
            cursor.execute(f"CREATE TRIGGER {name} {does}")


def take_away(using: str = "default") -> None:
    """Before a change of tables, and before the triggers are made in their form of now."""
    with connections[using].cursor() as cursor:
        for name in _triggers():
            cursor.execute(f"DROP TRIGGER IF EXISTS {name}")


def rebuild(using: str = "default") -> None:
    """The index from the tables themselves."""
    with connections[using].cursor() as cursor:
        for index in INDEXES:
            cursor.execute(f"DROP TABLE IF EXISTS {index}_words")
            cursor.execute(f"DROP TABLE IF EXISTS {index}")
            cursor.execute(f"CREATE VIRTUAL TABLE {index} USING fts5(says, tokenize = 'unicode61 remove_diacritics 2')")
            cursor.execute(f"CREATE VIRTUAL TABLE {index}_words USING fts5vocab({index}, 'row')")
        cursor.execute("INSERT INTO find_index (rowid, says) VALUES (0, %s)", [FORM])
        for source in SOURCES:
            cursor.execute(
                f"INSERT INTO {source.index} (rowid, says) SELECT id * {KINDS_AT_MOST} + {source.number}, "
                f"{source.says.format(row=source.table)} FROM {source.table}"
            )


def words_of(text: str) -> tuple[str, ...]:
    """What is asked for as the index knows it, a piece for each word; a value or volts in their one form.

    >>> words_of('10uF 50V PS-1')
    ('("10uF"* OR f10000000)', '("50V"* OR mv50000)', '"PS 1"*')
    """
    found = []
    for word in text.split()[:8]:
        plain = " ".join(filter(None, _EDGE.split(word)))
        if not plain:
            continue
        form = _one_form(word)
        found.append(f'("{plain}"* OR {form})' if form else f'"{plain}"*')
    return tuple(found)


def _one_form(word: str) -> str:
    """A value or volts as one word of the index; "" for neither."""
    plain = word[:-1] + word[-1:].upper() if word[-1:] in ("f", "v") else word
    if re.fullmatch(r"\d+(?:[.,]\d+)?V", plain):
        unit, letter, scale = "V", "mv", 1e3
    elif re.fullmatch(r"(?:\d+[.,]?\d*[pnuµm]\d*|\d*[pnuµm]\d+)F?", plain):
        unit, letter, scale = "F", "f", 1e12
    else:
        return ""
    try:
        return f"{letter}{round(read(plain, unit, field='q', above=0, high=1e6) * scale)}"
    except BadInput:
        return ""


def matching(words: Sequence[str], most: int, using: str = "default") -> dict[str, list[int]]:
    """The keys of the rows that hold all of some words, by their kind.

    Args:
        words: as words_of gives them.
        most: as many of each index at most.
        using: the database.

    Returns:
        Keys by kind: the nearest first, of what there are thousands of the newest.
    """
    found: dict[str, list[int]] = {}
    with connections[using].cursor() as cursor:
        for index in INDEXES:
            order = "rank, rowid DESC" if index == INDEXES[0] else "rowid DESC"
            cursor.execute(
                f"SELECT rowid FROM {index} WHERE {index} MATCH %s ORDER BY {order} LIMIT %s",
                [" AND ".join(words), most],
            )
            for (row,) in cursor.fetchall():
                if row:
                    found.setdefault(KINDS[row % KINDS_AT_MOST], []).append(row // KINDS_AT_MOST)
    return found


def near_words(word: str, using: str = "default") -> tuple[str, ...]:
    """Words of the index that are one letter away from one that it does not hold; those that begin alike first."""
    plain = word.lower()
    if len(plain) < 4 or not plain.isalpha():
        return ()
    found: dict[str, None] = {}
    with connections[using].cursor() as cursor:
        for letter in dict.fromkeys((plain[0], plain[1])):
            for index in INDEXES:
                cursor.execute(
                    f"SELECT term FROM {index}_words WHERE term >= %s AND term < %s AND length(term) BETWEEN %s AND %s",
                    [letter, letter + "\U0010ffff", len(plain) - 1, len(plain) + 1],
                )
                found |= dict.fromkeys(term for (term,) in cursor.fetchall() if one_letter_off(plain, term))
            if found:
                break
    return tuple(found)[:3]


def one_letter_off(one: str, other: str) -> bool:
    """Whether two words differ by one letter: another, one more, one less, or two changed over.

    >>> [one_letter_off('lampwrigt', w) for w in ('lampwright', 'lampright', 'lamp')]
    [True, False, False]
    """
    if one == other or abs(len(one) - len(other)) > 1:
        return False
    short, long = sorted((one, other), key=len)
    at = next((i for i, letter in enumerate(short) if letter != long[i]), len(short))
    if len(short) < len(long):
        return short[at:] == long[at + 1 :]
    over = short[at : at + 2] == long[at : at + 2][::-1] and short[at + 2 :] == long[at + 2 :]
    return over or short[at + 1 :] == long[at + 1 :]
