"""The buying plan of the shop: what all open units want, what is offered, what lies here; planned beside the pages, and kept."""

from __future__ import annotations

import hashlib
import json
import time
from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from django.db import transaction
from django.utils import timezone

from idlebench.core.choose.rank import FITS
from idlebench.core.choose.salvage import by_hand_only
from idlebench.core.plan.buy import AIMS, buy
from idlebench.core.plan.by_hand import part_by_part
from idlebench.core.plan.orders import Shop, Wanted, with_spares
from idlebench.core.refusal import BadInput
from idlebench.core.wording import listed, many

from ..records.kept_plans import AimPlan, KeptBuying, PlaceBehind
from ..records.models import BuyingPlan
from ..unit.fits import rankings_for
from ..unit.state import UnitState, states_of
from ..unit.stock import used_parts
from ..unit.wanted import Place, Stock, places, stock_of

#: What a place's next part is worse by, € a step down the ranking, and how many are thought of.
STEP, THOUGHT_OF = 0.05, 4
#: How far down the ranking a part with a price is looked for.
ALL = 60
#: How long each aim may take, s.
SECONDS = 6.0
#: What is said while each aim is looked for.
DOING = {"cost": "looking for the least cost", "parcels": "for the fewest parcels", "soonest": "for the soonest"}
#: The job that spares are bought for.
SPARES = "spares"


def alternatives(wanted: Iterable[Place]) -> dict[int, tuple[tuple[str, float], ...]]:
    """For places that nobody settled by hand: what else goes in without a doubt, each with what it is worse by, by part row."""
    by_unit: dict[int, list[Place]] = defaultdict(list)
    for place in wanted:
        if not place.by_hand:
            by_unit[place.unit].append(place)
    found = {}
    for state in states_of(by_unit):
        members = by_unit[state.row.pk]
        first = _fitting(state, members, THOUGHT_OF)
        for place in members:
            if place.item not in first[place.pk]:
                first[place.pk] = [place.item, *first[place.pk]][:THOUGHT_OF]
        # a part without a price is bought only where no part with a price fits
        priced = _priced(first.values())
        without = [place for place in members if not priced & set(first[place.pk])]
        further = _fitting(state, without, ALL) if without else {}
        priced = _priced(further.values())
        for place in members:
            found[place.pk] = tuple((name, round(STEP * i, 2)) for i, name in enumerate(first[place.pk]))
        for pk, names in further.items():
            found[pk] += tuple((name, round(STEP * i, 2)) for i, name in enumerate(names) if name in priced)[:1]
    return found


def _fitting(state: UnitState, some: list[Place], most: int) -> dict[int, list[str]]:
    """What goes into some places of a unit without a doubt, best first, by part row; nothing out of a donor."""
    parts, used = {part.pk: part for part in state.parts}, used_parts()
    ranked = rankings_for(state, [parts[place.pk] for place in some], fits=most, refused=0)
    names = [by_hand_only((c.part.part for c in one.candidates if c.status == FITS), used) for one in ranked]
    return {place.pk: own for place, own in zip(some, names, strict=True)}


def _priced(lists: Iterable[Iterable[str]]) -> set[str]:
    """Parts of some lists that can be bought for a known price."""
    offers = stock_of(name for names in lists for name in names).offers
    return {offer.part for offer in offers if offer.priced and offer.most}


def stamp(wanted: Iterable[Place], stock: Stock) -> str:
    """What a plan rests on, as a short text: another one means that it is of before."""
    told = [
        sorted((p.pk, p.job, p.name, p.item if p.by_hand else "") for p in wanted),
        sorted(stock.here.items()),
        sorted(map(str, stock.offers)),
        sorted(map(str, stock.terms.values())),
    ]
    return hashlib.sha256(json.dumps(told).encode()).hexdigest()


def make(spares: bool = False, tell: Callable[[str, int, int], object] = lambda *step: None) -> BuyingPlan:
    """Plan for the whole shop by each aim, and keep it. Nothing is written before all of it is there.

    Args:
        spares: buy a tenth more of what is cheap. tell: told what is being done, the step and their number; it may raise to stop.

    Raises:
        BadInput: no plan can be.
    """
    steps = len(AIMS) + 1
    tell("collecting what fits", 0, steps)
    wanted = places()
    asked = _asked(wanted, spares)
    by_hand = part_by_part(asked.shop)
    found = {}
    for n, aim in enumerate(AIMS, 1):
        tell(DOING[aim], n, steps)
        plan = buy(asked.shop, aim, SECONDS, time.monotonic)
        found[aim] = AimPlan.of({**plan.as_json(by_hand), "days": plan.days})
    tell("saving the plan", steps, steps)
    parts = {part for asks in asked.shop.demand for part, _ in asks.fits}
    kept = KeptBuying(
        aims=found, where=asked.where, missing=tuple(asked.missing), spares=spares, parts=tuple(sorted(parts))
    )
    rests_on = stamp(wanted, stock_for(wanted, kept))
    with transaction.atomic():
        BuyingPlan.objects.all().delete()
        return BuyingPlan.objects.create(at=timezone.now(), stamp=rests_on, found=kept.written())


def told(kept: KeptBuying) -> str:
    """What a plan comes to, in a sentence: what it leaves out, too."""
    cost = kept.aims["cost"]
    left = [f"no price for {many(len(cost.unpriced), 'place')}"] if cost.unpriced else []
    left += [f"no supplier for {many(len(kept.missing), 'place')}"] if kept.missing else []
    return f"Planned: {listed([many(len(cost.orders), 'parcel') + f', €{cost.total:.2f} in total', *left])}."


@dataclass(frozen=True)
class _Asked:
    """What a plan is made from. where: the place behind each name. missing: places whose parts nobody offers."""

    shop: Shop
    where: dict[str, PlaceBehind]
    missing: list[PlaceBehind]


def _asked(wanted: list[Place], spares: bool) -> _Asked:
    others = alternatives(wanted)
    fits = [others.get(place.pk) or ((place.item, 0.0),) for place in wanted]
    stock = stock_of(part for parts in fits for part, _ in parts)
    demand, missing, where = [], [], {}
    for i, place in enumerate(wanted):
        # two boards of one name in one unit: the plan tells them apart
        name = place.name if f"{place.job} {place.name}" not in where else f"{place.name} ({i})"
        at = PlaceBehind(job=place.job, unit=place.unit, board=place.board, ref=place.ref, item=place.item)
        had = tuple(fit for fit in fits[i] if fit[0] in stock.offered or stock.have(fit[0]))
        if had:
            demand.append(Wanted(str(place.job), name, 1, had))
            where[f"{place.job} {name}"] = replace(at, part=place.pk)
        else:
            missing.append(replace(at, name=name))
    demand += _spares(demand, stock) if spares else []
    together = {part: stock.have(part) for part in {*stock.here, *stock.coming}}
    return _Asked(Shop(tuple(demand), stock.offers, stock.terms, together), where, missing)


def _spares(demand: Iterable[Wanted], stock: Stock) -> list[Wanted]:
    """What is bought more of cheap kinds, as places of nobody."""
    counts: dict[str, int] = defaultdict(int)
    for wanted in demand:
        counts[wanted.fits[0][0]] += wanted.quantity
    cheapest: dict[str, float] = {}
    for offer in stock.offers:
        cheapest[offer.part] = min(price for _, price in (*offer.breaks, (0, cheapest.get(offer.part, float("inf")))))
    found = []
    for part, pieces in counts.items():
        more = with_spares(pieces, cheapest.get(part)) - pieces
        if more:
            found.append(Wanted(SPARES, part, more, ((part, 0.0),)))
    return found


def stock_for(wanted: Iterable[Place], kept: KeptBuying | None) -> Stock:
    """What is known of the parts that places want, and of those that a plan thought of beside them: a correction of either counts."""
    return stock_of({p.item for p in wanted} | set(kept.parts if kept else ()))


def newest() -> BuyingPlan | None:
    """The plan as it was last made."""
    return BuyingPlan.objects.order_by("-id").first()


def latest() -> tuple[BuyingPlan | None, bool]:
    """The plan as it was last made, and whether all it rests on is still so."""
    plan = newest()
    if plan is None:
        return None, False
    wanted = places()
    return plan, plan.stamp == stamp(wanted, stock_for(wanted, plan.kept))


def refuse_old(plan: BuyingPlan | None, current: bool) -> BuyingPlan:
    """The plan, if it is of now.

    Raises:
        BadInput: there is none, or something it rests on has changed.
    """
    if plan is None:
        raise BadInput("", "a plan", "Make a plan first.", field="plan")
    if not current:
        raise BadInput(
            f"the plan of {timezone.localtime(plan.at):%H:%M}", "a plan of what is needed now",
            "Places, stock or offers have changed since: plan again.", field="plan",
        )  # fmt: skip
    return plan
