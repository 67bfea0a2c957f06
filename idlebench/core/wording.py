"""Small words for sentences made of numbers."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

#: Words of files and records that the screen calls by their name in the field.
ON_SCREEN = {
    "wet": "electrolytic",
    "wet electrolytic": "electrolytic",
    "look twice": "check first",
    "way up": "power-up method",
    "fuse gone": "fuse blown",
    "fuse gone again": "fuse blown again",
    "fuse whole": "fuse good",
    "output store": "output capacitor",
    "start store": "start capacitor",
}


def on_screen(word: str) -> str:
    """A word of a file or record as people read it; other words as they are.

    >>> on_screen("wet"), on_screen("film")
    ('electrolytic', 'film')
    """
    return ON_SCREEN.get(word, word)


def many(count: int, word: str) -> str:
    """A count with its word.

    >>> many(1, 'plug'), many(3, 'plug')
    ('1 plug', '3 plugs')
    """
    return f"{count} {word}{'' if count == 1 else 's'}"


def listed(words: Sequence[str]) -> str:
    """Words with commas and a last “and”.

    >>> listed(['a', 'b', 'c'])
    'a, b and c'
    """
    return f"{', '.join(words[:-1])} and {words[-1]}" if len(words) > 1 else "".join(words)


def in_columns(rows: Iterable[Sequence[object]]) -> str:
    """Rows as text, each column as wide as its widest cell.

    >>> in_columns([("A", 10), ("BB", 2)])
    'A   10\\nBB  2'
    """
    cells = [[str(cell) for cell in row] for row in rows]
    widths = [max(map(len, column)) for column in zip(*cells, strict=True)] if cells else []
    return "\n".join("  ".join(f"{c:<{w}}" for c, w in zip(row, widths, strict=True)).rstrip() for row in cells)
