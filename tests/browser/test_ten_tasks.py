"""Ten things that people want, each begun at the Bench of the demo, and the most keys or taps that each may take."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Browser, Page, expect

from idlebench.web.records.models import Board, DismantleStep, Unit
from idlebench.web.unit.state import board_state, unit_state

pytestmark = pytest.mark.django_db(transaction=True)


def place(ref: str, board: str = "PS-2"):
    """A part of unit B as it stands now."""
    return board_state(Board.objects.get(unit__name="B", name=board).pk)[1].find(ref)


def say(page: Page, text: str) -> None:
    expect(page.locator("main")).to_contain_text(text)


def heading(page: Page, text: str) -> None:
    expect(page.locator("h1")).to_contain_text(text)


def ripple_is_told(page: Page) -> None:
    say(page, "Ripple on +5 V")
    say(page, "C15 in parallel with C14")


def stays_in(page: Page) -> None:
    heading(page, "C24")
    assert place("C18").kept


def taken(page: Page) -> None:
    heading(page, "C24")
    assert place("C18").choice.verdict == "fits"


def cured(page: Page) -> None:
    expect(page.locator("main")).not_to_contain_text("All stores of +5 V need")
    assert place("C15").choice.item.startswith("PM105")


def lid_is_off(page: Page) -> None:
    say(page, "1 step")
    expect(page.locator("main .head")).to_contain_text("1 step")
    assert DismantleStep.objects.get(unit__name="C").to_core().what == "lid"


def unplugged(page: Page) -> None:
    expect(page.locator("main > .head")).to_contain_text("12 of 13 left")
    assert Unit.objects.get(name="C").first_look == ["plug"]


def reading_is_noted(page: Page) -> None:
    expect(page.locator("h2").first).to_contain_text("C22, judged")
    say(page, "ESR 6.2")
    assert place("C22", "MB-80").core.esr == 6.2


def beside_each_other(page: Page) -> None:
    expect(page.get_by_label("Compared")).to_be_visible()


def why_not_powered(page: Page) -> None:
    say(page, "This step is blocked")
    assert unit_state(Unit.objects.get(name="B").pk).live_step is None


#: What is wanted; the most keys, letters that are typed among them; the keys that do it, with ">" where one opens another page;
#: and how it is known to be done.
TASKS: list[tuple[str, int, list[str], Callable[[Page], None]]] = [
    ("find which part makes +5 V ripple", 1, ["n>"], ripple_is_told),
    ("say that C18 stays in", 2, ["n>", "l>"], stays_in),
    ("take the best part for C18", 2, ["n>", "Enter>"], taken),
    ("bring the ripple of +5 V within its limit", 2, ["n>", "g>"], cured),
    ("look at three parts for C18 beside each other", 2, ["n>", "c>"], beside_each_other),
    ("log that the lid of unit C is off", 7, ["2>", "g>", "a", *"lid", "Enter>"], lid_is_off),
    ("tick that unit C is unplugged", 2, ["2>", "1>"], unplugged),
    ("note that C22 of unit B reads 6.2 Ω", 15, ["/", *"C22", "Tab", "Enter>", "v", *"esr 6.2", "Enter>"], reading_is_noted),
    ("see which part may be behind what was told of unit B", 2, ["1>", "z>"], lambda page: heading(page, "Suspects of unit B")),
    ("see how many cold checks unit F has left", 1, ["3>"], lambda page: expect(page.locator(".stage-rail")).to_contain_text("14 left")),
]  # fmt: skip


@pytest.mark.parametrize(("sentence", "most", "keys", "done"), TASKS, ids=[task[0] for task in TASKS])
def test_a_task_takes_no_more_keys_than_this(page: Page, demo, sentence, most, keys, done):
    assert len(keys) <= most, sentence
    page.goto("/")
    for key in keys:
        if key == "Tab":
            expect(page.locator("#found a").first).to_contain_text("C22")
        if key.endswith(">"):
            with page.expect_navigation():
                page.keyboard.press(key[:-1])
        else:
            page.keyboard.press(key)
    done(page)


#: The same by thumb on a phone: what is wanted, the names of what is tapped one after the other end, and how it is known to be done.
TAPS: list[tuple[str, list[str], Callable[[Page], None]]] = [
    ("say that C18 stays in", ["Go on: Tidewriter 80 B, Choose", "Keep the old part"], stays_in),
    ("tick that unit C is unplugged", ["Go on: Intake, 13 left", "Confirm: Unplugged"], unplugged),
    (
        "see why unit B has no power yet",
        ["Go on: Tidewriter 80 B, Choose", "B · Choose", "First power"],
        why_not_powered,
    ),
]


@pytest.mark.parametrize(("sentence", "names", "done"), TAPS, ids=[task[0] for task in TAPS])
def test_a_task_by_thumb(browser: Browser, server, demo, sentence, names, done):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server
    )
    page = context.new_page()
    page.set_default_timeout(10_000)
    page.goto("/")
    for name in names:
        page.get_by_role("link", name=name).or_(page.get_by_role("button", name=name)).first.tap()
    done(page)
    context.close()
