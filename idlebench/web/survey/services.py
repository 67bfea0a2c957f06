"""Listing parts, placing them, and taking surveys in and out. Each service is one transaction."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.utils import timezone

from idlebench.core.board.copies import copy_row
from idlebench.core.board.listing import only_capacitor
from idlebench.core.board.odd_values import odd_value
from idlebench.core.board.parts import SIDES, Fitted, read_looks
from idlebench.core.board.placement import is_placement, read_placement
from idlebench.core.board.quickline import QuickLine, read_line, sections
from idlebench.core.board.tables import TableParts, describe, read_survey
from idlebench.core.judge.verdict import may_override
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import Problem, decode
from idlebench.core.text.dates import year_of
from idlebench.core.text.nets import Nets, read_nets, wire, write_nets
from idlebench.core.text.quantity import read as read_quantity
from idlebench.core.text.rails_and_chips import chip_line, read_chip
from idlebench.core.text.stored import read_lines
from idlebench.core.wording import many, on_screen

from ..records.models import Board, Part
from ..unit.door import in_unit_transaction
from ..unit.log import log
from ..unit.series import save_part
from .typed import check_typed, field_of, in_full, on_board, write_typed

#: More lines than this in one paste are refused.
MAX_LINES = 2000


def find_before(board: Board, line: QuickLine, *, change: bool = False) -> Part | None:
    """The part a line speaks of, if the board lists it. change: whether the line may give it another value.

    Raises:
        BadInput: the line gives a value for a reference that is listed already.
    """
    row = Part.objects.filter(board=board, ref=line.ref).first()
    if row and line.has_value and not change:
        raise BadInput(
            line.ref,
            f"a new reference; {line.ref} is listed as {describe(row.to_core())}",
            f"To add a reading, leave the value out: {line.ref} esr 6.8. To correct its value, select it and "
            "type there.",
            field="ref",
        )
    if row is None and not line.has_value:
        raise BadInput(
            line.ref,
            f"a value, since {line.ref} is not listed yet",
            f"Write {line.ref} 100u 10V, for example.",
            field="value",
        )
    return row


def unchanged(part: Part, seen: str) -> None:
    """Refuse a change to a part that was changed elsewhere since its page was opened.

    Args:
        seen: the version the page showed; "" where the sender did not look at one.

    Raises:
        BadInput: it says what stands there now.
    """
    if not seen or seen == str(part.version):
        return
    now = part.to_core()
    facts = [describe(now), f"looks {now.looks}" if now.looks else "", f"ESR {now.esr:g} Ω" if now.esr else ""]
    where = f" at {now.x:g},{now.y:g} mm" if now.x is not None and now.y is not None else ""
    raise BadInput(
        f"{part.ref} as it was",
        f"{part.ref} as it stands now: {', '.join(filter(None, facts))}{where}",
        "It was changed in another window meanwhile. Nothing of yours was written; check it, and send it "
        "again if it still holds.",
        field="ref",
    )


@in_unit_transaction("The survey cannot be changed")
def add_line(board: Board, text: str, *, change: bool = False, seen: str = "") -> Part:
    """Add a part, or what was seen of one, from a typed line; with change, correct one that is listed."""
    added = [_add(board, one, change, seen) for one in sections(text) or (text,)]
    return added[0]


def asked_about(line: QuickLine, fitted: Fitted, text: str = "") -> None:
    """Refuse a typed value that no part of its kind is made in, unless it is said to be meant.

    Raises:
        BadInput: it says why, and how to keep it all the same.
    """
    if line.has_value and not line.sure and (odd := odd_value(fitted.value, fitted.kind)):
        raise BadInput(
            text or line.ref,
            f"a value that {'an' if fitted.kind == 'wet' else 'a'} {on_screen(fitted.kind)} part has, and {odd}",
            f"If it is right, add the word sure: {line.ref} … sure.",
            field="value",
            instead=(f"{text} sure",) if text else (),
        )


def _add(board: Board, text: str, change: bool, seen: str) -> Part:
    line = read_line(text)
    row = find_before(board, line, change=change)
    if row:
        unchanged(row, seen)
    else:
        only_capacitor(text)
    fitted = line.part(row.to_core() if row else None)
    asked_about(line, fitted, text)
    if "x" in line.changes:
        on_board(board, fitted.x, fitted.y)
    part = row or Part(board=board)
    part.take(fitted)
    save_part(part)
    log(board.unit, "survey", f"{board.name} {part.ref}: {text.strip()}"[:600])
    return part


@dataclass(frozen=True)
class Pasted:
    """What a paste gave: how many went in, and the lines that did not, with their reasons."""

    added: int
    left: list[tuple[int, str, str]]


@in_unit_transaction("The survey cannot be changed")
def paste(board: Board, text: str, *, good_rows: bool) -> Pasted:
    """Take many typed lines. Nothing goes in unless all can, or the good ones are asked for."""
    lines = [(i, line) for i, line in enumerate(text.splitlines(), 1) if line.strip()]
    if lines and "\t" in lines[0][1] and is_placement(lines[0][1].split("\t")):
        # a part list copied from a page or a spreadsheet comes with its headings
        return _paste_table(board, text, good_rows=good_rows)
    if not lines:
        raise BadInput("", "one part a line, such as C22 100u 10V 6.3x11", field="paste")
    if len(lines) > MAX_LINES:
        raise BadInput(f"{len(lines)} lines", f"at most {MAX_LINES}", "Paste them in parts.", field="paste")
    known = {p.ref: p for p in board.parts.all()}
    good, others, left = [], [], []
    lines = [(number, one) for number, typed in lines for one in sections(typed) or (typed,)]
    for number, typed in lines:
        try:
            if field_of(full := in_full(board, typed)):
                check_typed(board, full)
                others.append(typed)
                continue
            line = read_line(typed)
            if line.ref not in known:
                only_capacitor(typed)
            if line.ref in known and line.has_value:
                raise BadInput(
                    line.ref, f"a new reference; {line.ref} is listed already or in a line above", field="ref"
                )
            row = known.get(line.ref) or Part(board=board, ref=line.ref)
            if "x" in line.changes:
                on_board(board, line.changes["x"], line.changes["y"])
            fitted = line.part(row.to_core() if row.value is not None else None)
            asked_about(line, fitted)
            row.take(fitted)
            known[line.ref] = row
            good.append(row)
        except BadInput as error:
            left.append((number, typed, str(error)))
    if left and not good_rows:
        return Pasted(0, left)
    for row in good:
        save_part(row)
    for typed in others:
        write_typed(board, typed)
    if good:
        log(board.unit, "survey", f"{board.name}: {many(len(good), 'line')} pasted.")
    return Pasted(len(good) + len(others), left)


def _paste_table(board: Board, text: str, *, good_rows: bool) -> Pasted:
    loaded = _load(board, text.strip().encode(), good_rows=good_rows)
    lines = text.strip().splitlines()
    left = [(p.line, lines[p.line - 1] if 0 < p.line <= len(lines) else p.text, p.complaint) for p in loaded.problems]
    return Pasted(loaded.added + loaded.changed, left)


@dataclass(frozen=True)
class Loaded:
    """What a survey file gave."""

    added: int
    changed: int
    problems: list[Problem]
    rows: int


def _read(data: bytes) -> TableParts:
    """A survey of our own, or a table of others that is read as one."""
    first = decode(data).lstrip("\ufeff\n\r ").partition("\n")[0]
    header = first.split(max(",;\t", key=first.count))
    return read_placement(data).read if is_placement([name.strip(' "') for name in header]) else read_survey(data)


def _is_on(board: Board, part: Fitted) -> bool:
    return 0 <= part.x <= board.width and 0 <= part.y <= board.height


@in_unit_transaction("The survey cannot be changed")
def load_csv(board: Board, data: bytes, *, good_rows: bool) -> Loaded:
    """Take a survey CSV in, or the placement table of a board editor; parts listed already are brought up to date. Nothing
    goes in unless all can, or good_rows."""
    return _load(board, data, good_rows=good_rows)


def _load(board: Board, data: bytes, *, good_rows: bool) -> Loaded:
    found = _read(data)
    off = [p for p in found.parts if p.x is not None and p.y is not None and not _is_on(board, p)]
    if off:
        size = f"{board.width:g} × {board.height:g} mm"
        told = [Problem(0, "x", f"{p.ref} at {p.x:g},{p.y:g}", f"not on {board.name}, which is {size}") for p in off]
        parts = tuple(p for p in found.parts if p not in off)
        found = replace(found, parts=parts, problems=(*found.problems, *told))
    listed = {p.ref: p for p in board.parts.all()}
    found = _devices_that_go(board, found, set(listed))
    if found.problems and not good_rows:
        return Loaded(0, 0, list(found.problems), len(found.parts) + len(found.devices))
    known = listed
    for part in found.parts:
        row = known.get(part.ref) or Part(board=board)
        row.take(part)
        save_part(row)
    before = {line.split()[0] for line in board.others.splitlines()}
    for device in found.devices:
        write_typed(board, device.as_line(), change=True, whole=True)
    changed = sum(p.ref in known for p in found.parts) + sum(d.ref in before for d in found.devices)
    count = len(found.parts) + len(found.devices)
    if count:
        log(board.unit, "survey", f"{board.name}: {many(count, 'part')} from a table.")
    return Loaded(count - changed, changed, list(found.problems), count)


def _devices_that_go(board: Board, found: TableParts, parts: set[str]) -> TableParts:
    """A table without the parts that could not be written onto the board, each of which becomes a problem."""
    good, told = [], []
    for device in found.devices:
        try:
            if device.ref in parts:
                raise BadInput(
                    device.ref, f"{device.ref} as it is listed, a capacitor", "Take it off the list first.", field="ref"
                )
            in_full(board, line := device.as_line())
            check_typed(board, line)
            good.append(device)
        except BadInput as error:
            told.append(Problem(0, error.field or "ref", device.ref, str(error)))
    return replace(found, devices=tuple(good), problems=(*found.problems, *told))


@in_unit_transaction("The survey cannot be changed")
def place(part: Part, x: float, y: float, *, side: str = "parts", seen: str = "") -> None:
    """Put a part at x, y (mm) on its board, as that side is seen; off the board it goes back to the tray.

    Raises:
        BadInput: not a side, or the part was changed meanwhile.
    """
    unchanged(part, seen)
    if side not in SIDES:
        raise BadInput(side, f"one of {', '.join(SIDES)}", field="side")
    board = part.board
    on = 0 <= x <= board.width and 0 <= y <= board.height
    if side == "solder":
        x = board.width - x
    part.x, part.y = (round(x, 2), round(y, 2)) if on else (None, None)
    if on:
        part.side = side
    save_part(part)


@in_unit_transaction("The survey cannot be changed")
def turn(part: Part, seen: str = "") -> None:
    """Turn a part a quarter clockwise."""
    unchanged(part, seen)
    part.angle = (part.angle + 90) % 360
    save_part(part)


@in_unit_transaction("The survey cannot be changed")
def look(part: Part, looks: str, seen: str = "") -> None:
    """Say how a part looks; saying the same again takes it back."""
    unchanged(part, seen)
    looks = read_looks(looks)
    part.looks = "" if part.looks == looks else looks
    save_part(part)
    log(part.board.unit, "survey", f"{part.board.name} {part.ref} looks {part.looks or 'not judged'}.")


@in_unit_transaction("The survey cannot be changed")
def copy(part: Part, text: str) -> list[Part]:
    """Copy a part along a row, as typed: ``7 to 222,101``, how many more and where the last one stands.

    Raises:
        BadInput: it cannot be read, or the part has no place.
    """
    count, _, place = text.lower().partition(" to ")
    x, _, y = place.strip().partition(",")
    if not count.strip().isdecimal() or len(count.strip()) > 4:
        raise BadInput(text, "how many more and the place of the last, such as 7 to 222,101", field="copy")
    board = part.board
    last = (
        read_quantity(x, "mm", field="copy", low=0, high=board.width),
        read_quantity(y, "mm", field="copy", low=0, high=board.height),
    )
    taken = set(board.parts.values_list("ref", flat=True))
    rows = []
    for fitted in copy_row(part.to_core(), int(count), last, taken):
        row = Part(board=board)
        row.take(fitted)
        save_part(row)
        rows.append(row)
    log(board.unit, "survey", f"{board.name}: {part.ref} copied to {', '.join(r.ref for r in rows)}.")
    return rows


@in_unit_transaction("The survey cannot be changed")
def override(part: Part, verdict: str, reason: str, seen: str = "") -> None:
    """Judge a part by hand, with a reason; with no verdict, the evidence judges again.

    Raises:
        BadInput: not a verdict, no reason, or damage that is plain to see.
    """
    unchanged(part, seen)
    reason = reason.strip()
    if verdict:
        if len(reason) > 300:
            raise BadInput(reason, "at most 300 characters", field="reason")
        made = year_of(part.date, part.board.unit.job.made)
        may_override(part.to_core(), verdict, reason, timezone.localdate().year, made)
    part.by_hand, part.by_hand_reason = verdict, reason if verdict else ""
    save_part(part)
    said = f"judged {verdict} by hand: {reason}" if verdict else "judged by its evidence again"
    log(part.board.unit, "survey", f"{part.board.name} {part.ref} {said}.")


@in_unit_transaction("The survey cannot be changed")
def load_nets(board: Board, data: bytes, *, good_rows: bool) -> Nets | tuple[str, ...]:
    """Take nets in: pins to test for the chips, a rail for each part that has none. The nets, if they have problems
    and the good rows were not asked for; else what was learned, in words.

    Raises:
        BadInput: neither of the formats that are read.
    """
    nets = read_nets(data)
    if nets.problems and not good_rows:
        return nets
    parts = {p.ref: p for p in board.parts.all()}
    chips, unread = read_lines(board.chips, "chips", read_chip)
    wired = wire(nets, list(chips), parts)
    board.chips = "\n".join([*(chip_line(chip) for chip in wired.chips), *(one.line for one in unread)])
    board.nets = write_nets(nets.nodes)
    board.save(update_fields=["chips", "nets"])
    for ref, rail in wired.rails.items():
        part = parts[ref]
        if not part.rail:
            part.rail = rail.replace(" ", "")
            save_part(part)
    log(board.unit, "survey", f"{board.name}: {', '.join(wired.said)}.")
    return wired.said
