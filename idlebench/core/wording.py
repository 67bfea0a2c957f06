"""Small words for sentences made of numbers."""

from __future__ import annotations

from collections.abc import Sequence


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
