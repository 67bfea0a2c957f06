"""A branch of a supply: winding, diodes, store, and the regulator or converter behind it.

Source: as in simulate.laws; what an idle converter draws: workshop practice, because labels leave it out.
"""

from __future__ import annotations

import math

import numpy as np

from ..circuit.supply import IDLE_CURRENT
from ..circuit.supply_lines import Branch
from .converters import converted, holds_down_to, power_in, starts
from .loads import FADES, drawn, joint_ohms
from .outcome import Bools, Outcome, RailState
from .rectifier import FINE, Floats, Stage, settle
from .state import State
from .stores import carried, rail_shorted, together
from .supply import OF_SOURCE, Bench
from .truth import Values

#: What a converter draws that does not run, W.
IDLE_WATTS = 0.5
#: F at the input of a board whose line names no capacitor there.
DECOUPLED = 1e-6
#: Times the ohms of a tired adapter or of run-down cells.
WEAK = 8.0


def branch_run(
    bench: Bench, values: Values, state: State, mains: Floats, lamp_ohms: Floats, outcome: Outcome, number: int,
    branch: Branch, grids: tuple[int, ...] = FINE,
) -> Floats:  # fmt: skip
    """One branch on the mains, written into the outcome; what it draws of them, A rms."""
    store = together(bench, values, branch)
    stage = stage_of(
        bench, values, state, mains, lamp_ohms, outcome.ticking, number, branch, _before(bench, outcome, branch)
    )
    ratio = branch.ratio(bench.nominal.volts)
    shorted = store.shorted | outcome.shorted
    cycle = settle(stage, state.frequency, grids)
    outcome.settled = outcome.settled & cycle.settled
    wave = np.where(shorted[:, None], 0.0, cycle.volts) * (2.0 if branch.doubles else 1.0)
    if branch.regulator:
        _regulated(bench, values, state, branch, wave, outcome, number)
    if branch.converter:
        converted(bench, values, state, branch, wave, outcome, number)
    carried(bench, values, branch, cycle, wave, outcome)
    drawn = np.sqrt(np.mean(cycle.source**2, axis=1)) * ratio * (math.sqrt(2) if branch.doubles else 1.0)
    return np.where(shorted, 0.0, drawn)


def _before(bench: Bench, outcome: Outcome, branch: Branch) -> Floats | None:
    """V of the rail of this supply that feeds a branch, its mean; None where something else does."""
    direct = branch.direct
    if direct is None or direct.rail not in bench.rails:
        return None
    rail = outcome.rails[direct.rail]
    return np.maximum(np.abs(rail.volts).mean(axis=1) - rail.joint, 0.0)


def _direct_stage(
    bench: Bench,
    values: Values,
    state: State,
    mains: Floats,
    ticking: Bools,
    number: int,
    branch: Branch,
    fed: Floats | None,
) -> Stage:
    """A branch that begins with DC: its source, a diode where its line names one, and what hangs on it."""
    direct, store = branch.direct, together(bench, values, branch)
    assert direct is not None
    share = mains / bench.nominal.volts if direct.strays else (mains > 0).astype(float)
    spread = values.get("winding", str(number), 1.0)
    volts = direct.open_volts
    drop = volts - abs(direct.volts)
    # of what drops inside an adapter nobody knows much, of its label more
    open_volts = (abs(direct.volts) + drop * spread) * share if fed is None else fed
    ref = direct.ref or OF_SOURCE.get(direct.kind, "")
    gone = values.has(ref, "open") if ref else np.zeros(values.count, bool)
    weak = np.where(values.has(ref, "weak"), WEAK, 1.0) if ref else 1.0
    through = 1.0 - gone
    drops = float(len(bench.diodes[number]))
    for diode in bench.diodes[number]:
        through = through * (1.0 - values.has(diode, "open"))
    return Stage.of(
        values.count, peak=open_volts, first=through, second=through, drops=drops, diode=values.get("diode", str(number), 0.0),
        ohms=np.maximum(direct.ohms * spread * weak, 1e-3), store=np.maximum(store.value, DECOUPLED), esr=store.esr, leak=store.leak,
        direct=1.0, **_load(bench, values, state, branch, ticking),
    )  # fmt: skip


def stage_of(
    bench: Bench, values: Values, state: State, mains: Floats, lamp_ohms: Floats, ticking: Bools, number: int, branch: Branch,
    fed: Floats | None = None,
) -> Stage:  # fmt: skip
    """A branch as a rectifier with its store and what hangs on it. ticking: variants whose converter starts and stops. fed: V of the
    rail of this supply that feeds it, None for its nominal volts."""
    if branch.direct:
        return _direct_stage(bench, values, state, mains, ticking, number, branch, fed)
    n = values.count
    store = together(bench, values, branch)
    volts, ohms, regulation = bench.source(branch, bench.nominal.volts)
    if regulation:
        by = values.get("winding", str(number), 1.0)
        rated = branch.volts
        current = branch.va / rated
        volts = rated * (1 + regulation * by)
        ohms = rated * regulation * by / current
    ratio = branch.ratio(bench.nominal.volts)
    through = lamp_ohms * ratio**2
    first, second, drops = _diodes(bench, values, branch, bench.diodes[number])
    load = _load(bench, values, state, branch, ticking)
    if branch.doubles:
        second = np.zeros(n)
    return Stage.of(
        n, peak=volts * mains * branch.tapped(bench.nominal.volts) / bench.nominal.volts * math.sqrt(2), first=first, second=second,
        drops=drops,
        diode=values.get("diode", str(number), 0.0), ohms=np.maximum(ohms + through, 1e-3), store=store.value, esr=store.esr,
        leak=store.leak, **load,
    )  # fmt: skip


def _diodes(bench: Bench, values: Values, branch: Branch, refs: tuple[str, ...]) -> tuple[Floats, Floats, Floats]:
    """Which half waves get through, and how many diodes are in the way."""
    gone = [1.0 - values.has(ref, "open") for ref in refs]
    if branch.topology == "bridge":
        # D1 and D4 carry the one half wave, D2 and D3 the other
        return gone[0] * gone[3], gone[1] * gone[2], np.full(values.count, 2.0)
    if branch.topology == "centre":
        return gone[0], gone[1], np.ones(values.count)
    return gone[0], np.zeros(values.count), np.ones(values.count)


def _load(bench: Bench, values: Values, state: State, branch: Branch, ticking: Bools) -> dict[str, Floats]:
    """What a branch's store feeds, as a rising piece or as a power."""
    n = values.count
    none = {
        "low": np.zeros(n),
        "span": np.full(n, 1e9),
        "slope": np.zeros(n),
        "power": np.zeros(n),
        "until": np.ones(n),
    }
    if branch.regulator:
        rail = next(r for r in bench.rails.values() if bench.branches[r.branch] is branch)
        amps, resistor = drawn(bench, values, state, rail)
        amps = amps + IDLE_CURRENT
        out = abs(rail.volts) * values.get(rail.name, "set", 1.0)
        dead = values.has(branch.regulator.ref, "dead")
        through = values.has(branch.regulator.ref, "short")
        fades = np.where(resistor > 0, out, FADES * abs(rail.volts))
        shorted = rail_shorted(bench, values, rail.name)
        # a regulator holds what it gives into a short to half as much again as it is rated for
        amps = np.where(shorted, 1.5 * max(rail.current, branch.regulator.current), amps)
        span = np.where(shorted, 0.5, np.where(through & (resistor > 0), 1e9, fades))
        slope = np.where(dead, IDLE_CURRENT, amps) / np.where(shorted, 0.5, fades)
        low = np.where(through | shorted, 0.0, branch.regulator.dropout)
        return {**none, "low": low, "span": span, "slope": slope}
    if branch.converter:
        runs = starts(bench, values, state, branch, None) & ~ticking
        watts = np.where(runs, power_in(bench, values, state, branch.converter), IDLE_WATTS)
        return {**none, "power": watts / (2 if branch.doubles else 1), "until": holds_down_to(bench, branch, values)}
    by = values.get("load", "share", 1.0) * (0.0 if state.load == "none" else 1.0)
    if branch.resistance:
        return {**none, "slope": by / branch.resistance / (0.5 if branch.doubles else 1.0)}
    nominal = bench.peak(branch)
    return {**none, "span": np.full(n, FADES * nominal), "slope": by * branch.current / (FADES * nominal)}


def _regulated(
    bench: Bench, values: Values, state: State, branch: Branch, wave: Floats, outcome: Outcome, number: int
) -> None:  # fmt: skip
    rail = next(r for r in bench.rails.values() if r.branch == number)
    fed = branch.regulator
    assert fed is not None
    sign = math.copysign(1.0, rail.volts)
    out = abs(rail.volts) * values.get(rail.name, "set", 1.0)
    # out of its depth it passes on what is left, instant by instant
    held = np.minimum(out[:, None], np.maximum(wave - fed.dropout, 0.0))
    held = np.where(values.has(fed.ref, "short")[:, None], wave, held)
    held = np.where((values.has(fed.ref, "dead") | rail_shorted(bench, values, rail.name))[:, None], 0.0, held)
    amps, resistor = drawn(bench, values, state, rail)
    share = np.where(
        resistor > 0,
        held.mean(axis=1) / abs(rail.volts),
        np.minimum(held.mean(axis=1) / (FADES * abs(rail.volts)), 1.0),
    )
    amps = amps * share
    joint = joint_ohms(bench, values, state, branch) * amps
    outcome.rails[rail.name] = RailState(
        volts=sign * held,
        switching=np.zeros(values.count),
        amps=amps,
        joint=joint,
        lowest=np.abs(np.abs(held).min(axis=1) - joint),
    )
