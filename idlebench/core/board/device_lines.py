"""Lines of parts that are no capacitors: what is asked about them, and what a later line changes.

Source: volts within 2 % are one winding: workshop practice, because labels are rounded.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from dataclasses import fields, replace

from ..refusal import BadInput
from ..text.quantity import show
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


#: Volts nearer than this are those of one winding, read or typed again.
SAME_WINDING = 0.02


def another_winding(before: Device, line: Device, listed: Collection[str]) -> BadInput | None:
    """The refusal of a line that would put a second winding in the place of the first, with a reference of its own for it.

    Args:
        before: the winding that is listed.
        line: what was typed under the same reference.
        listed: references that are in use on the board.

    Returns:
        The refusal; None where the line speaks of the same winding.

    >>> from idlebench.core.board.devices import read_device
    >>> one, two = read_device('T1 winding 9V 1.5A'), read_device('T1 winding 12V 0.5A')
    >>> another_winding(one, two, ('T1',)).instead, another_winding(one, one, ('T1',))
    (('T1B',), None)
    """
    if before.what != "winding" or line.what != "winding" or not before.volts or not line.volts:
        return None
    if abs(line.volts - before.volts) <= SAME_WINDING * before.volts:
        return None
    letters = (f"{line.ref}{letter}" for letter in "BCDEFGH" if f"{line.ref}{letter}" not in listed)
    return BadInput(
        line.ref,
        f"a winding that is not listed yet: {line.ref} is listed with {show(before.volts, 'V')}",
        "Another winding of it has a letter of its own. If the first was typed wrong, correct it.",
        field="ref",
        instead=tuple(letters)[:1],
    )


def on_top(before: Device, line: Device, anew: bool = False) -> Device:
    """What a later line says on top of an earlier one of the same part: what it leaves out stays as it was.

    Args:
        before: what stood or was read before, None for nothing.
        line: a typed line.
        anew: whether its words take the place of the earlier ones, for they stand after “note”; else they are kept beside them.

    Returns:
        The part with both lines on it.

    Raises:
        BadInput: it makes another kind of part of it.

    >>> from idlebench.core.board.devices import read_device
    >>> on_top(read_device('BT1 battery 3.6V at 10,20'), read_device('BT1 battery leaking')).as_line()
    'BT1 battery 3.6V leaking at 10,20'
    """
    if before.what != line.what:
        raise BadInput(
            line.ref, f"a {TITLES[before.what]}, which {line.ref} is listed as", "Take that off first.", field="ref"
        )
    said = {f.name: getattr(line, f.name) for f in fields(Device) if getattr(line, f.name) not in (None, "", ())}
    if line.reads:
        kept = {one.what: one for one in before.reads} | {one.what: one for one in line.reads}
        said["reads"], said["lifted"] = tuple(kept.values()), line.lifted
    if before.note and line.note and not anew:
        # words are kept beside words, but for what they say otherwise now
        kept = before.note if line.charged is None else " ".join(_CHARGED.sub("", before.note).split())
        new = [word for word in line.note.split() if word not in kept.split()]
        said["note"] = " ".join(filter(None, [kept, *new]))[:400]
    return replace(before, **said)


def taken_out(part: Device) -> Device:
    """A battery once it is out of the machine."""
    return replace(part, looks="missing", note="; ".join(filter(None, [part.note, f"taken out, was {part.looks}"])))
