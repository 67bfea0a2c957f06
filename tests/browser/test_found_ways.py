"""The demo's board of 41 parts listed from its photo by keyboard: acts counted, and the letters against those of the same typed by hand."""

import math
from collections import Counter

import pytest
from playwright.sync_api import Page, expect

from idlebench.core.board.parts import Fitted
from idlebench.core.board.quickline import as_line
from idlebench.web.records.models import Board
from idlebench.web.survey.photo_finding import findings
from idlebench.web.unit.state import board_state

pytestmark = pytest.mark.django_db(transaction=True)

#: Most acts for the board: a key that does something, a line sent.
MOST_ACTS = 90


def typed(part: Fitted) -> str:
    """A part as it is typed where the photo tells its place and size."""
    line = as_line(Fitted(ref=part.ref, value=part.value, volts=part.volts, kind=part.kind, mounting=part.mounting))
    return f"{line} bipolar" if part.bipolar else line


def by_hand(part: Fitted) -> str:
    """The same with the size and the place that somebody measured."""
    turned = f" angle {part.angle:g}" if part.angle else ""
    return f"{typed(part)} {part.diameter:g}x{part.height:g} at {part.x:g},{part.y:g}{turned}"


def test_the_board_of_41_parts_from_its_photo(page: Page, demo):
    # unit C's mainboard is of the same make as unit B's, which was listed by hand
    board = Board.objects.get(unit__name="C", name="MB-80")
    made = Board.objects.get(unit__name="B", name="MB-80")
    left = {part.ref: part.core for part in board_state(made.pk)[1].parts}
    whole, acts, letters = dict(left), Counter(), 0

    def press(key: str) -> None:
        acts[key.removeprefix("Alt+")] += 1
        page.keyboard.press(key)

    def line(text: str) -> None:
        nonlocal letters
        letters += len(text)
        # its first letter goes into the line by itself
        page.keyboard.type(text[0])
        page.keyboard.insert_text(text[1:])
        press("Enter")

    page.goto(f"/board/{board.pk}/survey/")
    press("f")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_have_text("Parts in the photo")
    press("f")
    expect(page.locator("main")).to_contain_text("found in the photo of MB-80", timeout=60_000)
    press("b")
    expect(heading).to_contain_text("what is it?")
    waiting = page.locator("svg.in-photo .seen:not(.is)")
    while waiting.count():
        number = int(page.locator("[name=at]").first.input_value())
        found = findings(board_state(board.pk)[1], board.underlays.get()).of(number).found
        part = min(left.values(), key=lambda p: math.hypot(p.x - found.x, p.y - found.y), default=None)
        count = waiting.count()
        if part is None or math.hypot(part.x - found.x, part.y - found.y) > 4:
            press("x")
            expect(waiting).to_have_count(count - 1)
            continue
        line(typed(left.pop(part.ref)))
        expect(waiting).to_have_count(count - 1)
    expect(heading).to_have_text("Nothing found waits")
    press("b")
    counted = 41 - len(left)
    expect(page.get_by_text(f"{counted} of 41 parts counted")).to_be_visible()
    if left:
        press("a")
    for part in left.values():
        line(by_hand(part))
        counted += 1
        expect(page.get_by_text(f"{counted} of 41 parts counted")).to_be_visible()
    page.goto(f"/board/{board.pk}/survey/")
    listed = {p.ref: p.core for p in board_state(board.pk)[1].parts}
    assert set(listed) == set(whole) and len(listed) == 41
    cans = [(part, listed[part.ref]) for part in whole.values() if part.kind == "wet" and part.mounting == "radial"]
    assert all(math.hypot(core.x - part.x, core.y - part.y) < 2.5 for part, core in cans)
    assert sum(core.diameter == part.diameter for part, core in cans) >= 0.9 * len(cans)
    assert sum(core.angle == part.angle for part, core in cans if part.polar) >= 0.9 * len(cans)
    assert all(core.value == pytest.approx(whole[ref].value) for ref, core in listed.items())
    print(
        f"{acts.total()} acts, {dict(acts)}, {letters} letters, by hand {sum(len(by_hand(p)) for p in whole.values())}"
    )
    assert acts.total() <= MOST_ACTS
    assert letters <= 0.7 * sum(len(by_hand(part)) for part in whole.values())
