"""A part that moves to another unit."""

from __future__ import annotations

from django.utils import timezone

from idlebench.core.board.copies import SEEN
from idlebench.core.choose.salvage import SPENT
from idlebench.core.prove import interlocks
from idlebench.core.prove.record import HANDS
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Board, Part
from ..unit.door import note, opened_all
from ..unit.log import log
from ..unit.rows import board_id, part_id
from ..unit.series import save_part
from .services import unchanged


def move_part(part: Part, to: Board, seen: str = "") -> Part:
    """Move a part to another unit's board, where its place is empty; both logs say so.

    Raises:
        BadInput: the place there is taken, or the part cannot be given. Blocked: a unit has power or is handed over, or a store
            of the two boards may be charged.
    """
    title, here, there = f"{part.ref} cannot be given", part.board.unit, to.unit
    if there.pk == here.pk or there.job_id != here.job_id:
        raise BadInput(str(to), "a board of another unit of this job", field="to")
    with opened_all(sorted([here.pk, there.pk]), title) as units:
        boards = [board_id(part.board_id), board_id(to.pk)]
        if reasons := interlocks.moving([unit.state.proof for unit in units], boards):
            raise Blocked(title, reasons)
        for unit in units:
            unit.out(part_id(part.pk), f"given to unit {there.name}, read empty before")
        part.refresh_from_db()
        to.refresh_from_db()
        return _moved(part, to, seen)


def _moved(part: Part, to: Board, seen: str) -> Part:
    here, there = part.board.unit, to.unit
    unchanged(part, seen)
    if hasattr(part, "swap"):
        raise BadInput(part.ref, "an old part; a new part is fitted there", "Take the swap back first.", field="ref")
    if part.looks == "missing":
        raise BadInput(part.ref, "a part that is there", "It is missing on this unit too.", field="ref")
    if part.looks in SPENT:
        raise BadInput(
            part.ref, f"a part that may be used again; it is {part.looks}", "Fit a new one there.", field="ref"
        )
    row = to.parts.filter(ref=part.ref).first()
    if row and row.looks != "missing":
        raise BadInput(
            f"{part.ref} on unit {there.name}",
            "a place that is empty",
            "Note there that it is missing first.",
            field="to",
        )
    if row and hasattr(row, "swap"):
        raise BadInput(part.ref, f"an empty place; unit {there.name} has a new part in it", field="to")
    origin = f"from unit {here.name}: measure it before use"
    given = part.to_core()
    given = given.with_(note="; ".join(filter(None, [given.note, origin]))[:1000])
    if row:
        given = given.with_(x=row.x, y=row.y, angle=row.angle, side=row.side)
    row = row or Part(board=to)
    row.take(given)
    row.reformed = part.reformed
    save_part(row)
    part.take(part.to_core().with_(**{**SEEN, "looks": "missing", "note": f"given to unit {there.name}"}))
    part.reformed, part.by_hand, part.by_hand_reason = False, "", ""
    save_part(part)
    words = f"{part.ref} given by unit {here.name} to unit {there.name}"
    for unit, board in ((here, part.board), (there, to)):
        note(unit, HANDS, timezone.now(), board=board_id(board.pk), words=words)
    log(here, "move", f"{part.board.name} {part.ref} given to unit {there.name}.")
    log(there, "move", f"{to.name} {part.ref} taken from unit {here.name}. A salvaged part: measure it first.")
    return row
