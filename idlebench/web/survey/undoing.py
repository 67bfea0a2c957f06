"""The last change of a survey taken back."""

from __future__ import annotations

from django.db.models import Q

from idlebench.core.board.parts import FITTED_FIELDS, Fitted
from idlebench.core.refusal import BadInput

from ..records.models import Board, Part
from ..unit.door import in_unit_transaction
from ..unit.log import log
from ..unit.series import save_part


@in_unit_transaction("The survey cannot be changed")
def undo(board: Board) -> str:
    """Take the last change of the survey back; says what it was.

    Raises:
        BadInput: nothing to take back.
    """
    # a part that was removed whole comes back by what was removed, not from here
    there = Q(id__in=board.parts.values("pk")) | Q(history_type="-")
    last = Part.history.filter(there, board_id=board.pk).order_by("-history_id").first()
    if last is None:
        raise BadInput("", "a change to take back", "Nothing was changed on this board yet.", field="undo")
    before = Part.history.filter(id=last.id, history_id__lt=last.history_id).order_by("-history_id").first()
    row = Part.objects.filter(pk=last.id).first()
    if last.history_type == "-" and before is not None:
        row = Part(pk=last.id, board=board)
        _bring_back(row, before)
        row.skip_history_when_saving = True
        save_part(row, force_insert=True)
        said = f"{last.ref} is back"
    elif last.history_type == "+" and row is not None:
        if hasattr(row, "choice") or hasattr(row, "swap"):
            raise BadInput(row.ref, "a part without a choice or swap", "Take that back first.", field="undo")
        row.delete()
        Part.history.filter(id=last.id).delete()
        said = f"{last.ref} is off the list again"
    elif before is not None and row is not None:
        _bring_back(row, before)
        row.skip_history_when_saving = True
        save_part(row)
        said = f"{last.ref} is as it was before"
    else:
        raise BadInput("", "a change to take back", field="undo")
    Part.history.filter(history_id=last.history_id).delete()
    log(board.unit, "survey", f"{board.name}: taken back, {said}.")
    return said


def _bring_back(row: Part, before: object) -> None:
    """Take over what an earlier version held, the verdict by hand included."""
    row.take(Fitted(**{name: getattr(before, name) for name in FITTED_FIELDS}))
    row.version = max(row.version, before.version)
    for name in ("reformed", "by_hand", "by_hand_reason"):
        setattr(row, name, getattr(before, name))
