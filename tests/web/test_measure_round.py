"""A measuring run as a round: readings judged once, what may be charged first, another part asked again, the meter."""

import json

import pytest
from django.urls import reverse

from idlebench.web.records.models import Entry, Job, Part, RoundAnswer

from .helpers import discharge

pytestmark = pytest.mark.django_db


class Run:
    def __init__(self, client, board):
        self.client, self.board, self.count = client, board, 0
        page = client.get(reverse("measure_round", args=[board.pk])).content.decode()
        self.facts = json.loads(
            page.partition('id="round-facts" type="application/json">')[2].partition("</script>")[0]
        )
        self.items = {one["key"]: one for one in self.facts["items"]}

    def answer(self, ref, typed, **more):
        self.count += 1
        return {"key": f"measure-{self.count:04}", "check": ref, "typed": typed, "of": self.items[ref]["of"], "age": 1.0, "seen": 0, "in_circuit": True, **more}  # fmt: skip

    def send(self, *answers):
        found = self.client.post(
            reverse("measure_answers", args=[self.board.pk]),
            json.dumps({"play": "measuring-page", "answers": answers}),
            content_type="application/json",
        )
        assert found.status_code == 200, found.content[:300]
        return found.json()


@pytest.fixture
def run(client, surveyed):
    discharge(surveyed.unit)
    return Run(client, surveyed)


def test_places_are_measured_one_after_the_other_and_each_once(run):
    assert set(run.items) == {"C1", "C2", "C3"}
    first = run.answer("C2", "6.8")
    told = run.send(first, run.answer("C3", "0.4"))
    assert told["stop"] is None and "C2: 6.8 Ω, in circuit: replace." in told["told"][0]["words"].replace(
        " at 120 Hz", ""
    )
    before = Entry.objects.count()
    assert run.send(first)["told"] == [told["told"][0]] and Entry.objects.count() == before
    assert Part.objects.get(ref="C3", board=run.board).esr == 0.4 and RoundAnswer.objects.count() == 2
    assert told["states"]["C2"][0] == "passed"


def test_what_may_be_charged_is_read_empty_first(run):
    Part.objects.filter(ref="C1", board=run.board).update(volts=400.0, rail_volts=325.0, value=2.2e-4)
    run = Run(run.client, run.board)
    assert run.items["C1"]["holds"] and "Discharge it" in run.items["C1"]["caution"]
    told = run.send(run.answer("C1", "0.2"), run.answer("C3", "0.4"))
    assert told["told"] == [] and "can hold" in told["stop"]["why"]
    told = run.send(run.answer("C1", "0.2", left="14 V"))
    assert told["told"] == [] and Part.objects.get(ref="C1", board=run.board).esr is None
    assert run.send(run.answer("C1", "0.2", left="0.1 V"))["stop"] is None
    assert Part.objects.get(ref="C1", board=run.board).esr == 0.2


@pytest.mark.parametrize(("typed", "why"), [("", "reading"), ("six", "six"), ("-4", "-4")])
def test_what_cannot_be_read_stops_there_and_nothing_is_kept(run, typed, why):
    told = run.send(run.answer("C2", typed), run.answer("C3", "0.4"))
    assert told["told"] == [] and why in told["stop"]["why"] and not RoundAnswer.objects.exists()
    assert Part.objects.get(ref="C3", board=run.board).esr is None


def test_another_part_in_the_place_is_asked_again(run):
    kept = run.answer("C2", "0.5")
    Part.objects.filter(ref="C2", board=run.board).update(value=1e-3)
    told = run.send(kept)
    assert told["told"] == [] and "changed since it was shown" in told["stop"]["why"]
    assert run.send({**kept, "check": "C99"})["stop"]["why"].startswith("“C99” does not go here")


def test_by_the_simulated_meter(run):
    asked = {"play": "measuring-page", "answers": [run.answer("C2", "meter")]}
    at = reverse("measure_answers", args=[run.board.pk])
    none = run.client.post(at, json.dumps(asked), content_type="application/json")
    assert none.status_code == 422 and "meter's address" in none.json()["stop"]["why"]
    Job.objects.update(meter="stand-in")
    told = run.send(run.answer("C2", "meter"))
    assert told["stop"] is None and Part.objects.get(ref="C2", board=run.board).esr
