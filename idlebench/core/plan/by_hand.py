"""Buying without a plan, as it is done by hand, and made better step by step: a plan to start from, and to be compared with."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from .orders import Buy, Offer, PlanLine, Shop, Wanted, put_together
from .solve import LESS


def part_by_part(shop: Shop) -> Buy | None:
    """What it costs without a plan: each place its first part, each part from whom it is cheapest alone, postage and all.

    None where that way some place goes without, or an order stays under what its supplier asks.
    """
    left = {part: shop.have(part) for part in shop.asked}
    taken: dict[Wanted, str] = {}
    needed: Counter[str] = Counter()
    penalties = 0.0
    for wanted in shop.demand:
        found = next(((p, worse) for p, worse in wanted.fits if left[p] >= wanted.quantity), None)
        if found is None:
            return None
        part, worse = found
        left[part] -= wanted.quantity
        taken[wanted], penalties = part, penalties + worse * wanted.quantity
        needed[part] += wanted.quantity
    lines: list[PlanLine] = []
    for part, pieces in needed.items():
        bought = _cheapest(shop, part, pieces - shop.shelf.get(part, 0))
        if bought is None:
            return None
        lines += bought
    if (lines := _made_up(shop, lines)) is None:
        return None
    return put_together(shop, lines, taken, penalties)


def _cheapest(shop: Shop, part: str, pieces: int) -> list[PlanLine] | None:
    """So many pieces of a part by itself, each time from whom it is cheapest; None where there are not so many."""
    return _of_these(shop, [o for o in shop.useful if o.part == part], pieces, postage=True)


def _of_these(shop: Shop, offers: Sequence[Offer], pieces: int, postage: bool) -> list[PlanLine] | None:
    """The same from some offers, with postage counted for each part alone, or left out."""
    offers, lines = list(offers), []

    def alone(line: PlanLine) -> float:
        terms = shop.suppliers[line.offer.supplier]
        return line.goods + terms.handling + (terms.posts(line.goods) if postage else 0.0)

    while pieces > 0 and offers:
        enough = [PlanLine(o, n) for o in offers for n in o.worth_buying(pieces)]
        if enough:
            return [*lines, min(enough, key=alone)]
        most = max(offers, key=lambda o: o.most)
        offers.remove(most)
        if most.most >= most.packed(1):
            lines.append(PlanLine(most, int(most.most)))
            pieces -= int(most.most)
    return lines if pieces <= 0 else None


def _made_up(shop: Shop, lines: Sequence[PlanLine]) -> list[PlanLine] | None:
    """The lines with their first ones made longer until each order reaches what its supplier asks; None where it cannot.

    Goods short of free postage by less than the postage are made up, too.
    """
    found: list[PlanLine] = []
    for name in dict.fromkeys(line.offer.supplier for line in lines):
        own, terms = [line for line in lines if line.offer.supplier == name], shop.suppliers[name]
        full = _longer(own, terms.minimum)
        if sum(x.goods for x in full) < terms.minimum - 1e-9:
            return None
        if terms.free_above is not None and sum(x.goods for x in full) < terms.free_above:
            free = _longer(full, terms.free_above)
            saved = terms.postage - terms.posts(sum(x.goods for x in free))
            if sum(x.goods for x in free) - saved < sum(x.goods for x in full):
                full = free
        found += full
    return found


def _longer(lines: Sequence[PlanLine], goods: float) -> list[PlanLine]:
    """Lines with the first ones made longer until they reach a sum, or have all that there is."""
    own = list(lines)
    for i, line in enumerate(own):
        while (
            short := goods - sum(x.goods for x in own)
        ) > 1e-9 and line.quantity + line.offer.pack <= line.offer.most:
            packs = max(1, int(short / (line.price * line.offer.pack)))
            own[i] = line = PlanLine(line.offer, int(min(line.quantity + packs * line.offer.pack, line.offer.most)))
    return own


def _gathered(
    shop: Shop, lines: Sequence[PlanLine], needed: Counter[str], suppliers: frozenset[str]
) -> list[PlanLine] | None:
    """Lines moved from supplier to supplier where together they reach free postage, or a parcel less, and that is cheaper."""
    best = _made_up(shop, lines)
    for name in sorted(suppliers):
        base = list(best or lines)
        single = Counter(line.offer.part for line in base)
        moves = []
        for i, line in enumerate(base):
            part = line.offer.part
            if line.offer.supplier == name or single[part] > 1:
                continue
            own = [o for o in shop.useful if o.part == part and o.supplier == name]
            if other := _of_these(shop, own, needed[part], postage=False):
                handling = shop.suppliers[name].handling * len(other) - shop.suppliers[line.offer.supplier].handling
                goods = sum(x.goods for x in other)
                moves.append(((goods + handling - line.goods) / goods, i, other))
        trial: list[list[PlanLine]] = [[line] for line in base]
        for _, i, other in sorted(moves, key=lambda move: move[:2]):
            trial[i] = other
            full = _made_up(shop, [line for one in trial for line in one])
            if full is not None and (best is None or _sum(shop, full) < _sum(shop, best) - LESS):
                best = full
    return best


def _sum(shop: Shop, lines: Sequence[PlanLine]) -> float:
    """Goods, handling and postage of lines, €."""
    goods: Counter[str] = Counter()
    for line in lines:
        goods[line.offer.supplier] += line.goods
    handling = sum(shop.suppliers[line.offer.supplier].handling for line in lines)
    return sum(goods.values()) + handling + sum(shop.suppliers[name].posts(g) for name, g in goods.items())


#: Goods and handling of 0, 1, 2 … pieces, by part and supplier, €.
Prices = dict[tuple[str, str], list[float]]


def better(shop: Shop, suppliers: frozenset[str], by_supplier: Prices) -> Buy | None:
    """A good plan that buys from these only: places are moved from part to part as long as that makes it cheaper.

    What a part costs is reckoned for any number of pieces beforehand, so a move costs two look-ups. Postage, and goods that make
    it free, are counted at the end. None where these do not have enough.
    """
    costs = {part: _costs(shop, part, suppliers, by_supplier) for part in shop.asked}
    pieces: Counter[str] = Counter()
    taken: dict[tuple, list[int]] = {}
    for key, members in shop.alike.items():
        fits, quantity = key
        taken[key] = [0] * len(fits)
        for _ in members:
            added = [
                costs[part][pieces[part] + quantity] - costs[part][pieces[part]] + worse * quantity
                for part, worse in fits
            ]
            k = min(range(len(fits)), key=added.__getitem__)
            if added[k] == float("inf"):
                return None
            taken[key][k] += 1
            pieces[fits[k][0]] += quantity
    while any(_moved(key, counts, pieces, costs) for key, counts in taken.items()) or _emptied(taken, pieces, costs):
        pass
    chosen: dict[Wanted, str] = {}
    penalties = 0.0
    for key, members in shop.alike.items():
        left = iter(members)
        for (part, worse), count in zip(key[0], taken[key], strict=True):
            penalties += worse * key[1] * count
            chosen |= {next(left): part for _ in range(count)}
    return _bought(shop, suppliers, pieces, chosen, penalties)


def _bought(
    shop: Shop, suppliers: frozenset[str], pieces: Counter[str], chosen: dict[Wanted, str], penalties: float
) -> Buy | None:
    lines: list[PlanLine] = []
    for part, needed in pieces.items():
        offers = [o for o in shop.useful if o.part == part and o.supplier in suppliers]
        found = _of_these(shop, offers, needed - shop.shelf.get(part, 0), postage=False)
        if found is None:
            return None
        lines += found
    need = Counter({part: max(0, needed - shop.shelf.get(part, 0)) for part, needed in pieces.items()})
    gathered = _gathered(shop, lines, need, suppliers)
    return None if gathered is None else put_together(shop, gathered, chosen, penalties)


def _costs(shop: Shop, part: str, suppliers: frozenset[str], by_supplier: Prices) -> list[float]:
    """Goods and handling of 0, 1, 2 … pieces of a part, up to what all places could take; infinite where there are not so many."""
    own = [by_supplier[part, name] for name in suppliers if (part, name) in by_supplier]
    lying = shop.shelf.get(part, 0)
    found = [
        min((costs[n] for costs in own), default=0.0 if n <= lying else float("inf"))
        for n in range(shop.asked[part] + 1)
    ]
    if found[-1] == float("inf"):
        # not enough from any single one
        offers = [o for o in shop.useful if o.part == part and o.supplier in suppliers]
        for n, cost in enumerate(found):
            if cost == float("inf"):
                found[n] = _cost(shop, _of_these(shop, offers, n - lying, postage=False))
    return found


def prices(shop: Shop) -> Prices:
    """Goods and handling of 0, 1, 2 … pieces of each part from each supplier alone."""
    found: Prices = {}
    for part, name in dict.fromkeys((o.part, o.supplier) for o in shop.useful):
        offers = [o for o in shop.useful if (o.part, o.supplier) == (part, name)]
        lying = shop.shelf.get(part, 0)
        found[part, name] = [
            _cost(shop, _of_these(shop, offers, n - lying, postage=False)) for n in range(shop.asked[part] + 1)
        ]
    return found


def _cost(shop: Shop, lines: Sequence[PlanLine] | None) -> float:
    if lines is None:
        return float("inf")
    return sum(line.goods + shop.suppliers[line.offer.supplier].handling for line in lines)


def _moved(key: tuple, counts: list[int], pieces: Counter[str], costs: dict[str, list[float]]) -> bool:
    """Move places that are alike from one part to another, one or all of them, where that is cheaper; whether any were."""
    fits, quantity = key
    for a, b in ((a, b) for a in range(len(fits)) for b in range(len(fits)) if a != b):
        (old, old_worse), (new, new_worse) = fits[a], fits[b]
        for count in {counts[a], 1} if counts[a] else ():
            n = count * quantity
            gone = costs[old][pieces[old] - n] - costs[old][pieces[old]]
            come = costs[new][pieces[new] + n] - costs[new][pieces[new]]
            if gone + come + (new_worse - old_worse) * n < -LESS:
                counts[a] -= count
                counts[b] += count
                pieces[old] -= n
                pieces[new] += n
                return True
    return False


def _emptied(taken: dict[tuple, list[int]], pieces: Counter[str], costs: dict[str, list[float]]) -> bool:
    """Give up a part wholly where all its places have another and that is cheaper; whether any was."""
    users: dict[str, list[tuple[tuple, int]]] = {}
    for key in taken:
        for k, (part, _) in enumerate(key[0]):
            if taken[key][k]:
                users.setdefault(part, []).append((key, k))
    for part, using in users.items():
        if any(len(key[0]) == 1 for key, _ in using):
            continue
        trial, change, moves = Counter(pieces), -costs[part][pieces[part]], []
        for key, k in using:
            fits, quantity = key
            n = taken[key][k] * quantity
            options = []
            for j, (other, worse) in enumerate(fits):
                if j != k and trial[other] + n < len(costs[other]):
                    options.append(
                        (costs[other][trial[other] + n] - costs[other][trial[other]] + (worse - fits[k][1]) * n, j)
                    )
            if not options:
                break
            added, j = min(options)
            change += added
            trial[fits[j][0]] += n
            moves.append((key, k, j, n))
        else:
            if change < -LESS:
                for key, k, j, n in moves:
                    count = taken[key][k]
                    taken[key][k] -= count
                    taken[key][j] += count
                    pieces[part] -= n
                    pieces[key[0][j][0]] += n
                return True
    return False
