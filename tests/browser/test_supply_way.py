"""A whole supply settled: model typed, places derived, doubtful ones settled, a regulator and a fuse chosen, the change seen."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import Choice, DeviceChoice
from idlebench.web.survey.services import paste
from tests import typed

pytestmark = pytest.mark.django_db(transaction=True)

LINES = """
C1 4700u 25V 18x35.5 p7.5 bulk rail +5V at 30,30 leaking cap 2900u esr 0.4
C2 100u 16V 6.3x11 p2.5 regulator output rail +5V at 60,30 esr 6.8
C3 47u 16V 5x11 p2 at 80,30 bulging
VR1 regulator 7805 1A at 100,30
F1 fuse T 1.6A 250V 5x20 at 14,14
""".strip()


def test_a_supply_is_settled(page: Page, unit):
    board = typed.add_board(unit, {"name": "PS-7", "supply": "linear", "width": "150", "height": "90"})
    paste(board, LINES, good_rows=False)
    # the model, typed at Intake
    page.goto(f"/unit/{unit.pk}/intake/")
    page.locator("summary").filter(has_text="PS-7").click()
    panel = page.locator("details").filter(has_text="PS-7").first
    panel.locator("summary", has_text="Rails and supply").click()
    panel.get_by_label("Its supply, a line a winding").fill("bridge 9V 25VA reservoir C1 regulator VR1 5V 1A heatsink")
    panel.get_by_role("button", name="Save these facts").click()
    expect(page.get_by_role("alert").first).to_contain_text("something after “heatsink”")
    panel = page.locator("details[open]").filter(has_text="PS-7").first
    field = panel.get_by_label("Its supply, a line a winding")
    expect(field).to_have_value("bridge 9V 25VA reservoir C1 regulator VR1 5V 1A heatsink")
    field.fill("bridge 9V 25VA reservoir C1 regulator VR1 5V 1A heatsink 7")
    panel.get_by_role("button", name="Save these facts").click()
    expect(page.locator("summary").filter(has_text="PS-7")).to_be_visible()
    # places derived
    page.goto(f"/board/{board.pk}/choose/?place=C1")
    expect(page.locator("main")).to_contain_text(
        "15 V at +10 % mains without load · 1.46 A ripple at 100 Hz, simulated"
    )
    # the clear ones settled, the doubtful one left to the person
    page.keyboard.press("a")
    expect(page.locator(".said")).to_contain_text("2 places decided")
    page.keyboard.press("o")
    expect(page.get_by_label("Places", exact=True).locator("a")).to_have_count(1)
    expect(page.locator("h1")).to_contain_text("C3")
    for n in (2, 3):
        page.locator(f'input[name=with][value="{n}"]').check()
    page.locator("h1").click()
    page.keyboard.press("c")
    expect(page.get_by_label("Compared").locator(".who")).to_have_count(3)
    page.keyboard.press("1")
    expect(page.locator(".said, .good").first).to_contain_text("Chosen")
    # the supply: old against chosen, a regulator, a fuse
    page.keyboard.press("s")
    expect(page.locator("h1")).to_contain_text("The supply on PS-7")
    row = page.locator("tr").filter(has_text="Ripple on the reservoir")
    old, new = row.locator("td").nth(0).inner_text(), row.locator("td").nth(1).inner_text()
    assert old.endswith("V") and new.endswith("V") and old != new, "the change in ripple is seen"
    expect(page.locator("polyline.was")).to_have_count(2)
    page.get_by_role("button", name="Use RP78H05 for VR1").click()
    expect(page.get_by_role("region", name="VR1")).to_contain_text("chosen: RP78H05")
    page.get_by_role("button", name="Use FUTH5-1A6 for F1").click()
    expect(page.get_by_role("region", name="F1")).to_contain_text("chosen: FUTH5-1A6")
    for _ in range(2):
        # what blew it is looked for before another one is fitted
        page.get_by_role("button", name="It blew").click()
        expect(page.locator("h1")).to_contain_text("Suspects of unit")
        expect(page.get_by_label("Suspects", exact=True)).to_be_visible()
        page.go_back()
        page.reload()
    expect(page.get_by_role("region", name="F1")).to_contain_text("no cause is logged")
    expect(page.get_by_role("button", name="Use FUTH5-1A6 for F1")).to_have_count(0)
    page.get_by_label("Cause of the blown fuses of F1").fill("bridge D1 shorted")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Use FUTH5-1A6 for F1")).to_be_visible()
    assert DeviceChoice.objects.count() == 2 and Choice.objects.count() == 3
