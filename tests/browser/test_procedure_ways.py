"""A procedure with a wait, by keyboard: added by one key, done step by step, its timer on every page, its check logged."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import UnitProcedure
from idlebench.web.unit.state import unit_state
from tests.web.helpers import discharge, waits_are_over

from .test_ways import Keys

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_wash_with_its_wait(page: Page, surveyed):
    keys = Keys(page)
    unit = surveyed.unit
    discharge(unit)
    page.goto(f"/board/{surveyed.pk}/swap/")
    keys.go("q", "Procedures of unit A")
    # the fourth of the list: a wash by alcohol
    keys.go("4", "Board wash, by alcohol and brush on PS-1")
    for number in (1, 2, 3, 4):
        expect(page.get_by_label(f"Step {number}", exact=True)).to_be_visible()
        keys.press("Enter")
    expect(page.locator("main")).to_contain_text("runs until")
    expect(page.locator(".reading")).to_contain_text("23:59")
    expect(page.get_by_role("button", name="Not yet")).to_be_disabled()
    assert unit_state(unit.pk).wet

    # the timer runs on every page, and leads back
    page.goto("/reckoner/")
    expect(page.locator(".timer")).to_contain_text("A: Board wash, by alcohol and brush")
    expect(page.locator(".timer b")).to_contain_text("23:5")
    waits_are_over(UnitProcedure.objects.get())
    page.goto("/shelf/")
    expect(page.locator(".timer")).to_contain_text("over")
    page.locator(".timer").click()
    expect(page.get_by_label("Step 5", exact=True)).to_be_visible()
    keys.press("s")
    page.keyboard.type("white bloom along the edge")
    page.get_by_role("button", name="It failed").click()
    expect(page.locator("main")).to_contain_text("white bloom along the edge. Repair it")
    keys.press("Enter")
    expect(page.locator("main")).to_contain_text("Every step is done")
    expect(page.locator(".timer")).to_have_count(0)
    keys.press("u")
    expect(page.get_by_label("Step 5", exact=True)).to_be_visible()


def test_a_procedure_is_written_by_its_form(page: Page, shelf):
    keys = Keys(page)
    page.goto("/procedures/")
    keys.press("a")
    page.keyboard.type("Lamp glass")
    keys.press("Tab")
    page.keyboard.type("Wipe it with a dry cloth")
    keys.press("Enter")
    expect(page.locator("h1")).to_contain_text("Lamp glass")
    keys.press("a")
    page.keyboard.type("Look through it")
    page.get_by_label("Its check").nth(1).fill("smell")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("step 2, check")
    page.get_by_label("Its check").nth(1).fill("look")
    keys.press("Escape", "n")
    expect(page.locator(".said")).to_contain_text("Lamp glass: saved, revision 2")
    expect(page.get_by_label("Instruction")).to_have_count(3)
