"""Hand-over and reopening."""

from __future__ import annotations

from datetime import datetime

from django.utils import timezone

from idlebench.core.prove import gates
from idlebench.core.prove.record import HANDED, REOPENED
from idlebench.core.refusal import GateShut

from ..unit.door import note, opened
from ..unit.log import log


def hand_over(unit: int, at: datetime | None = None) -> None:
    """Close a unit.

    Raises:
        GateShut: it is not proven, has power, is not together, or has places left.
    """
    with opened(unit, "Hand-over is shut") as door:
        state = door.state
        if at is not None:
            state.at(at)
        reasons = gates.hand_over(state.closing)
        if reasons:
            raise GateShut("Hand-over is shut", reasons)
        state.row.handed_over = state.now
        state.row.save(update_fields=["handed_over"])
        note(state.row, HANDED, state.now, words="handed over")
        log(state.row, "hand-over", "Handed over, proven.")


def reopen(unit: int, reason: str) -> None:
    """Open a handed-over unit again; all its checks are asked again.

    Raises:
        GateShut: it is not handed over. BadInput: no reason.
    """
    with opened(unit, "It cannot be reopened", closed_too=True) as door:
        state = door.state
        reasons = gates.reopening(state.proof, reason)
        if reasons:
            raise GateShut("It cannot be reopened", reasons)
        state.row.handed_over = None
        state.row.save(update_fields=["handed_over"])
        note(state.row, REOPENED, timezone.now(), words=reason.strip())
        log(state.row, "hand-over", f"Reopened: {reason.strip()}")
