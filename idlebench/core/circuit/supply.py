"""A rectifier and its store, from the winding to the load, in the state that repeats itself every cycle.

The volts on the store over one period are the unknowns, all at once. Each step is an implicit Euler step whose diode current
is known in closed form (Wright's omega), and the last point is joined to the first: what is solved is the repeating state
itself, not the way to it. Newton's method climbs to it from an empty store without ever passing it.

Source: Shockley diode with series resistance; R. M. Corless and D. J. Jeffrey, "The Wright omega function" (2002).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from ..refusal import BadInput
from ..text.quantity import show

TOPOLOGIES = ("half", "centre", "bridge")
#: A source of DC: nothing is rectified, and nothing repeats.
DIRECT = "direct"
LOADS = ("current", "resistance", "regulator")

#: Diode: saturation current A, ideality, series resistance Ω, volts of heat at 27 °C.
SATURATION, IDEALITY, DIODE_OHMS = 5e-9, 1.75, 0.030
#: What flows without load, A: a regulator's own current, or the leakage of an old store.
IDLE_CURRENT = 1e-3
THERMAL_VOLTS = 1.380649e-23 * 300.15 / 1.602176634e-19
#: Points over a period, coarse to fine; each solution starts the next.
GRIDS = (128, 512, 2048)
#: Newton steps on a grid before it counts as not settling, and the volts it settles to.
MOST_STEPS, SETTLED = 40, 1e-7
#: How often a step that leads away is halved.
SHORTER = 8
#: Times the store, for a supply that does not settle at once.
LARGER_FIRST = (1000.0, 300.0, 100.0, 30.0, 10.0, 5.0, 3.0, 2.0, 1.5, 1.2, 1.0)
#: A constant current fades out below this many volts: no load draws from an empty store.
FADES = 0.5
#: What the figures that go in may be: F, Ω, V, A.
RANGE = {"store": (1e-7, 10.0), "store_esr": (0.0, 1e4), "source": (0.5, 2000.0), "source_resistance": (1e-3, 1e5)}
SOURCE = "simulated to the repeating state; Shockley diodes, Iₛ 5 nA, n 1.75, 30 mΩ, 27 °C"


@dataclass(frozen=True)
class Load:
    """What a store feeds.

    kind: current (A, steady), resistance (Ω), or regulator (A steady until its volts run out).
    amount: A or Ω. v_out, dropout: V of a regulator.
    """

    kind: str = "current"
    amount: float = 1.0
    v_out: float = 0.0
    dropout: float = 0.0

    def piece(self) -> tuple[float, float, float]:
        """The load as one rising piece: from these volts, to these volts, with this slope (A/V)."""
        if self.kind == "resistance":
            return 0.0, math.inf, 1 / self.amount
        if self.kind == "regulator":
            return self.dropout, self.dropout + self.v_out, self.amount / self.v_out
        return 0.0, FADES, self.amount / FADES

    @property
    def text(self) -> str:
        if self.kind == "resistance":
            return show(self.amount, "Ω")
        return show(self.amount, "A") + (f" regulated to {show(self.v_out, 'V')}" if self.kind == "regulator" else "")


@dataclass(frozen=True, kw_only=True)
class Supply:
    """A source, a rectifier and a store.

    topology: half, centre, bridge, or DIRECT. source: V rms without load (of one half where the winding is tapped in its centre), DC of a
    direct one. steady: whether it keeps its volts whatever the mains do.
    frequency: Hz. source_resistance: Ω. store: F. store_esr: Ω. load: what it feeds.
    """

    topology: str
    source: float
    frequency: float
    source_resistance: float
    store: float
    store_esr: float
    load: Load
    steady: bool = False

    @property
    def peak(self) -> float:
        """Peak of the source, V."""
        return self.source if self.topology == DIRECT else self.source * math.sqrt(2)

    @property
    def drops(self) -> int:
        """Diodes in the way of the current."""
        return {"bridge": 2, DIRECT: 0}.get(self.topology, 1)

    @property
    def rate(self) -> float:
        """How often the store is charged in a second, Hz."""
        return self.frequency if self.topology == "half" else 2 * self.frequency

    @property
    def unloaded(self) -> float:
        """Volts the store creeps up to without load, V: the peak less what its diodes drop at the little that still flows.

        Diodes as in the simulation, at 1 mA: the regulator's own current, or the store's leakage. Two of them take 1.1 V.
        """
        return self.peak - self.drops * IDEALITY * THERMAL_VOLTS * math.log(IDLE_CURRENT / SATURATION + 1)

    def at(self, percent: float) -> Supply:
        """The same on mains that stray by some per cent."""
        if self.steady:
            return self
        return replace(self, source=self.source * (1 + percent / 100))

    def without_load(self) -> Supply:
        """The same with next to nothing drawn."""
        return replace(self, load=Load("current", 1e-6))


@dataclass(frozen=True)
class Waves:
    """Waveforms over one charging period: s, V at the store, A from the source, A into the store."""

    time: np.ndarray
    volts: np.ndarray
    source: np.ndarray
    store: np.ndarray

    def over(self, span: float) -> Waves:
        """The same repeated over a span (s)."""
        step, period = self.time[1] - self.time[0], self.time[-1] + self.time[1] - self.time[0]
        times = max(1, math.ceil(span / period - 1e-9))
        told = (np.tile(one, times) for one in (self.volts, self.source, self.store))
        return Waves(np.arange(len(self.time) * times) * step, *told)


@dataclass(frozen=True, kw_only=True)
class Settled:
    """A supply in its repeating state. Volts at the store, currents in A.

    source_rms is that of the winding (of each half where it is tapped in its centre).
    """

    supply: Supply
    v_avg: float
    v_min: float
    v_max: float
    store_rms: float
    source_rms: float
    source_peak: float
    waves: Waves

    @property
    def ripple_pp(self) -> float:
        return self.v_max - self.v_min


def check(supply: Supply) -> None:
    """Refuse figures that no supply has.

    Args:
        supply: the supply.

    Raises:
        BadInput: naming the figure and what it may be.
    """
    direct = supply.topology == DIRECT
    if supply.topology not in TOPOLOGIES and not direct:
        raise BadInput(supply.topology, f"one of {', '.join(TOPOLOGIES)}", field="topology")
    for name, (low, high) in RANGE.items():
        if direct and name.startswith("store"):
            continue
        value = getattr(supply, name)
        if not (math.isfinite(value) and low <= value <= high):
            unit = {"store": "F", "source": "V"}.get(name, "Ω")
            mend = "Without a capacitor there is nothing to smooth: type its value." if name == "store" else ""
            raise BadInput(show(value, unit), f"{show(low, unit)} to {show(high, unit)}", mend, field=name)
    if not (1 <= supply.frequency <= 1000):
        raise BadInput(show(supply.frequency, "Hz"), "a mains frequency of 1 Hz to 1 kHz", field="frequency")
    load = supply.load
    if load.kind not in LOADS:
        raise BadInput(load.kind, f"one of {', '.join(LOADS)}", field="load")
    unit = "Ω" if load.kind == "resistance" else "A"
    if not (math.isfinite(load.amount) and 0 < load.amount <= 1e9):
        raise BadInput(show(load.amount, unit), "a load above zero", field="load")
    if load.kind == "regulator" and not load.v_out > 0:
        raise BadInput(show(load.v_out, "V"), "the volts it is regulated to", field="load")
    most = (supply.peak - (0.0 if direct else 1.0)) / supply.source_resistance
    drawn = supply.peak / load.amount if load.kind == "resistance" else load.amount
    if drawn > most:
        raise BadInput(
            load.text,
            f"under {show(max(most, 0), 'A')}, the most the {'source' if direct else 'winding'} gives into a short",
            "The load is above the source: check both."
            if direct
            else "The load is above the winding: check both, or the winding's resistance.",
            field="load",
        )


def _currents(supply: Supply, drive: np.ndarray, held: np.ndarray) -> tuple[np.ndarray, ...]:
    """Source current, load current, volts and the two slopes (A/V) for a driving voltage and volts held in the store."""
    # it takes half a second to load, and most of what is asked of this program never needs it
    from scipy.special import wrightomega

    low, high, slope = supply.load.piece()
    esr, series = supply.store_esr, supply.source_resistance + supply.drops * DIODE_OHMS
    heat = supply.drops * IDEALITY * THERMAL_VOLTS
    most = slope * (high - low) if math.isfinite(high) else math.inf

    def solve(ohms: float, over: np.ndarray) -> np.ndarray:
        """The current at which ohms and diodes together drop what is over."""
        log_term = math.log(ohms * SATURATION / heat)
        return heat / ohms * wrightomega(log_term + (over + ohms * SATURATION) / heat) - SATURATION

    shrink = 1 / (1 + esr * slope)
    rising_ohms = series + esr * shrink
    if math.isfinite(most):
        source = solve(series + esr, drive - held + esr * most)
        volts = held + esr * (source - most)
        load = np.full_like(held, most)
        flat = volts >= high
    else:
        source, volts, load = (np.zeros_like(held) for _ in range(3))
        flat = np.zeros(held.shape, bool)
    by_source, by_load = -1 / (series + esr + heat / np.maximum(source + SATURATION, 1e-30)), np.zeros_like(held)
    rest = ~flat
    if rest.any():
        d, h = drive[rest], held[rest]
        current = solve(rising_ohms, d - (h + esr * slope * low) * shrink)
        at = (h + esr * (current + slope * low)) * shrink
        slope_in = -shrink / (rising_ohms + heat / np.maximum(current + SATURATION, 1e-30))
        drawn, slope_out = slope * (at - low), slope * shrink * (1 + esr * slope_in)
        idle = at < low
        if idle.any():
            off = solve(series + esr, d[idle] - h[idle])
            current[idle], at[idle] = off, h[idle] + esr * off
            drawn[idle], slope_out[idle] = 0.0, 0.0
            slope_in[idle] = -1 / (series + esr + heat / np.maximum(off + SATURATION, 1e-30))
        source[rest], volts[rest], load[rest] = current, at, drawn
        by_source[rest], by_load[rest] = slope_in, slope_out
    return source, load, volts, by_source, by_load


def _repeating(supply: Supply, drive: np.ndarray, held: np.ndarray, step: float) -> np.ndarray:
    """Volts held in the store at each point, so that the last step leads to the first point. Where the way there is too steep,
    a larger store is solved first and made smaller in steps.

    Args:
        supply: the supply.
        drive: what drives each unknown.
        held: what is held while the step is made.
        step: the step.

    Returns:
        V at each point of the cycle.

    Raises:
        BadInput: it does not settle.
    """
    found = _newton(supply, drive, held, step, shorter=1)
    if found is None:
        found = _newton(supply, drive, held, step, shorter=SHORTER)
    for factor in () if found is not None else LARGER_FIRST:
        larger = _newton(replace(supply, store=supply.store * factor), drive, held, step, shorter=SHORTER)
        held = held if larger is None else larger
        found = larger if factor == 1.0 else None
    if found is None:
        raise BadInput(
            f"{supply.topology}, {show(supply.store, 'F')}, {supply.load.text}",
            "a supply that comes to a repeating state",
            "It did not settle, so no figure is given. Check the values against each other.",
            field="store",
        )
    return found


def _newton(supply: Supply, drive: np.ndarray, held: np.ndarray, step: float, shorter: int) -> np.ndarray | None:
    """Newton's method from a guess; None where it does not settle. shorter: how often a step that leads away is tried."""
    share = step / supply.store

    def off(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """By how much each step misses the next point, and the slope of that."""
        source, load, _, by_source, by_load = _currents(supply, drive, at)
        return at - np.roll(at, 1) - share * (source - load), 1 - share * (by_source - by_load)

    # all points of a period are unknowns at once, and the last feeds the first: the repeating state itself, where marching
    # from an empty store would need hundreds of periods to come near it
    wrong, slope = off(held)
    for _ in range(MOST_STEPS):
        change = _cyclic(slope, -wrong)
        miss, full = np.abs(wrong).max(), change
        for _ in range(shorter):
            at = held + change
            wrong, slope = off(at)
            if np.abs(wrong).max() <= miss or np.abs(full).max() < SETTLED * supply.peak:
                break
            # the diode's exponential makes a full step overshoot; half of it still leads the right way
            change = change / 2
        held = at
        if not np.all(np.isfinite(held)):
            break
        if np.abs(full).max() < SETTLED * max(1.0, supply.peak):
            return held
    return None


def _cyclic(diagonal: np.ndarray, right: np.ndarray) -> np.ndarray:
    """Solve d[k]·x[k] − x[k−1] = r[k] round a ring."""
    from scipy.linalg import solve_banded

    # cut the ring open, solve the chain for its load and for what its open end would carry on, then close it: O(n), where a
    # dense solve of the ring is O(n³)
    n = len(diagonal)
    bands = np.empty((2, n))
    bands[0] = diagonal
    bands[1] = -1.0
    both = np.zeros((n, 2))
    both[:, 0] = right
    both[0, 1] = 1.0
    open_ends = solve_banded((1, 0), bands, both, overwrite_ab=True, overwrite_b=True, check_finite=False)
    left_over = -math.expm1(-float(np.log(diagonal).sum()))
    last = open_ends[-1, 0] / max(left_over, 1e-300)
    return open_ends[:, 0] + last * open_ends[:, 1]


def simulate(supply: Supply) -> Settled:
    """A supply in its repeating state.

    Args:
        supply: the supply.

    Returns:
        Its waves and averages: V and A.

    Raises:
        BadInput: figures that no supply has, or one that does not settle.

    >>> fed = dict(topology='bridge', source=9.0, frequency=50.0, source_resistance=0.6)
    >>> s = simulate(Supply(**fed, store=4700e-6, store_esr=0.030, load=Load('current', 1.0)))
    >>> round(s.v_avg, 2), round(s.v_min, 2), round(s.store_rms, 2)
    (8.36, 7.7, 1.35)
    """
    check(supply)
    period = 1 / supply.rate
    if supply.topology == DIRECT:
        return _steady(supply, period)
    held = np.zeros(GRIDS[0])
    for points in GRIDS:
        step = period / points
        angle = 2 * math.pi * supply.frequency * step * np.arange(points)
        wave = np.sin(angle)
        drive = supply.peak * (wave if supply.topology == "half" else np.abs(wave))
        if len(held) != points:
            held = np.interp(np.arange(points) / points, np.arange(len(held)) / len(held), held, period=1.0)
        held = _repeating(supply, drive, held, step)
    source, load, volts, _, _ = _currents(supply, drive, held)
    source = np.maximum(source, 0.0)
    into = source - load
    share = 0.5 if supply.topology == "centre" else 1.0
    return Settled(
        supply=supply,
        v_avg=float(volts.mean()),
        v_min=float(volts.min()),
        v_max=float(volts.max()),
        store_rms=float(np.sqrt((into**2).mean())),
        source_rms=float(np.sqrt(share * (source**2).mean())),
        source_peak=float(source.max()),
        waves=Waves(step * np.arange(points), volts, source, into),
    )


def _steady(supply: Supply, period: float) -> Settled:
    """A DC source on its load: volts and amps that do not move, from E − R · I(V) = V.

    >>> at = simulate(Supply(topology=DIRECT, source=9.0, frequency=50.0, source_resistance=0.2, store=0.0, store_esr=0.0, load=Load()))
    >>> round(at.v_avg, 3), at.ripple_pp, round(at.source_rms, 3)
    (8.8, 0.0, 1.0)
    """
    from scipy.optimize import brentq

    low, high, slope = supply.load.piece()

    def drawn(volts: float) -> float:
        return slope * (min(max(volts, low), high) - low)

    volts = float(brentq(lambda v: supply.source - supply.source_resistance * drawn(v) - v, 0.0, supply.source))
    amps = drawn(volts)
    flat = np.ones(GRIDS[0])
    waves = Waves(period * np.arange(GRIDS[0]) / GRIDS[0], volts * flat, amps * flat, 0.0 * flat)
    same = dict.fromkeys(("v_avg", "v_min", "v_max"), volts) | dict.fromkeys(("source_rms", "source_peak"), amps)
    return Settled(supply=supply, store_rms=0.0, waves=waves, **same)
