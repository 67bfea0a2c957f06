"""The gates between steps: why something may not be done yet, and where a unit stands."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from ..board.parts import Fitted
from ..judge import ageing
from ..refusal import Shut
from ..text.quantity import show
from .checks import Check, Record, Step


def done(check: Check, record: Record) -> bool:
    """Whether a check passed, or was overridden where that is allowed."""
    seen = record.get(check.key)
    return bool(seen and (seen.passed or (seen.overridden and not check.safety)))


def step_done(step: Step, record: Record) -> bool:
    """Whether everything of a step passed."""
    return all(done(check, record) for check in step.checks)


def open_items(step: Step, record: Record) -> tuple[Shut, ...]:
    """What of a step is missing or failed, as reasons; many alike are counted, not listed."""
    failed = [c for c in step.checks if (s := record.get(c.key)) and not done(c, record) and s is not None]
    missing = [c for c in step.checks if c.key not in record]
    reasons = [
        Shut(
            "failed",
            f"{c.point}: {show(record[c.key].value, c.unit) if not c.seen else 'not as it should be'}, limit {c.limits}.",
        )
        for c in failed
    ]
    if missing:
        what = f"{missing[0].point}" if len(missing) == 1 else f"{missing[0].point} and {len(missing) - 1} more"
        reasons.append(Shut("missing", f"{step.title}: {len(missing)} not done ({what})."))
    return tuple(reasons)


def step_gate(steps: Sequence[Step], record: Record, key: str) -> tuple[Shut, ...]:
    """Why a step may not be begun yet; empty when it is open. Every step before it must have passed."""
    reasons: list[Shut] = []
    for step in steps:
        if step.key == key:
            return tuple(reasons)
        reasons += open_items(step, record)
    return (Shut("unknown", f"There is no step “{key}” on this unit's way up."),)


def power_gate(steps: Sequence[Step], record: Record, key: str, live_step: str | None) -> tuple[Shut, ...]:
    """Why power may not be put on at a step: earlier steps, its own cold items, or a change of wiring while live."""
    step = next((s for s in steps if s.key == key), None)
    reasons = list(step_gate(steps, record, key))
    if step is None:
        return tuple(reasons)
    if not step.live:
        reasons.append(Shut("cold", f"“{step.title}” is done without power."))
    cold_items = tuple(c for c in step.checks if not c.live)
    reasons += open_items(Step(step.key, step.title, "", cold_items), record)
    if live_step and live_step != key and step.rewire:
        reasons.append(
            Shut(
                "live", "The unit has power, and something is plugged for this step.", "Make idle and discharge first."
            )
        )
    return tuple(reasons)


def reading_gate(steps: Sequence[Step], record: Record, check: Check, live_step: str | None) -> tuple[Shut, ...]:
    """Why a reading of a check cannot be taken now."""
    reasons = list(step_gate(steps, record, check.step))
    if check.live and live_step is None:
        reasons.append(
            Shut("idle", "The unit is idle: a reading now says nothing.", "Put power on at this step first.")
        )
    elif check.live and live_step != check.step:
        reasons.append(Shut("step", "Power is on at another step.", "Go on to this step first."))
    if not check.live and live_step is not None:
        reasons.append(Shut("live", "The unit has power, and this is checked without.", "Make idle first."))
    cold = next(s for s in steps if s.key == "cold")
    if check.step == "cold" and check.aspect != "discharge" and check.kind in ("continuity", "resistance"):
        stores = [c for c in cold.checks if c.aspect == "discharge" and c.board == check.board and not done(c, record)]
        reasons += [
            Shut(
                "charged",
                f"{c.point.capitalize()} on {c.board} is not logged as discharged.",
                "Log under 10 V there first.",
            )
            for c in stores
        ]
    return tuple(reasons)


@dataclass(frozen=True)
class Progress:
    """Where a unit stands on its way up."""

    steps: tuple[Step, ...]
    record: Record = field(default_factory=dict)

    @property
    def current(self) -> Step | None:
        """The first step that has not passed; None when all have."""
        return next((s for s in self.steps if not step_done(s, self.record)), None)

    @property
    def proven(self) -> bool:
        return len(self.steps) > 1 and self.current is None

    def check(self, key: str) -> Check | None:
        return next((c for s in self.steps for c in s.checks if c.key == key), None)

    def step(self, key: str) -> Step | None:
        return next((s for s in self.steps if s.key == key), None)


def ripple_suspects(parts: Iterable[Fitted], rail: str, kept: frozenset[str]) -> tuple[str, ...]:
    """Kept wet parts on a rail, the first to suspect when it ripples: worst new-part ESR share first."""

    def share(part: Fitted) -> float:
        if part.esr is None or not part.volts:
            return 0.0
        return part.esr / ageing.new_esr(part.value, part.volts, part.esr_frequency or 120.0)

    wanted = re.sub(r"[^0-9+−.]", "", rail.replace("-", "−"))
    on_rail = [
        p
        for p in parts
        if p.ref in kept and p.kind == "wet" and re.sub(r"[^0-9+−.]", "", p.rail.replace("-", "−")) == wanted and wanted
    ]
    return tuple(p.ref for p in sorted(on_rail, key=lambda p: -share(p)))
