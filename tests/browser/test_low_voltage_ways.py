"""The short way up by keyboard, from Intake to proven rails: a home computer on an adapter and a handheld on cells, with a smoke test."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import Board, Event
from idlebench.web.unit.state import unit_state
from tests import typed
from tests.browser.test_ways import Keys, power
from tests.conftest import LOOKED
from tests.web.helpers import good_text, wait_out

pytestmark = pytest.mark.django_db(transaction=True)

#: Rails, the supply's line, a part, and the headings of the way up.
MACHINES = {
    "home computer": (
        "+5V 0.8A", "adapter 9V DC 1A regulated reservoir C1 regulator VR1 5V 0.8A", "C1 2200u 16V 13x20 bulk",
        ("Adapter AD1 alone", "Bench supply for AD1", "Adapter AD1 in, full rails", "Signs of life"), "+5V",
    ),
    "pen handheld": (
        "+3.3V 0.1A", "cells BT1 4.5V 0.3A regulator VR1 3.3V 0.1A dropout 0.3", "C1 47u 6.3V 5x11 decoupling",
        ("Cells BT1 alone", "Bench supply for BT1", "Cells BT1 in, full rails", "Signs of life"), "+3.3V",
    ),
}  # fmt: skip


def readings(unit):
    """What passes each check, by its point; the longest first, for one point may hold another."""
    found = {c.point: good_text(c) for s in unit_state(unit.pk).proof.steps for c in s.checks if not c.seen}
    return dict(sorted(found.items(), key=lambda item: -len(item[0])))


@pytest.mark.parametrize("name", MACHINES)
def test_from_intake_to_proven_rails_by_keyboard(page: Page, db, name, shelf):
    rails, line, part, headings, pin = MACHINES[name]
    job = typed.take_in_job(
        {"name": name, "machine": name, "made": "1993", "units": "A", "way": "low", "symptoms": "no picture"}
    )
    unit = job.units.get()
    unit.first_look, unit.symptoms = list(LOOKED), "no picture"
    unit.save()
    keys = Keys(page)
    page.goto(f"/unit/{unit.pk}/intake/")
    form = page.locator("form[action$='/board/']")
    form.locator("input[name=name]").fill("MB-1")
    form.locator("[name=supply]").select_option("linear")
    form.locator("summary", has_text="Rails and supply").click()
    form.locator("[name=rails]").fill(rails)
    form.locator("[name=supply_model]").fill(line)
    form.locator("summary", has_text="Chips, zones").click()
    form.locator("[name=chips]").fill(f"U1 processor 40x14 at 20,20 gnd 20 {pin} 40 clock 18")
    form.get_by_role("button", name="List this board").click()
    expect(page.locator("body")).to_contain_text("MB-1")
    board = Board.objects.get(unit=unit)
    page.goto(f"/board/{board.pk}/survey/")
    keys.press("a")
    page.keyboard.type(part)
    keys.press("Enter")
    expect(page.locator("body")).to_contain_text("C1")

    # cold: nothing of mains, earth or insulation is asked
    page.goto(f"/unit/{unit.pk}/cold/")
    expect(page.locator("main")).not_to_contain_text("earth pin")
    good = readings(unit)
    for _ in unit_state(unit.pk).proof.open_checks(unit_state(unit.pk).proof.steps[0]):
        keys.answer(good)
    keys.go("n", headings[0])

    # the smoke test on Swap: one key on, one key off, and nothing stands by it
    for number, heading in enumerate(headings):
        if number:
            keys.go("n", heading)
        if number == 1:
            smoked(page, keys, unit, board)
            page.goto(f"/unit/{unit.pk}/power/?step=bench")
            expect(page.locator("h1")).to_contain_text(heading)
        step = next(s for s in unit_state(unit.pk).proof.steps if s.title in page.locator("h1").inner_text())
        before(page, keys, unit, good)
        if unit_state(unit.pk).live_step != step.key:
            power(page, keys)
        live(page, keys, unit, step, good)
        if step.rewire or number + 1 < len(headings):
            keys.press("i")
            expect(page.locator(".idle")).to_contain_text("IDLE")
    proof = unit_state(unit.pk).proof
    assert all(proof.done(c) for s in proof.steps for c in s.checks if c.live)


def before(page: Page, keys: Keys, unit, good) -> None:
    """What is asked each time before power."""
    proof = unit_state(unit.pk).proof
    for _ in (c for c in proof.open_checks(proof.steps[0]) if not c.live):
        keys.answer(good)


def live(page: Page, keys: Keys, unit, step, good) -> None:
    """The readings of a step under power: a rail's all at once, others one by one."""
    while left := [c for c in step.checks if c.live and not unit_state(unit.pk).proof.done(c)]:
        if left[0].hold:
            wait_out(unit, left[0].hold)
            page.reload()
        if left[0].rail:
            keys.press("v")
            keys.fill(*(good_text(c) for c in left if c.rail == left[0].rail))
            with page.expect_navigation():
                keys.press("Enter")
        else:
            keys.answer(good)


def smoked(page: Page, keys: Keys, unit, board) -> None:
    """A smoke test: its source in, and off; the amps are typed in between."""
    page.goto(f"/board/{board.pk}/swap/")
    section = page.get_by_role("region", name="Smoke test")
    if section.get_by_role("button").count() == 0:
        # what is asked before any power is asked before this one, too
        page.goto(f"/unit/{unit.pk}/power/?step=bench")
        before(page, keys, unit, readings(unit))
        page.goto(f"/board/{board.pk}/swap/")
    keys.press("s")
    expect(section).to_contain_text("The board has power")
    keys.press("g")
    page.keyboard.type("0.05")
    keys.press("Escape")
    keys.press("y")
    expect(page.locator(".said").first).to_contain_text("smoke test, for “no picture”: 50 mA")
    expect(page.locator(".idle")).to_contain_text("IDLE")
    assert Event.objects.filter(unit=unit, kind="smoke").count() == 1
