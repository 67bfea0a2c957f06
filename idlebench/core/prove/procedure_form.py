"""A procedure as a person changes it: the rows of its form, and times as they are typed and told."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any

from ..plan.schedule import DAY
from ..refusal import BadInput
from .procedures import Procedure, procedure_from, read_limit


def edited(old: Procedure, title: str, about: str, rows: Iterable[Mapping[str, str]]) -> Procedure:
    """A procedure as typed in its form; its steps keep their shape, and rows without text are left out.

    Args:
        old: what stands there.
        title: what it is called.
        about: what it is made for: a key of OF.
        rows: of each step, as typed: text, minutes, wait, after, occupies, needs, caution, check, dries.

    Returns:
        The procedure as it stands now.

    Raises:
        BadInput: naming the step and the field.
    """
    steps: list[dict[str, Any]] = []
    kept = [row for row in rows if row.get("text", "").strip()]
    for number, row in enumerate(kept, 1):
        try:
            limit = read_limit(row.get("check", ""))
            told: dict[str, Any] = {
                "text": row["text"], "minutes": minutes_of(row.get("minutes", "")), "wait": minutes_of(row.get("wait", "")),
                "dries": bool(row.get("dries")), **{n: row.get(n, "") for n in ("occupies", "needs", "caution")},
            }  # fmt: skip
            if row.get("after", "").strip():
                told["after"] = _numbers(row["after"])
            if limit:
                told["check"] = {"kind": limit.kind, "low": limit.low, "high": limit.high}
        except BadInput as error:
            raise error.within(f"step {number}, {error.field}") from None
        steps.append(told)
    data = {**old.as_data(), "title": title, "about": about, "steps": steps}
    return replace(procedure_from(data), revision=old.revision + 1)


def _numbers(text: str) -> list[int]:
    if text.strip().lower() in ("none", "-", "nothing"):
        return []
    words = re.split(r"[,\s]+", text.strip())
    if not all(re.fullmatch(r"\d{1,3}", word) for word in words):
        raise BadInput(text, "numbers of steps such as 1, 2; or none", field="after")
    return [int(word) for word in words]


def minutes_of(text: str) -> int:
    """Minutes as typed: ``90``, ``24 h``, ``3 d``.

    Args:
        text: as it was typed.

    Returns:
        Minutes.

    Raises:
        BadInput: not a time.

    >>> minutes_of('24 h'), minutes_of('90'), minutes_of('')
    (1440, 90, 0)
    """
    said = text.strip().lower()
    if not said:
        return 0
    hit = re.fullmatch(r"(\d{1,5}(?:[.,]\d{1,2})?)\s*(m|min|h|d)?", said)
    if not hit:
        raise BadInput(text, "minutes, or a time such as 24 h or 3 d", field="minutes")
    number = float(hit[1].replace(",", ".")) * {"h": 60, "d": DAY}.get(hit[2] or "min", 1)
    if number != int(number):
        raise BadInput(text, "whole minutes", field="minutes")
    return int(number)


def time_words(minutes: int) -> str:
    """Minutes as people say and type them.

    >>> time_words(1440), time_words(90), time_words(120), time_words(45)
    ('1 d', '90 min', '2 h', '45 min')
    """
    if minutes and minutes % DAY == 0:
        return f"{minutes // DAY} d"
    return f"{minutes // 60} h" if minutes and minutes % 60 == 0 else f"{minutes} min"


def lasting(minutes: int) -> str:
    """How long something lasts, for people.

    >>> lasting(45), lasting(1515), lasting(2932)
    ('45 min', '25 h 15 min', '2 d 52 min')
    """
    if minutes < 120:
        return f"{minutes} min"
    days, rest = divmod(minutes, DAY) if minutes >= 2 * DAY else (0, minutes)
    hours, left = divmod(rest, 60)
    bits = ((days, "d"), (hours, "h"), (left, "min"))
    return " ".join(f"{number} {unit}" for number, unit in bits if number)
