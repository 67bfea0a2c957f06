"""The ways people really go: the whole way by keyboard, the board by mouse, the print."""

import io
import re

import pytest
from django.db.models import F
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from idlebench.web.records.models import Part, ReformReading, Unit
from idlebench.web.unit.state import unit_state
from tests.web.helpers import discharge, wait_out

pytestmark = pytest.mark.django_db(transaction=True)


class Keys:
    """Hands on the keyboard only."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)

    def go(self, key: str, heading: str) -> None:
        """Press a key that leads to another screen, and see its heading."""
        self.press(key)
        expect(self.page.locator("h1")).to_contain_text(heading)

    def fill(self, *texts: str) -> None:
        """Type into the field in hand, and on to the next with Tab."""
        for i, text in enumerate(texts):
            if i:
                self.press("Tab")
            if text:
                self.press("Control+a")
                self.page.keyboard.type(text)

    def unfold(self, title: str) -> None:
        """On to the next field, which is a fold, and into the first field of it."""
        self.press("Tab")
        expect(self.page.locator(":focus")).to_contain_text(title)
        self.press("Enter", "Tab")

    def answer(self, readings: dict[str, str]) -> None:
        """Answer the check that is next: yes where it is a look, else the reading for its point."""
        before = self.page.locator("#next").inner_text()
        if self.page.locator("#next [data-key=Y]").count():
            self.press("y")
        else:
            self.press("v")
            point = self.page.evaluate("document.activeElement.getAttribute('aria-label')")
            text = next(value for words, value in readings.items() if words in point)
            self.page.keyboard.type(text)
            self.press("Enter")
        self.page.wait_for_function("before => document.querySelector('#next')?.innerText !== before", arg=before)


def test_the_whole_way_by_keyboard(page: Page, shelf):
    keys = Keys(page)
    page.goto("/")
    keys.go("n", "New job")
    keys.fill("Fog signal timer", "Point Hollow trust", "Fog timer 3", "1985")
    keys.press("Enter")
    expect(page.locator("h1")).to_contain_text("Intake of unit A")
    for i in range(1, 11):
        if i < 10:
            keys.press(str(i))
        else:
            page.locator("button[aria-pressed=false]").first.focus()
            keys.press("Enter")
        expect(page.locator("main > .head")).to_contain_text(
            f"{10 - i} of 10 left" if i < 10 else "the first look is done"
        )

    keys.press("b")
    keys.fill("PS-7", "Supply and logic", "linear", "4")
    keys.unfold("Size, number and fuse")
    keys.fill("150", "100", "", "T 630 mA 250 V", "", "")
    keys.unfold("Rails and supply")
    keys.fill("+5 V 1 A min 0.2 A", "")
    keys.unfold("Chips, zones and other parts")
    keys.fill("U1 timer 20x8 at 90,60 gnd 8 +5V 16 clock 4", "", "")
    # past the fold of a picture tube
    keys.press("Tab", "Tab", "Enter")
    expect(page.locator("summary").filter(has_text="PS-7")).to_contain_text("1 rail · 1 chip · linear supply")
    keys.go("n", "Supply and logic PS-7, parts side")

    # survey: typed with the live reading under it, then pasted with one bad line
    keys.press("a")
    page.keyboard.type("C1 1000u 16V 12.5x20 p5 bulk rail +5V worst 14 ripple 0.6 at 30,40 looks leaking")
    expect(page.locator("#reading")).to_contain_text("looks leaking")
    keys.press("Enter")
    expect(page.locator("h2").first).to_contain_text("C1, judged")
    good = ["C2 100u 10V 6.3x11 p2.5 decoupling rail +5V at 60,30 esr 6.8", "C3 10u 25V 5x11 p2 reset at 90,30 sound"]
    last = "C4 220n 63V film 7.2x6.5 p5 filter at 110,30 sound"
    for lines in ([*good, "C4 lots"], [*good, last]):
        keys.press("Escape", "p", "Control+a")
        page.keyboard.insert_text("\n".join(lines))
        keys.press("Tab", "Enter")
        if lines[-1] != last:
            expect(page.get_by_role("alert")).to_contain_text("Line 3")
            assert Part.objects.count() == 1, "nothing is taken unless all can be"
    expect(page.locator(".said")).to_contain_text("3 lines taken")

    # choose: next, previous, take, leave in, take back
    keys.go("n", "C1, reservoir capacitor")
    keys.go("j", "C2")
    keys.go("k", "C1")
    keys.go("Enter", "C2")
    keys.go("1", "C3")
    keys.press("l")
    expect(page.locator("main")).to_contain_text("Old part kept")
    keys.press("u")
    expect(page.locator(".said")).to_contain_text("C3 taken back")
    keys.press("Enter")
    expect(page.locator("main")).to_contain_text("Chosen:")
    keys.go("n", "Gather for unit A")
    # small values first, the tall store last
    keys.go("n", "C3: old part out")
    expect(page.locator("main")).to_contain_text("Hands off this board for now")
    keys.press("v")
    page.keyboard.type("0.3")
    keys.press("Enter")
    expect(page.get_by_role("button", name="Mark as fitted")).to_be_enabled()
    for heading in ("C2: old part out", "C1: old part out", "Swap on Supply and logic"):
        keys.go("Enter", heading)

    # cold checks; first power is refused before them
    keys.go("n", "Cold checks of unit A")
    keys.go("n", "Chips lifted, or a current limit")
    expect(page.locator("main")).to_contain_text("This step is blocked")
    unit = Unit.objects.get()
    forced = page.request.post(
        f"/unit/{unit.pk}/power/on/",
        form={"step": "full", "asked": "0", "csrfmiddlewaretoken": token(page)},
        headers={"Referer": page.url},
    )
    assert forced.status == 409 and "not done" in forced.text()
    keys.go("n", "Cold checks of unit A")
    total = len(unit_state(unit.pk).proof.steps[0].checks)
    all_cold(page, keys, unit, total)

    # the way up: a last look inside, then power is asked for and answered
    keys.go("n", "Chips lifted, or a current limit")
    keys.answer({})
    keys.go("n", "Lamp limiter in")
    expect(page.get_by_label("Each time before power")).to_contain_text("inside the case")
    keys.answer({})
    power(page, keys)
    keys.answer({})
    keys.answer({})
    keys.go("n", "230 V in, full rails")
    assert unit_state(unit.pk).live_step == "limited", "the next step's page puts no power on"
    power(page, keys)
    keys.press("v")
    keys.fill("5.03", "80m", "4.96")
    keys.press("Enter")

    # the ripple fails and takes the page; idle, and hands stay off until the stores are read again
    failed = page.get_by_role("alert")
    expect(failed).to_be_focused()
    expect(failed).to_contain_text("+5 V, ripple: 80 mV")
    expect(failed.get_by_role("button", name="Make idle")).to_be_visible()
    keys.press("i")
    expect(page.locator(".idle")).to_contain_text("IDLE")
    page.get_by_role("link", name=re.compile("^Swap")).focus()
    keys.go("Enter", "Swap on Supply and logic")
    keys.go("u", "C1: old part out")
    expect(page.locator("main")).to_contain_text("1 capacitor may be charged")
    board = unit.boards.get()
    refused = page.request.post(
        f"/board/{board.pk}/swap/done/",
        form={"place": "C1", "csrfmiddlewaretoken": token(page)},
        headers={"Referer": page.url},
    )
    assert refused.status == 409 and "power was on after it" in refused.text()
    keys.press("v")
    page.keyboard.type("0.2")
    keys.press("Enter")
    expect(page.get_by_role("button", name="Mark as fitted")).to_be_enabled()
    keys.go("Enter", "Swap on Supply and logic")

    # what the swap may have changed is asked again, polarity among it; then power again
    keys.go("n", "Cold checks of unit A")
    again = [c.point for c in unit_state(unit.pk).proof.open_checks(unit_state(unit.pk).proof.steps[0])]
    assert "C1" in again and "inside the case" in again and "C2" not in again
    all_cold(page, keys, unit, total)
    keys.go("n", "Lamp limiter in")
    power(page, keys)
    keys.answer({})
    keys.answer({})
    keys.go("n", "230 V in, full rails")
    power(page, keys)
    keys.press("v")
    keys.fill("5.03", "22m", "4.96")
    with page.expect_navigation():
        keys.press("Enter")
    expect(page.get_by_label("Checks of this step")).to_contain_text("of 5 minutes")
    wait_out(unit)
    page.reload()
    keys.answer({})
    expect(page.get_by_label("Checks of this step")).to_contain_text("yes passed")
    keys.go("n", "Signs of life")
    power(page, keys)
    keys.answer({"pin 16": "5.02"})
    keys.answer({})
    expect(page.get_by_label("Checks of this step")).to_contain_text("yes passed")
    keys.press("i")
    expect(page.locator(".idle")).to_contain_text("IDLE")
    keys.answer({"across C1": "0.3"})
    keys.answer({})

    # hand-over, and the sheet as the browser prints it
    keys.go("n", "Hand-over of unit A")
    keys.press("h")
    expect(page.locator("main .head")).to_contain_text("handed over")
    keys.press("p")
    expect(page.locator("h1")).to_contain_text("Hand-over sheet, unit A")
    printed = " ".join(sheet.extract_text() for sheet in PdfReader(io.BytesIO(page.pdf())).pages)
    for words in ("Every rail proven", "Replaced, 3", "Kept, 1", "5.03 V", "22 mV"):
        assert words in printed
    assert "Print" not in printed.split("Hand-over sheet")[0], "the print button stays on the screen"


def all_cold(page: Page, keys: Keys, unit: Unit, total: int) -> None:
    """Answer every cold check that is asked."""
    for _ in unit_state(unit.pk).proof.open_checks(unit_state(unit.pk).proof.steps[0]):
        keys.answer(
            {
                "across C1": "0.3",
                "fuse": "0.2",
                "pin": "0.1",
                "to ground": "35",
                "earth": "0.2",
                "mains": "231",
                "ground to": "31",
                "line to neutral": "150",
                "across it": "1",
            }
        )
    expect(page.locator("main .head")).to_contain_text(f"{total} of {total}")


def power(page: Page, keys: Keys) -> None:
    """Power on: the red button asks, a second press answers."""
    keys.press("g")
    expect(page.get_by_role("alertdialog")).to_be_focused()
    keys.press("n")
    expect(page.get_by_role("alertdialog")).to_be_visible()
    keys.press("y")
    expect(page.get_by_role("alertdialog")).to_have_count(0)
    expect(page.locator(".live")).to_contain_text("LIVE 00:0")


def token(page: Page) -> str:
    return next(cookie["value"] for cookie in page.context.cookies() if cookie["name"] == "csrftoken")


def test_the_board_by_mouse(page: Page, surveyed):
    part = Part.objects.get(ref="C2")
    Part.objects.filter(ref="C2").update(x=None, y=None)
    page.goto(f"/board/{surveyed.pk}/survey/")
    drawn = page.locator("[data-part=C2]")
    assert float(drawn.get_attribute("data-y")) > 80, "it waits in the tray"

    def spot(x: float, y: float) -> tuple[float, float]:
        """A place on the board, mm, as the mouse sees it."""
        return tuple(page.evaluate("""([x, y]) => { const svg = document.querySelector("svg.board");
            const p = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM()); return [p.x, p.y] }""", [x, y]))  # fmt: skip

    drawn.scroll_into_view_if_needed()
    at = (float(drawn.get_attribute("data-x")), float(drawn.get_attribute("data-y")))
    page.mouse.move(*spot(*at))
    page.mouse.down()
    page.mouse.move(*spot(50, 45), steps=6)
    page.mouse.move(*spot(42, 33), steps=6)
    page.mouse.up()
    expect(page.locator("h2").first).to_contain_text("C2, judged")
    part.refresh_from_db()
    assert (part.x, part.y) == (pytest.approx(42, abs=0.6), pytest.approx(33, abs=0.6))

    page.get_by_role("button", name="Turn").click()
    page.get_by_role("button", name="Bulging B").click()
    expect(page.locator("[data-part=C2]")).to_have_class("v-replace")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    with page.expect_response(re.compile("/place/")):
        page.keyboard.press("ArrowRight")
    before = part.x, part.y
    part.refresh_from_db()
    assert (part.x, part.y) == (pytest.approx(before[0] + 1), pytest.approx(before[1] + 5))
    assert (part.angle, part.looks) == (90, "bulging")

    page.locator("[data-part=C1]").click()
    expect(page.locator("h2").first).to_contain_text("C1, judged")
    discharge(surveyed.unit)
    page.get_by_role("link", name="Delete").click()
    expect(page.locator("h1")).to_contain_text("Delete C1 on PS-1 of unit A")
    page.keyboard.press("y")
    expect(page.locator("h1")).to_have_text("Deleted")
    page.goto(f"/board/{surveyed.pk}/survey/")
    expect(page.locator("[data-part=C1]")).to_have_count(0)
    page.goto("/removed/")
    page.keyboard.press("u")
    expect(page.locator("[data-part=C1]")).to_have_count(1)
    page.get_by_role("button", name="Take the last change back").click()
    # of the changes by hand: going away and coming back whole is none
    expect(page.locator(".said")).to_contain_text("C2")
    part.refresh_from_db()
    assert part.x < before[0] + 1, "the last nudge is taken back"


def test_a_number_opens_the_arithmetic_behind_it(page: Page, surveyed):
    page.goto(f"/board/{surveyed.pk}/survey/?part=C2")
    page.locator("a.dotted").first.click()
    working = page.locator("#working")
    expect(working).to_contain_text("tan δ ÷ (2πfC)")
    expect(working.locator(".reading")).to_contain_text("2.12 Ω")
    working.get_by_text("Change an input").click()
    working.get_by_label("Rated volts, V").fill("63")
    expect(working.locator(".reading")).to_contain_text("1.19 Ω")
    working.get_by_label("Rated volts, V").fill("lots")
    expect(working.get_by_role("alert")).to_contain_text("“lots” does not go here")
    assert page.url.endswith("?part=C2"), "the page under it stays"


def test_the_reckoner_is_live_and_keeps_its_inputs_in_the_address(page: Page, db):
    page.goto("/reckoner/")
    page.keyboard.press("3")
    expect(page.locator("h1")).to_contain_text("Discharging a capacitor")
    page.keyboard.press("v")
    page.keyboard.type("470u")
    expect(page.locator(".reading")).to_contain_text("3.6 s")
    page.wait_for_url("**value=470u**")
    page.reload()
    expect(page.locator(".reading")).to_contain_text("3.6 s")
    expect(page.locator(".caution").first).to_contain_text("can kill")


def test_find_keys_and_theme(page: Page, surveyed):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("C2")
    page.locator("#found a").first.wait_for()
    expect(page.locator("#found")).to_contain_text("C2 100 µF 16 V, unit A, PS-1")
    page.keyboard.press("Escape")
    expect(page.locator("#found a")).to_have_count(0)
    page.keyboard.press("?")
    expect(page.locator("#all-keys")).to_contain_text("Open a new job")
    page.keyboard.press("Escape")
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    page.goto("/shelf/")
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")


def test_the_shelf_finds_while_typing(page: Page, shelf):
    page.goto("/shelf/")
    page.keyboard.press("f")
    page.keyboard.type("2200u 10V LZ")
    expect(page.locator("#rows")).to_contain_text("2 parts for")
    expect(page.locator("#rows tbody")).to_contain_text("LZ105-2200u-10B")


def test_dismantling_is_reversed_by_one_key(page: Page, unit):
    page.goto(f"/unit/{unit.pk}/intake/")
    keys = Keys(page)
    keys.go("g", "Dismantling of unit A")
    for i, text in enumerate(
        (
            "lid: 4 screws M4x10, 2 clips",
            "keyboard: 2 screws M3x8, plug J6 to mainboard",
            "supply: 3 screws M3x12, plug J1 to mainboard",
        ),
        1,
    ):
        if i == 1:
            keys.press("a")
        # after Enter the keyboard is in the line again: nothing that is typed next fires a key
        expect(page.locator("input[name=step]")).to_be_focused()
        page.keyboard.type(text)
        keys.press("Enter")
        expect(page.locator("main .head")).to_contain_text(f"{i} step")
    expect(page.get_by_label("Still open")).to_contain_text("2 plugs not back")
    expect(page.get_by_role("img", name="Screw tray")).to_be_visible()
    keys.press("Escape", "w")
    expect(page.get_by_label("The step in hand")).to_contain_text("supply")
    for said in ("1 plug not back", "4 screws not back"):
        keys.press("b")
        expect(page.get_by_label("Still open")).to_contain_text(said)
    keys.press("b")
    expect(page.locator("main .head")).to_contain_text("all of it is back")


def test_a_board_is_given_to_another_unit(page: Page, demo):
    job = Unit.objects.first().job
    page.goto("/")
    page.keyboard.press("t")
    expect(page.locator("h1")).to_contain_text("Triage")
    expect(page.get_by_label("Unit B", exact=True)).to_contain_text("repair")
    page.keyboard.press("1")
    page.keyboard.type("40")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Unit B", exact=True)).to_contain_text("donor")
    given = page.get_by_label("Unit B", exact=True)
    given.get_by_label("PS-2 to").select_option(label="unit C")
    given.get_by_role("button", name="Move").first.click()
    expect(page.get_by_label("Unit C", exact=True)).to_contain_text("PS-2 to")
    assert [b.name for b in job.units.get(name="C").boards.all()] == ["PS-2", "MB-80"]
    page.goto("/ledger/")
    expect(page.get_by_label("Entries")).to_contain_text("PS-2 given to unit C.")
    expect(page.get_by_label("Entries")).to_contain_text("PS-2 taken from unit B.")


def test_reforming_is_stopped_by_a_rising_current(page: Page, surveyed):
    from idlebench.web.survey.services import add_line

    part = add_line(surveyed, "C9 4700u 16V 18x35 p7.5 bulk sound")
    page.goto(f"/board/{surveyed.pk}/survey/?part=C9")
    keys = Keys(page)
    keys.go("f", "Reforming C9")
    keys.press("v", "Enter")
    status = page.locator("main p[role=status]")
    expect(status).to_contain_text("Set 3.2 V. Read current and volts across the part")
    for text, across, said in (
        ("1.4m", "2.74", "wait and read again"),
        ("0.4m", "3.07", "good. Read again in 5 min"),
        ("0.4m", "3.07", "go to 6.4 V"),
        ("1.1m", "6.04", "wait and read again"),
        ("2.5m", "5.58", "The current rose, 1.1 mA to 2.5 mA"),
    ):
        keys.press("v")
        page.keyboard.type(text)
        page.keyboard.press("Tab")
        page.keyboard.type(across)
        keys.press("Enter")
        expect(status).to_contain_text(said)
        # five minutes go by
        ReformReading.objects.update(minutes=F("minutes") - 5)
    expect(page.get_by_role("img", name=re.compile("Current over minutes.*read: 400 µA to 2.5 mA"))).to_be_visible()
    keys.press("v")
    page.keyboard.type("0.6")
    keys.press("Enter")
    expect(page.locator("main")).to_contain_text("stopped and condemned, discharged to 600 mV")
    part.refresh_from_db()
    assert part.leakage == pytest.approx(2.5e-3)
