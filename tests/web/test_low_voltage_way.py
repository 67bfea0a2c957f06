"""The short way up of a machine on an adapter or cells: from its lines to proven rails, and shut again by whatever raises its volts."""

import re
from contextlib import contextmanager

import pytest
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Entry, Event, PowerSession
from idlebench.web.survey.services import paste
from idlebench.web.survey.typed import add_typed
from idlebench.web.unit.state import unit_state
from tests import typed
from tests.conftest import LOOKED
from tests.web.helpers import make_idle, pass_up_to, power_at

#: Machines: the lines of their board, and the keys of their way up.
MACHINES = {
    "pen handheld": ("+3.3V 0.2A", "BT1 battery 3V source 0.3A\nC1 47u 6.3V tantalum decoupling\nVR1 regulator 3.3V", ["source", "bench", "full", "life"]),
    "home computer on an adapter": ("+5V 0.8A", "AD1 adapter 9V DC 1A regulated centre - 5.5x2.1\nC1 2200u/16V 13x20 main filter\nVR1 regulator 7805 1A", ["source", "bench", "full", "life"]),
    "console without its adapter": ("+5V 0.6A", "AD1 adapter 9V DC 0.85A centre - missing\nC1 1000u/16V 10x16 reservoir", ["bench", "full", "life"]),
    "home computer by its supply's line alone": ("+5V 0.8A", "C1 2200u/16V 13x20 main filter\nVR1 regulator 7805 1A", ["source", "bench", "full", "life"]),
    "micro on an AC adapter": ("+5V 0.5A", "AD1 adapter 9V AC 1A\nC1 2200u/25V 13x20 reservoir\nD1 bridge 1A 100V", ["source", "full", "life"]),
}  # fmt: skip
#: The lines of a supply, where a machine's board has them.
SUPPLIES = {"home computer by its supply's line alone": "adapter 9V DC 1A regulated reservoir C1 regulator VR1 5V 0.8A"}


@pytest.fixture
def machine(shelf):
    def made(rails, lines, supply=""):
        job = typed.take_in_job(
            {"name": "Small machines", "machine": "Handheld", "made": "1994", "units": "A", "way": "low"}
        )
        unit = job.units.get()
        unit.first_look = list(LOOKED)
        unit.save()
        facts = {
            "name": "MB-1",
            "supply": "linear",
            "width": "120",
            "height": "80",
            "expected": "0",
            "rails": rails,
            "supply_model": supply,
            "chips": "U1 processor 40x14 at 20,20 gnd 20 +5V 40 clock 18"
            if "+5V" in rails
            else "U1 processor 40x14 at 20,20 gnd 20 clock 18",
        }
        board = typed.add_board(unit, facts)
        assert paste(board, lines, good_rows=False).left == []
        return unit, board

    return made


@pytest.mark.parametrize("name", MACHINES)
def test_from_its_lines_to_proven_rails(machine, name):
    rails, lines, keys = MACHINES[name]
    unit, _ = machine(rails, lines, SUPPLIES.get(name, ""))
    assert [step.key for step in unit_state(unit.pk).proof.steps[1:]] == keys
    pass_up_to(unit, keys[-1])
    power_at(unit, keys[-1])
    make_idle()
    proof = unit_state(unit.pk).proof
    assert all(proof.step_done(step) for step in proof.steps[1:-1])


def test_what_raises_the_volts_shuts_the_short_way_whenever_it_is_found(client, machine):
    rails, lines, _ = MACHINES["home computer on an adapter"]
    unit, board = machine(rails, lines)
    pass_up_to(unit, "full")
    add_typed(board, "MOD1 module backlight inverter")
    proof = unit_state(unit.pk).proof
    assert "bench" not in [s.key for s in proof.steps] and "dummy" in [s.key for s in proof.steps]
    with pytest.raises(Blocked):
        power_at(unit, "full")
    page = client.get(reverse("power", args=[unit.pk])).content.decode()
    assert "low-voltage method is not for this machine" in page and "MOD1 on MB-1 may raise the volts" in page


def test_a_reading_of_the_limit_shuts_what_follows(machine):
    unit, _ = machine(*MACHINES["console without its adapter"][:2])
    pass_up_to(unit, "bench")
    power_at(unit, "bench")
    amps = next(c for s in unit_state(unit.pk).proof.steps if s.key == "bench" for c in s.checks if c.kind == "amps")
    proving.take_reading(unit.pk, amps.key, "2.4")
    make_idle()
    with pytest.raises(Blocked):
        power_at(unit, "full")


def test_the_page_says_what_to_buy_and_that_the_way_is_open(client, machine):
    unit, _ = machine(*MACHINES["console without its adapter"][:2])
    page = client.get(reverse("power", args=[unit.pk])).content.decode()
    assert "Buy an adapter of 9 V DC" in page and "centre −" in page
    unit.job.way = "lamp"
    unit.job.save()
    assert "a shorter power-up method is open" in " ".join(
        client.get(reverse("power", args=[unit.pk])).content.decode().split()
    )


@contextmanager
def blocked(words):
    with pytest.raises(Blocked) as error:
        yield
    assert any(words in f"{r.text} {r.opens}" for r in error.value.reasons), error.value.reasons


def smoke_session(client, unit, board):
    page = client.get(reverse("swap", args=[board.pk])).content.decode()
    asked = re.search(r'name="asked" value="(\d+)"', page)
    return page, asked and asked[1]


LINE = SUPPLIES["home computer by its supply's line alone"]


def test_a_smoke_test_takes_two_posts_is_logged_against_its_symptom_and_proves_nothing(client, machine):
    unit, board = machine(*MACHINES["home computer by its supply's line alone"][:2], LINE)
    unit.symptoms = "no picture\nhums"
    unit.save()
    pass_up_to(unit, "bench")
    before = {c.key for s in unit_state(unit.pk).proof.steps[1:] for c in s.checks if unit_state(unit.pk).proof.done(c)}
    page, asked = smoke_session(client, unit, board)
    assert "Expected: " in page and "mA" in page
    assert client.post(reverse("smoke_on", args=[unit.pk]), {"asked": asked, "back": board.pk}).status_code == 302
    live = PowerSession.objects.get(ended=None)
    assert live.unit_id == unit.pk and live.step == "bench"
    page, _ = smoke_session(client, unit, board)
    assert "The board has power" in page and "<option>no picture</option>" in page
    assert "Hands off." in page and "primary side" not in page, "it has none"
    wrong = client.post(
        reverse("smoke_off", args=[unit.pk]),
        {"session": live.pk, "amps": "lots", "seen": "quiet", "back": board.pk},
        follow=True,
    )
    assert "lots" in wrong.content.decode() and PowerSession.objects.filter(ended=None).exists()
    told = client.post(
        reverse("smoke_off", args=[unit.pk]),
        {"session": live.pk, "amps": "0.8", "seen": "quiet", "symptom": "no picture", "back": board.pk}, follow=True,
    )  # fmt: skip
    assert "Logged, and off: smoke test, for “no picture”: 800 mA" in told.content.decode()
    assert not PowerSession.objects.filter(ended=None).exists()
    event = Event.objects.get(unit=unit, kind="smoke")
    assert event.value == 0.8 and "no picture" in event.words
    # not a check more stands by it
    proof = unit_state(unit.pk).proof
    assert {c.key for s in proof.steps[1:] for c in s.checks if proof.done(c)} <= before
    assert "no picture" in Entry.objects.filter(unit=unit, kind="power").first().text


def test_a_smoke_test_passes_the_gates_of_its_step_and_no_other(client, machine):
    unit, board = machine(*MACHINES["home computer by its supply's line alone"][:2], LINE)
    with blocked("not done"):
        proving.smoke_on(unit.pk, unit_state(unit.pk).last_event)
    pass_up_to(unit, "bench")
    with blocked("since you were asked"):
        proving.smoke_on(unit.pk, -1)
    with blocked("no power at the step"):
        proving.smoke_off(unit.pk, 1, "0.2", "quiet")
    # what raises the volts takes it away, also where the page was open already
    asked = unit_state(unit.pk).last_event
    add_typed(board, "MOD1 module backlight inverter")
    with blocked("may raise the volts"):
        proving.smoke_on(unit.pk, asked)
    assert not PowerSession.objects.filter(ended=None).exists()


def test_a_smoke_test_of_too_many_amps_is_said(machine):
    unit, _ = machine(*MACHINES["home computer by its supply's line alone"][:2], LINE)
    pass_up_to(unit, "bench")
    session = proving.smoke_on(unit.pk, unit_state(unit.pk).last_event)
    told = proving.smoke_off(unit.pk, session.pk, "1.4", "wrong")
    assert not told.good and "more than expected" in told.words and "something was not right" in told.words
    # the same page's second press finds no power to end
    with pytest.raises(Blocked):
        proving.smoke_off(unit.pk, session.pk, "0.2", "quiet")


def test_another_method_has_no_smoke_test(client, machine):
    unit, board = machine(*MACHINES["home computer on an adapter"][:2])
    unit.job.way = "lamp"
    unit.job.save()
    assert 'id="smoke"' not in client.get(reverse("swap", args=[board.pk])).content.decode()
    with blocked("another power-up method"):
        proving.smoke_on(unit.pk, unit_state(unit.pk).last_event)


@pytest.mark.parametrize(
    "facts",
    [
        {"rails": "+5V:main 5A\n+5V:standby 1A\n+12V 2A", "supply": "switching"},
        {
            "rails": "+5V:main 2A\n+5V:standby 0.3A\n-12V 0.2A",
            "supply": "linear",
            "source_volts": "12",
            "source_va": "25",
        },
    ],
)
def test_a_supply_with_a_standby_rail_and_a_control_wire(shelf, facts):
    unit, _ = typed_supply(
        facts,
        "J1 main plug 40x10 gnd 3 +5V:main 4 +5V:standby 9 power-on 14 power-good 8 unused 20",
    )
    keys = [step.key for step in unit_state(unit.pk).proof.steps[1:]]
    assert [key for key in keys if key != "source"] == ["dummy", "standby", "limited", "full", "life"]
    pass_up_to(unit, "life")
    assert all(unit_state(unit.pk).proof.step_done(step) for step in unit_state(unit.pk).proof.steps[1:-1])


def test_a_board_that_regulates_its_own_rail_behind_a_supply(shelf):
    unit, _ = typed_supply({"rails": "+10V 1A", "supply": "linear", "source_volts": "12", "source_va": "25"}, "")
    board = {"name": "MB-80", "supply": "linear", "width": "120", "height": "80", "expected": "0", "rails": "+5V 0.2A"}
    board |= {"supply_model": "from +10V regulator VR2 5V 0.2A", "chips": "U1 processor 40x14 at 20,20 gnd 20 +5V 40"}
    own = typed.add_board(unit, board)
    steps = unit_state(unit.pk).proof.steps
    last = next(s for s in steps if s.key.startswith("full.b"))
    assert last.title == "MB-80 on +10 V, full rails" and str(own.pk) in last.key
    pass_up_to(unit, "life")
    proof = unit_state(unit.pk).proof
    assert proof.step_done(proof.step(last.key))


def typed_supply(facts, chips):
    job = typed.take_in_job({"name": "Supplies", "machine": "Computer", "made": "1999", "units": "A"})
    unit = job.units.get()
    unit.first_look = list(LOOKED)
    unit.save()
    board = typed.add_board(
        unit, {"name": "PS-1", "width": "120", "height": "80", "expected": "0", "chips": chips, **facts}
    )
    return unit, board
