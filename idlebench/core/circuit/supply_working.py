"""A linear supply reckoned for people: from what is typed to its figures, with their lines."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show
from .supply import SOURCE, Load, Settled, Supply, simulate

#: Two capacitors in series, each charged in one half wave: only the calculator takes it, a supply's lines reckon each half.
DOUBLER = "doubler"


RULE_OF_THUMB = "rule of thumb, a cross-check only"


def supply_working(
    topology: str,
    source: float,
    frequency: float,
    source_resistance: float,
    store: float,
    store_esr: float,
    load: str,
    mains_percent: float = 0.0,
    v_out: float = 0.0,
    dropout: float = 0.0,
) -> Calculation:
    """The simulation with its lines, from typed figures.

    Args:
        topology: of TOPOLOGIES, or DOUBLER: two capacitors in series, each charged in one half wave; store is one of them.
        source: V AC of the winding or source.
        frequency: Hz.
        source_resistance: Ω of winding and mains.
        store: F.
        store_esr: Ω of the store.
        load: amps, ohms or watts by its unit, of the whole; with v_out it is a regulator's.
        mains_percent: how far the mains stray, %.
        v_out: V out.
        dropout: V that the regulator needs above its output.

    Returns:
        V, A and ripple, with their lines.

    Raises:
        BadInput: a figure that no supply has.
    """
    doubles = topology == DOUBLER
    watts = read_watts(load)
    half = Supply(
        topology="half" if doubles else topology,
        source=source,
        frequency=frequency,
        source_resistance=source_resistance,
        store=store,
        store_esr=store_esr,
        load=Load("current", 1e-3),
    )
    half = half.at(mains_percent)
    if watts:
        fed = _of_power(half, watts / (2 if doubles else 1))
    else:
        fed = read_load(load, v_out / (2 if doubles else 1), dropout / (2 if doubles else 1))
        fed = replace(fed, amount=fed.amount / 2) if doubles and fed.kind == "resistance" else fed
    supply = replace(half, load=fed)
    found = _doubled(simulate(supply)) if doubles else simulate(supply)
    drawn = found.v_avg / (fed.amount * (2 if doubles else 1)) if fed.kind == "resistance" else fed.amount
    thumb = drawn / (supply.rate * store)
    at = f"{topology}, {show(supply.source, 'V')} rms, {show(source_resistance, 'Ω')}, {show(store, 'F')}, {fed.text}"
    lines = (
        CalculationLine(
            label="Peak of the winding without load",
            formula="√2 · V",
            numbers=f"1.414 · {supply.source:.4g}",
            value=supply.peak,
            unit="V",
            source="sine",
        ),
        CalculationLine(
            label="Average on the reservoir",
            formula="mean of v(t)",
            numbers=at,
            value=found.v_avg,
            unit="V",
            source=SOURCE,
        ),
        CalculationLine(
            label="Lowest", formula="least of v(t)", numbers="", value=found.v_min, unit="V", source=SOURCE
        ),
        CalculationLine(
            label="Highest", formula="most of v(t)", numbers="", value=found.v_max, unit="V", source=SOURCE
        ),
        CalculationLine(
            label="Ripple, peak to peak",
            formula="highest − lowest",
            numbers=f"{found.v_max:.4g} − {found.v_min:.4g}",
            value=found.ripple_pp,
            unit="V",
            source=SOURCE,
        ),
        CalculationLine(
            label="By rule of thumb",
            formula="I ÷ (f·C)",
            numbers=f"{drawn:.3g} ÷ ({supply.rate:g} · {show(store, 'F')})",
            value=thumb,
            unit="V",
            source=RULE_OF_THUMB,
        ),
        CalculationLine(
            label="Ripple current of the reservoir",
            formula="rms of i(t) into it",
            numbers="",
            value=found.store_rms,
            unit="A",
            source=SOURCE,
        ),
        CalculationLine(
            label="Current of the winding", formula="rms", numbers="", value=found.source_rms, unit="A", source=SOURCE
        ),
        CalculationLine(
            label="Peak through the diodes",
            formula="most of i(t)",
            numbers="",
            value=found.source_peak,
            unit="A",
            source=SOURCE,
        ),
    )
    values = {
        "v_avg": found.v_avg, "v_min": found.v_min, "v_max": found.v_max, "ripple_pp": found.ripple_pp,
        "store_rms": found.store_rms, "source_rms": found.source_rms, "source_peak": found.source_peak,
    }  # fmt: skip
    inputs = {
        "topology": topology, "source": source, "frequency": frequency, "source_resistance": source_resistance,
        "store": store, "store_esr": store_esr, "load": load, "mains_percent": mains_percent, "v_out": v_out, "dropout": dropout,
    }  # fmt: skip
    cautions = [
        "Charging current comes in short pulses: the winding and the diodes see its rms and its peak, not the average."
    ]
    if supply.peak > 60:
        cautions.insert(0, "Volts like these kill. Work on them is for people trained for it; local codes come first.")
    return Calculation(name="supply", values=values, lines=lines, cautions=tuple(cautions), inputs=inputs)


def read_watts(text: str) -> float:
    """Watts of a load that draws constant power, as a converter does; 0 where the load is typed otherwise.

    >>> read_watts('30 W'), read_watts('1 A')
    (30.0, 0.0)
    """
    from ..text.quantity import read

    plain = text.strip()
    return read(plain, "W", field="load", above=0, high=1e6) if plain.lower().endswith("w") else 0.0


def _of_power(supply: Supply, watts: float) -> Load:
    """The current that a constant power draws, settled with the volts that it leaves."""
    load = Load("current", watts / (0.95 * supply.peak))
    for _ in range(4):
        load = Load("current", watts / simulate(replace(supply, load=load)).v_avg)
    return load


def _doubled(half: Settled) -> Settled:
    """Both halves of a doubler: the same wave half a cycle later, on top of the first."""
    waves = half.waves
    volts = waves.volts + np.roll(waves.volts, len(waves.volts) // 2)
    return replace(
        half, v_avg=2 * half.v_avg, v_min=float(volts.min()), v_max=float(volts.max()), source_rms=math.sqrt(2) * half.source_rms,
        waves=replace(waves, volts=volts),
    )  # fmt: skip


def read_load(text: str, v_out: float = 0.0, dropout: float = 0.0) -> Load:
    """A load as typed: ``1.0 A`` or ``8 Ω``; with v_out it is what a linear regulator draws.

    Args:
        text: as it was typed.
        v_out: V out.
        dropout: V that the regulator needs above its output.

    Returns:
        A current (A), a resistance (Ω) or a power (W).

    Raises:
        BadInput: neither amps nor ohms.

    >>> read_load('8 Ω').kind, read_load('120 mA').amount, read_load('1 A', 5.0, 2.0).kind
    ('resistance', 0.12, 'regulator')
    """
    from ..text.quantity import read

    plain = text.strip()
    ohms = plain.lower().endswith(("ω", "ohm", "ohms", "r"))
    value = read(plain, "Ω" if ohms else "A", field="load", above=0, high=1e9)
    if ohms:
        return Load("resistance", value)
    return Load("regulator", value, v_out, dropout) if v_out else Load("current", value)
