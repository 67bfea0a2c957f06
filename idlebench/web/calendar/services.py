"""The calendar: the tasks that open units have left, planned into the hours there are; kept, and held against the one before."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from idlebench.core.plan.day_times import read_time
from idlebench.core.plan.schedule import DAY, Hours, Planned, Schedule, Task, Work
from idlebench.core.plan.tasks import TITLES, Left, moved, tasks_of_all
from idlebench.core.prove.procedure_tasks import tasks_of
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read

from ..records.kept_plans import FirstCost, KeptCalendar, KeptTask, TaskMoved
from ..records.models import CalendarPlan, OrderLine, Part, ProcedureStep, ShopHours, Unit, UnitProcedure
from ..unit.summary import UnitSummary, summaries
from ..unit.times import own_times, pace, says
from ..unit.wanted import Place, places, waiting

#: Units planned at once, the oldest first, and how long may be looked, s.
UNITS, SECONDS = 40, 3.0
#: People with hours of their own, beside those who share the first.
MOST_OTHERS = 5
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
#: Days ahead for which free ones are counted.
AHEAD = 1100


def hours() -> ShopHours:
    """When the shop works."""
    return ShopHours.objects.first() or ShopHours()


def keep_hours(typed: Mapping[str, str], free: Iterable[str], others: Iterable[Mapping[str, object]] = ()) -> ShopHours:
    """Keep when the shop works.

    Args:
        typed: begins, hours and hands.
        free: weekdays without work.
        others: the same of further people, each with begins, hours and free; one without begins and hours is nobody.

    Raises:
        BadInput: no hours, more than a day has, or no day that is not free.
    """
    start, minutes, days = _hours(typed, free)
    hands = int(read(typed.get("hands", "1"), "", field="hands", low=1, high=20))
    more = []
    named = [one for one in others if str(one.get("begins", "")).strip() or str(one.get("hours", "")).strip()]
    for n, one in enumerate(named, 2):
        try:
            begins, long, at_home = _hours(one, one.get("free", ()))
        except BadInput as error:
            raise error.within(f"person {n}, {error.field}") from None
        more.append({"begins": begins, "minutes": long, "free": at_home})
    row = hours()
    row.minutes, row.begins, row.free, row.hands, row.others = minutes, start, days, hands, more
    row.save()
    return row


def _hours(typed: Mapping[str, object], free: Iterable[str]) -> tuple[int, int, list[int]]:
    """One person's hours: minute of the day at which they begin, minutes, and free weekdays by number. They may go past midnight."""
    minutes = round(60 * read(str(typed.get("hours", "")), "", field="hours", low=0.25, high=24))
    start = read_time(str(typed.get("begins", "")))
    days = sorted({WEEKDAYS.index(day) for day in free if day in WEEKDAYS})
    if len(days) == len(WEEKDAYS):
        raise BadInput("every day", "at least one day a week that is not free", field="free")
    return start, minutes, days


#: How much it matters that a unit is done early.
WEIGHTS = {"first": 5.0, "in any order": 1.0, "later": 0.2}


def weigh(unit: int, word: str) -> None:
    """Say how much it matters that a unit is done early.

    Raises:
        BadInput: none of WEIGHTS. Unit.DoesNotExist: there is no such open unit.
    """
    if word not in WEIGHTS:
        raise BadInput(word, f"one of {', '.join(WEIGHTS)}", field="weight")
    with transaction.atomic():
        Unit.objects.get(pk=unit, handed_over=None)
        row = hours()
        open_ = {str(pk) for pk in Unit.objects.filter(handed_over=None).values_list("pk", flat=True)}
        kept = {key: weight for key, weight in row.weights.items() if key in open_}
        row.weights = {**kept, str(unit): WEIGHTS[word]}
        row.save()


def weighed() -> list[tuple[int, str, str]]:
    """Open units with how much each matters: key, name, word."""
    weights = hours().weights
    words = {weight: word for word, weight in WEIGHTS.items()}
    units = Unit.objects.filter(handed_over=None).exclude(decision="donor").order_by("job_id", "id")[:UNITS]
    return [(u.pk, f"job {u.job_id}, unit {u.name}", words.get(weights.get(str(u.pk)), "in any order")) for u in units]


def next_looks() -> list[Unit]:
    """Units that were handed over, by the day they are to be looked at again; the soonest first."""
    return list(Unit.objects.exclude(next_look=None).select_related("job").order_by("next_look", "id"))


def make(tell: Callable[[str, int, int], object] = lambda *step: None, now: datetime | None = None) -> CalendarPlan:
    """Plan all that open units have left, and keep it with what moved since the plan before."""
    # half a second to load: not for whoever only looks at a page
    from idlebench.core.plan.scheduling import schedule

    tell("collecting what is left to do", 0, 3)
    now = timezone.localtime(now)
    shop = hours()
    zero, elapsed = _zero(now, shop)
    open_ = Unit.objects.filter(handed_over=None).exclude(decision="donor")
    units = list(open_.select_related("job").order_by("job_id", "id")[:UNITS])
    procedures, named = _procedures(units, zero)
    left = _left(units, zero, procedures)
    times = own_times()
    tasks = tasks_of_all(left, times)
    tasks = [Task(**{**vars(task), "not_before": max(task.not_before, elapsed if task.hands else 0)}) for task in tasks]
    tell("looking for the earliest finish", 1, 3)
    weights = {f"{u.job_id}/{u.name}": shop.weights[str(u.pk)] for u in units if str(u.pk) in shop.weights}
    first = frozenset(name for name, weight in weights.items() if weight == WEIGHTS["first"])
    own = [
        _hours_of(one, zero)
        for one in ({"begins": shop.begins, "minutes": shop.minutes, "free": shop.free}, *shop.others)
    ]
    work = Work(
        tuple(tasks), shop.hands, own[0], weights, tuple(own[1:]), first if len(first) < len(left) else frozenset()
    )
    plan = schedule(work, SECONDS)
    tell("saving the plan", 2, 3)
    names = {"": "all jobs"} | {f"{u.job_id}/{u.name}": f"job {u.job_id}, unit {u.name}" for u in units}
    keys = {"": 0} | {f"{u.job_id}/{u.name}": u.pk for u in units}
    tasks_ = tuple(
        KeptTask(
            task=p.task.name, unit=names[p.task.unit], pk=keys[p.task.unit],
            title=named.get(p.task.name) or TITLES[p.task.name.removeprefix(f"{p.task.unit} ").strip()],
            hands=p.task.hands, wait=p.free_at - p.end, pieces=p.pieces, by_day=bool(p.task.days or not p.task.hands),
            start=p.start, end=p.end, now=not p.task.after and p.task.hands > 0 and p.task.not_before <= elapsed,
        )
        for p in plan.tasks
    )  # fmt: skip
    before = CalendarPlan.objects.order_by("-id").first()
    kept = KeptCalendar(
        finish=plan.finish,
        proved=plan.proved,
        bound=plan.bound,
        minutes=max(one.begins + one.minutes for one in work.people),
        tasks=tasks_,
        moved=_moved(before, zero, tasks_) if before else (),
        first=_cost(work, plan, names),
        finish_else=plan.in_any_order.finish if plan.in_any_order else 0,
        shop=shop.told,
    )
    tell("saving the plan", 3, 3)
    with transaction.atomic():
        CalendarPlan.objects.all().delete()
        return CalendarPlan.objects.create(at=now, begins=zero, found=kept.written())


def _zero(now: datetime, shop: ShopHours) -> tuple[datetime, int]:
    """Minute 0 of the plan: the beginning of the hours that run now, be it since yesterday, else of the next; and how much is gone.

    Where several people have hours of their own, those of whoever begins first in the day.
    """
    begins = min([shop.begins, *(one["begins"] for one in shop.others)])
    ends = max(
        one["begins"] + one["minutes"] for one in ({"begins": shop.begins, "minutes": shop.minutes}, *shop.others)
    )
    start = now.replace(hour=begins // 60, minute=begins % 60, second=0, microsecond=0)
    for day in (start - timedelta(days=1), start):
        gone = int((now - day).total_seconds() // 60)
        if gone < min(ends - begins, DAY):
            return day, max(0, gone)
    return start + timedelta(days=1), 0


def _hours_of(one: Mapping[str, Any], zero: datetime) -> Hours:
    """A person's hours as the plan counts them: from minute 0 on, free days by number."""
    into = one["begins"] - (zero.hour * 60 + zero.minute)
    free = frozenset(n for n in range(AHEAD) if (zero + timedelta(days=n)).weekday() in one["free"])
    return Hours(one["minutes"], free, into)


def _cost(work: Work, plan: Schedule, names: Mapping[str, str]) -> tuple[FirstCost, ...]:
    """What it costs that some units are first: when each of those and each that it moves is done, and when it would be."""
    if plan.in_any_order is None:
        return ()
    now, else_ = plan.finishes(), plan.in_any_order.finishes()
    told = [
        FirstCost(unit=names[unit], first=unit in work.first, done=now[unit], otherwise=else_[unit])
        for unit in now
        if unit and (unit in work.first or now[unit] != else_[unit])
    ]
    return tuple(sorted(told, key=lambda one: (not one.first, one.done)))


def _procedures(units: list[Unit], zero: datetime) -> tuple[dict[int, list[Task]], dict[str, str]]:
    """What is left of the procedures on some units: tasks by unit, and their titles by name."""
    found: dict[int, list[Task]] = {}
    named: dict[str, str] = {}
    rows = UnitProcedure.objects.filter(unit__in=units, ended=None).select_related("unit").prefetch_related("steps")
    for row in rows:
        steps = {step.number: step for step in row.steps.all()}
        settled = {n for n, step in steps.items() if step.state != ProcedureStep.FAILED}
        waits = {
            n: max(0, math.ceil((step.free_at - zero).total_seconds() / 60))
            for n, step in steps.items()
            if step.free_at is not None
        }
        unit = f"{row.unit.job_id}/{row.unit.name}"
        for task, title in tasks_of(row.to_core(), unit, f"q{row.pk}", settled, waits):
            found.setdefault(row.unit_id, []).append(task)
            named[task.name] = title
    return found, named


def _left(units: list[Unit], zero: datetime, procedures: Mapping[int, list[Task]]) -> list[Left]:
    """What is left of each unit; days are counted from minute 0 of the plan."""
    said = summaries(units)
    by_unit: dict[int, dict[str, list[Place]]] = {unit.pk: {"here": [], "later": [], "lacking": []} for unit in units}
    comes: dict[int, float] = {}
    lines = OrderLine.objects.filter(short=False, order__closed=False).select_related("order")
    due = {
        line.part: timezone.localtime(line.order.at + timedelta(days=line.order.lead_days))
        for line in lines
        if line.open
    }
    for line in waiting(places()):
        for name, members in (("here", line.got), ("later", line.later), ("lacking", line.without)):
            for place in members:
                if place.unit in by_unit:
                    by_unit[place.unit][name].append(place)
                    if name == "later" and line.part in due:
                        # a parcel comes on a day, not at a minute
                        days = max(0.0, float((due[line.part].date() - zero.date()).days))
                        comes[place.unit] = max(comes.get(place.unit, 0.0), days)
    own, said_so = pace(), says("check")
    rows = [p.pk for one in by_unit.values() for members in one.values() for p in members if p.pk]
    stands = dict(Part.objects.filter(pk__in=rows).values_list("pk", "mounting"))
    found = []
    for unit in units:
        one = said.get(unit.pk)
        mountings = {
            name: tuple(stands.get(p.pk, "radial") for p in members) for name, members in by_unit[unit.pk].items()
        }
        found.append(
            Left(
                key=f"{unit.job_id}/{unit.name}",
                surveyed=one.weighed.surveyed if one else False,
                looks=one.weighed.not_seen if one else 0,
                open=sum(not item for item in one.weighed.items) if one else 0,
                days=comes.get(unit.pk, 0.0),
                checks=one.weighed.checks if one else 0,
                check_minutes=own.minutes_of(one.weighed.answers) if one and not said_so else 0.0,
                power=not _done(one, "power"),
                procedures=tuple(procedures.get(unit.pk, ())),
                **mountings,
            )
        )
    return found


def _done(one: UnitSummary | None, key: str) -> bool:
    return bool(one) and any(stage.key == key and stage.done for stage in one.stages)


def _moved(before: CalendarPlan, zero: datetime, tasks: Iterable[KeptTask]) -> tuple[TaskMoved, ...]:
    """What begins at another time than the plan before said, by more than an evening."""
    shift = int((before.begins - zero).total_seconds() // 60)
    was = {task.task: task.start + shift for task in before.kept.tasks}
    told = {task.task: task for task in tasks}
    found = moved(was, {name: task.start for name, task in told.items()})
    return tuple(TaskMoved(unit=told[n].unit, title=told[n].title, was=a, now=b) for n, a, b in found)


def at(begins: datetime, minutes: int) -> datetime:
    """A minute of a plan as a time of the day, in local time whatever the season does."""
    local = timezone.localtime(begins)
    return timezone.make_aware(local.replace(tzinfo=None) + timedelta(minutes=minutes))


def planned_of(plan: CalendarPlan) -> list[Planned]:
    """The tasks of a kept plan as the core knows them."""
    return [
        Planned(Task(name=t.task, unit=t.unit, hands=t.hands, wait=t.wait), t.start, t.end, t.goes)
        for t in plan.kept.tasks
    ]
