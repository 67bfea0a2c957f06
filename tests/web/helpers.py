"""Short ways to what many web tests do."""

from __future__ import annotations

from idlebench.core import prove
from idlebench.web.choose import services as choosing
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Unit
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import UnitState, board_state, unit_state


def good_text(check: prove.Check) -> str:
    """A typed reading that passes."""
    if check.seen:
        return "yes"
    if check.low is not None and check.high is not None:
        return f"{(check.low + check.high) / 2:.6g}"
    return f"{check.high / 2:.6g}" if check.high is not None else f"{check.low * 3:.6g}"


def settle(unit: Unit) -> None:
    """Choose and swap everything that the policy asks."""
    for board in unit.boards.all():
        state, found = board_state(board.pk)
        for part in found.places:
            choosing.take(state, found, part, choosing.ranking_for(state, part).best.part.part)
        _, found = board_state(board.pk)
        for part in found.to_swap:
            swapping.swapped(found, part, live=False)


def pass_up_to(unit: Unit, stop: str) -> UnitState:
    """Pass every check of every step before the one named, power and idle as they come; left idle."""
    for step in unit_state(unit.pk).proof.steps:
        state = unit_state(unit.pk)
        if state.session and (step.rewire or not step.live):
            proving.make_idle(state.session)
        if step.key == stop:
            break
        for check in sorted(step.checks, key=lambda c: c.live):
            state = unit_state(unit.pk)
            if check.live and state.live_step != step.key:
                proving.power_on(state, step.key)
            proving.take_reading(unit_state(unit.pk), check.key, good_text(check))
    state = unit_state(unit.pk)
    if state.session:
        proving.make_idle(state.session)
    return unit_state(unit.pk)
