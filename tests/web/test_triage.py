"""Triage by request, and a board moved from one unit to another, logged on both."""

import pytest
from django.urls import reverse

from idlebench.web.records.models import Board, Entry, PowerSession, Unit
from idlebench.web.unit.state import unit_state

from .helpers import discharge, pass_up_to, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def other(surveyed):
    """A second unit of the same job, bare."""
    return Unit.objects.create(job=surveyed.unit.job, name="B")


def move(client, board, to):
    return client.post(reverse("move_board", args=[board.pk]), {"unit": to.pk})


def test_worth_turns_the_suggestion(client, surveyed):
    unit, page = surveyed.unit, reverse("triage", args=[surveyed.unit.job_id])
    rows = client.get(page).context["rows"]
    assert rows[0][1].suggestion == "wait"
    for worth, suggestion in (("500", "repair"), ("1", "donor")):
        assert client.post(reverse("worth", args=[unit.pk]), {"worth": worth, "damage": "1"}).status_code == 302
        assert client.get(page).context["rows"][0][1].suggestion == suggestion
    said = list(Entry.objects.filter(kind="triage").order_by("pk").values_list("text", flat=True))
    assert said == [f"Worth €{worth}.00, damaged pads or traces: 1." for worth in (500, 1)]


@pytest.mark.parametrize(
    ("field", "text", "said"),
    [("worth", "-5", "at least 0"), ("worth", "lots", "a number"), ("damage", "2.5", "whole")],
)
def test_bad_worth_is_said_at_its_unit(client, surveyed, field, text, said):
    response = client.post(reverse("worth", args=[surveyed.unit_id]), {field: text})
    assert (
        response.status_code == 422
        and said in response.content.decode()
        and f'value="{text}"' in response.content.decode()
    )


def test_what_is_done_is_not_reckoned_again(client, surveyed):
    page = reverse("triage", args=[surveyed.unit.job_id])
    before = client.get(page).context["rows"][0][1].minutes
    settle(surveyed.unit)
    assert client.get(page).context["rows"][0][1].minutes < before


def test_a_board_moves_with_its_parts_and_both_logs_say_so(client, surveyed, other):
    here = surveyed.unit
    assert move(client, surveyed, other).status_code == 409, "its store may be charged"
    discharge(here)
    assert move(client, surveyed, other).status_code == 302
    assert [p.ref for p in unit_state(other.pk).parts] == ["C1", "C2", "C3"]
    assert "PS-1 given to unit B." in Entry.objects.filter(unit=here).values_list("text", flat=True)
    assert any(
        "PS-1 taken from unit A" in text for text in Entry.objects.filter(unit=other).values_list("text", flat=True)
    )


def test_a_moved_boards_checks_are_asked_again(client, surveyed, other):
    settle(surveyed.unit)
    assert pass_up_to(surveyed.unit, "limited").proof.current.key == "limited"
    move(client, surveyed, other)
    assert unit_state(other.pk).proof.current.key == "cold"
    assert client.post(reverse("power_on", args=[other.pk]), {"step": "limited"}).status_code == 409


def test_moves_that_cannot_be(client, surveyed, other):
    discharge(surveyed.unit)
    assert move(client, surveyed, surveyed.unit).status_code == 422
    Board.objects.create(unit=other, name="PS-1")
    twice = move(client, surveyed, other)
    assert twice.status_code == 422 and "does not have" in twice.content.decode()
    other.boards.all().delete()
    session = PowerSession.objects.create(unit=other, step="full", title="x", began="2026-01-01T00:00Z")
    live = move(client, surveyed, other)
    assert live.status_code == 409 and "Unit B has power" in live.content.decode()
    session.delete()
    Unit.objects.filter(pk=other.pk).update(handed_over="2026-01-01T00:00Z")
    assert move(client, surveyed, other).status_code == 409
    surveyed.refresh_from_db()
    assert surveyed.unit.name == "A"
