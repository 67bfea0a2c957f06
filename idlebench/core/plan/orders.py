"""What a buying plan is made from and made of: places, offers, suppliers, the shelf; orders, and what each place gets."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ..refusal import BadInput
from ..wording import listed

#: Where a place's part comes from when it lies here already.
SHELF = "shelf"
#: Spares by rule: this share more of a kind under CHEAP, none of a part over DEAR, € a piece.
SPARE, CHEAP, DEAR = 0.10, 0.50, 5.0


@dataclass(frozen=True)
class Wanted:
    """A place that wants a part.

    fits: the parts that go in, each with what it is worse by than the first, € a piece. quantity: pieces, all of one part.
    """

    job: str
    ref: str
    quantity: int
    fits: tuple[tuple[str, float], ...]

    @property
    def name(self) -> str:
        return f"{self.ref} of {self.job}" if self.job else self.ref


@dataclass(frozen=True, kw_only=True)
class Offer:
    """A part as a supplier sells it.

    pack: pieces that are sold together. breaks: (from how many pieces, € a piece), rising in pieces; none where no price is said.
    stock: pieces, None where nothing is said. lead_days: until it is here.
    """

    part: str
    supplier: str
    pack: int
    breaks: tuple[tuple[int, float], ...]
    stock: int | None = None
    lead_days: float = 0.0

    @property
    def priced(self) -> bool:
        """Whether its price is known."""
        return bool(self.breaks)

    def packed(self, pieces: int) -> int:
        """The least that can be bought to have so many, pieces."""
        least = self.breaks[0][0] if self.breaks else 1
        return -(-max(pieces, least) // self.pack) * self.pack

    def each(self, pieces: int) -> float:
        """Price a piece when so many are bought, €."""
        return max((least, price) for least, price in self.breaks if least <= pieces)[1]

    @property
    def most(self) -> float:
        """Pieces that can be bought at all, whole packs."""
        return float("inf") if self.stock is None else self.stock // self.pack * self.pack

    def worth_buying(self, pieces: int) -> Iterable[int]:
        """How many it may make sense to buy where so many are needed: just enough, or up to a later break."""
        enough = self.packed(pieces)
        steps = {enough} | {self.packed(least) for least, _ in self.breaks if least > enough}
        return sorted(n for n in steps if n <= self.most)


@dataclass(frozen=True, kw_only=True)
class Supplier:
    """A supplier's terms, €: postage a parcel, goods from which it is free, handling a line, least goods of an order."""

    name: str
    postage: float = 0.0
    free_above: float | None = None
    handling: float = 0.0
    minimum: float = 0.0

    def posts(self, goods: float) -> float:
        """Postage for a parcel of such goods, €."""
        return 0.0 if self.free_above is not None and goods >= self.free_above - 1e-9 else self.postage


@dataclass(frozen=True)
class PlanLine:
    """A line of an order: pieces, and € a piece; None where nobody says it, and then nothing of it is in the goods."""

    offer: Offer
    quantity: int

    @property
    def price(self) -> float | None:
        return self.offer.each(self.quantity) if self.offer.priced else None

    @property
    def goods(self) -> float:
        return self.quantity * (self.price or 0.0)


@dataclass(frozen=True)
class Order:
    """What is bought from one supplier."""

    supplier: Supplier
    lines: tuple[PlanLine, ...]

    @property
    def goods(self) -> float:
        return sum(line.goods for line in self.lines)

    @property
    def postage(self) -> float:
        return self.supplier.posts(self.goods)

    @property
    def handling(self) -> float:
        return self.supplier.handling * len(self.lines)

    @property
    def lead_days(self) -> float:
        return max(line.offer.lead_days for line in self.lines)


@dataclass(frozen=True)
class Filled:
    """A place and the part it gets: source is ``shelf`` or a supplier's name. A place may draw on two sources."""

    wanted: Wanted
    part: str
    source: str
    quantity: int


@dataclass(frozen=True, kw_only=True)
class Buy:
    """A buying plan.

    proved: no plan is better by its aim. gap: how much cheaper another could be at most, as a share; None where no bound is known.
    unpriced: places that get a part without a price; no total counts it.
    """

    orders: tuple[Order, ...]
    places: tuple[Filled, ...]
    penalties: float
    proved: bool = False
    gap: float | None = None
    unpriced: tuple[Wanted, ...] = ()

    @cached_property
    def goods(self) -> float:
        return sum(order.goods for order in self.orders)

    @cached_property
    def postage(self) -> float:
        return sum(order.postage for order in self.orders)

    @cached_property
    def handling(self) -> float:
        return sum(order.handling for order in self.orders)

    @cached_property
    def total(self) -> float:
        """Everything together, what second choices are worse by included, €."""
        return self.goods + self.postage + self.handling + self.penalties

    @property
    def to_pay(self) -> float:
        """What is paid, €."""
        return self.goods + self.postage

    @property
    def days(self) -> float:
        """Until the last parcel is here; 0 where nothing is bought."""
        return max((order.lead_days for order in self.orders), default=0.0)

    def as_json(self, part_by_part: Buy | None) -> dict[str, object]:
        """The answer of the command."""
        return {
            "total": _cents(self.total),
            "goods": _cents(self.goods),
            "postage": _cents(self.postage),
            "handling": _cents(self.handling),
            "penalties": _cents(self.penalties),
            "proved": self.proved,
            "gap": self.gap if self.gap is None else round(self.gap, 6),
            "part_by_part": _cents(part_by_part.total) if part_by_part else None,
            "unpriced": [wanted.ref for wanted in self.unpriced],
            "orders": [
                {
                    "supplier": order.supplier.name,
                    "lines": [
                        {
                            "part": x.offer.part, "quantity": x.quantity,
                            "price": None if x.price is None else round(x.price, 6),
                            "cost": None if x.price is None else _cents(x.goods),
                        }
                        for x in order.lines
                    ],
                    "goods": _cents(order.goods),
                    "postage": _cents(order.postage),
                    "lead_days": order.lead_days,
                }
                for order in self.orders
            ],
            "places": [
                {"job": f.wanted.job, "ref": f.wanted.ref, "part": f.part, "from": f.source, "quantity": f.quantity}
                for f in self.places
            ],
        }  # fmt: skip


def _cents(euros: float) -> float:
    return round(euros + 1e-9, 2)


@dataclass(frozen=True)
class Shop:
    """What a plan is made from. shelf: free pieces by part; those reserved for something else are not among them."""

    demand: tuple[Wanted, ...]
    offers: tuple[Offer, ...]
    suppliers: Mapping[str, Supplier]
    shelf: Mapping[str, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for offer in self.offers:
            if offer.supplier not in self.suppliers:
                raise BadInput(
                    offer.supplier, f"a supplier whose terms are known: {listed(sorted(self.suppliers)) or 'there is none'}",
                    f"{offer.part} is offered by it: say its postage, handling and least order.", field="supplier",
                )  # fmt: skip

    @cached_property
    def useful(self) -> tuple[Offer, ...]:
        """Offers of what some place takes, with their price: what nobody asked for is not bought, not even to reach free postage."""
        return tuple(o for o in self._taken if o.priced)

    @cached_property
    def unpriced(self) -> tuple[Offer, ...]:
        """Those without a price."""
        return tuple(o for o in self._taken if not o.priced)

    @cached_property
    def _taken(self) -> tuple[Offer, ...]:
        taken = {part for wanted in self.demand for part, _ in wanted.fits}
        return tuple(o for o in self.offers if o.part in taken and o.most > 0)

    def have(self, part: str) -> float:
        """Pieces of a part that there are at all: on the shelf and on offer with a price."""
        return self.shelf.get(part, 0) + sum(o.most for o in self.useful if o.part == part)

    @cached_property
    def alike(self) -> dict[tuple[tuple[tuple[str, float], ...], int], list[Wanted]]:
        """Places that take the same parts in the same number: they count as one with a number."""
        found: dict[tuple, list[Wanted]] = defaultdict(list)
        for wanted in self.demand:
            found[wanted.fits, wanted.quantity].append(wanted)
        return dict(found)

    @cached_property
    def asked(self) -> Counter[str]:
        """Most pieces of each part that all its places could take."""
        most: Counter[str] = Counter()
        for wanted in self.demand:
            for part, _ in wanted.fits:
                most[part] += wanted.quantity
        return most


def put_together(shop: Shop, lines: Sequence[PlanLine], taken: Mapping[Wanted, str], penalties: float) -> Buy:
    """Lines put into orders, places given their pieces: the shelf first, then the parcels."""
    orders: dict[str, list[PlanLine]] = defaultdict(list)
    pools: dict[str, list[list]] = {part: [[SHELF, pieces]] for part, pieces in shop.shelf.items()}
    for line in lines:
        orders[line.offer.supplier].append(line)
        pools.setdefault(line.offer.part, []).append([line.offer.supplier, line.quantity])
    places = []
    for wanted in shop.demand:
        part, needed = taken[wanted], wanted.quantity
        for pool in pools.get(part, []):
            if drawn := min(needed, pool[1]):
                pool[1] -= drawn
                needed -= drawn
                places.append(Filled(wanted, part, pool[0], drawn))
        assert not needed, f"{wanted.name} gets none"
    told = tuple(
        Order(shop.suppliers[name], tuple(sorted(found, key=lambda x: x.offer.part)))
        for name, found in sorted(orders.items())
    )
    return Buy(orders=told, places=tuple(places), penalties=penalties)


def with_spares(pieces: int, price: float | None) -> int:
    """So many of a kind with its spares: a tenth more of what is cheap, none of what is dear or has no price.

    >>> with_spares(20, 0.12), with_spares(3, 0.12), with_spares(20, 0.80), with_spares(20, None)
    (22, 4, 20, 20)
    """
    if price is None or price >= CHEAP:
        return pieces
    return pieces + max(1, round(pieces * SPARE))
