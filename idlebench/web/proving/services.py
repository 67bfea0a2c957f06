"""Readings, overrides, power on and idle. Each is one transaction; every gate is asked of core before anything is written."""

from __future__ import annotations

import math
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.prove import gates
from idlebench.core.prove.record import IDLE, POWER, READ
from idlebench.core.refusal import BadInput, GateShut, Shut
from idlebench.core.text.quantity import show

from ..records.models import PowerSession, Reading
from ..unit.door import note, opened
from ..unit.log import log
from ..unit.state import UnitState


def _check(state: UnitState, key: str) -> prove.Check:
    check = state.proof.check(key)
    if check is None:
        raise BadInput(key, "a check of this unit", "The board may have changed: load the page again.", "check")
    return check


def _at(state: UnitState, at: datetime | None) -> datetime:
    """The time of what is being written: now, or that of a bundle that is taken in. The state is judged at it."""
    if at is not None:
        state.now = at
    return state.now


def take_reading(unit: int, key: str, typed: str, at: datetime | None = None) -> Reading:
    """Log a reading of a check, with what it was read of.

    Args:
        unit: its key. key: of the check, or the name a table calls it. at: when, for a bundle that is taken in.

    Raises:
        BadInput: it cannot be read. GateShut: it may not be taken now.
    """
    with opened(unit, "Nothing can be read now") as door:
        state = door.state
        now = _at(state, at)
        check = _check(state, key)
        reasons = gates.reading(state.proof, check)
        if reasons:
            raise GateShut(f"{check.point} cannot be read now", reasons)
        value = prove.read_reading(check, typed)
        passed = check.passes(value)
        reading = _written(state, check, typed.strip(), value, now, passed=passed)
        note(state.row, READ, now, reading=reading, key=check.key, value=value, was=check.evidence)
        shown = typed.strip() if check.seen or not math.isfinite(value) else show(value, check.unit)
        log(state.row, "reading", f"{check.point}: {shown}, limit {check.limits}, {'passed' if passed else 'failed'}.")
    return reading


def _written(
    state: UnitState, check: prove.Check, typed: str, value: float | None, now: datetime, **facts: object
) -> Reading:
    return Reading.objects.create(
        unit=state.row, key=check.key, step=check.step, point=check.point, ask=check.ask[:300], typed=typed[:60],
        value=value if value is not None and math.isfinite(value) else None, symbol=check.unit, limits=check.limits,
        at=now, **facts,
    )  # fmt: skip


def override(unit: int, key: str, reason: str, at: datetime | None = None) -> Reading:
    """Pass a failed or missing check by a written reason; it stands on the hand-over sheet for ever.

    Raises:
        GateShut: someone could be hurt, or the check may not be done now. BadInput: no reason.
    """
    with opened(unit, "Nothing can be overridden now") as door:
        state = door.state
        now = _at(state, at)
        check = _check(state, key)
        reasons = gates.override(state.proof, check)
        if reasons:
            raise GateShut(f"{check.point} cannot be overridden{'' if check.safety else ' now'}", reasons)
        gates.needs_words(reason)
        before = state.reading_of(check)
        reading = _written(
            state, check, before.typed if before else "not read", before.value if before else None, now,
            passed=False, overridden=True, reason=reason.strip(),
        )  # fmt: skip
        note(
            state.row,
            READ,
            now,
            reading=reading,
            key=check.key,
            value=reading.value,
            overridden=True,
            was=check.evidence,
        )
        log(state.row, "override", f"{check.point}: overridden. {reason.strip()}")
    return reading


def power_on(unit: int, key: str, asked: int | None = None, at: datetime | None = None) -> PowerSession:
    """Put power on at a step.

    Args:
        asked: the last event of the record when the question was asked; None where nobody was asked, as in a bundle.

    Raises:
        GateShut: the step is shut, another unit has power, or something happened since the question.
    """
    with opened(unit, "Power: shut") as door:
        state = door.state
        now = _at(state, at)
        reasons = gates.power(state.proof, key)
        step = state.proof.step(key)
        if reasons or step is None:
            raise GateShut(f"{step.title if step else 'Power'}: shut", reasons)
        if asked is not None and asked != state.last_event:
            raise GateShut(
                f"{step.title}: asked again",
                (Shut("asked", "Something was logged since you were asked.", "Look at the page, then answer again."),),
            )
        session = state.session
        if session:
            session.step, session.title = step.key, step.title
            session.save(update_fields=["step", "title"])
        else:
            session = PowerSession.objects.create(unit=state.row, step=step.key, title=step.title, began=now)
        note(state.row, POWER, now, step=step.key, words=step.title)
        log(state.row, "power", f"Power on: {step.title}.")
    return session


@transaction.atomic
def make_idle(at: datetime | None = None) -> int | None:
    """Log that the unit that has power has none any more; its key, None where none had. Always open."""
    session = PowerSession.objects.filter(ended=None).select_related("unit").first()
    if session is None:
        return None
    session.ended = at or timezone.now()
    session.save(update_fields=["ended"])
    note(session.unit, IDLE, session.ended, words="made idle")
    log(session.unit, "power", f"Made idle after {int((session.ended - session.began).total_seconds())} s.")
    return session.unit_id
