"""Rounds by one key and by one thumb: a whole machine, a network that goes, two tabs, power."""

import time

import pytest
from playwright.sync_api import Browser, Page, expect

from idlebench.core.prove import rounds
from idlebench.web.proving import metered
from idlebench.web.records.models import Event, Job, Reading, Unit
from idlebench.web.unit.state import unit_state
from tests.web.helpers import before_power, good_text, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db(transaction=True)

#: A scripted person: seconds of a look, of a probe put down, of a number typed.
LOOK, PROBE, NUMBER = 2.0, 4.0, 3.0


@pytest.fixture
def cold(surveyed):
    settle(surveyed.unit)
    return surveyed.unit


@pytest.fixture
def desk(browser: Browser, server, db):
    """A page whose network may go: what it cannot reach is no error of its scripts."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server)
    page = context.new_page()
    page.set_default_timeout(10_000)
    yield page
    context.close()


def left(unit, step="cold"):
    """Checks of a step as the page plays them, that are still asked."""
    state = unit_state(unit.pk)
    what = rounds_of(state, step)
    return [c for one in what for c in one.checks if not state.proof.done(c)]


def rounds_of(state, step):
    from idlebench.web.proving.rounds import played

    return played(state, step).rounds


def opened(page: Page, unit, step="cold", **more):
    page.goto(f"/unit/{unit.pk}/round/?step={step}")
    expect(page.locator("[data-round-count]")).to_contain_text("done")


def logged(unit, many):
    """Wait until the server has as many readings; the page sends them at its own pace."""
    end = time.monotonic() + 20
    while time.monotonic() < end:
        if Reading.objects.filter(unit=unit).count() >= many:
            return Reading.objects.filter(unit=unit).count()
        time.sleep(0.05)
    return Reading.objects.filter(unit=unit).count()


def press(page: Page, check):
    """Answer what is in hand as it should be; how long that takes a person, s, and how many presses besides a number."""
    point = page.locator("[data-in=point]")
    expect(point).to_have_text(check.point)
    if check.seen or rounds.by_tone(check):
        page.keyboard.press("Space")
        return LOOK if check.seen else PROBE, 1
    page.keyboard.type(good_text(check))
    page.keyboard.press("Enter")
    return PROBE + NUMBER, 1


def test_unit_a_of_the_demo_in_full(page: Page, demo):
    unit = Unit.objects.get(job=1, name="A")
    # as it lay before its first check: everything is asked
    Event.objects.filter(unit=unit, kind__in=("read", "handed over")).delete()
    Reading.objects.filter(unit=unit).delete()
    Unit.objects.filter(pk=unit.pk).update(turn=9999, handed_over=None)
    wanted = left(unit)
    assert len(wanted) > 90
    sent, seconds, presses = [], 0.0, 0
    page.on("request", lambda r: sent.append(r) if r.url.endswith("/round/answers/?step=cold") else None)
    page.clock.install()
    opened(page, unit)
    for check in wanted:
        took, keys = press(page, check)
        seconds, presses = seconds + took, presses + keys
        page.clock.run_for(int(took * 1000))
    page.clock.run_for(3000)
    assert logged(unit, len(wanted)) == len(wanted)
    # a form for each check needs a page after each answer, one press more for each number and a look for the next
    assert presses <= 100 and seconds < 9 * 60 and len(sent) <= seconds
    expect(page.locator("[data-round-point]")).to_contain_text("all done")
    state = unit_state(unit.pk)
    assert state.proof.step_done(state.proof.steps[0])


def test_a_press_on_a_button_or_in_a_field_answers_once(page: Page, cold):
    looks = [c for c in left(cold) if c.seen]
    opened(page, cold, f"cold&check={looks[0].key}")
    count, before = page.locator("[data-round-count]"), Reading.objects.filter(unit=cold).count()
    page.locator("[data-round-act]").focus()
    page.keyboard.press("Space")
    expect(count).to_contain_text("1 of")
    assert logged(cold, before + 1) == before + 1
    # a field keeps its space, and answers nothing by it
    page.locator("[data-round-title]").click()
    page.keyboard.press("x")
    field = page.locator("#round-note")
    field.press_sequentially("dirt in it")
    expect(field).to_have_value("dirt in it")
    expect(count).to_contain_text("1 of")
    page.keyboard.press("Enter")
    assert logged(cold, before + 2) == before + 2
    assert Reading.objects.filter(unit=cold).last().typed == "no"


def test_a_reading_that_was_not_understood_stands_in_its_field_again(page: Page, cold):
    rail = next(c for c in left(cold) if c.key.startswith("cold.rail."))
    opened(page, cold, f"cold&check={rail.key.replace('+', '%2B')}")
    before = Reading.objects.filter(unit=cold).count()
    page.keyboard.type("81o")
    page.keyboard.press("Enter")
    field = page.locator("#round-typed")
    expect(field).to_have_attribute("aria-invalid", "true")
    expect(field).to_have_value("81o")
    expect(field).to_be_focused()
    expect(page.locator("[data-in=point]")).to_have_text(rail.point)
    assert Reading.objects.filter(unit=cold).count() == before
    field.fill("816")
    page.keyboard.press("Enter")
    assert logged(cold, before + 1) == before + 1


def test_the_network_goes_for_a_minute_in_mid_round_on_a_phone(phone: Page, cold):
    # a reservoir among what is asked: its discharge is read again before power
    check = unit_state(cold.pk).proof.discharges[0]
    Event.objects.filter(unit=cold, key=check.key).delete()
    Unit.objects.filter(pk=cold.pk).update(turn=9999)
    before = Reading.objects.filter(unit=cold).count()
    phone.clock.install()
    opened(phone, cold)
    wanted = left(cold)
    assert wanted[0].key == check.key
    phone.context.set_offline(True)
    phone.locator("#round-typed").fill("0.3")
    phone.keyboard.press("Enter")
    act = phone.locator("[data-round-act]")
    answered = 0
    for one in wanted[1:4]:
        expect(phone.locator("[data-in=point]")).to_have_text(one.point)
        if one.seen or rounds.by_tone(one):
            box = act.bounding_box()
            assert box["height"] >= 64 and box["y"] + box["height"] <= 844
            act.tap()
            answered += 1
        else:
            phone.locator("#round-typed").fill(good_text(one))
            phone.keyboard.press("Enter")
            answered += 1
        phone.clock.run_for(1500)
    expect(phone.locator("[data-round-away]")).to_contain_text("4 answers are kept in this page")
    phone.clock.run_for(61_000)
    phone.context.set_offline(False)
    phone.clock.run_for(6000)
    # the discharge comes too late and stops the round there; nothing after it is taken
    expect(phone.locator("[data-round-stop]")).to_contain_text("charge creeps back")
    expect(phone.locator("[data-in=point]")).to_have_text(check.point)
    assert Reading.objects.filter(unit=cold).count() == before
    expect(phone.locator("[data-round-stop]")).to_contain_text("3 answers after it were not logged")


def test_what_was_kept_while_the_network_was_away_is_logged_once(desk: Page, cold):
    page = desk
    before = Reading.objects.filter(unit=cold).count()
    opened(page, cold)
    wanted = left(cold)
    page.context.set_offline(True)
    for check in wanted[:3]:
        press(page, check)
    expect(page.locator("[data-round-away]")).to_contain_text("kept in this page")
    assert Reading.objects.filter(unit=cold).count() == before
    # the page is closed and opened again, in two tabs: each answer is taken once
    page.context.set_offline(False)
    other = page.context.new_page()
    for tab in (page, other):
        opened(tab, cold)
    expect(page.locator("[data-in=point]")).to_have_text(wanted[3].point)
    expect(other.locator("[data-in=point]")).to_have_text(wanted[3].point)
    assert logged(cold, before + 3) == before + 3


def test_under_power_the_round_stops_where_the_network_ends(desk: Page, cold):
    page = desk
    pass_up_to(cold, "limited")
    power_at(cold, "limited")
    opened(page, cold, "limited")
    before = Reading.objects.filter(unit=cold).count()
    wanted = left(cold, "limited")
    page.context.set_offline(True)
    press(page, wanted[0])
    expect(page.locator("[data-round-stop]")).to_contain_text("Under power no answer is kept")
    expect(page.locator("[data-in=point]")).to_be_visible()
    page.context.set_offline(False)
    page.reload()
    expect(page.locator("[data-in=point]")).to_have_text(wanted[0].point)
    assert Reading.objects.filter(unit=cold).count() == before


def test_a_part_that_faces_wrong_is_one_tap_and_goes_back_to_swap(page: Page, cold):
    polar = [c for c in left(cold) if c.key.startswith("cold.polarity.")]
    opened(page, cold, "cold")
    page.goto(f"/unit/{cold.pk}/round/?step=cold&check={polar[0].key}")
    expect(page.locator("[data-in=point]")).to_have_text(polar[0].point)
    page.locator(f'.round-map:not([hidden]) [data-part="{polar[0].point}"]').click()
    expect(page.locator("[data-round-stop]")).to_contain_text("Turn C1 at Swap")
    page.get_by_role("link", name="Turn C1 at Swap").click()
    page.wait_for_url("**/swap/?part=C1")
    state = unit_state(cold.pk)
    assert state.proof.status_of(state.proof.check(polar[0].key)).failed
    # every part of a board at once, each in the log
    page.goto(f"/unit/{cold.pk}/round/?step=cold&check={polar[0].key}")
    page.keyboard.press("a") if len(polar) > 1 else page.keyboard.press("Space")
    before_power(cold)


def test_a_meter_answers_hands_free_and_lifted_leads_do_not(page: Page, cold, monkeypatch):
    Job.objects.update(meter="192.168.1.40:5025")
    shown = {"ohms": float("inf")}
    monkeypatch.setattr(metered, "may_read", lambda *_: True)
    monkeypatch.setattr(metered, "value_of", lambda *_: (shown["ohms"], ""))
    rails = [c for c in left(cold) if c.key.startswith(("cold.rail.", "cold.back."))]
    before = Reading.objects.filter(unit=cold).count()
    opened(page, cold, f"cold&check={rails[0].key.replace('+', '%2B')}")
    page.keyboard.press("m")
    expect(page.locator("[data-in=contact]")).to_contain_text("Leads in the air read the same")
    page.keyboard.press("Space")
    expect(page.locator("[data-in=point]")).to_have_text(rails[0].point)
    # the leads come down: ohms that stand still are contact, and Space logs them
    shown["ohms"] = 816.0
    expect(page.locator("[data-in=contact]")).to_contain_text("Space logs it")
    page.keyboard.press("Space")
    assert logged(cold, before + 1) == before + 1
    assert Reading.objects.filter(unit=cold).last().typed == "816"
