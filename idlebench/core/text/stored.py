"""Typed lines that are kept as text: stored only as they can be read again, and read without one bad line hiding the others."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import TypeVar

from ..refusal import BadInput

T = TypeVar("T")
#: Longer texts are not looked at.
MOST = 100_000


@dataclass(frozen=True)
class Unread:
    """A stored line that cannot be read: where it stands, what it says, and why. field: as people call it."""

    field: str
    line: str
    why: str


def canonical(line: str, read: Callable[[str], T], write: Callable[[T], str]) -> str:
    """A line in the one way of writing it, once that reads back as the same.

    Args:
        line: as typed. read, write: from text and to text.
        read: reads a line.
        write: writes a line.

    Returns:
        The line.

    Raises:
        BadInput: it cannot be read; or what it was read as cannot be written so that it reads back.
    """
    text = write(read(line))
    try:
        again = write(read(text))
    except BadInput as error:
        raise BadInput(
            line.strip(), f"a line that can be saved, and “{text}” could not be read back", str(error)
        ) from None
    if again != text:
        raise BadInput(line.strip(), "a line with one meaning", f"It was read as “{text}”, and that as “{again}”.")
    return text


@lru_cache(maxsize=1024)
def read_lines(text: str, field: str, read: Callable[[str], T]) -> tuple[tuple[T, ...], tuple[Unread, ...]]:
    """Every stored line that can be read, and those that cannot; remembered, for the same lines are read again and again."""
    found, unread = [], []
    if len(text) > MOST:
        return (), (Unread(field, text[:200], f"There are {len(text)} characters, at most {MOST} are read."),)
    for line in filter(None, map(str.strip, text.splitlines())):
        try:
            found.append(read(line))
        except BadInput as error:
            unread.append(Unread(field, line, str(error)))
    return tuple(found), tuple(unread)
