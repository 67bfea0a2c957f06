"""Lines of parts that are no capacitors: what is asked about them, and what a later line changes."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import fields, replace

from ..refusal import BadInput
from .devices import TITLES, Device


def doubts(part: Device) -> tuple[str, ...]:
    """What is asked about it, because it was not told."""
    asked = []
    if part.what == "fuse":
        if part.current is None:
            asked.append("which current is marked?")
        if not part.characteristic:
            asked.append("fast (F) or time-lag (T)?")
        if part.volts is None:
            asked.append("which volts are marked?")
    elif part.what == "regulator" and part.volts is None:
        asked.append("which type, such as 7805, or which volts?")
    elif part.what == "winding" and part.current is None:
        asked.append("which current?")
    elif part.what == "bleeder" and not part.ohms:
        asked.append("how many ohms, such as 1M?")
    elif part.what == "varistor" and part.volts is None:
        asked.append("which AC volts does it stand, such as 275V~?")
    elif part.what in ("winding", "battery", "diode") and part.volts is None and "bridge" not in part.note:
        asked.append("which volts?")
    return tuple(asked)


def first_out(parts: Iterable[Device]) -> tuple[Device, ...]:
    """Batteries that leak: they come out before anything else is done."""
    return tuple(p for p in parts if p.leaks)


_CHARGED = re.compile(r"\b(?:(?:not|never) )?charged\b|\buncharged\b")


def on_top(before: Device, line: Device, anew: bool = False) -> Device:
    """What a later line says on top of an earlier one of the same part: what it leaves out stays as it was.

    Args:
        anew: whether its words take the place of the earlier ones, for they stand after “note”; else they are kept beside them.

    Raises:
        BadInput: it makes another kind of part of it.

    >>> on_top(read_device('BT1 battery 3.6V at 10,20'), read_device('BT1 battery leaking')).as_line()
    'BT1 battery 3.6V leaking at 10,20'
    """
    if before.what != line.what:
        raise BadInput(
            line.ref, f"a {TITLES[before.what]}, which {line.ref} is listed as", "Take that off first.", field="ref"
        )
    said = {f.name: getattr(line, f.name) for f in fields(Device) if getattr(line, f.name) not in (None, "")}
    if before.note and line.note and not anew:
        # words are kept beside words, but for what they say otherwise now
        kept = before.note if line.charged is None else " ".join(_CHARGED.sub("", before.note).split())
        new = [word for word in line.note.split() if word not in kept.split()]
        said["note"] = " ".join(filter(None, [kept, *new]))[:400]
    return replace(before, **said)


def taken_out(part: Device) -> Device:
    """A battery once it is out of the machine."""
    return replace(part, looks="missing", note="; ".join(filter(None, [part.note, f"taken out, was {part.looks}"])))
