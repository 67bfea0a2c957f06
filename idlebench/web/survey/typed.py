"""What is no capacitor on a board: zones, chips, regulators, fuses, batteries. Kept as the lines that were typed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from idlebench.core.board.devices import Device, is_device, on_top, read_device, taken_out
from idlebench.core.board.zones import Zone, is_zone, read_zone
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import chip_line, is_chip, read_chip

from ..records.models import Board
from ..unit.door import inside
from ..unit.log import log


@dataclass(frozen=True)
class Field:
    """A text field of a board, how one of its lines is told, read and written, and what two lines may not share."""

    name: str
    told: Callable[[str], bool]
    read: Callable[[str], Any]
    write: Callable[[Any], str]
    key: Callable[[Any], str]
    says: Callable[[Any], str]


def _ref(item: Any) -> str:
    return item.ref


FIELDS = (
    Field("zones", is_zone, read_zone, Zone.as_line, Zone.as_line, lambda z: z.title),
    Field("others", is_device, read_device, Device.as_line, _ref, lambda o: f"{o.ref}, {o.title}: {o.marked}"),
    Field("chips", is_chip, read_chip, chip_line, _ref, lambda c: f"{c.ref} {c.label}".strip()),
)


def field_of(text: str) -> Field | None:
    """The field a typed line belongs to; None where it speaks of a capacitor."""
    return next((f for f in FIELDS if f.told(text)), None)


def read_typed(text: str) -> str:
    """What a line of these was read as, in words.

    Raises:
        BadInput: it cannot be read.
    """
    field = field_of(text)
    if field is None:
        raise BadInput(text, "a zone, a chip, or a part that is no capacitor", "", "line")
    return field.says(field.read(text))


def _with(board: Board, field: Field, text: str) -> str:
    """The field's text with a line added, or laid on top of the one with the same reference."""
    item = field.read(text)
    kept = []
    for line in getattr(board, field.name).splitlines():
        old = field.read(line)
        if field.key(old) == field.key(item):
            item = on_top(old, item) if isinstance(item, Device) else item
        else:
            kept.append(line)
    return "\n".join([*kept, field.write(item)])


@inside("The board cannot be changed")
def add_typed(board: Board, text: str) -> str:
    """Take a line in; says what it was read as.

    Raises:
        BadInput: it cannot be read.
    """
    return write_typed(board, text)


def write_typed(board: Board, text: str) -> str:
    """Write a line onto a board whose door is open."""
    field = field_of(text)
    said = read_typed(text)
    setattr(board, field.name, _with(board, field, text))
    board.save(update_fields=[field.name])
    log(board.unit, "survey", f"{board.name}: {text.strip()}")
    return said


@inside("The board cannot be changed")
def drop_typed(board: Board, line: str) -> None:
    """Take a line off the board. It stays in the log, and the page keeps it in its box.

    Raises:
        BadInput: the board has no such line.
    """
    for field in FIELDS:
        lines = getattr(board, field.name).splitlines()
        if line in lines:
            lines.remove(line)
            setattr(board, field.name, "\n".join(lines))
            board.save(update_fields=[field.name])
            log(board.unit, "survey", f"{board.name}: taken off, {line}")
            return
    raise BadInput(line, f"a line of {board.name}", "It was taken off already.", "line")


@inside("The board cannot be changed")
def battery_out(board: Board, ref: str) -> None:
    """Log that a leaking battery is out of the machine.

    Raises:
        BadInput: no battery of that name leaks there.
    """
    lines, found = [], ""
    for line in board.others.splitlines():
        part = read_device(line)
        if part.ref == ref and part.leaks:
            found, line = part.ref, taken_out(part).as_line()
        lines.append(line)
    if not found:
        raise BadInput(ref, f"a battery on {board.name} that leaks", "", "ref")
    board.others = "\n".join(lines)
    board.save(update_fields=["others"])
    log(board.unit, "intake", f"{board.name}: {ref} is out. Its fluid is looked for on the traces round it.")
