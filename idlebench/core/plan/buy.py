"""One buying plan for many places: which part for each, from whom, how many, at which price break, at the least cost.

Cost = goods + handling a line + postage a parcel + what the places' second choices are worse by. An exact mixed-integer
optimisation. Source of the model and of the search over parcels: worked here; the solver is HiGHS.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import product

from ..refusal import BadInput
from ..wording import listed, many
from .buy_model import Costs, read_back
from .by_hand import better, part_by_part, prices
from .orders import Buy, Shop, Wanted
from .solve import LESS

#: What may be asked for: the least cost, the fewest parcels, what is here soonest; then the least cost among those.
AIMS = ("cost", "parcels", "soonest")
#: How long may be looked, s, and from which gap on a plan counts as proven best.
SECONDS, PROVEN = 10.0, 1e-6
#: Up to how many suppliers every choice of parcels is looked at by itself.
EACH = 6
#: The first look at one choice of parcels takes this share of the time; each later one twice as long.
FIRST_LOOK = 0.4
#: For so many choices of parcels a plan is made by hand, to begin with.
FIRST = 8


def buy(shop: Shop, aim: str = "cost", seconds: float = SECONDS) -> Buy:
    """The best plan by an aim; never dearer than buying part by part.

    Args:
        seconds: how long may be looked; what is found by then is given with its gap.

    Raises:
        BadInput: an unknown aim; or no plan can fill every place: it says which, and what is missing.
    """
    if aim not in AIMS:
        raise BadInput(aim, listed(AIMS), "", "aim")
    _refuse_what_nobody_has(shop)
    if aim == "soonest":
        shop = _soonest(shop, seconds)
    found, bound = _searched(shop, seconds, _fewest(shop, seconds) if aim == "parcels" else None)
    if found is None:
        _refuse_what_cannot_be(shop, seconds)
        raise BadInput(
            f"{many(len(shop.demand), 'place')}, {many(len(shop.offers), 'offer')}", f"a plan within {seconds:g} s",
            "Give it more time, or split the demand.", "demand",
        )  # fmt: skip
    gap = max(0.0, (found.total - bound) / found.total) if found.total > 0 else 0.0
    return replace(found, proved=gap <= PROVEN, gap=0.0 if gap <= PROVEN else min(gap, 1.0))


def _searched(shop: Shop, seconds: float, most: int | None) -> tuple[Buy | None, float]:
    """The best plan with no more than so many parcels, and what none costs less than.

    Postage is what makes the bound of such a plan weak, and there are few suppliers: each choice of parcels is a problem of its
    own whose relaxation says what it cannot cost less than. Those are looked at from the lowest on, each only for what is cheaper
    than the best so far, until none is left that could be.
    """
    model = Costs(shop)
    used = list(model.used.values())
    if len(used) > EACH:
        choices: list[Mapping[int, float]] = [{}]
    else:
        choices = [
            dict(zip(used, map(float, picked), strict=True))
            for picked in product((0, 1), repeat=len(used))
            if most is None or sum(picked) <= most
        ]
    if most is not None and used:
        model.at_most(dict.fromkeys(used, 1.0), most)
    bounds, took = model.bounds(choices)
    open_ = dict(enumerate(bounds))
    # all of them by name where there are too many to look at each
    names = {j: name for name, j in model.used.items()}
    ordered = [choices[i] for i in sorted(open_, key=open_.__getitem__) if open_[i] < float("inf")][:FIRST]
    best = _first(
        shop, [frozenset(names[j] for j, on in c.items() if on) if c else frozenset(model.used) for c in ordered], most
    )
    look = dict.fromkeys(open_, seconds * FIRST_LOOK)
    left = seconds - took
    while left > 0:
        could = {i: bound for i, bound in open_.items() if bound < (best.total - LESS if best else float("inf"))}
        if not could:
            break
        i = min(could, key=could.__getitem__)
        solved = model.solve(min(left, look[i]), choices[i], best.total if best else float("inf"))
        left, look[i] = left - solved.took, 2 * look[i]
        if solved.values is not None:
            found = read_back(shop, model, solved.values)
            best = found if best is None or found.total < best.total else best
        # what is cheaper than the best was looked for: a bound that is not below it means that there is nothing
        open_[i] = max(open_[i], solved.bound)
    if best is None:
        return None, 0.0
    return best, min(best.total, *open_.values())


def _first(shop: Shop, choices: Sequence[frozenset[str]], most: int | None) -> Buy | None:
    """The best plan that is found without the solver: part by part, and that made better for each choice of suppliers."""
    known = prices(shop)
    plans = [part_by_part(shop), *(better(shop, suppliers, known) for suppliers in choices)]
    fine = [plan for plan in plans if plan is not None and (most is None or len(plan.orders) <= most)]
    return min(fine, key=lambda plan: plan.total, default=None)


def _refuse_what_nobody_has(shop: Shop) -> None:
    """Say which place's parts nobody has.

    Raises:
        BadInput: there is one.
    """
    for wanted in shop.demand:
        if not any(shop.have(part) >= wanted.quantity for part, _ in wanted.fits):
            raise _lacking(shop, [wanted])


def _refuse_what_cannot_be(shop: Shop, seconds: float) -> None:
    """Say which places no plan can fill, and what is missing.

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
        return BadInput(short[0].name, "at least one part that fits", "Nothing fits this place: choose for it first.", "fits")  # fmt: skip
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
        "demand",
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
