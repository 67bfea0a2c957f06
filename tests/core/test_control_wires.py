"""Wires that carry no power, and lamps as loads: read as they are typed, asked for where they belong, proven in their order."""

import pytest

from idlebench.core.board.devices import read_device
from idlebench.core.board.replacement import check_wiring, read_wire
from idlebench.core.prove import BoardFacts, cold_checks, power_up
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import Asked, read_values
from idlebench.core.simulate.state import State
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.truth import Values
from idlebench.core.text.rails_and_chips import chip_line, read_chip, read_rail
from tests.core.test_outside_sources import PARTS

PLUG = "J1 main plug 40x10 gnd 3 +5V:main 4 +5V:standby 9 power-on 14 power-good 8 +sense 11 -sense 12 unused 20,21"
RAILS = ("+5V:main 10A", "+5V:standby 1A", "+12V 2A")


def supply(line=PLUG, rails=RAILS, **more):
    return BoardFacts(
        name="PS-3",
        row="b1",
        supply="switching",
        rails=tuple(map(read_rail, rails)),
        chips=(read_chip(line),) if line else (),
        **more,
    )


def test_a_plugs_line_is_written_back_as_it_was_read():
    plug = read_chip(PLUG)
    assert read_chip(chip_line(plug)) == plug
    assert {p.is_ for p in plug.pins} >= {"power_on", "power_good", "sense", "sense_return", "unused"}
    # where no pin follows, the word is part of the label, as before
    assert read_chip("U4 unused gate 20x8 gnd 7").label == "unused gate"


def test_a_supply_with_a_power_on_wire_shows_its_standby_rail_first():
    steps = {step.key: step for step in power_up([supply()], "lamp")}
    assert list(steps) == ["cold", "dummy", "standby", "limited", "full", "life"]
    standby = steps["standby"]
    assert [c.key for c in standby.checks] == ["up.standby.+5-v-standby.volts", "up.standby.look"]
    assert standby.live and "+5 V:main, +12 V near 0 V" in standby.checks[-1].ask
    joined = steps["limited"].checks[0]
    assert joined.point == "power-on wire J1 pin 14" and not joined.live and steps["limited"].rewire
    good = next(c for c in steps["full"].checks if "power-good" in c.key)
    assert good.passes(5.0) and not good.passes(0.2) and not good.safety
    assert steps["full"].checks[-1].key == "up.full.hold"
    # on the way that puts it straight on, the order is the same
    assert [s.key for s in power_up([supply()], "straight")][2:4] == ["standby", "full"]


def test_sense_wires_are_read_and_unused_ends_are_looked_at():
    cold = {check.key: check for check in cold_checks([supply()])}
    assert "ground" in cold["cold.sense.b1.j1.12"].point and "its rail" in cold["cold.sense.b1.j1.11"].point
    assert cold["cold.sense.b1.j1.11"].safety and not cold["cold.sense.b1.j1.11"].passes(40.0)
    assert "J1 20, J1 21" in cold["cold.unused.b1"].point


def test_a_supply_without_such_wires_is_asked_what_it_was():
    plain = supply("", ("+5V 3A", "+12V 2A"))
    assert [step.key for step in power_up([plain], "lamp")] == ["cold", "dummy", "limited", "full"]


def test_a_harness_may_have_control_wires_and_unused_ones():
    rails = [read_rail("+5V 3A"), read_rail("+5V:standby 1A")]
    wires = [
        read_wire(text)
        for text in ("J1 1 +5V", "J1 2 +5V:standby", "J1 3 ground", "J1 4 power-on", "J1 5 power good", "J1 6 unused")
    ]
    check_wiring(wires, rails)
    assert [wire.to for wire in wires][1:] == ["+5 V:standby", "ground", "power-on", "power-good", "unused"]
    assert read_wire(wires[1].as_line()) == wires[1]
    asked = {c.key: c for c in cold_checks([supply("", ("+5V 3A",), wiring=tuple(wires))])}
    assert asked["cold.wire.b1.j1-6"].kind == "look" and asked["cold.wire.b1.j1-4"].kind == "continuity"
    with pytest.raises(BadInput, match="power-on"):
        read_wire("J1 7 banana")


def test_a_lamp_is_a_load_with_its_cold_ohms():
    rail = read_rail("+12V 2A lamp 21W 12V")
    assert rail.lamp == (21.0, 12.0) and read_rail(rail.as_line()) == rail
    assert rail.dummy_current == pytest.approx(21 / 12)
    # a lamp of more volts draws by the root of its share
    assert read_rail("+12V lamp 24V 40W").dummy_current == pytest.approx(40 / 24 * 0.5**0.5)
    step = next(s for s in power_up([supply("", ("+12V 2A lamp 21W 12V",))], "lamp") if s.key == "dummy")
    (check,) = step.checks
    assert "cold about 0.69 Ω" in check.ask or "cold about 690 mΩ" in check.ask
    # its hot ohms would be an open filament's neighbour: cold they fail, and so does a resistor of that size
    assert check.passes(0.7) and not check.passes(6.9) and not check.passes(0.1)
    assert "take a second lamp" not in check.ask
    few = next(s for s in power_up([supply("", ("+12V 5A min 3A lamp 21W 12V",))], "lamp") if s.key == "dummy").checks[
        0
    ]
    assert "take a second lamp" in few.ask


@pytest.mark.parametrize(
    "line", ["+12V lamp", "+12V lamp 21W", "+12V lamp 12V 12V", "+12V lamp 21W 6V", "+12V lamp -5W 12V"]
)
def test_a_lamp_that_cannot_be_one_is_refused(line):
    with pytest.raises(BadInput):
        read_rail(line)


def test_the_simulated_bench_loads_the_rail_as_the_lamp_does():
    bench = Bench.of(
        "bridge 15V 40VA reservoir C1 regulator VR1 12V 2A", PARTS, listed=[read_rail("+12V 2A lamp 10W 12V")]
    )
    values = Values(1)
    outcome = run(bench, values, State(volts=230.0, load="dummy"))
    assert float(outcome.rails["+12 V"].amps[0]) == pytest.approx(10 / 12, rel=0.05)
    off = State(load="dummy")
    ohms = read_values(bench, values, off, run(bench, values, off), Asked(point="+12 V", what="ohms", typed="+12V"))
    assert float(ohms[0]) == pytest.approx(1.44)


@pytest.mark.parametrize("line", ["9V~ 0.5A", "9 V AC 0.5 A", "9VAC 0.5A tol 20"])
def test_ac_that_goes_through_to_a_socket_is_a_rail(line):
    rail = read_rail(line)
    assert rail.ac and rail.name == "9 V AC" and read_rail(rail.as_line()) == rail
    board = BoardFacts(
        name="MB-1",
        row="b1",
        supply="linear",
        rails=(rail, read_rail("+5V 0.5A")),
        devices=(read_device("AD1 adapter 9V AC 1A"),),
    )
    full = next(s for s in power_up([board], "low") if s.key == "full")
    mine = [c for c in full.checks if c.rail == rail.name]
    # its volts alone: ripple and lowest belong to DC
    assert (
        [(c.kind, c.aspect) for c in mine] == [("ac_volts", "volts")]
        and mine[0].passes(10.4)
        and not mine[0].passes(4.0)
    )
    keys = [c.key for c in cold_checks([board])]
    assert "cold.rail.b1.9-v-ac" in keys and "cold.back.b1.9-v-ac" not in keys
