"""What the parts do: from a supply, numbers of its parts and the state of the bench to the volts and amps everywhere.

All variants at once: a row each. Linear branches are settled rectifiers whose regulator follows its input where that runs out;
a converter holds its sensed rail while the bulk store suffices.

Source: Erickson and Maksimović, Fundamentals of Power Electronics (2001), chapters 2, 5 and 6; Horowitz and Hill, The Art of
Electronics (2015), 9.5.
"""

from __future__ import annotations

import numpy as np

from ..circuit.supply import DIODE_OHMS
from ..text.quantity import show
from .branches import branch_run
from .converters import power_in
from .outcome import Bools, Outcome, nothing_on, scratch
from .rectifier import FINE, ROUGH, Floats
from .state import State
from .stores import vents, warm_up
from .supply import USUAL, Bench
from .switch_on import may_blow, switch_on, told
from .truth import Values

#: Ω of the wiring before the fuse.
WIRING = 0.5
#: A fuse goes for certain above this multiple of its rating.
HOLDS = 1.6
#: A lamp cold has this share of its hot resistance; a constant power behind it gets at most this share of its watts.
COLD, BEHIND = 0.1, 0.385
#: Rounds in which a lamp and what is behind it settle.
LAMP_ROUNDS = 7
#: Draws of one supply of which the lamp is settled; the rest is told by them.
PILOT = 48
#: Rounds in which a source finds the volts at which it gives its limit.
LIMIT_ROUNDS = 12
#: Rounds in which heat and ESR settle.
WARM_ROUNDS = 3


def run(bench: Bench, values: Values, state: State, seconds: float = 0.0, grids: tuple[int, ...] = FINE) -> Outcome:
    """The supply in a state, as it is after so many seconds from cold."""
    if not state.on:
        return nothing_on(bench, values)
    outcome = _run(bench, values, state, grids)
    for _ in range(WARM_ROUNDS if seconds > 1 else 0):
        warm_up(bench, values, outcome, seconds)
        outcome = _run(bench, values, state, grids)
    warm_up(bench, values, outcome, seconds)
    vents(bench, outcome, seconds)
    return outcome


def _run(bench: Bench, values: Values, state: State, grids: tuple[int, ...]) -> Outcome:
    n = values.count
    mains = state.volts * state.variable * values.get("mains", "share", 1.0)
    outcome = nothing_on(bench, values)
    _shorts(bench, values, state, mains, outcome)
    if may_blow(bench, values, state):
        rush = switch_on(bench, values, state)
        gone = (rush.blown > 0) & ~outcome.shorted
        outcome.blown = np.where(gone, rush.blown, outcome.blown)
        outcome.said += [(rows & gone, words) for rows, words in told(bench, rush)]
    broken = (
        values.has(USUAL["fuse"], "blown") | values.has("T1", "open") | values.has("L1", "open") | (outcome.blown > 0)
    )
    # a worn fuse holder stands in the same line
    holder, lamp = values.get(USUAL["fuse"], "ohms", 0.0), np.zeros(n)
    if state.lamp:
        _behind_lamp(bench, values, state, outcome)
        lamp = _lamp(bench, values, state, mains, outcome)
    lamp_ohms = holder + lamp
    _primary(bench, values, state, mains, lamp_ohms, outcome, grids)
    if state.lamp:
        across = np.minimum(outcome.mains_amps * lamp, mains) / bench.nominal.volts
        outcome.lamp = np.where(outcome.shorted, outcome.lamp, across)
    if state.limit:
        _within_limit(bench, values, state, mains, lamp_ohms, outcome, grids)
    for rows, keep_amps in ((outcome.shorted, True), (broken, False)):
        _nothing_for(outcome, rows, keep_amps)
    return outcome


def _within_limit(
    bench: Bench,
    values: Values,
    state: State,
    mains: Floats,
    lamp_ohms: Floats,
    outcome: Outcome,
    grids: tuple[int, ...],
) -> None:
    """Lower the source's volts where it would give more than its limit, until it gives just that."""
    over = outcome.mains_amps > state.limit
    if not over.any():
        return
    low, high = np.zeros(values.count), np.where(over, mains, 0.0)
    for _ in range(LIMIT_ROUNDS):
        middle = (low + high) / 2
        trial, volts = scratch(outcome), np.where(over, np.maximum(middle, 1e-3), mains)
        _primary(bench, values, state, volts, lamp_ohms, trial, ROUGH)
        more = trial.mains_amps > state.limit
        low, high = np.where(more, low, middle), np.where(more, middle, high)
    _primary(bench, values, state, np.where(over, np.maximum(high, 1e-3), mains), lamp_ohms, outcome, grids)
    outcome.limited = over
    outcome.said.append((over, f"the source is in its limit of {show(state.limit, 'A')}"))


def _nothing_for(outcome: Outcome, rows: Bools, keep_amps: bool) -> None:
    """Variants whose rails get no power at all. keep_amps: the mains are loaded all the same."""
    if not rows.any():
        return
    for rail in outcome.rails.values():
        for array in (rail.volts, rail.switching, rail.amps, rail.joint, rail.lowest):
            array[rows] = 0.0
    for store in outcome.stores.values():
        for array in (store.volts, store.ripple, store.switching):
            array[rows] = 0.0
    if not keep_amps:
        outcome.mains_amps[rows], outcome.lamp[rows] = 0.0, 0.0


def _shorts(bench: Bench, values: Values, state: State, mains: Floats, outcome: Outcome) -> None:
    """Variants in which something shorts the mains or a winding: their fuse goes when ∫i²dt passes what melts it.

    Behind a lamp it does not go: the lamp takes the mains, and stays at full.
    """
    shorted = np.zeros(values.count, bool)
    current = np.zeros(values.count)

    def add(rows: Bools, amps: Floats) -> None:
        nonlocal shorted, current
        shorted = shorted | rows
        current = np.where(rows, np.maximum(current, amps), current)

    for ref in {*bench.x_parts, *(b.xcap for b in bench.branches), USUAL["xcap"]} - {""}:
        add(values.has(ref, "short"), mains / WIRING)
    for branch, diodes in zip(bench.branches, bench.diodes, strict=True):
        if branch.direct and branch.direct.rail in bench.rails:
            # its short loads the rail that feeds it
            continue
        volts, ohms, _ = bench.source(branch, state.volts)
        ratio = branch.ratio(bench.nominal.volts)
        through = volts * mains / max(state.volts, 1e-9) / (ohms + DIODE_OHMS) * ratio
        if branch.direct:
            through = np.minimum(volts / ohms, branch.direct.most) * ratio * np.ones(values.count)
        rows = np.zeros(values.count, bool)
        for ref in diodes if not branch.direct else ():
            rows = rows | values.has(ref, "short")
        for group in branch.in_groups:
            inside = np.ones(values.count, bool)
            for ref in group:
                inside = inside & values.has(ref, "short")
            rows = rows | inside
        if branch.converter:
            rows = rows | values.has(bench.named(branch.converter, "switch"), "short")
        add(rows, through)
    outcome.shorted = shorted
    if not shorted.any():
        return
    if state.lamp:
        outcome.lamp = np.where(shorted, mains / bench.nominal.volts, 0.0)
        current = mains / bench.nominal.volts * state.lamp / bench.nominal.volts
        outcome.said.append((shorted, "the lamp stays at full"))
    outcome.mains_amps = np.where(shorted, current, 0.0)
    fuse = bench.fuse
    goes = shorted & (current > HOLDS * fuse.rating) if fuse and not state.lamp else np.zeros(values.count, bool)
    if fuse and goes.any():
        seconds = fuse.melting / np.maximum(current, 1e-9) ** 2
        outcome.blown = np.where(goes, seconds, 0.0)
        outcome.said.append((goes, f"{USUAL['fuse']} blew after {show(float(seconds[goes][0]), 's')}"))
    stays = shorted & ~goes
    if stays.any() and not state.lamp:
        outcome.said.append((stays, f"a short draws {show(float(current[stays][0]), 'A')}"))


def _primary(
    bench: Bench,
    values: Values,
    state: State,
    mains: Floats,
    lamp_ohms: Floats,
    outcome: Outcome,
    grids: tuple[int, ...] = FINE,
) -> list[Floats]:
    """All branches on the mains; what each draws of them, A rms."""
    drawn = []
    for i, branch in enumerate(bench.branches):
        drawn.append(branch_run(bench, values, state, mains, lamp_ohms, outcome, i, branch, grids))
    outcome.mains_amps = np.where(outcome.shorted, outcome.mains_amps, sum(drawn, np.zeros(values.count)))
    return drawn


def _behind_lamp(bench: Bench, values: Values, state: State, outcome: Outcome) -> None:
    """Converters that cannot start on what a lamp lets through."""
    for branch in bench.branches:
        if branch.converter and not branch.volts:
            watts = power_in(bench, values, state, branch.converter)
            short = watts > BEHIND * state.lamp
            if short.any():
                outcome.ticking = outcome.ticking | short
                outcome.said.append((short, f"starts and stops: behind a lamp of {state.lamp:g} W it gets too little"))


def _first(outcome: Outcome, bench: Bench, few: Values) -> Outcome:
    """An outcome of the first few variants, with what is known of them so far."""
    found = nothing_on(bench, few)
    for name in ("ticking", "dead", "shorted", "blown"):
        setattr(found, name, getattr(outcome, name)[: few.count])
    return found


def _lamp(bench: Bench, values: Values, state: State, mains: Floats, outcome: Outcome) -> Floats:
    """What a lamp in series comes to, Ω: its filament warms by what it carries.

    R = R_hot · max(0.1, √(v/V)), v its own volts rms. Of many draws of one supply the first few are settled, and the rest told by
    what those have in common: the logarithm of R over what strays, by least squares.
    """
    if values.alike and values.count > 4 * PILOT:
        few = values.first(PILOT)
        settled = _lamp(bench, few, state, mains[:PILOT], _first(outcome, bench, few))
        strays = [kept / kept.mean() - 1 for kept in values.columns() if kept.std() > 0 and kept.mean() != 0]
        known = np.column_stack([np.ones(values.count), *strays])
        weights, *_ = np.linalg.lstsq(known[:PILOT], np.log(settled), rcond=None)
        return np.exp(np.clip(known @ weights, np.log(settled.min() / 1.2), np.log(settled.max() * 1.2)))
    rated = bench.nominal.volts
    hot = rated**2 / state.lamp
    ohms = np.full(values.count, hot * 0.3)
    for _ in range(LAMP_ROUNDS):
        drawn = sum(_primary(bench, values, state, mains, ohms, scratch(outcome), ROUGH), np.zeros(values.count))
        across = np.minimum(drawn * ohms, mains)
        wanted = hot * np.maximum(COLD, np.sqrt(np.maximum(across, 0.0) / rated))
        ohms = np.sqrt(ohms * wanted)
    return ohms
