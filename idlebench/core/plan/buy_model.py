"""The buying plan as a mixed-integer program."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .orders import Buy, Offer, PlanLine, Shop, Supplier, Wanted, put_together
from .solve import Model

#: An offer is written down quantity by quantity where it is worth buying in no more than so many; else price by price.
QUANTITIES = 60


@dataclass(frozen=True)
class _Source:
    """What can be bought at one price: whether it is, how many pieces by variables, and the most that can be."""

    picked: int
    pieces: Mapping[int, float]
    most: int


class Costs(Model):
    """The optimisation: places, quantities, breaks and parcels as variables.

    A quantity that may make sense is a variable of its own, with what it costs in all: what is between two of them is never
    mistaken for a bit of both. Places that are alike take no more of a part than the quantity that is bought, each sort by itself:
    that is what makes the bound tight.

    Args:
        shop: what is wanted, offered and here.
        missing: places may stay empty, and that alone costs: for finding out which.
    """

    def __init__(self, shop: Shop, missing: bool = False) -> None:
        super().__init__()
        self.shop = shop
        self.used = {name: self.whole(1) for name in dict.fromkeys(o.supplier for o in shop.useful)}
        self.free: dict[str, int] = {}
        self.takes: dict[tuple, list[int]] = {}
        self.lacks: dict[tuple, int] = {}
        #: By supplier what is bought for, €; by part its sources, and its takers: the sort of place and its variable.
        self._goods: dict[str, dict[int, float]] = defaultdict(dict)
        self._sources: dict[str, list[_Source]] = defaultdict(list)
        takers: dict[str, list[tuple[int, int, int]]] = defaultdict(list)
        #: By offer, pieces as variables.
        self.pieces = [self._offer(offer) for offer in shop.useful]
        for key, members in shop.alike.items():
            fits, quantity = key
            self.takes[key] = taken = [self.whole(len(members), worse * quantity) for _, worse in fits]
            filled = dict.fromkeys(taken, 1.0)
            if missing:
                self.lacks[key] = lack = self.whole(len(members))
                filled[lack] = 1.0
            self.equal(filled, len(members))
            for (part, _), variable in zip(fits, taken, strict=True):
                takers[part].append((variable, quantity, len(members)))
        for part, taking in takers.items():
            self._part(part, taking)
        for name, used in self.used.items():
            self._parcel(shop.suppliers[name], used, self._goods[name])
        if missing:
            self.costs = [0.0] * len(self.costs)
            for lack in self.lacks.values():
                self.costs[lack] = 1.0

    def _part(self, part: str, takers: Sequence[tuple[int, int, int]]) -> None:
        """No more of a part than there is of it, to all its places together and to each sort of them."""
        lying, sources = self.shop.shelf.get(part, 0), self._sources[part]
        bought = {variable: -n for source in sources for variable, n in source.pieces.items()}
        self.at_most({**{variable: float(n) for variable, n, _ in takers}, **bought}, float(lying))
        for variable, quantity, places in takers:
            picked = {source.picked: -min(float(places), source.most / quantity) for source in sources}
            self.at_most({variable: 1.0, **picked}, min(float(places), lying / quantity))

    def _parcel(self, terms: Supplier, used: int, goods: Mapping[int, float]) -> None:
        self.costs[used] = terms.postage
        if terms.minimum > 0:
            self.at_least({**goods, used: -terms.minimum}, 0.0)
        if self._can_be_free(terms):
            self.free[terms.name] = free = self.whole(1, -terms.postage)
            self.at_least({**goods, free: -(terms.free_above or 0.0)}, 0.0)
            self.at_most({free: 1.0, used: -1.0}, 0.0)

    def _offer(self, offer: Offer) -> dict[int, float]:
        """The variables of an offer: how many pieces they stand for."""
        terms = self.shop.suppliers[offer.supplier]
        most = int(min(offer.most, self.ever(offer)))
        need = max(0, self.shop.asked[offer.part] - self.shop.shelf.get(offer.part, 0))
        # more than is needed makes sense up to a break, or where goods are wanted for their own sake
        for_goods = terms.minimum > 0 or self._can_be_free(terms)
        sensible = sorted({offer.packed(n) for n in range(1, need + 1)} | {offer.packed(n) for n, _ in offer.breaks})
        sensible = [n for n in sensible if n <= most]
        steps = [(least, price) for least, price in offer.breaks if offer.packed(least) <= most]
        found: dict[int, float] = {}
        chosen = []
        for i, (least, price) in enumerate(steps):
            upto = min(most, steps[i + 1][0] - 1) if i + 1 < len(steps) else most
            upto = upto // offer.pack * offer.pack
            quantities = [n for n in sensible if offer.packed(least) <= n <= upto]
            if not for_goods:
                # dearer than a larger quantity at a later price: nobody would
                later = min((n * offer.each(n) for n in sensible if n > upto), default=float("inf"))
                quantities = [n for n in quantities if n * price < later]
            if len(quantities) <= QUANTITIES:
                sources = [self._just(offer, n, price) for n in quantities]
                if for_goods and quantities and upto > quantities[0]:
                    found.update(self._on_top(offer, sources, upto, price))
            else:
                sources = [self._between(offer, offer.packed(least), upto, price)]
            for source in sources:
                self.costs[source.picked] += terms.handling
                found.update(source.pieces)
                chosen.append(source.picked)
            self._sources[offer.part] += sources
        self.at_most({**dict.fromkeys(chosen, 1.0), self.used[offer.supplier]: -1.0}, 0.0)
        return found

    def _just(self, offer: Offer, pieces: int, price: float) -> _Source:
        """Just so many pieces."""
        picked = self.whole(1, pieces * price)
        self._goods[offer.supplier][picked] = pieces * price
        return _Source(picked, {picked: float(pieces)}, pieces)

    def _on_top(self, offer: Offer, sources: Sequence[_Source], upto: int, price: float) -> dict[int, float]:
        """More packs than are needed, up to the next price: goods for the sake of the sum."""
        packs = self.whole((upto - sources[0].most) // offer.pack, offer.pack * price)
        self._goods[offer.supplier][packs] = offer.pack * price
        self.at_most({packs: float(offer.pack), **{one.picked: float(one.most - upto) for one in sources}}, 0.0)
        return {packs: float(offer.pack)}

    def _between(self, offer: Offer, least: int, upto: int, price: float) -> _Source:
        """Any whole packs between two numbers of pieces, at one price."""
        picked, packs = self.whole(1), self.whole(upto // offer.pack, offer.pack * price)
        self._goods[offer.supplier][packs] = offer.pack * price
        self.at_least({packs: float(offer.pack), picked: -float(least)}, 0.0)
        self.at_most({packs: float(offer.pack), picked: -float(upto)}, 0.0)
        return _Source(picked, {packs: float(offer.pack)}, upto)

    def fixed(self, said: Mapping[tuple[str, str], int]) -> dict[int, float]:
        """The variables that say whether a parcel is sent, and whether its postage is free, with what was said of them."""
        known = {"sent": self.used, "free": self.free}
        return {known[what][name]: float(value) for (what, name), value in said.items() if name in known[what]}

    def ever(self, offer: Offer) -> int:
        """Most pieces that could ever make sense: for all its places, up to the last break, or up to a sum of goods."""
        terms = self.shop.suppliers[offer.supplier]
        enough = max(offer.packed(self.shop.asked[offer.part]), offer.packed(offer.breaks[-1][0]))
        sums = max(terms.minimum, (terms.free_above or 0.0) if terms.postage else 0.0)
        least = min(price for _, price in offer.breaks)
        return max(enough, offer.packed(int(sums / least) + 1)) if sums else enough

    @staticmethod
    def _can_be_free(terms: Supplier) -> bool:
        return terms.free_above is not None and terms.postage > 0


def read_back(shop: Shop, model: Costs, values: Sequence[float]) -> Buy:
    """The plan that the solver's numbers mean; every sum is reckoned anew from whole pieces."""
    bought = [
        PlanLine(offer, round(sum(n * round(values[variable]) for variable, n in pieces.items())))
        for offer, pieces in zip(shop.useful, model.pieces, strict=True)
    ]
    taken: dict[Wanted, str] = {}
    penalties = 0.0
    for (fits, quantity), members in shop.alike.items():
        left = iter(members)
        for (part, penalty), variable in zip(fits, model.takes[fits, quantity], strict=True):
            for _ in range(round(values[variable])):
                taken[next(left)] = part
                penalties += penalty * quantity
    return put_together(shop, [line for line in bought if line.quantity], taken, penalties)
