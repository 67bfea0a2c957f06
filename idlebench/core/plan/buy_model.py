"""The buying plan as a mixed-integer program."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from .orders import Buy, Line, Offer, Shop, Supplier, Wanted, put_together
from .solve import Model


class Costs(Model):
    """The optimisation: places, whole packs, breaks and parcels as variables.

    Pieces flow from shelf and offers to places that are alike; a flow is no more than its place asks times whether its price is
    bought at, and whether its parcel comes. That is what makes the bound tight: one limit for each flow, not one for their sum.

    Args:
        missing: places may stay empty, and that alone costs: for finding out which.
    """

    def __init__(self, shop: Shop, missing: bool = False) -> None:
        super().__init__()
        self.shop = shop
        self.used = {name: self.whole(1) for name in dict.fromkeys(o.supplier for o in shop.useful)}
        self.takes: dict[tuple, list[int]] = {}
        self.lacks: dict[tuple, int] = {}
        goods: dict[str, dict[int, float]] = defaultdict(dict)
        self.packs: list[int] = []
        #: By part, what it can be bought at: the supplier, pieces bought at that price, whether any are, and all flows of it.
        self.bought: dict[str, list[tuple[str, int, int, dict[int, float]]]] = defaultdict(list)
        for offer in shop.useful:
            self.packs.append(self._offer(offer, goods[offer.supplier]))
        shelves: dict[str, dict[int, float]] = defaultdict(dict)
        for key, members in shop.alike.items():
            self._places(key, len(members), shelves, missing)
        for part, flows in shelves.items():
            self.at_most(flows, float(shop.shelf[part]))
        for prices in self.bought.values():
            for _, pieces, _, flows in prices:
                self.at_most({**flows, pieces: -1.0}, 0.0)
        for name, used in self.used.items():
            self._parcel(shop.suppliers[name], used, goods[name])
        if missing:
            self.costs = [0.0] * len(self.costs)
            for lack in self.lacks.values():
                self.costs[lack] = 1.0

    def _places(self, key: tuple, count: int, shelves: dict[str, dict[int, float]], missing: bool) -> None:
        """Places that are alike: each takes one of its parts, whose pieces come from the shelf and from what is bought."""
        fits, quantity = key
        self.takes[key] = taken = [self.whole(count, penalty * quantity) for _, penalty in fits]
        filled = dict.fromkeys(taken, 1.0)
        if missing:
            self.lacks[key] = lack = self.whole(count)
            filled[lack] = 1.0
        self.equal(filled, count)
        most = float(count * quantity)
        by_supplier: dict[str, dict[int, float]] = defaultdict(dict)
        for (part, _), variable in zip(fits, taken, strict=True):
            sources = {variable: -float(quantity)}
            if self.shop.shelf.get(part):
                lying = self.real(most)
                sources[lying] = shelves[part][lying] = 1.0
            for supplier, _, picked, flows in self.bought[part]:
                flow = self.real(most)
                sources[flow] = flows[flow] = by_supplier[supplier][flow] = 1.0
                self.at_most({flow: 1.0, picked: -most}, 0.0)
            self.equal(sources, 0.0)
        for supplier, flows in by_supplier.items():
            self.at_most({**flows, self.used[supplier]: -most}, 0.0)

    def _parcel(self, terms: Supplier, used: int, goods: dict[int, float]) -> None:
        self.costs[used] = terms.postage
        if terms.minimum > 0:
            self.at_least({**goods, used: -terms.minimum}, 0.0)
        if terms.free_above is not None and terms.postage > 0:
            free = self.whole(1, -terms.postage)
            self.at_least({**goods, free: -terms.free_above}, 0.0)
            self.at_most({free: 1.0, used: -1.0}, 0.0)

    def _offer(self, offer: Offer, goods: dict[int, float]) -> int:
        """The variables of an offer; the number of its packs."""
        terms = self.shop.suppliers[offer.supplier]
        most = int(min(offer.most, self._ever(offer, terms)))
        packs = self.whole(most // offer.pack)
        steps = [(least, price) for least, price in offer.breaks if offer.packed(least) <= most]
        tiers, chosen = {}, []
        for i, (least, price) in enumerate(steps):
            upto = min(most, steps[i + 1][0] - 1) if i + 1 < len(steps) else most
            picked, pieces = self.whole(1, terms.handling), self.real(upto, price)
            self.at_least({pieces: 1.0, picked: -float(offer.packed(least))}, 0.0)
            self.at_most({pieces: 1.0, picked: -float(upto)}, 0.0)
            tiers[pieces], goods[pieces] = 1.0, price
            chosen.append(picked)
            self.bought[offer.part].append((offer.supplier, pieces, picked, {}))
        self.equal({**tiers, packs: -float(offer.pack)}, 0.0)
        self.at_most({**dict.fromkeys(chosen, 1.0), self.used[offer.supplier]: -1.0}, 0.0)
        return packs

    def _ever(self, offer: Offer, terms: Supplier) -> int:
        """Most pieces that could ever make sense: for all its places, up to the last break, or up to a sum of goods."""
        enough = max(offer.packed(self.shop.asked[offer.part]), offer.packed(offer.breaks[-1][0]))
        sums = max(terms.minimum, (terms.free_above or 0.0) if terms.postage else 0.0)
        least = min(price for _, price in offer.breaks)
        return max(enough, offer.packed(int(sums / least) + 1)) if sums else enough


def read_back(shop: Shop, model: Costs, values: Sequence[float]) -> Buy:
    """The plan that the solver's numbers mean; every sum is reckoned anew from whole pieces."""
    bought = [Line(offer, round(values[n]) * offer.pack) for offer, n in zip(shop.useful, model.packs, strict=True)]
    taken: dict[Wanted, str] = {}
    penalties = 0.0
    for (fits, quantity), members in shop.alike.items():
        left = iter(members)
        for (part, penalty), variable in zip(fits, model.takes[fits, quantity], strict=True):
            for _ in range(round(values[variable])):
                taken[next(left)] = part
                penalties += penalty * quantity
    return put_together(shop, [line for line in bought if line.quantity], taken, penalties)
