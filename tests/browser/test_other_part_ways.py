"""The way of a board with parts of every kind, by keyboard: listed, measured along the leads, judged, chosen by limits, swapped."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.helpers import discharge

pytestmark = pytest.mark.django_db(transaction=True)

LINES = (
    ("R1 10R 1W fusible at 10,10", "resistor"), ("D1 1N4001 at 30,10", "diode"), ("Q1 npn 60V 2A at 50,10", "transistor"),
    ("RL1 12V 120ohm at 70,10", "relay"), ("S1 at 90,10", "switch"),
)  # fmt: skip
#: What is typed at each place in the order of the leads, and what the page says of it.
READINGS = (
    ("OL", "open"),
    ("0.58 OL", "silicon"),
    ("be 0.0 bc 0.0", "shorted"),
    ("121 closed 0.1", "as listed"),
    ("0.2 OL", "contact"),
)


def test_parts_of_every_kind_from_the_line_to_the_swap_by_keyboard(page: Page, unit):
    board = unit.boards.get(name="MB-80")
    discharge(unit)
    keys = page.keyboard
    page.goto(f"/board/{board.pk}/survey/")
    keys.press("a")
    for text, said in LINES:
        expect(page.locator("[data-line]")).to_be_focused()
        keys.type(text)
        keys.press("Enter")
        expect(page.locator(".said")).to_contain_text(f"Listed: {text.split()[0]}, {said}")
    # the whole board along the leads: out of circuit is said once, then a reading and Enter each
    keys.press("Escape")
    keys.press("m")
    expect(page.locator("h1")).to_have_text("Measure R1")
    keys.press("Escape")
    keys.press("c")
    for (line, _), (reading, said) in zip(LINES, READINGS, strict=True):
        expect(page.locator("h1")).to_have_text(f"Measure {line.split()[0]}")
        page.get_by_label(re.compile("What the meter shows")).focus()
        keys.type(reading)
        keys.press("Enter")
        expect(page.get_by_label("The last reading")).to_contain_text(f"Just read, {line.split()[0]} out of circuit")
        expect(page.get_by_label("The last reading")).to_contain_text(said)
    # its panel says why, J goes on to the next
    page.goto(f"/board/{board.pk}/survey/?part=R1")
    expect(page.locator(".panel")).to_contain_text("What a sound one reads")
    expect(page.locator(".panel .tag").first).to_have_text("replace")
    keys.press("j")
    expect(page.locator(".panel h2")).to_have_text("D1, judged")
    # a fusible resistor is chosen by its limits, and what is bad is a step of Swap
    page.goto(f"/board/{board.pk}/supply/")
    resistor = page.get_by_role("region", name="R1")
    expect(resistor).to_contain_text("it is the fuse of its branch")
    keys.press("Enter")
    expect(page.get_by_role("region", name="R1")).to_contain_text("chosen:")
    page.goto(f"/board/{board.pk}/swap/?place=R1")
    keys.press("Enter")
    expect(page.locator("main")).to_contain_text("R1")
    board.refresh_from_db()
    assert board.device_swaps.get(ref="R1").item.startswith("UR1-10R")
    page.goto(f"/board/{board.pk}/swap/?place=Q1")
    keys.press("a")
    keys.type("npn 80V 4A")
    keys.press("Enter")
    expect(page.locator("h1")).not_to_have_text("Q1: another part fitted")
    assert board.device_swaps.get(ref="Q1").item == "npn 80V 4A"


def test_a_part_is_dragged_and_a_testers_text_is_pasted_by_keyboard(page: Page, unit):
    board = unit.boards.get(name="MB-80")
    discharge(unit)
    board.others = "R1 resistor 2200ohm at 10,10\nD1 diode at 30,10"
    board.save()
    page.goto(f"/board/{board.pk}/survey/?part=R1")
    part = page.locator("a[data-part=R1]")
    box = part.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 4)
    page.mouse.down()
    page.mouse.move(box["x"] + 80, box["y"] + 60, steps=4)
    # the page comes again with the part in hand once its place is kept
    with page.expect_response(re.compile("/device/R1/place/")), page.expect_navigation():
        page.mouse.up()
    board.refresh_from_db()
    assert "at 10,10" not in board.others and "R1 resistor" in board.others
    page.goto(f"/board/{board.pk}/measure/")
    page.keyboard.press("Escape")
    page.keyboard.press("p")
    page.get_by_label(re.compile("Lines of a component tester")).focus()
    page.keyboard.type("R1: 2.21 kOhm\nD1 Uf=580mV")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.locator(".said")).to_contain_text("2 parts read")
