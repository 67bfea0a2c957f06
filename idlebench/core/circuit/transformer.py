"""Transformers and adapters: what a winding gives without load, on another tap, and what an adapter should read.

Source: regulation, spread and ripple by size: workshop practice, because labels give neither: the tables that makers of small mains
transformers share.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show
from .supply import Load, Settled, Supply, simulate

#: Regulation by size: (VA, share).
REGULATION = ((3.0, 0.35), (10.0, 0.22), (25.0, 0.15), (50.0, 0.12), (100.0, 0.09))
#: How far an unloaded AC reading may stray.
SPREAD = 0.06
#: How far a reading of an unregulated DC adapter may stray, and of a regulated one.
UNREGULATED, REGULATED = 0.12, 0.05
#: An adapter's own store: ripple of this share of its volts at its label's current; and the store's ESR, Ω·F.
ADAPTER_RIPPLE, ADAPTER_ESR = 0.12, 120e-6
#: What the winding of a DC adapter carries, rms, as a multiple of the current that comes out; it is sized for that.
WINDING_RMS = 1.6
ADAPTERS = ("ac", "unregulated", "regulated")
SOURCE = (
    "open-circuit volts = rated · (1 + regulation); by size: workshop practice, because labels leave it out: the table that makers of "
    "small mains transformers share"
)


def regulation(va: float) -> float:
    """Share by which the volts rise without load, by size (VA).

    >>> regulation(10)
    0.22
    """
    sizes, shares = zip(*REGULATION, strict=True)
    return float(np.interp(np.log10(va), np.log10(sizes), shares))


@dataclass(frozen=True)
class Winding:
    """A winding: V rms rated and without load, A rated, Ω as its load sees it."""

    rated: float
    open_circuit: float
    current: float

    @property
    def resistance(self) -> float:
        return (self.open_circuit - self.rated) / self.current


def winding(volts: float, va: float) -> Winding:
    """A winding by its label: V rms at its rated current, and its size, VA.

    Args:
        volts: V.
        va: VA of the transformer; None where nobody said.

    Returns:
        V unloaded and Ω of the winding.

    Raises:
        BadInput: a number that is not above zero.

    >>> w = winding(9, 25)
    >>> round(w.open_circuit, 2), round(w.resistance, 3)
    (10.35, 0.486)
    """
    for name, number, unit in (("volts", volts, "V"), ("va", va, "")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    return Winding(volts, volts * (1 + regulation(va)), va / volts)


def unloaded(label_volts: float, va: float) -> Calculation:
    """What a winding of a label (V AC) and size (VA) reads without load, and the band."""
    share = regulation(va)
    volts = label_volts * (1 + share)
    lines = (
        CalculationLine(
            label="Regulation", formula="by size", numbers=f"{va:g} VA", value=share, unit="", source=SOURCE
        ),
        CalculationLine(
            label="Unloaded volts",
            formula="V · (1 + regulation)",
            numbers=f"{label_volts:g} · {1 + share:.3g}",
            value=volts,
            unit="V",
            source=SOURCE,
        ),
    )
    return Calculation(
        name="unloaded", values={"volts": volts, "low": volts * (1 - SPREAD), "high": volts * (1 + SPREAD)}, lines=lines
    )


def tap(mains: float, tap_volts: float, winding_volts: float) -> Calculation:
    """A winding fed on a tap that is not the mains: everything scales by mains ÷ tap.

    >>> round(tap(230, 240, 9).values['share'], 3), round(tap(230, 220, 9).values['share'], 3)
    (0.958, 1.045)
    """
    for name, number in (("mains", mains), ("tap_volts", tap_volts), ("winding_volts", winding_volts)):
        if not number > 0:
            raise BadInput(show(number, "V"), "more than zero", field=name)
    share = mains / tap_volts
    volts = winding_volts * share
    lines = (
        CalculationLine(
            label="Share",
            formula="mains ÷ tap",
            numbers=f"{mains:g} ÷ {tap_volts:g}",
            value=share,
            unit="",
            source="turns ratio",
        ),
        CalculationLine(
            label="The winding then gives",
            formula="V · share",
            numbers=f"{winding_volts:g} · {share:.3g}",
            value=volts,
            unit="V",
            source="turns ratio",
        ),
    )
    cooler = "Linear regulators run cooler; look at their headroom at −10 %."
    hotter = (
        "Everything after it runs higher and hotter: reservoirs, regulators and the core. Use the tap above the mains."
    )
    return Calculation(
        name="tap",
        values={"share": share, "volts": volts},
        lines=lines,
        cautions=(cooler if share <= 1.0 else hotter, "Moving a mains tap is for people trained for it, unplugged."),
        inputs={"mains": mains, "tap_volts": tap_volts, "winding_volts": winding_volts},
    )


@lru_cache(maxsize=256)
def adapter_supply(volts: float, current: float, frequency: float = 50.0) -> tuple[Supply, Settled]:
    """The insides of an unregulated DC adapter by its label: the winding whose loaded average is the label.

    Args:
        volts: V.
        current: A.
        frequency: Hz.

    Returns:
        The circuit, and its repeating state.

    Raises:
        BadInput: a label that no adapter of this kind has.
    """
    if not volts > 0:
        raise BadInput(show(volts, "V"), "the label's volts, above zero", field="label_volts")
    if not current > 0:
        raise BadInput(show(current, "A"), "the label's current, above zero", field="label_current")
    store = current / (2 * frequency * ADAPTER_RIPPLE * volts)
    from scipy.optimize import brentq

    def insides(rated: float) -> Supply:
        found = winding(rated, rated * WINDING_RMS * current)
        ohms = max(found.resistance, 1e-3)
        return Supply(
            topology="bridge",
            source=found.open_circuit,
            frequency=frequency,
            source_resistance=ohms,
            store=store,
            store_esr=ADAPTER_ESR / store,
            load=Load("current", current),
        )

    def over(rated: float) -> float:
        return simulate(insides(rated)).v_avg - volts

    try:
        rated = brentq(over, *_brackets(over, volts), xtol=1e-4 * volts)
    except (BadInput, ValueError):
        raise BadInput(
            f"{show(volts, 'V')} {show(current, 'A')}", "the label of a plug-in adapter", field="label_volts"
        ) from None
    found = insides(float(rated))
    return found, simulate(found)


def _brackets(over: Callable[[float], float], volts: float) -> tuple[float, float]:
    """Rated volts of a winding that gives too little, and of one that gives too much."""
    low, high = 0.8 * volts, 1.5 * volts + 3.0
    for _ in range(40):
        if over(high) >= 0:
            break
        high *= 1.3
    for _ in range(40):
        try:
            if over(low) < 0:
                return low, high
            low *= 0.85
        except BadInput:  # so low that the winding cannot give the current at all
            low *= 1.08
    raise BadInput(show(volts, "V"), "the label of a plug-in adapter", field="label_volts")


def adapter(
    label_volts: float, label_current: float, kind: str, measured: float = 0.0, frequency: float = 50.0
) -> Calculation:
    """What an adapter should read with nothing plugged in, and what to think of a reading.

    Args:
        label_volts: V on the adapter's label.
        label_current: A on the adapter's label.
        kind: one of ADAPTERS.
        measured: V read without load, 0 for none yet.
        frequency: Hz.

    Returns:
        V unloaded and loaded, with their lines.

    Raises:
        BadInput: an unknown kind, or a label of zero.
    """
    if kind not in ADAPTERS:
        raise BadInput(kind, f"one of {', '.join(ADAPTERS)}", field="kind")
    for name, number, unit in (("label_volts", label_volts, "V"), ("label_current", label_current, "A")):
        if not number > 0:
            raise BadInput(show(number, unit), "what the label says, above zero", field=name)
    va = label_volts * label_current
    lines = [
        CalculationLine(
            label="Size",
            formula="V · I",
            numbers=f"{label_volts:g} · {label_current:g}",
            value=va,
            unit="VA",
            source="label",
        )
    ]
    if kind == "ac":
        share, spread = regulation(va), SPREAD
        expected = label_volts * (1 + share)
        lines.append(
            CalculationLine(
                label="Unloaded",
                formula="V · (1 + regulation)",
                numbers=f"{label_volts:g} · {1 + share:.3g}",
                value=expected,
                unit="V",
                source=SOURCE,
            )
        )
    elif kind == "regulated":
        expected, spread = label_volts, REGULATED
        lines.append(
            CalculationLine(
                label="Unloaded",
                formula="as the label",
                numbers=f"{label_volts:g}",
                value=expected,
                unit="V",
                source="regulated",
            )
        )
    else:
        inside, loaded = adapter_supply(label_volts, label_current, frequency)
        expected, spread = simulate(inside.without_load()).v_avg, UNREGULATED
        lines += [
            CalculationLine(
                label="Winding inside, without load",
                formula="its average under load is the label",
                numbers=f"{loaded.v_avg:.4g} V at {label_current:g} A",
                value=inside.source,
                unit="V",
                source="rectifier and reservoir, solved backwards",
            ),
            CalculationLine(
                label="Unloaded",
                formula="the reservoir charges to the peak",
                numbers=f"√2 · {inside.source:.4g}, less the diodes",
                value=expected,
                unit="V",
                source="rectifier and reservoir",
            ),
        ]
    low, high = expected * (1 - spread), expected * (1 + spread)
    lines.append(
        CalculationLine(
            label="Band",
            formula=f"± {spread * 100:g} %",
            numbers="",
            value=f"{show(low, 'V')} to {show(high, 'V')}",
            unit="",
            source="",
        )
    )
    verdict = (
        "not measured"
        if not measured
        else "low"
        if measured < low
        else "high"
        if measured > high
        else "as it should be"
    )
    inside_it = {
        "ac": ("a shorted turn, or a corroded lead or plug", ""),
        "unregulated": ("a shorted turn, a dried capacitor inside, or half a bridge open", ""),
        "regulated": ("a dried capacitor inside, half a bridge open, or its regulator", ", or a shorted regulator"),
    }[kind]
    said = {
        "low": f"Lower than it should be: {inside_it[0]}.",
        "high": f"Higher than it should be: a wrong label, or another mains tap{inside_it[1]}.",
        "as it should be": "More than the label without load is how these are made.",
        "not measured": "Measure it with nothing plugged in, and the polarity of its plug.",
    }[verdict]
    at_plus_10 = expected if kind == "regulated" else 1.1 * expected
    cautions = (said, "The machine's input reservoir and regulator see this figure at +10 % mains, not the label.")
    return Calculation(
        name="adapter",
        values={"expected_unloaded": expected, "verdict": verdict, "low": low, "high": high, "at_plus_10": at_plus_10},
        lines=tuple(lines),
        cautions=cautions,
        inputs={"label_volts": label_volts, "label_current": label_current, "kind": kind, "measured": measured, "frequency": frequency},
    )  # fmt: skip


def bulk_load(power: float, efficiency: float, volts: float) -> float:
    """Current that a converter draws from its bulk store, A: power out (W) ÷ (efficiency · V).

    >>> round(bulk_load(40, 0.8, 312.5), 3)
    0.16
    """
    if not (power > 0 and 0 < efficiency <= 1 and volts > 0):
        raise BadInput(
            f"{power:g} W, {efficiency:g}, {volts:g} V", "watts above zero and an efficiency of up to 1", field="power"
        )
    return power / (efficiency * volts)
