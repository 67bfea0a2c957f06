"""The supply of a board by request: needs derived, changes seen, regulators and fuses taken, the third fuse refused; policies; the Shelf."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.catalogue import house_columns
from idlebench.core.choose.rank import FAILS, judge_parts
from idlebench.web.choose import services as choosing
from idlebench.web.choose.policies import outcome
from idlebench.web.records.models import CatalogueItem, Choice, ColumnMap, DeviceChoice, Entry, FuseBlown, ShopPolicy
from idlebench.web.survey.services import paste
from idlebench.web.unit import fits
from idlebench.web.unit.policies import all_policies
from idlebench.web.unit.state import board_state
from tests import typed

pytestmark = pytest.mark.django_db

MODEL = "bridge 9V 25VA store C1 regulator VR1 5V 0.7A heatsink 8"
OTHERS = "VR1 regulator 7805 1A\nF1 fuse T 1.6A 250V 5x20"
LINES = "C1 4700u 25V 18x35.5 p7.5 bulk rail +5V at 30,30 sound\nC2 100u 16V 6.3x11 p2.5 regulator output rail +5V at 60,30 esr 6.8"


def facts(**more):
    return {
        "name": "PS-7", "supply": "linear", "width": "150", "height": "90", "rails": "+5 V 0.7 A", "supply_model": MODEL, "others": OTHERS,
        **more,
    }  # fmt: skip


@pytest.fixture
def board(unit):
    board = typed.add_board(unit, facts())
    assert paste(board, LINES, good_rows=False).added == 2
    return board


def url(name, board):
    return reverse(name, args=[board.pk])


def page(client, board, **query):
    return client.get(url("supply", board), query).content.decode()


def test_the_needs_of_a_place_follow_from_the_supply(client, board):
    core = board_state(board.pk)[1].find("C1").core
    assert core.rail_volts == pytest.approx(15.0, abs=0.1) and core.ripple > 0.8 and core.frequency == 100.0
    html = client.get(url("choose", board), {"place": "C1"}).content.decode()
    after = client.get(url("choose_needles", board), {"place": "C1"}).content.decode()
    assert "at +10 % mains without load" in html and "In the supply" in after
    choosing.take(board.pk, "C1", "GP105-4700u-25")
    assert "GP105-4700u-25" in client.get(url("choose", board), {"place": "C1"}).content.decode()


def _place(board, ref):
    state, found = board_state(board.pk)
    return state, found, found.find(ref)


def test_the_supply_page_shows_old_against_chosen(client, board):
    before = page(client, board)
    assert "Ripple on the reservoir" in before and 'class="strip' in before and "Charging current" in before
    assert before.count("<polyline") == 3, "two waves of the old part, and the fuse's curve"
    choosing.take(board.pk, "C1", "GP105-4700u-25")
    assert page(client, board).count("<polyline") == 5


@pytest.mark.parametrize(
    ("text", "said"),
    [("ring 9V 25VA store C1 current 1A", "half, centre, bridge, doubler first"), ("bridge 9V 25VA store C1 regulator VR1 5V", "something after"),
     ("bridge mains 10ohm store C1 converter flyback 30W\nrail +5V 3A duty 1 stores C2", "below 1")],
)  # fmt: skip
def test_a_supply_that_cannot_be_read_stays_in_its_field(client, board, text, said):
    response = client.post(url("board_facts", board), facts(supply_model=text))
    html = response.content.decode()
    assert response.status_code == 422 and said in html and text.splitlines()[0] in html
    board.refresh_from_db()
    assert board.supply_model == MODEL


def test_a_supply_that_cannot_work_says_what_would(client, board):
    typed.change_board(board, facts(supply_model="bridge 9V 25VA store C1 current 60A"))
    assert "The typed supply cannot work" in page(client, board) and "above the winding" in page(client, board)
    assert board_state(board.pk)[1].supply_wrong
    typed.change_board(board, facts(supply_model=MODEL.replace("5V 0.7A", "8V 0.7A")))
    assert "No reservoir capacitor repairs it" in page(client, board) or "A reservoir of" in page(client, board)


def take(client, board, ref, item):
    return client.post(url("other_take", board), {"ref": ref, "item": item})


def test_a_regulator_is_taken_and_a_wrong_one_is_not(client, board):
    html = page(client, board)
    assert "RP7805" in html and "Pins from the left" not in html and "pins from the left: input, ground, output" in html
    assert take(client, board, "VR1", "RP7805").status_code == 302
    assert DeviceChoice.objects.get().item == "RP7805" and "RP7805" in Entry.objects.first().text
    for name, said in (
        ("RP7812", "12 V, the rail is 5 V"),
        ("SM1-5", "The policy asks the same kind"),
        ("RN7905", "−5 V"),
    ):
        response = take(client, board, "VR1", name)
        assert response.status_code == 409 and said in response.content.decode()
    assert (
        take(client, board, "VR1", "nothing").status_code == 422
        and take(client, board, "C1", "RP7805").status_code == 422
    )
    assert "RP7805" in client.get(reverse("gather", args=[board.unit_id])).content.decode()
    client.post(url("other_back", board), {"ref": "VR1"})
    assert not DeviceChoice.objects.exists()


def test_a_low_drop_regulator_asks_about_its_output_store(client, board):
    take(client, board, "VR1", "RD1V5-5")
    state, found, part = _place(board, "C2")
    assert fits.need_for(state, part).stable == (0.02, 2.0)
    take(client, board, "VR1", "RP7805")
    assert fits.need_for(*[x for x in _place(board, "C2") if x is not found][:1], _place(board, "C2")[2]).stable is None


def test_a_regulator_and_the_capacitor_behind_it_are_one_choice(client, board):
    state, _, part = _place(board, "C2")
    polymer = next(
        p
        for p in house_columns().parts
        if p.kind == "polymer" and p.value == 100e-6 and p.volts >= 16 and 0 < p.esr < 0.015
    )
    Choice.objects.create(part=part.row, action=Choice.TAKE, item=polymer.part)
    # a polymer of 5 to 15 mΩ is chosen: outside of 20 mΩ to 2 Ω
    response = take(client, board, "VR1", "RD1V5-5")
    assert response.status_code == 409 and "it would oscillate" in response.content.decode()
    assert take(client, board, "VR1", "RP7805").status_code == 302
    Choice.objects.all().delete()
    assert take(client, board, "VR1", "RD1V5-5").status_code == 302
    # and the other way round: with the low-dropout type used, the polymer is refused
    state, _, part = _place(board, "C2")
    judged = judge_parts(fits.need_for(state, part), [polymer])[0]
    assert any(r.rule == "stability" and r.status == FAILS for r in judged.reasons)


def test_a_larger_fuse_is_refused_and_the_third_waits_for_a_cause(client, board):
    assert take(client, board, "F1", "FUTH5-2").status_code == 409
    assert "never a bigger fuse" in take(client, board, "F1", "FUTH5-2").content.decode()
    assert take(client, board, "F1", "FUTH5-1A6").status_code == 302
    for _ in range(2):
        assert client.post(url("fuse", board), {"ref": "F1"}).status_code == 302
    refused = take(client, board, "F1", "FUTH5-1A6")
    assert refused.status_code == 409 and "2 fuses of F1 blew, and no cause is logged" in refused.content.decode()
    assert client.post(url("fuse", board), {"ref": "F1", "cause": "hm"}).status_code == 422
    client.post(url("fuse", board), {"ref": "F1", "cause": "bridge D1 shorted"})
    assert take(client, board, "F1", "FUTH5-1A6").status_code == 302
    assert FuseBlown.objects.filter(cause="bridge D1 shorted").count() == 1
    assert client.post(url("fuse", board), {"ref": "VR1"}).status_code == 422


def test_a_missing_marking_is_worked_out_and_says_so(client, board):
    typed.change_board(board, facts(others="VR1 regulator 7805 1A\nF1 fuse 250V 5x20"))
    html = page(client, board)
    assert "stands in for a missing marking" in html and "The marking is missing; time-lag suits" in html
    assert take(client, board, "F1", "FUTH5-0A125").status_code == 302, (
        "25 VA from 207 V is 121 mA, and an IEC fuse carries its rating"
    )
    assert DeviceChoice.objects.get(ref="F1").verdict == "look twice"
    assert take(client, board, "F1", "FUTH5-0A4").status_code == 409


def test_candidates_stand_beside_each_other(client, board):
    html = client.get(url("choose", board), {"place": "C2", "compare": "1"}).content.decode()
    assert "Side by side" in html and html.count('class="who"') == 4
    two = client.get(url("choose", board), {"place": "C2", "with": ["2", "3"]}).content.decode()
    assert two.count('class="who"') == 3
    assert "judged replace" in two
    sound = client.get(url("choose", board), {"place": "C1"}).content.decode()
    assert "To be replaced: electrolytic, and the policy replaces all of them" in sound


# policies
OWN = {
    "title": "Kind for kind",
    "what": "mend",
    "stores": "with the rest",
    "values": "exact",
    "kinds": "same",
    "regulators": "same",
}


def test_a_policy_of_the_shops_own_is_kept_used_and_not_taken_away_while_a_job_goes_by_it(client, board):
    assert client.post(reverse("policies"), OWN).status_code == 302
    row = ShopPolicy.objects.get(name="kind-for-kind")
    job = board.unit.job
    typed.change_job(job, {"name": job.name, "machine": job.machine, "policy": "kind-for-kind"})
    state = board_state(board.pk)[0]
    assert (
        state.policy.kinds == "same" and "exactly the marked ones" in client.get(reverse("policies")).content.decode()
    )
    refused = client.post(reverse("policy_drop", args=[row.name]))
    assert refused.status_code == 422 and f"Job {board.unit.job_id} uses it" in refused.content.decode()
    client.post(reverse("policy", args=[row.name]), {**OWN, "kinds": "free"})
    row.refresh_from_db()
    assert row.data["kinds"] == "free"
    typed.change_job(job, {"name": job.name, "machine": job.machine, "policy": "renew"})
    assert client.post(reverse("policy_drop", args=[row.name])).status_code == 302 and not ShopPolicy.objects.exists()


@pytest.mark.parametrize(("change", "said"), [({"title": ""}, "a name of 3"), ({"title": "Renew"}, "stay as they are"), ({"weight_price": "cheap"}, "a number"), ({"what": "all"}, "one of")])  # fmt: skip
def test_a_bad_policy_stays_in_its_form(client, db, change, said):
    response = client.post(reverse("policies"), {**OWN, **change})
    assert response.status_code == 422 and said in response.content.decode() and not ShopPolicy.objects.exists()


def test_two_policies_side_by_side(client, board):
    html = client.get(url("compare_policies", board), {"a": "renew", "b": "mend"}).content.decode()
    assert "Where they differ, 1 place" in html and "the old part" in html
    state, found = board_state(board.pk)
    both = [outcome(state, found, p) for p in all_policies().values()][:2]
    assert both[0].replaced == ("C1", "C2") and both[1].replaced == ("C2",) and both[0].price > both[1].price
    assert client.get(url("compare_policies", board), {"a": "nonsense"}).status_code == 200


# the Shelf
def test_filters_narrow_the_shelf(client, shelf):
    def count(**query):
        return client.get(reverse("shelf"), query).context["page"].paginator.count

    everything = count()
    assert count(kind="polymer") < everything and count(kind="polymer", mounting="chip") < count(kind="polymer")
    assert count(volts="400 V") < count(volts="100") and count(wide="5", high="8") < count(wide="5")
    assert count(safety="Y2") == CatalogueItem.objects.filter(safety="Y2").count() and count(here="on") < everything
    assert count(volts="lots") == everything, "a filter that cannot be read is left out"
    html = client.get(reverse("shelf"), {"kind": "wet"}).content.decode()
    assert "kind=wet&amp;page=2" in html or "kind=wet&page=2" in html


def test_a_part_has_its_page_with_its_curves(client, shelf):
    html = client.get(reverse("shelf_part", args=["LZ105-2200u-16"])).content.decode()
    assert "Ripple it carries" in html and "Years it lasts" in html and "the stripe is the negative side" in html
    dry = client.get(
        reverse("shelf_part", args=[CatalogueItem.objects.filter(kind="film").first().part])
    ).content.decode()
    assert "A dry part" in dry
    assert client.get(reverse("shelf_part", args=["nobody's"])).status_code == 404


EXPORT = b"Order code;Family;Cap (uF);Rated voltage V;Dia mm;Length mm;Ripple mA;Price\nA-1;GZ;100;16;6,3;11;250;0,12\nA-2;GZ;47;25;6.3;11;lots;0.1\n"
MAP = {
    "map_part": "Order code", "map_series": "Family", "map_value": "Cap (uF)", "map_volts": "Rated voltage V", "map_diameter": "Dia mm",
    "map_height": "Length mm", "map_ripple": "Ripple mA", "map_price": "Price",
}  # fmt: skip


def foreign(client, **typed):
    return client.post(reverse("foreign"), typed)


def test_an_export_is_looked_at_before_it_is_taken(client, shelf):
    response = foreign(client, file=SimpleUploadedFile("x.csv", EXPORT))
    html = response.content.decode()
    assert response.status_code == 200 and "As it is read" in html and "100 µF 16 V" in html and "Line 3" in html
    assert not CatalogueItem.objects.filter(part="A-1").exists()
    refused = foreign(client, table=EXPORT.decode(), name="North Quay", take="1", **MAP)
    assert (
        refused.status_code == 422
        and "nothing was imported" in refused.content.decode()
        and not ColumnMap.objects.exists()
    )
    assert foreign(client, table=EXPORT.decode(), name="North Quay", good="1", **MAP).status_code == 302
    assert CatalogueItem.objects.get(part="A-1").ripple == pytest.approx(0.25)
    again = foreign(client, file=SimpleUploadedFile("x.csv", EXPORT), kept="North Quay").content.decode()
    assert "100 µF 16 V" in again and 'value="North Quay"' in again


@pytest.mark.parametrize(
    ("typed", "said"),
    [({"table": ""}, "a table"), ({"table": "a,b"}, "a header row and at least one part"), ({"table": EXPORT.decode(), "take": "1", "name": "", **MAP}, "a name for this export"),
     ({"table": EXPORT.decode(), "take": "1", "name": "N Q", **MAP, "map_volts": ""}, "holds the volts"), ({"table": EXPORT.decode(), **MAP, "map_volts": "Price"}, "each column once")],
)  # fmt: skip
def test_a_bad_export_says_why_and_keeps_what_was_typed(client, shelf, typed, said):
    response = foreign(client, **typed)
    assert response.status_code == 422 and said in response.content.decode()
