"""Hand-over and reopening, and what the hand-over sheet tells."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from idlebench.core.prove import gates
from idlebench.core.prove.record import HANDED, REOPENED
from idlebench.core.refusal import GateShut

from ..records.models import Event, Reading
from ..unit.door import note, opened
from ..unit.log import log
from ..unit.parts import PartState
from ..unit.state import UnitState

#: What a rail reading is called on the sheet.
ASPECTS = {"volts": "volts", "ripple": "ripple, peak to peak", "lowest": "lowest under a load step"}


@dataclass(frozen=True)
class Measured:
    """A rail reading on the sheet: where on the way up, what of the rail, and the reading."""

    step: str
    what: str
    reading: Reading


@dataclass(frozen=True)
class Sheet:
    """What is handed over with a unit."""

    replaced: list[PartState]
    kept: list[PartState]
    unsettled: list[PartState]
    rails: list[Measured]
    cold: list[Reading]
    overridden: list[Reading]
    skipped: list[tuple[str, str]]
    reopened: list[Event]
    proven: bool
    made_at: datetime


def sheet(state: UnitState) -> Sheet:
    """What was judged, replaced, kept, measured, skipped and overridden."""
    proof = state.proof
    rails, cold = [], []
    for step in proof.steps:
        for check in step.checks:
            reading = state.reading_of(check)
            if reading is None or not proof.done(check):
                continue
            if step.key == "cold":
                cold.append(reading)
            elif check.live and check.aspect in ASPECTS:
                rails.append(Measured(step.title, ASPECTS[check.aspect], reading))
    skipped = state.row.look_skipped
    return Sheet(
        replaced=[p for p in state.parts if p.swap],
        kept=[p for p in state.parts if not p.swap and not p.taken and not (p.decision.replace and p.choice is None)],
        unsettled=state.unsettled,
        rails=rails,
        cold=cold,
        overridden=[r for r in state.readings if r.overridden],
        skipped=[(look.text, skipped[look.key]) for look in state.first_look if look.key in skipped],
        reopened=list(state.row.events.filter(kind=REOPENED)),
        proven=proof.proven,
        made_at=timezone.now(),
    )


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
