"""First power on the simulated bench, by keyboard: what the simulated meter reads, what is expected, and what stops the way up."""

import re
from urllib.parse import quote

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import PowerSession
from idlebench.web.survey import services as surveying
from idlebench.web.unit.state import unit_state
from tests.web.helpers import pass_up_to, settle

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def ready(surveyed):
    """A supply with its lines, at a job whose meter is the simulated meter, ready for full mains."""

    def made(truth: str):
        job = surveyed.unit.job
        surveyed.supply_model = "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A"
        surveyed.save()
        settle(surveyed.unit)
        # of the new part: what befell the old part went with it
        surveyed.truth = truth
        surveyed.save()
        pass_up_to(surveyed.unit, "full")
        # the simulated meter is switched on once the machine was read: what is typed from here on is the bench's
        job.meter = "stand-in"
        job.save()
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
    assert state.proof.of_the_bench == 1, "what is typed while the simulated meter is on is of the bench"


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


SWITCHING = "bridge mains 10.6ohm store C7 converter flyback {watts}W eff 0.78 at 42k fuse T1.6A{least}\nrail +5V {amps}A duty 0.47 stores C14"


@pytest.fixture
def switching(surveyed):
    """A switching supply with its lines, ready for its lamp; with how much its rail gives, what is said of it, its least load."""

    def made(rail: str, watts: float, amps: float, least: str = ""):
        board = surveyed
        board.supply, board.rails, board.source_volts, board.source_va = "switching", rail, None, None
        board.supply_model = SWITCHING.format(watts=watts, amps=amps, least=least)
        board.save()
        settle(board.unit)
        surveying.paste(board, "C7 150u 400V 22x30 bulk\nC14 2200u 10V 10x20", good_rows=False)
        pass_up_to(board.unit, "limited")
        return board

    return made


def test_a_dead_supply_that_only_lacks_its_load(page: Page, switching):
    """Said before power goes on; with the least load typed, its dummy load is larger and it comes up."""
    board = switching("+5 V 3.1 A min 0.1 A", 30, 3.1, " least 0.6A")
    unit = board.unit
    page.goto(f"/unit/{unit.pk}/power/?step=limited")
    told = page.locator(".wrong", has_text="cannot work")
    expect(told).to_contain_text("less than its least load")
    page.goto(f"/unit/{unit.pk}/intake/")
    page.locator("summary", has_text="PS-1").first.click()
    page.locator("summary", has_text="Rails and supply").first.click()
    page.get_by_label("Rails it makes").first.fill("+5 V 3.1 A min 0.7 A")
    page.get_by_role("button", name="Save these facts").first.click()
    page.goto(f"/unit/{unit.pk}/power/?step=limited")
    expect(page.locator("h1")).to_contain_text("Lamp limiter")
    expect(told).to_have_count(0)
    assert unit_state(unit.pk).proof.current.key in ("cold", "dummy"), "another dummy load is asked for"


def test_a_lamp_on_which_the_supply_cannot_start_is_told_before_power(page: Page, switching):
    unit = switching("+5 V 60 A min 20 A", 400, 60).unit
    page.goto(f"/unit/{unit.pk}/power/?step=limited")
    told = page.locator(".wrong", has_text="cannot work")
    expect(told).to_contain_text("behind a lamp of 200 W it gets too little")
    expect(told).to_contain_text("Choose another power-up method")


def test_an_adapter_is_judged_unloaded(page: Page, surveyed):
    """A reading of the right size and the wrong sign is a plug wired the other way round: nothing is plugged."""
    surveyed.others, surveyed.source_volts, surveyed.source_va = "AD1 adapter 12V DC 1A centre + 5.5x2.1", None, None
    surveyed.save()
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "source")
    power_on(page, unit)
    expect(page.locator("h1")).to_contain_text("Adapter AD1 alone")
    page.keyboard.press("v")
    page.keyboard.type("-16.6")
    page.keyboard.press("Enter")
    expect(page.locator(".takes-page")).to_contain_text("AD1, nothing plugged in")
    page.keyboard.press("i")
    expect(page.locator(".idle")).to_be_visible()
    page.goto(f"/unit/{unit.pk}/power/?step=adapter")
    expect(page.get_by_label("Why this step is blocked")).to_be_visible()


def test_a_cold_check_is_heard_where_sound_is_on(page: Page, ready):
    unit = ready("")
    page.goto(f"/unit/{unit.pk}/cold/")
    page.keyboard.press("s")
    expect(page.get_by_role("button", name="Sound on")).to_have_attribute("aria-pressed", "true")
    check = next(c for c in unit_state(unit.pk).proof.steps[0].checks if c.point.startswith("ground to"))
    page.goto(f"/unit/{unit.pk}/cold/?check={quote(check.key)}")
    page.keyboard.press("v")
    page.keyboard.type("0.4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="Just read")).to_contain_text("failed")
    expect(page.locator("html")).to_have_attribute("data-heard", "failed")
