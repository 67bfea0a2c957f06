"""Emptying a charged store through a resistor."""

from __future__ import annotations

import math

from ..refusal import BadInput
from ..text.quantity import show
from ..working import Line, Working

#: Below this a store may be handled, V.
SAFE_TO_HANDLE = 10.0
#: Below this a capacitance or ESR meter may be put on it, V.
SAFE_FOR_METER = 1.0
#: Above this touch is dangerous in the dry, V DC (IEC 61140 practice), and the words get stronger.
DANGEROUS = 60.0

SOURCE = "RC discharge; IEC 61140 practice for the limits"


def discharge(value: float, volts: float, resistance: float, safe_volts: float = SAFE_TO_HANDLE) -> Working:
    """Time, first power and energy of a store emptied through a resistor.

    Args:
        value: F. volts: V at the start. resistance: Ω. safe_volts: V at which it counts as empty.

    Returns:
        Working with seconds, first_power (W), energy (J).

    Raises:
        BadInput: a number that is not above zero.

    >>> w = discharge(220e-6, 325, 2200)
    >>> round(w.values['seconds'], 3), round(w.values['first_power'], 1), round(w.values['energy'], 1)
    (1.685, 48.0, 11.6)
    """
    for name, number, unit in (
        ("value", value, "F"),
        ("volts", volts, "V"),
        ("resistance", resistance, "Ω"),
        ("safe_volts", safe_volts, "V"),
    ):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", "", name)
    seconds = resistance * value * math.log(volts / safe_volts) if volts > safe_volts else 0.0
    power, energy = volts**2 / resistance, value * volts**2 / 2
    lines = (
        Line(
            "Time constant", "τ = RC", f"{show(resistance, 'Ω')} · {show(value, 'F')}", resistance * value, "s", SOURCE
        ),
        Line(
            f"Time to {show(safe_volts, 'V')}",
            "t = RC·ln(V₀/V)",
            f"{resistance * value:.4g} · ln({volts:g}/{safe_volts:g})",
            seconds,
            "s",
            SOURCE,
        ),
        Line("Power in the resistor at first", "V₀²/R", f"{volts:g}² ÷ {resistance:g}", power, "W", SOURCE),
        Line("Energy in the store", "½CV²", f"½ · {show(value, 'F')} · {volts:g}²", energy, "J", SOURCE),
    )
    return Working(
        "discharge",
        {"seconds": seconds, "first_power": power, "energy": energy},
        lines,
        _cautions(volts, resistance * value, power, energy),
        {"value": value, "volts": volts, "resistance": resistance, "safe_volts": safe_volts},
    )


def _cautions(volts: float, tau: float, power: float, energy: float) -> tuple[str, ...]:
    said = []
    if volts > DANGEROUS:
        said.append(
            f"{volts:g} V can kill. Unplug first, insulated resistor and leads, one hand, eye protection. "
            "Work of this kind is for people trained for it; local codes come first."
        )
    if energy > 1:
        said.append("Never short the store with a tool: it welds, and it harms the part.")
    if power > 5:
        said.append(
            f"The resistor sees {power:.0f} W at first and cools within {show(5 * tau, 's')}: use a wire-wound one."
        )
    said.append("The time is a guide; the meter decides. Measure before you touch, and log the reading.")
    return tuple(said)
