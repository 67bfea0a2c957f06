"""Suspects of a supply of which nobody typed the lines, by keyboard: a symptom in own words, the assumed supply, the suspects, one started."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import Cause, Clue
from idlebench.web.survey.services import paste
from tests import typed
from tests.web.test_suspects import SWITCHING

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_dead_supply_without_lines_names_its_leaking_capacitors(page: Page, unit):
    unit.boards.all().delete()
    board = typed.add_board(
        unit, {"name": "PS-9", "supply": "switching", "width": "120", "height": "80", "rails": "+5V 3A\n+12V 1A"}
    )
    paste(board, SWITCHING, good_rows=False)
    keys = page.keyboard
    page.goto(f"/unit/{unit.pk}/suspects/")
    expect(page.locator("main")).to_contain_text(
        "The supply of PS-9 is assumed: a flyback converter behind C7 on the mains"
    )
    field = page.get_by_label("Symptoms of a rail or a part")
    field.focus()
    keys.type("it will not turn on")
    keys.press("Tab")
    page.get_by_role("checkbox", name="Found before").focus()
    keys.press("Space")
    with page.expect_navigation():
        page.get_by_role("button", name="Save and rank").press("Enter")
    clue = Clue.objects.get(unit=unit)
    assert clue.text == "dead" and clue.as_found
    listed = page.get_by_label("Suspects", exact=True).locator("li b")
    expect(listed.first).to_be_visible()
    assert set(listed.all_inner_texts()[:4]) <= {"C14", "C15", "C16", "C18"}
    expect(page.get_by_label("Evidence")).to_contain_text("as found")
    keys.press("t")
    expect(page.locator("main")).to_contain_text("in hand")
    assert Cause.objects.get(unit=unit).ref in {"C14", "C15", "C16", "C18"}
