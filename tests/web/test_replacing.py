"""A whole supply replaced by a modern unit: its rails, its harness, what it asks cold, and the way back."""

from __future__ import annotations

import pytest
from django.urls import reverse

from idlebench.core.board.replacement import check_wiring, held_against, read_wire
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail
from idlebench.web.choose import services as choosing
from idlebench.web.keep.coming import take_in
from idlebench.web.keep.leaving import export
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Board, Event
from idlebench.web.unit.state import unit_state
from idlebench.web.unit.wanted import places

from .helpers import discharge, good_text, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db

OLD = [read_rail("+5 V 2 A min 0.5 A"), read_rail("+12 V 0.5 A")]
TYPED = {
    "name": "PSU-40", "fuse": "T 1 A 250 V", "rails": "+5 V 4 A min 0.2 A", "wiring": "J1 1 +5V\nJ1 2 +5V\nJ1 3 ground",
    "keeps": "old board in the case, no wire cut", "width": "100", "height": "60",
}  # fmt: skip


@pytest.mark.parametrize(
    ("line", "to"), [("J1 1 +5V", "+5 V"), ("j1.2 to -12 V", "−12 V"), ("CN3-4 gnd", "ground"), ("J1 5 PE", "earth")]
)
def test_wires_as_typed(line, to):
    wire = read_wire(line)
    assert wire.to == to and read_wire(wire.as_line()) == wire


@pytest.mark.parametrize("line", ["", "J1", "J1 1", "J1 1 red", "1 +5V", "J1 1 5", "x" * 99])
def test_what_is_no_wire(line):
    with pytest.raises(BadInput):
        read_wire(line)


@pytest.mark.parametrize(
    "wires",
    [["J1 1 +5V", "J1 1 ground"], ["J1 1 +5V", "J1 2 +9V", "J1 3 ground"], ["J1 3 ground"], ["J1 1 +5V"], []],
)
def test_a_harness_that_cannot_be(wires):
    with pytest.raises(BadInput):
        check_wiring([read_wire(line) for line in wires], [read_rail("+5 V 4 A")])


def test_a_new_unit_makes_all_that_the_old_one_made():
    """2 A asked: 1.9 A are refused; its least load of 0.6 A over the old 0.5 A is looked at twice."""
    twelve = read_rail("+12 V 1 A")
    for bad in (["+12 V 1 A"], ["+5 V 1.9 A", "+12 V 1 A"], ["+5 V 4 A"]):
        with pytest.raises(BadInput):
            held_against(OLD, [read_rail(line) for line in bad])
    assert held_against(OLD, [read_rail("+5 V 2 A min 0.5 A"), twelve]) == ()
    assert "load resistor" in held_against(OLD, [read_rail("+5 V 4 A min 0.6 A"), twelve])[0]
    assert "strays" in held_against(OLD, [read_rail("+5 V 4 A tol 10"), twelve])[0]


@pytest.fixture
def machine(surveyed):
    discharge(surveyed.unit)
    return surveyed.unit


def put_in(client, board, **more):
    return client.post(reverse("replace_board", args=[board.pk]), {**TYPED, **more})


def test_a_supply_gives_way_and_comes_back(machine, surveyed, client):
    choosing.take_all(surveyed.pk)
    assert places()
    assert put_in(client, surveyed).status_code == 302
    new = Board.objects.get(name="PSU-40")
    state = unit_state(machine.pk)
    assert [b.row.name for b in state.boards] == ["MB-80", "PSU-40"] and not places()
    asked = {c.point for c in state.proof.steps[0].checks}
    assert "plug J1 1 to +5 V of PSU-40" in asked and "fuse holder" in asked and "earth pin to bare metal" in asked
    assert not any("C1" in point for point in asked), "what is out asks nothing"
    assert any(step.key == "full" for step in state.proof.steps), "the way up is made for the new one"
    for page in ("survey", "choose", "swap", "supply"):
        assert client.get(reverse(page, args=[surveyed.pk])).status_code == 404
        assert client.get(reverse(page, args=[new.pk])).status_code == 200
    assert "no wire cut" in client.get(reverse("intake", args=[machine.pk])).content.decode()
    assert client.post(reverse("board_back", args=[surveyed.pk])).status_code == 302
    assert {b.row.name for b in unit_state(machine.pk).boards} == {"PS-1", "MB-80"} and places()
    assert client.post(reverse("board_back", args=[surveyed.pk])).status_code == 422


def test_the_way_back_over_two_replacements_and_a_new_name(machine, surveyed, client):
    put_in(client, surveyed, name="PSU on loan")
    first = Board.objects.get(name="PSU on loan")
    put_in(client, first, name="PSU-41")
    Board.objects.filter(name="PSU-41").update(name="Renamed")
    assert {b.row.name for b in unit_state(machine.pk).boards} == {"MB-80", "Renamed"}
    client.post(reverse("board_back", args=[surveyed.pk]))
    assert {b.row.name for b in unit_state(machine.pk).boards} == {"MB-80", "PS-1"}


def test_what_was_proven_is_asked_again(machine, surveyed, client):
    rail = next(c for c in unit_state(machine.pk).proof.steps[0].checks if c.fact == "no short" and c.board == "MB-80")
    proving.take_reading(machine.pk, rail.key, good_text(rail))
    before = Event.objects.filter(kind="moved").count()
    put_in(client, surveyed)
    proof = unit_state(machine.pk).proof
    assert not proof.standing(proof.check(rail.key)).passed
    assert Event.objects.filter(kind="moved").count() == before + 2, "one went, one came"


@pytest.mark.parametrize(
    "wrong",
    [
        {"rails": ""}, {"rails": "+12 V 1 A"}, {"rails": "+5 V 1 A"}, {"fuse": ""}, {"keeps": "no"}, {"wiring": ""}, {"name": ""},
        {"wiring": "J1 1 +5V"}, {"wiring": "J1 1 +12V\nJ1 2 ground"}, {"name": "MB-80"},
    ],
)  # fmt: skip
def test_what_cannot_take_its_place_is_said_and_nothing_moves(machine, surveyed, client, wrong):
    response = put_in(client, surveyed, **wrong)
    assert response.status_code == 422 and Board.objects.count() == 2
    assert not Board.objects.exclude(replaced="").exists()


def test_hands_off_a_live_or_charged_unit(surveyed, client):
    unit = surveyed.unit
    assert put_in(client, surveyed).status_code == 409, "the store is not logged as empty"
    settle(unit)
    pass_up_to(unit, "limited")
    power_at(unit, "limited")
    assert put_in(client, surveyed).status_code == 409
    assert put_in(client, unit.boards.get(name="MB-80")).status_code in (409, 422)
    assert Board.objects.count() == 2


def test_it_travels_with_its_job(machine, surveyed, client, tmp_path):
    put_in(client, surveyed)
    one, two = tmp_path / "one.zip", tmp_path / "two.zip"
    export(machine.job_id, one)
    came = take_in(one)
    export(came.pk, two)
    assert one.read_bytes() == two.read_bytes()
    assert [b.row.name for b in unit_state(came.units.get().pk).boards] == ["MB-80", "PSU-40"]
