"""What a run of the simulated bench gives: rails, stores, what the mains are loaded with, and what happened."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from .rectifier import Floats
from .supply import Bench
from .truth import Values

Bools = NDArray[np.bool_]


@dataclass(kw_only=True)
class RailState:
    """A rail: V at the supply over a cycle of the mains with its sign, V of switching ripple p-p, A, V lost in its joint, and the
    least of its size over a cycle, or over a load step where one is on.
    """

    volts: Floats
    switching: Floats
    amps: Floats
    joint: Floats
    lowest: Floats


@dataclass
class StoreState:
    """A store: V from plus to minus over a cycle, A rms through it, °C, V p-p at the switching rate."""

    volts: Floats
    ripple: Floats
    warm: Floats
    switching: Floats


@dataclass(kw_only=True)
class Outcome:
    """All that a run gave. mains_amps: rms. lamp: V on it, as a share of what it is made for. blown: s after which the fuse went.
    ticking, dead: variants that start and stop, or do not start. shorted: something shorts the mains or a winding. limited: the
    source gives its most. said: what happened, and in which variants.
    """

    rails: dict[str, RailState] = field(default_factory=dict)
    stores: dict[str, StoreState] = field(default_factory=dict)
    mains_amps: Floats = field(default_factory=lambda: np.zeros(1))
    lamp: Floats = field(default_factory=lambda: np.zeros(1))
    blown: Floats = field(default_factory=lambda: np.zeros(1))
    settled: Bools = field(default_factory=lambda: np.ones(1, bool))
    ticking: Bools = field(default_factory=lambda: np.zeros(1, bool))
    dead: Bools = field(default_factory=lambda: np.zeros(1, bool))
    shorted: Bools = field(default_factory=lambda: np.zeros(1, bool))
    limited: Bools = field(default_factory=lambda: np.zeros(1, bool))
    said: list[tuple[Bools, str]] = field(default_factory=list)


def nothing_on(bench: Bench, values: Values) -> Outcome:
    """An outcome in which nothing has power, to be written in: volts of nought everywhere, every part at its own warmth."""
    n = values.count
    nothing = np.zeros((n, 2))
    flat = np.zeros(n)
    rails = {name: RailState(volts=nothing, switching=flat, amps=flat, joint=flat, lowest=flat) for name in bench.rails}
    stores = {ref: StoreState(nothing, flat, np.full(n, one.ambient), flat) for ref, one in bench.stores.items()}
    return Outcome(
        rails=rails,
        stores=stores,
        mains_amps=flat,
        lamp=flat,
        blown=flat,
        settled=np.ones(n, bool),
        ticking=np.zeros(n, bool),
        dead=np.zeros(n, bool),
        shorted=np.zeros(n, bool),
        limited=np.zeros(n, bool),
    )


def scratch(outcome: Outcome) -> Outcome:
    """An outcome to be written in without touching the one in hand."""
    rails = {name: replace(rail) for name, rail in outcome.rails.items()}
    stores = {ref: replace(store) for ref, store in outcome.stores.items()}
    return replace(outcome, rails=rails, stores=stores, said=[])
