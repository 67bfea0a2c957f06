"""Many rectifiers and their stores at once, each in the state that repeats itself every cycle of the mains.

The volts held by a store at each point of a cycle are the unknowns; each step is an implicit Euler step whose diode current is
known in closed form (Wright's omega), and the last point is joined to the first. Rows are variants of one rectifier, columns are
points of a cycle: one variant costs little less than a hundred. The diode is that of ``circuit/supply``.

Source: implicit Euler: E. Hairer and G. Wanner, Solving Ordinary Differential Equations II (1996), IV.3; R. M. Corless and D. J.
Jeffrey, "The Wright omega function" (2002).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ..circuit.supply import DIODE_OHMS, IDEALITY, SATURATION, THERMAL_VOLTS

Floats = NDArray[np.float64]
#: Points over a half wave of the mains, coarse to fine: each finds where the next begins. A step on the way needs only the
#: first, a band over tolerances the first two.
ROUGH, MIDDLING, FINE = (24,), (20, 40), (24, 96)
#: Newton steps on a grid, and the share of the peak under which a step is the last: on a grid on the way, and on the finest. What a
#: step leaves is as its square: of a thousandth of the peak some millionths.
MOST_STEPS, ON_THE_WAY, LAST = 60, 1e-2, 2e-3
#: So many variants are worth settling their middle one first.
MANY = 100
#: V of a diode in the way of DC, beside its ohms.
DIRECT_DROP = 0.75
#: So few rows are reckoned number by number.
FEW = 8
#: A step that leads away is halved so often.
SHORTER = 6
#: A store that is open leaves so much, F: the wiring.
STRAY = 2e-9


@dataclass(frozen=True, kw_only=True)
class Stage:
    """Rectifiers with their stores; each field a number for each variant.

    peak: V of the winding without load, or of a DC source. direct: 1 where it is DC, which nothing rectifies.
    first, second: whether the half waves get through, 1 or 0. drops: diodes in the way.
    diode: V that a diode drops more than usual. ohms: in the way, Ω. store, esr: F, Ω.
    The load is a piece that rises from `low` volts on by `slope` A/V over `span` volts; a constant power, W, that holds down to
    `until` V and falls off below; and a leak, A/V.
    """

    peak: Floats
    first: Floats
    second: Floats
    drops: Floats
    diode: Floats
    ohms: Floats
    store: Floats
    esr: Floats
    low: Floats
    span: Floats
    slope: Floats
    power: Floats
    until: Floats
    leak: Floats
    direct: Floats

    @classmethod
    def of(cls, count: int, **values: float | Floats) -> Stage:
        """A stage of so many variants; a number counts for all of them."""
        values = {"direct": 0.0, **values}
        return cls(**{f.name: np.broadcast_to(np.asarray(values[f.name], float), (count,)).copy() for f in fields(cls)})

    def rows(self, which: NDArray[np.bool_]) -> Stage:
        """Some of the variants."""
        return Stage(**{f.name: getattr(self, f.name)[which] for f in fields(self)})


@dataclass(frozen=True)
class Cycle:
    """A whole cycle of the mains, a row a variant: V at the store, A out of the winding, A into the store.

    settled: whether the state was found; a variant that was not has no numbers.
    """

    volts: Floats
    source: Floats
    into: Floats
    settled: NDArray[np.bool_]


def settle(stage: Stage, frequency: float, grids: tuple[int, ...] = FINE) -> Cycle:
    """The repeating state of each variant, over a whole cycle. frequency: of the mains, Hz."""
    if stage.direct.any():
        return _steady(stage, 2 * grids[-1])
    count, points = len(stage.peak), 2 * grids[-1]
    found = Cycle(*(np.full((count, points), np.nan) for _ in range(3)), np.zeros(count, bool))
    # where both half waves are alike, one of them is the whole state
    alike = stage.first == stage.second
    for which, halves in ((alike, 1), (~alike, 2)):
        if which.any():
            _settled(stage.rows(which), frequency, grids, halves, found, which)
    return found


#: Rounds in which the volts of a DC source on its load are found: each halves what is left.
HALVINGS = 50


def _steady(stage: Stage, points: int) -> Cycle:
    """DC sources on their loads: volts that do not move, E − R · I(V) = V, found by halving."""
    low, high = np.zeros_like(stage.peak), stage.peak.copy()
    series = stage.ohms + stage.drops * DIODE_OHMS
    push = stage.peak * stage.first - stage.drops * (DIRECT_DROP + stage.diode)

    def drawn(volts: Floats) -> Floats:
        piece = np.minimum(np.maximum(volts - stage.low, 0.0), stage.span) * stage.slope
        safe = np.maximum(volts, 1e-3)
        until = np.maximum(stage.until, 1e-3)
        power = np.where(volts >= until, stage.power / safe, stage.power * volts / until**2)
        return piece + power + stage.leak * volts

    for _ in range(HALVINGS):
        middle = (low + high) / 2
        # above its solution a source would have to give less than the load draws
        above = push - series * drawn(middle) < middle
        low, high = np.where(above, low, middle), np.where(above, middle, high)
    volts, amps = low, np.where(push > 0, drawn(low), 0.0)
    flat = np.ones((1, points))
    return Cycle(volts[:, None] * flat, amps[:, None] * flat, 0.0 * amps[:, None] * flat, np.ones(len(volts), bool))


def _settled(
    stage: Stage, frequency: float, grids: tuple[int, ...], halves: int, found: Cycle, which: NDArray[np.bool_]
) -> None:
    """Find the state of variants over one or both half waves, and write it down."""
    middle = _middle(stage, frequency, halves, grids)
    held = _near(stage, halves, grids[0], middle)
    for points in grids:
        if held.shape[1] != halves * points:
            coarse, held = held.shape[1], _finer(held, halves * points)
            if middle:
                # what the coarse grid missed of the middle one it missed of all of them, by their ripple
                by = np.ptp(held, axis=1, keepdims=True) / max(float(np.ptp(middle[coarse])), 1e-9)
                held += by * (middle[halves * points] - _finer(middle[coarse], halves * points))
        drive = _drive(stage, halves, points)
        last = LAST if points == grids[-1] else ON_THE_WAY
        held, done, waves = _newton(stage, drive, held, 1 / frequency / (2 * points), last)
        if points == grids[0] and not done.all() and len(done) >= MANY:
            # too far from the middle one: these begin at nothing
            far = ~done
            held[far], done[far], again = _newton(
                stage.rows(far),
                drive[far],
                np.zeros((int(far.sum()), drive.shape[1])),
                1 / frequency / (2 * points),
                last,
            )
            for wave, new in zip(waves, again, strict=True):
                wave[far] = new
    source, volts, load = waves
    source = np.maximum(source, 0.0)
    for wave in (volts, source, load):
        wave[~done] = np.nan
    for whole, wave in ((found.volts, volts), (found.source, source), (found.into, source - load)):
        whole[which] = np.tile(wave, (1, 2 // halves))
    found.settled[which] = done


def _middle(stage: Stage, frequency: float, halves: int, grids: tuple[int, ...]) -> dict[int, Floats]:
    """What the middle one of many variants settles to, by the points of each grid; nothing of few, or where it does not settle."""
    if len(stage.peak) < MANY:
        return {}
    middle = Stage(**{f.name: np.median(getattr(stage, f.name), keepdims=True) for f in fields(Stage)})
    held, found = np.zeros((1, halves * grids[0])), {}
    for points in grids:
        if held.shape[1] != halves * points:
            held = _finer(held, halves * points)
        held, done, _ = _newton(middle, _drive(middle, halves, points), held, 1 / frequency / (2 * points), LAST)
        if not done.all():
            return {}
        found[halves * points] = held
    return found


def _near(stage: Stage, halves: int, points: int, middle: dict[int, Floats]) -> Floats:
    """Where to begin: of many variants at what the middle one settles to, of few at nothing."""
    if not middle:
        return np.zeros((len(stage.peak), halves * points))
    # as their winding's volts are to the middle one's
    peak = np.median(stage.peak)
    return middle[halves * points] * (stage.peak / max(peak, 1e-9))[:, None]


def _finer(held: Floats, points: int) -> Floats:
    times = points // held.shape[1]
    following = np.roll(held, -1, axis=1)
    share = np.arange(times) / times
    return (held[:, :, None] * (1 - share) + following[:, :, None] * share).reshape(len(held), points)


def _drive(stage: Stage, halves: int, points: int) -> Floats:
    """Volts of the winding behind those diodes that conduct: a half wave that does not get through is nothing."""
    wave = np.sin(math.pi * (np.arange(points) + 0.5) / points)
    through = (stage.first, stage.second)[:halves]
    return np.concatenate([(stage.peak * one)[:, None] * wave for one in through], axis=1)


#: A from the winding, V at the store and A of the load, at each point.
Waves = tuple[Floats, Floats, Floats]


def _newton(
    stage: Stage, drive: Floats, held: Floats, step: float, last: float
) -> tuple[Floats, NDArray[np.bool_], Waves]:
    """Newton's method for all variants; those that have settled rest. Returns volts held, which have settled, and their waves.

    last: a step under this share of the peak is the last one, and taken along the slopes.
    """
    found, settled = held.copy(), np.zeros(len(held), bool)
    waves: Waves = (np.zeros_like(held), np.zeros_like(held), np.zeros_like(held))
    rows = np.arange(len(held))
    part, at, push = stage, held, drive
    wrong, slope, here, slopes = _miss(part, push, at, step)
    for _ in range(MOST_STEPS):
        change = _ring(slope, -wrong)
        length = np.abs(change).max(axis=1)
        sound = np.isfinite(length) & np.isfinite(at).all(axis=1)
        there = (length < last * np.maximum(part.peak, 1.0)) & sound
        if len(rows) == len(held) and there.all():
            return at + change, there, _along(here, slopes, change)
        if there.any() or not sound.all():
            found[rows[there]], settled[rows[there]] = at[there] + change[there], True
            ended = _along([x[there] for x in here], [x[there] for x in slopes], change[there])
            for wave, now in zip(waves, ended, strict=True):
                wave[rows[there]] = now
            left = sound & ~there
            rows, part = rows[left], part.rows(left)
            at, push, wrong, slope, change, length = (x[left] for x in (at, push, wrong, slope, change, length))
            if not len(rows):
                break
        miss = np.abs(wrong).max(axis=1)
        share = np.ones(len(at))
        for attempt in range(SHORTER):
            trial = at + share[:, None] * change
            new_wrong, new_slope, here, slopes = _miss(part, push, trial, step)
            # a diode's exponential makes a full step overshoot; half of it still leads the right way
            away = (np.abs(new_wrong).max(axis=1) > miss) & (length > last * part.peak)
            if attempt == SHORTER - 1 or not away.any():
                break
            share[away] /= 2
        at, wrong, slope = trial, new_wrong, new_slope
    return found, settled, waves


def _along(waves: Iterable[Floats], slopes: Iterable[Floats], change: Floats) -> Waves:
    """The waves after a small step."""
    source, volts, load = (wave + slope * change for wave, slope in zip(waves, slopes, strict=True))
    return source, volts, load


def _miss(stage: Stage, drive: Floats, held: Floats, step: float) -> tuple[Floats, Floats, Waves, Waves]:
    """By how much each step misses the next point, V, the slope of that, the waves, and their slopes by the volts held."""
    source, volts, load, by_source, by_load = _currents(stage, drive, held)
    share = step / stage.store[:, None]
    missed = held - np.roll(held, 1, axis=1) - share * (source - load)
    by_both = by_source - by_load
    by_volts = 1 + stage.esr[:, None] * by_both
    return missed, 1 - share * by_both, (source, volts, load), (by_source, by_volts, by_load)


def _ring(diagonal: Floats, right: Floats) -> Floats:
    """Solve d[k]·x[k] − x[k−1] = r[k] round a ring, for all rows."""
    # as a chain for its load, and for what its open end would carry on; then it is closed
    if len(right) <= FEW:
        one, two = _chains(diagonal, right)
    else:
        # a point after the other for all rows: what is read together lies together
        by_point, pushes = 1 / diagonal.T, right.T.copy()
        chain, ends = np.empty_like(pushes), np.cumprod(by_point, axis=0)
        last = np.zeros(len(right))
        for push, share, out in zip(pushes, by_point, chain, strict=True):
            np.add(push, last, out=out)
            out *= share
            last = out
        one, two = chain.T, ends.T
    closing = one[:, -1] / np.maximum(1 - two[:, -1], 1e-12)
    return one + closing[:, None] * two


def _chains(diagonal: Floats, right: Floats) -> tuple[Floats, Floats]:
    """The two chains of _ring, number by number: an operation on an array of one costs ten of these."""
    ones, twos = [], []
    for slopes, pushes in zip(diagonal.tolist(), right.tolist(), strict=True):
        last, end, one, two = 0.0, 1.0, [], []
        for slope, push in zip(slopes, pushes, strict=True):
            last, end = (push + last) / slope, end / slope
            one.append(last)
            two.append(end)
        ones.append(one)
        twos.append(two)
    return np.array(ones), np.array(twos)


def _currents(stage: Stage, drive: Floats, held: Floats) -> tuple[Floats, Floats, Floats, Floats, Floats]:
    """A from the winding, V at the store, A of the load, and the slopes of both currents by the volts held, A/V."""
    from scipy.special import wrightomega

    esr, low, span, slope = (x[:, None] for x in (stage.esr, stage.low, stage.span, stage.slope))
    series = (stage.ohms + stage.drops * DIODE_OHMS)[:, None]
    heat = (stage.drops * IDEALITY * THERMAL_VOLTS)[:, None]
    drive = drive - (stage.drops * stage.diode)[:, None]
    # what holds its power, and what leaks, is drawn by the volts held: it changes little within a step
    by_steady = stage.leak[:, None]
    steady = held * by_steady
    if stage.power.any():
        power, until = stage.power[:, None], stage.until[:, None]
        holds = held >= until
        safe = np.where(holds, np.maximum(held, 1e-3), until)
        steady += np.where(holds, power / safe, power * held / np.maximum(until, 1e-3) ** 2)
        by_steady = by_steady + np.where(holds, -power / safe**2, power / np.maximum(until, 1e-3) ** 2)
    inner = held - esr * steady
    by_inner = 1 - esr * by_steady

    def solve(ohms: Floats, over: Floats, warm: Floats) -> Floats:
        """The current at which ohms and diodes together drop what is over."""
        return (
            warm / ohms * wrightomega(np.log(ohms * SATURATION / warm) + (over + ohms * SATURATION) / warm) - SATURATION
        )

    # the load flat: above its piece
    most = slope * span
    source = solve(series + esr, drive - inner + esr * most, heat)
    volts = inner + esr * (source - most)
    load, by_load = np.zeros_like(held) + most, np.zeros_like(held)
    by_source = -1 / (series + esr + heat / np.maximum(source + SATURATION, 1e-30))
    rest = volts < low + span
    if rest.any():
        row = np.nonzero(rest)[0]
        d, h = drive[rest], inner[rest]
        e, lo, g, s, w = (x[row, 0] for x in (esr, low, slope, series, heat))
        shrink = 1 / (1 + e * g)
        rising = s + e * shrink
        current = solve(rising, d - (h + e * g * lo) * shrink, w)
        at = (h + e * (current + g * lo)) * shrink
        by_in = -shrink / (rising + w / np.maximum(current + SATURATION, 1e-30))
        drawn, by_out = g * (at - lo), g * shrink * (1 + e * by_in)
        idle = at < lo
        if idle.any():
            off = solve((s + e)[idle], (d - h)[idle], w[idle])
            current[idle], at[idle], drawn[idle], by_out[idle] = off, h[idle] + e[idle] * off, 0.0, 0.0
            by_in[idle] = -1 / ((s + e)[idle] + w[idle] / np.maximum(off + SATURATION, 1e-30))
        source[rest], volts[rest], load[rest], by_source[rest], by_load[rest] = current, at, drawn, by_in, by_out
    return source, volts, load + steady, by_source * by_inner, by_load * by_inner + by_steady
