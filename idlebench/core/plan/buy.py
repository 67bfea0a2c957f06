"""One buying plan for many places: which part for each, from whom, how many, at which price break, at the least cost.

Cost = goods + handling a line + postage a parcel + what the places' second choices are worse by. An exact mixed-integer
optimisation. The solver is HiGHS.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from heapq import heappop, heappush
from itertools import count

from ..refusal import BadInput
from ..wording import listed, many
from .buy_model import Costs, read_back
from .by_hand import better, part_by_part, prices
from .column_generation import FREE, SENT, Bound, Columns, Said, pays
from .orders import Buy, Shop, Wanted
from .solve import LESS, Patience
from .without_price import put_back, set_aside, stood_in

#: What may be asked for: the least cost, the fewest parcels, what is here soonest; then the least cost among those.
AIMS = ("cost", "parcels", "soonest")
#: How long may be looked, s, and from which gap on a plan counts as proven best.
SECONDS, PROVEN = 10.0, 1e-6
#: The first look at one choice of parcels takes this share of the time; each later one twice as long.
FIRST_LOOK = 0.25


def buy(shop: Shop, aim: str = "cost", seconds: float = SECONDS, now: Callable[[], float] | None = None) -> Buy:
    """The best plan by an aim; never dearer than buying part by part.

    Args:
        shop: the shop: what is wanted, offered and here.
        aim: cost, parcels or soonest.
        seconds: how long may be looked; what is found by then is given with its gap.
        now: a clock, s; without one only the solver's own time is counted.

    Returns:
        Orders, places and their cost, and how far from the best it may be.

    Raises:
        BadInput: an unknown aim; or no plan can fill every place: it says which, and what is missing.
    """
    if aim not in AIMS:
        raise BadInput(aim, listed(AIMS), field="aim")
    if shop.unpriced:
        return _some_without_price(shop, aim, seconds, now)
    _refuse_what_nobody_has(shop)
    if aim == "soonest":
        shop = _soonest(shop, seconds)
    most = _fewest(shop, seconds) if aim == "parcels" else None
    found, bound = _searched(shop, Patience(seconds, now), most)
    if found is None:
        _refuse_what_cannot_be(shop, seconds)
        raise _no_plan(shop, seconds)
    gap = max(0.0, (found.total - bound) / found.total) if found.total > 0 else 0.0
    return replace(found, proved=gap <= PROVEN, gap=0.0 if gap <= PROVEN else min(gap, 1.0))


def _some_without_price(shop: Shop, aim: str, seconds: float, now: Callable[[], float] | None) -> Buy:
    """The same where some offers have no price."""
    aside = set_aside(shop, seconds)
    if aside is None:
        counted, _ = stood_in(shop)
        _refuse_what_nobody_has(counted)
        _refuse_what_cannot_be(counted, seconds)
        raise _no_plan(shop, seconds)
    found = buy(aside.rest, aim, seconds, now)
    return put_back(shop, aside, found) if aside.taken else found


def _no_plan(shop: Shop, seconds: float) -> BadInput:
    return BadInput(
        f"{many(len(shop.demand), 'place')}, {many(len(shop.offers), 'offer')}", f"a plan within {seconds:g} s",
        "Give it more time, or split the demand.", field="demand",
    )  # fmt: skip


def _searched(shop: Shop, patience: Patience, most: int | None) -> tuple[Buy | None, float]:
    """The best plan with no more than so many parcels, and what none costs less than.

    Postage is what makes the bound of such a plan weak. So it is said of each parcel whether it is sent and whether its postage is
    free, one after the other, the choice with the lowest bound first; where all is said the whole model is solved for that choice
    alone, for what is cheaper than the best so far, until no choice is left that could be.
    """
    model, columns = Costs(shop), None
    if most is not None and model.used:
        model.at_most(dict.fromkeys(model.used.values(), 1.0), most)
    best, order = _fine(part_by_part(shop), most), count()
    choices: list[tuple[float, int, dict[Said, int], Bound | None, float]] = []

    def below() -> float:
        return best.total - LESS if best else float("inf")

    def look(said: dict[Said, int], least: float) -> None:
        bound = columns.bound(said, below()) if columns else None
        if (least := max(least, bound.least if bound else 0.0)) < below():
            heappush(choices, (least, next(order), said, bound, patience.seconds * FIRST_LOOK))

    if pays(shop):
        columns = Columns(shop, model.ever, most, patience)
    known = prices(shop)
    look({}, 0.0)
    while choices and choices[0][0] < below() and patience.left > 0:
        least, _, said, bound, seconds = heappop(choices)
        if bound and (one := bound.open(said)):
            for value in (1, 0):
                look(_told(said, one, value), least)
            continue
        if columns and seconds == patience.seconds * FIRST_LOOK:
            sent = frozenset(name for (what, name), value in said.items() if what == SENT and value)
            best = _less(best, _fine(better(shop, sent, known), most))
        solved = model.solve(min(patience.left, seconds), model.fixed(said), below())
        patience.spend(solved.took)
        if solved.values is not None:
            best = _less(best, read_back(shop, model, solved.values))
        # what is cheaper than the best was looked for: a bound that is not below it means that there is nothing
        if (least := max(least, solved.bound)) < below():
            heappush(choices, (least, next(order), said, bound, 2 * seconds))
    if best is None:
        return None, 0.0
    return best, min([best.total, *(choice[0] for choice in choices)])


def _told(said: Mapping[Said, int], one: Said, value: int) -> dict[Said, int]:
    """What is said, and one more with what follows from it: no free postage of what is not sent."""
    told = {**said, one: value}
    if one[0] == SENT and not value:
        told[FREE, one[1]] = 0
    if one[0] == FREE and value:
        told[SENT, one[1]] = 1
    return told


def _fine(plan: Buy | None, most: int | None) -> Buy | None:
    return plan if plan is not None and (most is None or len(plan.orders) <= most) else None


def _less(a: Buy | None, b: Buy | None) -> Buy | None:
    return min((plan for plan in (a, b) if plan is not None), key=lambda plan: plan.total, default=None)


def _refuse_what_nobody_has(shop: Shop) -> None:
    """Say which place's parts nobody has.

    Args:
        shop: the shop: what is wanted, offered and here.

    Raises:
        BadInput: there is one.
    """
    for wanted in shop.demand:
        if not any(shop.have(part) >= wanted.quantity for part, _ in wanted.fits):
            raise _lacking(shop, [wanted])


def _refuse_what_cannot_be(shop: Shop, seconds: float) -> None:
    """Say which places no plan can fill, and what is missing.

    Args:
        shop: the shop: what is wanted, offered and here.
        seconds: s.

    Raises:
        BadInput: there are such places.
    """
    model = Costs(shop, missing=True)
    solved = model.solve(seconds)
    if solved.values is None or solved.cost < 0.5:
        return
    short = [
        wanted
        for key, members in shop.alike.items()
        for wanted in members[len(members) - round(solved.values[model.lacks[key]]) :]
    ]
    if short:
        raise _lacking(shop, short)


def _lacking(shop: Shop, short: Sequence[Wanted]) -> BadInput:
    parts = dict.fromkeys(part for wanted in short for part, _ in wanted.fits)
    if not parts:
        return BadInput(
            short[0].name, "at least one part that fits", "Nothing fits this place: choose for it first.", field="fits"
        )
    counted = []
    for part in list(parts)[:4]:
        offered = sum(o.most for o in shop.useful if o.part == part)
        on_offer = "any number" if offered == float("inf") else f"{offered:g}"
        counted.append(
            f"{part}: {shop.asked[part]} asked for at most, {shop.shelf.get(part, 0)} on the shelf, {on_offer} on offer"
        )
    least = {o.supplier for o in shop.useful if o.part in parts and shop.suppliers[o.supplier].minimum > 0}
    minimum = "".join(f" {name} sends nothing under €{shop.suppliers[name].minimum:.2f}." for name in sorted(least))
    return BadInput(
        listed([wanted.name for wanted in short[:5]]) + (" and more" if len(short) > 5 else ""),
        "enough pieces on the shelf or on offer",
        f"{'; '.join(counted)}.{minimum}",
        field="demand",
    )  # fmt: skip


def _soonest(shop: Shop, seconds: float) -> Shop:
    """The shop with only those offers that are here by the earliest day on which everything can be."""
    days = sorted({o.lead_days for o in shop.useful})
    low, high = -1, len(days) - 1
    while high - low > 1:
        middle = (low + high) // 2
        if _fills(_within(shop, days[middle]), seconds):
            high = middle
        else:
            low = middle
    if not days or _fills(_within(shop, -1.0), seconds):
        return _within(shop, -1.0)
    return _within(shop, days[high])


def _within(shop: Shop, days: float) -> Shop:
    return replace(shop, offers=tuple(o for o in shop.offers if o.lead_days <= days))


def _fills(shop: Shop, seconds: float) -> bool:
    solved = Costs(shop, missing=True).solve(seconds)
    return solved.values is not None and solved.cost < 0.5


def _fewest(shop: Shop, seconds: float) -> int | None:
    """The least number of parcels that fill every place; None where that could not be found in time."""
    model = Costs(shop)
    model.costs = [0.0] * len(model.costs)
    for used in model.used.values():
        model.costs[used] = 1.0
    solved = model.solve(seconds)
    return None if solved.values is None else round(solved.cost)
