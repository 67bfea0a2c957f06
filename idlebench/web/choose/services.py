"""Settling places: ranking the shelf for them, taking a part, leaving the old one in, taking it back."""

from __future__ import annotations

from collections.abc import Sequence

from idlebench.core.board.parts import LEFT_OUT
from idlebench.core.choose.rank import FAILS, judge_parts
from idlebench.core.judge.verdict import REPLACE
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import Board, CatalogueItem, Choice
from ..unit import settling
from ..unit.door import in_unit_transaction, unit_of_board, unit_transaction
from ..unit.fits import need_for, ranking_for
from ..unit.log import log
from ..unit.parts import LEFT_IN, BoardState, PartState
from ..unit.state import unit_state
from ..unit.stock import used_parts


def take(board: int, ref: str, name: str, seen: str = "") -> Choice:
    """Take a catalogue part for a place.

    Args:
        seen: what the page showed as settled there, "" where the sender did not look.

    Raises:
        BadInput: no such part. Blocked: it fails for this place, or the place is settled or swapped already.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be decided") as door:
        found, part = door.place(board, ref)
        return settling.take(door.state, found, part, name, seen)


def settle_all(board: int, wanted: Sequence[tuple[str, str]]) -> None:
    """Settle many places as a plan says: each reference with a part, LEFT_IN, LEFT_OUT, or "" for the first that fits.

    Raises:
        BadInput: no such place or part. Blocked: one of them cannot be; none is settled.
    """
    with unit_transaction(unit_of_board(board), "The plan cannot be imported") as door:
        for ref, name in wanted:
            found, part = door.place(board, ref)
            if name == LEFT_IN:
                _leave_in(found, part)
                continue
            if name == LEFT_OUT:
                _leave_out(found, part)
                continue
            if not name:
                best = ranking_for(door.state, part, fits=1, refused=0).best
                name = best.part.part if best else ""
            settling.take(door.state, found, part, name)


def take_together(board: int, wanted: Sequence[tuple[str, str, str]]) -> None:
    """Take parts for several places that work together, all or none: a reference, a part, and what the page showed as settled there.

    Raises:
        BadInput: no such place or part, or a place twice. Blocked: one of them fails, or is settled otherwise or swapped by now.
    """
    refs = [ref for ref, _, _ in wanted]
    if not refs or len(set(refs)) != len(refs):
        raise BadInput(", ".join(refs)[:80], "each place once, with its part", "Check the page again.", field="ref")
    with unit_transaction(unit_of_board(board), f"{' and '.join(refs)[:80]} cannot be decided") as door:
        for ref, name, seen in wanted:
            found, part = door.place(board, ref)
            if part.swap or part.settled_as != name or part.settled_as != seen:
                settling.take(door.state, found, part, name, seen)


def leave_in(board: int, ref: str, seen: str = "") -> Choice:
    """Leave the old part in its place.

    Raises:
        Blocked: a mains part judged bad, or the place is settled or swapped already.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be decided") as door:
        return _leave_in(*door.place(board, ref), seen)


def _leave_in(found: BoardState, part: PartState, seen: str = "") -> Choice:
    settling.still_open(part, LEFT_IN, seen)
    reasons = interlocks.leave_in(part.core, part.verdict.name == REPLACE, part.verdict.leading)
    if reasons:
        raise Blocked(f"{part.ref} must not stay", reasons)
    choice = getattr(part.row, "choice", None) or Choice(part=part.row)
    choice.outdated = ""
    choice.action, choice.item, choice.verdict = Choice.KEEP, "", part.verdict.name
    choice.reasons = [e.text for e in part.verdict.against] or [part.decision.why]
    choice.save()
    log(found.row.unit, "choose", f"{found.row.name} {part.ref}: old part kept, judged {part.verdict.shown}.")
    return choice


def leave_out(board: int, ref: str, seen: str = "") -> Choice:
    """Leave a filter part on the mains out for a test: it comes out at Swap, nothing goes in, and the unit is unfinished.

    Raises:
        Blocked: no filter part on the mains, or the place is settled or swapped already.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be decided") as door:
        return _leave_out(*door.place(board, ref), seen)


def _leave_out(found: BoardState, part: PartState, seen: str = "") -> Choice:
    settling.still_open(part, LEFT_OUT, seen)
    reasons = interlocks.leave_out(part.core)
    if reasons:
        raise Blocked(f"{part.ref} must not be left out", reasons)
    choice = getattr(part.row, "choice", None) or Choice(part=part.row)
    choice.outdated = ""
    choice.action, choice.item, choice.verdict = Choice.OUT, "", "look twice"
    choice.reasons = ["left out for the test only: fit a part before the unit leaves"]
    choice.save()
    log(found.row.unit, "choose", f"{found.row.name} {part.ref}: to be left out for the test.")
    return choice


def take_all(board: int) -> int:
    """Take the first part for every open place where it fits without a doubt; doubtful ones stay open."""
    settled, used = 0, used_parts()
    with unit_transaction(unit_of_board(board), "Nothing can be decided") as door:
        found = door.board(board)
        for part in found.places:
            if part.choice is not None or not part.decision.replace or part.mains_question:
                continue
            ranked = ranking_for(door.state, part, refused=0).candidates
            # a used part is taken by a person, never with all the others
            best = next((c for c in ranked if c.part.part not in used), None)
            if best is not None and best.verdict == "fits":
                settling.settle(found, part, best)
                settled += 1
    return settled


def _still_goes_in(board: Board, choice: Choice) -> None:
    """An earlier choice that comes back is judged by the place as it is now: one that does not go in any more counts for nothing."""
    item = CatalogueItem.objects.filter(part=choice.item).first() if choice.action == Choice.TAKE else None
    if item is None:
        return
    state = unit_state(board.unit_id)
    place = state.board(board.pk).find(choice.part.ref)
    judged = judge_parts(need_for(state, place), [item.to_core()])[0]
    if judged.status == FAILS:
        why = "; ".join(r.text for r in judged.reasons if r.status == FAILS)
        Choice.objects.filter(pk=choice.pk).update(outdated=f"{choice.item} does not fit any more: {why}"[:300])


@in_unit_transaction("Nothing can be taken back")
def undo(board: Board) -> str:
    """Take the last choice on a board back; the reference it was for.

    Raises:
        BadInput: nothing to take back. Blocked: that place is swapped by now.
    """
    last = Choice.history.filter(part__board_id=board.pk).order_by("-history_id").first()
    if last is None:
        raise BadInput("", "a choice to take back", "Nothing was chosen on this board yet.", field="undo")
    choice = Choice.objects.select_related("part").filter(pk=last.id).first()
    if choice is None:
        raise BadInput("", "a choice to take back", field="undo")
    ref = choice.part.ref
    if hasattr(choice.part, "swap"):
        raise Blocked(
            f"{ref} is swapped", (Block("swapped", "The new part is soldered in.", "Take the swap back first."),)
        )
    before = Choice.history.filter(id=last.id, history_id__lt=last.history_id).order_by("-history_id").first()
    if before is None:
        choice.delete()
        Choice.history.filter(id=last.id).delete()
    else:
        choice.skip_history_when_saving = True
        choice.action, choice.item, choice.verdict, choice.reasons = (
            before.action,
            before.item,
            before.verdict,
            before.reasons,
        )
        choice.save()
        _still_goes_in(board, choice)
    Choice.history.filter(history_id=last.history_id).delete()
    log(board.unit, "choose", f"{board.name} {ref}: choice taken back.")
    return ref
