"""Stores of a run: as one behind a rectifier, what they carry, how warm they get, and when they vent.

Source: ripple heating as in judge.ageing; how surface, time and venting go: workshop practice, because series differ: the middle of
what makers print.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..circuit.supply_lines import Branch
from ..text.quantity import show
from .outcome import Bools, Outcome, StoreState
from .rectifier import STRAY, Cycle, Floats
from .supply import Bench, Element
from .truth import LOAD_SHORT, Values

#: Ω of a short, and of what is open.
SHORT, OPEN = 0.02, 1e9
#: ESR halves for so many K; K/W of a store of the reference size, whose surface this is, mm², and the exponent by surface.
HALVES, KELVIN, SURFACE, BY_SURFACE = 25.0, 80.0, 660.0, 0.9
#: A store takes so many seconds to warm, by its diameter, mm.
WARMS = 240.0 / 10.0
#: What makes a store vent: V backwards, times its volts for so long (s), K above its temperature.
BACKWARDS, OVER, OVER_FOR, TOO_WARM = 1.5, 1.2, 30.0, 15.0


@dataclass(frozen=True)
class Together:
    """Stores of a branch as one: F, Ω, A/V of leak; whether they are shorted."""

    value: Floats
    esr: Floats
    leak: Floats
    shorted: Bools


def store_of(bench: Bench, values: Values, ref: str) -> tuple[Floats, Floats, Floats]:
    """A store's F, Ω at 120 Hz and at 100 kHz, open or shorted as it may be."""
    one = bench.stores[ref]
    open_ = values.has(ref, "open")
    warm = 2.0 ** (-(values.get(ref, "warm", one.ambient) - one.ambient) / HALVES)
    value = np.where(open_, STRAY, np.maximum(values.get(ref, "value", one.value), STRAY))
    esr = np.where(open_, 0.0, values.get(ref, "esr", one.esr) * warm)
    return value, esr, np.where(open_, OPEN, values.get(ref, "esr_high", one.esr_high) * warm)


def together(bench: Bench, values: Values, branch: Branch) -> Together:
    """All stores of a branch as one, by their admittance at the charging rate."""
    omega = 2 * math.pi * (1 if branch.topology in ("half", "doubler") else 2) * bench.nominal.frequency
    admittance = np.zeros(values.count, complex)
    leak, shorted = np.zeros(values.count), np.zeros(values.count, bool)
    groups = [(ref,) for ref in branch.in_groups[0][:1]] if branch.doubles else branch.in_groups
    if not groups:
        # a line that begins with DC needs none
        return Together(np.full(values.count, 1e-12), np.full(values.count, 1e-4), leak, shorted)
    for group in groups:
        impedance, through, whole = np.zeros(values.count, complex), np.zeros(values.count), np.ones(values.count, bool)
        for ref in group:
            value, esr, _ = store_of(bench, values, ref)
            short = values.has(ref, "short")
            impedance = impedance + np.where(short, SHORT, esr + 1 / (1j * omega * value))
            leaks = values.get(ref, "leak", bench.stores[ref].leakage / bench.stores[ref].volts)
            through = through + 1 / np.maximum(leaks, 1e-12)
            whole = whole & short
        admittance = admittance + 1 / impedance
        leak = leak + 1 / np.maximum(through, 1e-12)
        shorted = shorted | whole
    both = 1 / admittance
    reactance = np.where(shorted, -1.0, np.minimum(both.imag, -1e-9))
    return Together(1 / (-reactance * omega), np.maximum(both.real, 1e-4), leak, shorted)


def rail_shorted(bench: Bench, values: Values, rail: str) -> Bools:
    """Whether something shorts a rail: its load, or a capacitor at the input of a line that it feeds."""
    rows = values.has(rail, LOAD_SHORT)
    for branch in bench.fed_by(rail):
        for group in branch.in_groups:
            inside = np.ones(values.count, bool)
            for ref in group:
                inside = inside & values.has(ref, "short")
            rows = rows | inside
    return rows


def carried(bench: Bench, values: Values, branch: Branch, cycle: Cycle, wave: Floats, outcome: Outcome) -> None:
    """Volts and ripple of the stores behind a rectifier."""
    through = np.sqrt(np.mean(cycle.into**2, axis=1))
    total = sum(1 / sum(1 / store_of(bench, values, ref)[0] for ref in group) for group in branch.in_groups)
    for group in branch.in_groups:
        whole = 1 / sum(1 / store_of(bench, values, ref)[0] for ref in group)
        for ref in group:
            share = np.full(values.count, 0.5) if branch.doubles else whole / store_of(bench, values, ref)[0]
            ripple = through * (1.0 if branch.doubles else whole / total)
            short = values.has(ref, "short") & (len(group) > 1)
            outcome.stores[ref] = StoreState(
                np.where(short[:, None], 0.0, wave * share[:, None]), np.where(values.has(ref, "open"), 0.0, ripple),
                outcome.stores[ref].warm, np.zeros(values.count),
            )  # fmt: skip


def warm_up(bench: Bench, values: Values, outcome: Outcome, seconds: float) -> None:
    """Warm the stores by what they carry and leak: kept with the numbers, so that the next run finds them warm."""
    for ref, one in bench.stores.items():
        found = outcome.stores[ref]
        _, esr, high = store_of(bench, values, ref)
        ohms = np.where(found.switching > 0, np.minimum(high, 1e3), esr)
        mean = _mean(found.volts) if found.volts.size else np.zeros(values.count)
        watts = found.ripple**2 * ohms + mean**2 * values.get(ref, "leak", 0.0)
        risen = watts * kelvin_per_watt(one) * (1 - math.exp(-seconds / (WARMS * one.diameter)))
        values.put(ref, "warm", np.clip(np.nan_to_num(one.ambient + risen), -50.0, 400.0))
        found.warm = values.get(ref, "warm", one.ambient).copy()


def _mean(volts: np.ndarray) -> np.ndarray:
    """The mean of each row over what is known of it; 0 where nothing is."""
    known = ~np.isnan(volts)
    return np.where(known, volts, 0.0).sum(axis=1) / np.maximum(known.sum(axis=1), 1)


def kelvin_per_watt(one: Element) -> float:
    """How much a store warms, K/W, by its surface.

    >>> from .supply import Element
    >>> told = dict(value=1e-3, esr=0.1, esr_high=0.1, limit=0.1, volts=25, temperature=85)
    >>> [round(kelvin_per_watt(Element(ref='C1', **told, diameter=d, height=h))) for d, h in ((10, 16), (35, 50))]
    [80, 9]
    """
    surface = math.pi * one.diameter * one.height + math.pi / 2 * one.diameter**2
    return KELVIN * (SURFACE / surface) ** BY_SURFACE


def vents(bench: Bench, outcome: Outcome, seconds: float) -> None:
    """Say which stores vent after so many seconds, and why."""
    for ref, one in bench.stores.items():
        found = outcome.stores[ref]
        if one.dry or not found.volts.size:
            continue
        mean = np.nan_to_num(found.volts.mean(axis=1))
        for rows, words in (
            (mean < -BACKWARDS, f"{ref} vents: it is fitted backwards"),
            ((mean > OVER * one.volts) & (seconds >= OVER_FOR), f"{ref} vents: over {show(OVER * one.volts, 'V')} on it"),
            (found.warm > one.temperature + TOO_WARM, f"{ref} vents: over {one.temperature + TOO_WARM:g} °C"),
        ):  # fmt: skip
            if rows.any():
                outcome.said.append((rows, words))
