"""Switching converters: what their output stores carry, how several share it, and what ripple is left.

Source: Erickson and Maksimović, Fundamentals of Power Electronics (2001), chapters 2 and 5.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

TOPOLOGIES = ("flyback", "buck", "forward", "boost")
MODES = ("continuous", "discontinuous")
SOURCE = (
    "continuous: flyback and boost Iₒ√(D/(1−D)), buck and forward ΔI/√12; discontinuous flyback Iₒ√(4/(3·D₂) − 1): Erickson and "
    "Maksimović, Fundamentals of Power Electronics (2001), chapters 2 and 5"
)


def discontinuous(current: float, conducts: float) -> float:
    """Ripple of a flyback's output capacitor in discontinuous mode, A rms: a triangle that ends before the next one begins.

    Args:
        current: A out.
        conducts: share of the period in which the output diode conducts.

    Returns:
        A rms.

    Raises:
        BadInput: no share, or one that leaves no pause.

    >>> round(discontinuous(3.1, 0.4), 3)
    4.735
    """
    if not 0 < conducts < 1:
        raise BadInput(
            f"{conducts:g}", "the share in which the output diode conducts, above 0 and below 1", field="duty"
        )
    return current * math.sqrt(4 / (3 * conducts) - 1)


def ripple_current(topology: str, current: float, duty: float, inductor_ripple: float = 0.0) -> float:
    """Ripple of an output store, A rms.

    Args:
        topology: bridge, half, centre-tapped, flyback, buck or forward.
        current: A out.
        duty: of the switch, 0 to 1.
        inductor_ripple: A peak to peak (buck, forward).

    Returns:
        A rms.

    >>> round(ripple_current('flyback', 3.1, 0.47), 3)
    2.919
    """
    if topology not in TOPOLOGIES:
        raise BadInput(topology, f"one of {', '.join(TOPOLOGIES)}", field="topology")
    if topology in ("buck", "forward"):
        if not inductor_ripple > 0:
            raise BadInput(
                show(inductor_ripple, "A"), "the choke's ripple, peak to peak, above zero", "Often 0.3 of the current.",
                field="inductor_ripple",
            )  # fmt: skip
        return inductor_ripple / math.sqrt(12)
    if not 0 < duty < 1:
        raise BadInput(
            f"{duty:g}",
            "a duty above 0 and below 1",
            "At 1 the switch never opens and there is no output.",
            field="duty",
        )
    return current * math.sqrt(duty / (1 - duty))


def ripple_volts(
    topology: str, current: float, duty: float, frequency: float, value: float, esr: float, inductor_ripple: float = 0.0
) -> float:
    """Ripple left on an output, V peak to peak, of a store (F, Ω) at a switching frequency (Hz)."""
    for name, number, unit in (("frequency", frequency, "Hz"), ("value", value, "F")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    ripple_current(topology, current, duty, inductor_ripple)
    if topology in ("buck", "forward"):
        return esr * inductor_ripple + inductor_ripple / (8 * frequency * value)
    peak = current / (1 - duty)
    return esr * peak + current * duty / (frequency * value)


def shares(values: Sequence[float], esrs: Sequence[float | None] = ()) -> tuple[float, ...]:
    """How stores in parallel share a ripple: by 1/ESR where all are known, else by value. Sums to 1.

    >>> shares([1e-3, 1e-3], [0.02, 0.04])
    (0.6666666666666666, 0.3333333333333333)
    """
    known = len(esrs) == len(values) and all(esr and esr > 0 for esr in esrs)
    weights = [1 / esr for esr in esrs] if known else list(values)
    total = sum(weights)
    if not total > 0:
        raise BadInput("no capacitor", "at least one capacitor above zero", field="values")
    return tuple(weight / total for weight in weights)


def converter_ripple(
    topology: str,
    current: float,
    duty: float,
    frequency: float = 50e3,
    inductor_ripple: float = 0.0,
    share: float = 1.0,
    mode: str = "continuous",
) -> Calculation:
    """What one output capacitor carries, A rms at the switching frequency (Hz).

    Args:
        topology: of TOPOLOGIES.
        current: A out.
        duty: of the switch; in discontinuous mode the share in which the output diode conducts.
        frequency: Hz.
        inductor_ripple: A peak to peak.
        share: its part of the whole, 0 to 1.
        mode: of MODES; only a flyback is reckoned in both.

    Returns:
        A rms, with its lines.

    Raises:
        BadInput: a duty of 1, a share that is none, or a mode that the topology is not reckoned in.
    """
    if not 0 < share <= 1:
        raise BadInput(f"{share:g}", "a share above 0, up to 1", field="share")
    if mode not in MODES or (mode == "discontinuous" and topology != "flyback"):
        raise BadInput(mode, "continuous; a flyback may be discontinuous", field="mode")
    whole = (
        discontinuous(current, duty)
        if mode == "discontinuous"
        else ripple_current(topology, current, duty, inductor_ripple)
    )
    numbers = (
        f"{current:g} · √(4 ÷ (3 · {duty:g}) − 1)"
        if mode == "discontinuous"
        else f"{show(inductor_ripple, 'A')} ÷ √12"
        if topology in ("buck", "forward")
        else f"{current:g} · √({duty:g} ÷ {1 - duty:.3g})"
    )
    lines = (
        CalculationLine(
            label="Ripple of all capacitors together",
            formula="by topology",
            numbers=numbers,
            value=whole,
            unit="A",
            source=SOURCE,
        ),
        CalculationLine(
            label="This one's share",
            formula="1/ESR, or value",
            numbers=f"{whole:.4g} · {share:g}",
            value=whole * share,
            unit="A",
            source="parallel capacitors",
        ),
    )
    return Calculation(
        name="converter_ripple",
        values={"ripple": whole * share, "whole": whole},
        lines=lines,
        cautions=(f"At {show(frequency, 'Hz')}: compare with the rating at that frequency and at the place's temperature.",),
        inputs={
            "topology": topology, "current": current, "duty": duty, "frequency": frequency,
            "inductor_ripple": inductor_ripple, "share": share, "mode": mode,
        },
    )  # fmt: skip
