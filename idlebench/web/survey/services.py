"""Listing parts, placing them, and taking surveys in and out. Each service is one transaction."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction

from idlebench.core.csvtable import Problem
from idlebench.core.parts import FITTED_FIELDS, LOOKS, Fitted
from idlebench.core.quickline import QuickLine, read_line
from idlebench.core.refusal import BadInput
from idlebench.core.tables import describe, read_survey

from ..jobs.models import Board
from ..ledger.services import log
from .models import Part

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
            f"To add to it, leave the value out: {line.ref} esr 6.8. To correct its value, select it and type there.",
            "ref",
        )
    if row is None and not line.has_value:
        raise BadInput(
            line.ref,
            f"a value, since {line.ref} is not listed yet",
            f"Write {line.ref} 100u 10V, for example.",
            "value",
        )
    return row


@transaction.atomic
def add_line(board: Board, text: str, *, change: bool = False) -> Part:
    """Add a part, or what was seen of one, from a typed line; with change, correct one that is listed."""
    line = read_line(text)
    row = find_before(board, line, change=change)
    fitted = line.part(row.to_core() if row else None)
    part = row or Part(board=board)
    part.take(fitted)
    part.save()
    log(board.unit, "survey", f"{board.name} {part.ref}: {text.strip()}"[:600])
    return part


@dataclass(frozen=True)
class Pasted:
    """What a paste gave: how many went in, and the lines that did not, with their reasons."""

    added: int
    left: list[tuple[int, str, str]]


@transaction.atomic
def paste(board: Board, text: str, *, good_rows: bool) -> Pasted:
    """Take many typed lines. Nothing goes in unless all can, or the good ones are asked for."""
    lines = [(i, line) for i, line in enumerate(text.splitlines(), 1) if line.strip()]
    if not lines:
        raise BadInput("", "one part a line, such as C22 100u 10V 6.3x11", "", "paste")
    if len(lines) > MAX_LINES:
        raise BadInput(f"{len(lines)} lines", f"at most {MAX_LINES}", "Paste them in parts.", "paste")
    known = {p.ref: p for p in board.parts.all()}
    good, left = [], []
    for number, typed in lines:
        try:
            line = read_line(typed)
            if line.ref in known and line.has_value:
                raise BadInput(line.ref, f"a new reference; {line.ref} is listed already or stands above", "", "ref")
            row = known.get(line.ref) or Part(board=board, ref=line.ref)
            row.take(line.part(row.to_core() if row.value is not None else None))
            known[line.ref] = row
            good.append(row)
        except BadInput as error:
            left.append((number, typed, str(error)))
    if left and not good_rows:
        return Pasted(0, left)
    for row in good:
        row.save()
    if good:
        log(board.unit, "survey", f"{board.name}: {len(good)} lines pasted.")
    return Pasted(len(good), left)


@dataclass(frozen=True)
class Loaded:
    """What a survey file gave."""

    added: int
    changed: int
    problems: list[Problem]
    rows: int


@transaction.atomic
def load_csv(board: Board, data: bytes, *, good_rows: bool) -> Loaded:
    """Take a survey CSV in; parts listed already are brought up to date. Nothing goes in unless all can, or good_rows."""
    found = read_survey(data)
    if found.problems and not good_rows:
        return Loaded(0, 0, list(found.problems), len(found.parts))
    known = {p.ref: p for p in board.parts.all()}
    for part in found.parts:
        row = known.get(part.ref) or Part(board=board)
        row.take(part)
        row.save()
    changed = sum(p.ref in known for p in found.parts)
    if found.parts:
        log(board.unit, "survey", f"{board.name}: {len(found.parts)} parts from a table.")
    return Loaded(len(found.parts) - changed, changed, list(found.problems), len(found.parts))


@transaction.atomic
def place(part: Part, x: float, y: float) -> None:
    """Put a part at x, y (mm) on its board; off the board it goes back to the tray."""
    board = part.board
    on = 0 <= x <= board.width and 0 <= y <= board.height
    part.x, part.y = (round(x, 2), round(y, 2)) if on else (None, None)
    part.save()


@transaction.atomic
def turn(part: Part) -> None:
    """Turn a part a quarter clockwise."""
    part.angle = (part.angle + 90) % 360
    part.save()


@transaction.atomic
def look(part: Part, looks: str) -> None:
    """Say how a part looks; saying the same again takes it back."""
    if looks not in LOOKS:
        raise BadInput(looks, f"one of {', '.join(LOOKS)}", "", "looks")
    part.looks = "" if part.looks == looks else looks
    part.save()
    log(part.board.unit, "survey", f"{part.board.name} {part.ref} looks {part.looks or 'not judged'}.")


@transaction.atomic
def remove(part: Part) -> None:
    """Take a part off the list; its history stays, so it can be brought back."""
    unit, name = part.board.unit, f"{part.board.name} {part.ref}"
    if hasattr(part, "swap"):
        raise BadInput(part.ref, "a part that is not swapped", "Take the swap back first.", "ref")
    part.delete()
    log(unit, "survey", f"{name} taken off the list.")


@transaction.atomic
def undo(board: Board) -> str:
    """Take the last change of the survey back; says what it was.

    Raises:
        BadInput: nothing to take back.
    """
    last = Part.history.filter(board_id=board.pk).order_by("-history_id").first()
    if last is None:
        raise BadInput("", "a change to take back", "Nothing was changed on this board yet.", "undo")
    before = Part.history.filter(id=last.id, history_id__lt=last.history_id).order_by("-history_id").first()
    row = Part.objects.filter(pk=last.id).first()
    if last.history_type == "-" and before is not None:
        row = Part(pk=last.id, board=board)
        row.take(_core_of(before))
        row.skip_history_when_saving = True
        row.save(force_insert=True)
        said = f"{last.ref} is back"
    elif last.history_type == "+" and row is not None:
        if hasattr(row, "choice") or hasattr(row, "swap"):
            raise BadInput(row.ref, "a part without a choice or swap", "Take that back first.", "undo")
        row.delete()
        Part.history.filter(id=last.id).delete()
        said = f"{last.ref} is off the list again"
    elif before is not None and row is not None:
        row.take(_core_of(before))
        row.skip_history_when_saving = True
        row.save()
        said = f"{last.ref} is as it was before"
    else:
        raise BadInput("", "a change to take back", "", "undo")
    Part.history.filter(history_id=last.history_id).delete()
    log(board.unit, "survey", f"{board.name}: taken back, {said}.")
    return said


def _core_of(history) -> Fitted:
    return Fitted(**{name: getattr(history, name) for name in FITTED_FIELDS})
