"""How far a suspect has drifted, by what was read: the middle and the middle 90 % of what its severities were given.

Source: the shares of Bayes' rule that suspects.py gives each severity; between two of them a value goes as a power of the way, since
values drift by shares.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..simulate.supply import Bench
from ..simulate.truth import Fault
from ..text.quantity import show

#: Ω of a sound joint.
SOUND_JOINT = 0.02
#: What is told of a fault first, with its unit, and in words.
TOLD = {"cap": ("capacitance", "F"), "esr": ("ESR", "Ω"), "joint": ("resistance", "Ω")}
#: The share of all severities that low and high leave out, on either side.
OUTSIDE = 0.05


@dataclass(frozen=True, kw_only=True)
class Step:
    """A severity on its way from one set of faults to a worse one. way: 0 to 1. share: what it was given."""

    before: tuple[Fault, ...]
    after: tuple[Fault, ...]
    way: float
    share: float


@dataclass(frozen=True, kw_only=True)
class Severity:
    """How far a part has drifted. what, unit: of the number. value: the middle. low, high: the middle 90 %. new: of a sound one.

    words: for people.
    """

    what: str
    value: float
    low: float
    high: float
    unit: str
    new: float
    words: str


def severity_of(bench: Bench, ref: str, steps: Sequence[Step]) -> Severity | None:
    """How far a suspect has drifted.

    Args:
        bench: the supply.
        ref: the suspect's part.
        steps: its severities with their shares.

    Returns:
        None for what does not drift: open, shorted, blown.
    """
    whole = sum(step.share for step in steps)
    first = next((fault for fault in steps[0].after if fault.what in TOLD), None) if steps else None
    if first is None or whole <= 0:
        return None
    numbers = {
        fault.what: _middle([(_value(bench, step, fault.what), step.share / whole) for step in steps])
        for fault in steps[0].after
        if fault.what in TOLD
    }
    what, unit = TOLD[first.what]
    low, value, high = numbers[first.what]
    new = _sound(bench, ref, first.what)
    return Severity(what=what, value=value, low=low, high=high, unit=unit, new=new, words=_words(bench, ref, numbers))


def _sound(bench: Bench, ref: str, what: str) -> float:
    store = bench.stores.get(ref)
    return SOUND_JOINT if store is None else store.value if what == "cap" else store.esr


def _value(bench: Bench, step: Step, what: str) -> float:
    after = next(fault for fault in step.after if fault.what == what)
    before = next((fault.value for fault in step.before if fault.what == what), _sound(bench, after.ref, what))
    return float(before ** (1 - step.way) * after.value**step.way)


def _middle(weighed: Sequence[tuple[float, float]]) -> tuple[float, float, float]:
    """Low, middle and high of some values with their weights."""
    values, weights = np.array(sorted(weighed)).T
    along = np.cumsum(weights)
    low, middle, high = (
        float(values[min(np.searchsorted(along, at), len(values) - 1)]) for at in (OUTSIDE, 0.5, 1 - OUTSIDE)
    )
    return low, middle, high


def _about(value: float) -> str:
    """Ω to two digits: no more is known."""
    return show(float(f"{value:.2g}"), "Ω")


def _words(bench: Bench, ref: str, numbers: dict[str, tuple[float, float, float]]) -> str:
    if "joint" in numbers:
        return f"about {_about(numbers['joint'][1])}; a sound joint has under {show(SOUND_JOINT, 'Ω')}"
    said = []
    if "cap" in numbers:
        said.append(f"about {round(100 * numbers['cap'][1] / _sound(bench, ref, 'cap'))} % of its capacitance is left")
    if "esr" in numbers:
        new = _about(_sound(bench, ref, "esr"))
        said.append(f"ESR is about {_about(numbers['esr'][1])}, and a sound one has {new}")
    return "; ".join(said)
