"""A whole supply replaced by a modern unit: its rails, its harness, what it asks cold, and the way back."""

from __future__ import annotations

import pytest
from django.urls import reverse

from idlebench.core.board.replacement import Whole, check_donor, check_wiring, free_name, held_against, read_wire
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail
from idlebench.web.choose import services as choosing
from idlebench.web.intake import replacing
from idlebench.web.keep import removing
from idlebench.web.keep.coming import take_in
from idlebench.web.keep.leaving import export
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Board, Entry, Event, Part, Unit
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
    assert "varies" in held_against(OLD, [read_rail("+5 V 4 A tol 10"), twelve])[0]


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
    assert not proof.status_of(proof.check(rail.key)).passed
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
    assert put_in(client, surveyed).status_code == 409, "the reservoir is not logged as empty"
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


PS = Whole("PS-1", "linear", "T 1 A 250 V", (read_rail("+5 V 2 A"),))


@pytest.mark.parametrize(
    ("old", "new", "wires", "wrong"),
    [
        (PS, Whole("MB-80"), (), "supply board"),
        (Whole("MB-80"), PS, (), "board that is fed"),
        (PS, Whole("PS-1", "linear", "", PS.rails), (), "fuse"),
        (PS, Whole("PS-1", "linear", "T 16 A 250 V", PS.rails), (), "fuse"),
        (PS, Whole("PS-1", "linear", "F1A", PS.rails), (), "fuse"),
        (PS, Whole("PS-1", "linear", PS.fuse, (read_rail("+5 V 1.9 A"),)), (), "at least"),
        (PS, Whole("PS-2", "switching", PS.fuse, PS.rails), (), "harness"),
        (PS, Whole("PS-2", "switching", PS.fuse, PS.rails), ("J1 1 +12V", "J1 2 ground"), "rail"),
        (Whole("MB-80"), Whole("MB-90"), (), "harness"),
        (Whole("MB-80"), Whole("MB-90"), ("J1 1 +9V", "J1 2 ground"), "rail"),
    ],
)
def test_a_donors_board_that_cannot_stand_for_it(old, new, wires, wrong):
    with pytest.raises(BadInput) as told:
        check_donor(old, new, [read_wire(w) for w in wires], [read_rail("+5 V 2 A")])
    assert wrong in str(told.value)


def test_a_donors_board_that_may():
    """The same board takes the plugs as they were; the same fuse is the same however it is written."""
    assert check_donor(PS, Whole("ps-1", "linear", "t1a", PS.rails), (), ()) == ()
    assert check_donor(Whole("MB-80"), Whole("MB-80"), (), ()) == ()
    wires = [read_wire("J1 1 +5V"), read_wire("J1 2 ground")]
    said = check_donor(PS, Whole("PS-2", "switching", "T 1.6 A", PS.rails), wires, ())
    assert "fuse" in said[0] and "not a PS-1" in said[1]
    assert len(free_name("x" * 60, "B", {"x" * 60})) == 60


@pytest.fixture
def donor(machine):
    """A second unit of the job with a supply board of the same name, its store empty; the machine's board and the donor's."""
    mine = machine.boards.get(name="PS-1")
    unit = Unit.objects.create(job=machine.job, name="B")
    facts = {
        f.attname: getattr(mine, f.attname) for f in Board._meta.concrete_fields if f.attname not in ("id", "unit_id")
    }
    return Board.objects.create(unit=unit, **facts)


def bring_in(client, board, donor, keeps="old board in the case, no wire cut", wiring=""):
    return client.post(reverse("donor_board", args=[board.pk]), {"donor": donor.pk, "keeps": keeps, "wiring": wiring})


def names(unit):
    return {b.row.name for b in unit_state(unit.pk).boards}


def test_a_donors_board_stands_for_the_old_one_and_goes_home_again(machine, surveyed, donor, client):
    giver = donor.unit
    page = client.get(reverse("intake", args=[machine.pk])).content.decode()
    assert "PS-1 of unit B" in page
    assert bring_in(client, surveyed, donor).status_code == 302
    assert names(machine) == {"MB-80", "PS-1 of B"} and names(giver) == set()
    assert {"PS-1 removed", "PS-1 of B added"} <= set(
        Event.objects.filter(unit=machine, kind="moved").values_list("words", flat=True)
    )
    assert unit_state(machine.pk).proof.current.key == "cold"
    assert any("PS-1 of unit B in its place" in e.text for e in Entry.objects.filter(unit=machine))
    assert any("given to unit A" in e.text for e in Entry.objects.filter(unit=giver))
    sheet = client.get(reverse("handover", args=[machine.pk])).content.decode()
    assert "by PS-1 of unit B" in sheet and "no wire cut" in sheet
    assert client.post(reverse("board_back", args=[surveyed.pk])).status_code == 302
    assert names(machine) == {"MB-80", "PS-1"} and names(giver) == {"PS-1"}
    back = Board.objects.get(pk=donor.pk)
    assert (back.came_from_id, back.stands_for_id, back.called, back.replaced) == (None, None, "", "")


def test_home_to_a_unit_that_has_another_of_its_name_or_is_closed(machine, surveyed, donor, client):
    giver = donor.unit
    bring_in(client, surveyed, donor)
    Board.objects.create(unit=giver, name="PS-1")
    client.post(reverse("board_back", args=[surveyed.pk]))
    assert names(giver) == {"PS-1", "PS-1 of A, back"}
    Board.objects.get(unit=giver, name="PS-1").delete()
    Board.objects.filter(pk=donor.pk).update(name="PS-1")
    assert bring_in(client, surveyed, Board.objects.get(pk=donor.pk)).status_code == 409, "its store is asked again"
    discharge(machine)
    said = bring_in(client, surveyed, Board.objects.get(pk=donor.pk))
    assert said.status_code == 302, said.content.decode()
    Unit.objects.filter(pk=giver.pk).update(handed_over="2026-01-01T00:00Z")
    client.post(reverse("board_back", args=[surveyed.pk]))
    assert names(machine) == {"MB-80", "PS-1"} and names(giver) == set()
    assert "taken out" in Board.objects.get(pk=donor.pk).replaced


def test_a_modern_unit_in_a_donors_place_and_all_the_way_back(machine, surveyed, donor, client):
    bring_in(client, surveyed, donor)
    put_in(client, Board.objects.get(pk=donor.pk), name="PSU-41")
    assert names(machine) == {"MB-80", "PSU-41"}
    client.post(reverse("board_back", args=[surveyed.pk]))
    assert names(machine) == {"MB-80", "PS-1"} and names(donor.unit) == {"PS-1"}


def test_what_a_donor_cannot_give(machine, surveyed, donor, client):
    giver, fed = donor.unit, machine.boards.get(name="MB-80")
    assert bring_in(client, fed, donor).status_code == 422, "a supply for a fed board"
    assert bring_in(client, surveyed, fed).status_code == 422, "of the same unit"
    assert bring_in(client, surveyed, donor, keeps="no").status_code == 422
    assert client.post(reverse("donor_board", args=[surveyed.pk]), {"donor": "-1"}).status_code == 422
    Board.objects.filter(pk=donor.pk).update(rails="")
    assert bring_in(client, surveyed, donor).status_code == 422, "its rails are not known"
    Board.objects.filter(pk=donor.pk).update(rails=surveyed.rails, fuse="T 16 A 250 V")
    assert bring_in(client, surveyed, donor).status_code == 422, "another fuse in the same board"
    Board.objects.filter(pk=donor.pk).update(fuse=surveyed.fuse)
    Unit.objects.filter(pk=giver.pk).update(handed_over="2026-01-01T00:00Z")
    assert bring_in(client, surveyed, donor).status_code == 409, "the donor is handed over"
    Unit.objects.filter(pk=giver.pk).update(handed_over=None)
    assert names(machine) == {"MB-80", "PS-1"} and names(giver) == {"PS-1"}, "nothing moved"
    assert bring_in(client, surveyed, donor).status_code == 302
    third = Unit.objects.create(job=machine.job, name="C")
    other = Board.objects.create(unit=third, name="PS-1", supply="linear", fuse=surveyed.fuse, rails=surveyed.rails)
    assert bring_in(client, other, Board.objects.get(pk=donor.pk)).status_code == 422, "it stands for another already"
    assert client.post(reverse("move_board", args=[donor.pk]), {"unit": third.pk}).status_code == 422
    assert client.post(reverse("move_board", args=[surveyed.pk]), {"unit": third.pk}).status_code == 422


def test_a_donor_with_power_or_a_charged_store_gives_nothing(surveyed, client):
    unit = surveyed.unit
    giver = Unit.objects.create(job=unit.job, name="B")
    mine = Board.objects.create(unit=giver, name="PS-1", supply="linear", fuse=surveyed.fuse, rails=surveyed.rails)
    assert bring_in(client, mine, surveyed).status_code == 409, "the donor's store is not logged as empty"
    settle(unit)
    pass_up_to(unit, "limited")
    power_at(unit, "limited")
    assert bring_in(client, mine, surveyed).status_code == 409
    assert names(unit) == {"MB-80", "PS-1"} and names(giver) == {"PS-1"}


def test_it_is_removed_and_comes_back_whatever_went_meanwhile(machine, surveyed, donor, client):
    giver = donor.unit
    bring_in(client, surveyed, donor)
    kept = removing.remove("unit", machine.pk)
    removing.remove("unit", giver.pk)
    removing.bring_back(kept.pk)
    assert Board.objects.get(pk=donor.pk).came_from_id is None
    row, words = replacing.bring_back(surveyed.pk)
    assert names(machine) == {"MB-80", "PS-1"} and words == "" and row.replaced == ""


def test_a_donors_board_travels_with_its_job(machine, surveyed, donor, client, tmp_path):
    bring_in(client, surveyed, donor)
    export(machine.job_id, tmp_path / "one.zip")
    came = take_in(tmp_path / "one.zip")
    unit = came.units.get(name="A")
    assert unit.boards.get(name="PS-1 of B").came_from == came.units.get(name="B")
    replacing.bring_back(unit.boards.get(name="PS-1").pk)
    assert names(came.units.get(name="B")) == {"PS-1"}


def test_what_was_never_measured_is_told_without_an_empty_reason(surveyed, client):
    Part.objects.filter(board=surveyed, ref="C3").update(looks="", volts=250.0)
    page = client.get(reverse("sheet", args=[surveyed.unit_id])).content.decode()
    assert "kept, not measured" in page and "judged not measured:" not in page and ": .</" not in page


def test_swaps_of_a_board_that_was_replaced_since_are_not_on_its_sheet(machine, surveyed, client):
    settle(machine)
    page = client.get(reverse("handover", args=[machine.pk])).content.decode()
    swapped = surveyed.parts.exclude(swap=None).count()
    assert swapped and f"{swapped} replaced" in page and "PS-1 C1" in page
    discharge(machine)
    assert put_in(client, surveyed).status_code == 302
    page = client.get(reverse("handover", args=[machine.pk])).content.decode()
    assert "0 replaced" in page and "PS-1 C1" not in page


def test_all_that_a_donors_board_lacks_is_said_at_once():
    old = Whole("PS-1", "linear", "T 1A", (read_rail("+5 V 2 A"), read_rail("+12 V 1 A")))
    new = Whole("PS-9", "linear", "", (read_rail("+5 V 1 A"),))
    with pytest.raises(BadInput) as error:
        check_donor(old, new, (), ())
    assert len(error.value.each) == 3 and {one.field for one in error.value.each} >= {"donor", "wiring"}
