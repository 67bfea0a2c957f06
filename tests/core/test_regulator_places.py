"""Regulators by package and with the capacitor behind them: pins, heat, tab, and the window of ESR."""

import math
from dataclasses import replace

import pytest

from idlebench.catalogue import house_devices
from idlebench.core.board.devices import read_device
from idlebench.core.board.soldering_in import way_in_of
from idlebench.core.choose.device_tables import read_devices, write_devices
from idlebench.core.choose.regulators_and_fuses import (
    FAILS,
    FITS,
    LOOK_TWICE,
    OutputCapacitor,
    RegulatorNeed,
    judge_regulator,
    rank_regulators,
)
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.choose.supply_model import reckon
from idlebench.core.circuit.packages import PACKAGES
from idlebench.core.circuit.supply_lines import read_branch
from idlebench.core.prove.changed_facts import changed_from, facts_of, insulated, tab_reading
from idlebench.core.refusal import BadInput

HOUSE = {r.part: r for r in house_devices("regulator")}
SMALL = RegulatorNeed(
    old=read_device("VR3 regulator 78L05"),
    volts=5.0,
    current=0.08,
    v_in_low=9.0,
    v_in_high=12.0,
    v_in_peak=14.0,
    theta_sa=8.0,
    ambient=45.0,
)
NEED = RegulatorNeed(
    old=read_device("VR1 regulator 7805"), volts=5.0, current=0.7, v_in_low=8.3, v_in_high=11.0, v_in_peak=16.1
)


@pytest.mark.parametrize(
    ("line", "pins"),
    [
        # in TO-92 with the flat side in front: 78L is output, ground, input; 79L is ground, input, output; neither has a tab
        ("VR1 regulator 78L05", ("output", "ground", "input", "")),
        ("VR1 regulator 79L12", ("ground", "input", "output", "")),
        ("VR1 regulator 7805", ("input", "ground", "output", "ground")),
        ("VR1 regulator 78M05", ("input", "ground", "output", "ground")),
        ("VR1 regulator 7912", ("ground", "input", "output", "input")),
        ("VR1 regulator 78L05 SOT-89", ("output", "ground", "input", "ground")),
        ("VR1 regulator 78L05 to220", ("input", "ground", "output", "ground")),
        ("VR1 regulator 7905 TO-3", ("ground", "output", "case", "input")),
        ("VR1 regulator 5V 1A", ()),
    ],
)
def test_each_package_has_its_own_pins(line, pins):
    assert read_device(line).pins == pins


def test_a_to92_is_hot_by_its_own_way_to_air():
    # (12 − 5) V · 0.08 A = 0.56 W; 45 + 0.56 · 180 = 145.8 °C: no heatsink helps it
    got = judge_regulator(SMALL, HOUSE["RP78L05"])
    junction = next(r for r in got.reasons if r.rule == "junction")
    assert got.status == FAILS and junction.value == pytest.approx(45 + 0.56 * 180, abs=0.1)
    assert "no heatsink is made for it" in junction.text
    # half the current and it does: 45 + 0.28 · 180 = 95.4
    cool = judge_regulator(replace(SMALL, current=0.04), HOUSE["RP78L05"])
    assert next(r for r in cool.reasons if r.rule == "junction").value == pytest.approx(95.4, abs=0.1)
    assert cool.status == FITS
    # one with a tab stands cooler, and says that its pins run the other way
    other = judge_regulator(SMALL, HOUSE["RP78M05"])
    assert "pins" in {r.rule for r in other.reasons if r.status == LOOK_TWICE}


def test_the_supply_says_the_same_of_a_to92():
    line = "bridge 9V 3VA store C1 regulator VR3 5V 0.03A"
    parts = {"C1": read_part("C1 470u 25V")}
    junction = [
        next(f for f in reckon(read_branch(text), parts).figures if f.name.startswith("Junction")).before
        for text in (line, f"{line} to92")
    ]
    heat = next(f for f in reckon(read_branch(line), parts).figures if f.name.startswith("Regulator heat")).before
    assert junction == pytest.approx([45 + heat * 11.5, 45 + heat * 180], rel=1e-3)
    with pytest.raises(BadInput, match="no heatsink is made for a TO-92"):
        read_branch(f"{line} to92 heatsink 8")


def read_part(text):
    from idlebench.core.board.quickline import read_line

    return read_line(text).part()


def test_a_table_and_a_typed_line_know_packages():
    table = "part,volts,current,package\nA,5,0.1,to92\nB,-12,0.1,to92\n"
    found = read_devices("regulator", table).parts
    assert [(p.pins, p.tab) for p in found] == [
        (("output", "ground", "input"), ""),
        (("ground", "input", "output"), ""),
    ]
    assert read_devices("regulator", write_devices("regulator", (found))).parts == found
    assert read_own("78L05 0.1A").pins == ("output", "ground", "input") and read_own("78L05 0.1A").tab == ""
    assert read_own("78L05 0.1A to220").tab == "ground" and read_own("7912 1A").tab == "input"
    # one that was listed without its package is asked about
    old = replace(read_own("78L05 0.1A to220"), package="")
    assert any(
        r.rule == "package" and r.status == LOOK_TWICE
        for r in judge_regulator(replace(SMALL, current=0.02), old).reasons
    )


def test_the_hands_are_told_the_package():
    assert "3 mm of lead" in " ".join(way_in_of("regulator", "", sink=PACKAGES["to92"].sink))
    changed = changed_from("d1", "VR3", "regulator", "RP78L05", facts_of("regulator", HOUSE["RP78L05"]))
    assert (changed.package, changed.tab, changed.pins) == ("to92", "", ("output", "ground", "input"))


@pytest.mark.parametrize(
    ("outputs", "status"),
    [
        ((), LOOK_TWICE),
        ((OutputCapacitor("C2", "LZ", 0.13, True),), FITS),
        # a polymer or ceramic of 5 mΩ, and a dried one of 6 Ω, are outside of 20 mΩ to 2 Ω
        ((OutputCapacitor("C2", "PY", 0.005, True),), FAILS),
        ((OutputCapacitor("C2", "the old part", 6.0, True),), FAILS),
        ((OutputCapacitor("C2", "the old part", 0.3, False),), LOOK_TWICE),
        ((OutputCapacitor("C2", "LZ", 0.13, True), OutputCapacitor("C3", "PY", 0.005, True)), FAILS),
    ],
)
def test_a_low_dropout_type_is_judged_with_the_capacitor_behind_it(outputs, status):
    got = judge_regulator(replace(NEED, outputs=outputs), HOUSE["RD1-5"])
    assert max(r.status for r in got.reasons if r.rule == "stability") == status and got.status >= status
    # a standard type does not ask
    assert "stability" not in {r.rule for r in judge_regulator(replace(NEED, outputs=outputs), HOUSE["RP7805"]).reasons}


def test_a_standard_type_comes_first_where_it_does():
    outputs = (OutputCapacitor("C2", "LZ", 0.13, True),)
    assert not rank_regulators(replace(NEED, outputs=outputs), house_devices("regulator"))[0].part.has_window
    # with 6.2 V at low mains only a low-dropout type has headroom
    low = rank_regulators(replace(NEED, outputs=outputs, v_in_low=6.2), house_devices("regulator"))[0]
    assert low.part.has_window and low.status == FITS


def test_a_tab_is_read_before_its_legs_are_soldered():
    assert tab_reading("") is None and tab_reading("OL") == "OL" and tab_reading("22M") == 22e6
    for pierced in ("100", "0.4", "999k"):
        with pytest.raises(BadInput, match="at least 1 MΩ"):
            tab_reading(pierced)
    for bad in ("-5M", "x", "1e20"):
        with pytest.raises(BadInput):
            tab_reading(bad)
    assert changed_from("d", "VR2", "regulator", "R", {"tab": "input", "tab_read": "OL"}).tab_read == math.inf
    assert changed_from("d", "VR2", "regulator", "R", {"tab": "input", "tab_read": True}).tab_read is None
    assert [insulated(*case) for case in [("regulator", "input", ""), ("regulator", "ground", "linear"), ("regulator", "", ""),
            ("transistor", "", "switching"), ("transistor", "", "linear"), ("diode", "", "switching")]] == [True, False, False, True, False, False]  # fmt: skip
