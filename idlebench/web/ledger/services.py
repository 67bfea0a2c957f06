"""Writing the log, and gathering what the hand-over sheet tells."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.board.dismantle import still_open
from idlebench.core.refusal import GateShut

from ..records.models import Reading
from ..unit.log import log
from ..unit.state import PartState, UnitState

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
    proven: bool
    made_at: datetime


def sheet(state: UnitState) -> Sheet:
    """What was judged, replaced, kept, measured and overridden."""
    known = {c.key: c for s in state.progress.steps for c in s.checks}
    counted = [r for r in state.latest.values() if r.key in known]
    titles = {step.key: step.title for step in state.progress.steps}
    rails = [
        Measured(titles[r.step], ASPECTS[known[r.key].aspect], r)
        for r in counted
        if known[r.key].live and known[r.key].aspect in ASPECTS
    ]
    cold = [r for r in counted if r.step == "cold"]
    return Sheet(
        replaced=[p for p in state.parts if p.swap],
        kept=[p for p in state.parts if not p.swap and not p.taken and not (p.decision.replace and p.choice is None)],
        unsettled=[p for p in state.parts if not p.swap and (p.taken or (p.decision.replace and p.choice is None))],
        rails=rails,
        cold=cold,
        overridden=[r for r in state.readings if r.overridden],
        proven=state.progress.proven,
        made_at=timezone.now(),
    )


def hand_over_gate(state: UnitState) -> tuple[prove.Shut, ...]:
    """Why a unit may not be handed over yet."""
    reasons = []
    if state.session:
        reasons.append(prove.Shut("live", "The unit has power.", "Make idle first."))
    told = [(row.to_core(), row.back is not None) for row in state.row.dismantling.all()]
    reasons += [prove.Shut("apart", f"{text}.", "Tick it on the dismantling log.") for text in still_open(told)]
    left = [p.ref for p in sheet(state).unsettled]
    if left:
        reasons.append(
            prove.Shut(
                "unsettled",
                f"{len(left)} places are neither swapped nor left in: {', '.join(left[:8])}{' …' if len(left) > 8 else ''}.",
            )
        )
    if not state.progress.proven:
        for step in state.progress.steps:
            reasons += prove.open_items(step, state.record)
        if len(state.progress.steps) < 2:
            reasons.append(
                prove.Shut(
                    "no rails", "No supply with rails is entered, so nothing could be proven.", "Type them at Intake."
                )
            )
    return tuple(reasons)


@transaction.atomic
def hand_over(state: UnitState) -> None:
    """Close a unit.

    Raises:
        GateShut: it is not proven, has power, or has places left.
    """
    reasons = hand_over_gate(state)
    if reasons:
        raise GateShut("Hand-over is shut", reasons)
    state.row.handed_over = timezone.now()
    state.row.save(update_fields=["handed_over"])
    log(state.row, "hand-over", "Handed over, proven.")
