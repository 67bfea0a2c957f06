"""What a screen leads to: the Bench by urgency, Intake by its first look, the way up by what is next, and one table or scale for many."""

import re

import pytest
from django.urls import reverse

from idlebench.web.calendar import services as calendar
from idlebench.web.gather import planning
from idlebench.web.intake import dismantling, services
from idlebench.web.ledger.sheets import rail_proofs, sheet
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Unit
from idlebench.web.unit.state import unit_state
from tests import typed
from tests.web.helpers import make_idle, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


def act(client, url: str) -> str:
    """The filled act of a page, in its words; there is exactly one in its bar."""
    text = client.get(url).content.decode()
    (found,) = re.findall(r'<(?:a|button) class="btn (?:stop )?act[^"]*"[^>]*>(.*?)</(?:a|button)>', text, re.S)
    return " ".join(re.sub(r"<kbd>.*?</kbd>|<[^>]+>", " ", found).split())


def test_the_bench_goes_on_with_the_most_urgent_unit(client, surveyed):
    first = surveyed.unit
    other = typed.take_in_job({"name": "Fog horn", "machine": "Horn timer", "units": "F"}).units.get()
    assert [u.pk for u in services.open_units()] == [first.pk, other.pk], "the oldest job first"
    assert act(client, "/") == "Go on: Tide clock A, Choose, 2 left"
    calendar.weigh(other.pk, "first")
    assert [u.pk for u in services.open_units()] == [other.pk, first.pk]
    assert act(client, "/").startswith("Go on: Horn timer F, Intake,")
    # what has power comes before all
    settle(first)
    pass_up_to(first, "full")
    power_at(first, "full")
    assert services.open_units()[0].pk == first.pk
    make_idle()


def test_what_is_handed_over_stands_last_and_asks_nothing(client, demo):
    units = list(services.open_units())
    assert [u.name for u in units][-1] == "A" and units[-1].handed_over
    text = client.get("/").content.decode()
    assert "Go on with unit A" not in text and "handed over" in text


def test_intake_is_its_first_look_until_that_is_done(client, unit):
    Unit.objects.filter(pk=unit.pk).update(first_look=["plug"])
    url = reverse("intake", args=[unit.pk])
    second = unit_state(unit.pk).first_look[1].text
    assert act(client, url) == f"Confirm: {second}"
    text = client.get(url).content.decode()
    assert text.index('aria-label="First look"') < text.index('aria-label="Boards"')
    for look in unit_state(unit.pk).first_look[1:]:
        client.post(reverse("look", args=[unit.pk]), {"key": look.key})
    assert act(client, url) == "To Survey"
    assert "First look: all 10 seen or skipped" in client.get(url).content.decode()


def test_dismantling_goes_one_way_or_the_other(client, unit):
    url = reverse("dismantling", args=[unit.pk])
    assert act(client, url) == "Log it"
    rows = [dismantling.take_off(unit, text) for text in ("lid: 4 screws M3x8", "cage: 2 clips")]
    assert act(client, url) == "Log it", "nothing went back yet"
    assert act(client, f"{url}?way=back") == "Cage is back"
    dismantling.put_back(rows[1])
    assert act(client, url) == "Lid is back", "once something is back, it goes on that way"
    assert act(client, f"{url}?way=apart") == "Log it"


def test_the_way_up_leads_step_by_step_and_next_never_is_power(client, surveyed):
    unit = surveyed.unit
    url = reverse("power", args=[unit.pk])
    assert act(client, url) == "To the cold checks"
    settle(unit)
    pass_up_to(unit, "full")
    assert act(client, url) == "Power on at this step"
    shown = client.get(url).content.decode()
    (control,) = re.findall(r'<a class="btn stop act"[^>]*>', shown)
    assert 'data-key="G"' in control and "ask=full" in control, "it asks first, and N is another key"
    assert act(client, f"{url}?step=full&ask=full") == "Yes, power on"
    power_at(unit, "full")
    assert act(client, url) == "Log the readings"
    for check in unit_state(unit.pk).proof.step("full").checks:
        if check.aspect:
            proving.take_reading(unit.pk, check.key, {"volts": "5.02", "ripple": "12m", "lowest": "4.93"}[check.aspect])
    bad = next(c for c in unit_state(unit.pk).proof.step("full").checks if c.aspect == "volts")
    proving.take_reading(unit.pk, bad.key, "7.4")
    text = client.get(url).content.decode()
    assert "takes-page" in text and not re.search(r'class="btn (stop )?act', text), (
        "after a failure only make idle is at hand"
    )
    make_idle()


def test_one_gauge_a_rail_at_hand_over_is_its_last_reading(client, demo):
    unit = Unit.objects.get(name="A")
    found = sheet(unit_state(unit.pk), whole=False)
    proofs = rail_proofs(found.rails)
    assert [p.name for p in proofs] == ["+5 V", "+12 V", "−12 V"]
    for proof in proofs:
        read = [m for m in found.rails if m.reading.point == proof.name and m.check.aspect == "volts"]
        assert len(read) > 1 and proof.volts is read[-1]
        assert proof.drawn.band_from < proof.drawn.needle < proof.drawn.band_from + proof.drawn.band_width
    assert client.get(reverse("handover", args=[unit.pk])).content.decode().count('class="gauge') == 6


def test_policies_stand_in_one_table_with_what_they_differ_in(client, db):
    page = client.get(reverse("policies"))
    differing, alike = page.context["differing"], page.context["alike"]
    assert all(len(set(answers)) > 1 for _, answers in differing) and differing
    assert {q for q, _ in differing} & {q for q, _ in alike} == set()
    text = page.content.decode()
    assert text.count('aria-label="Policies beside each other"') == 1 and "policy-form" not in re.sub(
        r'href="[^"]*"', "", text
    )
    assert "policy-form" in re.sub(
        r'href="[^"]*"', "", client.get(reverse("policies"), {"like": "mend"}).content.decode()
    )


def test_triage_draws_all_units_on_one_scale(client, demo):
    unit = Unit.objects.get(name="B")
    page = client.get(reverse("triage", args=[unit.job_id]))
    scale = page.context["scale"]
    for row, estimate, bar, *_ in page.context["rows"]:
        assert bar.cost == pytest.approx(100 * estimate.cost / scale, abs=0.06)
        if row.worth is not None:
            assert bar.worth == pytest.approx(100 * row.worth / scale, abs=0.06)


def test_boards_are_drawn_at_intake_to_one_scale_and_lead_to_their_survey(client, demo):
    unit = Unit.objects.get(name="B")
    page = client.get(reverse("intake", args=[unit.pk]))
    drawn = page.context["drawings"]
    assert [board.row.name for board, _, _ in drawn] == ["PS-2", "MB-80"]
    widths = {box.split()[2] for _, box, _ in drawn}
    assert widths == {f"{max(picture['scene'].width for _, _, picture in drawn):g}"}, "as many mm are as wide in each"
    survey = reverse("survey", args=[drawn[0][0].row.pk])
    assert f'href="{survey}?part=C7"' in page.content.decode()


def test_gather_for_all_leads_to_the_parcel_then_to_what_comes_then_to_a_plan(client, demo):
    url = reverse("gather_shop")
    assert act(client, url) == "Plan again", "the shelf has changed since"
    planning.make()
    plan = client.get(url).context
    parcels = [o.supplier for o in plan["found"].orders]
    for supplier in parcels:
        assert act(client, url) == f"Ordered from {supplier}"
        client.post(reverse("gather_order"), {"supplier": supplier, "aim": plan["aim"]})
    lead = client.get(url).context["coming"]
    assert act(client, url) == f"Count in {lead.part}"


def test_the_steps_of_a_reforming_run_stand_there_before_it_begins(client, demo):
    part = Unit.objects.get(name="B").boards.get(name="MB-80").parts.get(ref="C39")
    page = client.get(reverse("reform", args=[part.pk]))
    assert [volts for volts, _, _ in page.context["ahead"]] == pytest.approx([5, 10, 15, 20, 25])
    assert "The steps ahead" in page.content.decode()


def test_where_nothing_was_seen_yet_the_signs_are_the_page(client, demo):
    unit = Unit.objects.get(name="M")
    text = client.get(reverse("suspects", args=[unit.pk])).content.decode()
    picture = text[text.index('id="signs-picture"') :][:60]
    assert " open" in picture, "a machine with a tube shows what its picture may look like"
    assert act(client, reverse("suspects", args=[unit.pk])) == "Save and rank"
