"""Interlocks of the first look, of power and of readings.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

from ...refusal import Block
from ...text.quantity import show
from ..checks import Check, PowerStep
from ..clock import lasted, set_back
from ..facts import CLIPPED, DISCHARGED, INSIDE, MAINS_READ
from ..low_voltage import smoke_step, why_not_low
from ..proof import Proof
from .common import Reasons, capitalised, closed, in_minutes, some_of
from .hands import drying, on_reforming_volts, touch_for
from .parts import batteries, blown_again, mains_parts, unread


def first_look(proof: Proof) -> Reasons:
    """The looks that can hurt somebody are ticked; nothing skips them."""
    return tuple(
        Block("first look", f"First look: {look.text}.", "Confirm it at Intake once it is done.")
        for look in proof.looks
        if look.hurts and look.key not in proof.looked
    )


def rest_of_first_look(proof: Proof) -> Reasons:
    """The other looks are ticked, or skipped with a reason."""
    left = [
        look
        for look in proof.looks
        if not look.hurts and look.key not in proof.looked and look.key not in proof.skipped
    ]
    if not left:
        return ()
    named = ", ".join(look.text for look in left)
    return (
        Block("first look", f"First look, {len(left)} left: {named}.", "Confirm them, or skip each with a reason."),
    )


def tick(proof: Proof, key: str) -> Reasons:
    """A look is ticked once it is so: the battery's only when none leaks."""
    return batteries(proof.boards) if key == "battery" and key not in proof.looked else ()


def skip(proof: Proof, key: str) -> Reasons:
    """A look that can hurt somebody is not skipped."""
    look = next((look for look in proof.looks if look.key == key), None)
    if look is None or not look.hurts:
        return ()
    return (Block("first look", f"“{look.text}” cannot be skipped: {look.why}", "Do it, then confirm it."),)


def open_items(proof: Proof, step: PowerStep, for_step: str = "", but: tuple[str, ...] = ()) -> Reasons:
    """What of a step is missing, failed or no longer true; many alike are counted, not listed. but: facts left out."""
    reasons, missing, void = [], [], {}
    for check in (c for c in proof.open_checks(step, for_step) if c.fact not in but):
        stood = proof.status_of(check)
        if stood.failed:
            value = "not as it should be" if check.seen or stood.value is None else show(stood.value, check.unit)
            reasons.append(Block("failed", f"{capitalised(check.point)}: {value}, limit {check.limits}."))
        elif stood.event is not None:
            void.setdefault(stood.void or "it was overridden", []).append(check.point)
        else:
            missing.append(check.point)
    for why, points in void.items():
        reasons.append(Block("void", f"{capitalised(some_of(points))}: asked again, {why}.", "Read it again."))
    if missing:
        reasons.append(Block("missing", f"{step.title}: {len(missing)} not done ({some_of(missing)})."))
    return tuple(reasons)


def step(proof: Proof, key: str, but: tuple[str, ...] = ()) -> Reasons:
    """Why a step may not be begun yet: every step before it is done. but: facts that are not asked for it."""
    reasons: list[Block] = []
    for earlier in proof.steps:
        if earlier.key == key:
            return tuple(reasons)
        reasons += open_items(proof, earlier, key, but)
    return (Block("unknown", f"There is no step “{key}” among this unit's power-up steps."),)


def power(proof: Proof, key: str) -> Reasons:
    """Why power may not be put on at a step."""
    reasons = [*closed(proof), *first_look(proof), *batteries(proof.boards), *mains_parts(proof.boards)]
    reasons += (*unread(proof.boards), *on_reforming_volts(proof), *drying(proof), *blown_again(proof), *off_now(proof))
    if proof.live_elsewhere:
        reasons.append(
            Block(
                "other",
                f"Unit {proof.live_elsewhere} has power.",
                "Only one unit may be live at a time: make it idle first.",
            )
        )
    reasons += (*untuned(proof, key), *step(proof, key))
    asked = proof.step(key)
    if asked is None:
        return tuple(reasons)
    if not asked.live:
        reasons.append(Block("cold", f"“{asked.title}” is done without power."))
    before = PowerStep(key=asked.key, title=asked.title, detail="", checks=tuple(c for c in asked.checks if not c.live))
    reasons += open_items(proof, before, key)
    if proof.live == key:
        reasons.append(Block("live", "Power is on at this step already."))
    elif proof.live and asked.rewire:
        reasons.append(
            Block(
                "live", "The unit has power, and something is plugged for this step.", "Make idle and discharge first."
            )
        )
    return tuple(reasons)


def smoke(proof: Proof) -> Reasons:
    """Why no smoke test may be made now: what power at its step asks, on the short power-up method alone."""
    at = smoke_step(proof.steps, proof.way)
    if at is None:
        why = why_not_low(proof.boards)
        told = some_of(why) if why else "this job has another power-up method"
        text = f"A smoke test is for machines under 60 V on a DC source with a limit: {told}."
        return (Block("smoke", text, "Use the power-up steps."),)
    return power(proof, at.key)


def no_smoke() -> Reasons:
    """Why a smoke test cannot be logged: no power is on for one."""
    return (Block("smoke", "The unit has no power at the step of a smoke test.", "Put its source on first."),)


def answered(now: int, asked: int) -> Reasons:
    """A question about power is answered on what was there when it was asked. now, asked: the last event then and now."""
    if now == asked:
        return ()
    return (Block("asked", "Something was logged since you were asked.", "Look at the page again, then answer."),)


def reading(proof: Proof, check: Check) -> Reasons:
    """Why a reading of a check cannot be taken now."""
    reasons = [*closed(proof)]
    if not check.live and proof.live:
        reasons.append(Block("live", "The unit has power, and this check is made without power.", "Make idle first."))
    reasons += _after(proof, check)
    if check.fact != DISCHARGED:
        # with hands inside, nobody can say yet that nothing is left there
        reasons += step(proof, check.step, but=() if check.live else (INSIDE,))
    if check.live:
        reasons += _under_power(proof, check)
    elif (
        check.fact not in (DISCHARGED, MAINS_READ) and not proof.live and (not check.seen or proof.record.ever_powered)
    ):
        reasons += [r for r in touch_for(proof, check) if r not in reasons]
    return tuple(reasons)


def _after(proof: Proof, check: Check) -> Reasons:
    """What comes so long after another check waits for that, by the clock."""
    if not check.after:
        return ()
    key, seconds = check.after
    before = proof.check(key)
    stood = proof.status_of(before) if before is not None else None
    if stood is None or not stood.passed or stood.event is None:
        name = before.point if before is not None else key
        return (Block("after", f"It comes after: {name}.", "Do and log that first."),)
    left = seconds - lasted(stood.event.moment, proof.moment)
    if left > 0:
        return (Block("wait", f"Charge creeps back: wait {in_minutes(left)} more.", "Nothing shortens the wait."),)
    return ()


def scope(proof: Proof) -> Reasons:
    """No scope on a hot chassis before its isolation is seen: its earth is joined to the mains."""
    hot = [c for c in proof.steps[0].checks if c.key.startswith("cold.hot.") and not proof.status_of(c).passed]
    return tuple(
        Block(
            "hot chassis",
            f"{c.board} has a hot chassis, and its isolation is not checked.",
            "The scope's earth would short the mains: an isolation transformer first, logged at Cold checks.",
        )
        for c in hot
    )


#: Steps in which a line stage has power.
LINE_STAGE = ("mrise.", "mpart.", "mline.", "mshut.", "mfield.", "mpict.", "msoak.")


def untuned(proof: Proof, step: str) -> Reasons:
    """No line stage gets power with another tuning part than the sheet's, for pulse, tube volts and X-rays go with it; nor with its
    anode still clipped to the braid."""
    if not step.startswith(LINE_STAGE):
        return ()
    clips = (c for s in proof.steps for c in s.checks if c.fact == CLIPPED and proof.status_of(c).passed)
    on = tuple(
        Block(
            "clip",
            f"A lead still joins the anode of {c.board} to its braid.",
            "Take it off, and answer that check with no.",
        )
        for c in clips
    )
    return on + tuple(
        Block(
            "tuning",
            f"{board.name}: {words}.",
            "Fit the part given in the service sheet: same value, same kind, pulse-rated.",
        )
        for board in proof.boards
        for words in board.untuned
    )


def off_now(proof: Proof) -> Reasons:
    """What failed in a way that hurts: nothing goes on before the machine is off."""
    if not proof.live:
        return ()
    step = proof.step(proof.live)
    failed = [c for c in (step.checks if step else ()) if c.off_now and proof.status_of(c).failed]
    return tuple(
        Block("off now", f"{capitalised(c.point)} failed.", "Off now: switch it off at the mains, then make idle.")
        for c in failed
    )


def _under_power(proof: Proof, check: Check) -> Reasons:
    if not proof.live:
        return (Block("idle", "The unit is idle: a reading now means nothing.", "Put power on at this step first."),)
    if reasons := off_now(proof):
        return reasons
    if proof.live != check.step:
        return (Block("step", "Power is on at another step.", "Go on to this step first."),)
    held = proof.held(check.step) or 0.0
    left = check.hold * 60 - held
    if left > 0 and proof.power is not None and (back := set_back(proof.power.moment, proof.moment)):
        said = f"The clock was set back by {in_minutes(back)} after power-on, so the time under power is unknown."
        return (Block("clock", said, "Make idle, then begin this step again."),)
    if left > 0:
        text = f"Power has been on for {in_minutes(held)} of {check.hold:g} minute{'s' * (check.hold != 1)}."
        return (Block("hold", text, f"Answer it in {in_minutes(left)}."),)
    return ()


def override(proof: Proof, check: Check) -> Reasons:
    """Only where no one can be hurt, and only where it could be read."""
    if check.safety:
        return (Block("safety", "It could hurt someone.", "Repair it and measure again."),)
    return reading(proof, check)
