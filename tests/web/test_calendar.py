"""The calendar: what is left of open units planned into the shop's hours, what a late parcel moves, and its iCalendar."""

from datetime import UTC, datetime, timedelta

import pytest
import time_machine
import vobject
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from idlebench.web.calendar import services, views
from idlebench.web.records.models import CalendarPlan, CatalogueItem, Order, OrderLine, ShopHours, Unit
from idlebench.web.ui import tasks
from tests import typed

MONDAY = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


@pytest.fixture
def waits(client, surveyed):
    """A unit whose two parts are taken and ordered: the parcel takes five days."""
    client.post(reverse("choose_all", args=[surveyed.pk]))
    CatalogueItem.objects.update(stock=0)
    with time_machine.travel(MONDAY, tick=False):
        order = Order.objects.create(supplier="Quay Parts", at=timezone.now(), lead_days=5)
        for choice in surveyed.parts.filter(choice__action="take").values_list("choice__item", flat=True):
            OrderLine.objects.create(order=order, part=choice, quantity=1, price=0.5)
    return surveyed.unit


def titles(plan):
    return {task.title: task for task in plan.kept.tasks}


def test_a_unit_that_waits_for_its_parcel(client, waits):
    with time_machine.travel(MONDAY, tick=False):
        plan = services.make()
    found = titles(plan)
    assert list(found) == ["The parcel arrives", "Swap the parts on order", "Cold checks", "First power", "Hand-over"]
    assert services.at(plan.begins, found["Swap the parts on order"].start) >= MONDAY + timedelta(days=5) - timedelta(
        hours=6
    )
    assert found["Swap the parts on order"].hands == 8 and plan.kept.proved
    page = client.get(reverse("calendar"))
    html = page.content.decode()
    assert "The parcel arrives" in html and "every task waits for something else" in html
    assert [r.title for r in page.context["rows"]] == list(found)


def test_a_late_parcel_moves_the_rest_and_says_what(client, waits):
    with time_machine.travel(MONDAY, tick=False):
        first = titles(services.make())
        Order.objects.update(lead_days=9)
        again = services.make()
    assert {m.title for m in again.kept.moved} == set(first)
    assert CalendarPlan.objects.count() == 1
    html = client.get(reverse("calendar")).content.decode()
    assert "Moved since the plan before" in html and "Swap the parts on order" in html


def test_the_same_plan_an_hour_later_has_moved_nothing(waits):
    with time_machine.travel(MONDAY, tick=False):
        services.make()
    with time_machine.travel(MONDAY + timedelta(hours=1), tick=False):
        assert services.make().kept.moved == ()


def test_work_lies_in_the_shops_hours(client, waits):
    answer = client.post(
        reverse("calendar_hours"), {"begins": "18:30", "hours": "1.5", "hands": "1", "free": ["Mon", "Sun"]}
    )
    assert answer.status_code == 302 and ShopHours.objects.get().minutes == 90
    with time_machine.travel(MONDAY, tick=False):
        plan = services.make()
    for task in plan.kept.tasks:
        if task.hands:
            begins = timezone.localtime(services.at(plan.begins, task.start))
            assert begins.weekday() not in (0, 6)
            assert 18 * 60 + 30 <= begins.hour * 60 + begins.minute <= 20 * 60


@pytest.mark.parametrize(
    "wrong",
    [
        {"hours": "0"}, {"hours": ""}, {"hours": "25"}, {"begins": "late"}, {"begins": "23:00", "hours": "2"}, {"hands": "0"}, {"hands": "x"},
        {"free": ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"]},
    ],
)  # fmt: skip
def test_a_calendar_with_no_hours_is_refused(client, db, wrong):
    response = client.post(reverse("calendar_hours"), {"begins": "19:00", "hours": "2", "hands": "1", **wrong})
    assert response.status_code == 422 and 'role="alert"' in response.content.decode()
    assert not ShopHours.objects.exists()


def test_of_a_unit_that_is_not_surveyed_only_the_survey_is_planned(db, shelf):
    typed.take_in_job({"name": "Weather desk", "machine": "Rain recorder", "made": "1982", "units": "A"})
    assert list(titles(services.make())) == ["Survey"]


def test_the_icalendar_is_read_back(client, waits):
    assert client.get(reverse("calendar_ics")).status_code == 404
    with time_machine.travel(MONDAY, tick=False):
        plan = services.make()
    response = client.get(reverse("calendar_ics"))
    assert response.headers["Content-Type"].startswith("text/calendar")
    events = list(Calendar.from_ical(response.content).walk("VEVENT"))
    assert len(events) == len(plan.kept.tasks) and len({str(e["uid"]) for e in events}) == len(events)
    # and by a library that did not write it
    theirs = vobject.readOne(response.content.decode())
    assert [str(e.summary.value) for e in theirs.vevent_list] == [str(e["summary"]) for e in events]
    assert {e.dtstart.value for e in theirs.vevent_list} == {e.decoded("dtstart") for e in events}
    swap = next(e for e in events if str(e["summary"]).startswith("Swap"))
    assert swap.decoded("dtstart") == services.at(plan.begins, titles(plan)["Swap the parts on order"].start)


def test_the_bench_says_what_can_be_done(client, surveyed):
    assert "Ready to be done now" not in client.get("/").content.decode()
    services.make()
    html = client.get("/").content.decode()
    assert "Ready to be done now" in html and "Choose" in html


def test_it_is_planned_beside_the_pages(client, waits, monkeypatch):
    begun = []
    monkeypatch.setattr(
        views, "begin", lambda title, back, work: begun.append(work) or tasks.Task(title=title, back=back)
    )
    assert client.post(reverse("calendar_plan")).status_code == 302
    task = tasks.Task(title="t", back="/")
    assert begun[0](task) == "Planned: 5 tasks, 0 moved." and task.done == task.total
    task.stop()
    with pytest.raises(tasks.Stopped):
        begun[0](task)


def test_nothing_left(client, db):
    assert services.make().kept.tasks == ()
    assert "Nothing is left to do" in client.get(reverse("calendar")).content.decode()


def test_a_unit_that_matters_more_is_done_first(demo, client):
    b, f = Unit.objects.get(name="B"), Unit.objects.get(name="F")
    url = lambda unit: reverse("calendar_weigh", args=[unit.pk])  # noqa: E731
    done = {}
    for first, later in ((b, f), (f, b)):
        assert client.post(url(first), {"weight": "first"}).status_code == 302
        assert client.post(url(later), {"weight": "later"}).status_code == 302
        tasks_ = services.make().kept.tasks
        done[first] = {unit: max(t.end for t in tasks_ if t.pk == unit.pk) for unit in (b, f)}
    assert done[b][b] <= done[f][b] and done[f][f] <= done[b][f]
    assert done[b] != done[f], "it moves something"
    assert client.post(url(b), {"weight": "at once"}).status_code == 422
    assert client.post(reverse("calendar_weigh", args=[999]), {"weight": "first"}).status_code == 404
