"""The one small reader of form fields: words, one of some words, numbers with units, whole numbers.

A field that cannot be read is told by its name, what was read and what was expected; django.forms would tell less of that, and
knows no 4u7.
"""

from __future__ import annotations

from collections.abc import Mapping

from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read


def words(typed: Mapping[str, str], name: str, title: str, longest: int, *, required: bool = False) -> str:
    """A text field, held to its length."""
    text = str(typed.get(name, "")).strip()
    if required and not text:
        raise BadInput("", title, "", name)
    if len(text) > longest:
        raise BadInput(text, f"at most {longest} characters", "", name)
    return text


def option(typed: Mapping[str, str], name: str, allowed: Mapping[str, object] | tuple[str, ...], default: str) -> str:
    """One of some words."""
    text = str(typed.get(name) or default)
    if text not in allowed:
        raise BadInput(text, f"one of {', '.join(allowed)}", "", name)
    return text


def number(typed: Mapping[str, str], name: str, unit: str, **bounds: float) -> float | None:
    """A value, or None where the field is empty."""
    text = str(typed.get(name) or "").strip()
    return read(text, unit, field=name, **bounds) if text else None


def whole(typed: Mapping[str, str], name: str, low: int, high: int) -> int | None:
    value = number(typed, name, "", low=low, high=high)
    if value is not None and value != int(value):
        raise BadInput(str(typed[name]), "a whole number", "", name)
    return None if value is None else int(value)
