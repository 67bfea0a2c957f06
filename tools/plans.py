"""Buying plans and calendars by chance, for the measuring run."""

from __future__ import annotations

import math
import random
import time

from asked import asked

from idlebench.core.plan.buy import buy
from idlebench.core.plan.by_hand import part_by_part
from idlebench.core.plan.orders import Offer, Shop, Supplier, Wanted
from idlebench.core.plan.schedule import Task, Work, breaks, plainly
from idlebench.core.plan.scheduling import schedule


def shop(seed: int, places: int, kinds: int, suppliers: int, offers: int) -> Shop:
    """Places that take their kind or up to two that are better, offers with breaks, packs and stock, terms as shops have them."""
    dice = random.Random(seed)
    names = [f"K{i:02}" for i in range(kinds)]
    price = {name: 0.06 * 1.35 ** (i % 12) * dice.uniform(0.8, 1.25) for i, name in enumerate(names)}
    terms = {
        f"S{i}": Supplier(
            name=f"S{i}",
            postage=dice.choice((2.9, 3.5, 4.9, 6.0)),
            free_above=dice.choice((None, 30.0, 50.0, 60.0)),
            handling=dice.choice((0.1, 0.25)),
            minimum=dice.choice((0, 0, 0, 15.0)),
        )
        for i in range(suppliers)
    }
    found: dict[tuple[str, str, int], Offer] = {}
    while len(found) < offers:
        key = dice.choice(names), dice.choice(list(terms)), dice.choice((1, 1, 1, 5, 10))
        first = price[key[0]] * dice.uniform(0.85, 1.2) * (1 if key[2] == 1 else 0.85)
        falls = dice.choice(((1,), (1, 0.8), (1, 0.85, 0.7), (1, 0.85, 0.7, 0.6)))
        breaks_ = {max(key[2], n): round(first * fall, 4) for n, fall in zip((1, 10, 25, 100), falls, strict=False)}
        stock, days = dice.choice((None, None, None, 40, 200)), float(dice.choice((1, 3, 7, 14)))
        found[key] = Offer(
            part=key[0], supplier=key[1], pack=key[2], breaks=tuple(breaks_.items()), stock=stock, lead_days=days
        )
    have = sorted({offer.part for offer in found.values()})
    demand = []
    for i in range(places):
        first, count = dice.randrange(len(have)), dice.choice((1, 2, 2, 3))
        fits = tuple((have[(first + m) % len(have)], round(0.05 * m, 2)) for m in range(count))
        demand.append(Wanted(f"J{i % 7}", f"C{i}", 1, fits))
    return Shop(tuple(demand), tuple(found.values()), terms, {part: dice.choice((0, 0, 0, 2, 5)) for part in have})


def work(seed: int, units: int, tasks: int) -> Work:
    """Tasks of units: most after an earlier one of their unit, some with a wait, some in the washer or the drying box."""
    dice = random.Random(seed)
    found = []
    for i in range(tasks):
        unit, n = i % units, i // units
        found.append(
            Task(
                name=f"U{unit} {n}",
                unit=f"U{unit}",
                hands=dice.choice((5, 10, 20, 30, 45, 60)),
                wait=dice.choice((0, 0, 0, 60, 120, 1440)),
                after=(f"U{unit} {dice.randrange(n)}",) if n and dice.random() < 0.8 else (),
                occupies=("washer",) if dice.random() < 0.1 else (),
                holds=("drying box",) if dice.random() < 0.05 else (),
            )
        )
    return Work(tuple(found))


def plans() -> None:
    """Both planners at the size that is asked, and against plans made by hand on 50 cases by chance."""
    for places, kinds, suppliers, offers, seconds in ((60, 20, 3, 80, 2.0), (300, 60, 5, 400, 10.0)):
        for seed in range(3):
            one = shop(seed, places, kinds, suppliers, offers)
            begun = time.perf_counter()
            found = buy(one, seconds=seconds, now=time.perf_counter)
            took = time.perf_counter() - begun
            by_hand = part_by_part(one)
            ratio = f"{found.total / by_hand.total:.2f} × part by part" if by_hand else "part by part goes short"
            words = f"buying for {places} places, {offers} offers, {took:.1f} s, {ratio}"
            if places == 60:
                asked(f"{words}: proven after", took if found.proved else math.inf, 2, "s")
            else:
                asked(f"{words}: gap", 100 * (found.gap or 0), 1, "%")
    ratios = []
    for seed in range(50):
        one = shop(1000 + seed, 25, 12, 3, 40)
        by_hand = part_by_part(one)
        if by_hand is not None:
            ratios.append(buy(one, seconds=1.0, now=time.perf_counter).total / by_hand.total)
    assert max(ratios) <= 1 + 1e-9
    asked(f"buying, {len(ratios)} cases by chance from {min(ratios):.2f}, × part by part", max(ratios), 1 + 1e-9, "×")
    for seed in range(3):
        one_work = work(seed, 12, 200)
        begun = time.perf_counter()
        plan = schedule(one_work)
        took = time.perf_counter() - begun
        assert not breaks(one_work, plan)
        by_hand = f"{plan.finish / plainly(one_work).finish:.2f} × by hand"
        asked(f"12 units, 200 tasks, finish {plan.finish} min, bound {plan.bound}, {by_hand}", took, 2.2, "s")
    ratios = []
    for seed in range(50):
        one_work = work(1000 + seed, 4, 24)
        ratios.append(schedule(one_work, 0.5).finish / plainly(one_work).finish)
    assert max(ratios) <= 1
    asked(f"calendar, 50 cases by chance from {min(ratios):.2f}, × by hand", max(ratios), 1, "×")
