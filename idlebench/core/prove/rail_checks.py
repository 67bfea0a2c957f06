"""What is read of each rail under power.

Source: limits as they are typed for the rail; the rest: workshop practice, because a fault should show before it does harm.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .checks import Check, key_of
from .facts import STEP
from .power_methods import DEAD_SHARE, Of


def rail_checks(step: str, rails: Iterable[Rail], board: str, aspects: Sequence[str], under: Of) -> tuple[Check, ...]:
    return tuple(
        _rail_check(step, rail, board, aspect, under)
        for rail in rails
        for aspect in aspects
        if not rail.ac or aspect not in ("ripple", "lowest")
    )


def _rail_check(step: str, rail: Rail, board: str, aspect: str, under: Of) -> Check:
    """A rail's check by what is asked of it: coming up at half mains, its volts, its ripple, its lowest."""
    by, inside = f"±{rail.tolerance * 100:g} %", sorted((rail.low, rail.high))
    rising = sorted((0.02 * rail.nominal, (1 + rail.tolerance) * rail.nominal))
    behind = sorted((0.0, (1 + rail.tolerance) * rail.nominal))
    kind, ask, (low, high), why = {
        "behind": (
            "dc_volts",
            "The right sign, not above the rail's band; the supply's lines give the value behind the lamp.",
            behind,
            "Its limits count at full mains.",
        ),
        "up": ("dc_volts", "Any volts of the right sign, not above the rail's band.", rising, "Rises with the mains."),
        "volts": (
            "dc_volts",
            f"{show(inside[0], 'V')} to {show(inside[1], 'V')}, {by}.{_clamped(rail)}",
            inside,
            f"Rail limits {by}.",
        ),
        "ripple": (
            "ripple",
            "Peak to peak; add “rms” to a plain meter's AC reading.",
            (None, rail.ripple_limit),
            "1 % of nominal, at least 50 mV, unless the machine has its own limit.",
        ),
        "lowest": (
            "dc_volts",
            f"The lowest seen while {rail.step or 'its load steps'}, not the average: {_stepped(step, rail)}",
            inside,
            "Lowest under a load step, inside the same band.",
        ),
    }[aspect]
    if rail.ac:
        kind, ask = "ac_volts", ask.replace(" of the right sign", "").replace("The right sign, not above", "Not above")
    return Check(
        key=key_of("up", step, rail.name, aspect),
        step=step,
        kind=kind,
        point=rail.name,
        ask=ask,
        low=low,
        high=high,
        live=True,
        safety=True,
        board=board,
        why=why,
        rail=rail.name,
        aspect="volts" if aspect in ("up", "behind") else aspect,
        nominal=rail.nominal,
        fact=STEP,
        of=(*under, ("rail", rail.as_line())),
        dead_below=DEAD_SHARE * abs(rail.nominal) if aspect == "volts" else None,
    )


def _clamped(rail: Rail) -> str:
    """At which volts its crowbar or clamp should act, where it has one."""
    return (
        f" Its crowbar or clamp acts at {show(rail.clamp, 'V')}: a rail pulled to zero may be the crowbar."
        if rail.clamp
        else ""
    )


def _stepped(step: str, rail: Rail) -> str:
    """How its load is made to step: its dummy load while the boards are off, what the machine has after."""
    if step.startswith("full"):
        # by hand, and quicker than a meter: that is why the meter or scope holds the least
        return "take its dummy load off and on, with a meter that holds the lowest reading, or a scope."
    return f"let it happen: {rail.step}." if rail.step else "let the machine do what draws most."
