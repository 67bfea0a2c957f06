"""A failed check that is accepted with its reason: written once, for a person at the bench and for a known fault alike."""

from __future__ import annotations

import math

from idlebench.core import prove
from idlebench.core.prove.record import READ

from ..records.models import Reading
from .door import note
from .log import log
from .state import UnitState


def write_reading(state: UnitState, check: prove.Check, typed: str, value: float | None, **facts: object) -> Reading:
    """A reading of a check as a row, with the limits as they stand now."""
    return Reading.objects.create(
        unit=state.row, key=check.key, step=check.step, point=check.point, ask=check.ask[:300], typed=typed[:60],
        value=value if value is not None and math.isfinite(value) else None, symbol=check.unit, limits=check.limits,
        at=state.now, **facts,
    )  # fmt: skip


def accept(state: UnitState, check: prove.Check, reason: str) -> Reading:
    """Write that a check is accepted with a reason; its interlocks were asked before."""
    before = state.reading_of(check)
    typed, value = (before.typed, before.value) if before else ("not read", None)
    reading = write_reading(state, check, typed, value, passed=False, overridden=True, reason=_kept(reason))
    facts = {"key": check.key, "value": value, "overridden": True, "was": {**check.evidence, **state.read_on}}
    state.happened(*note(state.row, READ, state.now, reading=reading, **facts))
    log(state.row, "override", f"{check.point}: accepted. {reason.strip()}")
    return reading


def withdraw(state: UnitState, check: prove.Check, reason: str) -> None:
    """Write what was accepted with a reason once more as what it is, failed; nothing where it was read again since."""
    before = state.reading_of(check)
    if before is None or not before.overridden or before.reason != _kept(reason):
        return
    value = math.inf if before.value is None else before.value
    reading = write_reading(state, check, before.typed, value, passed=False)
    facts = {"key": check.key, "value": value, "was": {**check.evidence, **state.read_on}}
    state.happened(*note(state.row, READ, state.now, reading=reading, **facts))
    log(state.row, "reading", f"{check.point}: no longer accepted, it failed.")


def _kept(reason: str) -> str:
    """A reason as it is kept."""
    return reason.strip()[:500]
