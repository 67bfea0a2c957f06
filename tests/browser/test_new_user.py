"""A newcomer on an empty bench: a job typed, a part of one's own, chosen, a mistake removed and brought back, nothing dead."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import CatalogueItem, Choice, Job, Part, Unit
from tests.web.test_ways_and_words import PROGRAMMERS

pytestmark = pytest.mark.django_db(transaction=True)


def plain(page: Page) -> None:
    """Nothing on the page only a programmer would say."""
    import re

    text = page.locator("body").inner_text()
    for pattern in PROGRAMMERS:
        found = re.search(pattern, text)
        assert not found, (page.url, found and text[max(0, found.start() - 60) : found.end() + 40])


def test_a_newcomers_way(page: Page, db):
    from idlebench.web.shelf.services import ensure_house_catalogue

    CatalogueItem.objects.all().delete()
    ensure_house_catalogue()
    page.goto("/")
    plain(page)
    # a key that does nothing says so, and ? lists those that do
    page.keyboard.press("q")
    expect(page.locator("#key-says")).to_contain_text("Q does nothing on this page now")
    page.keyboard.press("n")
    expect(page.locator("h1")).to_contain_text("job")
    page.get_by_label("Job", exact=True).fill("Fog horn timer")
    page.get_by_label("Kind of machine").fill("Horn timer H-2")
    page.get_by_label("Year made").fill("1986")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("Intake of unit A")
    plain(page)

    # the first board
    board_form = page.locator("form[action$='/board/']")
    board_form.locator("input[name=name]").fill("HT-1")
    board_form.get_by_role("button", name="List this board").click()
    expect(page.locator("body")).to_contain_text("HT-1")

    # typed lines: Enter keeps the keyboard in the line, a point off the board is told in plain words
    page.get_by_role("navigation").get_by_role("link", name="Survey").click()
    line = page.locator("input[name=line]").first
    line.fill("C1 100 uF 16 V 6.3x11 p2.5 decoupling rail +5 V worst 5 swollen at 30,30")
    line.press("Enter")
    expect(page.locator("body")).to_contain_text("C1")
    assert page.evaluate("document.activeElement.name") == "line", "the next line is typed at once"
    page.keyboard.type("C2 10u 16V 5x11 at 900,30")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("does not go here")
    plain(page)
    part = Part.objects.get()
    assert (part.value, part.looks) == (pytest.approx(1e-4), "bulging")

    # one part of one's own, found again and chosen
    page.goto("/shelf/")
    plain(page)
    page.keyboard.press("v")
    page.keyboard.type("100u 25V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.13@100k low €0.20 x10 stock 4 name OURS")
    page.keyboard.press("Enter")
    expect(page.locator(".said")).to_contain_text("OURS is on the Shelf")
    assert page.evaluate("document.activeElement.name") == "line"
    expect(page.locator("#rows")).to_contain_text("€0.20")
    page.goto(f"/board/{part.board_id}/choose/")
    plain(page)
    expect(page.locator("article").first).to_contain_text("OURS", timeout=10_000)
    page.keyboard.press("Enter")
    expect(page.locator(".good").first).to_contain_text("OURS")
    assert Choice.objects.get().item == "OURS"
    page.goto(f"/unit/{part.board.unit_id}/gather/")
    expect(page.locator("main")).to_contain_text("OURS")
    plain(page)

    # a mistake removed and brought back
    page.goto(f"/unit/{part.board.unit_id}/intake/")
    page.get_by_role("link", name="Delete unit A").click()
    expect(page.locator("h1")).to_contain_text("Delete Unit A")
    page.keyboard.press("x")
    expect(page.locator("h1")).to_contain_text("Intake of unit A")
    page.get_by_role("link", name="Delete unit A").click()
    page.keyboard.press("y")
    expect(page.locator("h1")).to_have_text("Deleted")
    plain(page)
    assert not Unit.objects.exists() and Job.objects.exists()
    page.keyboard.press("u")
    expect(page.locator("h1")).to_contain_text("Intake of unit A")
    assert Unit.objects.exists() and Choice.objects.get().item == "OURS"

    # an address that only only receives what a page sends leads on
    page.goto(f"/board/{part.board_id}/choose/take/")
    page.keyboard.press("b")
    expect(page.locator("h1")).to_contain_text("HT-1")


def test_no_keycaps_where_there_is_no_keyboard(browser, server, surveyed):
    phone = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server)
    page = phone.new_page()
    page.goto(f"/board/{surveyed.pk}/choose/?place=C2")
    expect(page.locator("h1")).to_contain_text("C2")
    assert page.locator("kbd:visible").count() == 0
    # the place in hand comes first, the list of places after it
    assert page.locator("h1").bounding_box()["y"] < page.get_by_label("Places to choose for").bounding_box()["y"]
    phone.close()
