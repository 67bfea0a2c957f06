"""Reforming an old wet capacitor: volts in steps through a resistor, watching the current fall.

Source: IEC 60384-4 practice for leakage, workshop practice for steps and stop rules.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..circuit.discharge import DANGEROUS
from ..refusal import BadInput
from ..text.quantity import show
from ..working import Line, Working
from . import ageing

#: Shares of the rated volts, in order.
STEPS = (0.2, 0.4, 0.6, 0.8, 1.0)
#: Series resistor that is sensible, Ω.
RESISTANCE = (470.0, 10_000.0)
#: Time given for the whole run, minutes.
TIME = 240.0
#: Current above the limit that grows by more than these shares counts as rising: over the last, over the lowest of its step.
RISING, RISING_IN_STEP = 0.05, 0.10
#: How far a current may read above what volts and resistor can give: the meter's and the resistor's own error.
READ_ERROR = 1.1
SOURCE = "IEC 60384-4 practice, three times the leakage after decades"

WAIT, NEXT, DONE, STOP = "wait", "next", "done", "stop"


def limit_at(value: float, volts: float) -> float:
    """Leakage allowed at a step's volts of a part that sat for decades, A.

    >>> round(limit_at(4700e-6, 16) * 1e6)
    2256
    """
    return ageing.leakage_limit(value, volts, reformed=True)


def reform(value: float, volts: float, resistance: float = 2200.0) -> Working:
    """What a reforming run looks like.

    Args:
        value: F. volts: V rated, never exceeded. resistance: Ω in series, 470 Ω to 10 kΩ.

    Returns:
        Working with steps (V), current_limit (A, at rated volts), time_constant (s), resistor_power (W, if the part shorts).

    Raises:
        BadInput: value or volts not above zero, or a resistor outside the sensible range.

    >>> reform(4700e-6, 16, 1000).values['steps']
    [3.2, 6.4, 9.6, 12.8, 16.0]
    """
    for name, number, unit in (("value", value, "F"), ("volts", volts, "V")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", "", name)
    if not RESISTANCE[0] <= resistance <= RESISTANCE[1]:
        raise BadInput(
            show(resistance, "Ω"),
            f"{show(RESISTANCE[0], 'Ω')} to {show(RESISTANCE[1], 'Ω')}",
            "It keeps a short harmless.",
            "resistance",
        )
    steps = [round(share * volts, 6) for share in STEPS]
    limit, power, tau = limit_at(value, volts), volts**2 / resistance, resistance * value
    lines = (
        Line(
            "Steps",
            "20, 40, 60, 80, 100 % of rated",
            f"of {show(volts, 'V')}",
            " ".join(show(v, "V") for v in steps),
            "",
            SOURCE,
        ),
        Line(
            "Current at the start of the first step",
            "V/R",
            f"{steps[0]:g} ÷ {resistance:g}",
            steps[0] / resistance,
            "A",
            "Ohm's law",
        ),
        Line("Time constant", "τ = RC", f"{show(resistance, 'Ω')} · {show(value, 'F')}", tau, "s", "RC charge"),
        Line(
            "Leakage allowed at rated volts",
            "3 · max(0.01·C[µF]·V, 3) µA",
            f"3 · 0.01 · {value * 1e6:g} · {volts:g}",
            limit,
            "A",
            SOURCE,
        ),
        Line(
            "Power in the resistor if the part shorts", "V²/R", f"{volts:g}² ÷ {resistance:g}", power, "W", "Ohm's law"
        ),
    )
    cautions = [
        "Never above the rated volts. Stop if the current rises or the can warms.",
        "Discharge it afterwards and log the reading.",
    ]
    if volts > DANGEROUS:
        cautions.insert(
            0, f"{volts:g} V can kill: for people trained for it. Enclose it, one hand, and wait out the discharge."
        )
    values = {"steps": steps, "current_limit": limit, "time_constant": tau, "resistor_power": power}
    return Working("reform", values, lines, tuple(cautions), {"value": value, "volts": volts, "resistance": resistance})


def possible(value: float, volts: float, resistance: float, step: int, current: float) -> None:
    """Refuse a current that the step's volts cannot drive through the resistor.

    Args:
        value, volts: F and V of the part. resistance: Ω in series. step: 0 to 4. current: A read.

    Raises:
        BadInput: more than V/R, the resistor's and meter's errors counted.
    """
    most = STEPS[step] * volts / resistance
    if current > READ_ERROR * most:
        raise BadInput(
            show(current, "A"),
            f"at most {show(most, 'A')}: {show(STEPS[step] * volts, 'V')} through {show(resistance, 'Ω')} gives no more",
            "Read the meter's range again, or measure the resistor.",
            "current",
        )


@dataclass(frozen=True)
class Reading:
    """A current read in a run: at which step (0 to 4), minutes since the run began, A, and whether the can feels warm."""

    step: int
    minutes: float
    current: float
    warm: bool = False


@dataclass(frozen=True)
class Advice:
    """What to do next, at which step, and why."""

    kind: str
    step: int
    text: str


def advise(value: float, volts: float, readings: Sequence[Reading], minutes: float) -> Advice:
    """Read a run.

    Args:
        value, volts: F and V of the part. readings: in order. minutes: since the run began, now.

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
    allowed = show(limit, "A")
    read = show(at_step[-1].current, "A") if at_step else ""
    met = len(at_step) >= 2 and at_step[-1].current <= limit
    if met and step == len(STEPS) - 1:
        text = f"{read} at rated volts, limit {allowed}, and not rising: it has reformed. Discharge it."
        return Advice(DONE, step, text)
    if minutes > TIME:
        return Advice(
            STOP, step, f"The limit of {allowed} was not met in {TIME / 60:g} h: stop, discharge, condemn it."
        )
    if met:
        return Advice(NEXT, step + 1, f"{read}, limit {allowed}: go to {show(STEPS[step + 1] * volts, 'V')}.")
    if len(at_step) < 2:
        text = f"Set {show(here, 'V')} and read the current twice; at most {allowed} in the end."
        return Advice(WAIT, step, text)
    return Advice(WAIT, step, f"{read}, limit {allowed}: wait and read again.")


def stairs(value: float, volts: float, readings: Sequence[Reading]) -> tuple[list[float], list[float]]:
    """What each step allows over the minutes of a run, A: flat while a step lasts, and down or up at once where the next begins."""
    minutes, amps = [0.0], [limit_at(value, STEPS[readings[0].step] * volts)]
    for before, after in pairwise(readings):
        if after.step != before.step:
            minutes += [before.minutes, before.minutes]
            amps += [amps[-1], limit_at(value, STEPS[after.step] * volts)]
    return [*minutes, max(readings[-1].minutes, 1.0)], [*amps, amps[-1]]
