"""Curves and strips as drawn: points worked out in the drawing's own units, ticks with their words. Templates only place them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..board.parts import Capacitor
from ..choose.fuses import Fuse
from ..choose.supply_figures import BranchState
from ..choose.supply_model import Branch
from ..judge import ageing, reform
from ..text.quantity import show

WIDTH, HEIGHT, LEFT, RIGHT, BELOW, TOP = 640.0, 200.0, 58.0, 30.0, 26.0, 12.0
#: Points of a wave that are drawn.
POINTS = 240


@dataclass(frozen=True)
class Curve:
    """One line of a plot: its points as an SVG polyline's, whether it is of the new part or the old, and its name."""

    points: str
    which: str
    name: str


@dataclass(frozen=True)
class Tick:
    """A tick: where on its axis, and its words."""

    at: float
    text: str


@dataclass(frozen=True, kw_only=True)
class Plot:
    """A plot: curves, ticks across and up, a dot with its words, and what it says to those who cannot see it."""

    curves: tuple[Curve, ...]
    across: tuple[Tick, ...]
    up: tuple[Tick, ...]
    says: str
    title: str = ""
    dot: tuple[float, float, str] | None = None
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT

    @property
    def bottom(self) -> float:
        return self.height - BELOW

    @property
    def right(self) -> float:
        return self.width - RIGHT


def _ticks(low: float, high: float, unit: str, log: bool, count: int = 4) -> list[tuple[float, str]]:
    """Round values between two ends, with their words."""
    if log:
        first, last = math.ceil(math.log10(low) - 1e-9), math.floor(math.log10(high) + 1e-9)
        step = max(1, (last - first) // 5 + 1)
        return [(10.0**k, show(10.0**k, unit) if unit else f"{10.0**k:g}") for k in range(first, last + 1, step)]
    span = (high - low) / count
    size = 10 ** math.floor(math.log10(span)) if span > 0 else 1.0
    step = next(size * k for k in (1, 2, 2.5, 5, 10) if size * k >= span)
    start = math.ceil(low / step - 1e-9)
    values = [step * i for i in range(start, start + 3 * count) if step * i <= high + 1e-9 * step]
    return [(v, show(v, unit) if unit else f"{v:g}") for v in values]


def plot(
    series: Sequence[tuple[str, str, Sequence[float], Sequence[float]]], *, units: tuple[str, str], log: tuple[bool, bool] = (False, False),
    title: str = "", dot: tuple[float, float, str] | None = None, from_zero: bool = False, height: float = HEIGHT,
) -> Plot:  # fmt: skip
    """A plot of series of (name, class, x, y), with units for both axes; log: which axes are logarithmic."""
    xs = np.concatenate([np.asarray(x, dtype=float) for _, _, x, _ in series])
    ys = np.concatenate([np.asarray(y, dtype=float) for _, _, _, y in series])
    x_ends = (float(xs.min()), float(xs.max()))
    low, high = float(ys.min()), float(ys.max())
    if dot:
        low, high = min(low, dot[1]), max(high, dot[1])
        x_ends = (min(x_ends[0], dot[0]), max(x_ends[1], dot[0]))
    if from_zero:
        low = min(low, 0.0)
    if not log[1]:
        room = (high - low) * 0.06 or abs(high) * 0.1 or 1.0
        low, high = (low if from_zero and low == 0 else low - room), high + room

    def place(value: float, ends: tuple[float, float], way: bool, start: float, end: float) -> float:
        a, b = ends
        if way:
            value, a, b = math.log10(max(value, 1e-18)), math.log10(a), math.log10(b)
        return round(start + (end - start) * (value - a) / ((b - a) or 1.0), 1)

    def x_at(value: float) -> float:
        return place(value, x_ends, log[0], LEFT, WIDTH - RIGHT)

    def y_at(value: float) -> float:
        return place(value, (low, high), log[1], height - BELOW, TOP)

    curves = tuple(
        Curve(" ".join(f"{x_at(a)},{y_at(b)}" for a, b in zip(x, y, strict=True)), which, name)
        for name, which, x, y in series
    )
    across = tuple(Tick(x_at(v), text) for v, text in _ticks(*x_ends, units[0], log[0], 6))
    up = tuple(Tick(y_at(v), text) for v, text in _ticks(low, high, units[1], log[1]))
    said = "; ".join(f"{name}: {show(min(y), units[1])} to {show(max(y), units[1])}" for name, _, _, y in series)
    at = (x_at(dot[0]), y_at(dot[1]), dot[2]) if dot else None
    return Plot(curves=curves, across=across, up=up, says=said, title=title, dot=at, height=height)


def waves(state: BranchState) -> tuple[Plot, Plot]:
    """Volts on the store, and the current that charges it, over two cycles of the mains: old and new on the same axes."""
    span = 2 / state.before.supply.frequency
    old, new = state.before.waves.over(span), state.after.waves.over(span)
    pick = np.linspace(0, len(old.time) - 1, POINTS).astype(int)
    time = old.time[pick]
    same = np.array_equal(old.volts, new.volts)
    volts = [("old", "old", time, old.volts[pick])] + ([] if same else [("new", "new", time, new.volts[pick])])
    amps = [("old", "old", time, old.source[pick])] + ([] if same else [("new", "new", time, new.source[pick])])
    return (
        plot(volts, units=("s", "V"), title="Volts on the reservoir"),
        plot(amps, units=("s", "A"), title="Charging current", from_zero=True, height=150.0),
    )


def fuse_plot(fuse: Fuse, pulse: float = 0.0, peak: float = 0.0) -> Plot:
    """A fuse's curve, with the switch-on pulse on it: its peak current for the time that makes its I²t."""
    amps, seconds = zip(*fuse.curve(), strict=True)
    dot = (peak, pulse / peak**2, f"switch-on {show(pulse, 'A²s')}") if pulse > 0 and peak > 0 else None
    return plot(
        [(fuse.part, "new", amps, seconds)],
        units=("A", "s"),
        log=(True, True),
        title="Time it stands a current",
        dot=dot,
    )


def ripple_plot(part: Capacitor) -> Plot | None:
    """Ripple a part carries by frequency; None where no rating is given."""
    if not part.ripple:
        return None
    at = np.logspace(math.log10(50), 5, 40)
    rated = float(ageing.ripple_multiplier(part.ripple_frequency, part.value, part.low_impedance)) or 1.0
    amps = [part.ripple * float(ageing.ripple_multiplier(f, part.value, part.low_impedance)) / rated for f in at]
    return plot(
        [("ripple", "new", at, amps)],
        units=("Hz", "A"),
        log=(True, False),
        title="Ripple it carries, by frequency",
        from_zero=True,
    )


def life_plot(part: Capacitor) -> Plot | None:
    """Years a part lasts at its full ripple and at half of it, by temperature; None for parts without a rated life."""
    if not part.life or not part.temperature or part.kind == "film":
        return None
    at = np.arange(30.0, part.temperature + 0.1, 1.0)
    series = [
        (name, which, at, [float(ageing.life(part.life, part.temperature, t, share, 1.0)) / 8760 for t in at])
        for name, which, share in (("half its ripple", "new", 0.5), ("all its ripple", "old", 1.0))
    ]
    return plot(series, units=("°C", "y"), title="Years it lasts, by temperature", from_zero=True)


def reform_plot(value: float, volts: float, readings: Sequence[reform.CurrentReading]) -> Plot | None:
    """The current of a reforming run over its minutes, log, and what each step allows as stairs; None while nothing was read."""
    if not readings:
        return None
    minutes, allowed = reform.stairs(value, volts, readings)
    read = [max(r.current, 1e-7) for r in readings]
    return plot(
        [("allowed", "limit", minutes, allowed), ("read", "new", [r.minutes for r in readings], read)],
        units=("", "A"),
        log=(False, True),
        title="Current over minutes",
    )


@dataclass(frozen=True)
class PlotBlock:
    """A block of the schematic strip: where it starts, what it is, its title and the lines under it."""

    x: float
    kind: str
    title: str
    lines: tuple[str, ...]

    @property
    def rows(self) -> list[tuple[int, str]]:
        """Its lines, each with its height."""
        return [(54 + 17 * i, line) for i, line in enumerate(self.lines)]


@dataclass(frozen=True)
class Strip:
    """The way from the source to the rails, as blocks from the left."""

    blocks: tuple[PlotBlock, ...]
    width: float

    @property
    def says(self) -> str:
        return ", then ".join(f"{b.title} ({'; '.join(b.lines)})" for b in self.blocks)


DIODES = {"half": "Half wave", "centre": "Two diodes", "bridge": "Bridge", "doubler": "Doubler"}
#: Width of a block and of the wire after it.
BLOCK, WIRE = 132.0, 26.0


def strip(branch: Branch, state: BranchState | None) -> Strip:
    """The strip of a branch, with what it does where it could be reckoned."""
    found: list[tuple[str, str, tuple[str, ...]]] = []
    outside = branch.outside
    start = outside.title if outside else f"{branch.volts:g} V winding" if branch.volts else "Mains"
    size = f"{branch.va:g} VA" if branch.va else show(branch.ohms, "Ω")
    if outside:
        size = f"made for {show(outside.current, 'A')}" if outside.current else ""
    drawn = f"{show(state.after.source_rms, 'A')}{' drawn' if branch.direct else ' rms'}" if state else ""
    found.append(
        (
            "direct" if branch.direct else "source" if branch.volts else "mains",
            start[:1].upper() + start[1:],
            tuple(filter(None, (size, drawn))),
        )
    )
    if not branch.direct:
        peak = f"{show(state.after.source_peak, 'A')} peak" if state else ""
        found.append(("diode", DIODES[branch.topology], tuple(filter(None, (peak,)))))
    store: tuple[str, ...] = ()
    if state and branch.direct:
        store = (show(state.after.v_avg, "V"), "under load")
    elif state:
        now = state.after
        average, ripple = f"{show(now.v_avg, 'V')} average", f"{show(now.ripple_pp, 'V')} ripple"
        store = (show(now.supply.store, "F"), average, ripple)
    if branch.stores:
        found.append(("store", " + ".join(branch.stores), store))
    if branch.regulator:
        head = next((f for f in state.figures if f.name.startswith("Regulator headroom")), None) if state else None
        lines = (f"{show(head.after, 'V')} headroom", "at −10 % mains" if "−10" in head.name else "") if head else ()
        lines = tuple(filter(None, lines))
        found.append(("regulator", branch.regulator.ref, lines))
        found.append(("rail", show(branch.regulator.volts, "V"), (show(branch.regulator.current, "A"),)))
    elif branch.converter:
        fed = branch.converter
        found.append(("converter", fed.topology.capitalize(), (show(fed.power, "W"), show(fed.frequency, "Hz"))))
        rails = tuple(f"{rail.name} {show(rail.current, 'A')}" for rail in fed.rails)
        found.append(("rail", f"{len(rails)} rails", rails))
    else:
        load = show(branch.current, "A") if branch.current else show(branch.resistance, "Ω")
        found.append(("rail", "Load", (load,)))
    blocks = tuple(PlotBlock(i * (BLOCK + WIRE), *one) for i, one in enumerate(found))
    return Strip(blocks, len(blocks) * (BLOCK + WIRE) - WIRE)
