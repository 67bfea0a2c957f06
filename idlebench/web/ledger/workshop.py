"""The workshop's own page, and what a unit's work cost."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from django.db import transaction

from idlebench.core.refusal import BadInput, no_longer_than
from idlebench.core.wording import many

from ..photos.pictures import take_picture
from ..records.models import CatalogueItem, Workshop
from ..unit.state import UnitState
from ..unit.stock import devices
from ..unit.times import own_times

#: What is typed on the page: field → what it is called, and letters at most.
FIELDS = {
    "name": ("Name of the workshop", 80), "lines": ("Address", 300), "contact": ("Telephone or mail", 120),
    "worker": ("Who does the work", 80), "answered": ("How long it is answered for", 160),
}  # fmt: skip


def workshop() -> Workshop:
    """The workshop as it was typed; empty where nobody did."""
    return Workshop.objects.first() or Workshop()


@transaction.atomic
def keep(typed: Mapping[str, str], logo: bytes | None, logo_name: str = "") -> Workshop:
    """Keep what was typed.

    Args:
        typed: FIELDS, "costs" where the cost is said, "no_logo" to take the logo away.
        logo: a picture's file, None for the one that is kept.
        logo_name: what the file is called.

    Raises:
        BadInput: a field is too long, or the file is no picture.
    """
    row = workshop()
    for field, (_, most) in FIELDS.items():
        text = "\n".join(line.strip() for line in typed.get(field, "").strip().splitlines() if line.strip())
        setattr(row, field, no_longer_than(text, most, field))
    row.costs = "costs" in typed
    if "no_logo" in typed:
        row.logo = b""
    if logo is not None:
        try:
            row.logo = take_picture(logo, logo_name).small
        except BadInput as error:
            raise error.within("logo") from None
    row.save()
    return row


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
        left = f" ({many(self.unpriced, 'part')} without a price not counted)" if self.unpriced else ""
        work = self.hours * self.rate
        return (
            f"Parts €{self.parts:.2f}{left}, {self.hours:.1f} h at €{self.rate:.2f}: €{work:.2f}. "
            f"Together €{self.parts + work:.2f}."
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
