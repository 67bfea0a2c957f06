"""Parts found in the photo under a board: looked for, listed, set aside, alike ones together; nothing is a part by itself."""

from __future__ import annotations

import io
import json
from dataclasses import replace

import pytest
from django.urls import reverse
from django.utils import timezone
from PIL import Image, ImageDraw

from idlebench.core.board.parts import Fitted
from idlebench.core.choose.need import need_of
from idlebench.core.photo.listing import from_photo
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.photos.services import Pin, lay_under, take_away, take_photo
from idlebench.web.records.models import Board, Entry, Part, Photo
from idlebench.web.survey import photo_finding as finding
from idlebench.web.unit.photo_seen import second_looks
from idlebench.web.unit.state import board_state

pytestmark = pytest.mark.django_db

#: Pixels to the mm, and the cans that are drawn: x, y, diameter in mm.
SCALE = 10
CANS = ((30.0, 30.0, 10.0), (60.0, 31.0, 10.0), (95.0, 30.0, 16.0), (40.0, 70.0, 10.0))


def drawn() -> bytes:
    """A photo of a board of 120 × 100 mm with four cans, the stripe of each on its right, and a chip."""
    image = Image.new("RGB", (120 * SCALE, 100 * SCALE), (34, 92, 48))
    draw = ImageDraw.Draw(image)
    for x, y, diameter in CANS:
        for radius, colour in ((diameter / 2, (50, 48, 54)), (diameter * 0.42, (190, 192, 196))):
            box = [(v - radius) * SCALE for v in (x, y)] + [(v + radius) * SCALE for v in (x, y)]
            if radius == diameter / 2:
                draw.ellipse(box, fill=colour)
                draw.pieslice(box, -33, 33, fill=(222, 224, 226))
            else:
                draw.ellipse(box, fill=colour)
    draw.rectangle([80 * SCALE, 66 * SCALE, 100 * SCALE, 73 * SCALE], fill=(30, 30, 34))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=95)
    return out.getvalue()


@pytest.fixture
def board(surveyed) -> Board:
    """A board of 120 × 100 mm without parts, its photo squared up under it."""
    board = Board.objects.create(unit=surveyed.unit, name="IF-2", width=120, height=100, expected=4)
    laid(board)
    return board


def laid(board: Board) -> None:
    """A photo of it taken and squared up, edge to edge."""
    photo, _ = take_photo(board.unit, drawn(), "board.jpg", Pin(board=board))
    across, down = float(photo.width), float(photo.height)
    corners = [(0.0, 0.0), (across, 0.0), (across, down), (0.0, down)]
    lay_under(board, "parts", photo, corners, [(0.0, 0.0), (120.0, 0.0), (120.0, 100.0), (0.0, 100.0)])


@pytest.fixture
def seen(board) -> Board:
    """The same, looked at: what the process that looks would have kept of the four cans and the chip."""
    common = {"share": 0.97, "other": None, "width": None, "height": None, "angle": 0.0, "ref": None, "text": None}
    parts = [
        {
            **common,
            "x": x,
            "y": y,
            "kind": "can",
            "diameter": d,
            "seen": d,
            "stripe": 2.0,
            "colour": [20, 0, 0],
            "top": [x, y],
        }
        for x, y, d in CANS
    ]
    chip = {
        **common,
        "x": 90.0,
        "y": 69.5,
        "kind": "box",
        "diameter": None,
        "seen": None,
        "stripe": None,
        "colour": [0, 0, 0],
    }
    chip |= {"width": 20.0, "height": 7.0, "top": [90.0, 69.5], "ref": "U4", "text": "74-08"}
    kept = {"parts": [*parts, chip], "distance": 310.0, "read": True, "away": []}
    board.underlays.get().found_path.write_text(json.dumps(kept))
    return board


def of(board: Board) -> finding.Findings:
    found = finding.findings(board_state(board.pk)[1], board.underlays.get())
    assert found is not None
    return found


def post(client, board, what, **sent):
    return client.post(reverse(f"found_{what}", args=[board.pk]), sent)


def test_it_looks_in_a_process_of_its_own_and_proposes(board):
    said: list[str] = []
    count = finding.find(board_state(board.pk)[1], said.append)
    found = of(board)
    cans = [one.found for one in found.proposals if one.found.kind == "can"]
    assert count == 5 and said[0] == "Opening the photo"
    assert {(round(c.x), round(c.y), c.diameter) for c in cans} == {(int(x), int(y), d) for x, y, d in CANS}
    assert all(abs((c.stripe + 90) % 360 - 90) < 12 for c in cans)
    assert not board.parts.exists(), "nothing is a part by itself"


def test_the_page_counts_and_takes_what_is_typed(client, seen):
    assert "4" in client.get(reverse("found", args=[seen.pk])).content.decode()
    number = of(seen).open[0].number
    response = post(client, seen, "take", at=number, line="C1 100u 25V")
    assert response.status_code == 302
    part = Part.objects.get(board=seen, ref="C1")
    assert (part.x, part.y, part.diameter, part.angle, part.side) == (30.0, 30.0, 10.0, 0.0, "parts")
    assert (part.value, part.volts) == (pytest.approx(100e-6), 25)
    assert of(seen).of(number).listed == "C1"
    assert "place from the photo" in Entry.objects.filter(unit=seen.unit).first().text


def test_the_room_to_its_neighbour_is_what_choose_reckons_with(client, seen):
    one = next(one for one in of(seen).open if one.found.x == 95.0)
    post(client, seen, "take", at=one.number, line="C1 1000u 25V")
    part = Part.objects.get(board=seen, ref="C1")
    assert part.room_diameter is None, "what is so far off leaves room enough"
    two = next(one for one in of(seen).open if one.found.x == 60.0)
    room = replace(two.found, x=44.0, y=30.0)
    assert from_photo(room, Fitted(ref="C9", value=1e-4), (), (17.9, "C1")).room_diameter == 17.3
    told = need_of(from_photo(room, Fitted(ref="C9", value=1e-4), (), (17.9, "C1"))).working()
    assert any("room from a photo" in line.formula for line in told.lines)


def test_height_is_asked_where_a_lid_is_near_and_nowhere_else(client, seen):
    page, (one, *_) = reverse("found", args=[seen.pk]), of(seen).open
    assert "add its size" not in client.get(page, {"at": one.number}).content.decode()
    seen.zones = "lid 18 screening can at 30,30 30x30"
    seen.save()
    text = " ".join(client.get(page, {"at": one.number}).content.decode().split())
    assert "Only 18 mm high here, under screening can: add its size" in text
    assert "add its size" not in client.get(page, {"at": of(seen).open[2].number}).content.decode()


def test_words_that_are_not_understood_are_told_and_kept_as_a_note(client, seen):
    one = of(seen).open[0]
    answer = client.post(
        reverse("found_take", args=[seen.pk]), {"at": one.number, "line": "C7 100u 25V wobble"}, follow=True
    )
    assert "Not understood, saved as a note: wobble" in answer.content.decode()
    assert seen.parts.get(ref="C7").note.startswith("wobble")


def test_what_is_typed_stands_over_the_photo(client, seen):
    post(client, seen, "take", at=of(seen).open[0].number, line="C1 100u 25V 8x11.5 angle 90 at 29,31")
    part = Part.objects.get(board=seen, ref="C1")
    assert (part.x, part.y, part.diameter, part.angle) == (29.0, 31.0, 8.0, 90.0)


def test_one_listed_without_a_place_gets_it_from_the_photo(client, seen):
    from idlebench.web.survey.services import add_line

    add_line(seen, "C2 47u 16V")
    post(client, seen, "take", at=of(seen).open[0].number, line="C2")
    part = Part.objects.get(board=seen, ref="C2")
    assert (part.x, part.diameter, part.value) == (30.0, 10.0, pytest.approx(47e-6))


def test_alike_ones_are_listed_together_in_the_order_they_are_read(client, seen):
    post(client, seen, "take", at=of(seen).open[0].number, line="C1 100u 25V esr 0.5 bulging")
    page = client.get(f"{reverse('found', args=[seen.pk])}?like=C1").content.decode()
    assert "2 more look like C1" in page
    response = post(client, seen, "alike", like="C1")
    assert response.status_code == 302
    assert list(Part.objects.filter(board=seen).order_by("ref").values_list("ref", "x", "y", "volts", "esr", "looks")) == [
        ("C1", 30.0, 30.0, 25.0, 0.5, "bulging"), ("C2", 60.0, 31.0, 25.0, None, ""), ("C3", 40.0, 70.0, 25.0, None, ""),
    ]  # fmt: skip
    assert post(client, seen, "alike", like="C1").status_code == 302, "again: none is left, and none is doubled"
    assert Part.objects.filter(board=seen).count() == 3


def test_a_part_of_another_kind_is_listed_at_its_place(client, seen):
    chip = next(one for one in of(seen).open if one.found.kind == "box")
    assert chip.found.ref == "U4" and chip.name == "U4?"
    response = post(client, seen, "take", at=chip.number, line="R4 47 5W")
    assert response.status_code == 302
    assert of(seen).of(chip.number).listed == "R4"


def test_a_chip_has_the_size_it_was_found_with_and_is_listed_once(client, seen):
    chip = next(one for one in of(seen).open if one.found.kind == "box")
    post(client, seen, "take", at=chip.number, line="U4 logic gnd 7")
    listed = board_state(seen.pk)[1].chips[0]
    assert (listed.ref, listed.width, listed.height, listed.x, listed.y) == ("U4", 20.0, 7.0, 90.0, 69.5)
    assert of(seen).of(chip.number).listed == "U4"
    other = of(seen).open[0].number
    assert post(client, seen, "take", at=other, line="U4 logic").status_code == 422
    assert board_state(seen.pk)[1].chips[0].x == 90.0, "it was not moved"


def test_not_a_part_and_back(client, seen):
    number = of(seen).open[0].number
    post(client, seen, "aside", at=number)
    assert of(seen).of(number).away and number not in [one.number for one in of(seen).open]
    post(client, seen, "aside", at=number, back=1)
    assert not of(seen).of(number).away


def test_after_the_last_none_is_in_hand(client, seen):
    for one in of(seen).open:
        response = post(client, seen, "aside", at=one.number)
    assert "Nothing found waits" in client.get(response.url).content.decode()


def test_a_removed_part_is_proposed_again(client, seen):
    number = of(seen).open[0].number
    post(client, seen, "take", at=number, line="C1 100u 25V")
    Part.objects.get(board=seen, ref="C1").delete()
    assert of(seen).of(number).open


@pytest.mark.parametrize(
    ("what", "sent"),
    (
        ("take", {"at": "0", "line": ""}),
        ("take", {"at": "0", "line": "C1"}),
        ("take", {"at": "0", "line": "C1 100u 25V at 500,500"}),
        ("take", {"at": "99", "line": "C1 100u 25V"}),
        ("take", {"at": "-1", "line": "C1 x"}),
        ("aside", {"at": "99"}),
        ("aside", {"at": ""}),
        ("aside", {"at": "1 or 1"}),
        ("alike", {"like": ""}),
        ("alike", {"like": "C77"}),
    ),
)
def test_what_cannot_be_taken_is_told_and_changes_nothing(client, seen, what, sent):
    response = post(client, seen, what, **sent)
    assert response.status_code == 422 and 'role="alert"' in response.content.decode()
    assert not Part.objects.filter(board=seen).exists() and len(of(seen).open) == 5


def test_a_place_is_taken_once_and_a_reference_too(client, seen):
    first, second = (one.number for one in of(seen).open[:2])
    post(client, seen, "take", at=first, line="C1 100u 25V")
    assert post(client, seen, "take", at=first, line="C9 100u 25V").status_code == 422
    assert post(client, seen, "take", at=second, line="C1").status_code == 422
    assert post(client, seen, "take", at=second, line="C1 47u 16V").status_code == 422
    assert Part.objects.filter(board=seen).count() == 1


def test_two_who_list_the_same_at_once_list_it_once(seen):
    found = of(seen).open[0].found
    finding.take(seen, "C1 100u 25V", found)
    with pytest.raises(BadInput, match="C1"):
        finding.take(seen, "C2 100u 25V", found)
    assert finding.take_alike(seen, "C1", [(found, None)]) == []
    assert Part.objects.filter(board=seen).count() == 1


def test_without_a_photo_the_page_says_where_one_goes(client, surveyed):
    pk = surveyed.unit.boards.first().pk
    assert reverse("square", args=[pk]) in client.get(reverse("found", args=[pk])).content.decode()
    assert client.post(reverse("found_look", args=[pk])).status_code == 422


def test_another_photo_under_the_board_is_looked_at_anew(seen, django_capture_on_commit_callbacks):
    path = seen.underlays.get().found_path
    with django_capture_on_commit_callbacks(execute=True):
        laid(seen)
    assert not path.exists() and finding.findings(board_state(seen.pk)[1], seen.underlays.get()) is None


def test_what_was_found_goes_with_its_photo(seen, django_capture_on_commit_callbacks):
    underlay = seen.underlays.get()
    path = underlay.found_path
    with django_capture_on_commit_callbacks(execute=True):
        take_away(underlay)
    assert not path.exists()


def test_a_unit_that_is_handed_over_is_not_changed(seen):
    from django.utils import timezone

    found = of(seen).open[0].found
    seen.unit.handed_over = timezone.now()
    seen.unit.save()
    with pytest.raises((Blocked, BadInput)):
        finding.take(seen, "C1 100u 25V", found)
    assert not Part.objects.filter(board=seen).exists()


def test_one_photo_at_a_time(board):
    with finding._one, pytest.raises(BadInput, match="one photo at a time"):
        finding.find(board_state(board.pk)[1], lambda words: None)
    assert not board.underlays.get().found_path.exists()


def test_a_photo_after_the_swaps_lists_what_to_look_at_and_passes_nothing(client, seen):
    from idlebench.web.records.models import Swap

    for i, one in enumerate(one for one in of(seen).open if one.found.kind == "can"):
        post(client, seen, "take", at=one.number, line=f"C{i + 1} 100u 25V")
    page = reverse("found", args=[seen.pk])
    assert "Second look" not in client.get(page).content.decode(), "nothing was swapped yet"
    parts = {part.ref: part for part in seen.parts.all()}
    Swap.objects.create(part=parts["C1"], item="none of the house", value=1e-4, kind="wet", mounting="radial")
    parts["C2"].angle, parts["C2"].x = 180, parts["C2"].x + 0.2
    parts["C2"].save()
    parts["C3"].x, parts["C3"].y = 10, 90
    parts["C3"].save()
    assert second_looks(board_state(seen.pk)[1]) == [], "the photo is older than the first swap"
    Photo.objects.update(at=timezone.now())
    found = second_looks(board_state(seen.pk)[1])
    assert [(one.ref, one.what) for one in found] == [("C2", "stripe"), ("C3", "missing"), ("", "lying")]
    text = client.get(page).content.decode()
    assert (
        "3" in text
        and "Second look" in text
        and "C2 has its stripe on the right; its minus side belongs on the left." in text
    )


def test_solder_between_two_joints_is_looked_at_in_the_polarity_round(client, board):
    from idlebench.web.proving import rounds
    from idlebench.web.records.models import Swap

    for ref, x in (("C1", 30.0), ("C2", 60.0)):
        part = Part.objects.create(board=board, ref=ref, value=1e-4, kind="wet", x=x, y=30.0, pitch=5.0, volts=25.0)
        Swap.objects.create(part=part, item="none of the house", value=1e-4, kind="wet", mounting="radial")
    image = Image.new("RGB", (120 * SCALE, 100 * SCALE), (34, 92, 48))
    draw = ImageDraw.Draw(image)
    for x in (30.0, 60.0):
        for way in (-2.5, 2.5):
            at = (120 - x + way) * SCALE, 30 * SCALE
            draw.ellipse([at[0] - 9, at[1] - 9, at[0] + 9, at[1] + 9], fill=(196, 196, 192))
    draw.line([((120 - 62.5) * SCALE, 300), ((120 - 57.5) * SCALE, 302)], fill=(190, 190, 188), width=9)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=95)
    photo, _ = take_photo(board.unit, out.getvalue(), "solder.jpg", Pin(board=board))
    corners = [(0.0, 0.0), (1200.0, 0.0), (1200.0, 1000.0), (0.0, 1000.0)]
    lay_under(board, "solder", photo, corners, [(0.0, 0.0), (120.0, 0.0), (120.0, 100.0), (0.0, 100.0)])
    unit, state = board_state(board.pk)
    assert finding.find(state, lambda words: None) >= 1
    assert [(one.ref, one.what) for one in second_looks(state) if one.what == "joined"] == [("C2", "joined")]
    assert "Solder seems to join C2 plus and C2 minus" in client.get(reverse("found", args=[board.pk])).content.decode()
    asked = {one["ref"]: one for one in rounds.items_of(unit, rounds.played(unit, "cold")) if one["polarity"]}
    assert (
        "In the photo: Solder seems to join C2 plus" in asked["C2"]["caution"] and "photo" not in asked["C1"]["caution"]
    )
    assert asked["C2"]["state"] != "passed", "a photo passes nothing"
