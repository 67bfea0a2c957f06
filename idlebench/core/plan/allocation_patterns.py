"""Ways of a part: how many places of each sort it fills, and what is bought for it from whom.

The best way at given prices, for many parts at once, by dynamic programming over pieces: a row a part, pieces along the last
axis. Exact: an offer's cost for each number of pieces is looked up whole, with packs, breaks, stock and handling.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .orders import Offer, PlanLine, Shop

Floats = NDArray[np.float64]
Counts = NDArray[np.int64]
#: What a way has to save at least to be worth knowing, €.
SAVES = 1e-7


@dataclass(frozen=True)
class Sort:
    """Places that are alike, as a part sees them. worse: what the part costs each beyond its price, €."""

    number: int
    places: int
    quantity: int
    worse: float


@dataclass(frozen=True, kw_only=True)
class Sold:
    """An offer as tables over 0, 1, 2 … pieces that are needed.

    goods, pieces: the least goods that bring so many, €, and how many those are; infinite where there are not so many. dear,
    dear_pieces: the most goods that could ever make sense for it, where goods are wanted for their own sake.
    """

    offer: Offer
    goods: Floats
    pieces: Counts
    dear: Floats
    dear_pieces: Counts


@dataclass(frozen=True, kw_only=True)
class Part:
    """A part with the sorts of places that take it, most pieces they could take, pieces on the shelf, and offers by supplier."""

    name: str
    sorts: tuple[Sort, ...]
    most: int
    shelf: int
    offers: Mapping[str, tuple[Sold, ...]]


@dataclass(frozen=True)
class AllocationPattern:
    """saves: what it would make cheaper at the prices it was looked for, €. filled: places by sort."""

    part: int
    saves: float
    filled: Mapping[int, int]
    lines: tuple[PlanLine, ...]


@dataclass(frozen=True)
class Prices:
    """What a way is held against, €: what filling a place of each sort is worth, what a euro of goods from a supplier is worth by
    itself, what buying a part from a supplier at all costs, by part and supplier, and what a way of a part has to beat.
    """

    place: Sequence[float]
    goods: Mapping[str, float]
    line: Mapping[tuple[int, str], float]
    part: Sequence[float]


def parts_of(shop: Shop, ever: Callable[[Offer], int]) -> list[Part]:
    """The parts that places of a shop take. ever: most pieces of an offer that could ever make sense."""
    sorts: dict[str, list[Sort]] = defaultdict(list)
    for k, ((fits, quantity), members) in enumerate(shop.alike.items()):
        for name, worse in fits:
            sorts[name].append(Sort(k, len(members), quantity, worse * quantity))
    found = []
    for name, own in sorts.items():
        most, shelf = shop.asked[name], shop.shelf.get(name, 0)
        offers: dict[str, list[Sold]] = defaultdict(list)
        for offer in shop.useful:
            if offer.part == name:
                offers[offer.supplier].append(_sold(offer, max(1, most - shelf), ever(offer)))
        found.append(
            Part(
                name=name, sorts=tuple(own), most=most, shelf=shelf, offers={s: tuple(one) for s, one in offers.items()}
            )
        )
    return found


def _sold(offer: Offer, need: int, ever: int) -> Sold:
    wanted = {offer.packed(n) for n in range(1, need + 1)} | {offer.packed(least) for least, _ in offer.breaks}
    wanted.add(int(min(offer.most, ever)) // offer.pack * offer.pack)
    sums = [(n * offer.each(n), n) for n in sorted(wanted) if offer.packed(1) <= n <= offer.most]
    least = [(0.0, 0)] + [min((one for one in sums if one[1] >= n), default=(np.inf, 0)) for n in range(1, need + 1)]
    dear = [(0.0, 0)] + [max((one for one in sums if one[1] >= n), default=(np.inf, 0)) for n in range(1, need + 1)]
    goods, pieces = (np.array(column) for column in zip(*least, strict=True))
    most, most_pieces = (np.array(column) for column in zip(*dear, strict=True))
    return Sold(offer=offer, goods=goods, pieces=pieces, dear=most, dear_pieces=most_pieces)


@dataclass(frozen=True)
class _Bought:
    """What pieces of each part cost when all are bought, €, and how each supplier's and each offer's share was found."""

    total: Floats
    steps: list[Any]


class Batch:
    """Parts whose tables are about as long, priced in one go."""

    def __init__(self, parts: Sequence[Part], numbers: Sequence[int]) -> None:
        self.parts, self.numbers = parts, numbers
        self.size = max(part.most for part in parts) + 1
        at = np.arange(self.size)
        self._back = np.clip(at[:, None] - at[None, :], 0, self.size - 1)
        self._never = np.where(at[:, None] < at[None, :], np.inf, 0.0)

    @cached_property
    def _slots(self) -> dict[str, list[tuple[Floats, Floats, list[Sold | None]]]]:
        """By supplier, the first offer of each part, the second, and so on, as rows."""
        found = {}
        for name in dict.fromkeys(name for part in self.parts for name in part.offers):
            own = [part.offers.get(name, ()) for part in self.parts]
            slots = [[one[m] if m < len(one) else None for one in own] for m in range(max(map(len, own)))]
            found[name] = [(self._table(s, "goods"), self._table(s, "dear"), s) for s in slots]
        return found

    def _table(self, slot: Sequence[Sold | None], of: str) -> Floats:
        table = np.full((len(slot), self.size), np.inf)
        table[:, 0] = 0.0
        for row, sold in enumerate(slot):
            if sold is not None:
                values = getattr(sold, of)
                table[row, : len(values)] = values
        return table

    @cached_property
    def _places(self) -> list[tuple[list[int], Counts, Floats, Counts]]:
        """Place by place of each part, as rows: its sort (-1: there is none), pieces, what it is worse by, where it came from."""
        rows = [[sort for sort in part.sorts for _ in range(sort.places)] for part in self.parts]
        at, found = np.arange(self.size), []
        for m in range(max(map(len, rows))):
            own = [row[m] if m < len(row) else None for row in rows]
            pieces = np.array([one.quantity if one else self.size for one in own])
            found.append(
                (
                    [one.number if one else -1 for one in own],
                    pieces,
                    np.array([one.worse if one else np.inf for one in own]),
                    at[None, :] - pieces[:, None],
                )
            )
        return found

    def ways(
        self, prices: Prices, handling: Mapping[str, float], barred: Collection[str]
    ) -> Iterator[AllocationPattern]:
        """The best way of each part that saves anything at these prices. barred: suppliers nothing is bought from."""
        costs, bought = self._costs(prices, handling, barred)
        worth, taken = self._worth(prices.place)
        gains = costs - worth
        best = gains.argmin(axis=1)
        for row, (number, part) in enumerate(zip(self.numbers, self.parts, strict=True)):
            saves = prices.part[number] - gains[row, best[row]]
            if saves > SAVES:
                filled: dict[int, int] = defaultdict(int)
                n = int(best[row])
                for (sorts, pieces, _, _), took in zip(reversed(self._places), reversed(taken), strict=True):
                    if took[row, n]:
                        filled[sorts[row]] += 1
                        n -= int(pieces[row])
                lines = self._lines(bought, row, max(0, int(best[row]) - part.shelf))
                yield AllocationPattern(number, float(saves), dict(filled), tuple(lines))

    def _costs(self, prices: Prices, handling: Mapping[str, float], barred: Collection[str]) -> tuple[Floats, _Bought]:
        """What 0, 1, 2 … pieces of each part cost, the shelf's first, €, and how they were put together."""
        total, steps = self._nothing(), []
        for name, slots in self._slots.items():
            if name in barred:
                continue
            each, own, found = 1.0 - prices.goods[name], self._nothing(), []
            for goods, dear, sold in slots:
                # where goods are wanted for their own sake, as many as make sense
                wanted = dear if each <= 0 else goods
                cost = handling[name] + np.where(
                    np.isinf(wanted), np.inf, each * np.where(np.isinf(wanted), 0.0, wanted)
                )
                cost[:, 0] = 0.0
                own, picked = self._joined(own, cost)
                found.append((sold, picked, each <= 0))
            own[:, 1:] += np.array([prices.line.get((i, name), 0.0) for i in self.numbers])[:, None]
            total, picked = self._joined(total, own)
            steps.append((found, picked))
        # more than is needed may cost less, where goods are wanted for their own sake
        least = np.minimum.accumulate(total[:, ::-1], axis=1)[:, ::-1]
        after = np.arange(self.size)[None, :] - np.array([part.shelf for part in self.parts])[:, None]
        return np.take_along_axis(least, np.maximum(after, 0), axis=1), _Bought(total, steps)

    def _nothing(self) -> Floats:
        table = np.full((len(self.parts), self.size), np.inf)
        table[:, 0] = 0.0
        return table

    def _joined(self, a: Floats, b: Floats) -> tuple[Floats, Counts]:
        """For each number of pieces the least of a sum of both, and how many of them are of the second."""
        sums = a[:, self._back] + (b[:, None, :] + self._never)
        picked = sums.argmin(axis=2)
        return np.take_along_axis(sums, picked[:, :, None], axis=2)[:, :, 0], picked

    def _worth(self, place: Sequence[float]) -> tuple[Floats, list[NDArray[np.bool_]]]:
        """The most that filling places with up to 0, 1, 2 … pieces is worth, €, and which places those are."""
        worth, taken = np.zeros((len(self.parts), self.size)), []
        known = np.array([*place, 0.0])
        for sorts, _, worse, before in self._places:
            gain = known[sorts] - worse
            with_it = np.take_along_axis(worth, np.maximum(before, 0), axis=1) + gain[:, None]
            took = (before >= 0) & (with_it > worth + SAVES / 100)
            worth = np.where(took, with_it, worth)
            taken.append(took)
        return worth, taken

    def _lines(self, bought: _Bought, row: int, pieces: int) -> Iterator[PlanLine]:
        pieces += int(bought.total[row, pieces:].argmin())
        for slots, picked in reversed(bought.steps):
            own = int(picked[row, pieces])
            pieces -= own
            for sold, inner, for_goods in reversed(slots):
                n = int(inner[row, own])
                own -= n
                if n:
                    one = sold[row]
                    yield PlanLine(one.offer, int((one.dear_pieces if for_goods else one.pieces)[n]))


def batches(parts: Sequence[Part]) -> list[Batch]:
    """Parts put together by how long their tables are."""
    found: dict[int, list[int]] = defaultdict(list)
    for i, part in enumerate(parts):
        found[part.most.bit_length()].append(i)
    return [Batch([parts[i] for i in numbers], numbers) for numbers in found.values()]
