"""The circuit of a line of the supply: its stores as the survey has them, settled on its mains.

Source: a part in use at 0.55 of the limit: workshop practice, because limits are printed for the worst piece.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from ..board.parts import Capacitor, Fitted
from ..circuit import converter
from ..circuit.rail_lines import RailOut
from ..circuit.supply import Load, Settled, Supply, check, simulate
from ..circuit.supply_lines import Branch, ConverterIn
from ..circuit.transformer import winding
from ..judge import ageing
from ..refusal import BadInput
from .need import Mains

#: A wet part in use reads about this share of the limit for a new one.
TYPICAL = 0.55


@dataclass(frozen=True)
class Store:
    """What stands in a store's place for the reckoning: F, Ω at low frequency and at switching rates, and what it is called."""

    value: float
    esr: float
    esr_high: float
    name: str


def old_store(part: Fitted) -> Store:
    """The old part: its measured values where they are its own, else its marked value and the ESR of a sound one."""
    volts = part.volts or part.rail_volts or 25.0
    limit = ageing.new_esr(part.value, volts)
    value = part.capacitance if part.capacitance and not part.in_circuit else part.value
    esr = TYPICAL * limit
    if part.esr is not None and not part.in_circuit:
        # read at the meter's frequency: at 100 kHz a general part shows half of what it has at 120 Hz
        esr = ageing.esr_at(part.esr, part.esr_frequency or 120.0, 120.0)
    return Store(value, esr, esr * ageing.SHARE_100K["general"], f"old {part.ref}")


def sound_store(part: Fitted) -> Store:
    """The old part as it was when it was new."""
    volts = part.volts or part.rail_volts or 25.0
    esr = TYPICAL * ageing.new_esr(part.value, volts)
    return Store(part.value, esr, esr * ageing.SHARE_100K["general"], f"{part.ref} when new")


def new_store(part: Capacitor) -> Store:
    """A catalogue part."""
    if part.esr:
        low, high = (
            ageing.esr_at(part.esr, part.esr_frequency, wanted, part.low_impedance) for wanted in (120.0, 100e3)
        )
    else:
        low, high = (
            TYPICAL * ageing.new_esr(part.value, part.volts, wanted, part.low_impedance) for wanted in (120.0, 100e3)
        )
    return Store(part.value, low, high, part.part)


def in_series(stores: Sequence[Store]) -> Store:
    """Stores in series as one: half the value for two alike, twice the ESR."""
    if len(stores) == 1:
        return stores[0]
    value = 1 / sum(1 / s.value for s in stores)
    name = " and ".join(s.name for s in stores)
    return Store(value, sum(s.esr for s in stores), sum(s.esr_high for s in stores), name)


def together(stores: Sequence[Store]) -> Store:
    """Stores in parallel as one."""
    conductance = sum(1 / max(s.esr, 1e-6) for s in stores)
    high = sum(1 / max(s.esr_high, 1e-6) for s in stores)
    return Store(sum(s.value for s in stores), 1 / conductance, 1 / high, " + ".join(s.name for s in stores))


@lru_cache(maxsize=512)
def settle(supply: Supply) -> Settled:
    """A supply in its repeating state, remembered."""
    return simulate(supply)


def supply_of(branch: Branch, store: Store, mains: Mains, percent: float = 0.0) -> Supply:
    """The circuit of a branch with a store in it, on mains that stray by some per cent.

    Args:
        branch: a line of the supply: from its source to what it feeds.
        store: the store.
        mains: the mains as the place sees them.
        percent: how far the mains stray, %.

    Returns:
        The circuit, ready to be simulated.

    Raises:
        BadInput: a store of zero, or a load above the winding; it says what would work.
    """
    if direct := branch.direct:
        source, ohms = direct.open_volts, direct.ohms
        percent = percent if direct.strays else 0.0
    elif branch.volts:
        if branch.ohms:
            source, ohms = branch.volts, branch.ohms
        else:
            found = winding(branch.volts, branch.va)
            source, ohms = found.open_circuit, found.resistance
    else:
        source, ohms = mains.volts, branch.ohms or mains.volts**2 / branch.va * 0.05
    # labels hold on the tap in use
    source *= (1 + percent / 100) * branch.tapped(mains.volts)
    topology = "half" if branch.doubles else branch.topology
    supply = Supply(
        topology=topology,
        source=source,
        frequency=mains.frequency,
        source_resistance=ohms,
        store=store.value,
        store_esr=store.esr,
        load=Load("current", 1e-3),
        steady=direct is not None and not direct.strays,
    )
    supply = replace(supply, load=_load(branch, supply))
    check(supply)
    return supply


def _load(branch: Branch, supply: Supply) -> Load:
    if branch.regulator:
        return Load("regulator", branch.regulator.current, abs(branch.regulator.volts), branch.regulator.dropout)
    if branch.converter:
        # the two stores of a doubler share the power, each at its own volts
        power = branch.converter.power / branch.converter.efficiency / (2 if branch.doubles else 1)
        first = Load("current", power / (0.95 * supply.peak))
        average = settle(replace(supply, load=first)).v_avg
        return Load("current", power / average)
    return (
        Load("resistance", branch.resistance / (2 if branch.doubles else 1))
        if branch.resistance
        else Load("current", branch.current)
    )


def as_one(
    groups: Sequence[tuple[str, ...]],
    parts: Mapping[str, Fitted],
    make: Callable[[Fitted], Store],
    doubles: bool = False,
) -> Store:
    """The stores of a branch as one; of a doubler one of its two, the weaker, for each is charged on its own."""
    missing = [ref for group in groups for ref in group if ref not in parts]
    if missing:
        raise BadInput(
            ", ".join(missing), "a capacitor that the survey lists", "List it, or name another.", field="store"
        )
    if not groups:
        # a DC source needs no reservoir
        return Store(0.0, 0.0, 0.0, "none")
    if doubles:
        return min((make(parts[ref]) for ref in groups[0]), key=lambda s: s.value)
    return together([in_series([make(parts[ref]) for ref in group]) for group in groups])


def rail_limit(rail: RailOut) -> float:
    """The most ripple on a rail of a converter, V peak to peak: a hundredth of its volts, 50 mV at the least."""
    return max(0.01 * abs(rail.volts), 0.05)


def past_coil(fed: ConverterIn, rail: RailOut, after: Store | None) -> float:
    """The share of a rail's ripple that is left behind its coil, 1 without one: Z of the stores there over that of the coil.

    Args:
        fed: the converter.
        rail: its rail.
        after: the stores behind the coil as one, None for none.

    Returns:
        The share, at most 1.
    """
    if after is None or not rail.coil:
        return 1.0
    turn = 2 * math.pi * fed.frequency
    return min(1.0, math.hypot(after.esr_high, 1 / (turn * after.value)) / (turn * rail.coil))


def rail_ripple(fed: ConverterIn, rail: RailOut, store: Store, after: Store | None = None) -> float:
    """The ripple on a rail of a converter with its stores taken as one, V peak to peak; behind its coil where it has one."""
    before = converter.ripple_volts(
        fed.topology, rail.current, rail.duty, fed.frequency, store.value, store.esr_high, rail.choke
    )
    return before * past_coil(fed, rail, after)


def after_coil(rail: RailOut, parts: Mapping[str, Fitted], make: Callable[[Fitted], Store]) -> Store | None:
    """The stores behind a rail's coil as one, None without a coil."""
    return as_one([(ref,) for ref in rail.after], parts, make) if rail.after else None


def most_esr(fed: ConverterIn, rail: RailOut, value: float, limit: float, after: Store | None = None) -> float:
    """The ESR of all stores of a rail together that keeps its ripple within a limit (V); not above zero where no ESR does."""
    limit /= past_coil(fed, rail, after)
    without = converter.ripple_volts(fed.topology, rail.current, rail.duty, fed.frequency, value, 0.0, rail.choke)
    with_one = converter.ripple_volts(fed.topology, rail.current, rail.duty, fed.frequency, value, 1.0, rail.choke)
    return (limit - without) / (with_one - without)
