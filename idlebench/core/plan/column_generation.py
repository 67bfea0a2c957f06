"""What no buying plan can cost less than, by choice of parcels: whole ways of each part as columns of a relaxation.

Nothing of a part is bought by halves in it, so it is far tighter than one over lines. There are too many ways to write down: those
that would make it cheaper at the prices of the moment are found as they are needed (decomposition of Dantzig and Wolfe). Postage,
free postage and least orders couple the parts; whether a parcel is sent, and whether its postage is free, is said from outside.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .allocation_patterns import AllocationPattern, Prices, batches, parts_of
from .orders import Offer, Shop
from .solve import Patience

#: What is said of a parcel: whether it is sent, whether its postage is free; of which supplier.
Said = tuple[str, str]
SENT, FREE = "sent", "free"
#: A bound this near to what the ways found so far can do, as a share, is near enough.
NEAR = 1e-4
#: What is nearer to none or all than this is none or all.
WHOLE = 1e-5
#: The longest table of a part that pays, pieces.
ROOM = 400


@dataclass(frozen=True)
class Bound:
    """No plan with these parcels costs less, €; infinite where there is none. shares: how much of each parcel is sent, or free."""

    least: float
    shares: Mapping[Said, float]

    def open(self, said: Mapping[Said, int]) -> Said | None:
        """What of a parcel has not been said and is the least decided: what is sent before what is free; None where all is said."""
        halves = {one: min(max(x, 0.0), 1.0) for one, x in self.shares.items() if one not in said}
        undecided = {one: x for one, x in halves.items() if WHOLE < x < 1 - WHOLE} or halves
        return min(undecided, key=lambda one: (one[0] != SENT, abs(undecided[one] - 0.5)), default=None)


def pays(shop: Shop) -> bool:
    """Whether the tables of a shop's parts would be short enough; asked before any is made."""
    return max(shop.asked.values(), default=0) <= ROOM


class Columns:
    """The relaxation, kept from question to question: a way once found serves all of them."""

    def __init__(self, shop: Shop, ever: Callable[[Offer], int], most: int | None, patience: Patience) -> None:
        """Args: ever: most pieces of an offer that could ever make sense. most: parcels. patience: how long may be looked."""
        import highspy

        self._patience, self._took = patience, 0.0
        self.terms = {name: shop.suppliers[name] for name in dict.fromkeys(o.supplier for o in shop.useful)}
        self.parts = parts_of(shop, ever)
        self._batches = batches(self.parts)
        self._seen: set[tuple] = set()
        self._highs, self._endless = highspy.Highs(), highspy.kHighsInf
        self._highs.silent()
        self._sorts = [self._row(float(len(members)), self._endless) for members in shop.alike.values()]
        self._one = [self._row(-self._endless, 1.0) for _ in self.parts]
        self._goods = {(what, name): self._row(0.0, self._endless) for what in ("free", "least") for name in self.terms}
        self._from = {
            (i, name): self._row(-self._endless, 0.0) for i, part in enumerate(self.parts) for name in part.offers
        }
        self._parcels(most)
        self._without(shop)

    def _row(self, low: float, high: float) -> int:
        self._highs.addRow(low, high, 0, [], [])
        return int(self._highs.getNumRow()) - 1

    def _column(self, cost: float, most: float, rows: Mapping[int, float]) -> int:
        self._highs.addCol(cost, 0.0, most, len(rows), list(rows), list(rows.values()))
        return int(self._highs.getNumCol()) - 1

    def _parcels(self, most: int | None) -> None:
        """A column for each parcel and for its free postage, and what they allow."""
        count = self._row(-self._endless, float(len(self.terms) if most is None else most))
        self._said: dict[Said, tuple[int, float]] = {}
        for name, terms in self.terms.items():
            if_sent = self._row(-self._endless, 0.0)
            allows = {row: -1.0 for (_, other), row in self._from.items() if other == name}
            sent = {self._goods["least", name]: -terms.minimum, if_sent: -1.0, count: 1.0, **allows}
            self._said[SENT, name] = self._column(terms.postage, 1.0, sent), 1.0
            can = float(terms.free_above is not None and terms.postage > 0)
            free = {self._goods["free", name]: -(terms.free_above or 0.0), if_sent: 1.0}
            self._said[FREE, name] = self._column(-terms.postage * can, can, free), can

    def _without(self, shop: Shop) -> None:
        """A place may go without, and goods be short of a sum, for more than anything costs: so there is always an answer."""
        price = max((price for offer in shop.useful for _, price in offer.breaks), default=0.0)
        worse = max((sort.worse for part in self.parts for sort in part.sorts), default=0.0)
        terms = sum(t.postage + t.minimum + t.handling for t in self.terms.values())
        for row, (_, quantity) in zip(self._sorts, shop.alike, strict=True):
            self._column(10.0 * (price * quantity + worse + terms + 1.0), self._endless, {row: 1.0})
        for row in self._goods.values():
            self._column(10.0, self._endless, {row: 1.0})

    def bound(self, said: Mapping[Said, int], below: float) -> Bound:
        """What no plan with these parcels can cost less than.

        Args:
            said: parcels that are sent or not, free or not.
            below: a bound that reaches this is enough.

        Returns:
            €, and the columns it rests on.
        """
        import highspy

        for one, (column, most) in self._said.items():
            value = said.get(one)
            if value is not None and value > most:
                return Bound(float("inf"), {})
            self._highs.changeColBounds(column, *((0.0, most) if value is None else (float(value), float(value))))
        barred = {name for (what, name), value in said.items() if what == SENT and not value}
        handling = {name: terms.handling for name, terms in self.terms.items()}
        least = -float("inf")
        while True:
            self._run()
            if self._highs.getModelStatus() != highspy.HighsModelStatus.kOptimal:
                return Bound(float("inf") if least == -float("inf") and self._impossible() else least, {})
            cost, solution = self._highs.getInfo().objective_function_value, self._highs.getSolution()
            prices = self._prices(list(solution.row_dual))
            found = [way for batch in self._batches for way in batch.ways(prices, handling, barred)]
            least = max(least, cost - sum(way.saves for way in found))
            new = [self._take(way) for way in found]
            if not any(new) or least >= below or cost - least < NEAR * max(1.0, cost) or self._patience.left <= 0:
                shares = solution.col_value
                return Bound(least, {one: shares[column] for one, (column, _) in self._said.items()})

    def _run(self) -> None:
        self._highs.run()
        took = self._highs.getRunTime()
        # finding the ways takes about as long as the relaxation itself
        self._patience.spend(2 * (took - self._took))
        self._took = took

    def _impossible(self) -> bool:
        import highspy

        return self._highs.getModelStatus() == highspy.HighsModelStatus.kInfeasible

    def _prices(self, duals: list[float]) -> Prices:
        return Prices(
            [duals[row] for row in self._sorts],
            {name: duals[self._goods["free", name]] + duals[self._goods["least", name]] for name in self.terms},
            {one: -duals[row] for one, row in self._from.items()},
            [duals[row] for row in self._one],
        )

    def _take(self, way: AllocationPattern) -> bool:
        """Take a way into the relaxation; whether it is new."""
        key = way.part, tuple(sorted(way.filled.items())), tuple((id(x.offer), x.quantity) for x in way.lines)
        if key in self._seen:
            return False
        self._seen.add(key)
        worse = {sort.number: sort.worse for sort in self.parts[way.part].sorts}
        rows = {self._sorts[k]: float(n) for k, n in way.filled.items()} | {self._one[way.part]: 1.0}
        goods: dict[str, float] = defaultdict(float)
        for line in way.lines:
            goods[line.offer.supplier] += line.goods
        for name, sum_ in goods.items():
            rows |= {self._goods["free", name]: sum_, self._goods["least", name]: sum_, self._from[way.part, name]: 1.0}
        cost = sum(n * worse[k] for k, n in way.filled.items())
        cost += sum(line.goods + self.terms[line.offer.supplier].handling for line in way.lines)
        self._column(cost, self._endless, rows)
        return True
