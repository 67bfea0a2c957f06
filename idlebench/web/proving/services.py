"""Readings, overrides, power on and idle. Each is one transaction; every gate is asked of core before anything is written."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from django.db.models import F
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.prove import doubts, interlocks
from idlebench.core.prove.low_voltage import SMOKE_STEP, smoke_step
from idlebench.core.prove.record import IDLE, POWER, READ, SMOKE, TWIN
from idlebench.core.prove.status import BENCH
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.simulate.expected import Band
from idlebench.core.text.quantity import show

from ..records.models import PowerSession, Reading, Unit
from ..unit.accepting import accept, write_reading
from ..unit.door import note, unit_transaction
from ..unit.expecting import power_reasons
from ..unit.log import log
from ..unit.power_note import power_is_off, power_is_on
from ..unit.state import UnitState


def _check(state: UnitState, key: str) -> prove.Check:
    check = state.proof.check(key)
    if check is None:
        raise BadInput(key, "a check of this unit", "The board may have changed: load the page again.", field="check")
    return check


def take_reading(unit: int, key: str, typed: str, by: str = "") -> Reading:
    """Log a reading of a check, with what it was read of.

    Args:
        unit: its key. key: of the check, or the name a table calls it. by: SIMULATED where it is of the simulated bench: it
            counts only while the unit is tried there.

    Raises:
        BadInput: it cannot be read. Blocked: it may not be taken now.
    """
    with unit_transaction(unit, "Nothing can be read now") as door:
        return taken(door.state, key, typed, by)


def take_readings(unit: int, typed: Mapping[str, str]) -> list[Reading]:
    """Log the readings of one page: all of them or none, each by what stood when they were read.

    Raises:
        BadInput: one cannot be read; its field is the key. Blocked: one may not be taken now. Nothing is logged then.
    """
    with unit_transaction(unit, "Nothing can be read now") as door:
        read = []
        for key, text in typed.items():
            try:
                read.append((text, *_understood(door.state, key, text)))
            except BadInput as error:
                raise error.within(key) from None
        return [_logged(door.state, check, text, value) for text, check, value in read]


def taken(state: UnitState, key: str, typed: str, by: str = "") -> Reading:
    """Log a reading of a check of a unit that is open for change; as take_reading."""
    check, value = _understood(state, key, typed)
    return _logged(state, check, typed, value, by)


def _understood(state: UnitState, key: str, typed: str) -> tuple[prove.Check, float]:
    """The check that is read, and its value; refused where it may not be taken or cannot be meant."""
    check = _check(state, key)
    reasons = interlocks.reading(state.proof, check)
    if reasons:
        raise Blocked(f"{check.point} cannot be read now", reasons)
    text, _ = doubts.sure(typed)
    value = prove.read_reading(check, text if check.aspect else typed)
    if check.aspect and check.live:
        doubts.ask(check, value, typed, (rail for board in state.boards for rail in board.rails))
    return check, value


def _logged(state: UnitState, check: prove.Check, typed: str, value: float, by: str = "") -> Reading:
    passed = check.passes(value)
    reading = write_reading(
        state, check, typed.strip(), value, passed=passed, **({"device": "the simulated meter"} if by else {})
    )
    was = {**check.evidence, **({BENCH: by} if by else state.read_on)}
    state.happened(*note(state.row, READ, state.now, reading=reading, key=check.key, value=value, was=was))
    if check.off_now and not passed and state.session is not None:
        # the machine still has power: the app says so until a hand has switched it off
        state.session.off_now = f"{check.point}: {typed.strip()}"[:160]
        state.session.save(update_fields=["off_now"])
        log(state.row, "power", f"OFF NOW: {check.point}, {typed.strip()}.")
    shown = typed.strip() if check.seen or not math.isfinite(value) else show(value, check.unit)
    log(state.row, "reading", f"{check.point}: {shown}, limit {check.limits}, {'passed' if passed else 'failed'}.")
    return reading


def override(unit: int, key: str, reason: str) -> Reading:
    """Pass a failed or missing check by a written reason; it stands on the hand-over sheet for ever.

    Raises:
        Blocked: someone could be hurt, or the check may not be done now. BadInput: no reason.
    """
    with unit_transaction(unit, "Nothing can be overridden now") as door:
        return _override(door.state, key, reason)


def _override(state: UnitState, key: str, reason: str) -> Reading:
    check = _check(state, key)
    reasons = interlocks.override(state.proof, check)
    if reasons:
        raise Blocked(f"{check.point} cannot be overridden{'' if check.safety else ' now'}", reasons)
    interlocks.needs_words(reason)
    return accept(state, check, reason)


def power_on(unit: int, key: str, asked: int) -> PowerSession:
    """Put power on at a step.

    Args:
        asked: the last event of the record when the question was asked.

    Raises:
        Blocked: the step is shut, another unit has power, or something happened since the question.
    """
    with unit_transaction(unit, "Power: shut") as door:
        return _power(door.state, key, asked)


def smoke_on(unit: int, asked: int) -> PowerSession:
    """Put power on for a smoke test: at the step of the bench supply with its limit, by every interlock of that step.

    Args:
        asked: the last event of the record when the question was asked.

    Raises:
        Blocked: the method is another, the step is blocked, another unit has power, or something happened since the question.
    """
    with unit_transaction(unit, "Smoke test: blocked") as door:
        if reasons := interlocks.smoke(door.state.proof):
            raise Blocked("Smoke test: blocked", reasons)
        return _power(door.state, SMOKE_STEP, asked)


def smoke_off(
    unit: int, meant: int, amps: str, seen: str, symptom: str = "", band: Band | None = None
) -> prove.SmokeTest:
    """Log what a smoke test showed, and that the power is off. It is no reading: no check passes by it.

    Args:
        meant: the key of the session of power that is over.
        amps: as read, "" where nobody did.
        seen: a key of SEEN.
        symptom: what it should cure.
        band: A that the machine's own model gives.

    Raises:
        BadInput: amps that are none. Nothing is logged then; power stays as it was told.
        Blocked: the unit has no power at that step.
    """
    with unit_transaction(unit, "Nothing was logged") as door:
        state = door.state
        session = PowerSession.objects.filter(ended=None, pk=meant, unit=unit, step=SMOKE_STEP).first()
        step = smoke_step(state.proof.steps, state.proof.way)
        if session is None or step is None:
            raise Blocked("Nothing was logged", interlocks.no_smoke())
        limit = next((c.high for c in step.checks if c.kind == "amps" and c.high), 0.0)
        told = prove.read_smoke(amps, seen, limit, band, symptom[:120].strip(), _swapped_last(state))
        state.happened(*note(state.row, SMOKE, state.now, value=told.amps, step=SMOKE_STEP, words=told.words[:300]))
        state.session = None
        state.happened(*_idle(session, state.now))
        log(state.row, "power", f"{told.words[:1].upper()}{told.words[1:]}.")
        return told


def _swapped_last(state: UnitState) -> str:
    swaps = [(p.swap.at, p.ref) for b in state.boards for p in b.parts if p.swap]
    swaps += [(d.swap.at, d.ref) for b in state.boards for d in b.devices if d.swap]
    return max(swaps)[1] if swaps else ""


def _power(state: UnitState, key: str, asked: int) -> PowerSession:
    reasons = power_reasons(state, key) or interlocks.answered(state.last_event, asked)
    step = state.proof.step(key)
    if reasons or step is None:
        raise Blocked(f"{step.title if step else 'Power'}: blocked", reasons)
    session = state.session
    if session:
        session.step, session.title = step.key, step.title
        session.save(update_fields=["step", "title"])
    else:
        session = PowerSession.objects.create(unit=state.row, step=step.key, title=step.title, began=state.now)
        power_is_on(session)
        _tell_twins(state)
    state.session = session
    state.happened(*note(state.row, POWER, state.now, step=step.key, words=step.title))
    log(state.row, "power", f"Power on: {step.title}.")
    return session


def _tell_twins(state: UnitState) -> None:
    """A job that was exported and imported again lies here twice: power through one charges the machine that both speak of."""
    unit, job = state.row, state.job
    same = {"name": unit.name, "serial": unit.serial, "job__began": job.began, "job__name": job.name}
    for twin in Unit.objects.filter(**same).exclude(pk=unit.pk):
        note(twin, TWIN, state.now, words=f"unit {unit.name} of job {job.number}")
        Unit.objects.filter(pk=twin.pk).update(turn=F("turn") + 1)


def make_idle(meant: int | None) -> int | None:
    """Log that a unit has no power any more; its key, None where none had.

    Args:
        meant: the key of the session of power that is over, as the page told of it. It is ended once, however often that is said.

    Raises:
        Blocked: another unit has power now, or this one since again, or the page said of none which it means.
    """
    title = "Nothing was made idle"
    session = PowerSession.objects.filter(ended=None).first()
    if session is None:
        return None
    with unit_transaction(session.unit_id, title, closed_too=True):
        session = PowerSession.objects.filter(ended=None).select_related("unit").first()
        if session is None:
            return None
        if session.pk != meant:
            before = PowerSession.objects.filter(pk=meant).select_related("unit").first() if meant else None
            reasons = interlocks.make_idle(
                before.unit.name if before else "", session.unit.name, session.unit == before.unit if before else False
            )
            raise Blocked(title, reasons)
        _idle(session, timezone.now())
        return session.unit_id


def _idle(session: PowerSession, now: datetime) -> tuple[int, prove.Event]:
    session.ended = now
    session.save(update_fields=["ended"])
    power_is_off()
    log(session.unit, "power", f"Made idle after {int((session.ended - session.began).total_seconds())} s.")
    return note(session.unit, IDLE, now, words="made idle")


#: Between two readings of a table, which has no times of its own, s.
PACE = 2


def lasts(rows: Sequence[Mapping[str, str]]) -> timedelta:
    """How long ago the first reading of a table is put, so that the last one, holds included, is taken by now."""
    return timedelta(seconds=3 * PACE * len(rows), minutes=prove.HOLD * sum("hold" in row["check"] for row in rows))


def replay(unit: int, rows: Sequence[Mapping[str, str]], start: datetime) -> datetime:
    """Take in the readings of a table in order, at times of their own from a start; when the last one was taken.

    Power goes on at a step when its first live reading comes, and off when something must be done without it, and at the end.
    Every gate is asked as if a person did it.

    Args:
        rows: check, reading, and reason of an override or "".

    Raises:
        BadInput: no such check, or it cannot be read. Blocked: a reading could not have been taken then.
    """
    with unit_transaction(unit, "The readings cannot be imported") as door:
        state = door.state
        state.at(start)

        def later(seconds: float) -> None:
            state.at(state.now + timedelta(seconds=seconds))

        def idle() -> None:
            later(PACE)
            session, state.session = state.session, None
            state.happened(*_idle(session, state.now))

        for row in rows:
            check = _check(state, row["check"])
            step = state.proof.step(check.step)
            if state.session and (not check.live or (step.rewire and state.live_step != step.key)):
                idle()
            if check.live and state.live_step != step.key:
                later(PACE)
                _power(state, step.key, state.last_event)
            later(PACE + check.hold * 60)
            taken(state, row["check"], row["reading"])
            if row["reason"]:
                _override(state, row["check"], row["reason"])
        if state.session:
            idle()
        return state.now
