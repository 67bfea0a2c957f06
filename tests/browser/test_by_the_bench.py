"""One hand, a phone, 390 pixels: First power and Swap by touch."""

import pytest
from playwright.sync_api import Browser, expect

from idlebench.web.unit.state import unit_state
from tests.web.helpers import before_power, pass_up_to, settle, wait_out

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def phone(browser: Browser, live_server):
    """A phone in one hand."""
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=live_server.url
    )
    page = context.new_page()
    page.set_default_timeout(10_000)
    yield page
    context.close()


def test_first_power_by_touch(phone, surveyed):
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "full")
    phone.goto(f"/unit/{unit.pk}/power/")
    expect(phone.locator("h1")).to_contain_text("230 V in")
    here = phone.locator(".spine li.here").bounding_box()
    assert here["x"] >= 0 and here["x"] + here["width"] <= 390, "the strip shows the stage in hand"
    phone.get_by_role("link", name="Power on at this step").tap()
    expect(phone.get_by_role("alertdialog")).to_be_focused()
    phone.get_by_role("button", name="Yes, power on").tap()
    expect(phone.locator(".live")).to_be_visible()
    for label, text in (
        ("+5 V volts", "5.02"),
        ("+5 V ripple p-p, or rms", "12m"),
        ("+5 V lowest under a load step", "4.93"),
    ):
        phone.get_by_label(label, exact=True).fill(text)
    phone.get_by_role("button", name="Log the readings").tap()
    expect(phone.locator(".reading.huge")).to_contain_text("5.02 V")
    wait_out(unit)
    phone.reload()
    phone.get_by_role("button", name="Supply: yes").tap()
    expect(phone.get_by_label("Checks of this step")).to_contain_text("yes passed")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    phone.get_by_role("button", name="Make idle").tap()
    expect(phone.locator(".idle")).to_be_visible()
    before_power(unit)
    assert unit_state(unit.pk).proof.current.key == "feed"


def test_swap_by_touch(phone, surveyed):
    phone.goto(f"/board/{surveyed.pk}/choose/")
    phone.get_by_role("button", name="Settle the clear ones").tap()
    expect(phone.locator(".said")).to_contain_text("2 places settled")
    phone.goto(f"/board/{surveyed.pk}/swap/")
    phone.get_by_label("Volts across C1").fill("0.3")
    phone.get_by_role("button", name="Log", exact=False).first.tap()
    for ref in ("C2", "C1"):
        expect(phone.locator("h1")).to_contain_text(f"{ref}: old one out")
        phone.get_by_role("button", name="It is in: dab it").tap()
    expect(phone.locator("main")).to_contain_text("Every chosen part of this board is in")
    expect(phone.locator("circle.dab")).to_have_count(2)
