"""Reforming an old wet capacitor: volts in steps through a resistor, watching the current fall.

Source: 0.01·C·V or 3 µA: IEC 60384-4:2016, 4.9, as makers fill it in; steps and stop rules: workshop practice, because a film that
forms too fast breaks through.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..circuit.discharge import DANGEROUS
from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show
from . import ageing

#: Shares of the rated volts, in order.
STEPS = (0.2, 0.4, 0.6, 0.8, 1.0)
#: Series resistor that is sensible, Ω; under this a short takes watts from it, and the source limits the current as well.
RESISTANCE, LIMITED_UNDER = (100.0, 10_000.0), 470.0
#: What a part holds of a step's volts at the least, as a share. A dead short holds none, however small its current is.
HELD = 0.95
#: How long a step's current and volts must stay good, minutes: at each step, and at rated volts.
#: Workshop practice, because the oxide grows for minutes: two readings seconds apart are one reading.
DWELL, DWELL_LAST = 5.0, 30.0
#: Under this share of a step's volts after the dwell, and after so many time constants, a part is a short; one that leaks gets time.
SHORT, SETTLED = 0.1, 5.0
#: Time given for the whole run, minutes.
TIME = 240.0
#: Current above the limit that grows by more than these shares counts as rising: over the last, over the lowest of its step.
RISING, RISING_IN_STEP = 0.05, 0.10
#: How far a current may read above what volts and resistor can give: the meter's and the resistor's own error.
READ_ERROR = 1.1
SOURCE = "IEC 60384-4:2016, 4.9; three times it: workshop practice, because a film decades old forms on for days"

WAIT, NEXT, DONE, STOP = "wait", "next", "done", "stop"


def limit_at(value: float, volts: float) -> float:
    """Leakage allowed at a step's volts of a part that sat for decades, A.

    >>> round(limit_at(4700e-6, 16) * 1e6)
    2256
    """
    return ageing.leakage_limit(value, volts, reformed=True)


def largest(value: float, volts: float) -> float:
    """The largest series resistor with which a part at its limit still holds its share of each step's volts, Ω.

    Args:
        value: the value, in SI.
        volts: V.

    Returns:
        Ω, rounded down to three digits, so that what a page shows is allowed.


    >>> largest(4700e-6, 16)
    354.0
    """
    most = min((1 - HELD) * share * volts / limit_at(value, share * volts) for share in STEPS)
    digit = 10.0 ** (math.floor(math.log10(most)) - 2)
    return min(max(math.floor(most / digit + 1e-9) * digit, RESISTANCE[0]), RESISTANCE[1])


def check_resistance(value: float, volts: float, resistance: float) -> None:
    """Refuse a resistor that would hide a short, or that leaves a short no limit.

    Args:
        value: the value, in SI.
        volts: V.
        resistance: Ω.

    Raises:
        BadInput: outside of what the part asks, Ω.
    """
    most = largest(value, volts)
    if not RESISTANCE[0] <= resistance <= most:
        raise BadInput(
            show(resistance, "Ω"),
            f"{show(RESISTANCE[0], 'Ω')} to {show(most, 'Ω')}",
            f"A larger resistor hides a short: at the leakage limit it drops over {1 - HELD:.0%} of the volts.",
            field="resistance",
        )


def reform(value: float, volts: float, resistance: float = 330.0) -> Calculation:
    """What a reforming run looks like.

    Args:
        value: F.
        volts: V rated, never exceeded.
        resistance: Ω in series, 100 Ω to 10 kΩ; one that hides a short is warned of.

    Returns:
        Working with steps (V), current_limit (A, at rated volts), time_constant (s), resistor_power (W, if the part shorts).


    Raises:
        BadInput: value or volts not above zero, or a resistor outside the sensible range.

    >>> reform(4700e-6, 16, 1000).values['steps']
    [3.2, 6.4, 9.6, 12.8, 16.0]
    """
    for name, number, unit in (("value", value, "F"), ("volts", volts, "V")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    if not RESISTANCE[0] <= resistance <= RESISTANCE[1]:
        raise BadInput(
            show(resistance, "Ω"),
            f"{show(RESISTANCE[0], 'Ω')} to {show(RESISTANCE[1], 'Ω')}",
            "It keeps a short harmless.",
            field="resistance",
        )
    steps = [round(share * volts, 6) for share in STEPS]
    limit, power, tau = limit_at(value, volts), volts**2 / resistance, resistance * value
    lines = (
        CalculationLine(
            label="Steps",
            formula="20, 40, 60, 80, 100 % of rated",
            numbers=f"of {show(volts, 'V')}",
            value=" ".join(show(v, "V") for v in steps),
            unit="",
            source=SOURCE,
        ),
        CalculationLine(
            label="Current at the start of the first step",
            formula="V/R",
            numbers=f"{steps[0]:g} ÷ {resistance:g}",
            value=steps[0] / resistance,
            unit="A",
            source="Ohm's law",
        ),
        CalculationLine(
            label="Time constant",
            formula="τ = RC",
            numbers=f"{show(resistance, 'Ω')} · {show(value, 'F')}",
            value=tau,
            unit="s",
            source="RC charge",
        ),
        CalculationLine(
            label="Leakage allowed at rated volts",
            formula="3 · max(0.01·C[µF]·V, 3) µA",
            numbers=f"3 · 0.01 · {value * 1e6:g} · {volts:g}",
            value=limit,
            unit="A",
            source=SOURCE,
        ),
        CalculationLine(
            label="Power in the resistor if the part shorts",
            formula="V²/R",
            numbers=f"{volts:g}² ÷ {resistance:g}",
            value=power,
            unit="W",
            source="Ohm's law",
        ),
    )
    cautions = [
        "Never above the rated volts. Stop if the current rises or the can warms.",
        "Discharge it afterwards and log the reading.",
    ]
    most = largest(value, volts)
    if resistance > most:
        cautions.insert(
            0,
            f"{show(resistance, 'Ω')} hides a short: at the limit of {show(limit, 'A')} it drops over {1 - HELD:.0%} of the volts. "
            f"At most {show(most, 'Ω')}.",
        )
    if resistance < LIMITED_UNDER:
        cautions.insert(
            0,
            f"A short takes {show(power, 'W')} from the resistor. Use a source with a current limit, and set the limit.",
        )
    if volts > DANGEROUS:
        cautions.insert(
            0, f"{volts:g} V can kill: for trained people. Enclose it, one hand, and wait for the discharge."
        )
    values = {"steps": steps, "current_limit": limit, "time_constant": tau, "resistor_power": power}
    return Calculation(
        name="reform",
        values=values,
        lines=lines,
        cautions=tuple(cautions),
        inputs={"value": value, "volts": volts, "resistance": resistance},
    )


def possible(
    value: float, volts: float, resistance: float, step: int, current: float, across: float | None = None
) -> None:
    """Refuse a current that the step's volts cannot drive through the resistor, and volts that do not agree with it.

    Args:
        value: the value, in SI.
        volts: V.
        resistance: Ω in series.
        step: 0 to 4.
        current: A read.
        across: V read across the part.

    Raises:
        BadInput: more than V/R, or volts across part and resistor that do not add up to the step's, each with the errors of
            resistor and meter counted.
    """
    here = STEPS[step] * volts
    most = here / resistance
    if current > READ_ERROR * most:
        raise BadInput(
            show(current, "A"),
            f"at most {show(most, 'A')}: {show(STEPS[step] * volts, 'V')} through {show(resistance, 'Ω')} gives no more",
            "Read the meter's range again, or measure the resistor.",
            field="current",
        )
    if across is not None and abs(across + current * resistance - here) > (READ_ERROR - 1) * here:
        sum_ = f"{show(across, 'V')} and {show(current, 'A')} · {show(resistance, 'Ω')} = {show(across + current * resistance, 'V')}"
        raise BadInput(
            show(across, "V"),
            f"volts that add up to the {show(here, 'V')} of this step",
            f"Part and resistor together: {sum_}. Set the source to {show(here, 'V')}, or read the meter again.",
            field="across",
        )


@dataclass(frozen=True, kw_only=True)
class CurrentReading:
    """A current read in a run: at which step (0 to 4), minutes since the run began, A, whether the can feels warm, and V across the
    part, None where nobody read them."""

    step: int
    minutes: float
    current: float
    warm: bool = False
    volts: float | None = None


@dataclass(frozen=True)
class Advice:
    """What to do next, at which step, and why."""

    kind: str
    step: int
    text: str


def dwell_of(step: int) -> float:
    """How long a step must stay good, minutes."""
    return DWELL_LAST if step == len(STEPS) - 1 else DWELL


def advise(
    value: float, volts: float, readings: Sequence[CurrentReading], minutes: float, resistance: float = RESISTANCE[1]
) -> Advice:
    """Read a run. A step passes once the part has held its share of the volts, with its leakage under the limit, for the step's dwell.

    Args:
        value: the value, in SI.
        volts: V.
        readings: in order, minutes by the bench's clocks.
        minutes: since the run began, now.
        resistance: Ω in series.

    Returns:
        Advice: wait, go to the next step, done, or stop and condemn.
    """
    step = readings[-1].step if readings else 0
    at_step = [r for r in readings if r.step == step]
    here = STEPS[step] * volts
    if readings and readings[-1].warm:
        return Advice(STOP, step, "The can is warm: stop, discharge, condemn it.")
    limit = limit_at(value, here)
    if len(at_step) >= 2 and at_step[-1].current > limit:
        last, before = at_step[-1].current, at_step[-2].current
        lowest = min(r.current for r in at_step[:-1])
        if last > before * (1 + RISING) or last > lowest * (1 + RISING_IN_STEP):
            rose = f"{show(min(before, lowest), 'A')} to {show(last, 'A')}, limit {show(limit, 'A')}"
            return Advice(STOP, step, f"The current rose, {rose}: stop, discharge, condemn it.")
    settled = SETTLED * resistance * value / 60
    if at_step and (lost := _shorted(at_step, here, max(settled, DWELL))) is not None:
        text = (
            f"{show(lost, 'V')} of {show(here, 'V')} stand across the part: it is a short. Stop, discharge, condemn it."
        )
        return Advice(STOP, step, text)
    allowed = show(limit, "A")
    read = _read(at_step[-1]) if at_step else ""
    stayed = _stayed_good(at_step, limit, here)
    met = stayed is not None and stayed >= dwell_of(step)
    if met and step == len(STEPS) - 1:
        text = f"{read} at rated volts for {stayed:.0f} min, limit {allowed}, and not rising: it has reformed. Discharge it."
        return Advice(DONE, step, text)
    if minutes > TIME:
        return Advice(
            STOP, step, f"The limit of {allowed} was not met in {TIME / 60:g} h: stop, discharge, condemn it."
        )
    if met:
        return Advice(NEXT, step + 1, f"{read}, limit {allowed}: go to {show(STEPS[step + 1] * volts, 'V')}.")
    if not at_step:
        text = (
            f"Set {show(here, 'V')}. Read current and volts across the part: at most {allowed}, and at least "
            f"{show(HELD * here, 'V')}, for {dwell_of(step):g} min."
        )
        return Advice(WAIT, step, text)
    if stayed is not None:
        left = dwell_of(step) - stayed
        return Advice(WAIT, step, f"{read}, limit {allowed}: good. Read again in {max(left, 0.1):.2g} min.")
    held = at_step[-1].volts
    if held is None:
        return Advice(WAIT, step, f"{read}, limit {allowed}. Read the volts across the part as well.")
    if at_step[-1].current <= limit:
        return Advice(
            WAIT, step, f"{read}: at least {show(HELD * here, 'V')} is wanted across the part. Wait, read again."
        )
    return Advice(WAIT, step, f"{read}, limit {allowed}: wait and read again.")


def _read(reading: CurrentReading) -> str:
    """A reading in words."""
    across = f", {show(reading.volts, 'V')} across the part" if reading.volts is not None else ""
    return f"{show(reading.current, 'A')}{across}"


def _stayed_good(at_step: Sequence[CurrentReading], limit: float, here: float) -> float | None:
    """For how long the last readings of a step are good without a break, minutes; None where the last one is not."""
    first = None
    for reading in reversed(at_step):
        if reading.current > limit or reading.volts is None or reading.volts < HELD * here:
            break
        first = reading
    return at_step[-1].minutes - first.minutes if first is not None else None


def _shorted(at_step: Sequence[CurrentReading], here: float, settled: float) -> float | None:
    """The volts across a part that holds next to none of a step's after its time constants, V; None where it holds more."""
    last = at_step[-1]
    if last.volts is None or last.volts >= SHORT * here or last.minutes - at_step[0].minutes < settled:
        return None
    return last.volts


def stairs(value: float, volts: float, readings: Sequence[CurrentReading]) -> tuple[list[float], list[float]]:
    """What each step allows over the minutes of a run, A: flat while a step lasts, and down or up at once where the next begins."""
    minutes, amps = [0.0], [limit_at(value, STEPS[readings[0].step] * volts)]
    for before, after in pairwise(readings):
        if after.step != before.step:
            minutes += [before.minutes, before.minutes]
            amps += [amps[-1], limit_at(value, STEPS[after.step] * volts)]
    return [*minutes, max(readings[-1].minutes, 1.0)], [*amps, amps[-1]]
