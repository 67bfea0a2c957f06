"""Answers of a round: each judged once in the page's own order, none that came too late, none that something else has overtaken."""

import json
import threading
from datetime import timedelta

import pytest
from django.db import connection
from django.urls import reverse

from idlebench.core.prove.facts import DISCHARGED, INSIDE, POLARITY
from idlebench.core.refusal import BadInput
from idlebench.web.proving import metered, rounds, watching
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Entry, Event, Job, Part, PowerSession, Reading, RoundAnswer
from idlebench.web.swap import services as swapping
from idlebench.web.unit.answers import Answer
from idlebench.web.unit.state import unit_state
from idlebench.web.unit.times import pace

from .helpers import discharge, good_text, make_idle, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def cold(surveyed):
    """A unit whose parts are swapped and whose reservoirs are empty."""
    settle(surveyed.unit)
    return surveyed.unit


@pytest.fixture(autouse=True)
def _no_meter_was_watched():
    watching._WATCHES.clear()


def swap_again(unit, ref):
    """Take a swap back, and swap the place once more."""
    board = Part.objects.get(ref=ref, board__unit=unit).board_id
    swapping.take_back(board, ref)
    discharge(unit)
    swapping.swapped(board, ref)


class Page:
    """A page that plays the rounds of a unit: what it was told, and what it answers."""

    def __init__(self, client, unit, step="cold", name="page-one"):
        self.client, self.unit, self.name, self.count = client, unit, name, 0
        self.at = f"{reverse('round_answers', args=[unit.pk])}?step={step}"
        self.seen = unit_state(unit.pk).last_event
        what = rounds.played(unit_state(unit.pk), step)
        self.items = {one["key"]: one for one in rounds.items_of(unit_state(unit.pk), what)}

    def answer(self, check, typed=None, age=0.5, **more):
        self.count += 1
        typed = typed if typed is not None else good_text(check)
        return {"key": f"{self.name}-{self.count:04}", "check": check.key, "typed": typed, "of": self.items[check.key]["of"], "age": age, "seen": self.seen, **more}  # fmt: skip

    def send(self, *answers, status=200):
        body = {"play": self.name, "answers": list(answers)}
        found = self.client.post(self.at, json.dumps(body), content_type="application/json")
        assert found.status_code == status, found.content[:300]
        told = found.json()
        self.seen = told.get("seen", self.seen)
        return told


def checks(unit, fact=None, step=0):
    return [c for c in unit_state(unit.pk).proof.steps[step].checks if fact is None or c.fact == fact]


def test_a_round_is_logged_in_the_pages_order_and_the_step_is_done(client, cold):
    page, proof = Page(client, cold), unit_state(cold.pk).proof
    wanted = list(proof.open_checks(proof.steps[0]))
    told = page.send(*(page.answer(check) for check in wanted))
    assert told["stop"] is None and [one["state"] for one in told["told"]] == ["passed"] * len(wanted)
    taken = list(Reading.objects.filter(unit=cold).order_by("pk").values_list("key", flat=True))[-len(wanted) :]
    assert taken == [check.key for check in wanted]
    state = unit_state(cold.pk)
    # nothing that was read inside the case after the last look at it is left
    assert state.proof.step_done(state.proof.steps[0]) and told["left"] == 0
    page_text = client.get(reverse("round", args=[cold.pk]) + "?step=cold").content.decode()
    assert "To first power" in page_text


def test_an_answer_that_is_sent_again_changes_nothing(client, cold):
    page = Page(client, cold)
    first, second = (page.answer(check) for check in checks(cold, POLARITY)[:2])
    once = page.send(first)
    before = Reading.objects.count(), Event.objects.count(), Entry.objects.count()
    again = page.send(first, first)
    assert again["told"] == once["told"] * 2 and before == (
        Reading.objects.count(),
        Event.objects.count(),
        Entry.objects.count(),
    )
    # neither does one that another tab of the same page sends with it
    page.send(first, second, first)
    assert Reading.objects.count() == before[0] + 1 and RoundAnswer.objects.count() == 2


def test_the_first_refusal_stops_the_round_there(client, cold):
    page = Page(client, cold)
    (one, two), three = checks(cold, POLARITY)[:2], next(c for c in checks(cold) if c.key.startswith("cold.pin."))
    rail = next(c for c in checks(cold) if c.key.startswith("cold.rail."))
    before = Reading.objects.count()
    told = page.send(page.answer(one), page.answer(rail, "soon"), page.answer(two), page.answer(three))
    assert [t["check"] for t in told["told"]] == [one.key] and told["stop"]["check"] == rail.key
    assert "soon" in told["stop"]["why"] and Reading.objects.count() == before + 1
    assert told["states"][two.key][0] == "not yet"


def test_a_bad_discharge_stops_the_round_and_a_bad_look_does_not(client, cold):
    page = Page(client, cold)
    store, (one, two) = checks(cold, DISCHARGED)[0], checks(cold, POLARITY)[:2]
    told = page.send(page.answer(one, "no", note="stripe faces the edge"), page.answer(two))
    assert [t["state"] for t in told["told"]] == ["failed", "passed"] and told["stop"] is None
    assert Entry.objects.filter(text__contains="stripe faces the edge").exists()
    told = page.send(page.answer(store, "48"), page.answer(two))
    assert told["told"][0]["state"] == "failed" and len(told["told"]) == 1 and "Discharge it" in told["stop"]["opens"]


@pytest.mark.parametrize(("age", "counts"), [(59.0, True), (61.0, False), (4000.0, False)])
def test_a_discharge_that_comes_late_is_asked_again(client, cold, age, counts):
    page, store = Page(client, cold), checks(cold, DISCHARGED)[0]
    told = page.send(page.answer(store, "0.3", age=age))
    assert (told["stop"] is None) is counts and len(told["told"]) == int(counts)
    assert counts or "asked again" in told["stop"]["why"]


def test_what_was_swapped_elsewhere_since_is_asked_again(client, cold):
    page, check = Page(client, cold), checks(cold, POLARITY)[0]
    kept = page.answer(check, age=90.0)
    swap_again(cold, check.point)
    told = page.send(kept)
    assert told["told"] == [] and "asked again" in told["stop"]["why"]
    assert not unit_state(cold.pk).proof.status_of(unit_state(cold.pk).proof.check(check.key)).passed
    # told of it, the page answers again and it counts
    page.items[check.key]["of"] = told["of"][check.key]
    assert page.send(page.answer(check))["told"][0]["state"] == "passed"


def test_a_limit_that_was_edited_since_is_asked_again(client, cold):
    page = Page(client, cold)
    rail = next(c for c in checks(cold) if c.key.startswith("cold.rail."))
    board = cold.boards.get(name=rail.board)
    kept = page.answer(rail)
    board.rails = board.rails.replace("1A", "3A").replace("1 A", "3 A") + "\n"
    type(board).objects.filter(pk=board.pk).update(rails="+5 V 5 A")
    type(cold).objects.filter(pk=cold.pk).update(turn=999)
    told = page.send(kept)
    assert told["told"] == [] and told["stop"]["check"] == rail.key


def test_the_last_look_inside_counts_after_the_pages_own_readings_and_not_after_anothers(client, cold):
    pass_up_to(cold, "limited")
    swap_again(cold, "C1")
    page, other = Page(client, cold), Page(client, cold, name="page-two")
    rails = [c for c in checks(cold) if c.key.startswith(("cold.rail.", "cold.back."))]
    (inside,) = checks(cold, INSIDE)
    told = page.send(page.answer(rails[0]), page.answer(inside))
    assert [t["state"] for t in told["told"]] == ["passed", "passed"]
    # kept by the first page while the other reads on inside the case
    kept = page.answer(inside, age=20.0)
    other.send(other.answer(rails[1]))
    told = page.send(kept)
    assert told["told"] == [] and "opened again" in told["stop"]["why"]


def test_power_that_was_put_on_elsewhere_stops_a_cold_round(client, cold):
    page, polarity = Page(client, cold), checks(cold, POLARITY)[0]
    store = checks(cold, DISCHARGED)[0]
    kept = page.answer(store, "0.2", age=30.0)
    pass_up_to(cold, "limited")
    power_at(cold, "limited")
    told = page.send(page.answer(polarity))
    assert told["told"] == [] and "power" in told["stop"]["why"] and told["live"] == "limited"
    make_idle()
    # a discharge that was read before that power counts no more, however young it says it is
    told = page.send(kept)
    assert told["told"] == []
    assert "power was on" in told["stop"]["why"]


def test_under_power_nothing_is_kept(client, cold):
    pass_up_to(cold, "limited")
    power_at(cold, "limited")
    page = Page(client, cold, "limited")
    check = next(c for c in unit_state(cold.pk).proof.step("limited").checks if c.live)
    late = page.send(page.answer(check, age=6.0))
    assert late["told"] == [] and "under power no answer is kept" in late["stop"]["why"]
    assert page.send(page.answer(check, age=0.4))["told"][0]["state"] == "passed"


def test_what_must_be_switched_off_now_is_told_with_the_answer(client, cold):
    pass_up_to(cold, "limited")
    power_at(cold, "limited")
    page, check = Page(client, cold, "limited"), unit_state(cold.pk).proof.step("limited").checks[-1]
    assert page.send(page.answer(check))["off_now"] == ""
    session = PowerSession.objects.get(ended=None)
    session.off_now = "C7 smoked"
    session.save()
    assert page.send(page.answer(check))["off_now"] == "C7 smoked"


@pytest.mark.parametrize(
    "body",
    [
        b"", b"{", b"[]", b"null", b'{"play": "p"}', b'{"play": "page-one"}',
        b'{"play": "page-one", "answers": [1]}', b'{"play": "short", "answers": []}',
        b'{"play": "page-one", "answers": [{"key": "k", "check": "c", "typed": "1", "of": "", "age": 0, "seen": 0}]}',
        b'{"play": "page-one", "answers": [{"key": "key-0001", "check": "c", "typed": "1", "of": "", "age": -3, "seen": 0}]}',
        b'{"play": "page-one", "answers": [{"key": "key-0001", "check": "c", "typed": "1", "of": "", "age": NaN, "seen": 0}]}',
        b'{"play": "page-one", "answers": [{"key": "key-0001", "check": "c", "typed": "1", "of": "", "age": 0, "seen": "x"}]}',
        b'{"play": "page-one", "answers": "xxxx"}', b"\xff\xfe",
    ],
)  # fmt: skip
def test_what_is_no_answer_is_refused_in_words(client, cold, body):
    before = Reading.objects.count()
    found = client.post(reverse("round_answers", args=[cold.pk]), body, content_type="application/json")
    assert found.status_code == 422 and "Load the round again." in found.json()["stop"]["why"]
    assert Reading.objects.count() == before


def test_a_handed_over_unit_takes_no_answer(client, cold):
    page, check = Page(client, cold), checks(cold, POLARITY)[0]
    type(cold).objects.filter(pk=cold.pk).update(handed_over="2026-01-01T00:00Z", turn=999)
    told = page.send(page.answer(check))
    assert told["told"] == [] and "handed over" in told["stop"]["why"]


def test_gates_are_shut_to_a_round_as_to_a_form(client, surveyed):
    """Nothing is read on a board before its reservoirs are empty."""
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "limited")
    power_at(surveyed.unit, "limited")
    make_idle()
    page = Page(client, surveyed.unit)
    rail = next(c for c in checks(surveyed.unit) if c.key.startswith("cold.rail."))
    told = page.send(page.answer(rail))
    assert told["told"] == [] and "not logged as discharged" in told["stop"]["why"]


@pytest.mark.django_db(transaction=True)
def test_two_pages_that_send_one_answer_at_once_log_it_once(client, cold):
    page, check = Page(client, cold), checks(cold, POLARITY)[0]
    kept = Answer(
        key="page-one-0001", check=check.key, typed="yes", of=page.items[check.key]["of"], age=0.1, seen=page.seen
    )
    before, told = Reading.objects.count(), []

    def send():
        told.append(rounds.take_answers(cold.pk, "page-one", [kept]))
        connection.close()

    both = [threading.Thread(target=send) for _ in range(2)]
    for one in both:
        one.start()
    for one in both:
        one.join()
    assert Reading.objects.count() == before + 1 and told[0] == told[1]


class Meter:
    """A meter that shows one value after the other."""

    def __init__(self, monkeypatch, *values, ohms=float("inf")):
        self.values, self.ohms = list(values), ohms
        monkeypatch.setattr(metered, "value_of", lambda *_: (self.values.pop(0), ""))
        monkeypatch.setattr(metered, "ohms_of_leads", lambda *_: self.ohms)


@pytest.fixture
def metering(cold):
    Job.objects.update(meter="192.168.1.40:5025")
    return cold


@pytest.mark.parametrize(
    ("values", "ohms", "counts"),
    [
        ((0.0, 0.0, 0.0), None, False),  # leads in the air
        ((0.3, 0.2, 0.1, 0.0, 0.0, 0.0), None, False),  # hum in the air
        ((14.0, 6.0, 2.0, 0.4, 0.4, 0.4), None, True),  # a voltage that falls
        ((0.0, 0.0, 0.0), 0.3, True),  # both leads on one point a moment before
        ((0.0, 0.0, 0.0), 40.0, False),  # they did not touch
        ((14.0, 9.0, 4.0), None, False),  # it has not stood still
    ],
)
def test_lifted_leads_alone_never_discharge_anything(client, metering, monkeypatch, values, ohms, counts):
    page, store = Page(client, metering), checks(metering, DISCHARGED)[0]
    Meter(monkeypatch, *values, ohms=ohms if ohms is not None else float("inf"))
    at = {"play": page.name, "check": store.key}
    if ohms is not None:
        client.post(reverse("round_meter", args=[metering.pk]), {**at, "leads": 1})
    for _ in values:
        shown = client.post(reverse("round_meter", args=[metering.pk]), at).json()
    assert shown["lifted"] is True
    told = page.send(page.answer(store, "meter"))
    assert bool(told["told"]) is counts
    if counts:
        assert told["told"][0]["typed"] == Reading.objects.last().typed != "meter"


def test_an_open_rail_by_the_meter_needs_contact_and_finite_ohms_show_it(client, metering, monkeypatch):
    page = Page(client, metering)
    rail = next(c for c in checks(metering) if c.key.startswith("cold.rail."))
    at = {"play": page.name, "check": rail.key}
    for values, counts in (([float("inf")] * 3, False), ([812.0, 815.0, 816.0], True)):
        watching._WATCHES.clear()
        Meter(monkeypatch, *values)
        for _ in values:
            client.post(reverse("round_meter", args=[metering.pk]), at)
        assert bool(page.send(page.answer(rail, "meter"))["told"]) is counts


def test_what_the_meter_stood_at_is_kept_while_the_next_point_is_looked_at(client, metering, monkeypatch):
    page = Page(client, metering)
    one, two = [c for c in checks(metering) if c.key.startswith("cold.rail.")][:2]
    Meter(monkeypatch, *[900.0] * 3, 400.0)
    for check in (one, one, one, two):
        client.post(reverse("round_meter", args=[metering.pk]), {"play": page.name, "check": check.key})
    told = page.send(page.answer(one, "meter"))
    assert told["told"][0]["typed"] == "900"


def test_what_the_meter_showed_elsewhere_answers_nothing(client, metering, monkeypatch):
    """A reading of one point, of another page, or of a while ago."""
    page = Page(client, metering)
    one, two = [c for c in checks(metering) if c.key.startswith("cold.rail.")][:2]
    Meter(monkeypatch, *[900.0] * 6)
    for _ in range(3):
        client.post(reverse("round_meter", args=[metering.pk]), {"play": page.name, "check": one.key})
    assert page.send(page.answer(two, "meter"))["told"] == []
    other = Page(client, metering, name="page-two")
    assert other.send(other.answer(one, "meter"))["told"] == []
    monkeypatch.setattr(watching, "LASTS", -1.0)
    assert page.send(page.answer(one, "meter"))["told"] == []


def test_the_key_by_the_meter_refuses_what_leads_in_the_air_show(metering, monkeypatch):
    store = checks(metering, DISCHARGED)[0]
    Meter(monkeypatch, 0.001, 3.0)
    with pytest.raises(BadInput, match="Leads in the air"):
        metered.take(metering.pk, store.key)
    assert metered.take(metering.pk, store.key).passed


def test_what_is_left_out_is_named_on_the_page_and_on_the_sheet(client, cold):
    cold.boards.filter(name="PS-1").update(rails="+5 V 2 A min 0.5 A\n+12 V 1 A")
    type(cold).objects.filter(pk=cold.pk).update(turn=999)
    for ref, x in (("C1", 20), ("C2", 60), ("C3", 100)):
        Part.objects.filter(board__unit=cold, ref=ref).update(x=x, y=20)
    pass_up_to(cold, "limited")
    swap_again(cold, "C1")
    state = unit_state(cold.pk)
    assert state.proof.left_out and all("rail" in key or "back" in key for key in state.proof.left_out)
    for at in ("cold", "sheet"):
        html = client.get(reverse(at, args=[cold.pk])).content.decode()
        assert "no work was near it since" in html and "eft out" in html
    Job.objects.update(rounds="full")
    state = unit_state(cold.pk)
    assert not state.proof.left_out and len(state.proof.open_checks(state.proof.steps[0])) > 2


def test_the_depth_is_set_at_intake(client, cold):
    job = cold.job
    form = {"unit": str(cold.pk), "name": job.name, "machine": job.machine, "rounds": "full", "way": job.way}
    assert client.post(reverse("job", args=[cold.pk]), form).status_code in (302, 200)
    assert Job.objects.get(pk=job.pk).rounds == "full"
    form["rounds"] = "none"
    assert client.post(reverse("job", args=[cold.pk]), form).status_code == 422
    assert Job.objects.get(pk=job.pk).rounds == "full"


def test_the_shops_own_pace_is_told(cold):
    start = Reading.objects.earliest("pk").at
    for _ in range(40):
        proving.take_reading(cold.pk, checks(cold, POLARITY)[0].key, "yes")
    for n, row in enumerate(Reading.objects.order_by("pk")):
        Reading.objects.filter(pk=row.pk).update(at=start + n * timedelta(seconds=5))
    assert pace().look == 5.0 and pace().told
