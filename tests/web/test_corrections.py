"""A correction reaches everything that was concluded from the old facts: choices, Gather, bags, Swap; by every way it is typed."""

from importlib import import_module

import pytest
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.records.models import CatalogueItem, Choice, Part
from idlebench.web.survey.services import add_line
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits
from idlebench.web.unit.state import board_state, unit_state
from idlebench.web.unit.wanted import places
from tests import typed

from .helpers import discharge

pytestmark = [pytest.mark.django_db, pytest.mark.usefixtures("shelf")]

#: Bought as a plain part before anybody saw its kind: it stands across the line.
BEFORE, AFTER = "C3 220n 250V burst", "C3 220n 250V~ X2 film 18x14 p15"


@pytest.fixture
def board(unit):
    board = typed.add_board(
        unit, {"name": "PS-7", "supply": "linear", "rails": "+5 V 1 A", "width": "150", "height": "90"}
    )
    add_line(board, BEFORE)
    state, found = board_state(board.pk)
    best = fits.ranking_for(state, found.find("C3")).best
    choosing.take(board.pk, "C3", best.part.part)
    return board


def outdated(board):
    return board_state(board.pk)[1].find("C3").outdated


def get(client, name, *args, **data):
    return client.get(reverse(name, args=args), data).content.decode()


def test_a_choice_for_other_facts_counts_for_nothing(client, board):
    assert [p.ref for p in places()] == ["C3"]
    add_line(board, AFTER, change=True)
    assert "kind was wet, is film" in outdated(board) and "safety was not known, is X2" in outdated(board)
    # nothing is bought, bagged or swapped for it, and each page says why
    assert not places() and not board_state(board.pk)[1].to_swap
    for page in (
        get(client, "choose", board.pk, place="C3"),
        get(client, "gather", board.unit_id),
        get(client, "swap", board.pk),
    ):
        assert "C3 on PS-7 was chosen for other facts" in page and "Choose for C3 again" in page
    assert "Taken" not in get(client, "choose", board.pk, place="C3").split("was chosen for other facts")[1][:2000]
    discharge(board.unit)
    with pytest.raises(Blocked):
        swapping.swapped(board.pk, "C3")
    # chosen again by the new facts, it counts
    state, found = board_state(board.pk)
    best = fits.ranking_for(state, found.find("C3")).best
    assert best.part.safety
    choosing.take(board.pk, "C3", best.part.part)
    assert not outdated(board) and [p.item for p in places()] == [best.part.part] and Choice.objects.count() == 1
    assert "was chosen for other facts" not in get(client, "swap", board.pk)


@pytest.mark.parametrize("way", ["line", "paste", "table", "page"])
def test_every_way_of_correcting_reaches_it(client, board, way):
    table = b"ref,value,volts,kind,safety,role\nC3,220n,630,film,X2,mains_x\n"
    if way == "line":
        client.post(reverse("survey", args=[board.pk]), {"line": "C3 330n", "change": "1"})
    elif way == "paste":
        client.post(reverse("survey_paste", args=[board.pk]), {"lines": "C3 63V"})
    elif way == "table":
        client.post(reverse("survey_load", args=[board.pk]), {"file": SimpleUploadedFile("s.csv", table)})
    else:
        client.post(reverse("survey", args=[board.pk]), {"line": "C3 role timing"})
    assert outdated(board) and not places()


def test_another_mounting_reopens_the_choice_and_another_word_for_it_does_not(board):
    add_line(board, "C3 smd", change=True)
    assert "mounting was radial, is can" in outdated(board)
    state, found = board_state(board.pk)
    choosing.take(board.pk, "C3", fits.ranking_for(state, found.find("C3")).best.part.part)
    for same in ("C3 chip", "C3 can", "C3 surface"):
        add_line(board, same, change=True)
        assert not outdated(board), same
    add_line(board, "C3 tantalum", change=True)
    assert "mounting was can, is chip" in outdated(board)


@pytest.mark.parametrize(
    ("kind", "volts", "stood", "wide", "stands"),
    [
        ("wet", 16, "chip", 6.3, "can"), ("wet", 16, "can", None, "can"), ("wet", 450, "can", None, "chassis"), ("wet", 63, "can", 35.0, "chassis"),
        ("tantalum", 16, "can", None, "chip"), ("paper", 600, "can", None, "chassis"), ("ceramic", 50, "chip", 3.2, "chip"), ("wet", 16, "radial", 8.0, "radial"),
    ],
)  # fmt: skip
def test_what_was_kept_under_another_name_is_renamed_once(board, kind, volts, stood, wide, stands):
    rename = import_module("idlebench.web.records.migrations.0036_surface_cans").one_name_each
    Part.objects.filter(ref="C3").update(kind=kind, volts=volts, mounting=stood, diameter=wide)
    for _ in range(2):
        rename(apps, None)
        assert Part.objects.get(ref="C3").mounting == stands


@pytest.mark.parametrize(
    "line", ["C3 note behind the plug", "C3 leaking", "C3 esr 4.2", "C3 at 20,20", "C3 series QF date 8423"]
)
def test_what_no_choice_rests_on_leaves_it(board, line):
    add_line(board, line)
    assert not outdated(board) and len(places()) == 1


def test_what_is_in_stays_in_and_an_edit_after_it_is_told_at_the_proof(board):
    discharge(board.unit)
    swapping.swapped(board.pk, "C3")
    add_line(board, AFTER, change=True)
    assert not outdated(board) and board_state(board.pk)[1].find("C3").swap
    # the piece that is in bears no class: no power, no hand-over
    assert any("has no such class" in reason.text for reason in _mains(board))


def _mains(board):
    from idlebench.core.prove.interlocks import mains_parts

    return mains_parts(unit_state(board.unit_id).proof.boards)


def test_no_older_choice_comes_back_by_taking_the_last_one_back(client, board):
    add_line(board, AFTER, change=True)
    state, found = board_state(board.pk)
    choosing.take(board.pk, "C3", fits.ranking_for(state, found.find("C3")).best.part.part)
    client.post(reverse("choose_undo", args=[board.pk]))
    assert not places() and outdated(board), "the plain film of before is not bought"


def test_a_refusal_is_told_before_the_iron_is_hot(client, board):
    # what the place sees changes by the supply's lines: no fact of the part's own
    Part.objects.filter(ref="C3").update(rail_volts=900.0)
    discharge(board.unit)
    page = get(client, "swap", board.pk, place="C3")
    assert "does not fit" in page and 'data-says="Mark as fitted"' not in page


def test_two_at_once_and_a_correction_taken_back(client, board):
    add_line(board, "C3 330n", change=True)
    add_line(board, "C3 220n", change=True)
    assert outdated(board), "it was concluded from other facts for a while: it is looked at once more"
    state, found = board_state(board.pk)
    best = fits.ranking_for(state, found.find("C3")).best.part.part
    assert choosing.take(board.pk, "C3", best) and not outdated(board)


def test_a_part_that_may_stand_across_the_mains_is_asked_before_anything_is_chosen(client, board):
    table = b"ref,value,volts,kind,looks\nC7,47n,630,film,leaking\nC8,2n2,1000,ceramic,leaking\nC9,100n,63,film,leaking\nC10,100u,16,wet,leaking\n"
    assert (
        client.post(reverse("survey_load", args=[board.pk]), {"file": SimpleUploadedFile("s.csv", table)}).status_code
        == 302
    )
    page = get(client, "survey", board.pk)
    assert "2 parts may be across the mains" in page and "Does C7, 47 nF 630 V film" in page and "Does C9" not in page
    # unanswered, nothing is settled: by hand, with all the others, or left in
    for act in (
        lambda: choosing.take(board.pk, "C7", "MF100-47n-630-10"),
        lambda: choosing.leave_in(board.pk, "C7"),
        lambda: choosing.settle_all(board.pk, [("C8", "")]),
    ):
        with pytest.raises(Blocked, match=r"C[78] cannot be decided"):
            act()
    choosing.take_all(board.pk)
    assert not Choice.objects.filter(part__ref__in=("C7", "C8")).exists()
    # answered: line to earth asks for class Y, neither for none
    answer = reverse("survey", args=[board.pk])
    client.post(answer, {"line": "C8 role mains_y", "change": "1"})
    client.post(answer, {"line": "C7 note not on the mains", "change": "1"})
    assert "may be across the mains" not in get(client, "survey", board.pk)
    state, found = board_state(board.pk)
    need = fits.need_for(state, found.find("C8"))
    assert need.role.safety == ("Y1", "Y2") and found.find("C8").verdict.name == "replace"
    assert not found.find("C7").mains_question


def test_behind_an_adapter_no_part_stands_on_the_mains(board):
    from idlebench.web.survey.typed import add_typed

    add_line(board, "C7 47n 630V film")
    assert board_state(board.pk)[1].find("C7").mains_question
    add_typed(board, "AD1 adapter 9V AC 1A")
    assert not board_state(board.pk)[1].find("C7").mains_question


def test_correcting_is_one_key_at_the_part_and_one_button_at_a_refused_line(client, board):
    page = get(client, "survey", board.pk, part="C3")
    assert "Correct what is listed of C3" in page and 'data-key="S"' in page
    assert 'value="C3 220n 250V"' in get(client, "survey", board.pk, part="C3", correct="1")
    url = reverse("survey", args=[board.pk])
    refused = client.post(url, {"line": AFTER})
    assert refused.status_code == 422 and "Correct C3 with this line" in refused.content.decode()
    assert client.post(url, {"line": AFTER, "change": "1"}).status_code == 302
    assert Part.objects.get(ref="C3").safety == "X2"
    client.post(reverse("survey_undo", args=[board.pk]))
    assert Part.objects.get(ref="C3").safety == "" and Part.objects.get(ref="C3").kind == "wet"


def test_a_fuse_that_is_described_anew_is_chosen_again(client, board):
    from idlebench.web.choose.devices import take_other
    from idlebench.web.survey.typed import add_typed

    add_typed(board, "F1 fuse T 1.6A 250V 5x20")
    take_other(board.pk, "F1", "FUTH5-1A6")
    assert [p.ref for p in places()] == ["C3", "F1"]
    add_typed(board, "F1 sound at 20,20")
    assert len(places()) == 2
    add_typed(board, "F1 fuse T 1A")
    assert [p.ref for p in places()] == ["C3"]
    page = get(client, "swap", board.pk)
    assert "F1 on PS-7 was chosen for other facts" in page
    discharge(board.unit)
    with pytest.raises(Blocked):
        swapping.device_swapped(board.pk, "F1")
    take_other(board.pk, "F1", "FUTH5-1")
    assert [p.ref for p in places()] == ["C3", "F1"] and "F1 on PS-7 was chosen" not in get(
        client, "gather", board.unit_id
    )


def test_counts_agree_and_no_price_is_no_zero(client, board):
    CatalogueItem.objects.update(stock=0)
    page = get(client, "gather", board.unit_id)
    assert "1 kind to buy" in page and "€0.00" not in page
    CatalogueItem.objects.update(price=0.0)
    page = get(client, "gather", board.unit_id)
    assert "1 kind to buy · no price" in page and "€0.00" not in page
    client.post(reverse("choose_undo", args=[board.pk]))
    said = client.post(reverse("choose_all", args=[board.pk]), follow=True).content.decode()
    assert "1 place decided" in said or "0 places decided" in said
