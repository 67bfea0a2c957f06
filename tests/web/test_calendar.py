"""The calendar: what is left of open units planned into the shop's hours, what a late parcel moves, and its iCalendar."""

from datetime import UTC, date, datetime, timedelta

import pytest
import time_machine
import vobject
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from idlebench.web.calendar import services, views
from idlebench.web.records.models import CalendarPlan, CatalogueItem, Order, OrderLine, ShopHours, Unit
from idlebench.web.survey.services import paste
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
        {"hours": "0"}, {"hours": ""}, {"hours": "25"}, {"begins": "late"}, {"begins": "25:00"}, {"begins_2": "10am"}, {"begins_2": "10am", "hours_2": "x"}, {"hands": "0"}, {"hands": "x"},
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


@pytest.fixture
def long(waits):
    """A unit whose swap takes more than an evening has: eighty parts wait for their parcel."""
    board = waits.boards.get(name="PS-1")
    lines = "\n".join(f"C{100 + i} 100u 16V 6.3x11 p2.5 decoupling rail +5V" for i in range(80))
    assert paste(board, lines, good_rows=False).added == 80
    with time_machine.travel(MONDAY, tick=False):
        ShopHours.objects.create(minutes=60, begins=22 * 60 + 30)
    return waits


def test_a_task_ends_when_hands_stop_and_goes_on_the_next_evening_past_midnight_too(client, long):
    with time_machine.travel(MONDAY, tick=False):
        plan = services.make()
    task = max(plan.kept.tasks, key=lambda t: t.hands)
    assert task.hands > 60 and len(task.goes) == -(-task.hands // 60)
    assert sum(end - begin for begin, end in task.goes) == task.hands
    events = [
        e
        for e in Calendar.from_ical(client.get(reverse("calendar_ics")).content).walk("VEVENT")
        if task.title in str(e["summary"])
    ]
    assert [str(e["uid"]).partition("@")[0].rpartition("-")[2] for e in events[1:]] == [
        str(n) for n in range(2, len(events) + 1)
    ]
    assert sum((e.decoded("dtend") - e.decoded("dtstart")).total_seconds() for e in events) == 60 * task.hands
    assert len(events) == len(task.goes)
    again = Calendar.from_ical(client.get(reverse("calendar_ics")).content).walk("VEVENT")
    assert {str(e["uid"]) for e in events} <= {str(e["uid"]) for e in again}
    theirs = vobject.readOne(client.get(reverse("calendar_ics")).content.decode())
    assert sum(str(e.uid.value).startswith(str(events[0]["uid"]).partition("@")[0]) for e in theirs.vevent_list) == len(
        events
    )
    row = next(r for r in client.get(reverse("calendar")).context["rows"] if r.title == task.title)
    assert len(row.pieces) == len(events)


def test_a_parcel_is_a_day_and_work_begins_with_that_days_hours(client, waits):
    with time_machine.travel(MONDAY, tick=False):
        plan = services.make()
    found = titles(plan)
    assert found["The parcel arrives"].by_day and found["The parcel arrives"].start % 1440 == 0
    assert found["Swap the parts on order"].start == found["The parcel arrives"].start
    event = next(
        e
        for e in Calendar.from_ical(client.get(reverse("calendar_ics")).content).walk("VEVENT")
        if "parcel" in str(e["summary"])
    )
    assert event.decoded("dtstart") == date(2026, 3, 7) and event.decoded("dtend") == date(2026, 3, 8)
    html = client.get(reverse("calendar")).content.decode()
    assert "A diamond" not in html and "a parcel" in html


@pytest.mark.parametrize(("begins", "minute"), [("7pm", 1140), ("19", 1140), ("7:30 pm", 1170), ("22:00", 1320)])
def test_hours_are_typed_as_people_say_them_and_may_go_past_midnight(client, waits, begins, minute):
    assert client.post(reverse("calendar_hours"), {"begins": begins, "hours": "4", "hands": "1"}).status_code == 302
    assert ShopHours.objects.get().begins == minute
    one = datetime(2026, 3, 3, 0, 30, tzinfo=timezone.get_current_timezone())
    with time_machine.travel(one, tick=False):
        plan = services.make()
    day = 2 if minute == 1320 else 3
    assert timezone.localtime(plan.begins) == one.replace(day=day, hour=minute // 60, minute=minute % 60)


def test_two_people_have_hours_of_their_own(client, long):
    said = {"begins": "19:00", "hours": "1", "hands": "1", "free": ["Sat", "Sun"], "begins_2": "10am", "hours_2": "3",
            "free_2": ["Mon", "Tue", "Wed", "Thu", "Fri"]}  # fmt: skip
    assert client.post(reverse("calendar_hours"), said).status_code == 302
    assert ShopHours.objects.get().others == [{"begins": 600, "minutes": 180, "free": [0, 1, 2, 3, 4]}]
    with time_machine.travel(MONDAY, tick=False):
        plan = services.make()
    for task in plan.kept.tasks:
        for begin, end in task.goes if task.hands else ():
            at, to = (timezone.localtime(services.at(plan.begins, minute)) for minute in (begin, end))
            hours = (10, 13) if at.weekday() > 4 else (19, 20)
            assert hours[0] * 60 <= at.hour * 60 + at.minute < to.hour * 60 + to.minute <= hours[1] * 60
    html = client.get(reverse("calendar")).content.decode()
    assert 'name="begins_2" value="10:00"' in " ".join(html.split())
    client.post(reverse("calendar_hours"), {**said, "begins_2": "", "hours_2": ""})
    assert ShopHours.objects.get().others == []


def test_what_is_first_is_done_first_and_what_it_costs_is_said(client, waits):
    other = typed.take_in_job(
        {"name": "Weather desk", "machine": "Rain recorder", "made": "1982", "units": "A"}
    ).units.get()
    with time_machine.travel(MONDAY, tick=False):
        plain = services.make().kept
        assert plain.first == ()
        services.weigh(other.pk, "first")
        kept = services.make().kept
    one = next(cost for cost in kept.first if cost.first)
    assert str(other.name) in one.unit and one.done <= one.otherwise and kept.finish >= kept.finish_else == plain.finish
    html = " ".join(client.get(reverse("calendar")).content.decode().split())
    assert "Effect of the priorities" in html and "have changed since" not in html
    services.weigh(other.pk, "later")
    assert "have changed since the calendar was planned" in " ".join(
        client.get(reverse("calendar")).content.decode().split()
    )


def test_hours_that_cannot_be_read_stay_as_they_were_typed(client, waits):
    typed_hours = {"begins": "late", "hours": "3.5", "hands": "2", "free": ["Sat"], "begins_3": "10am", "hours_3": "x"}
    html = " ".join(client.post(reverse("calendar_hours"), typed_hours).content.decode().split())
    assert 'name="begins" value="late"' in html and 'value="3.5"' in html and 'name="begins_2" value="10am"' in html
    assert html.count('aria-invalid="true"') == 1
    html = " ".join(client.post(reverse("calendar_hours"), {**typed_hours, "begins": "7pm"}).content.decode().split())
    assert "person 2, hours" in html and html.count('aria-invalid="true"') == 1 and not ShopHours.objects.exists()
