"""Short ways to what many web tests do."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from idlebench.core import prove
from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.web.choose import services as choosing
from idlebench.web.proving import services as proving
from idlebench.web.records import steady
from idlebench.web.records.models import Event, PowerSession, Unit, UnitProcedure
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits
from idlebench.web.unit.state import UnitState, board_state, unit_state
from tests.snapshots import remembered


def good_text(check: prove.Check) -> str:
    """A typed reading that passes."""
    if check.seen:
        return "yes"
    if check.low is not None and check.high is not None:
        return f"{(check.low + check.high) / 2:.6g}"
    if check.kind == "tube_ratio":
        return f"{0.4 * check.nominal * 12 / 1000:.5g} kV probe 2 % at {0.4 * 12:g} V"
    return f"{check.high / 2:.6g}" if check.high is not None else f"{check.low * 3:.6g}"


def discharge(unit: Unit) -> None:
    """Log every store as empty."""
    for check in unit_state(unit.pk).proof.discharges:
        proving.take_reading(unit.pk, check.key, "0.4")


@remembered
def settle(unit: Unit) -> None:
    """Choose and swap everything that the policy asks, with the stores logged as empty first."""
    for board in unit.boards.all():
        state, found = board_state(board.pk)
        for part in found.places:
            choosing.take(board.pk, part.ref, fits.ranking_for(state, part).best.part.part)
    discharge(unit)
    for board in unit.boards.all():
        for part in board_state(board.pk)[1].to_swap:
            swapping.swapped(board.pk, part.ref)


def before_power(unit: Unit) -> None:
    """What is asked each time before power: stores empty, nothing left inside."""
    discharge(unit)
    proving.take_reading(unit.pk, "cold.look.loose", "yes")


def live_session() -> dict[str, str]:
    """What the page of whatever has power now posts to make it idle."""
    session = PowerSession.objects.filter(ended=None).first()
    return {"session": str(session.pk)} if session else {}


def make_idle() -> None:
    """Make whatever has power idle."""
    proving.make_idle(int(live_session().get("session", 0)))


def power_at(unit: Unit, step: str) -> None:
    """Put power on, asked and answered."""
    proving.power_on(unit.pk, step, unit_state(unit.pk).last_event)


def pass_up_to(unit: Unit, stop: str) -> UnitState:
    """Pass every check of every step before the one named, power and idle as they come; left idle, and ready for power."""
    _pass_up_to(unit, stop)
    return unit_state(unit.pk)


@remembered
def _pass_up_to(unit: Unit, stop: str) -> None:
    for step in unit_state(unit.pk).proof.steps:
        live = unit_state(unit.pk).live_step
        if live and (step.rewire or not step.live):
            make_idle()
        if step.key == stop:
            break
        pass_step(unit, step)
    make_idle()
    before_power(unit)


def pass_step(unit: Unit, step: prove.PowerStep) -> None:
    """Pass the checks of one step, its cold ones first."""
    cold = [c for c in step.checks if not c.live]
    if cold:
        discharge(unit)
    for check in cold:
        if check.fact not in (DISCHARGED, INSIDE):
            proving.take_reading(unit.pk, check.key, good_text(check))
    if not unit_state(unit.pk).live_step:
        before_power(unit)
    live = [c for c in step.checks if c.live]
    if live and unit_state(unit.pk).live_step != step.key:
        power_at(unit, step.key)
    for check in live:
        if check.hold:
            wait_out(unit)
        proving.take_reading(unit.pk, check.key, good_text(check))


def wait_out(unit: Unit, minutes: float = prove.HOLD) -> None:
    """Let the hold pass: power came on so much earlier. Only a test may say so."""
    last = Event.objects.filter(unit=unit, kind="power").last()
    long_ago(last, timedelta(seconds=minutes * 60 + 1))


def long_ago(event: Event, ago: timedelta) -> None:
    """Let something have happened so much earlier, by both clocks. Only a test may say so."""
    Event.objects.filter(pk=event.pk).update(at=event.at - ago, steady=event.steady - ago)


def waits_are_over(procedure: UnitProcedure) -> None:
    """Let all waits of a procedure be over, by both clocks. Only a test may say so."""
    past = timezone.now() - timedelta(minutes=1)
    by_steady = steady.at(past)
    procedure.steps.exclude(free_at=None).update(free_at=past, free_steady=by_steady)
    UnitProcedure.objects.filter(pk=procedure.pk).exclude(dries_until=None).update(
        waits_until=past, dries_until=past, dries_steady=by_steady
    )
