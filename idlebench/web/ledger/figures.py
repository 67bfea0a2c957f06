"""The shop's figures: failures, minutes, money and policies, each as a table that a spreadsheet opens too."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from django.db import OperationalError, transaction
from django.db.models import Count, Exists, Max, OuterRef, Sum
from django.utils import timezone

from idlebench.core.faults.fifths import Fifth, in_fifths
from idlebench.core.faults.figures import BY, Counted, Paid, Rate, UnitDone, counts, paid, rates_of
from idlebench.core.faults.trial_record import TRIALS
from idlebench.core.judge.learned import Learned
from idlebench.core.judge.triage import minutes_of
from idlebench.core.text.csvtable import disarmed
from idlebench.core.text.dates import year_of

from ..records.models import CatalogueItem, Cause, DeviceSwap, FailureCount, Part, Reading, Swap, Unit, UnitCounts
from ..unit.policies import all_policies
from ..unit.series import rules
from ..unit.times import learned_times, own_times, swaps_stamp

#: Units whose money is listed: the latest.
UNITS = 400
#: Money of a part without a price.
UNPRICED = 0.25


@dataclass(frozen=True, kw_only=True)
class Figures:
    """Failures by what they are counted by, minutes by kind of place, what went into each unit, what each policy came to, and how often
    suspects that were settled were right."""

    failures: dict[str, tuple[Rate, ...]]
    minutes: list[tuple[str, Learned]]
    units: list[UnitDone]
    paid: tuple[Paid, ...]
    parts: int
    suspects: tuple[Fifth, ...]


def figures() -> Figures:
    """All of them, over every job that lies on the bench. Practice machines are none of them."""
    count_anew()
    swaps = swaps_stamp()
    learned = learned_times(swaps)
    stamp, minutes = _stamp(swaps), minutes_of(own_times(learned))
    units = _units(stamp, tuple(minutes.items()))
    titles = {name: policy.title for name, policy in all_policies().items()}
    parts = UnitCounts.objects.aggregate(n=Sum("parts"))["n"] or 0
    places = sorted(learned.items())
    return Figures(
        failures=_failures(stamp),
        minutes=places,
        units=units[:UNITS],
        paid=paid(units, titles),
        parts=parts,
        suspects=settled_suspects(),
    )


def settled_suspects() -> tuple[Fifth, ...]:
    """Of the suspects that were settled on real machines how many were right, by the share each was said to."""
    settled = Cause.objects.filter(simulated=False).exclude(outcome=Cause.OPEN).order_by()
    return in_fifths((share, outcome == Cause.CONFIRMED) for share, outcome in settled.values_list("share", "outcome"))


def count_anew() -> None:
    """Count the units that changed since they were counted; what the others count to is kept."""
    stamp = f"{rules()} {timezone.localdate().year}"
    kept = UnitCounts.objects.filter(unit=OuterRef("pk"), turn=OuterRef("turn"), stamp=stamp)
    changed = dict(Unit.objects.filter(~Exists(kept)).order_by().values_list("pk", "turn"))
    gone = list(UnitCounts.objects.exclude(unit__in=Unit.objects.values("pk")).values_list("unit", flat=True))
    if not changed and not gone:
        return
    rows, failed = [], []
    for unit, (parts, counted, data) in _counted(changed).items():
        rows.append(UnitCounts(unit=unit, turn=changed[unit], stamp=stamp, parts=parts, data=data))
        failed += [
            FailureCount(unit=unit, by=by, name=name[:80], failed=bad, of=of)
            for by, found in counted.items()
            for name, (bad, of) in found.items()
        ]
    try:
        with transaction.atomic():
            FailureCount.objects.filter(unit__in=[*changed, *gone]).delete()
            UnitCounts.objects.filter(unit__in=gone).delete()
            FailureCount.objects.bulk_create(failed)
            UnitCounts.objects.bulk_create(
                rows, update_conflicts=True, unique_fields=["unit"], update_fields=["turn", "stamp", "parts", "data"]
            )
    except OperationalError:
        # a bench that cannot be written just now tells what was counted before
        return


@dataclass
class _Of:
    """What is counted of a unit: its parts, and what went into it."""

    parts: list[Counted] = field(default_factory=list)
    items: Counter[str] = field(default_factory=Counter)
    places: Counter[str] = field(default_factory=Counter)
    bad: int = 0


def _counted(units: Collection[int]) -> dict[int, tuple[int, dict[str, dict[str, tuple[int, int]]], dict[str, object]]]:
    """Of each unit how many parts it has, its failures by each of BY, and what went into it."""
    year, found = timezone.localdate().year, {unit: _Of() for unit in units}
    bad: set[int] = set()
    for row in Part.objects.filter(board__unit__in=units).select_related("board__unit__job").order_by():
        machine = row.board.unit
        one = Counted.of(row.to_core(), year_of(row.date, machine.job.made) or machine.job.made, year)
        found[machine.pk].parts.append(one)
        bad |= {row.pk} if one.failed else set()
    swaps = Swap.objects.filter(part__board__unit__in=units)
    for unit, item, mounting, part in swaps.values_list("part__board__unit_id", "item", "part__mounting", "part_id"):
        found[unit].items[item] += 1
        found[unit].places[mounting] += 1
        found[unit].bad += part in bad
    devices = Counter(DeviceSwap.objects.filter(board__unit__in=units).values_list("board__unit_id", flat=True))
    readings = Reading.objects.filter(unit__in=units, passed=False, overridden=False).exclude(step="cold")
    failed = Counter(readings.values_list("unit_id", flat=True))
    return {
        unit: (
            len(of.parts),
            counts(of.parts, year),
            {"items": of.items, "places": of.places, "bad": of.bad, "devices": devices[unit], "failed": failed[unit]},
        )
        for unit, of in found.items()
    }


def _stamp(swaps: tuple[object, ...]) -> tuple[object, ...]:
    """All that the money of the units rests on: their turns, their jobs' facts, which are counted with them, and the Shelf."""
    units = Unit.objects.aggregate(n=Count("pk"), last=Max("pk"), turns=Sum("turn"))
    shelf = CatalogueItem.objects.aggregate(n=Count("pk"), last=Max("changed"))
    return (rules(), timezone.localdate().year, *units.values(), *shelf.values(), *swaps)


@lru_cache(maxsize=2)
def _failures(stamp: tuple[object, ...]) -> dict[str, tuple[Rate, ...]]:
    """Failures by each of BY, of all units together. stamp: of what they rest on."""
    told = FailureCount.objects.values_list("by", "name").annotate(Sum("failed"), Sum("of"))
    counted: dict[str, dict[str, tuple[int, int]]] = {name: {} for name in BY}
    for by, name, failed, of in told.order_by():
        counted[by][name] = (failed, of)
    return {name: rates_of(found) for name, found in counted.items()}


@lru_cache(maxsize=2)
def _units(stamp: tuple[object, ...], times: tuple[tuple[str, float], ...]) -> list[UnitDone]:
    """What went into each unit so far, the latest first: what is in by its price, hands by the shop's own minutes a place.

    Args:
        stamp: of what it rests on. times: minutes by kind of place.
    """
    minutes = dict(times)
    usual = minutes.get("radial", 5.0)
    told = dict(UnitCounts.objects.values_list("unit", "data"))
    items = {item for data in told.values() for item in data["items"]}
    prices = dict(CatalogueItem.objects.filter(part__in=items).values_list("part", "price"))
    found = []
    rows = Unit.objects.order_by("-pk").values_list(
        "pk", "name", "job_id", "job__policy", "job__hour_rate", "worth", "handed_over"
    )
    for pk, name, job, policy, rate, worth, handed_over in rows:
        data = told.get(pk)
        if data is None or not (data["items"] or data["devices"]):
            continue
        hands = sum(count * minutes.get(mounting, usual) for mounting, count in data["places"].items())
        found.append(
            UnitDone(
                name=f"job {job}, unit {name}", policy=policy, changed=sum(data["items"].values()), bad=data["bad"],
                parts=sum(count * (prices.get(item) or UNPRICED) for item, count in data["items"].items()),
                minutes=hands + data["devices"] * usual, rate=rate, worth=worth, failed=data["failed"], closed=handed_over is not None,
            )
        )  # fmt: skip
    return found


#: The tables as files: what each is called.
FILES = {
    **{f"failures-by-{name}": title for name, title in BY.items()},
    "minutes": "Minutes",
    "units": "Units",
    "policies": "Policies",
    "suspects": "Suspects",
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
    if name == "suspects":
        head = ("share_from", "said_in_trials", "right_in_trials", "mean_in_trials", "settled_here", "right_here")
        return head, [
            (trial.low, trial.said, trial.right, trial.mean, own.said, own.right)
            for trial, own in zip(TRIALS, told.suspects, strict=True)
        ]
    raise KeyError(name)
