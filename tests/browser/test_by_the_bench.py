"""One thumb, a phone, 390 × 844: First power and Swap, no act of them needs a scroll."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from idlebench.web.unit.state import unit_state
from tests.web.helpers import before_power, pass_up_to, settle, wait_out

pytestmark = pytest.mark.django_db(transaction=True)


class Thumb:
    """One thumb that never scrolls: what it does not reach where the page stands is not done."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def at(self, found: Locator) -> tuple[float, float]:
        """Where a control is touched; it is whole in sight, nothing lies on it, and the page stands as it was opened."""
        expect(found).to_be_visible()
        self.page.wait_for_load_state()
        box = found.bounding_box()
        said = found.inner_text() or found.get_attribute("aria-label") or found.get_attribute("name")
        assert box["y"] >= 0 and box["y"] + box["height"] <= 844, f"{said} is out of sight: {box}"
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        over = "([x, y, e]) => { const on = document.elementFromPoint(x, y); return e === on || e.contains(on) || !!on.closest('label')?.contains(e) }"
        assert self.page.evaluate(over, [x, y, found.element_handle()]), f"something lies on {said}"
        assert self.page.evaluate("scrollY") == 0, f"the page was scrolled before {said}"
        return x, y

    def tap(self, name: str, role: str = "button") -> None:
        self.page.touchscreen.tap(*self.at(self.page.get_by_role(role, name=name).first))

    def type(self, label: str, text: str) -> None:
        """Into a field that is reached by the thumb; the phone's own keyboard is not the page's."""
        found = self.page.get_by_label(label, exact=True).first
        self.page.touchscreen.tap(*self.at(found))
        expect(found).to_be_focused()
        self.page.keyboard.type(text)


def test_first_power_by_one_thumb(phone, surveyed):
    unit, thumb = surveyed.unit, Thumb(phone)
    settle(unit)
    pass_up_to(unit, "full")
    phone.goto(f"/unit/{unit.pk}/power/")
    expect(phone.locator("h1")).to_contain_text("230 V in")
    menu = phone.get_by_role("button", name=re.compile("A · First power"))
    assert phone.locator("header.state").bounding_box()["height"] < 70, "one row before the title"
    expect(phone.locator(".stage-rail")).to_be_hidden()
    menu.tap()
    expect(phone.locator(".stage-rail li.here")).to_be_visible()
    menu.tap()
    asks = thumb.at(phone.get_by_role("link", name="Power on at this step"))
    phone.touchscreen.tap(*asks)
    expect(phone.get_by_role("alertdialog")).to_be_focused()
    # a second tap in the same place says no
    phone.touchscreen.tap(*asks)
    expect(phone.get_by_role("alertdialog")).to_have_count(0)
    assert unit_state(unit.pk).live_step is None
    phone.touchscreen.tap(*asks)
    expect(phone.get_by_role("alertdialog")).to_be_focused()
    thumb.tap("Yes, power on")
    expect(phone.locator(".live")).to_be_visible()
    for label, text in (
        ("+5 V volts", "5.02"),
        ("+5 V ripple p-p, or rms", "12m"),
        ("+5 V lowest under a load step", "4.93"),
    ):
        thumb.type(label, text)
        thumb.tap("Log the readings")
        aspect = label.split()[2].capitalize()
        expect(phone.get_by_label(f"{aspect} of +5 V").locator(".reading")).to_contain_text(text[:2])
    expect(phone.locator(".reading.huge")).to_contain_text("5.02 V")
    wait_out(unit)
    phone.reload()
    thumb.tap("Supply: yes")
    expect(phone.get_by_label("Checks of this step")).to_contain_text("yes passed")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    thumb.tap("Make idle")
    expect(phone.locator(".idle")).to_be_visible()
    before_power(unit)
    assert unit_state(unit.pk).proof.current.key == "feed"


def test_swap_by_one_thumb(phone, surveyed):
    thumb = Thumb(phone)
    phone.goto(f"/board/{surveyed.pk}/choose/")
    phone.get_by_role("button", name="Use all clear matches").tap()
    expect(phone.locator(".said")).to_contain_text("2 places decided")
    phone.goto(f"/board/{surveyed.pk}/swap/")
    thumb.type("Volts across C1", "0.3")
    thumb.tap("Log its volts")
    for ref in ("C2", "C1"):
        expect(phone.locator("h1")).to_contain_text(f"{ref}: old part out")
        thumb.tap("Mark as fitted")
    expect(phone.locator("main")).to_contain_text("Every chosen part of this board is fitted")
    expect(phone.locator("circle.dab")).to_have_count(2)
