"""The stripe finder's page: the data line, its ways end to end, the wire, and what is refused."""

import pytest
from django.urls import reverse

from idlebench.web.records.models import Clue, Unit
from idlebench.web.survey import services as surveying

from .helpers import discharge

pytestmark = pytest.mark.django_db
NETS = b"net,ref,pin,use\nD3,U1,10,\nD3,U8,2,\nD3,U2,13,\nD4,U1,11,\nD4,U9,2,\n+5V,U1,40,\n"


@pytest.fixture
def board(surveyed):
    fed = surveyed.unit.boards.get(name="MB-80")
    fed.chips = "U1 processor 46x14 at 60,27\nU8 memory 15x35 at 100,72\nU2 video 43x14 at 157,27"
    fed.save()
    # a store that can hurt a meter: it is read empty before anything there is
    surveying.paste(fed, "C40 2200u 35V 16x25 p7.5 bulk rail +24V worst 30 at 30,30", good_rows=False)
    surveying.load_nets(fed, NETS, good_rows=False)
    return fed


def page(client, board, **asked):
    return client.get(reverse("stripes", args=[board.pk]), asked)


def log(client, board, way, ohms, **asked):
    return client.post(
        reverse("stripes_read", args=[board.pk]),
        {"way": way, "ohms": ohms, "width": "8", "order": "msb", "offset": "4", **asked},
    )


def test_a_typed_stripe_leads_to_its_ways_and_an_open_one_to_its_wire(client, board):
    assert "tested" not in page(client, board).context
    shown = page(client, board, width="8", order="msb", offset="12")
    assert shown.context["bit"] == 3 and [t.way.b for t in shown.context["tested"]] == ["U8 2", "U2 13"]
    assert shown.context["picture"]["scene"].mends, "drawn from end to end"
    assert log(client, board, "D3: U1 10 to U8 2", "OL").status_code == 409, (
        "nothing is read before the stores are empty"
    )
    discharge(board.unit)
    assert log(client, board, "D3: U1 10 to U8 2", "OL").status_code == 302
    assert log(client, board, "D3: U1 10 to U2 13", "0.4").status_code == 302
    told = {t.way.b: t for t in page(client, board, width="8", offset="4").context["tested"]}
    assert (told["U2 13"].state, told["U2 13"].mend, told["U8 2"].state) == ("passed", "", "failed")
    mended = client.post(reverse("mend", args=[board.pk]), {"mend": told["U8 2"].mend})
    assert mended.status_code == 302 and board.mends.get().net == "D3"
    # what was read before the wire counts no more, and its continuity is a cold check
    assert {t.state for t in page(client, board, width="8", offset="4").context["tested"]} == {"not yet"}
    cold = client.get(reverse("cold", args=[board.unit_id])).content.decode()
    assert "U1 10 to U8 2" in cold and "OL" in cold


@pytest.mark.parametrize(
    ("way", "ohms"),
    [("D3: U1 10 to U9 2", "0.4"), ("D3", "0.4"), ("", ""), ("D3: U1 10 to U8 2", "lots"), ("D3: U1 10 to U8 2", "-4"), ("D3: U1 10 to U8 2", "")],
)  # fmt: skip
def test_what_is_no_way_and_no_ohms_is_refused(client, board, way, ohms):
    discharge(board.unit)
    assert log(client, board, way, ohms).status_code == 422 and not Clue.objects.exists()


@pytest.mark.parametrize(
    "asked",
    [{"offset": "3.5"}, {"offset": "-1"}, {"offset": "x"}, {"offset": "3", "width": "7"}, {"offset": "3", "order": "up"}, {"offset": "9" * 30}],
)  # fmt: skip
def test_a_stripe_that_cannot_be_is_said(client, board, asked):
    shown = page(client, board, **asked)
    assert shown.status_code == 422 and b'role="alert"' in shown.content


def test_a_board_without_nets_says_where_to_load_them(client, surveyed):
    html = page(client, surveyed, width="8", offset="3").content.decode()
    assert "has no netlist" in html and reverse("survey", args=[surveyed.pk]) in html


def test_the_marks_on_a_photo_count_the_pixel(client, demo):
    unit = Unit.objects.get(name="B")
    photo, board = unit.photos.first(), unit.boards.get(name="MB-80")
    marks = {
        "photo": photo.pk,
        "left": "100",
        "right": "740",
        "at": "112.5",
        "across": "640",
        "width": "8",
        "order": "msb",
    }
    shown = page(client, board, **marks)
    assert shown.context["counted"] == 12 and shown.context["bit"] == 3 and len(shown.context["tested"]) == 3
    assert page(client, board, **marks | {"at": "50"}).status_code == 422
    # a photo of another unit is none of this board's
    other = Unit.objects.get(name="A").boards.first()
    assert page(client, other, photo=photo.pk).context["photo"] is None
