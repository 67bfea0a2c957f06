"""A board swapped by keyboard alone: a store, a regulator, a fuse, a cell, a transistor, a lifted pad; what that asks, cold."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import DeviceSwap, Mend, Swap
from idlebench.web.survey.typed import add_typed
from idlebench.web.unit.state import unit_state

from .test_ways import Keys

pytestmark = pytest.mark.django_db(transaction=True)

LINES = (
    "VR1 regulator 7805 0.2A from +12V sink 10 at 20,60",
    "F2 fuse T 1A 5x20 at 60,60",
    "BT1 accumulator 3.6V 5uA at 100,60",
    "Q1 transistor 2A 60V at 80,50",
)


@pytest.fixture
def board(surveyed):
    """The supply board turned into one that is fed, with one of each."""
    surveyed.rails, surveyed.supply = "", ""
    surveyed.save()
    supply = surveyed.unit.boards.get(name="MB-80")
    supply.supply, supply.rails, supply.chips = "linear", "+5 V 2 A\n+12 V 1 A", ""
    supply.save()
    for line in LINES:
        add_typed(surveyed, line)
    return surveyed


def test_a_whole_board_by_keyboard(page: Page, board):
    keys = Keys(page)
    page.goto(f"/board/{board.pk}/choose/")
    keys.press("a")
    expect(page.locator(".said")).to_contain_text("2 places decided")
    keys.go("s", "Regulators, fuses, cells and diodes on PS-1")
    for ref in ("VR1", "F2", "BT1"):
        expect(page.get_by_role("contentinfo")).to_contain_text(f"for {ref}")
        keys.press("Enter")
        expect(page.get_by_label(ref, exact=True).locator(".tag.filled").first).to_contain_text("chosen:")
    page.goto(f"/board/{board.pk}/swap/")

    # hands off until the reservoir is logged as empty
    expect(page.locator("main")).to_contain_text("Hands off this board for now")
    keys.press("v")
    page.keyboard.type("0.3")
    keys.press("Enter")
    expect(page.get_by_role("button", name="Mark as fitted")).to_be_enabled()
    keys.go("Enter", "C1: old part out")

    # a pad came off with the first part: drawn, and asked for
    keys.press("m")
    page.keyboard.type("pad C2 + to Q1 1 wire 0.6 insulated glued before OL")
    keys.press("Enter")
    expect(page.get_by_label("Damage and repairs")).to_contain_text("Lifted pad from C2 + to Q1 1")
    expect(page.locator("svg.near .mend")).to_have_count(1)
    keys.press("Escape")

    # one that cannot be is said at its field, with what would join
    keys.press("m")
    page.keyboard.type("pad C1 + to C2 -")
    keys.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("must not be joined")
    assert Mend.objects.count() == 1
    page.goto(f"/board/{board.pk}/swap/")

    for heading in ("VR1: old part out", "F2: old part out", "BT1: old part out"):
        keys.go("Enter", heading)
    keys.press("v")
    page.keyboard.type("0.4 V, leaking")
    keys.press("Enter")
    expect(page.locator("h1")).to_contain_text("Swap on")

    # a part nobody chose: its type is typed
    page.goto(f"/board/{board.pk}/swap/?place=Q1")
    keys.press("a")
    page.keyboard.type("TQ 60-2")
    keys.press("Enter")
    expect(page.locator("h1")).to_contain_text("Swap on")
    assert Swap.objects.count() == 2 and set(DeviceSwap.objects.values_list("ref", flat=True)) == {
        "VR1",
        "F2",
        "BT1",
        "Q1",
    }
    assert DeviceSwap.objects.get(ref="BT1").read_out == "0.4 V, leaking"

    # joints by one key each
    keys.press("f")
    expect(page.get_by_label("Joints to resolder")).not_to_contain_text("DoneF")
    assert Mend.objects.filter(line__startswith="joint").count() == 1

    # what it asks, cold
    keys.go("n", "Cold checks of unit A")
    asked = {c.key.split(".")[1] for c in unit_state(board.unit_id).proof.steps[0].checks}
    assert {"polarity", "seat", "pins", "whole", "mend"} <= asked
    for words in ("VR1, pin to pin", "F2, across", "BT1", "C2 + to Q1 1"):
        expect(page.locator("main")).to_contain_text(words)
