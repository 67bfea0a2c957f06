"""Steps before full power: the source alone, then the supply on dummy loads.

Source: as in power_methods.
"""

from __future__ import annotations

from collections.abc import Sequence

from ..circuit import dummy_load, transformer
from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .checks import BoardFacts, Check, PowerStep, key_of
from .facts import DUMMY, LOADED, MAINS_READ, STEP
from .power_methods import DEAD_SHARE, MAINS_KEY, MAINS_STRAY, WAYS, Of
from .windings import Winding

#: A cold filament's share of its hot ohms, and how far that strays with the lamp.
COLD, COLD_SPREAD = 0.1, 2.0
PRIMARY = (
    "Hands off the primary side: no measuring there under power. Work inside mains equipment is for trained people."
)


def source_step(supply: BoardFacts, mains: float, measured: float | None, under: Of) -> PowerStep:
    checks = tuple(_winding(supply, w, i, mains, measured, under) for i, w in enumerate(supply.sources))
    title = "Transformer alone" if len(checks) == 1 else f"Transformers alone, {len(checks)} windings"
    return PowerStep(
        key="source",
        title=title,
        detail="secondaries unplugged from the board",
        checks=checks,
        live=True,
        caution=PRIMARY,
    )


def _winding(supply: BoardFacts, w: Winding, i: int, mains: float, measured: float | None, under: Of) -> Check:
    """A winding without load; what it should read goes with the mains as they were read."""
    share = (measured or mains) / (w.at or mains)
    volts, low, high = (share * number for number in w.expected)
    on = f" on {measured:g} V" if measured else ""
    if w.at and abs(w.at / (measured or mains) - 1) > 0.005:
        on = f" on {measured or mains:g} V, for the label is for {w.at:g} V"
    of = (
        *under,
        ("label", f"{w.name} {w.volts:g} V, {w.va or 25.0:g} VA" + (f" at {w.at:g} V" if w.at else "")),
        ("mains as read", f"{measured or mains:.0f} V"),
    )
    return Check(
        key="up.source.volts"
        if i == 0
        else key_of("up.source", w.name, *([] if " secondary " in w.name else [f"{w.volts:g}"])),
        step="source",
        kind="ac_volts",
        point=f"{w.name}, nothing connected",
        ask=f"Labelled {w.volts:g} V, so {volts:.3g} V without load{on}.",
        low=low,
        high=high,
        live=True,
        safety=True,
        board=supply.name,
        why=transformer.SOURCE,
        fact=STEP,
        dead_below=low * DEAD_SHARE,
        of=of,
    )


def dummy_step(supply: BoardFacts, rails: Sequence[Rail], serves: tuple[str, ...], unplugs: bool = True) -> PowerStep:
    """What stands for the boards while the supply is alone.

    Args:
        supply: the board that makes the rails.
        rails: what it makes.
        serves: the steps that it is wanted for.
        unplugs: whether there is a plug to pull; without one the chips of its own board are its load.

    Returns:
        The step.
    """
    if not unplugs:
        return _own_load(supply, serves)
    checks, loads = [], []
    for rail in rails:
        if not rail.dummy_current:
            continue
        if rail.lamp:
            checks.append(_lamp_load(rail, supply, serves))
            loads.append(f"lamp {rail.lamp[0]:g} W {rail.lamp[1]:g} V")
            continue
        w = dummy_load.dummy_load(rail.nominal, rail.dummy_current).values
        loads.append(f"{show(w['resistance'], 'Ω')} {w['rating']:g} W")
        checks.append(
            Check(
                key=key_of("up.dummy", rail.name),
                step="dummy",
                kind="resistance",
                point=f"dummy load on {rail.name}",
                ask=f"{show(w['resistance'], 'Ω')}, {w['rating']:g} W: it draws {show(w['power'], 'W')}.",
                low=w["resistance"] * 0.9,
                high=w["resistance"] * 1.1,
                safety=True,
                board=supply.name,
                rail=rail.name,
                why=dummy_load.SOURCE,
                reckoning="dummy_load",
                inputs=(("volts", rail.nominal), ("current", rail.dummy_current)),
                fact=DUMMY,
                of=(("rail", rail.as_line()),),
                does=LOADED,
                serves=serves,
            )
        )
    if not checks:
        checks.append(
            Check(
                key="up.dummy.any",
                step="dummy",
                kind="look",
                point="dummy loads",
                ask="A load on every rail: the currents of the rails are not known, so start with a tenth of what "
                "the boards draw.",
                safety=True,
                board=supply.name,
                fact=DUMMY,
                does=LOADED,
                serves=serves,
            )
        )
    return PowerStep(
        key="dummy",
        title="Dummy loads on all rails",
        detail=" · ".join(loads) or "boards unplugged",
        checks=tuple(checks),
        rewire=True,
    )


def _lamp_load(rail: Rail, supply: BoardFacts, serves: tuple[str, ...]) -> Check:
    """A filament lamp as the load of a rail: read cold, it has a tenth of what it has when it glows."""
    watts, volts = rail.lamp or (0.0, 1.0)
    cold = COLD * volts**2 / watts
    least = rail.minimum or rail.current / 5
    short = "" if rail.dummy_current >= least * 0.95 else f" The rail asks for {show(least, 'A')}: take a second lamp."
    return Check(
        key=key_of("up.dummy", rail.name),
        step="dummy",
        kind="resistance",
        point=f"lamp on {rail.name}",
        ask=f"{watts:g} W {volts:g} V: cold about {show(cold, 'Ω', 2)}, leads subtracted. At {show(abs(rail.nominal), 'V')} it draws "
        f"{show(rail.dummy_current, 'A', 2)}, and cold ten times as much for a moment.{short}",
        low=cold / COLD_SPREAD,
        high=cold * COLD_SPREAD,
        safety=True,
        board=supply.name,
        rail=rail.name,
        why="A cold filament has a tenth of its hot resistance. A supply that trips on the lamp starts with a resistor instead.",
        fact=DUMMY,
        of=(("rail", rail.as_line()),),
        does=LOADED,
        serves=serves,
    )


def _under(mains: float, way: str) -> Of:
    return (("mains", f"{mains:g} V"), ("way up", WAYS.get(way, way)))


def mains_check(mains: float, way: str = "lamp") -> Check:
    """The mains itself, read before the first step under power: what a transformer gives moves with it."""
    return Check(
        key=MAINS_KEY,
        step="cold",
        kind="ac_volts",
        point="mains at the socket",
        ask="Read it by a plug-in meter, or let a trained person read it. The expected output of the "
        "transformer is calculated from it.",
        low=mains * (1 - MAINS_STRAY),
        high=mains * (1 + MAINS_STRAY),
        safety=True,
        caution="The socket is live: never with bare leads.",
        why=f"{mains:g} V ± 10 %.",
        fact=MAINS_READ,
        of=_under(mains, way),
    )


def _own_load(supply: BoardFacts, serves: tuple[str, ...]) -> PowerStep:
    """A supply on the board of its own chips: nothing unplugs, so the chips are lifted out of its way, or a limit stands before them."""
    chips = ", ".join(chip.ref for chip in supply.chips[:4])
    check = Check(
        key="up.dummy.any",
        step="dummy",
        kind="look",
        point=f"load of {supply.name}",
        ask=f"Nothing unplugs here: the rails feed {chips} on the same board. Lift the regulator's output leg or the chips' supply pins "
        "and load it with a resistor; or leave all in and let the lamp limiter or a bench supply limit the current.",
        safety=True,
        board=supply.name,
        why="A regulator that fails passes its input on: the chips meet it in a moment.",
        fact=DUMMY,
        does=LOADED,
        serves=serves,
    )
    return PowerStep(
        key="dummy",
        title="Chips lifted, or a current limit",
        detail=f"{supply.name} feeds its own chips",
        checks=(check,),
    )
