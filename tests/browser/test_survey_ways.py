"""The ways through Survey and what leads to it: forty parts by keyboard, a photo squared up, a measuring run, a part given away."""

import io

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from idlebench.instruments import StandIn
from idlebench.web.records.models import Instrument, Part, Underlay, Unit
from idlebench.web.survey.services import paste
from tests import typed
from tests.web.helpers import discharge

pytestmark = pytest.mark.django_db(transaction=True)

JOB = {"name": "Lamp room clock", "machine": "Tide clock", "made": "1984"}


def test_forty_parts_from_a_blank_board_by_keyboard(page: Page, unit):
    """Eight typed, twenty-three copied along rows, six pasted, three others: one sitting, no mouse."""
    board = unit.boards.get(name="MB-80")
    page.goto(f"/board/{board.pk}/survey/")
    keys = page.keyboard

    def line(text: str, heading: str) -> None:
        expect(page.locator("[data-line]")).to_be_focused()
        keys.type(text)
        keys.press("Enter")
        expect(page.locator("main")).to_contain_text(heading)

    keys.press("a")
    for i in range(1, 9):
        value = (10, 22, 33, 47, 100, 220, 330, 470)[i - 1]
        line(f"C{i} {value}u 16V 6.3x11 p2.5 decoupling rail +5V at {8 + 12 * i},10", f"C{i}, judged")
    # rows: the selected part along its line
    for more, to, count in ((7, "92,30", 15), (8, "104,45", 23), (8, "104,70", 31)):
        page.goto(f"/board/{board.pk}/survey/?part=C8")
        keys.press("c")
        keys.type(str(more))
        keys.press("Tab")
        keys.type(to)
        keys.press("Enter")
        expect(page.locator(".head").first).to_contain_text(f"{count} of 0 parts")
    keys.press("p")
    keys.insert_text("\n".join(f"C{i} 100n 63V film at {10 + 4 * (i - 50)},75" for i in range(50, 56)))
    keys.press("Tab")
    keys.press("Enter")
    expect(page.locator(".said")).to_contain_text("6 lines taken")
    keys.press("a")
    for text, said in (
        ("VR1 regulator 7805 1A at 110,60", "regulator"),
        ("F1 fuse T 1A 250V 5x20", "fuse"),
        ("BT1 battery 3.6V leaking", "battery"),
    ):
        line(text, f"Listed: {text.split()[0]}, {said}")
    assert Part.objects.filter(board=board).count() == 37
    expect(page.get_by_role("alert").first).to_contain_text("BT1 on MB-80 leaks")
    # nudge by key: half a millimetre, five with Shift
    page.goto(f"/board/{board.pk}/survey/?part=C1")
    part = page.locator('[data-part="C1"]')
    with page.expect_response("**/place/"):
        keys.press("ArrowRight")
        keys.press("Shift+ArrowDown")
    assert (part.get_attribute("data-x"), part.get_attribute("data-y")) == ("20.50", "15.00")
    c1 = Part.objects.get(board=board, ref="C1")
    assert (c1.x, c1.y) == (20.5, 15.0)
    keys.press("r")
    expect(page.locator('[data-part="C1"] g')).to_have_attribute("transform", "rotate(90.0)")


def spot(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a point of the board (mm) is on the screen."""
    box = page.locator(".pcb").bounding_box()
    width, height = (float(page.locator(".pcb").get_attribute(name)) for name in ("width", "height"))
    return box["x"] + box["width"] * x / width, box["y"] + box["height"] * y / height


def test_placing_by_click_zones_by_dragging_and_rows_with_shift(page: Page, unit):
    board = unit.boards.get(name="MB-80")
    paste(board, "C1 100u 16V\nC2 100u 16V\nC3 100u 16V", good_rows=False)
    page.goto(f"/board/{board.pk}/survey/?part=C1")
    for ref, x, y, then in (("C1", 30, 20, "C2"), ("C2", 50, 20, "C3")):
        page.mouse.click(*spot(page, x, y))
        expect(page.locator("h2").first).to_contain_text(f"{then}, judged")
        part = Part.objects.get(board=board, ref=ref)
        assert (part.x, part.y) == (pytest.approx(x, abs=0.6), pytest.approx(y, abs=0.6))
    # a drag on the empty board marks a zone for the quick line
    page.goto(f"/board/{board.pk}/survey/?part=C1")
    page.locator("[data-line]").fill("heat 70 heatsink")
    page.mouse.move(*spot(page, 20, 10))
    page.mouse.down()
    page.mouse.move(*spot(page, 40, 20), steps=4)
    page.mouse.move(*spot(page, 60, 30), steps=4)
    page.mouse.up()
    expect(page.locator("[data-line]")).to_have_value("heat 70 heatsink at 40,20 40x20")
    page.keyboard.press("Enter")
    expect(page.locator(".zone")).to_contain_text("heatsink, 70 °C")
    # with Shift a part is copied along a row
    page.keyboard.down("Shift")
    page.mouse.move(*spot(page, 50, 20))
    page.mouse.down()
    page.mouse.move(*spot(page, 80, 20), steps=5)
    page.mouse.move(*spot(page, 110, 20), steps=5)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(page.get_by_label("Place of the last one")).to_have_value("110,20")
    page.keyboard.type("3")
    page.keyboard.press("Enter")
    expect(page.locator(".head").first).to_contain_text("6 of 0 parts")
    assert [round(x) for x in Part.objects.filter(board=board, ref__in=["C4", "C5", "C6"]).values_list("x", flat=True)] == [70, 90, 110]  # fmt: skip


def photo_file() -> dict:
    out = io.BytesIO()
    Image.new("RGB", (1200, 900), (60, 110, 70)).save(out, "PNG")
    return {"name": "board.png", "mimeType": "image/png", "buffer": out.getvalue()}


def test_a_photo_is_taken_in_and_squared_up(page: Page, surveyed):
    page.goto(f"/unit/{surveyed.unit_id}/photos/")
    page.get_by_label("Choose photos").set_input_files(photo_file())
    page.get_by_label("What they show").first.select_option(label="PS-1")
    page.get_by_role("button", name="Import").click()
    expect(page.locator(".said")).to_contain_text("1 taken")
    page.goto(f"/board/{surveyed.pk}/survey/")
    page.keyboard.press("g")
    expect(page.locator("h1")).to_contain_text("Square up a photo")
    handle, field = page.locator('[data-corner="0"]'), page.get_by_label("Points in the photo")
    before = field.input_value()
    box = handle.locator("circle").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 60, box["y"] + 40, steps=6)
    page.mouse.up()
    assert field.input_value() != before
    x = int(field.input_value().split(",")[0])
    handle.focus()
    page.keyboard.press("ArrowRight")
    assert int(field.input_value().split(",")[0]) == x + 2
    # corners that cross are refused, and what was typed stays
    field.fill("100,80 1100,800 1100,80 100,800")
    page.get_by_role("button", name="Place it under the board").click()
    expect(page.get_by_role("alert")).to_contain_text("lines that cross")
    page.get_by_label("Points in the photo").fill("100,80 1100,80 1100,800 100,800")
    page.get_by_role("button", name="Place it under the board").click()
    expect(page.locator(".said")).to_contain_text("Photo squared up")
    expect(page.locator("image.under")).to_have_attribute("width", "120.0")
    assert Underlay.objects.get().board == surveyed


def test_a_measuring_run_with_the_stand_in(page: Page, surveyed):
    with StandIn() as meter:
        Instrument.objects.create(name="LCR meter", address=meter.address)
        typed.change_job(surveyed.unit.job, {**JOB, "meter": meter.address})
        page.goto(f"/board/{surveyed.pk}/survey/")
        page.keyboard.press("m")
        expect(page.locator("h1")).to_contain_text("Measure C1")
        expect(page.locator("circle.halo")).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("Read the volts left across it")
        page.get_by_label("Volts left across it").fill("0.2")
        page.keyboard.press("Enter")
        expect(page.locator("h1")).to_contain_text("Measure C3")
        last = page.get_by_label("The last reading")
        expect(last).to_contain_text("Just read, C1 in circuit")
        expect(last.locator(".tag")).to_have_text("replace")
        # out of circuit; then the meter fails, and the place stays lit
        page.keyboard.press("c")
        meter.fault = "overload"
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("overload")
        expect(page.locator("h1")).to_contain_text("Measure C3")
        meter.fault = ""
        page.keyboard.press("Enter")
        expect(page.get_by_label("The last reading")).to_contain_text("Just read, C3 out of circuit")
    assert Part.objects.get(ref="C3").capacitance and Part.objects.get(ref="C1").in_circuit


def test_a_part_is_given_to_another_unit(page: Page, surveyed):
    unit = Unit.objects.create(job=surveyed.unit.job, name="B")
    board = typed.add_board(unit, {"name": "PS-1", "width": "120", "height": "80"})
    paste(board, "C2 100u 16V looks missing at 60,30", good_rows=False)
    discharge(surveyed.unit)
    page.goto(f"/board/{surveyed.pk}/survey/?part=C2")
    page.get_by_text("Give it to another unit").click()
    page.get_by_label("Board it goes to").select_option(label="unit B, PS-1")
    page.get_by_role("button", name="Give", exact=True).click()
    expect(page.locator("h2").first).to_contain_text("C2, judged")
    expect(page.locator(".panel")).to_contain_text("given to unit B")
    page.goto(f"/board/{board.pk}/survey/?part=C2")
    expect(page.locator(".panel")).to_contain_text("from unit A: measure it before use")
    page.goto("/ledger/")
    expect(page.locator("main")).to_contain_text("PS-1 C2 taken from unit A")


def test_two_windows_on_one_part(page: Page, surveyed):
    other = page.context.new_page()
    for window in (page, other):
        window.goto(f"/board/{surveyed.pk}/survey/?part=C2")
    page.keyboard.press("b")
    expect(page.locator(".panel")).to_contain_text("bulging to the eye")
    other.keyboard.press("v")
    other.keyboard.type("esr 0.3")
    other.keyboard.press("Enter")
    expect(other.get_by_role("alert").first).to_contain_text("changed in another window")
    expect(other.get_by_label("What you measured of C2")).to_have_value("C2 esr 0.3")
    other.get_by_label("What you measured of C2").press("Enter")
    expect(other.locator(".panel")).to_contain_text("300 mΩ")
    assert Part.objects.get(ref="C2").looks == "bulging"
    other.close()


@pytest.mark.parametrize("path", ["/unit/{unit}/intake/", "/board/{board}/survey/?part=C2"])
def test_intake_and_survey_at_390_pixels(page: Page, surveyed, path):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(path.format(unit=surveyed.unit_id, board=surveyed.pk))
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    if "survey" in path:
        page.locator("[data-line]").fill("C9 10u 25V")
        page.get_by_role("button", name="Add to survey").click()
        expect(page.locator("h2").first).to_contain_text("C9, judged")
    else:
        page.locator("summary").filter(has_text="First look").click()
        page.get_by_role("button", name="Unplugged, lead in sight").click()
        expect(page.locator(".head").first).to_contain_text("1 of 10 left")


def test_a_refused_line_is_put_right_by_one_key(page: Page, unit):
    """F2 works while the line is being typed, and once it was refused; Enter adds."""
    board = unit.boards.first()
    page.goto(f"/board/{board.pk}/survey/?typing=1")
    line = page.get_by_label("Typed line")
    line.fill("C60 4,725u 16V")
    page.keyboard.press("Enter")
    expect(page.locator("#reading")).to_contain_text("can mean 4725 or 4.725")
    expect(line).to_be_focused()
    page.keyboard.press("F2")
    expect(page.locator("h2").first).to_contain_text("C60, judged")
    page.get_by_label("Typed line").fill("C61 100u 16V couplng")
    page.get_by_role("button", name="C61 100u 16V coupling").wait_for()
    page.keyboard.press("F2")
    expect(page.locator("h2").first).to_contain_text("C61, judged")
    assert board.parts.get(ref="C61").role == "coupling"
