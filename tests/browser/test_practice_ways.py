"""A practice machine failed on purpose, and another passed, by keyboard; the next look in the calendar."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.practice import services
from idlebench.web.records.models import PracticeRun, Unit

pytestmark = pytest.mark.django_db(transaction=True)


def press(page: Page, key: str) -> None:
    """Press a key, and wait until the page is another."""
    page.evaluate("() => { window.older = true }")
    page.keyboard.press(key)
    page.wait_for_function("() => !window.older")
    page.wait_for_load_state()


def typed(page: Page, move: str) -> None:
    page.keyboard.press("v")
    page.keyboard.press("Control+a")
    page.keyboard.type(move)
    press(page, "Enter")


def test_a_machine_failed_on_purpose_and_another_passed(page: Page, shelf):
    page.goto("/practice/")
    page.keyboard.press("v")
    page.keyboard.press("Control+a")
    page.keyboard.type("quay")
    page.keyboard.press("Escape")
    press(page, "4")
    row = PracticeRun.objects.get()
    run = services.sit(row.pk).run
    expect(page.locator("h1")).to_have_text(run.machine.title)
    # an iron into full stores, then full mains at once
    page.get_by_label("Its board").get_by_role("link", name="C1").click()
    press(page, "s")
    expect(page.locator("#last")).to_contain_text("with charged reservoirs")
    press(page, "4")
    expect(page.locator("#last")).to_contain_text("bursts")
    press(page, "i")
    press(page, "y")
    press(page, "f")
    expect(page.get_by_label("Result")).to_contain_text("not found")
    expect(page.get_by_label("Result")).to_contain_text("2")
    press(page, "n")

    # the door: a joint, pressed and made new
    expect(page.get_by_label("Finished")).to_contain_text(run.machine.title)
    press(page, "6")
    row = PracticeRun.objects.first()
    made = services.sit(row.pk).run.machine
    (joint,) = made.joints
    press(page, "e")
    press(page, "h")
    expect(page.get_by_role("region", name="The next step")).to_contain_text("read F1 ohms")
    typed(page, "read F1 ohms")
    for key in ("2", "3", "r"):
        press(page, key)
    page.get_by_label("Other places").get_by_role("link", name=joint).click()
    press(page, "b")
    expect(page.locator("#last")).to_contain_text("pressed with a plastic rod")
    for key in ("i", "e", "m", "2", "3", "r", "4", "r", "p", "i", "y", "f"):
        press(page, key)
    expect(page.get_by_label("Result")).to_contain_text("It works, the cause is found, nobody was hurt")
    page.keyboard.press("w")
    expect(page.get_by_label("Result")).to_contain_text(f"press {joint}")


def test_the_next_look_stands_in_the_calendar(page: Page, demo):
    unit = Unit.objects.exclude(handed_over=None).get()
    page.goto("/calendar/")
    row = page.get_by_label("Next inspections").locator("tbody tr")
    expect(row).to_have_count(1)
    expect(row).to_contain_text(f"{unit.next_look.day} {unit.next_look:%b %Y}")
    with page.expect_download() as got:
        page.keyboard.press("i")
    assert f"next-look-{unit.pk}@idlebench" in got.value.path().read_text()
