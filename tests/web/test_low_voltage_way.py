"""The short way up of a machine on an adapter or cells: from its lines to proven rails, and shut again by whatever raises its volts."""

import pytest
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.proving import services as proving
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
    "micro on an AC adapter": ("+5V 0.5A", "AD1 adapter 9V AC 1A\nC1 2200u/25V 13x20 reservoir\nD1 bridge 1A 100V", ["source", "full", "life"]),
}  # fmt: skip


@pytest.fixture
def machine(shelf):
    def made(rails, lines):
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
    unit, _ = machine(rails, lines)
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
