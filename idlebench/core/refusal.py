"""What the core says when something read cannot be taken: what was read, what was expected, how to mend it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import KW_ONLY, dataclass
from difflib import get_close_matches


@dataclass(eq=False)
class BadInput(ValueError):
    """Something typed, pasted or loaded that cannot be taken.

    Attributes:
        read: the text as it stood.
        expected: what would have been understood.
        mend: what the person can do about it.
        field: the name of the field, column or input it stood in, if any.
        instead: what would do in the place of what was read, likeliest first.
    """

    read: str
    expected: str
    mend: str = ""
    _: KW_ONLY
    field: str = ""
    instead: tuple[str, ...] = ()

    def __str__(self) -> str:
        shown = self._shown
        where = f"{self.field}: " if self.field else ""
        what = f"read “{shown}”" if shown else "nothing was given"
        return f"{where}{what}, expected {self.expected}.{' ' + self.mend if self.mend else ''}"

    @property
    def plain(self) -> str:
        """The same in everyday words, for beside a field that says itself what it is."""
        shown = self._shown
        named = f"{self.field}: " if " " in self.field or "," in self.field else ""
        what = f"“{shown}” does not go here" if shown else "Nothing was typed"
        return f"{named}{what}: it takes {self.expected}.{' ' + self.mend if self.mend else ''}"

    @property
    def each(self) -> tuple[BadInput, ...]:
        """This refusal, or all of several."""
        return (self,)

    def about(self, field: str) -> BadInput | None:
        """The refusal of a field or of a line in it; None where it was taken."""
        return next((one for one in self.each if one.field.split(",")[0] == field), None)

    @property
    def _shown(self) -> str:
        """What was read, in one line and no longer than that."""
        text = self.read.replace("\n", " ").replace("\r", " ")
        return text if len(text) <= 60 else text[:57] + "…"

    def within(self, field: str) -> BadInput:
        """The same complaint, naming the field it stood in."""
        return type(self)(self.read, self.expected, self.mend, field=field, instead=self.instead)


class Ambiguous(BadInput):
    """Something typed that can mean several things; `expected` names them."""

    def __str__(self) -> str:
        where = f"{self.field}: " if self.field else ""
        return f"{where}read “{self._shown}”, which can mean {self.expected}.{' ' + self.mend if self.mend else ''}"

    @property
    def plain(self) -> str:
        """The same in everyday words."""
        return f"“{self._shown}” can mean {self.expected}.{' ' + self.mend if self.mend else ''}"


class SeveralRefused(BadInput):
    """What a whole form has to say: as the first of its refusals, and all of them."""

    def __init__(self, each: Iterable[BadInput]) -> None:
        self._each = tuple(each)
        first = self._each[0]
        super().__init__(first.read, first.expected, first.mend, field=first.field, instead=first.instead)

    def __str__(self) -> str:
        return " ".join(map(str, self._each))

    @property
    def each(self) -> tuple[BadInput, ...]:
        """All of them, in the order of the form."""
        return self._each

    @property
    def plain(self) -> str:
        """All of them in everyday words."""
        return " ".join(one.plain for one in self._each)


def put_right(line: str, error: BadInput) -> tuple[str, ...]:
    """The lines that would do in place of a refused one, likeliest first.

    Args:
        line: as it was typed.
        error: its refusal.

    Returns:
        The lines, likeliest first; none where nothing is guessed.

    >>> put_right('C1 1,234u 16V', BadInput('1,234', 'a value', instead=('1234', '1.234')))
    ('C1 1234u 16V', 'C1 1.234u 16V')
    """
    return in_its_place(line, error.read, error.instead)


def in_its_place(line: str, read: str, others: Iterable[str]) -> tuple[str, ...]:
    """A line with each of some other words in the place of those that were read: where a word begins with them, never inside one.

    >>> in_its_place('C104 104 50V', '104', ['100n'])
    ('C104 100n 50V',)
    """
    found = re.search(rf"(?<!\S){re.escape(read)}(?!\d)", line) if read else None
    return tuple(line[: found.start()] + one + line[found.end() :] for one in others) if found else ()


def nearly(word: str, known: Iterable[str]) -> tuple[str, ...]:
    """The words that one was probably meant as, nearest first; three at most.

    >>> nearly('reservor', ('reservoir', 'regulator', 'fuse'))
    ('reservoir',)
    """
    return tuple(get_close_matches(word.lower(), sorted(known), n=3, cutoff=0.65))


def with_units(word: str, *units: str) -> tuple[str, ...]:
    """A bare number with each of some units behind it; nothing where it is no bare number.

    >>> with_units('9', 'V', 'VA'), with_units('9V', 'VA')
    (('9V', '9VA'), ())
    """
    return tuple(f"{word}{unit}" for unit in units) if re.fullmatch(r"\d{1,6}([.,]\d{1,4})?", word) else ()


def lines_put_right(text: str, error: BadInput) -> tuple[tuple[str, str], ...]:
    """The same of several lines: the whole text put right, and the line of it that changed, by the line that the refusal names.

    >>> lines_put_right('bridge 9V\\nbridge 9 25VA', BadInput('9', 'volts', field='line 2', instead=('9V',)))
    (('bridge 9V\\nbridge 9V 25VA', 'bridge 9V 25VA'),)
    """
    lines, at = text.splitlines(), re.search(r"line (\d+)", error.field)
    number = int(at[1]) if at else 1
    if not 1 <= number <= len(lines):
        return ()
    fixed = put_right(lines[number - 1], error)
    return tuple(("\n".join([*lines[: number - 1], line, *lines[number:]]), line) for line in fixed)


def no_longer_than(text: str, most: int, field: str = "") -> str:
    """The text, if it is no longer than what people type there: longer ones are refused before anything looks for words in them.

    Args:
        text: as it was typed.
        most: the most of it.
        field: the name of the field, for the refusal.

    Returns:
        The text.

    Raises:
        BadInput: it is longer.
    """
    if len(text) > most:
        raise BadInput(text[:60], f"at most {most} characters", f"There are {len(text)}.", field=field)
    return text


@dataclass(frozen=True)
class Block:
    """One reason why something may not happen yet, with its numbers and what would open it.

    Attributes:
        rule: short name of the rule that speaks.
        text: the reason in words, numbers included.
        opens: what would make it possible.
    """

    rule: str
    text: str
    opens: str = ""

    def __str__(self) -> str:
        return f"{self.text} {self.opens}".strip()


class Blocked(Exception):
    """A gate is shut: what could not be done, and every reason why, each with what would open it."""

    def __init__(self, title: str, reasons: tuple[Block, ...]) -> None:
        super().__init__(title)
        self.title = title
        self.reasons = reasons
