"""Switching on: the first moments of a supply whose stores are empty; what the mains give, the fuse stands, the lamp shows.

Rows are variants, the steps of time are walked together. Each step is implicit in the charging current, so that no store is too
small for it. It is switched on at the crest of the mains, where charging is hardest; a transformer's own magnetising rush, which
is worst at the other moment, is not in it.

Source: IEC 60127-2:2014, clause 9, for what a fuse stands; a cold filament at a tenth of its ohms: tungsten from 300 to 2800 K; its
thermal time: workshop practice, because lamps of one size differ.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, fields

import numpy as np

from ..circuit.supply import DIODE_OHMS
from ..text.quantity import show
from .branches import stage_of
from .outcome import Bools
from .rectifier import Floats, Stage
from .state import State
from .supply import USUAL, Bench
from .truth import Values

#: A step, s, without and with a lamp, and how long is looked at, s.
STEP, LAMP_STEP, LOOK, LAMP_LOOK = 1e-4, 1e-3, 0.05, 0.8
#: The first moment, in which nothing but the ohms in the way hold the rush, is walked in so many steps of so long, s.
FIRST, FIRST_STEPS = 8e-6, 200
#: V that a diode drops at such currents beside its ohms.
DROP = 0.75
#: The filament's thermal time, s; cold it has this share of its ohms; under this share of its volts it shows little light.
THERMAL, COLD, DIM = 0.1, 0.1, 0.4
#: A fuse stands so many times its rating for as long as is looked at; only what is above eats at it.
HOLDS = 1.6
#: A store counts as charged at this share of what it comes to.
CHARGED = 0.95


@dataclass(frozen=True, kw_only=True)
class SwitchOn:
    """What is seen of switching on, a number for each variant.

    peak: A of the mains at the most. i2t: A²s over the time that was looked at. blown: s after which the fuse went, 0 where it
    holds. bright: the lamp's volts at its brightest, as a share of its own. dims: s until it is under DIM for good, inf where it
    never is. charged: s until the slowest store is charged.
    """

    peak: Floats
    i2t: Floats
    blown: Floats
    bright: Floats
    dims: Floats
    charged: Floats


def may_blow(bench: Bench, values: Values, state: State) -> bool:
    """Whether charging the stores could melt the fuse at all: V²C/2R of each, against half of what melts it."""
    if bench.fuse is None or state.lamp or state.limit:
        return False
    mains, nothing, never = _mains(values, state), np.zeros(values.count), np.zeros(values.count, bool)
    whole = np.zeros(values.count)
    for number, branch in enumerate(bench.branches):
        stage = stage_of(bench, values, state, mains, nothing, never, number, branch)
        ratio = branch.ratio(bench.nominal.volts)
        ohms = stage.ohms + stage.esr + DIODE_OHMS
        whole = whole + stage.peak**2 * stage.store / (2 * ohms) * ratio**2 * (2 if branch.doubles else 1)
    return bool((whole > bench.fuse.melting / 2).any())


def switch_on(bench: Bench, values: Values, state: State, seconds: float = 0.0) -> SwitchOn:
    """The first moments. seconds: how long is looked at, 0 for as long as it usually takes."""
    n, mains = values.count, _mains(values, state)
    nothing, never = np.zeros(n), np.zeros(n, bool)
    # all branches in one: a row is a branch of a variant
    stage = _stacked(
        [stage_of(bench, values, state, mains, nothing, never, i, b) for i, b in enumerate(bench.branches)]
    )
    ratios = np.array([[b.ratio(bench.nominal.volts)] for b in bench.branches])
    of_mains = ratios * np.array([[math.sqrt(2) if b.doubles else 1.0] for b in bench.branches])
    rated = bench.nominal.volts
    hot = rated**2 / state.lamp if state.lamp else 0.0
    paces = _paces(seconds or (LAMP_LOOK if state.lamp else LOOK), bool(state.lamp))
    times = np.cumsum(paces)
    held = np.zeros((len(bench.branches), n))
    story = np.zeros((len(paces), *held.shape))
    warm, heat, eaten = np.zeros(n), np.zeros(n), np.zeros(n)
    peak, blown, bright, last_lit = np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n)
    hold = (HOLDS * bench.fuse.rating) ** 2 if bench.fuse else 0.0
    filament = nothing
    for step, (now, pace) in enumerate(zip(times.tolist(), paces.tolist(), strict=True)):
        wave = math.cos(2 * math.pi * state.frequency * now)
        if hot:
            filament = hot * np.maximum(COLD, np.sqrt(np.sqrt(warm) / rated))
        into = _charging(stage, wave, held, filament * ratios**2, pace) * (blown == 0)
        held = np.maximum(held + (into - _drawn(stage, held)) * pace / stage.store, 0.0)
        story[step] = held
        amps = (into * of_mains).sum(axis=0)
        peak = np.maximum(peak, amps)
        heat = heat + amps**2 * pace
        if hot:
            warm = warm + ((amps * filament) ** 2 - warm) * pace / THERMAL
            share = np.sqrt(warm) / rated
            bright = np.maximum(bright, share)
            last_lit = np.where(share > DIM, now, last_lit)
        elif hold:
            eaten = eaten + np.maximum(amps**2 - hold, 0.0) * pace
            blown = np.where((blown == 0) & (eaten > bench.fuse.melting), now, blown)
    ended = np.sqrt(warm) / rated > DIM if hot else never
    return SwitchOn(
        peak=peak,
        i2t=heat,
        blown=blown,
        bright=bright,
        dims=np.where(ended, np.inf, last_lit),
        charged=_charged(story, times),
    )


def _stacked(stages: list[Stage]) -> Stage:
    """Stages as one, each field of branches by variants."""
    return Stage(**{f.name: np.stack([getattr(stage, f.name) for stage in stages]) for f in fields(Stage)})


def told(bench: Bench, found: SwitchOn) -> list[tuple[Bools, str]]:
    """What befell at switch-on, and in which variants."""
    gone = found.blown > 0
    if not gone.any():
        return []
    return [
        (
            gone,
            f"{USUAL['fuse']} blew after {show(float(found.blown[gone][0]), 's', 2)}, at switch-on: charging "
            "the reservoirs melts it",
        )
    ]


def _paces(seconds: float, lamp: bool) -> Floats:
    """The steps, s: short ones at first, unless a lamp is in the way."""
    if lamp:
        return np.full(max(round(seconds / LAMP_STEP), 1), LAMP_STEP)
    rest = round((seconds - FIRST * FIRST_STEPS) / STEP)
    return np.concatenate([np.full(FIRST_STEPS, FIRST), np.full(max(rest, 1), STEP)])


def _mains(values: Values, state: State) -> Floats:
    return np.broadcast_to(
        np.asarray(state.volts * state.variable * values.get("mains", "share", 1.0), float), (values.count,)
    )


def _charging(stage: Stage, wave: float, held: Floats, lamp: Floats, pace: float) -> Floats:
    """A out of the winding, as it will be at the end of the step."""
    through = stage.first if wave >= 0 else stage.second
    swing = np.where(stage.direct > 0, 1.0, abs(wave))
    push = stage.peak * swing * through - stage.drops * (DROP + stage.diode) - held
    return np.maximum(push, 0.0) / (stage.ohms + lamp + stage.drops * DIODE_OHMS + stage.esr + pace / stage.store)


def _drawn(stage: Stage, held: Floats) -> Floats:
    """A that hangs on a store."""
    piece = np.minimum(np.maximum(held - stage.low, 0.0), stage.span) * stage.slope
    power = np.where(held >= stage.until, stage.power / np.maximum(held, 1e-9), 0.0)
    return piece + power + stage.leak * held


def _charged(story: Floats, times: Floats) -> Floats:
    """When the slowest store has come to what it comes to. story: steps by branches by variants."""
    most = story.max(axis=0)
    first = times[(story >= CHARGED * most).argmax(axis=0)]
    return np.where(most > 0, first, 0.0).max(axis=0)
