"""Voltage regulators: headroom, heat, and the heatsink that is wanted.

Source: thermal Ohm's law: Horowitz and Hill, The Art of Electronics (2015), 9.4; the junction's limit of 125 °C is that of the
78xx-type family's data.
"""

from __future__ import annotations

from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show

#: Hottest a junction may run, °C.
JUNCTION = 125.0
#: What compound between case and heatsink adds, K/W, and an insulating washer more.
COMPOUND, INSULATOR = 0.5, 1.0
THERMAL = "thermal Ohm's law: Horowitz and Hill, The Art of Electronics, 9.4; junction at most 125 °C"


def tab_of(volts: float) -> str:
    """What the tab of a linear regulator of the 78xx and 79xx type families is joined to: ground, the input of negative ones."""
    return "input" if volts < 0 else "ground"


def case_to_sink(tab: str) -> float:
    """K/W from case to heatsink: compound, and a washer where the tab is not at ground.

    >>> case_to_sink("ground"), case_to_sink("input")
    (0.5, 1.5)
    """
    return COMPOUND + (INSULATOR if tab not in ("", "ground") else 0.0)


def regulator(
    v_out: float, load: float, v_in_min: float, v_in_max: float, dropout: float, theta_jc: float, theta_cs: float,
    theta_sa: float, ambient: float, quiescent: float = 0.0, v_in_limit: float = 0.0,
) -> Calculation:  # fmt: skip
    """A linear regulator in its place.

    Args:
        v_out: V, with the sign of what goes in.
        load: A.
        v_in_min: V, the lowest at its input at −10 % mains.
        v_in_max: V, the average at its input at +10 % mains.
        dropout: V.
        theta_jc: K/W from junction to case.
        theta_cs: K/W from case to heatsink.
        theta_sa: K/W from heatsink to air.
        ambient: °C.
        quiescent: A that it draws itself.
        v_in_limit: V that its input stands at the most, 0 where it is not known.

    Returns:
        Working with headroom (V), dissipation (W), junction (°C), theta_sa_max (K/W).

    Raises:
        BadInput: a number that no regulator has.

    >>> w = regulator(5, 1.0, 7.703, 10.2, 2.0, 3.0, 0.5, 8.0, 45)
    >>> round(w.values['headroom'], 3), round(w.values['dissipation'], 2), round(w.values['junction'], 1)
    (0.703, 5.2, 104.8)
    """
    if len({given > 0 for given in (v_out, v_in_min, v_in_max) if given}) > 1:
        raise BadInput(
            f"{v_out:g}, {v_in_min:g} and {v_in_max:g} V", "one sign for what goes in and what comes out",
            "A negative regulator has negative volts at both.", field="v_out",
        )  # fmt: skip
    v_out, v_in_min, v_in_max, v_in_limit = abs(v_out), abs(v_in_min), abs(v_in_max), abs(v_in_limit)
    for name, number, unit in (("v_out", v_out, "V"), ("load", load, "A"), ("v_in_max", v_in_max, "V")):
        if not number > 0:
            raise BadInput(show(number, unit), "more than zero", field=name)
    if v_in_max < v_in_min:
        raise BadInput(show(v_in_max, "V"), f"at least the lowest, {show(v_in_min, 'V')}", field="v_in_max")
    if v_in_max <= v_out:
        raise BadInput(show(v_in_max, "V"), f"more than the {show(v_out, 'V')} that come out", field="v_in_max")
    if v_in_limit and v_in_max > v_in_limit:
        raise BadInput(
            show(v_in_max, "V"), f"at most {show(v_in_limit, 'V')}, what its input stands", 
            "It breaks through: a lower winding, or a type that stands more; then type what it stands.", field="v_in_max",
        )  # fmt: skip
    for name, theta in (("theta_jc", theta_jc), ("theta_cs", theta_cs), ("theta_sa", theta_sa)):
        if theta < 0:
            raise BadInput(f"{theta:g} K/W", "0 K/W or more", field=name)
    headroom = v_in_min - (v_out + dropout)
    heat = (v_in_max - v_out) * load + v_in_max * quiescent
    theta = theta_jc + theta_cs + theta_sa
    junction = ambient + heat * theta
    largest = (JUNCTION - ambient) / heat - theta_jc - theta_cs
    burnt = f"({v_in_max:.4g} − {v_out:g}) · {load:g} + {v_in_max:.4g} · {quiescent:g}"
    room = f"({JUNCTION:g} − {ambient:g}) ÷ {heat:.4g} − {theta_jc + theta_cs:g}"
    lines = (
        CalculationLine(
            label="Headroom",
            formula="lowest in − (out + dropout)",
            numbers=f"{v_in_min:.4g} − ({v_out:g} + {dropout:g})",
            value=headroom,
            unit="V",
            source="at −10 % mains",
        ),
        CalculationLine(
            label="Heat",
            formula="(average in − out) · I + in · I_q",
            numbers=burnt,
            value=heat,
            unit="W",
            source="at +10 % mains",
        ),
        CalculationLine(
            label="Junction",
            formula="T + P · (θjc + θcs + θsa)",
            numbers=f"{ambient:g} + {heat:.4g} · {theta:g}",
            value=junction,
            unit="°C",
            source=THERMAL,
        ),
        CalculationLine(
            label="Largest heatsink that passes",
            formula="(125 − T) ÷ P − θjc − θcs",
            numbers=room,
            value=largest,
            unit="K/W",
            source=THERMAL,
        ),
    )
    cautions = []
    if headroom < 0:
        cautions.append(
            f"It drops out at low mains: {show(-headroom, 'V')} are missing. A larger reservoir, a lower "
            "dropout or a higher winding repairs it."
        )
    if junction > JUNCTION:
        reach = f"The junction would reach {junction:.0f} °C"
        cautions.append(
            f"{reach}: the heatsink must be under {largest:.2g} K/W."
            if largest > 0
            else f"{reach}. No heatsink helps: the case alone holds {theta_jc + theta_cs:.3g} K/W. Less current, or fewer volts across it."
        )
    cautions.append(
        "A 79xx-type's tab is its input: insulate it from the chassis, and check the insulation with a meter."
    )
    return Calculation(
        name="regulator",
        values={"headroom": headroom, "dissipation": heat, "junction": junction, "theta_sa_max": largest},
        lines=lines,
        cautions=tuple(cautions),
        inputs={
            "v_out": v_out,
            "load": load,
            "v_in_min": v_in_min,
            "v_in_max": v_in_max,
            "dropout": dropout,
            "theta_jc": theta_jc,
            "theta_cs": theta_cs,
            "theta_sa": theta_sa,
            "ambient": ambient,
            "quiescent": quiescent,
            "v_in_limit": v_in_limit,
        },
    )


def module(v_out: float, load: float, v_in: float, efficiency: float) -> tuple[float, float]:
    """A switching module: heat (W) and current in (A) for a load (A) at an efficiency.

    >>> heat, current = module(5, 1.0, 12, 0.9)
    >>> round(heat, 3), round(current, 3)
    (0.556, 0.463)
    """
    if not 0 < efficiency < 1:
        raise BadInput(f"{efficiency:g}", "an efficiency above 0 and below 1", field="efficiency")
    out = abs(v_out) * load
    return out * (1 / efficiency - 1), out / (efficiency * abs(v_in))
