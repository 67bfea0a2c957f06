"""Plans as they are kept in a row: each with its reader and writer, so that what is kept has one shape and one place that knows it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any, Self


@dataclass(frozen=True, kw_only=True)
class ParcelLine:
    """A line of a parcel. price: € a piece. cost: € of the line. None where nobody says the price."""

    part: str
    quantity: int
    price: float | None
    cost: float | None


@dataclass(frozen=True, kw_only=True)
class Parcel:
    """What one supplier sends. goods, postage: €. lead_days: until it is here."""

    supplier: str
    lines: tuple[ParcelLine, ...]
    goods: float
    postage: float
    lead_days: float


@dataclass(frozen=True, kw_only=True)
class PlannedPlace:
    """The part that a place gets. job: its number, or the word for spares. source: a supplier, or "shelf"."""

    job: str
    ref: str
    part: str
    source: str
    quantity: int


@dataclass(frozen=True, kw_only=True)
class AimPlan:
    """The plan by one aim: money in €, `days` until all is here, `gap` the share by which another could be cheaper.

    part_by_part: what it would cost bought part by part, None where that cannot be.
    unpriced: places that get a part without a price; no sum counts those.
    """

    total: float
    goods: float
    postage: float
    handling: float
    penalties: float
    proved: bool
    gap: float | None
    part_by_part: float | None
    orders: tuple[Parcel, ...]
    places: tuple[PlannedPlace, ...]
    days: float
    unpriced: tuple[str, ...] = ()

    @classmethod
    def of(cls, told: Mapping[str, Any]) -> Self:
        """From the plan as the core tells it: places say where a part comes from under `from`."""
        return cls(
            **{f.name: told[f.name] for f in fields(cls) if f.name not in ("orders", "places", "unpriced")},
            unpriced=tuple(told.get("unpriced", ())),
            orders=tuple(
                Parcel(**{**one, "lines": tuple(ParcelLine(**line) for line in one["lines"])}) for one in told["orders"]
            ),
            places=tuple(
                PlannedPlace(source=one["from"], **{name: value for name, value in one.items() if name != "from"})
                for one in told["places"]
            ),
        )

    def told(self) -> dict[str, Any]:
        """As it is kept."""
        places = [{"from" if name == "source" else name: v for name, v in asdict(p).items()} for p in self.places]
        return {**asdict(self), "places": places}

    @property
    def saved(self) -> float | None:
        """€ less than bought part by part, None where that cannot be."""
        return self.part_by_part - self.total if self.part_by_part else None

    def parcel(self, supplier: str) -> Parcel | None:
        """What one supplier sends."""
        return next((order for order in self.orders if order.supplier == supplier), None)

    def next_parcel(self, ordered: tuple[str, ...]) -> Parcel | None:
        """The first parcel that is not ordered yet."""
        return next((order for order in self.orders if order.supplier not in ordered), None)


@dataclass(frozen=True, kw_only=True)
class PlaceBehind:
    """The place behind a name in a plan: rows of its job, unit, board and part (None where it is no capacitor), the part settled."""

    job: int
    unit: int
    board: int
    ref: str
    item: str
    part: int | None = None
    name: str = ""


@dataclass(frozen=True, kw_only=True)
class KeptBuying:
    """A buying plan as it is kept.

    Attributes:
        aims: the plan by each aim. where: the place behind each name. missing: places whose part nobody offers.
        ordered: suppliers whose parcel is ordered. chosen: the aim whose parcels are ordered, "" before the first.
        spares: whether a tenth more of cheap parts is bought. parts: all that the plan thought of.
    """

    aims: Mapping[str, AimPlan]
    where: Mapping[str, PlaceBehind]
    missing: tuple[PlaceBehind, ...]
    ordered: tuple[str, ...] = ()
    chosen: str = ""
    spares: bool = False
    parts: tuple[str, ...] = ()

    @classmethod
    def read(cls, kept: Mapping[str, Any]) -> Self:
        """What a row holds."""
        return cls(
            aims={aim: AimPlan.of(told) for aim, told in kept["aims"].items()},
            where={name: PlaceBehind(**place) for name, place in kept["where"].items()},
            missing=tuple(PlaceBehind(**place) for place in kept["missing"]),
            ordered=tuple(kept["ordered"]),
            chosen=kept.get("chosen", ""),
            spares=kept.get("spares", False),
            parts=tuple(kept.get("parts", ())),
        )

    def written(self) -> dict[str, Any]:
        """As a row holds it."""
        return {
            "aims": {aim: plan.told() for aim, plan in self.aims.items()},
            "where": {name: asdict(place) for name, place in self.where.items()},
            "missing": [asdict(place) for place in self.missing],
            "ordered": list(self.ordered),
            "chosen": self.chosen,
            "spares": self.spares,
            "parts": list(self.parts),
        }


@dataclass(frozen=True, kw_only=True)
class KeptTask:
    """A task of a kept calendar. task: its name in the plan. pk: its unit's row. hands, wait, start, end: minutes. now: can be begun.

    pieces: its stretches of work, from and to, where it goes on in several. by_day: its wait is over on a day, not at a minute.
    """

    task: str
    unit: str
    pk: int
    title: str
    hands: int
    wait: int
    start: int
    end: int
    now: bool
    pieces: tuple[tuple[int, int], ...] = ()
    by_day: bool = False

    @property
    def goes(self) -> tuple[tuple[int, int], ...]:
        """Its stretches of work, from and to."""
        return self.pieces or ((self.start, self.end),)


@dataclass(frozen=True, kw_only=True)
class TaskMoved:
    """A task that begins at another time than the plan before said. was, now: minutes of this plan."""

    unit: str
    title: str
    was: int
    now: int


@dataclass(frozen=True, kw_only=True)
class FirstCost:
    """When a unit is done in a plan in which some are first, and when it would be in any order; minutes. first: it is one of them."""

    unit: str
    first: bool
    done: int
    otherwise: int


@dataclass(frozen=True, kw_only=True)
class KeptCalendar:
    """A calendar as it is kept. finish, bound: minutes of the plan. minutes: hands a day. proved: no plan is earlier.

    first: what it costs that some units are first, for those it moves; finish_else: when all would be done in any order. shop: hours
    and priorities that it was made for; empty of a plan of before these were kept.
    """

    finish: int
    bound: int
    proved: bool
    minutes: int
    tasks: tuple[KeptTask, ...]
    moved: tuple[TaskMoved, ...] = ()
    first: tuple[FirstCost, ...] = ()
    finish_else: int = 0
    shop: Mapping[str, Any] = field(default_factory=dict)

    @classmethod
    def read(cls, kept: Mapping[str, Any]) -> Self:
        """What a row holds."""
        return cls(
            **{name: kept[name] for name in ("finish", "bound", "proved", "minutes")},
            tasks=tuple(
                KeptTask(**{**task, "pieces": tuple(map(tuple, task.get("pieces", ())))}) for task in kept["tasks"]
            ),
            moved=tuple(TaskMoved(**task) for task in kept.get("moved", ())),
            first=tuple(FirstCost(**one) for one in kept.get("first", ())),
            finish_else=kept.get("finish_else", 0),
            shop=kept.get("shop", {}),
        )

    def written(self) -> dict[str, Any]:
        """As a row holds it."""
        return asdict(self)
