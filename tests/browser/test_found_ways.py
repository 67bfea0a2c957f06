"""A board listed from its photo by keyboard: acts counted, and the letters against those of the same board typed by hand."""

import math
import sys
from pathlib import Path

import cv2
import pytest
from playwright.sync_api import Page, expect

from idlebench.web.photos.services import Pin, lay_under, take_photo
from idlebench.web.records.models import Board, Part
from idlebench.web.survey.photo_finding import findings
from idlebench.web.unit.state import board_state

sys.path.append(str(Path(__file__).parents[2] / "tools"))
from photos import Drawn, rendered

pytestmark = pytest.mark.django_db(transaction=True)

#: Most acts for the board: a key that does something, a line sent.
MOST_ACTS = 90
#: Values by diameter, for a board of electrolytics.
VALUES = {5.0: "10u 50V", 6.3: "47u 25V", 8.0: "100u 35V", 10.0: "220u 25V", 12.5: "470u 35V", 16.0: "1000u 35V"}


def typed(part: Drawn) -> str:
    """A part as it is typed where the photo tells its place and size."""
    kinds = {"U": "logic", "J": "plug", "R": "resistor 330k 0.5W", "C": "100n 250V film"}
    return f"{part.ref} {VALUES.get(part.diameter, '2200u 25V') if part.kind == 'can' else kinds[part.ref[0]]}"


def by_hand(part: Drawn) -> str:
    """The same with the size and the place that somebody measured."""
    sides = (part.height, part.width) if part.angle else (part.width, part.height)
    size = f"{part.diameter:g}x{part.tall:g}" if part.kind == "can" else f"{sides[0]:g}x{sides[1]:g}"
    sized = f" {size}" if part.ref[0] in "CU" else ""
    return f"{typed(part)}{sized} at {part.x:.1f},{part.y:.1f}"


def test_a_board_of_forty_parts_from_its_photo(page: Page, unit):
    drawn = rendered(3, cans=26, boxes=14)
    board = Board.objects.create(unit=unit, name="IF-2", width=drawn.width, height=drawn.height, expected=0)
    _, data = cv2.imencode(".jpg", drawn.photo)
    photo, _ = take_photo(unit, data.tobytes(), "board.jpg", Pin(board=board))
    across, down = float(photo.width), float(photo.height)
    lay_under(
        board, "parts", photo, [(0.0, 0.0), (across, 0.0), (across, down), (0.0, down)],
        [(0.0, 0.0), (drawn.width, 0.0), (drawn.width, drawn.height), (0.0, drawn.height)],
    )  # fmt: skip
    acts = letters = 0

    def press(key: str) -> None:
        nonlocal acts
        acts += 1
        page.keyboard.press(key)

    def line(text: str) -> None:
        nonlocal letters
        letters += len(text)
        # its first letter goes into the line by itself, unless it is a key of the page
        if text[0] == "J":
            press("v")
        page.keyboard.type(text[0])
        page.keyboard.insert_text(text[1:])
        press("Enter")

    page.goto(f"/board/{board.pk}/survey/")
    press("f")
    expect(page.get_by_role("heading", level=1)).to_have_text("Parts in the photo")
    press("f")
    expect(page.locator("main")).to_contain_text("found in the photo of IF-2", timeout=60_000)
    press("b")
    heading = page.get_by_role("heading", level=1)
    left = {part.ref: part for part in drawn.parts}
    expect(heading).to_contain_text("what is it?")
    waiting = page.locator("svg.in-photo .seen:not(.is)")
    for count in range(waiting.count(), 0, -1):
        expect(waiting).to_have_count(count)
        number = int(page.locator("[name=at]").first.input_value())
        found = findings(board_state(board.pk)[1], board.underlays.get()).of(number).found
        part = min(left.values(), key=lambda p: math.hypot(p.x - found.x, p.y - found.y))
        if math.hypot(part.x - found.x, part.y - found.y) > 4:
            press("x")
        else:
            line(typed(left.pop(part.ref)))
    expect(heading).to_have_text("Nothing found waits")
    press("b")
    if left:
        press("a")
    for part in left.values():
        line(by_hand(part))
        expect(page.locator("#reading")).to_be_attached()
    page.goto(f"/board/{board.pk}/survey/")
    _, state = board_state(board.pk)
    listed = {p.ref: p.core for p in state.parts}
    others = {one.ref for one in (*state.others, *state.chips)}
    assert {part.ref for part in drawn.parts} == set(listed) | others and len(drawn.parts) >= 35
    cans = [(part, listed[part.ref]) for part in drawn.cans]
    assert all(math.hypot(core.x - part.x, core.y - part.y) < 2.5 for part, core in cans)
    assert sum(core.diameter == part.diameter for part, core in cans) >= 0.9 * len(cans)
    assert sum(core.angle == part.stripe for part, core in cans) >= 0.9 * len(cans)
    assert acts <= MOST_ACTS
    assert letters <= 0.65 * sum(len(by_hand(part)) for part in drawn.parts)
    assert Part.objects.filter(board=board).count() == len(listed)
