"""Emptying a charged capacitor through a resistor: the resistor that stands it, and what the pins of a plug hold after unplugging.

Source: each number names its own beside it, or SOURCE and SOURCE_RESISTOR; pieces and time constants: workshop practice, because they
are what lies on a bench, and energy that is gone within seconds is not waited for.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import eseries

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

#: Below this a store may be handled, V.
SAFE_TO_HANDLE = 10.0
#: Below this a capacitance or ESR meter may be put on it, V.
SAFE_FOR_METER = 1.0
#: Above this the words get stronger, V DC: the limit of class ES1, IEC 62368-1:2018, table 4.
DANGEROUS = 60.0

SOURCE = (
    "RC discharge: Horowitz and Hill, The Art of Electronics (2015), 1.4.2; 60 V DC: IEC 62368-1:2018, table 4; 10 V: workshop "
    "practice, because it neither shocks nor sparks"
)
#: Resistors that a bench has for it: W, volts across one, what it is.
PIECES = (
    (1.0, 350.0, "film"), (2.0, 500.0, "film"), (5.0, 500.0, "wire-wound"), (10.0, 750.0, "wire-wound"), (25.0, 1000.0, "wire-wound"),
    (50.0, 1500.0, "wire-wound"),
)  # fmt: skip
#: Those that lie about; a larger one only where none of them does.
COMMON = 4
#: What a piece stands for moments, times its watts. It is tested at 2.5 times its volts, so 6.25 times its watts, for 5 s (IEC
#: 60115-1:2008, 4.13, short-time overload); 5 leaves room.
OVERLOAD = 5.0
#: Time constants that are aimed for, s, the shortest first: the energy is within the 5 s of the test. The least and greatest Ω.
AIMED, LEAST, MOST = (1.0, 2.0, 4.0), 10.0, 100e3
#: Volts over which no single resistor is used, V.
ONE_RESISTOR = 1500.0
SOURCE_RESISTOR = (
    "V²/R and ½CV² per piece against 5 times its watts; IEC 60115-1:2008, 4.13, short-time overload 6.25 times for 5 s"
)


#: Said where two resistors do not stand it.
TOO_MUCH = "More than two resistors of 50 W stand: a string of resistors made for it, by people trained for it."


@dataclass(frozen=True, kw_only=True)
class Bleed:
    """A resistor to empty a capacitor with: Ω of the whole string, pieces in series, and of each W, the V across it and what it is."""

    ohms: float
    pieces: int
    watts: float
    volts: float
    kind: str

    @property
    def words(self) -> str:
        """As it is asked for: ``2 × 4.7 kΩ in series, each 10 W wire-wound rated 500 V or more``."""
        each = f"{self.watts:g} W {self.kind} rated {math.ceil(self.volts - 1e-9)} V or more"
        one = show(self.ohms / self.pieces, "Ω")
        return f"{one} {each}" if self.pieces == 1 else f"{self.pieces} × {one} in series, each {each}"


@lru_cache(maxsize=256)
def bleed_for(value: float, volts: float) -> Bleed:
    """The smallest resistor, or string of two, that empties a capacitor in about a second and stands its volts, watts and joules.

    Args:
        value: F.
        volts: V at the start.

    Returns:
        Ω and W of each, how many in series, and how long it takes.

    Raises:
        BadInput: not above zero, or more than a string of two stands.

    >>> bleed_for(220e-6, 325).words
    '4.7 kΩ 5 W wire-wound rated 325 V or more'
    >>> bleed_for(100e-6, 1000).words
    '2 × 5.1 kΩ in series, each 10 W wire-wound rated 500 V or more'
    """
    for name, number, unit in (("value", value, "F"), ("volts", volts, "V")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    for some in (PIECES[:COMMON], PIECES[COMMON:]):
        for pieces in (1, 2):
            for seconds in AIMED:
                one = eseries.find_nearest(eseries.E24, min(max(seconds / value, LEAST), MOST) / pieces)
                for watts, most, kind in some:
                    if volts / pieces <= most and (volts / pieces) ** 2 / one <= OVERLOAD * watts:
                        return Bleed(ohms=pieces * one, pieces=pieces, watts=watts, volts=volts / pieces, kind=kind)
    raise BadInput(
        f"{show(value, 'F')} at {show(volts, 'V')}", f"what two resistors of {PIECES[-1][0]:g} W stand",
        TOO_MUCH, field="volts",
    )  # fmt: skip


#: What a plug's pins may hold: V after s, the standard and the clause; and the capacitance over which the second one asks it, F.
PINS = ((60.0, 2.0, "IEC 62368-1:2018, 5.5.2.2"), (34.0, 1.0, "IEC 60335-1:2010, 22.5"))
PINS_FROM = 0.1e-6


def plug_pins(value: float, resistance: float, mains: float = 230.0) -> Calculation:
    """What the pins of a plug hold after it was pulled at the peak of the mains.

    Args:
        value: F, all capacitors between line and neutral together.
        resistance: Ω that discharges them.
        mains: V rms.

    Returns:
        Working with volts_1s, volts_2s (V) and resistance_most (Ω), the largest that keeps both limits.


    Raises:
        BadInput: a number that is not above zero.

    >>> w = plug_pins(330e-9, 1e6)
    >>> [round(w.values[name], 1) for name in ('volts_1s', 'volts_2s')]
    [15.7, 0.8]
    """
    for name, number, unit in (("value", value, "F"), ("resistance", resistance, "Ω"), ("mains", mains, "V")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    peak, tau = math.sqrt(2) * mains, resistance * value
    held = {seconds: peak * math.exp(-seconds / tau) for _, seconds, _ in PINS}
    most = min(seconds / (value * math.log(peak / limit)) for limit, seconds, _ in PINS)
    lines = tuple(
        CalculationLine(
            label=f"After {show(seconds, 's')}",
            formula="√2·V·e^(−t/RC)",
            numbers=f"{peak:.4g} · e^(−{seconds:g}/{tau:.4g})",
            value=held[seconds],
            unit="V",
            source=f"at most {limit:g} V: {clause}",
        )
        for limit, seconds, clause in PINS
    )
    over = [(limit, seconds, clause) for limit, seconds, clause in PINS if held[seconds] > limit]
    cautions = tuple(
        f"The pins of the plug hold {held[seconds]:.0f} V {seconds:g} s after unplugging, over {limit:g} V ({clause}). Do not touch them; "
        f"{show(most, 'Ω')} or less would empty them in time."
        for limit, seconds, clause in over
    )
    return Calculation(
        name="plug_pins", values={"volts_1s": held[1.0], "volts_2s": held[2.0], "resistance_most": most}, lines=lines, cautions=cautions,
        inputs={"value": value, "resistance": resistance, "mains": mains},
    )  # fmt: skip


def discharge(value: float, volts: float, resistance: float, safe_volts: float = SAFE_TO_HANDLE) -> Calculation:
    """Time, first power and energy of a store emptied through a resistor.

    Args:
        value: F.
        volts: V at the start.
        resistance: Ω.
        safe_volts: V at which it counts as empty.

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
            raise BadInput(show(number, unit), "more than zero", field=name)
    if volts > ONE_RESISTOR:
        raise BadInput(
            show(volts, "V"), f"at most {show(ONE_RESISTOR, 'V')} on one resistor",
            "It would flash over. A picture tube is discharged as its own checks say (the calculator tube_charge).", field="volts",
        )  # fmt: skip
    seconds = resistance * value * math.log(volts / safe_volts) if volts > safe_volts else 0.0
    power, energy = volts**2 / resistance, value * volts**2 / 2
    lines = (
        CalculationLine(
            label="Time constant",
            formula="τ = RC",
            numbers=f"{show(resistance, 'Ω')} · {show(value, 'F')}",
            value=resistance * value,
            unit="s",
            source=SOURCE,
        ),
        CalculationLine(
            label=f"Time to {show(safe_volts, 'V')}",
            formula="t = RC·ln(V₀/V)",
            numbers=f"{resistance * value:.4g} · ln({volts:g}/{safe_volts:g})",
            value=seconds,
            unit="s",
            source=SOURCE,
        ),
        CalculationLine(
            label="Power in the resistor at first",
            formula="V₀²/R",
            numbers=f"{volts:g}² ÷ {resistance:g}",
            value=power,
            unit="W",
            source=SOURCE,
        ),
        CalculationLine(
            label="Energy in the capacitor",
            formula="½CV²",
            numbers=f"½ · {show(value, 'F')} · {volts:g}²",
            value=energy,
            unit="J",
            source=SOURCE,
        ),
    )
    return Calculation(
        name="discharge",
        values={"seconds": seconds, "first_power": power, "energy": energy},
        lines=lines,
        cautions=_cautions(value, volts, resistance * value, power, energy),
        inputs={"value": value, "volts": volts, "resistance": resistance, "safe_volts": safe_volts},
    )


def _cautions(value: float, volts: float, tau: float, power: float, energy: float) -> tuple[str, ...]:
    said = []
    if volts > DANGEROUS:
        said.append(
            f"{volts:g} V can kill. Unplug first, insulated resistor and leads, one hand, eye protection. "
            "Work of this kind is for trained people; local codes come first."
        )
    if energy > 1:
        said.append("Never short the capacitor with a tool: the spark welds it on and damages the part.")
    if power > 5:
        said.append(f"The resistor sees {power:.0f} W at first, and next to nothing after {show(5 * tau, 's')}.")
    try:
        said.append(f"What stands it: {bleed_for(value, volts).words}.")
    except BadInput:
        said.append(TOO_MUCH)
    said.append("The time is a guide; the meter decides. Measure before you touch, and log the reading.")
    return tuple(said)
