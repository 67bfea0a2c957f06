"""Choose, Gather and Swap by request."""

import csv
import io

import pytest
from django.urls import reverse

from idlebench.web.records.models import CatalogueItem, Choice, Part, Swap
from idlebench.web.survey.services import add_line
from idlebench.web.unit.state import board_state, unit_state

from .helpers import discharge, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


def post(client, name, board, **data):
    return client.post(reverse(name, args=[board.pk]), data)


def test_the_shops_own_minutes_are_learned_and_said(client, surveyed):
    from datetime import timedelta

    from idlebench.web.survey.services import paste
    from idlebench.web.unit.times import own_times

    paste(surveyed, "\n".join(f"C{i} 100u 16V 6.3x11 p2.5 decoupling leaking" for i in range(20, 26)), good_rows=False)
    settle(surveyed.unit)
    assert own_times().swap["radial"] == 4.0, "a few seconds apart they tell nothing"
    first = Swap.objects.first().at
    for i, swap in enumerate(Swap.objects.filter(part__mounting="radial")):
        Swap.objects.filter(pk=swap.pk).update(at=first + timedelta(seconds=150 * i))
    assert own_times().swap["radial"] == 2.5
    page = client.get(reverse("swap", args=[surveyed.pk]) + "?place=C20")
    assert "takes you 2 min 30 s" in page.content.decode()


def test_take_the_first_and_take_it_back(client, surveyed):
    page = client.get(reverse("choose", args=[surveyed.pk]) + "?place=C2")
    best = page.context["best"].part.part
    assert page.context["settled"] == 0
    response = post(client, "choose_take", surveyed, place="C2", item=best)
    assert response.status_code == 302 and "place=C1" in response.url
    choice = Choice.objects.get(part__ref="C2")
    assert (choice.item, choice.action) == (best, "take") and choice.reasons
    post(client, "choose_keep", surveyed, place="C2")
    choice.refresh_from_db()
    assert choice.action == "keep"
    post(client, "choose_undo", surveyed)
    choice.refresh_from_db()
    assert (choice.item, choice.action) == (best, "take")
    post(client, "choose_undo", surveyed)
    assert not Choice.objects.exists()
    assert post(client, "choose_undo", surveyed).status_code == 422


def test_a_part_that_fails_is_refused_with_its_numbers(client, surveyed):
    response = post(client, "choose_take", surveyed, place="C2", item="GP85-1000u-16")
    html = response.content.decode()
    assert response.status_code == 409 and "the place allows 80–220 µF" in html
    assert not Choice.objects.exists()


@pytest.mark.parametrize(("place", "item"), [("C2", "no such part"), ("C99", "GP85-100u-16"), ("", "")])
def test_what_is_not_there_cannot_be_taken(client, surveyed, place, item):
    assert post(client, "choose_take", surveyed, place=place, item=item).status_code == 422
    assert not Choice.objects.exists()


def test_a_bad_mains_part_may_not_stay(client, surveyed):
    add_line(surveyed, "C9 100n X2 18x13.5 p15 burst")
    response = post(client, "choose_keep", surveyed, place="C9")
    assert response.status_code == 409 and "must not stay in a machine" in response.content.decode()
    page = client.get(reverse("choose", args=[surveyed.pk]) + "?place=C9")
    assert {c["c"].part.safety for c in page.context["cards"] if c["good"]} <= {"X1", "X2", "Y1", "Y2"}


def test_settling_the_clear_ones_leaves_the_doubtful(client, surveyed):
    add_line(surveyed, "C8 100u 16V 6.3x11 p2.5")  # no role: look twice
    post(client, "choose_all", surveyed)
    assert set(Choice.objects.values_list("part__ref", flat=True)) == {"C1", "C2"}


def test_policy_decides_what_is_a_place(client, surveyed):
    job = surveyed.unit.job
    places = {}
    for policy in ("renew", "mend"):
        job.policy = policy
        job.save()
        add_line(surveyed, "C2 esr 0.1")
        places[policy] = [p.ref for p in board_state(surveyed.pk)[1].places]
    assert places == {"renew": ["C1", "C2"], "mend": ["C1"]}


def test_gathering_counts_the_shelf_and_packs(client, surveyed):
    settle_only_choice(client, surveyed)
    items = dict(Choice.objects.values_list("part__ref", "item"))
    CatalogueItem.objects.filter(part=items["C1"]).update(stock=5)
    CatalogueItem.objects.filter(part=items["C2"]).update(stock=0, pack=10, price=0.1)
    unit = surveyed.unit
    page = client.get(reverse("gather", args=[unit.pk]))
    lines = {line.name: line for line in page.context["lines"]}
    assert (lines[items["C1"]].buy, lines[items["C2"]].buy, lines[items["C2"]].price) == (0, 10, 1.0)
    client.post(reverse("arrived", args=[unit.pk]), {"part": items["C2"], "pieces": "10"})
    assert CatalogueItem.objects.get(part=items["C2"]).stock == 10
    rows = list(csv.DictReader(io.StringIO(client.get(reverse("gather_csv", args=[unit.pk])).content.decode())))
    assert [r["buy"] for r in rows] == ["0", "0"]
    assert client.post(reverse("arrived", args=[unit.pk]), {"part": items["C2"], "pieces": "-4"}).status_code == 422
    assert client.post(reverse("arrived", args=[unit.pk]), {"part": "none", "pieces": "4"}).status_code == 422


def settle_only_choice(client, board):
    post(client, "choose_all", board)


def test_swap_takes_one_from_the_shelf_and_back(client, surveyed):
    settle_only_choice(client, surveyed)
    discharge(surveyed.unit)
    item = Choice.objects.get(part__ref="C1").item
    CatalogueItem.objects.filter(part=item).update(stock=2)
    post(client, "swap_done", surveyed, place="C1", note="pad lifted, wire to C2")
    assert Swap.objects.get(part__ref="C1").note == "pad lifted, wire to C2"
    assert CatalogueItem.objects.get(part=item).stock == 1
    assert post(client, "swap_done", surveyed, place="C1").status_code == 409
    assert post(client, "choose_keep", surveyed, place="C1").status_code == 409
    assert client.post(reverse("remove", args=["part", Part.objects.get(ref="C1").pk])).status_code == 409
    post(client, "swap_back", surveyed, place="C1")
    assert CatalogueItem.objects.get(part=item).stock == 2 and not Swap.objects.exists()
    assert post(client, "swap_back", surveyed, place="C1").status_code == 409


def test_nothing_is_swapped_without_a_choice_or_under_power(client, surveyed):
    assert post(client, "swap_done", surveyed, place="C1").status_code == 409
    settle(surveyed.unit)
    add_line(surveyed, "C8 100u 16V 6.3x11 p2.5 decoupling")
    post(client, "choose_all", surveyed)
    pass_up_to(surveyed.unit, "limited")
    power_at(surveyed.unit, "limited")
    response = post(client, "swap_done", surveyed, place="C8")
    assert response.status_code == 409 and "has power" in response.content.decode()
    refused = client.post(reverse("survey", args=[surveyed.pk]), {"line": "C11 10u 16V 5x11"})
    assert refused.status_code == 409 and "Make idle first" in refused.content.decode()
    assert not Part.objects.filter(ref="C11").exists(), "nothing was written"


def test_nothing_is_swapped_beside_a_store_that_may_be_charged(client, surveyed):
    settle_only_choice(client, surveyed)
    refused = post(client, "swap_done", surveyed, place="C2")
    assert refused.status_code == 409 and "Across C1 on PS-1 is not logged as discharged" in refused.content.decode()
    page = client.get(reverse("swap", args=[surveyed.pk])).content.decode()
    assert "Hands off this board" in page and "Volts across C1" in page
    key = unit_state(surveyed.unit_id).proof.discharges[0].key
    answer = client.post(
        reverse("reading", args=[surveyed.unit_id]), {f"r:{key}": "0.3", "back": surveyed.pk, "step": "cold"}
    )
    assert answer.url == reverse("swap", args=[surveyed.pk])
    assert post(client, "swap_done", surveyed, place="C2").status_code == 302


def test_shelf_find_and_load(client, shelf):
    from django.core.files.uploadedfile import SimpleUploadedFile

    page = client.get("/shelf/", {"q": "100u 16V LZ"})
    assert {i.part for i in page.context["page"]} == {"LZ105-100u-16", "LZ105-100u-16B"}
    file = SimpleUploadedFile("c.csv", b"part,value,volts,stock\nMINE,33u,16,4\nLZ105-100u-16,100u,16,9\n")
    assert client.post("/shelf/load/", {"file": file}).status_code == 302
    assert (
        CatalogueItem.objects.get(part="MINE").stock == 4 and CatalogueItem.objects.get(part="LZ105-100u-16").stock == 9
    )
    bad = SimpleUploadedFile("c.csv", b"part,value,volts\nX,33u,0\n")
    response = client.post("/shelf/load/", {"file": bad})
    assert response.status_code == 422 and "more than 0 V" in response.content.decode()
    assert not CatalogueItem.objects.filter(part="X").exists()
    assert client.get("/shelf/catalogue.csv").content.count(b"\n") == CatalogueItem.objects.count() + 1


def test_a_loaded_part_is_ranked_at_once(client, surveyed):
    from django.core.files.uploadedfile import SimpleUploadedFile

    client.get(reverse("choose", args=[surveyed.pk]) + "?place=C2")
    row = (
        b"part,value,volts,diameter,height,pitch,temperature,life,stock,price\nBEST,100u,25,6.3,11,2.5,105,20000,50,0\n"
    )
    client.post("/shelf/load/", {"file": SimpleUploadedFile("c.csv", row)})
    page = client.get(reverse("choose", args=[surveyed.pk]) + "?place=C2")
    assert page.context["best"].part.part == "BEST"


def test_polarity_is_asked_of_the_part_that_stands_there_now(client, surveyed):
    """A bar is plus and a stripe is minus: what is seen again is the new part's own mark."""
    from idlebench.web.survey.services import add_line

    add_line(surveyed, "C8 10u 16V tantalum 6.3x11 p2.5 decoupling looks burst")
    add_line(surveyed, "C9 1u 16V 8x11.5 p5 coupling looks leaking")
    for name, kind, bipolar in (("WET", "wet", False), ("BIP", "wet", True)):
        value = 10e-6 if name == "WET" else 1e-6
        CatalogueItem.objects.create(
            part=name,
            kind=kind,
            value=value,
            volts=25,
            mounting="radial",
            diameter=5,
            height=11,
            pitch=2.5,
            bipolar=bipolar,
            temperature=105,
        )
    discharge(surveyed.unit)
    for place, item in (("C8", "WET"), ("C9", "BIP")):
        assert post(client, "choose_take", surveyed, place=place, item=item).status_code == 302
        assert post(client, "swap_done", surveyed, place=place).status_code == 302
    asked = {c.names[0]: c.ask for c in unit_state(surveyed.unit_id).proof.steps[0].checks if c.names}
    assert "the stripe is the negative side" in asked["cold.polarity.ps-1.c8"], (
        "the old tantalum's bar was the positive side"
    )
    assert "cold.polarity.ps-1.c9" not in asked, "a bipolar part has no wrong way round"


def test_a_store_put_where_one_was_missing_is_discharged_too(client, surveyed):
    from idlebench.web.survey.services import add_line

    add_line(surveyed, "C7 220u 400V snap 25x45 p10 105C bulk worst 325 missing")
    key = "cold.discharge.ps-1.c7"
    assert unit_state(surveyed.unit_id).proof.check(key) is None, "there is nothing to discharge"
    discharge(surveyed.unit)
    page = client.get(reverse("choose", args=[surveyed.pk]) + "?place=C7")
    post(client, "choose_take", surveyed, place="C7", item=page.context["best"].part.part)
    post(client, "swap_done", surveyed, place="C7")
    assert unit_state(surveyed.unit_id).proof.check(key) is not None


def test_a_part_gone_from_the_catalogue_is_not_swapped(client, surveyed):
    settle_only_choice(client, surveyed)
    discharge(surveyed.unit)
    CatalogueItem.objects.filter(part=Choice.objects.get(part__ref="C1").item).delete()
    response = post(client, "swap_done", surveyed, place="C1")
    assert response.status_code == 422 and "choose again" in response.content.decode()


@pytest.mark.parametrize("gone", [(), ("C2",), ("C1", "C2")])
def test_a_place_that_is_none_of_those_to_fill_has_its_page(client, surveyed, gone):
    """C3 is a sound film part, and stays: beside two places to fill, one, and none."""
    surveyed.parts.filter(ref__in=gone).delete()
    for ref in ("C3", "C1", ""):
        page = client.get(reverse("choose", args=[surveyed.pk]), {"place": ref})
        assert page.status_code == 200, ref
        shown = page.context["part"]
        assert shown is None or shown.ref == ref or ref in ("", *gone), (
            "the place that was asked for is the one in hand"
        )
