"""Switching converters of the simulated bench: whether they start, what they hold, their ripple.

Source: Erickson and Maksimović, Fundamentals of Power Electronics (2001), chapters 2, 5 and 6; how a tired start shows: workshop
practice, because controllers of the time give no figure for it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..circuit.rail_lines import RailOut
from ..circuit.supply_lines import Branch, ConverterIn
from .loads import FADES, STEP, drawn, joint_ohms
from .outcome import Bools, Outcome, RailState, StoreState
from .rectifier import Floats
from .state import State
from .stores import OPEN, rail_shorted, store_of
from .supply import Bench
from .truth import Values

#: A converter gives at most this multiple of its power; held rails of one without feedback rise to between these.
MOST_POWER, UNHELD = 1.3, (1.3, 2.0)
#: A start store is too weak under this share of its value, or over so many Ω at 100 kHz.
WEAK_START, WEAK_START_ESR = 0.4, 5.0
#: What a supply that starts and stops shows on a meter, as a share of its volts.
TICKING = 0.05
#: Lowest bulk volts, as a share of nominal: of D/(1−D) for a flyback, of D over 0.48 for a forward converter; and its usual duty.
FLYBACK_HOLDS, FORWARD_HOLDS, FORWARD_DUTY = 0.667, 0.48, 0.30
#: A forward converter without its least load rises by this.
UNLOADED_RISE = 0.20


def power_in(bench: Bench, values: Values, state: State, fed: ConverterIn) -> Floats:
    """What a converter draws, W."""
    watts = np.zeros(values.count)
    for rail in bench.rails.values():
        if rail.out in fed.rails and rail.out is not None:
            watts = watts + drawn(bench, values, state, rail)[0] * abs(rail.volts)
    if not fed.rails:
        watts = watts + fed.power
    return watts / fed.efficiency


def _duty(fed: ConverterIn) -> float:
    sensed = _sensed(fed)
    if fed.topology == "forward" and (sensed is None or sensed.duty == RailOut.duty):
        return FORWARD_DUTY
    return sensed.duty if sensed else RailOut.duty


def _sensed(fed: ConverterIn) -> RailOut | None:
    """The rail that is held."""
    if fed.sense == "aux":
        return None
    return next((rail for rail in fed.rails if rail.name == fed.sense), next(iter(fed.rails), None))


def holds_down_to(bench: Bench, branch: Branch, values: Values) -> Floats:
    """The lowest bulk volts from which a converter still holds its rails, V."""
    fed = branch.converter
    assert fed is not None
    duty = _duty(fed)
    share = duty / FORWARD_HOLDS if fed.topology == "forward" else FLYBACK_HOLDS * duty / (1 - duty)
    return np.full(values.count, min(share, 0.95) * 0.98 * bench.peak(branch))


def starts(bench: Bench, values: Values, state: State, branch: Branch, outcome: Outcome | None) -> Bools:
    """Which variants run at all; where an outcome is given, why the others do not is said there."""
    fed = branch.converter
    assert fed is not None
    say = outcome.said.append if outcome else lambda _: None
    resistor = values.has(bench.named(fed, "start"), "open") | values.has(bench.named(fed, "switch"), "open")
    weak = np.zeros(values.count, bool)
    ref = bench.start_store(fed)
    if ref:
        one = bench.stores[ref]
        value, _, esr = store_of(bench, values, ref)
        weak = (value < WEAK_START * one.marked) | (esr > WEAK_START_ESR) | values.has(ref, "short")
    watts = power_in(bench, values, state, fed)
    over = (watts * fed.efficiency > MOST_POWER * fed.power) | _rail_shorted(bench, values, fed)
    light = _too_light(bench, values, state, fed) & (fed.topology == "flyback")
    for rows, words in (
        (resistor, "does not start"), (weak & ~resistor, f"ticks: {ref} does not carry it through its start"),
        (over & ~resistor, "starts and stops: overloaded"), (light & ~resistor & ~over, "starts and stops: less than its least load"),
    ):  # fmt: skip
        if rows.any():
            say((rows, words))
    if outcome:
        outcome.dead = outcome.dead | resistor
        outcome.ticking = outcome.ticking | ((weak | over | light) & ~resistor)
    return ~(resistor | weak | over | light)


def _rail_shorted(bench: Bench, values: Values, fed: ConverterIn) -> Bools:
    """Whether a rail is shorted: its load, its rectifier, or all of its stores' worst."""
    rows = np.zeros(values.count, bool)
    branch = next(b for b in bench.branches if b.converter is fed)
    for rail in fed.rails:
        rows = rows | rail_shorted(bench, values, rail.name) | values.has(bench.rectifier_of(branch, rail), "short")
        for ref in rail.stores:
            rows = rows | values.has(ref, "short")
    return rows


def _too_light(bench: Bench, values: Values, state: State, fed: ConverterIn) -> Bools:
    held = _sensed(fed) or next(iter(fed.rails), None)
    if held is None or not fed.least:
        return np.zeros(values.count, bool)
    return drawn(bench, values, state, bench.rails[held.name])[0] < fed.least * 0.98


def converted(
    bench: Bench, values: Values, state: State, branch: Branch, bulk: Floats, outcome: Outcome, number: int
) -> None:  # fmt: skip
    """A converter behind its bulk store, V over a cycle: its rails and their stores, written into the outcome."""
    fed = branch.converter
    assert fed is not None
    n = values.count
    runs = starts(bench, values, state, branch, outcome) & ~outcome.ticking & ~outcome.dead
    # each store of a doubler holds half
    least = holds_down_to(bench, branch, values) * (2 if branch.doubles else 1)
    # below what it needs its rails fall with the bulk store, ripple of the mains and all
    share = np.clip(bulk / least[:, None], 0.0, 1.0)
    sags = runs & ~outcome.shorted & (share.min(axis=1) < 1.0)
    if sags.any():
        outcome.said.append((sags, "the reservoir does not hold its rails"))
    unheld = values.has(bench.named(fed, "feedback"), "open") & runs
    watts = np.maximum(power_in(bench, values, state, fed) * fed.efficiency, 1e-6)
    # a divider or a reference that drifted holds its rails at other volts
    held_at = 1 + values.get(bench.named(fed, "feedback"), "drift", 0.0)
    rise = held_at * np.where(unheld, np.clip(np.sqrt(MOST_POWER * fed.power / watts), *UNHELD), 1.0)
    if fed.topology == "forward":
        rise = np.where(_too_light(bench, values, state, fed), 1 + UNLOADED_RISE, rise)
    if unheld.any():
        outcome.said.append((unheld, "nothing regulates its rails: off now"))
    if fed.sense == "aux" and (ref := bench.start_store(fed)):
        value, _, _ = store_of(bench, values, ref)
        # a dried store of the winding that is held makes every rail rise
        rise = rise * (1 + 0.3 * (1 - np.minimum(1.0, value / bench.stores[ref].marked)))
    held = _sensed(fed)
    # what the sensed rail's own store takes, all others rise by
    lost = {rail.name: _lost(bench, values, state, rail, fed) for rail in fed.rails}
    for rail in fed.rails:
        place = bench.rails[rail.name]
        sign = math.copysign(1.0, rail.volts)
        size = abs(rail.volts) * values.get(rail.name, "set", 1.0) * rise
        if held is not None and rail is not held and fed.topology == "flyback":
            size = size - lost[rail.name] + lost[held.name] * abs(rail.volts / held.volts)
        rectifier = bench.rectifier_of(branch, rail)
        open_ = values.has(rectifier, "open") if rectifier else np.zeros(n, bool)
        ticks = (outcome.ticking & ~outcome.dead)[:, None] * TICKING * abs(rail.volts)
        wave = np.where(runs[:, None], size[:, None] * share, ticks)
        wave = np.where(open_[:, None] | rail_shorted(bench, values, rail.name)[:, None], 0.0, np.maximum(wave, 0.0))
        amps, resistor = drawn(bench, values, state, place)
        mean = wave.mean(axis=1)
        by = np.where(resistor > 0, mean / abs(rail.volts), np.minimum(mean / (FADES * abs(rail.volts)), 1.0))
        amps = amps * by
        value, esr = _output_store(bench, values, rail)
        before = np.where(runs & ~open_, _switching(fed, rail, amps, value, esr), 0.0)
        switching = before * _past_coil(bench, values, rail, fed)
        joint = joint_ohms(bench, values, state, branch) * amps
        step = esr * amps * STEP / (1 + STEP) if state.steps(rail.name) else 0.0
        lowest = np.maximum(wave.min(axis=1) - switching / 2 - step - joint, 0.0)
        outcome.rails[rail.name] = RailState(
            volts=sign * wave, switching=switching, amps=amps, joint=joint, lowest=lowest
        )
        for ref in rail.stores:
            outcome.stores[ref] = StoreState(
                wave,
                _share_of(bench, values, rail, ref) * _ripple(fed, rail, amps),
                outcome.stores[ref].warm,
                before,
            )
        for ref in rail.after:
            through = before / (2 * math.sqrt(2)) / (2 * math.pi * fed.frequency * rail.coil) / len(rail.after)
            outcome.stores[ref] = StoreState(wave, through, outcome.stores[ref].warm, switching)


def _past_coil(bench: Bench, values: Values, rail: RailOut, fed: ConverterIn) -> Floats:
    """The share of the switching ripple that is left behind a rail's coil, as ``choose.branch_circuit.past_coil``."""
    if not rail.after:
        return np.ones(values.count)
    value, esr = _together(bench, values, rail.after)
    turn = 2 * math.pi * fed.frequency
    return np.minimum(1.0, np.hypot(np.minimum(esr, OPEN), 1 / (turn * np.maximum(value, 1e-12))) / (turn * rail.coil))


def _lost(bench: Bench, values: Values, state: State, rail: RailOut, fed: ConverterIn) -> Floats:
    """What a rail's store takes of its volts beyond what it takes when it is sound: ESR · I · D/(1−D), V."""
    _, esr = _output_store(bench, values, rail)
    sound = 1 / sum(1 / (0.55 * bench.stores[ref].limit * bench.stores[ref].share) for ref in rail.stores)
    amps = drawn(bench, values, state, bench.rails[rail.name])[0]
    return (np.minimum(esr, 50.0) - sound) * amps * rail.duty / (1 - rail.duty)


def _output_store(bench: Bench, values: Values, rail: RailOut) -> tuple[Floats, Floats]:
    """A rail's stores as one at the switching rate: F and Ω."""
    return _together(bench, values, rail.stores)


def _together(bench: Bench, values: Values, refs: Sequence[str]) -> tuple[Floats, Floats]:
    value, conductance = np.zeros(values.count), np.zeros(values.count)
    for ref in refs:
        farads, _, esr = store_of(bench, values, ref)
        value, conductance = value + farads, conductance + 1 / np.maximum(esr, 1e-4)
    return value, 1 / conductance


def _share_of(bench: Bench, values: Values, rail: RailOut, ref: str) -> Floats:
    _, whole = _output_store(bench, values, rail)
    return whole / np.maximum(store_of(bench, values, ref)[2], 1e-4)


def _ripple(fed: ConverterIn, rail: RailOut, amps: Floats) -> Floats:
    """Ripple of a rail's stores together, A rms."""
    if fed.topology in ("buck", "forward"):
        return np.full_like(amps, (rail.choke or 0.3 * rail.current) / math.sqrt(12))
    return amps * math.sqrt(rail.duty / (1 - rail.duty))


def _switching(fed: ConverterIn, rail: RailOut, amps: Floats, value: Floats, esr: Floats) -> Floats:
    """Ripple at the switching rate, V p-p: as ``circuit/converter``, for many at once."""
    # a store that is all but gone leaves at most the whole rail as ripple
    most = abs(rail.volts)
    if fed.topology in ("buck", "forward"):
        choke = rail.choke or 0.3 * rail.current
        return np.minimum(esr * choke + choke / (8 * fed.frequency * value), most)
    return np.minimum(esr * amps / (1 - rail.duty) + amps * rail.duty / (fed.frequency * value), most)
