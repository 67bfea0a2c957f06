"""A mains filter part left out for the test: on every page, up to the test, never for hand-over."""

import pytest
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.ledger.services import hand_over
from idlebench.web.survey.services import add_line
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits
from idlebench.web.unit.state import unit_state

from .helpers import discharge, pass_up_to, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def filtered(surveyed):
    settle(surveyed.unit)
    add_line(surveyed, "C9 100n paper X2 18x13 p15 at 20,20 burst")
    surveyed.expected = 4
    surveyed.save()
    return surveyed


def test_only_a_filter_part_is_left_out(filtered):
    add_line(filtered, "C8 10u 16V 5x11 leaking")
    with pytest.raises(Blocked) as shut:
        choosing.leave_out(filtered.pk, "C8")
    assert [r.rule for r in shut.value.reasons] == ["no filter"]


def test_left_out_is_tested_and_never_handed_over(client, filtered):
    unit = filtered.unit
    client.post(reverse("choose_out", args=[filtered.pk]), {"place": "C9", "seen": "open"})
    assert unit_state(unit.pk).board(filtered.pk).find("C9").settled_as == "left out"
    assert "C9" in [p.ref for p in unit_state(unit.pk).unsettled], "it is still in, and burst"
    discharge(unit)
    swapping.swapped(filtered.pk, "C9")
    for page in ("intake", "gather", "cold", "power", "handover"):
        html = client.get(reverse(page, args=[unit.pk])).content.decode()
        assert "Unfinished:" in html and "C9 on PS-1" in html, page
    for page in ("survey", "choose", "swap"):
        assert "Unfinished:" in client.get(reverse(page, args=[filtered.pk])).content.decode(), page
    state = pass_up_to(unit, "")
    assert state.proof.proven, "the test itself goes all the way"
    with pytest.raises(Blocked) as shut:
        hand_over(unit.pk)
    assert [r.rule for r in shut.value.reasons] == ["left out"]


def test_what_was_left_out_is_fitted_later_and_then_the_unit_may_leave(filtered):
    unit = filtered.unit
    choosing.leave_out(filtered.pk, "C9")
    discharge(unit)
    swapping.swapped(filtered.pk, "C9")
    with pytest.raises(Blocked):
        choosing.take(filtered.pk, "C9", "anything")
    swapping.take_back(filtered.pk, "C9")
    state, found = unit_state(unit.pk), unit_state(unit.pk).board(filtered.pk).find("C9")
    choosing.take(filtered.pk, "C9", fits.ranking_for(state, found).best.part.part)
    swapping.swapped(filtered.pk, "C9")
    pass_up_to(unit, "")
    hand_over(unit.pk)
    assert unit_state(unit.pk).row.handed_over is not None


def test_a_class_that_contradicts_the_role_is_asked_about(client, filtered):
    add_line(filtered, "C7 100n film X2 role decoupling 18x13 p15 at 40,40 sound")
    for page, name in (("survey", "part"), ("choose", "place")):
        html = client.get(reverse(page, args=[filtered.pk]), {name: "C7"}).content.decode()
        assert "listed as supply decoupling: which is it?" in html, page
