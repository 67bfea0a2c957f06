"""Readings, overrides, power on and idle. Every gate is asked of core before anything is written."""

from __future__ import annotations

import math

from django.db import transaction
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.refusal import BadInput, GateShut, Shut
from idlebench.core.text.quantity import show

from ..records.models import PowerSession, Reading
from ..unit.log import log
from ..unit.state import UnitState


def _check(state: UnitState, key: str) -> prove.Check:
    check = state.progress.check(key)
    if check is None:
        raise BadInput(key, "a check of this unit", "The board may have changed: load the page again.", "check")
    return check


@transaction.atomic
def take_reading(state: UnitState, key: str, typed: str) -> Reading:
    """Log a reading of a check.

    Raises:
        BadInput: it cannot be read. GateShut: it may not be taken now.
    """
    check = _check(state, key)
    reasons = prove.reading_gate(state.progress.steps, state.record, check, state.live_step)
    if reasons:
        raise GateShut(f"{check.point} cannot be read now", reasons)
    value = prove.read_reading(check, typed)
    passed = check.passes(value)
    reading = Reading.objects.create(
        unit=state.row,
        key=check.key,
        step=check.step,
        point=check.point,
        ask=check.ask[:300],
        typed=typed.strip()[:60],
        value=value if math.isfinite(value) else None,
        symbol=check.unit,
        limits=check.limits,
        passed=passed,
        at=timezone.now(),
    )
    shown = typed.strip() if check.seen or not math.isfinite(value) else show(value, check.unit)
    log(state.row, "reading", f"{check.point}: {shown}, limit {check.limits}, {'passed' if passed else 'failed'}.")
    return reading


@transaction.atomic
def override(state: UnitState, key: str, reason: str) -> Reading:
    """Pass a failed or missing check by a written reason; it stands on the hand-over sheet for ever.

    Raises:
        GateShut: someone could be hurt, or the check may not be done now. BadInput: no reason.
    """
    check = _check(state, key)
    if check.safety:
        raise GateShut(
            f"{check.point} cannot be overridden",
            (Shut("safety", "Someone can be hurt by it.", "Mend it and measure again."),),
        )
    reasons = prove.reading_gate(state.progress.steps, state.record, check, state.live_step)
    if reasons:
        raise GateShut(f"{check.point} cannot be overridden now", reasons)
    if len(reason.strip()) < 8:
        raise BadInput(reason, "a reason in a few words", "It stands on the hand-over sheet.", "reason")
    if len(reason) > 500:
        raise BadInput(reason, "at most 500 characters", "", "reason")
    before = state.latest.get(key)
    reading = Reading.objects.create(
        unit=state.row,
        key=check.key,
        step=check.step,
        point=check.point,
        ask=check.ask[:300],
        typed=before.typed if before else "not read",
        value=before.value if before else None,
        symbol=check.unit,
        limits=check.limits,
        passed=False,
        overridden=True,
        reason=reason.strip(),
        at=timezone.now(),
    )
    log(state.row, "override", f"{check.point}: overridden. {reason.strip()}")
    return reading


@transaction.atomic
def power_on(state: UnitState, key: str) -> PowerSession:
    """Put power on at a step.

    Raises:
        GateShut: the step is shut, or another unit has power.
    """
    reasons = list(prove.power_gate(state.progress.steps, state.record, key, state.live_step))
    other = PowerSession.objects.filter(ended=None).exclude(unit=state.row).select_related("unit").first()
    if other:
        reasons.append(
            Shut("other", f"Unit {other.unit.name} has power.", "One live unit at a time: make it idle first.")
        )
    if state.row.handed_over:
        reasons.append(Shut("closed", "The unit is handed over.", "Take in a new job to power it again."))
    step = state.progress.step(key)
    if reasons or step is None:
        raise GateShut(f"{step.title if step else 'Power'}: shut", tuple(reasons))
    now = timezone.now()
    session = state.session
    if session:
        session.step, session.title = step.key, step.title
        session.save(update_fields=["step", "title"])
    else:
        session = PowerSession.objects.create(unit=state.row, step=step.key, title=step.title, began=now)
    log(state.row, "power", f"Power on: {step.title}.")
    return session


@transaction.atomic
def make_idle(session: PowerSession) -> None:
    """Log that a unit has no power any more."""
    if session.ended is None:
        session.ended = timezone.now()
        session.save(update_fields=["ended"])
        log(session.unit, "power", f"Made idle after {int((session.ended - session.began).total_seconds())} s.")
