"""A stranger's first hour, by keyboard: from an empty bench to the first part chosen, by what each page itself offers next."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import CatalogueItem, Choice, Part, Unit

pytestmark = pytest.mark.django_db(transaction=True)

#: Acts besides typing that it may take.
MOST = 20


class Stranger:
    """Presses what the page offers, and counts it."""

    def __init__(self, page: Page) -> None:
        self.page, self.acts = page, []

    def press(self, key: str, why: str, leaves: bool = True) -> None:
        self.acts.append(f"{key}: {why}")
        if leaves:
            self.page.evaluate("() => { window.older = true }")
        self.page.keyboard.press(key)
        if leaves:
            self.page.wait_for_function("() => !window.older")
            self.page.wait_for_load_state()

    def lead(self) -> tuple[str, str]:
        """The one filled action in sight: its key, and its words."""
        found = self.page.locator("main .btn.act:visible")
        expect(found).to_have_count(1)
        words = " ".join(found.inner_text().split())
        return found.get_attribute("data-key") or words.rpartition(" ")[2], words


def test_a_strangers_first_hour(page: Page, db, capsys):
    from idlebench.web.shelf.services import ensure_house_catalogue

    CatalogueItem.objects.all().delete()
    ensure_house_catalogue()
    page.goto("/")
    me = Stranger(page)
    assert me.lead() == ("N", "New job N")
    me.press("n", "new job")

    # required fields are marked; one that was left out has the keyboard, and what stands in it is selected
    for name in ("name", "machine"):
        assert page.locator(f"main [name={name}]").get_attribute("aria-required") == "true"
    after = "getComputedStyle(document.querySelector('label[for$=-machine]'), '::after').content"
    assert "*" in page.evaluate(after)
    page.keyboard.type("Fog horn timer")
    me.press("Enter", "open the job, the kind of machine forgotten")
    assert page.evaluate("document.activeElement.name") == "machine"
    page.keyboard.type("Horn timer H-2")
    me.press("Enter", "open the job")
    assert Unit.objects.count() == 1

    # the first look: what is confirmed stays so, whatever number is pressed again
    while True:
        key, words = me.lead()
        if not words.startswith("Confirm"):
            break
        me.press(key, words)
        page.keyboard.press("1")
    assert words == "List this board"
    expect(page.locator("main")).to_contain_text("all 10 seen or skipped")

    page.locator("form[action$='/board/'] input[name=name]").fill("HT-1")
    me.press("Enter", "list the board")
    key, words = me.lead()
    me.press(key, words)
    page.keyboard.press("a")
    me.acts.append("a: the line to type in")
    expect(page.locator("input[name=line]").first).to_be_focused()
    page.keyboard.type("C1 100u 16V 6.3x11 p2.5 decoupling rail +5V esr 6.8 bulging")
    me.press("Enter", "add the part")
    assert Part.objects.get().looks == "bulging"
    page.keyboard.press("Escape")
    key, words = me.lead()
    me.press(key, words)
    expect(page.locator("h1")).to_contain_text("C1")
    key, words = me.lead()
    me.press(key, words)
    assert Choice.objects.get().item
    with capsys.disabled():
        print(f"\nfirst hour: {len(me.acts)} acts besides typing\n  " + "\n  ".join(me.acts))
    assert len(me.acts) <= MOST, me.acts
