"""Lines that are kept as text: what is stored reads back, one that does not is shown where it stands and hides nothing."""

import pytest
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Board, Part
from idlebench.web.survey import measuring
from idlebench.web.survey.services import add_line, load_csv, paste
from idlebench.web.survey.typed import add_typed
from idlebench.web.unit.state import board_state, unit_state

from .helpers import discharge, pass_up_to, settle

pytestmark = pytest.mark.django_db
PAGES = {"unit": ("intake", "gather", "cold", "power", "handover"), "board": ("survey", "choose", "swap")}


@pytest.mark.parametrize(
    ("field", "line"),
    [("rails", "+0.00005 V"), ("chips", "J1 power +5V"), ("others", "BT1 battery 3.6V " + "x" * 420), ("zones", "heat at 1,1"),
     ("supply_model", "ring 9V store C1")],
)  # fmt: skip
def test_a_stored_line_that_cannot_be_read_is_shown_and_every_page_goes_on(client, surveyed, field, line):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "full")
    board = Board.objects.get(pk=surveyed.pk)
    text = getattr(board, field)
    Board.objects.filter(pk=board.pk).update(**{field: f"{text}\n{line}".strip()})
    for page in PAGES["unit"]:
        html = client.get(reverse(page, args=[surveyed.unit_id])).content.decode()
        assert "A line of PS-1 cannot be read" in html, page
    for page in PAGES["board"]:
        assert client.get(reverse(page, args=[surveyed.pk])).status_code == 200, page
    assert client.get(reverse("bench")).status_code == 200
    with pytest.raises(Blocked) as shut:
        proving.power_on(surveyed.unit_id, "full", unit_state(surveyed.unit_id).last_event)
    assert "unread" in [r.rule for r in shut.value.reasons]


@pytest.mark.parametrize("line", ["J1 power +5V", "J2 out +5V 20x8"])
def test_what_could_not_be_read_again_is_not_taken(client, surveyed, line):
    answer = client.post(reverse("survey", args=[surveyed.pk]), {"line": line})
    assert answer.status_code == 422 and "the pins after" in answer.content.decode()
    assert line.split()[0] not in Board.objects.get(pk=surveyed.pk).chips


def test_a_listed_device_or_chip_is_moved_and_nothing_is_erased(client, surveyed):
    add_typed(surveyed, "VR1 regulator 7805 1A at 10,10")
    add_typed(surveyed, "U7 driver 20x10 at 30,30 gnd 4 +5V 8")
    client.post(reverse("survey", args=[surveyed.pk]), {"line": "VR1 at 80,70"})
    client.post(reverse("survey", args=[surveyed.pk]), {"line": "U7 at 90,60"})
    board = Board.objects.get(pk=surveyed.pk)
    assert "VR1 regulator 7805 1A at 80,70" in board.others.splitlines()
    assert "U7 driver 20x10 at 90,60 gnd 4 +5V 8" in board.chips.splitlines()
    assert not Part.objects.filter(ref="VR1").exists()


@pytest.mark.parametrize(
    "line", ["C9 10u 16V at 130,20", "C1 at 60,81", "VR1 regulator 7805 at 121,5", "U3 cpu 20x10 at 5,-3"]
)
def test_a_point_off_the_board_is_refused(client, surveyed, line):
    before = list(Part.objects.values_list("ref", "x", "y"))
    answer = client.post(reverse("survey", args=[surveyed.pk]), {"line": line})
    assert answer.status_code == 422
    assert list(Part.objects.values_list("ref", "x", "y")) == before
    assert not paste(surveyed, line, good_rows=False).added


def test_a_table_with_a_point_off_the_board_is_told(surveyed):
    loaded = load_csv(surveyed, b"ref,value,x,y\nC20,10u,10,10\nC21,10u,500,10\n", good_rows=False)
    assert loaded.added == 0 and "not on PS-1, which is 120 × 80 mm" in str(loaded.problems[0])


def test_a_capacitance_typed_in_a_run_is_kept_as_one(surveyed):
    add_line(surveyed, "C30 100n 63V film 7.2x6.5 p5 filter at 20,70 sound")
    discharge(surveyed.unit)
    state, board = board_state(surveyed.pk)
    measuring.take(state, board, board.find("C30"), "98n", "0", False)
    part = Part.objects.get(ref="C30")
    assert (part.capacitance, part.esr) == (pytest.approx(98e-9), None)
    state, board = board_state(surveyed.pk)
    from idlebench.core.refusal import BadInput

    with pytest.raises(BadInput, match="neighbours"):
        measuring.take(state, board, board.find("C30"), "98n", "0", True)


def test_a_part_list_pasted_from_a_page_goes_in_with_its_headings(client, surveyed):
    text = "Reference\tValue\tVoltage\tx\ty\nC40\t47u\t16\t10\t20\nR2\t10k\t\t1\t1\nC41\t100 nF\t63\t30\t20\n"
    assert paste(surveyed, text, good_rows=False).added == 2
    part = Part.objects.get(ref="C40")
    assert (part.volts, part.x, part.y) == (16.0, 10.0, 20.0) and not Part.objects.filter(ref="R2").exists()
    bad = paste(surveyed, text.replace("47u", "soon").replace("C40", "C42"), good_rows=False)
    assert bad.added == 0 and "soon" in bad.left[0][2]


def test_a_placement_table_is_loaded_as_a_survey(surveyed):
    loaded = load_csv(
        surveyed, b"Designator;Comment;Mid X;Mid Y;Rotation;Layer\nC50;10uF;20;30;90;Bottom\n", good_rows=False
    )
    assert loaded.added == 1 and Part.objects.get(ref="C50").side == "solder"
