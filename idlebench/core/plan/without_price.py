"""Parts that nobody gives a price for: used only where nothing that has one is left, ordered all the same, and in no total.

Which places go that way is decided first, as few pieces as can be; the others are then planned by their prices.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace

from .buy_model import Costs, read_back
from .orders import SHELF, Buy, Filled, Offer, Order, PlanLine, Shop, Supplier, Wanted

#: What choosing a part without a price counts beside ordering one: enough to decide where ordering is the same.
BESIDE = 1e-4


@dataclass(frozen=True)
class SetAside:
    """Places that take a part without a price, and what they draw from the shelf; the shop that the others are planned in."""

    taken: Mapping[Wanted, Filled]
    drawn: Mapping[Wanted, int]
    rest: Shop

    @property
    def forced(self) -> bool:
        """Whether none of them could have anything that has a price."""
        return all(self.rest.have(part) < wanted.quantity for wanted in self.taken for part, _ in wanted.fits)


def stood_in(shop: Shop) -> tuple[Shop, dict[str, Offer]]:
    """The shop with what has no price offered at 1 € by somebody who asks nothing else; and what each of those stands for.

    Args:
        shop: what is wanted, offered and here.

    Returns:
        A shop in which every offer has a price, and the offers without one by the names that stand in for their suppliers.
    """
    by_name = {f"no price {n}": offer for n, offer in enumerate(shop.unpriced)}
    terms = {name: Supplier(name=name, postage=0.0, free_above=None, handling=0.0, minimum=0.0) for name in by_name}
    stands = [replace(offer, supplier=name, breaks=((1, 1.0),)) for name, offer in by_name.items()]
    priced = [offer for offer in shop.offers if offer.priced]
    return replace(shop, offers=(*priced, *stands), suppliers={**shop.suppliers, **terms}), by_name


def set_aside(shop: Shop, seconds: float) -> SetAside | None:
    """The places that only a part without a price can fill, as few pieces of such parts as can be.

    Args:
        shop: what is wanted, offered and here.
        seconds: how long may be looked.

    Returns:
        Which places, and the rest; None where not all places can be filled, or it was not found in time.
    """
    counted, by_name = stood_in(shop)
    model = Costs(counted)
    model.costs = [0.0] * len(model.costs)
    for offer, pieces in zip(counted.useful, model.pieces, strict=True):
        if offer.supplier in by_name:
            for variable, n in pieces.items():
                model.costs[variable] = n
    known = {offer.part for offer in shop.useful}
    for (fits, quantity), variables in model.takes.items():
        for k, ((part, _), variable) in enumerate(zip(fits, variables, strict=True)):
            if part not in known:
                model.costs[variable] = BESIDE * quantity * (1 + 0.1 * k)
    solved = model.solve(seconds)
    if solved.values is None:
        return None
    plan = read_back(counted, model, solved.values)
    taken = {filled.wanted: filled for filled in plan.places if filled.source in by_name}
    drawn = {f.wanted: f.quantity for f in plan.places if f.source == SHELF and f.wanted in taken}
    shelf = Counter(shop.shelf)
    for wanted, pieces in drawn.items():
        shelf[taken[wanted].part] -= pieces
    rest = replace(
        shop,
        demand=tuple(wanted for wanted in shop.demand if wanted not in taken),
        offers=tuple(offer for offer in shop.offers if offer.priced),
        shelf=dict(shelf),
    )
    return SetAside(taken, drawn, rest)


def put_back(shop: Shop, aside: SetAside, found: Buy) -> Buy:
    """A plan of the others, and the orders of what has no price: from who sends a parcel anyway, else where a parcel costs least.

    Args:
        shop: what is wanted, offered and here.
        aside: the places without a price.
        found: the plan of the others.

    Returns:
        One plan for all places. What it says of the best is of what has a price.
    """
    lines: dict[str, list[PlanLine]] = defaultdict(list)
    for order in found.orders:
        lines[order.supplier.name] += order.lines
    needed: Counter[str] = Counter()
    for wanted, filled in aside.taken.items():
        needed[filled.part] += wanted.quantity - aside.drawn.get(wanted, 0)
    least = 0.0
    pools: dict[str, list[list]] = {}
    for part, pieces in needed.items():
        bought = _ordered(shop, part, pieces, frozenset(lines))
        pools[part] = [[line.offer.supplier, line.quantity] for line in bought]
        for line in bought:
            lines[line.offer.supplier].append(line)
        least += min(shop.suppliers[o.supplier].handling for o in shop.unpriced if o.part == part)
    if not found.orders and aside.taken:
        # a parcel has to come from somebody, and nothing else pays for it
        least += max(
            min(_posts(shop.suppliers[o.supplier]) for o in shop.unpriced if o.part == part) for part in needed
        )
    orders = tuple(
        Order(shop.suppliers[name], tuple(sorted(own, key=lambda line: line.offer.part)))
        for name, own in sorted(lines.items())
    )
    places = _filled(shop, aside, found, pools)
    penalties = found.penalties + sum(
        dict(wanted.fits)[filled.part] * wanted.quantity for wanted, filled in aside.taken.items()
    )
    made = Buy(
        orders=orders, places=places, penalties=penalties, unpriced=tuple(w for w in shop.demand if w in aside.taken)
    )
    if found.gap is None or not aside.forced:
        return made
    below = made.total - (found.total * (1 - found.gap) + least)
    gap = max(0.0, below / made.total) if made.total > 0 else 0.0
    return replace(made, gap=gap if gap > 1e-6 else 0.0, proved=gap <= 1e-6)


def _posts(terms: Supplier) -> float:
    """The least a parcel of goods of unknown price is posted for, €."""
    return terms.postage if terms.free_above is None else 0.0


def _ordered(shop: Shop, part: str, pieces: int, sending: frozenset[str]) -> list[PlanLine]:
    """So many pieces of a part without a price, whole packs."""

    def dear(offer: Offer) -> tuple[bool, float, float]:
        terms = shop.suppliers[offer.supplier]
        return offer.supplier not in sending, terms.postage + terms.handling, offer.lead_days

    found = []
    for offer in sorted((o for o in shop.unpriced if o.part == part), key=dear):
        if pieces > 0:
            found.append(PlanLine(offer, int(min(offer.most, offer.packed(pieces)))))
            pieces -= found[-1].quantity
    return found


def _filled(shop: Shop, aside: SetAside, found: Buy, pools: Mapping[str, list[list]]) -> tuple[Filled, ...]:
    """What every place gets, in the order in which they are wanted."""
    got: dict[Wanted, list[Filled]] = defaultdict(list)
    for filled in found.places:
        got[filled.wanted].append(filled)
    for wanted, filled in aside.taken.items():
        left = wanted.quantity
        for pool in ([SHELF, aside.drawn.get(wanted, 0)], *pools[filled.part]):
            if here := min(left, pool[1]):
                pool[1] -= here
                left -= here
                got[wanted].append(Filled(wanted, filled.part, pool[0], here))
    return tuple(filled for wanted in shop.demand for filled in got[wanted])
