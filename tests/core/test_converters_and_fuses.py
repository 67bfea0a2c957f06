"""Converters, regulators, fuses and timing, worked by hand and by other ways."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.parts import Fitted
from idlebench.core.choose.branch_circuit import old_store, supply_of
from idlebench.core.choose.need import Mains
from idlebench.core.choose.supply_model import read_model, reckon
from idlebench.core.circuit.converter import converter_ripple, ripple_current, ripple_volts, shares
from idlebench.core.circuit.inrush import RATINGS, fuse, inrush_i2t, next_rating
from idlebench.core.circuit.rail_lines import read_rail_out
from idlebench.core.circuit.regulator import module, regulator
from idlebench.core.circuit.timing import timing
from idlebench.core.prove import windings_of
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.rectifier import MIDDLING
from idlebench.core.simulate.state import State
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.truth import Values


# converters
@pytest.mark.parametrize(
    ("topology", "current", "duty", "choke", "ripple"),
    [
        ("flyback", 3.1, 0.47, 0, 2.919),
        ("boost", 1.0, 0.5, 0, 1.0),
        ("buck", 3.0, 0.4, 0.9, 0.2598),
        ("forward", 5.0, 0.3, 1.5, 0.433),
    ],
)
def test_converter_ripple(topology, current, duty, choke, ripple):
    assert ripple_current(topology, current, duty, choke) == pytest.approx(ripple, rel=1e-3)
    assert converter_ripple(topology, current, duty, 42e3, choke, 0.5).values["ripple"] == pytest.approx(
        ripple / 2, rel=1e-3
    )


@pytest.mark.parametrize(("change", "field"), [({"duty": 1.0}, "duty"), ({"duty": 0.0}, "duty"), ({"topology": "cuk"}, "topology"), ({"topology": "buck"}, "inductor_ripple"), ({"share": 0.0}, "share"), ({"share": 1.2}, "share")])  # fmt: skip
def test_a_converter_that_cannot_be_names_its_figure(change, field):
    with pytest.raises(BadInput) as told:
        converter_ripple(**{"topology": "flyback", "current": 1.0, "duty": 0.4, **change})
    assert told.value.field == field


@given(st.lists(st.floats(1e-6, 1e-2), min_size=1, max_size=6), st.lists(st.floats(1e-3, 1.0), min_size=1, max_size=6))
def test_shares_are_all_of_it(values, esrs):
    assert sum(shares(values)) == pytest.approx(1)
    assert sum(shares(values[: len(esrs)], esrs[: len(values)])) == pytest.approx(1)


def test_ripple_volts_fall_with_the_store():
    assert ripple_volts("buck", 3, 0.4, 50e3, 1e-3, 0.02, 0.9) == pytest.approx(0.02 * 0.9 + 0.9 / (8 * 50e3 * 1e-3))
    assert ripple_volts("flyback", 3, 0.4, 50e3, 2e-3, 0.02) < ripple_volts("flyback", 3, 0.4, 50e3, 1e-3, 0.02)
    with pytest.raises(BadInput):
        ripple_volts("buck", 3, 0.4, 50e3, 0.0, 0.02, 0.9)


# regulators, fuses, timing
def test_a_regulator_by_hand():
    got = regulator(5, 1.0, 7.703, 10.2, 2.0, 3.0, 0.5, 8.0, 45, 5e-3).values
    heat = 5.2 * 1.0 + 10.2 * 5e-3
    assert got["headroom"] == pytest.approx(0.703) and got["dissipation"] == pytest.approx(heat)
    assert got["junction"] == pytest.approx(45 + heat * 11.5)
    assert 45 + heat * (3.5 + got["theta_sa_max"]) == pytest.approx(125)
    short = regulator(-12, 0.5, -13, -18, 2.0, 3.0, 0.5, 40.0, 45)
    assert (
        short.values["headroom"] == pytest.approx(-1)
        and "drops out" in short.cautions[0]
        and "would reach" in short.cautions[1]
    )


@pytest.mark.parametrize(
    ("change", "field"),
    [({"v_out": 0}, "v_out"), ({"load": 0}, "load"), ({"v_in_max": 6}, "v_in_max"), ({"v_in_min": 12}, "v_in_max")],
)
def test_a_regulator_that_cannot_be_names_its_figure(change, field):
    good = {
        "v_out": 5,
        "load": 1,
        "v_in_min": 8,
        "v_in_max": 10,
        "dropout": 2,
        "theta_jc": 3,
        "theta_cs": 0.5,
        "theta_sa": 8,
        "ambient": 45,
    }
    with pytest.raises(BadInput) as told:
        regulator(**{**good, **change})
    assert told.value.field == field


def test_a_module_keeps_its_watts():
    heat, current = module(5, 2.0, 12, 0.88)
    assert 12 * current == pytest.approx(10 + heat)
    with pytest.raises(BadInput):
        module(5, 1, 12, 1.0)


@given(st.floats(0.01, 7.4))
def test_a_rating_is_the_next_of_the_row(current):
    for standard, carries in (("iec", 1.0), ("ul", 0.75)):
        rating = next_rating(current, standard)
        assert rating >= current / carries - 1e-9
        below = [r for r in RATINGS if r < rating]
        assert not below or below[-1] < current / carries


@pytest.mark.parametrize(("change", "field"), [({"power": 0}, "power"), ({"efficiency": 0}, "efficiency"), ({"power_factor": 1.2}, "power_factor"), ({"mains_min": 0}, "mains_min"), ({"power": 5000}, "power")])  # fmt: skip
def test_a_fuse_that_cannot_be_worked_out_names_its_figure(change, field):
    with pytest.raises(BadInput) as told:
        fuse(**{"power": 40, "efficiency": 0.75, "power_factor": 0.6, "mains_min": 207, **change})
    assert told.value.field == field


def test_the_pulse_and_the_characteristic():
    assert inrush_i2t(325, 220e-6, 10.6) == pytest.approx(1.096, rel=1e-3)
    assert fuse(40, 0.75, 0.6, 207).values["characteristic"] == "F"
    assert fuse(40, 0.75, 0.6, 207, 220e-6, 10.6).values["characteristic"] == "T"
    assert any("always stays" in c for c in fuse(40, 0.75, 0.6, 207).cautions)


def test_timing_moves_with_the_value():
    assert timing(11e-6, 47e3, 1.1, 10e-6).values["change"] == pytest.approx(0.1)
    with pytest.raises(BadInput):
        timing(0, 1e3)


def test_a_coil_and_a_second_capacitor_take_what_ripple_is_left_and_neither_is_asked_all_of_it():
    parts = {ref: Fitted(ref=ref, value=1000e-6, volts=10.0, role="converter_output") for ref in ("C14", "C16")}
    store = Fitted(ref="C7", value=220e-6, volts=400.0, role="bulk")
    start = Fitted(ref="C9", value=47e-6, volts=50.0, role="startup")
    lines = "bridge mains 4ohm store C7 converter flyback 40W eff 0.8 at 42k startstore C9\nrail +5V 3A duty 0.45 capacitors C14"
    plain, coil = (
        reckon(read_model(text)[0], {**parts, "C7": store, "C9": start})
        for text in (lines, f"{lines} coil L2 10u then C16")
    )
    ripple = {
        name: next(f for f in found.figures if f.name.startswith("Ripple on +5"))
        for name, found in (("plain", plain), ("coil", coil))
    }
    turn = 2 * math.pi * 42e3
    assert ripple["coil"].before < 0.2 * ripple["plain"].before and "behind its coil" in ripple["coil"].source
    # all of the ripple current goes through the first, and what the coil lets through into the second
    assert coil.places["C14"].ripple == pytest.approx(plain.places["C14"].ripple)
    through = ripple["plain"].after / (2 * math.sqrt(2)) / (turn * 10e-6)
    assert (
        coil.places["C16"].ripple == pytest.approx(through)
        and coil.places["C16"].ripple < 0.3 * coil.places["C14"].ripple
    )
    # the bench sees the same: less on the rail, all of it before the coil
    for text, less in ((lines, False), (f"{lines} coil L2 10u then C16", True)):
        bench = Bench.of(text, [*parts.values(), store, start])
        outcome = run(bench, Values(1), State(volts=230.0), grids=MIDDLING)
        rail = outcome.rails["+5 V"].switching[0]
        assert bool(rail < 0.3 * outcome.stores["C14"].switching[0]) is less


@pytest.mark.parametrize(
    "line", ["rail +5V 3A capacitors C14 coil 10u", "rail +5V 3A capacitors C14 then C16", "rail +5V 3A capacitors C14 coil 10u then C14"]
)  # fmt: skip
def test_a_coil_without_what_stands_behind_it_is_asked_about(line):
    with pytest.raises(BadInput, match="coil"):
        read_rail_out(line)


def test_the_tap_in_use_scales_what_a_supply_gives_in_the_sums_and_on_the_bench():
    """A 240 V tap on 228 V mains gives 5 % less."""
    parts = {"C1": Fitted(ref="C1", value=4700e-6, volts=25.0, role="bulk")}
    line = "bridge 12V 30VA reservoir C1 current 0.5A"
    plain, tapped = (read_model(text)[0] for text in (line, line.replace("30VA", "30VA tap 240V")))
    at = Mains(228.0, 50.0)
    full, less = (supply_of(branch, new, at).source for new in [old_store(parts["C1"])] for branch in (plain, tapped))
    assert less == pytest.approx(0.95 * full)
    volts = []
    for text in (line, line.replace("30VA", "30VA tap 240V")):
        bench = Bench.of(text, parts.values(), nominal=at)
        outcome = run(bench, Values(1), State(volts=228.0), grids=MIDDLING)
        volts.append(float(outcome.stores["C1"].volts.mean()))
    # the diodes take the same of both
    assert volts[1] == pytest.approx(0.95 * volts[0], rel=0.02) and volts[1] < 0.96 * volts[0]
    assert [w.at for w in windings_of(None, None, (), (tapped,))] == [240.0] and read_model(line)[0].tap == 0.0
