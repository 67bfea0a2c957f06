"""A time of the day as people type it."""

from __future__ import annotations

import re

from ..refusal import BadInput

_TIME = re.compile(r"(\d{1,2})(?:(?:[:.]|h)(\d{2})?)?\s*(am|pm|a\.m\.|p\.m\.|h|uhr)?", re.I)
_WORDS = {"noon": 12 * 60, "midnight": 0}


def read_time(text: str) -> int:
    """The minute of the day.

    Args:
        text: as it was typed.

    Returns:
        Minutes since midnight.

    Raises:
        BadInput: no time of the day.

    >>> [read_time(t) for t in ('19:00', '7pm', '7:30 pm', '19', '12am', 'noon')]
    [1140, 1140, 1170, 1140, 0, 720]
    """
    said = text.strip().lower()
    if said in _WORDS:
        return _WORDS[said]
    hit = _TIME.fullmatch(said)
    hour, minute, half = (int(hit[1]), int(hit[2] or 0), (hit[3] or "").replace(".", "")) if hit else (24, 0, "")
    if half in ("am", "pm"):
        hour = hour % 12 + 12 * (half == "pm") if 1 <= hour <= 12 else 24
    if hour > 23 or minute > 59:
        raise BadInput(text, "a time of the day, such as 19:00 or 7pm", field="begins")
    return hour * 60 + minute
