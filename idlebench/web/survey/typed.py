"""What is no capacitor on a board: zones, chips, regulators, fuses, batteries. Kept as the lines that were typed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from idlebench.core.board.device_lines import another_winding, on_top, taken_out
from idlebench.core.board.devices import TITLES, Device, read_device
from idlebench.core.board.listing import is_device, kind_of, named
from idlebench.core.board.zones import Zone, is_zone, read_zone
from idlebench.core.prove import interlocks
from idlebench.core.prove.record import HANDS
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.text.rails_and_chips import Chip, chip_line, is_chip, over, read_chip
from idlebench.core.text.stored import canonical

from ..records.models import Board
from ..unit.door import in_unit_transaction, note
from ..unit.log import log
from ..unit.rows import board_id
from ..unit.state import unit_state


@dataclass(frozen=True, kw_only=True)
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
    Field(name="zones", told=is_zone, read=read_zone, write=Zone.as_line, key=Zone.as_line, says=lambda z: z.title),
    Field(
        name="others",
        told=is_device,
        read=read_device,
        write=Device.as_line,
        key=_ref,
        says=lambda o: f"{o.ref}, {o.title}: {o.marked}",
    ),
    Field(
        name="chips",
        told=is_chip,
        read=read_chip,
        write=chip_line,
        key=_ref,
        says=lambda c: f"{c.ref} {c.label}".strip(),
    ),
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
        raise BadInput(text, "a zone, a chip, or a part that is no capacitor", field="line")
    return field.says(field.read(text))


def _with(board: Board, field: Field, text: str, change: bool = False, whole: bool = False) -> str:
    """The field's text with a line added, or laid on top of the one with the same reference; whole: in its place."""
    item = field.read(text)
    kept = []
    lines = getattr(board, field.name).splitlines()
    for line in lines:
        try:
            old = field.read(line)
        except BadInput:
            # a line that an older version kept and this one cannot read stays where it is, and is shown there
            kept.append(line)
            continue
        if field.key(old) == field.key(item) and whole:
            continue
        if field.key(old) == field.key(item):
            if not change and isinstance(item, Device) and isinstance(old, Device):
                refused = another_winding(old, item, [one.split()[0] for one in lines])
                if refused is not None:
                    raise refused
            item = (
                on_top(old, item, " note " in text)
                if isinstance(item, Device)
                else over(old, item)
                if isinstance(item, Chip)
                else item
            )
        else:
            kept.append(line)
    if isinstance(item, Device | Chip) and item.x is not None:
        on_board(board, item.x, item.y)
    return "\n".join([*kept, canonical(field.write(item), field.read, field.write)])


def check_typed(board: Board, text: str) -> None:
    """Refuse a line that could not be written onto a board.

    Raises:
        BadInput: it cannot be read, or stands off the board.
    """
    field = field_of(text)
    item = field.read(text)
    if isinstance(item, Device | Chip):
        on_board(board, item.x, item.y)


def on_board(board: Board, x: float | None, y: float | None) -> None:
    """Refuse a point that is not on a board, mm from its upper left corner.

    Raises:
        BadInput: it names the board's size.
    """
    if x is None or y is None or (0 <= x <= board.width and 0 <= y <= board.height):
        return
    size = f"{board.width:g} × {board.height:g} mm"
    raise BadInput(
        f"{x:g},{y:g}", f"a point on {board.name}, which is {size}", "From its upper left corner.", field="at"
    )


def in_full(board: Board, text: str) -> str:
    """A line with what its part is, where it leaves that out: ``VR1 at 80,90`` speaks of the regulator that is listed, ``R7 2R2`` of a
    resistor.

    Raises:
        BadInput: the line speaks of another thing than the one that is listed under its reference, or of two at once.
    """
    words = text.split(maxsplit=1)
    if len(words) < 2 or is_zone(text):
        return text
    ref = words[0].upper()
    for line in board.others.splitlines():
        listed = line.split()
        if listed[0].upper() == ref and len(listed) > 1:
            return text if is_device(text) else f"{words[0]} {listed[1]} {words[1]}"
    if board.parts.filter(ref=ref).exists():
        if is_device(text):
            raise _taken(ref, "a capacitor", text)
        return text
    if any(line.split()[:1] == [ref] for line in board.chips.splitlines()):
        if is_device(text) or kind_of(text) != "chip":
            raise _taken(ref, "a chip", text)
        return text
    return named(text)


def _taken(ref: str, listed: str, text: str) -> BadInput:
    """The refusal of a line that would make another thing of a listed one."""
    kind = kind_of(f"Z1 {text.split(maxsplit=1)[1]}")
    return BadInput(
        text, f"{ref} as it is listed, {listed}",
        f"A {TITLES.get(kind, kind)} has a reference of its own. If {ref} was listed by mistake, take it "
        "off the list first.", field="ref",
    )  # fmt: skip


@in_unit_transaction("The board cannot be changed")
def add_typed(board: Board, text: str, change: bool = False, whole: bool = False) -> str:
    """Take a line in; says what it was read as.

    Args:
        board: the board's row.
        text: the line.
        change: whether it corrects what is listed, whatever that says.
        whole: whether it stands for all that is listed of its part, so that what it leaves out goes.

    Raises:
        BadInput: it cannot be read, or is a second winding under the reference of the first.
    """
    return write_typed(board, text, change, whole)


def write_typed(board: Board, text: str, change: bool = False, whole: bool = False) -> str:
    """Write a line onto a board whose door is open."""
    text = in_full(board, text)
    field = field_of(text)
    read_typed(text)
    setattr(board, field.name, _with(board, field, text, change, whole))
    board.save(update_fields=[field.name])
    log(board.unit, "survey", f"{board.name}: {text.strip()}")
    # said from what is kept now, not from the line
    key = field.key(field.read(text))
    kept = (field.read(line) for line in getattr(board, field.name).splitlines() if _can_read(field, line))
    return next((field.says(item) for item in kept if field.key(item) == key), "")


def _can_read(field: Field, line: str) -> bool:
    try:
        field.read(line)
    except BadInput:
        return False
    return True


@in_unit_transaction("The board cannot be changed")
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
    raise BadInput(line, f"a line of {board.name}", "It was taken off already.", field="line")


@in_unit_transaction("The board cannot be changed")
def battery_out(board: Board, ref: str) -> None:
    """Log that a leaking battery is out of the machine.

    Raises:
        BadInput: no battery of that name leaks there. Blocked: the unit has power, or a store in reach may be charged.
    """
    if reasons := interlocks.touch(unit_state(board.unit_id).proof, board_id(board.pk)):
        raise Blocked(f"{ref} stays in for now", reasons)
    lines, found = [], ""
    for line in board.others.splitlines():
        try:
            part = read_device(line)
        except BadInput:
            lines.append(line)
            continue
        if part.ref == ref and part.leaks:
            found, line = part.ref, taken_out(part).as_line()
        lines.append(line)
    if not found:
        raise BadInput(ref, f"a battery on {board.name} that leaks", field="ref")
    board.others = "\n".join(lines)
    board.save(update_fields=["others"])
    note(board.unit, HANDS, timezone.now(), board=board_id(board.pk), words=f"{board.name}: {ref} out")
    log(board.unit, "intake", f"{board.name}: {ref} is out. Look for its fluid on the traces round it.")
