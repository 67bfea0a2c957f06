"""The shop's figures: failures, minutes, money and policies, each as a table that a spreadsheet opens too."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from django.utils import timezone

from idlebench.core.faults.figures import BY, Counted, Paid, Rate, UnitDone, failures, paid
from idlebench.core.judge.learned import Learned
from idlebench.core.judge.triage import minutes_of
from idlebench.core.text.csvtable import disarmed
from idlebench.core.text.dates import year_of

from ..records.models import CatalogueItem, DeviceSwap, Part, Reading, Swap, Unit
from ..unit.policies import all_policies
from ..unit.times import learned_times, own_times

#: Parts, and units, that are looked at: the latest.
PARTS, UNITS = 4000, 400
#: Money of a part without a price.
UNPRICED = 0.25


@dataclass(frozen=True)
class Figures:
    """Failures by what they are counted by, minutes by kind of place, what went into each unit, what each policy came to."""

    failures: dict[str, tuple[Rate, ...]]
    minutes: list[tuple[str, Learned]]
    units: list[UnitDone]
    paid: tuple[Paid, ...]
    parts: int


def figures() -> Figures:
    """All of them, over every job that lies on the bench. Practice machines are none of them."""
    year = timezone.localdate().year
    rows = list(Part.objects.select_related("board__unit__job").order_by("-pk")[:PARTS])
    parts = [
        Counted.of(row.to_core(), year_of(row.date, row.board.unit.job.made) or row.board.unit.job.made, year)
        for row in rows
    ]
    units = _units({row.pk for row, one in zip(rows, parts, strict=True) if one.failed})
    titles = {name: policy.title for name, policy in all_policies().items()}
    return Figures(failures(parts, year), sorted(learned_times().items()), units, paid(units, titles), len(parts))


def _units(bad: Collection[int]) -> list[UnitDone]:
    """What went into each unit so far: what is in by its price, hands by the shop's own minutes a place. bad: parts that failed."""
    minutes = minutes_of(own_times())
    swaps = list(Swap.objects.values_list("part__board__unit_id", "item", "part__mounting", "part_id"))
    devices = Counter(DeviceSwap.objects.values_list("board__unit_id", flat=True))
    prices = dict(CatalogueItem.objects.filter(part__in={item for _, item, _, _ in swaps}).values_list("part", "price"))
    failed = Counter(
        Reading.objects.filter(passed=False, overridden=False).exclude(step="cold").values_list("unit_id", flat=True)
    )
    found = []
    for unit in Unit.objects.select_related("job").order_by("-pk")[:UNITS]:
        mine = [swap for swap in swaps if swap[0] == unit.pk]
        if not mine and not devices[unit.pk]:
            continue
        hands = sum(minutes.get(mounting, minutes.get("radial", 5.0)) for _, _, mounting, _ in mine)
        hands += devices[unit.pk] * minutes.get("radial", 5.0)
        found.append(
            UnitDone(
                f"job {unit.job_id}, unit {unit.name}", unit.job.policy, len(mine), sum(part in bad for *_, part in mine),
                sum(prices.get(item) or UNPRICED for _, item, _, _ in mine), hands, unit.job.hour_rate, unit.worth,
                failed[unit.pk], unit.handed_over is not None,
            )
        )  # fmt: skip
    return found


#: The tables as files: what each is called.
FILES = {
    **{f"failures-by-{name}": title for name, title in BY.items()},
    "minutes": "Minutes",
    "units": "Units",
    "policies": "Policies",
}


def as_csv(name: str) -> str:
    """One of the tables, as a spreadsheet reads it. Shares are fractions, money and minutes plain numbers.

    Raises:
        KeyError: none of FILES.
    """
    told = figures()
    head, rows = _table(name, told)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    writer.writerows([[disarmed(cell) if isinstance(cell, str) else cell for cell in row] for row in rows])
    return out.getvalue()


def _table(name: str, told: Figures) -> tuple[Sequence[str], list[Sequence[object]]]:
    if name.removeprefix("failures-by-") in BY:
        by = name.removeprefix("failures-by-")
        rows = [
            (r.name, r.failed, r.of, round(r.share, 4), round(r.low, 4), round(r.high, 4), r.verdict)
            for r in told.failures[by]
        ]
        return (by, "failed", "parts", "share", "low", "high", "verdict"), rows
    if name == "minutes":
        return ("place", "minutes", "places"), [(kind, round(one.minutes, 2), one.of) for kind, one in told.minutes]
    if name == "units":
        head = (
            "unit",
            "policy",
            "changed",
            "bad",
            "parts_money",
            "minutes",
            "money",
            "worth",
            "failed_readings",
            "handed_over",
        )
        return head, [
            (
                u.name,
                u.policy,
                u.changed,
                u.bad,
                round(u.parts, 2),
                round(u.minutes, 1),
                round(u.cost, 2),
                u.worth,
                u.failed,
                "yes" if u.closed else "no",
            )
            for u in told.units
        ]
    if name == "policies":
        head = ("policy", "units", "changed", "bad", "money_a_unit", "failed_readings_a_unit")
        return head, [
            (p.policy, p.units, p.changed, p.bad.failed if p.bad else 0, round(p.cost, 2), round(p.failed, 2))
            for p in told.paid
        ]
    raise KeyError(name)
