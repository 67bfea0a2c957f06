"""What a picture monitor comes to: retrace and its pulse, the tube's charge, the field store, hum on the picture, a lamp as load.

Sources: half a period of a resonant circuit for the retrace, its volt-seconds for the pulse, ½CV², 1/(2πRC), beats: Horowitz and Hill,
The Art of Electronics (2015), 1.4 and 1.7.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine

#: Share of the field rate that a field store's corner may reach before it is doubted.
CORNER = 0.1
#: From this beat on a bar flickers and does not crawl, Hz.
FLICKERS = 10.0
#: Energy from which a charge throws a hand, J.
THROWS = 0.05
#: A filament's watts go with its volts to this power.
FILAMENT = 1.5


def retrace(inductance: float, value: float, line: float, supply: float) -> Calculation:
    """The retrace of a line stage and its pulse.

    Args:
        inductance: H, of the coil in parallel with the line transformer's primary where that is known.
        value: F of the retrace part.
        line: line rate, Hz.
        supply: B+, V.

    Returns:
        S of the retrace and V of the pulse, with their lines.

    Raises:
        BadInput: the retrace is no shorter than a line.

    >>> w = retrace(1.2e-3, 6.8e-9, 15625, 12).values
    >>> round(w['retrace'] * 1e6, 3), round(w['pulse'], 1)
    (8.974, 127.6)
    """
    for name, given in (("inductance", inductance), ("value", value), ("line", line), ("supply", supply)):
        if not (math.isfinite(given) and given > 0):
            raise BadInput(f"{given:g}", "more than nothing", field=name)
    time, period = math.pi * math.sqrt(inductance * value), 1 / line
    if time >= period:
        raise BadInput(
            f"{time * 1e6:.3g} µs of {period * 1e6:.3g} µs",
            "a retrace shorter than a line",
            "Look at the inductance, the value and the line rate again.",
            field="value",
        )
    pulse = supply * (1 + math.pi / 2 * (period - time) / time)
    lines = (
        CalculationLine(
            label="Retrace",
            formula="t = π√(L·C)",
            numbers=f"π√({inductance * 1e3:g} mH · {value * 1e9:g} nF)",
            value=time,
            unit="s",
            source="half a period of L and C",
        ),
        CalculationLine(label="A line", formula="T = 1/f", numbers=f"1/{line:g} Hz", value=period, unit="s", source=""),
        CalculationLine(
            label="Pulse on the line transistor",
            formula="V = B+·(1 + π/2·(T − t)/t)",
            numbers=f"{supply:g} V·(1 + π/2·({period * 1e6:.3f} − {time * 1e6:.3f})/{time * 1e6:.3f})",
            value=pulse,
            unit="V",
            source="no volt-seconds are left over in a line",
        ),
    )
    cautions = (
        "The value of a retrace part is never changed: less of it raises the pulse and the tube's volts alike, and with them X-rays.",
        "Never another line rate than it is made for.",
    )
    given = {"inductance": inductance, "value": value, "line": line, "supply": supply}
    return Calculation(
        name="retrace", values={"retrace": time, "pulse": pulse}, lines=lines, cautions=cautions, inputs=given
    )


def rise(inductance: float, value: float, other: float, line: float, supply: float) -> float:
    """How much higher the pulse, and the tube's volts with it, come with another retrace part: a share, 0.1 for 10 %.

    >>> round(rise(1.2e-3, 6.8e-9, 5.6e-9, 15625, 12), 3)
    0.107
    """
    was, is_ = (retrace(inductance, one, line, supply).values["pulse"] for one in (value, other))
    return is_ / was - 1


def beside(coil: float, primary: float) -> float:
    """A coil in parallel with the line transformer's primary, H; primary 0 where it is not known.

    >>> round(retrace(beside(1.2e-3, 5e-3), 4.7e-9, 31500, 115).values['pulse'])
    790
    """
    return coil if primary <= 0 else coil * primary / (coil + primary)


def tube_charge(value: float, volts: float) -> Calculation:
    """What the glass and coating of a tube hold.

    Args:
        value: F of the tube, 500 p to 2 n.
        volts: of its anode.

    Returns:
        C, J and the time it takes to discharge, with their lines.

    >>> round(tube_charge(1e-9, 12e3).values['energy'], 3)
    0.072
    """
    for name, given, most in (("value", value, 100e-9), ("volts", volts, 60e3)):
        if not (math.isfinite(given) and 0 < given <= most):
            raise BadInput(f"{given:g}", f"more than nothing, at most {most:g}", field=name)
    energy = 0.5 * value * volts**2
    line = CalculationLine(
        label="Energy",
        formula="½·C·V²",
        numbers=f"½·{value * 1e9:g} nF·({volts / 1e3:g} kV)²",
        value=energy,
        unit="J",
        source="½CV²",
    )
    cautions = [
        "Only for people trained on tubes; local codes come first. It stays for years, and creeps back after a discharge.",
    ]
    if energy >= THROWS:
        cautions.append("A shock makes the hand jerk into something worse.")
    return Calculation(
        name="tube_charge",
        values={"energy": energy},
        lines=(line,),
        cautions=tuple(cautions),
        inputs={"value": value, "volts": volts},
    )


def hum_bar(mains: float, field: float, multiple: int = 2) -> Calculation:
    """How long a hum bar takes to crawl once over the picture, and how far its bars stand apart.

    Args:
        mains: Hz.
        field: field rate, Hz.
        multiple: 1 for the mains, 2 for twice it.

    Returns:
        Working with seconds (s for one bar over the picture; None where it stands still), spacing (s of the picture from one bar to the
        next) and bars (how many stand in it).


    >>> round(hum_bar(50, 60, 2).values['seconds'], 3), round(hum_bar(50, 50.08, 1).values['seconds'], 1)
    (0.05, 12.5)
    >>> hum_bar(50, 50, 1).values['seconds'] is None, round(hum_bar(50, 50, 2).values['spacing'], 3)
    (True, 0.01)
    """
    for name, given in (("mains", mains), ("field", field)):
        if not (math.isfinite(given) and 10 <= given <= 1000):
            raise BadInput(f"{given:g}", "10 to 1000 Hz", field=name)
    if multiple not in (1, 2):
        raise BadInput(str(multiple), "1 for the mains, 2 for twice it", field="multiple")
    rate = multiple * mains
    fields = max(round(rate / field), 1)
    beat = abs(rate - fields * field)
    seconds = math.inf if beat < 1e-9 else 1 / beat
    stands = math.isinf(seconds)
    beats = f"1/|{multiple}·{mains:g} − {fields}·{field:g}| Hz"
    lines = (
        CalculationLine(
            label="One bar across the picture",
            formula="1/|n·f_mains − m·f_field|",
            numbers=beats,
            value="stands still" if stands else seconds,
            unit="" if stands else "s",
            source="the beat of two rates",
        ),
        CalculationLine(
            label="From one bar to the next, in the picture",
            formula="1/(n·f_mains)",
            numbers=f"1/({multiple}·{mains:g}) Hz",
            value=1 / rate,
            unit="s",
            source="the period of the hum",
        ),
    )
    cautions = [
        "At the mains rate: one diode of the bridge is open, a half-wave reservoir, or a ground loop."
        if multiple == 1
        else "At twice the mains rate: the reservoir capacitor after the bridge."
    ]
    if stands:
        cautions.append("The two are alike: the bar stands still.")
    elif beat > FLICKERS:
        cautions.append(f"{beat:.3g} times a second it flickers, and does not crawl.")
    given = {"mains": mains, "field": field, "multiple": multiple}
    values = {"seconds": None if stands else seconds, "spacing": 1 / rate, "bars": fields}
    return Calculation(name="hum_bar", values=values, lines=lines, cautions=tuple(cautions), inputs=given)


def field_store(value: float, resistance: float, field: float, current: float = 0.0) -> Calculation:
    """A store in series with the field coil: the corner it makes, the ripple it carries and the bow it leaves.

    Args:
        value: F.
        resistance: Ω of the coil.
        field: Hz.
        current: A peak to peak through the coil, 0 where not known.

    Returns:
        Hz, A and % of bow, with their lines.

    >>> w = field_store(1e-3, 8, 60, 1.0).values
    >>> round(w['corner'], 1), round(w['ripple'], 3), round(w['bow'], 2)
    (19.9, 0.289, 2.08)
    """
    for name, given in (("value", value), ("resistance", resistance), ("field", field)):
        if not (math.isfinite(given) and given > 0):
            raise BadInput(f"{given:g}", "more than nothing", field=name)
    if not (math.isfinite(current) and 0 <= current <= 100):
        raise BadInput(f"{current:g}", "0 to 100 A", field="current")
    corner = 1 / (2 * math.pi * resistance * value)
    ripple, bow = current / math.sqrt(12), current / (8 * value * field)
    lines = [
        CalculationLine(
            label="Corner",
            formula="1/(2πRC)",
            numbers=f"1/(2π·{resistance:g} Ω·{value * 1e6:g} µF)",
            value=corner,
            unit="Hz",
            source="RC",
        ),
        CalculationLine(
            label="Ripple it carries",
            formula="I_pp/√12",
            numbers=f"{current:g} A/√12",
            value=ripple,
            unit="A",
            source="rms of a sawtooth",
        ),
        CalculationLine(
            label="Bow of the picture",
            formula="I_pp·T/(8C)",
            numbers=f"{current:g} A/(8·{value * 1e6:g} µF·{field:g} Hz)",
            value=bow,
            unit="V",
            source="the parabola of a sawtooth in C",
        ),
    ]
    cautions = []
    if corner > CORNER * field:
        cautions.append(
            f"Over a tenth of the field rate ({CORNER * field:.3g} Hz) it bends the picture: check first. "
            "What the maker chose counts more than this rule."
        )
    values = {"corner": corner, "ripple": ripple, "bow": bow}
    given = {"value": value, "resistance": resistance, "field": field, "current": current}
    return Calculation(name="field_store", values=values, lines=tuple(lines), cautions=tuple(cautions), inputs=given)


def lamp_load(watts: float, rated: float, supply: float) -> Calculation:
    """What a mains lamp draws as a load on B+.

    Args:
        watts: W.
        rated: W or V it is made for.
        supply: B+, V.

    Returns:
        A and Ω, with their lines.

    >>> round(lamp_load(60, 230, 115).values['watts'])
    21
    """
    for name, given in (("watts", watts), ("rated", rated), ("supply", supply)):
        if not (math.isfinite(given) and 0 < given <= 5000):
            raise BadInput(f"{given:g}", "more than nothing, at most 5000", field=name)
    drawn = watts * (supply / rated) ** FILAMENT
    line = CalculationLine(
        label="It draws",
        formula="P·(V/V_rated)^1.5",
        numbers=f"{watts:g} W·({supply:g}/{rated:g})^1.5",
        value=drawn,
        unit="W",
        source="a filament warms with its volts",
    )
    cautions = [
        "Cold it draws many times as much, and may trip the supply.",
        "The line stage is unplugged while it is on.",
    ]
    if supply > rated:
        cautions.append("More than the lamp is made for: it burns out.")
    return Calculation(
        name="lamp_load",
        values={"watts": drawn},
        lines=(line,),
        cautions=tuple(cautions),
        inputs={"watts": watts, "rated": rated, "supply": supply},
    )


#: Lamps that are sold, W.
LAMPS = (5.0, 10.0, 15.0, 25.0, 40.0, 60.0, 100.0, 150.0, 200.0)


def lamp_for(needed: float, rated: float, supply: float, sizes: Sequence[float] = ()) -> float:
    """The mains lamp that loads B+ about like the line stage: the next size over its watts. W.

    >>> lamp_for(20.0, 230.0, 115.0)
    60.0
    """
    sizes = sizes or LAMPS
    return next((one for one in sizes if one * (supply / rated) ** FILAMENT >= needed), sizes[-1])
