"""First power on the simulated bench, by keyboard: what the stand-in reads, what is expected, and what stops the way up."""

import re

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import PowerSession
from idlebench.web.unit.state import unit_state
from tests.web.helpers import pass_up_to, settle

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def ready(surveyed):
    """A supply with its lines, at a job whose meter is the stand-in, ready for full mains."""

    def made(truth: str):
        job = surveyed.unit.job
        job.meter = "stand-in"
        job.save()
        surveyed.supply_model, surveyed.truth = "bridge 9V 25VA store C1 regulator VR1 5V 1A", truth
        surveyed.save()
        settle(surveyed.unit)
        pass_up_to(surveyed.unit, "full")
        return surveyed.unit

    return made


def power_on(page: Page, unit) -> None:
    page.goto(f"/unit/{unit.pk}/power/")
    page.keyboard.press("g")
    expect(page.get_by_role("alertdialog")).to_be_focused()
    page.keyboard.press("y")
    expect(page.locator(".live")).to_be_visible()


def test_a_hidden_dried_store_is_stopped_at_ripple_by_the_stand_in(page: Page, ready):
    unit = ready("C1 cap 450u")
    power_on(page, unit)
    expect(page.get_by_label("Volts of +5 V")).to_contain_text("expected")
    page.keyboard.press("m")
    expect(page.get_by_label("Volts of +5 V")).not_to_contain_text("not read yet")
    expect(page.locator(".unit .tag")).to_contain_text("tried on the simulated bench")
    page.keyboard.press("m")
    failed = page.locator(".takes-page")
    expect(failed).to_contain_text("ripple")
    expect(failed).to_contain_text("C1 dried to about")
    page.keyboard.press("i")
    expect(page.locator(".idle")).to_be_visible()
    assert not PowerSession.objects.filter(ended=None).exists()
    assert unit_state(unit.pk).proof.current.key in ("cold", "full"), "the boards are not fed"


def test_a_reading_that_is_allowed_and_not_explained_is_looked_at_twice(page: Page, ready):
    unit = ready("")
    power_on(page, unit)
    page.keyboard.press("v")
    page.keyboard.type("5021")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("Is 5.021 V meant")
    field = page.get_by_label("+5 V volts", exact=True)
    field.fill("4.76")
    field.press("Enter")
    volts = page.get_by_label("Volts of +5 V")
    expect(volts).to_contain_text("allowed, not explained")
    expect(volts).to_contain_text("in J2")
    expect(page.locator(".takes-page")).to_have_count(0)
    # the gauge says in words what it draws
    expect(volts.locator("svg.gauge")).to_have_attribute(
        "aria-label", re.compile("reads 4.76 V, allowed 4.75 V to 5.25 V, expected")
    )
    state = unit_state(unit.pk)
    assert not state.proof.of_the_bench, "what was typed is of no bench"


def test_a_run_of_cold_checks_by_the_stand_in(page: Page, ready):
    unit = ready("")
    power_on(page, unit)
    page.keyboard.press("i")
    expect(page.locator(".idle")).to_be_visible()
    page.goto(f"/unit/{unit.pk}/cold/")
    expect(page.locator("#next")).to_contain_text("across C1")
    page.keyboard.press("m")
    expect(page.locator("#next")).not_to_contain_text("across C1 ")
    assert unit_state(unit.pk).proof.of_the_bench == 1
