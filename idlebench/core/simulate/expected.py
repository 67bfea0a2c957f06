"""What a supply with these parts should read: the band that tolerances leave, from many draws in one run.

Store value ±20 % or its measured value ±3 %, ESR 0.25 to 0.8 of a new one's limit or measured ±10 %, load ±10 %, mains as typed
±2 %, regulation of a winding ±20 % of itself, diodes ±60 mV, a rail's set point ±4 % (78xx type), ±1 % (trimmed) or ±2 %.

Source: tolerances as marked or as IEC 60384-4:2016, 2.2, has them; those of loads, mains and windings: workshop practice, because no
label gives them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .readings import Asked, read_values
from .rectifier import MIDDLING
from .state import State
from .steady_state import run
from .supply import Bench
from .truth import Values

#: Draws in a run, and the share of them that the band leaves out on either side, %.
DRAWS, OUTSIDE = 500, 2.5
#: How far each number strays, as a share.
VALUE, VALUE_READ, ESR_NEW, ESR_READ, LOAD = 0.20, 0.03, (0.25, 0.8), 0.10, 0.10
MAINS, MAINS_UNKNOWN, REGULATION, DIODE = 0.02, 0.10, 0.20, 0.060
SET_FIXED, SET_TRIMMED, SET_OTHER = 0.04, 0.01, 0.02
SOURCE = "500 draws over the tolerances of parts, load, mains and winding; the middle 95 %"


@dataclass(frozen=True)
class Band:
    """From low to high by value; `middle` is the median."""

    low: float
    high: float
    middle: float

    def holds(self, value: float) -> bool:
        return self.low <= value <= self.high


def share_above(bench: Bench, state: State, asked: Asked, limit: float, mains_known: bool = True) -> float:
    """The share of supplies that could be this one of which a point reads more than a limit."""
    values = draws(bench, mains_known=mains_known)
    numbers = read_values(bench, values, state, run(bench, values, state, 0.0, MIDDLING), asked)
    return float(np.mean(np.abs(numbers[np.isfinite(numbers)]) > limit))


def draws(bench: Bench, count: int = DRAWS, seed: int = 1, mains_known: bool = True) -> Values:
    """Numbers of so many supplies that could be this one."""
    rng = np.random.default_rng(seed)
    values = Values(count, alike=True)

    def about(share: float) -> np.ndarray:
        return rng.uniform(1 - share, 1 + share, count)

    values.put("mains", "share", about(MAINS if mains_known else MAINS_UNKNOWN))
    for i in range(len(bench.branches)):
        values.put("winding", str(i), about(REGULATION))
        values.put("diode", str(i), rng.uniform(-DIODE, DIODE, count))
    values.put("load", "share", about(LOAD))
    for rail in bench.rails.values():
        values.put(rail.name, "load", about(LOAD))
        regulated = rail.out is None
        values.put(rail.name, "set", about(SET_FIXED if regulated else SET_TRIMMED if rail.trimmed else SET_OTHER))
    for ref, one in bench.stores.items():
        values.put(ref, "value", one.value * about(VALUE_READ if one.value_read else VALUE))
        if one.esr_read:
            esr = one.esr * about(ESR_READ)
        elif one.dry:
            esr = np.full(count, one.esr)
        else:
            esr = one.limit * rng.uniform(*ESR_NEW, count)
        values.put(ref, "esr", esr)
        values.put(ref, "esr_high", esr if one.dry else esr * one.share)
    return values


def bands(
    bench: Bench, state: State, asked: Sequence[Asked], seconds: float = 0.0, count: int = DRAWS, seed: int = 1,
    mains_known: bool = True,
) -> list[Band]:  # fmt: skip
    """What each point should read, in a state of the bench.

    Args:
        bench: the supply as the simulated bench knows it.
        state: the state the supply is in.
        asked: what is asked for.
        seconds: s.
        count: how many.
        seed: the dice's seed.
        mains_known: whether the mains were read.

    Returns:
        A band for each point, in their order.

    Raises:
        BadInput: what cannot be read so.
    """
    return foreseen(bench, state, asked, seconds, count, seed, mains_known)[0]


def foreseen(
    bench: Bench, state: State, asked: Sequence[Asked], seconds: float = 0.0, count: int = DRAWS, seed: int = 1,
    mains_known: bool = True,
) -> tuple[list[Band], tuple[str, ...]]:  # fmt: skip
    """What each point should read, and what happens in most of the draws, in words.

    Args:
        bench: the supply as the simulated bench knows it.
        state: the state the supply is in.
        asked: what is asked for.
        seconds: s.
        count: how many.
        seed: the dice's seed.
        mains_known: whether the mains were read.

    Returns:
        A band for each point, and sentences for what else happens.

    Raises:
        BadInput: what cannot be read so.
    """
    values = draws(bench, count, seed, mains_known)
    outcome = run(bench, values, state, seconds, MIDDLING)
    found = []
    for one in asked:
        numbers = read_values(bench, values, state, outcome, one)
        finite = numbers[np.isfinite(numbers)]
        if not len(finite):
            found.append(Band(float("inf"), float("inf"), float("inf")))
            continue
        low, middle, high = np.percentile(finite, [OUTSIDE, 50, 100 - OUTSIDE])
        found.append(Band(float(low), float(high), float(middle)))
    return found, tuple(words for rows, words in outcome.said if rows.mean() > 0.5)
