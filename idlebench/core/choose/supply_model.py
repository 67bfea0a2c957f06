"""A board's supply reckoned: from its typed lines, what its places need, and what chosen parts change in it.

Source: mains of ±10 %: IEC 60038:2009, table 1; a part in use at 0.55 of the limit: workshop practice, because limits are printed for
the worst piece.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from ..board.parts import Capacitor, Fitted
from ..circuit import converter, inrush, regulator
from ..circuit.packages import PACKAGES
from ..circuit.rail_lines import RailOut
from ..circuit.supply import Settled
from ..circuit.supply_lines import Branch, ConverterIn, read_model
from ..refusal import BadInput
from ..text.quantity import show
from .branch_circuit import (
    Store,
    after_coil,
    as_one,
    most_esr,
    new_store,
    old_store,
    rail_limit,
    rail_ripple,
    settle,
    sound_store,
    supply_of,
    together,
)
from .direct_source import direct_places, source_figures
from .need import Mains
from .supply_figures import BranchState, Figure, PlaceFacts

#: How the supply is looked at: mains that stray by these per cent.
LOW, HIGH = -10.0, 10.0


def reckon(
    branch: Branch,
    parts: Mapping[str, Fitted],
    mains: Mains = Mains(),
    chosen: Mapping[str, Capacitor] | None = None,
    melting: float | None = None,
    already: Mapping[str, Capacitor] | None = None,
) -> BranchState:
    """Reckon a branch with its old parts and with what is chosen for them.

    Args:
        branch: a line of the supply: from its source to what it feeds.
        parts: the board's parts by reference.
        mains: the mains as the place sees them.
        chosen: catalogue parts by reference.
        melting: A²s of the fuse, where known.
        already: catalogue parts that stand there before, so that one part's own change is seen; none for the old parts alone.

    Returns:
        Figures before and after, and what each place is told.

    Raises:
        BadInput: a branch that cannot work at all; it names the number and what would make it work.
    """
    old_ones, new_ones = dict(already or {}), dict(chosen or {})

    def was(part: Fitted) -> Store:
        return new_store(old_ones[part.ref]) if part.ref in old_ones else old_store(part)

    def fitted(part: Fitted) -> Store:
        return new_store(new_ones[part.ref]) if part.ref in new_ones else old_store(part)

    old, now, sound = (as_one(branch.in_groups, parts, make, branch.doubles) for make in (was, fitted, sound_store))
    at = {
        (which, percent): settle(supply_of(branch, store, mains, percent))
        for which, store in (("old", old), ("new", now))
        for percent in (0.0, LOW, HIGH)
    }
    before, after = at["old", 0.0], at["new", 0.0]
    # a doubler is reckoned as one of its halves: the volts across both are twice as many, at least
    twice = 2 if branch.doubles else 1
    figures = (
        source_figures(branch, before, after, at["new", LOW], at["old", LOW])
        if branch.direct
        else _rectified_figures(branch, at, old, now, twice)
    )
    if branch.regulator:
        figures += _regulator_figures(branch, mains, now, at)
    if not branch.volts or (branch.fuse and branch.stores):
        figures.append(_inrush_figure(branch, mains, old, now, melting))
    nominal, peak = settle(supply_of(branch, sound, mains)), supply_of(branch, sound, mains, HIGH).unloaded
    places = direct_places(branch, parts, peak, nominal) if branch.direct else _told(branch, parts, nominal, peak)
    if branch.converter:
        extra, more = _rail_figures(branch.converter, parts, was, fitted)
        figures += extra
        places |= more
    return BranchState(branch=branch, before=before, after=after, figures=tuple(figures), places=places)


def _rectified_figures(
    branch: Branch, at: Mapping[tuple[str, float], Settled], old: Store, now: Store, twice: int
) -> list[Figure]:
    """What rectified AC does in its reservoir, its diodes and its winding."""
    before, after = at["old", 0.0], at["new", 0.0]
    on = "each capacitor" if branch.doubles else "the reservoir"
    return [
        Figure(
            name=f"Ripple on {on}",
            unit="V",
            before=before.ripple_pp,
            after=after.ripple_pp,
            source="peak to peak, simulated",
        ),
        Figure(
            name="Lowest volts at −10 % mains",
            unit="V",
            before=twice * at["old", LOW].v_min,
            after=twice * at["new", LOW].v_min,
            source="simulated",
        ),
        Figure(
            name="Peak through the diodes",
            unit="A",
            before=before.source_peak,
            after=after.source_peak,
            source="simulated",
        ),
        Figure(name="Winding, rms", unit="A", before=before.source_rms, after=after.source_rms, source="simulated"),
        Figure(
            name=f"Heat in {on}",
            unit="W",
            before=before.store_rms**2 * old.esr,
            after=after.store_rms**2 * now.esr,
            source="I² · ESR",
        ),
    ]


def _regulator_figures(
    branch: Branch, mains: Mains, now: Store, at: Mapping[tuple[str, float], Settled]
) -> list[Figure]:
    fed = branch.regulator
    package = PACKAGES.get(fed.package)
    bare = package is not None and not package.sink
    case = regulator.case_to_sink(regulator.tab_of(fed.volts))
    thetas = (package.to_air, 0.0, 0.0) if bare else (fed.theta_jc, case, fed.theta_sa)

    def results(which: str) -> dict[str, float]:
        lowest, average = at[which, LOW].v_min, at[which, HIGH].v_avg
        return regulator.regulator(
            abs(fed.volts), fed.current, lowest, max(average, lowest), fed.dropout, *thetas, fed.ambient,
        ).values  # fmt: skip

    # what does not follow the mains is the same on all of them
    at_low, at_high = ("", "") if branch.direct and not branch.direct.strays else (" at −10 %", " at +10 %")
    one, two = results("old"), results("new")
    mend = _what_would_work(branch, mains, now) if two["headroom"] < 0 else ""
    most = two["theta_sa_max"]
    hot = (
        f"A heatsink of {most:.2g} K/W or less keeps it under 125 °C."
        if most > 0
        else "No heatsink keeps it under 125 °C: less current, or fewer volts across it."
    )
    if bare:
        hot = f"No heatsink is made for a {package.title}, {package.to_air:g} K/W to air: a lighter load, or a type with a tab."
    return [
        Figure(
            name=f"Regulator headroom{at_low}",
            unit="V",
            before=one["headroom"],
            after=two["headroom"],
            limit=0.0,
            at_least=True,
            say=mend,
            source="lowest in − out − dropout",
        ),
        Figure(
            name=f"Regulator heat{at_high}",
            unit="W",
            before=one["dissipation"],
            after=two["dissipation"],
            source="(in − out) · I",
        ),
        Figure(
            name=f"Junction{at_high}",
            unit="°C",
            before=one["junction"],
            after=two["junction"],
            limit=regulator.JUNCTION,
            at_least=False,
            say=hot,
            source="thermal Ohm's law",
        ),
    ]


def _what_would_work(branch: Branch, mains: Mains, store: Store) -> str:
    """What gives a regulator its headroom: the least store that does, or the volts that are missing whatever the store."""

    def lowest(value: float) -> float:
        return settle(supply_of(branch, replace(store, value=value), mains, LOW)).v_min

    wanted = abs(branch.regulator.volts) + branch.regulator.dropout
    if branch.direct:
        missing = wanted - lowest(store.value)
        return f"{show(missing, 'V')} are missing. Use a source of more volts, a lower dropout or a lighter load."
    top = 20 * store.value
    if lowest(top) < wanted:
        missing = wanted - lowest(top)
        return (
            f"No reservoir capacitor repairs it: {show(missing, 'V')} are missing even with {show(top, 'F')}. "
            "Use a lower dropout, a lighter load or a higher winding."
        )
    low, high = store.value, top
    for _ in range(14):
        middle = (low * high) ** 0.5
        low, high = (low, middle) if lowest(middle) >= wanted else (middle, high)
    return f"A reservoir of {show(high, 'F')} or more gives it its headroom."


def _inrush_figure(branch: Branch, mains: Mains, old: Store, now: Store, melting: float | None) -> Figure:
    high = supply_of(branch, now, mains, HIGH)
    ohms = high.source_resistance

    def pulse(store: Store) -> float:
        return inrush.inrush_i2t(high.peak, store.value, ohms + store.esr)

    limit = inrush.PULSES * melting if melting else None
    say = (
        "Its fuse would age: use a time-lag fuse of the same rating, a smaller reservoir, or an NTC resistor in series."
        if limit
        else ""
    )
    return Figure(
        name="Inrush at +10 %",
        unit="A²s",
        before=pulse(old),
        after=pulse(now),
        limit=limit,
        at_least=False,
        say=say,
        source="V²C ÷ 2R; limit 0.29 of the fuse's melting I²t",
    )


def _told(branch: Branch, parts: Mapping[str, Fitted], nominal: Settled, peak: float) -> dict[str, PlaceFacts]:
    """What the stores behind the rectifier are told: the unloaded peak at +10 % mains, and their share of the ripple."""
    found = {}
    groups = branch.in_groups
    shares = converter.shares([1 / sum(1 / parts[ref].value for ref in group) for group in groups])
    for group, share in zip(groups, shares, strict=True):
        # in a doubler each store has its own half wave; in series the larger of two holds fewer volts
        through = nominal.store_rms * (1 if branch.doubles else share)
        whole = 1 / sum(1 / parts[ref].value for ref in group)
        for ref in group:
            volts = peak if branch.doubles else peak * whole / parts[ref].value
            divided = "" if branch.doubles or len(group) == 1 else f", its share of {show(peak, 'V')}"
            found[ref] = PlaceFacts(
                volts=volts,
                ripple=through,
                frequency=nominal.supply.rate,
                said=(
                    f"{show(volts, 'V')} at +10 % mains without load{divided}",
                    f"{show(through, 'A')} ripple at {show(nominal.supply.rate, 'Hz')}, simulated",
                ),
                rail=branch.regulator.rail if branch.regulator else "",
            )
    return found


def _rail_figures(
    fed: ConverterIn, parts: Mapping[str, Fitted], old: Callable[[Fitted], Store], new: Callable[[Fitted], Store]
) -> tuple[list[Figure], dict[str, PlaceFacts]]:
    figures, places = [], {}
    for rail in fed.rails:
        whole = converter.ripple_current(fed.topology, rail.current, rail.duty, rail.choke)
        alone = [(ref,) for ref in rail.stores]
        one, two = as_one(alone, parts, old), as_one(alone, parts, new)
        behind = after_coil(rail, parts, old), after_coil(rail, parts, new)
        limit = rail_limit(rail)
        mend = "A part of lower ESR, or a second part in parallel, lowers it."
        figures.append(
            Figure(
                name=f"Ripple on {rail.name}",
                unit="V",
                before=rail_ripple(fed, rail, one, behind[0]),
                after=rail_ripple(fed, rail, two, behind[1]),
                limit=limit,
                at_least=False,
                say=mend,
                source=f"{fed.topology}, peak to peak{', behind its coil' if rail.coil else ''}",
            )
        )
        shares = converter.shares([parts[ref].value for ref in rail.stores])
        for ref, share in zip(rail.stores, shares, strict=True):
            said = f"{show(whole * share, 'A')} ripple at {show(fed.frequency, 'Hz')}, {share * 100:.0f} % of {rail.name}'s"
            most = most_esr(fed, rail, two.value, limit, behind[1])
            wanted = (
                f"ESR of all its capacitors under {show(most, 'Ω')} keeps {rail.name} within {show(limit, 'V')}"
                if most > 0
                else ""
            )
            places[ref] = PlaceFacts(
                volts=abs(rail.volts) * 1.05,
                ripple=whole * share,
                frequency=fed.frequency,
                said=tuple(filter(None, (said, wanted))),
                rail=rail.name,
            )
        places |= _behind_coil(fed, rail, parts, rail_ripple(fed, rail, two))
    return figures, places


def _behind_coil(fed: ConverterIn, rail: RailOut, parts: Mapping[str, Fitted], before: float) -> dict[str, PlaceFacts]:
    """What the stores behind a coil are told: they carry what ripple the coil lets through. before: V peak to peak before it."""
    if not rail.after:
        return {}
    amps = before / (2 * math.sqrt(2)) / (2 * math.pi * fed.frequency * rail.coil)
    shares = converter.shares([parts[ref].value for ref in rail.after])
    return {
        ref: PlaceFacts(
            volts=abs(rail.volts) * 1.05,
            ripple=amps * share,
            frequency=fed.frequency,
            said=(
                f"{show(amps * share, 'A')} ripple at {show(fed.frequency, 'Hz')}: it stands behind the coil of {rail.name}",
            ),
            rail=rail.name,
        )
        for ref, share in zip(rail.after, shares, strict=True)
    }


def places_of(
    branches: Sequence[Branch], parts: Mapping[str, Fitted], mains: Mains = Mains()
) -> tuple[dict[str, PlaceFacts], tuple[str, ...]]:
    """What a board's supply tells its places, and in words what of it cannot be reckoned."""
    told: dict[str, PlaceFacts] = {}
    wrong = []
    for branch in branches:
        try:
            told |= reckon(branch, parts, mains).places
        except BadInput as error:
            wrong.append(f"{branch.title}: {error}")
    return told, tuple(wrong)


def tell_supply(part: Fitted, told: Mapping[str, PlaceFacts]) -> tuple[Fitted, tuple[str, ...]]:
    """Fill in a place's worst volts and ripple from the supply; what was typed for the place itself wins."""
    facts = told.get(part.ref)
    if facts is None:
        return part, ()
    changes: dict[str, object] = {}
    if facts.rail and not part.rail:
        part = part.with_(rail=facts.rail)
    if part.rail_volts is None:
        changes["rail_volts"] = facts.volts
    if part.ripple is None:
        changes |= {"ripple": facts.ripple, "frequency": facts.frequency}
    said = facts.said if "ripple" in changes else facts.said[:1] if changes else ()
    return (part.with_(**changes), said) if changes else (part, ())


__all__ = [
    "HIGH", "LOW", "Branch", "BranchState", "Figure", "PlaceFacts", "Store", "new_store", "old_store", "places_of", "read_model",
    "reckon", "settle", "sound_store", "supply_of", "tell_supply", "together",
]  # fmt: skip
