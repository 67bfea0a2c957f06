"""What comes to a page after it: keys pressed before wait for it, and what does not come says so."""

from playwright.sync_api import Browser, Page, expect

from idlebench.web.records.models import Board


def choose(place: str) -> str:
    board = Board.objects.get(unit__name="B", name="PS-2")
    return f"/board/{board.pk}/choose/?place={place}"


def test_a_key_pressed_too_early_is_answered_when_its_part_is_there(page: Page, demo):
    held = []
    page.route("**/choose/needles/**", lambda route: held.append(route))
    page.goto(choose("C18"))
    expect(page.get_by_label("What the supply will do")).to_contain_text("Calculating each candidate")
    page.keyboard.press("x")
    assert page.get_by_text("does nothing on this page").count() == 0
    held.pop().continue_()
    expect(page.get_by_label("What changes in the supply")).to_be_visible()


def test_what_does_not_come_says_so(browser: Browser, server, demo):
    # a page of its own: what goes wrong here is meant to
    page = browser.new_page(base_url=server)
    page.route("**/choose/needles/**", lambda route: route.fulfill(status=500, body="no"))
    page.goto(choose("C18"))
    expect(page.get_by_label("What the supply will do")).to_contain_text("could not be loaded. Load the page again.")
    page.close()


def test_a_candidate_moves_the_needles_before_it_is_used(page: Page, demo):
    page.goto(choose("C18"))
    gauges = page.get_by_label("What the supply will do")
    expect(gauges.locator("[data-with]")).to_be_visible()
    first = gauges.locator("[data-with]").inner_text()
    page.locator("[data-card]").nth(2).hover()
    expect(gauges.locator("[data-with]")).not_to_have_text(first)
