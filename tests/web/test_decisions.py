"""What becomes of a unit is decided by hand: a donor has nothing planned for it any more; the Bench names machines and lists five."""

from datetime import datetime

import pytest
from django.urls import reverse
from django.utils import timezone

from idlebench.core.refusal import BadInput
from idlebench.web.calendar import services as calendar
from idlebench.web.choose import services as choosing
from idlebench.web.intake import triage
from idlebench.web.records.models import Unit
from idlebench.web.unit import fits
from idlebench.web.unit.state import board_state
from idlebench.web.unit.wanted import places
from tests import typed

pytestmark = pytest.mark.django_db


def test_a_donor_is_decided_with_a_reason_and_nothing_more_is_planned_for_it(client, surveyed):
    unit = surveyed.unit
    state, found = board_state(surveyed.pk)
    for part in found.places:
        choosing.take(surveyed.pk, part.ref, fits.ranking_for(state, part).best.part.part)
    assert places()
    assert calendar.make(now=timezone.make_aware(datetime(2026, 6, 1, 9))).kept.tasks
    page = reverse("decide", args=[unit.pk])
    assert client.post(page, {"decision": "donor"}).status_code == 422
    assert client.post(page, {"decision": "eat it", "why": "just because"}).status_code == 422
    assert client.post(page, {"decision": "donor", "why": "traces eaten under the socket"}).status_code == 302
    unit.refresh_from_db()
    assert unit.decision == "donor" and places() == []
    assert calendar.make(now=timezone.make_aware(datetime(2026, 6, 1, 9))).kept.tasks == ()
    shown = client.get(reverse("triage", args=[unit.job_id])).content.decode()
    assert "Decided by hand: donor, traces eaten under the socket" in shown
    bench = client.get(reverse("bench")).content.decode()
    assert "donor</span>" in bench and f"Unit {unit.name}, {unit.job.machine}" in bench
    # taken back, it is planned again
    assert client.post(page, {"decision": ""}).status_code == 302
    assert places()


def test_how_it_looks_is_typed_before_a_survey(client, surveyed):
    unit = Unit.objects.create(job=surveyed.unit.job, name="Z")
    page = reverse("worth", args=[unit.pk])
    wrong = client.post(page, {"worth": "60", "damage": "0", "condition": "burned"})
    assert wrong.status_code == 422 and 'value="burned"' in wrong.content.decode()
    assert client.post(page, {"worth": "60", "damage": "0", "condition": "corroded, scorched"}).status_code == 302
    unit.refresh_from_db()
    assert unit.condition == "eaten, burnt"
    assert (
        "Looks eaten: a spill has eaten traces." in client.get(reverse("triage", args=[unit.job_id])).content.decode()
    )
    with pytest.raises(BadInput):
        triage.decide(unit, "donor", " ")


def test_the_bench_lists_five_acts_at_most(client, surveyed):
    job = surveyed.unit.job
    for name in "BCDEFGH":
        Unit.objects.create(job=job, name=name)
    calendar.make(now=timezone.make_aware(datetime(2026, 6, 1, 9)))
    page = client.get(reverse("bench"))
    assert len(page.context["can"]) == 5 and page.context["more"] >= 2
    assert f"and {page.context['more']} more" in page.content.decode()


def test_numbers_of_boards_are_held_against_those_of_cases(client, surveyed):
    unit = surveyed.unit
    unit.serial = "TW80-0117"
    unit.save()
    other = Unit.objects.create(job=unit.job, name="Z", serial="TW80-0121")
    typed.add_board(other, {"name": surveyed.name, "width": "100", "height": "80", "serial": "0117"})
    page = client.get(reverse("triage", args=[unit.job_id])).content.decode()
    assert (
        f"{surveyed.name} of unit Z is numbered 0117, as the case of unit {unit.name}: the boards were swapped." in page
    )
    assert "the boards were swapped" in client.get(reverse("side_by_side", args=[unit.job_id])).content.decode()
