"""Who answers for the work, and what a unit's work cost: for the sheets."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from idlebench.core.wording import many

from ..records.models import CatalogueItem, Workshop
from ..unit.state import UnitState
from ..unit.stock import devices
from ..unit.times import own_times


def workshop() -> Workshop:
    """The workshop as it was typed; empty where nobody did."""
    return Workshop.objects.first() or Workshop()


@dataclass(frozen=True, kw_only=True)
class Cost:
    """What a unit's work cost, €: parts that are in by their prices on the Shelf, and bench time by the job's rate.

    unpriced: parts in it that have no price. hours: of bench time, by the shop's own minutes a place.
    """

    parts: float
    unpriced: int
    hours: float
    rate: float

    @property
    def words(self) -> str:
        """As an owner reads it."""
        left = f" ({many(self.unpriced, 'part')} without a price not in the total)" if self.unpriced else ""
        work = self.hours * self.rate
        return (
            f"Parts €{self.parts:.2f}{left}. Bench time {self.hours:.1f} h at €{self.rate:.2f}/h: €{work:.2f}. "
            f"Total €{self.parts + work:.2f}."
        )


def cost_of(state: UnitState) -> Cost:
    """What a unit's work cost so far."""
    times = own_times()
    usual = times.swap["radial"]
    items = Counter(p.swap.item for p in state.parts if p.swap and not p.is_out)
    fitted = Counter(d.swap.item for board in state.boards for d in board.devices if d.swap)
    prices = dict(CatalogueItem.objects.filter(part__in=items).values_list("part", "price"))
    prices |= {d.part: d.price for d in (devices() if fitted else ())}
    minutes = sum(times.swap.get(p.swap.mounting, usual) for p in state.parts if p.swap and not p.is_out)
    minutes += usual * sum(fitted.values())
    minutes += times.look * sum(p.verdict.name != "not seen" for p in state.parts)
    minutes += times.check * len({r.key for r in state.readings}) + times.damage * sum(
        len(b.work.mends) for b in state.boards
    )
    together = items + fitted
    return Cost(
        parts=sum(count * prices.get(item, 0.0) for item, count in together.items()),
        unpriced=sum(count for item, count in together.items() if not prices.get(item)),
        hours=minutes / 60,
        rate=state.job.hour_rate,
    )
