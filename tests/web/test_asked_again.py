"""What was true once and is not any more is asked again: by request, as a person would come upon it."""

import pytest
from django.urls import reverse

from idlebench.web.survey.services import add_line
from idlebench.web.unit.state import unit_state
from tests import typed

from .helpers import pass_up_to, settle

pytestmark = pytest.mark.django_db
FACTS = {"name": "PS-1", "supply": "switching", "width": "120", "height": "80", "expected": "3", "fuse": "T 1 A 250 V"}


@pytest.fixture
def proven(surveyed):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "")
    assert unit_state(surveyed.unit_id).proof.proven
    return surveyed


def void(unit: int, name: str) -> str:
    proof = unit_state(unit).proof
    return proof.status_of(proof.check(name)).void


def describe(client, board, **facts):
    answer = client.post(reverse("board_facts", args=[board.pk]), {**FACTS, "rails": "+5 V 2 A min 0.5 A", **facts})
    assert answer.status_code == 302


def test_a_rail_typed_wide_and_back(client, proven):
    for line in ("+5 V 2 A min 0.5 A tol 50", "+5 V 2 A min 0.5 A"):
        describe(client, proven, rails=line)
    for name in ("up.full.+5-v.volts", "up.feed.+5-v.volts", "cold.rail.ps-1.+5-v"):
        assert "PS-1, its rails" in void(proven.unit_id, name)


def test_another_fuse_marking(client, proven):
    describe(client, proven, fuse="T 16 A 250 V")
    assert "another fuse is marked since" in void(proven.unit_id, "cold.fuse.ps-1")
    describe(client, proven)
    assert void(proven.unit_id, "cold.fuse.rating.ps-1"), "changed back, and asked all the same"


def test_a_store_listed_anew_at_more_volts(client, proven):
    add_line(proven, "C1 worst 450")
    assert "the capacitor was changed after it" in void(proven.unit_id, "cold.discharge.ps-1.c1")


def test_boards_of_one_name_exchanged_by_renaming(client, proven):
    """Another unit's PS-1 comes in under the name of the one that was proven here."""
    other = typed.add_board(proven.unit.job.units.create(name="B"), FACTS)
    describe(client, proven, name="PS-old")
    answer = client.post(reverse("move_board", args=[other.pk]), {"unit": proven.unit_id})
    assert answer.status_code == 302
    proof = unit_state(proven.unit_id).proof
    mine = proof.check("cold.fuse.ps-1")
    assert mine.key == f"cold.fuse.b{other.pk}" and proof.status_of(mine).event is None, "nothing was read of this one"
    assert "a board was added or removed after it" in void(proven.unit_id, "up.full.+5-v.volts")
