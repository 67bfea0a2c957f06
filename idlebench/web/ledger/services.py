"""Hand-over and reopening."""

from __future__ import annotations

from datetime import datetime

from django.utils import timezone

from idlebench.core.prove import interlocks
from idlebench.core.prove.record import HANDED, REOPENED
from idlebench.core.refusal import Blocked
from idlebench.core.text.quantity import read

from ..unit.door import note, unit_transaction
from ..unit.log import log
from .narrative import day_of, look_words, when_next


def hand_over(unit: int, at: datetime | None = None, hours: str = "") -> None:
    """Close a unit, and keep when it is looked at again.

    Args:
        hours: how many of a day it will run, as typed; "" for as many as it says already.

    Raises:
        Blocked: it is not proven, has power, is not together, or has places left. BadInput: hours that no day has.
    """
    a_day = read(hours, "h", field="hours", low=0, high=24) if hours.strip() else None
    with unit_transaction(unit, "Hand-over is blocked") as door:
        state = door.state
        if at is not None:
            state.at(at)
        reasons = interlocks.hand_over(state.closing)
        if reasons:
            raise Blocked("Hand-over is blocked", reasons)
        row = state.row
        row.handed_over = state.now
        if a_day is not None:
            row.hours_a_day = a_day
        look = when_next(state)
        row.next_look, row.next_look_of = (day_of(state, look), look_words(look)[:200]) if look else (None, "")
        row.save(update_fields=["handed_over", "hours_a_day", "next_look", "next_look_of"])
        note(state.row, HANDED, state.now, words="handed over")
        log(state.row, "hand-over", "Handed over, proven.")


def reopen(unit: int, reason: str) -> None:
    """Open a handed-over unit again; all its checks are asked again.

    Raises:
        Blocked: it is not handed over. BadInput: no reason.
    """
    with unit_transaction(unit, "It cannot be reopened", closed_too=True) as door:
        state = door.state
        reasons = interlocks.reopening(state.proof, reason)
        if reasons:
            raise Blocked("It cannot be reopened", reasons)
        state.row.handed_over, state.row.next_look, state.row.next_look_of = None, None, ""
        state.row.save(update_fields=["handed_over", "next_look", "next_look_of"])
        note(state.row, REOPENED, timezone.now(), words=reason.strip())
        log(state.row, "hand-over", f"Reopened: {reason.strip()}")
