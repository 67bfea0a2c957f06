"""The calendar."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from idlebench.core.draw.lanes import lanes_of
from idlebench.core.refusal import BadInput
from idlebench.core.wording import many

from ..records.models import CalendarPlan, ShopHours
from ..ui.flash_messages import say
from ..ui.tasks import Task, begin
from . import services

#: Tasks listed at once.
LISTED = 80


@dataclass(frozen=True, kw_only=True)
class TaskRow:
    """A task as the list shows it. n: the number that its bars carry. hands, wait: minutes. pieces: its stretches of work, from and to.

    free: when its wait is over, None where it has none. by_day: that is on a day, not at a minute.
    """

    n: int
    unit: str
    pk: int
    title: str
    hands: int
    wait: int
    now: bool
    begins: datetime
    pieces: tuple[tuple[datetime, datetime], ...]
    free: datetime | None
    by_day: bool

    @property
    def link(self) -> str:
        """Where it is done: its unit, or the order of all jobs."""
        return reverse("intake", args=[self.pk]) if self.pk else reverse("gather_shop")

    @property
    def until(self) -> datetime:
        """When whoever waits for it can go on."""
        return self.free or self.begins


def calendar(request: HttpRequest) -> HttpResponse:
    """What can be done now, what waits, and the lanes of all units."""
    return _page(request)


def _page(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    plan = CalendarPlan.objects.order_by("-id").first()
    shop = services.hours()
    context = {
        "room": "calendar", "plan": plan, "shop": shop,
        "typed": {"called": "", "begins": _clock(shop.begins), "hours": f"{shop.minutes / 60:g}", "hands": shop.hands},
        "people": _people(_kept(shop)), "changed": bool(plan and plan.kept.shop) and plan.kept.shop != shop.told,
        "looks": services.next_looks(), "today": timezone.localdate(),
        "weighed": services.weighed(), "words": list(services.WEIGHTS),
        "weekdays": [(name, i in shop.free) for i, name in enumerate(services.WEEKDAYS)], **extra,
    }  # fmt: skip
    if plan:
        context |= _told(plan)
    return render(request, "calendar/calendar.html", context, status=status)


def _clock(minute: int) -> str:
    """A minute of the day as a clock shows it, past midnight too."""
    return f"{minute // 60 % 24:02}:{minute % 60:02}"


def _kept(shop: ShopHours) -> list[dict[str, object]]:
    """The hours of further people as they would be typed."""
    return [
        {
            "begins": _clock(one["begins"]),
            "hours": f"{one['minutes'] / 60:g}",
            "free": [services.WEEKDAYS[i] for i in one["free"]],
        }
        for one in shop.others
    ]


def _people(typed: list[dict[str, object]]) -> list[dict[str, object]]:
    """The hours of further people as the form holds them, and one empty row."""
    rows = [one for one in typed if one["begins"] or one["hours"]]
    rows += [{"begins": "", "hours": "", "free": []}] if len(rows) < services.MOST_OTHERS else []
    return [
        {
            **one,
            "n": n,
            "at": f"_{n}",
            "called": f"person {n}, ",
            "days": [(name, name in one["free"]) for name in services.WEEKDAYS],
        }
        for n, one in enumerate(rows, 2)
    ]


def _told(plan: CalendarPlan) -> dict[str, object]:
    """A plan with its times as people read them."""
    kept = plan.kept

    def at(minutes: int) -> datetime:
        return services.at(plan.begins, minutes)

    rows = [
        TaskRow(
            n=n, unit=task.unit, pk=task.pk, title=task.title, hands=task.hands, wait=task.wait, now=task.now, begins=at(task.start),
            pieces=tuple((at(begin), at(end)) for begin, end in task.goes), by_day=task.by_day,
            free=at(task.end + task.wait) if task.wait else None,
        )
        for n, task in enumerate(sorted(kept.tasks, key=lambda t: (t.start, t.end)), 1)
    ]  # fmt: skip
    numbers = {task.task: n for n, task in enumerate(sorted(kept.tasks, key=lambda t: (t.start, t.end)), 1)}
    drawn = lanes_of(services.planned_of(plan), kept.minutes)
    titles = {task.task: task.title for task in kept.tasks}
    return {
        "rows": rows[:LISTED], "more": max(0, len(rows) - LISTED), "can": [r for r in rows if r.now],
        "waits": sorted((r for r in rows if not r.hands or r.wait), key=lambda r: r.until), "lanes": drawn,
        "days": [(at(1440 * day), x) for day, x in drawn.days],
        "bars": [(bar, titles[bar.name], _in_bar(titles[bar.name], numbers[bar.name], bar.letters)) for bar in drawn.bars],
        "marks": [(titles[n], x, y) for n, x, y in drawn.marks],
        "goes_on": any(bar.part for bar in drawn.bars),
        "first": [(one, at(one.done), at(one.otherwise)) for one in kept.first], "finish_else": at(kept.finish_else),
        "finish": at(kept.finish), "bound": at(kept.bound),
        "moved": [{"title": m.title, "unit": m.unit, "was": at(m.was), "now": at(m.now)} for m in kept.moved],
    }  # fmt: skip


def _in_bar(title: str, n: int, letters: int) -> str:
    """What stands in a bar: its whole title, else its number in the list, else nothing."""
    return next((text for text in (title, str(n)) if len(text) <= letters), "")


@require_POST
def plan(request: HttpRequest) -> HttpResponse:
    """Plan anew, beside the pages."""

    def work(task: Task) -> str:
        made = services.make(task.step)
        return f"Planned: {many(len(made.kept.tasks), 'task')}, {len(made.kept.moved)} moved."

    return redirect("task", begin("The calendar", reverse("calendar"), work).key)


@require_POST
def hours(request: HttpRequest) -> HttpResponse:
    """Say when the shop works."""
    numbers = range(2, 2 + services.MOST_OTHERS)
    others = [
        {
            "begins": request.POST.get(f"begins_{n}", ""), "hours": request.POST.get(f"hours_{n}", ""),
            "free": request.POST.getlist(f"free_{n}"),
        }
        for n in numbers
    ]  # fmt: skip
    try:
        services.keep_hours(request.POST, request.POST.getlist("free"), others)
    except BadInput as error:
        mine = {"called": "", **{name: request.POST.get(name, "") for name in ("begins", "hours", "hands")}}
        free = [(name, name in request.POST.getlist("free")) for name in services.WEEKDAYS]
        return _page(
            request, 422, complaint=error, people=_people(others), weekdays=free, typed=mine, wrong=error.field
        )
    return say(request, reverse("calendar"), "Hours saved: plan again to use them")


@require_POST
def weigh(request: HttpRequest, pk: int) -> HttpResponse:
    """How much it matters that a unit is done early."""
    try:
        services.weigh(pk, request.POST.get("weight", ""))
    except BadInput as error:
        return _page(request, 422, complaint=error)
    return say(request, reverse("calendar"), "Saved. Plan again to see what moves")


def ics(request: HttpRequest) -> HttpResponse:
    """The calendar for a calendar program."""
    from .ics import as_ics

    plan = CalendarPlan.objects.order_by("-id").first()
    looks = services.next_looks()
    if plan is None and not looks:
        raise Http404("no calendar is planned")
    return HttpResponse(
        as_ics(plan, looks, timezone.now()), content_type="text/calendar; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="bench.ics"'},
    )  # fmt: skip
