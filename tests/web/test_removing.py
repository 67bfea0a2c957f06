"""Removed by mistake: asked once, undone once, logged, kept for thirty days; never while there is power."""

import pytest
import time_machine
from django.apps import apps
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.keep import removing
from idlebench.web.ledger.services import hand_over
from idlebench.web.records.models import Board, Entry, Job, Part, Photo, Removed, Unit
from idlebench.web.survey.undoing import undo
from idlebench.web.unit.state import unit_state
from tests import typed

from .helpers import before_power, discharge, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db
BUT = ("Revision", "Removed", "CatalogueItem", "ShelfDevice", "Entry", "Event", "Summary")


def everything() -> dict[str, list[tuple]]:
    """Every row of the bench, but the shelf, the log and the record of events."""
    models = [m for m in apps.get_app_config("records").get_models() if m.__name__ not in BUT]
    # a unit's turn counts on with whatever is done to it
    columns = {m: [f.attname for f in m._meta.concrete_fields if f.name != "turn"] for m in models}
    return {m.__name__: sorted(m.objects.values_list(*columns[m]), key=str) for m in models}


@pytest.mark.parametrize("kind", ["job", "unit", "board", "part"])
def test_all_of_it_comes_back_as_it_was(client, demo, kind):
    row = {
        "job": Job.objects.first(),
        "unit": Unit.objects.get(name="B"),
        "board": Board.objects.get(unit__name="B", name="MB-80"),
        "part": Part.objects.get(board__unit__name="B", board__name="MB-80", ref="C2"),
    }[kind]
    before, log = everything(), Entry.objects.count()
    address = reverse("remove", args=[kind, row.pk])
    asked = client.get(address).content.decode()
    assert "kept for 30 days" in asked and (kind == "part" or " parts" in asked) and everything() == before, (
        "asking removes nothing"
    )
    answer = client.post(address)
    assert answer.status_code == 302 and not type(row).objects.filter(pk=row.pk).exists()
    assert removing.title_of(row) in client.get(answer.url).content.decode()
    for page in ("bench", "ledger", "shelf"):
        assert client.get(reverse(page)).status_code == 200
    kept = Removed.objects.get()
    back = client.post(reverse("bring_back", args=[kept.pk]))
    assert back.status_code == 302 and client.get(back.url).status_code == 200
    assert everything() == before and Entry.objects.count() > log
    assert client.post(reverse("bring_back", args=[kept.pk])).status_code == 404, "undone once"


def test_a_board_gone_and_back_is_asked_again(surveyed):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "")
    assert unit_state(surveyed.unit_id).proof.proven
    board = surveyed.unit.boards.get(name="MB-80")
    kept = removing.remove("board", board.pk)
    assert not unit_state(surveyed.unit_id).proof.proven
    removing.bring_back(kept.pk)
    proof = unit_state(surveyed.unit_id).proof
    assert (
        not proof.proven and "a board was added or removed" in proof.status_of(proof.check("up.full.+5-v.volts")).void
    )


@pytest.mark.parametrize("kind", ["job", "unit", "board"])
def test_nothing_is_removed_while_it_has_power(client, surveyed, kind):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "limited")
    before_power(surveyed.unit)
    power_at(surveyed.unit, "limited")
    pk = {"job": surveyed.unit.job_id, "unit": surveyed.unit_id, "board": surveyed.pk}[kind]
    assert client.post(reverse("remove", args=[kind, pk])).status_code == 409
    assert not Removed.objects.exists() and Part.objects.count() == 3


def test_a_board_of_a_unit_that_was_handed_over_stays(surveyed):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "")
    hand_over(surveyed.unit_id)
    with pytest.raises(Blocked):
        removing.remove("board", surveyed.pk)


def test_a_part_that_is_swapped_stays_and_a_removed_one_asks_again(surveyed):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "")
    swapped, other = (Part.objects.get(ref=ref).pk for ref in ("C1", "C3"))
    with pytest.raises(Blocked) as shut:
        removing.remove("part", swapped)
    assert [r.rule for r in shut.value.reasons] == ["swapped"]
    kept = removing.remove("part", other)
    assert unit_state(surveyed.unit_id).proof.proven, "a line off the list touches nothing"
    board = removing.remove("board", surveyed.pk)
    with pytest.raises(Blocked):
        removing.bring_back(kept.pk)
    removing.bring_back(board.pk)
    removing.bring_back(kept.pk)
    assert Part.objects.filter(pk=other).exists()


def test_what_it_belongs_to_comes_back_first(client, surveyed):
    discharge(surveyed.unit)
    board, unit = removing.remove("board", surveyed.pk), removing.remove("unit", surveyed.unit_id)
    refused = client.post(reverse("bring_back", args=[board.pk]))
    assert refused.status_code == 409 and "Bring the unit back first" in refused.content.decode()
    removing.bring_back(unit.pk)
    removing.bring_back(board.pk)
    assert Board.objects.filter(pk=surveyed.pk).exists() and Part.objects.count() == 3


def test_a_name_that_is_taken_meanwhile_is_told_and_nothing_is_lost(surveyed):
    discharge(surveyed.unit)
    kept = removing.remove("board", surveyed.pk)
    typed.add_board(surveyed.unit, {"name": "PS-1", "supply": "linear", "width": "120", "height": "80"})
    try:
        removing.bring_back(kept.pk)
    except Blocked as shut:
        assert "Another one has that name" in shut.reasons[0].text and Removed.objects.exists()
    else:
        assert Board.objects.filter(unit=surveyed.unit, name="PS-1").count() == 2, (
            "or two of one name stand beside each other"
        )


def test_an_undo_after_it_came_back_undoes_what_was_done_before(surveyed):
    """Going away whole leaves nothing for Survey's undo to meet."""
    discharge(surveyed.unit)
    kept = removing.remove("board", surveyed.pk)
    removing.bring_back(kept.pk)
    assert "C3" in undo(Board.objects.get(pk=surveyed.pk))
    assert Part.objects.filter(board=surveyed).count() == 2


def test_after_thirty_days_it_is_let_go_with_its_photos(demo):
    photo = Photo.objects.first()
    with time_machine.travel("2026-03-01 10:00:00+00:00", tick=False) as clock:
        removing.remove("unit", photo.unit_id)
        assert photo.path.exists(), "kept as long as it can come back"
        clock.move_to("2026-03-31 09:59:00+00:00")
        assert removing.sweep() == 0
        clock.move_to("2026-03-31 10:01:00+00:00")
        assert removing.sweep() == 1 and not Removed.objects.exists()


def test_two_requests_at_once_remove_it_once(client, surveyed):
    discharge(surveyed.unit)
    address = reverse("remove", args=["board", surveyed.pk])
    assert [client.post(address).status_code, client.post(address).status_code] == [302, 404]
    assert Removed.objects.count() == 1


@pytest.mark.parametrize("address", ["/remove/shelf/1/", "/remove/unit/999999/", "/removed/99/back/"])
def test_what_is_not_there_is_told(client, address):
    there = (Job.objects.count(), Unit.objects.count(), Removed.objects.count())
    assert client.post(address).status_code == 404
    assert (Job.objects.count(), Unit.objects.count(), Removed.objects.count()) == there
