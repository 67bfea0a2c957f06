"""Cells and diodes against their places, regulators fed by a rail: figures worked by hand, and what holds for every part."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.catalogue import house_devices
from idlebench.core.board.devices import read_device
from idlebench.core.choose.cells_and_diodes import (
    CHEMISTRIES,
    Battery,
    Diode,
    battery_need,
    diode_need,
    judge_battery,
    judge_diode,
    rank_batteries,
    rank_diodes,
)
from idlebench.core.choose.device_tables import read_devices, write_devices
from idlebench.core.choose.fed_regulators import BARE, fed_by_rail
from idlebench.core.choose.regulators_and_fuses import judge_regulator, rank_regulators
from idlebench.core.choose.rules import FAILS, FITS
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.choose.stand_in import LOOK_TWICE
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail

LITHIUM = Battery(part="L", series="", chemistry="lithium", volts=3.6, capacity=1.2)
WITH_DIODE = replace(LITHIUM, part="LD", diode=0.3)
ACCUMULATOR = Battery(part="A", series="", chemistry="accumulator", volts=3.6, capacity=0.3)


def rule(judged, name):
    return next((r for r in judged.reasons if r.rule == name), None)


@pytest.mark.parametrize(
    ("line", "part", "status", "name"),
    [
        ("BT1 battery 3.6V charged", LITHIUM, FAILS, "charge"),
        ("BT1 battery 3.6V", LITHIUM, FAILS, "charge"),  # nobody knows: as strict as if it were
        ("BT1 accumulator 3.6V", LITHIUM, FAILS, "charge"),
        ("BT1 battery 3.6V not charged", LITHIUM, FITS, "charge"),
        ("BT1 battery 3.6V charged", WITH_DIODE, FITS, "charge"),
        ("BT1 accumulator 3.6V", ACCUMULATOR, FITS, "charge"),
        ("BT1 battery 3.6V not charged", ACCUMULATOR, FAILS, "charge"),
        ("BT1 battery 3.6V", ACCUMULATOR, LOOK_TWICE, "charge"),
        ("BT1 battery 3.6V", WITH_DIODE, FITS, "volts"),  # 3.3 of 3.6 V: 0.92
        ("BT1 battery 3.6V", replace(WITH_DIODE, volts=3.0), LOOK_TWICE, "volts"),  # 2.7: 0.75
        ("BT1 battery 3.6V", replace(WITH_DIODE, volts=2.4), FAILS, "volts"),  # 2.1: 0.58
        ("BT1 battery 3.6V", replace(ACCUMULATOR, volts=4.8), FAILS, "volts"),  # 1.33
        ("BT1 battery 3.6V 5uA", LITHIUM, FITS, "lasts"),
        ("BT1 battery 3.6V 100uA", LITHIUM, LOOK_TWICE, "lasts"),  # 12 000 h, 1.4 years
    ],
)  # fmt: skip
def test_a_cell_against_its_place(line, part, status, name):
    assert rule(judge_battery(battery_need(read_device(line)), part), name).status == status


def test_how_long_a_memory_is_kept():
    """0.22 Ah through 5 µA are 44 000 h, 5.0 years; 1.2 Ah would be 27, and a lithium cell lasts 10."""
    need = battery_need(read_device("BT1 battery 3V 5uA"))
    small = rule(judge_battery(need, replace(LITHIUM, volts=3.0, capacity=0.22)), "lasts")
    assert "5 years" in small.text and small.value == pytest.approx(44_000 * 3600, rel=0.001)
    assert "10 years" in rule(judge_battery(need, replace(LITHIUM, volts=3.0)), "lasts").text
    # an accumulator of 80 mAh keeps 16 000 h, 667 days, from full
    assert "667 days" in rule(judge_battery(need, replace(ACCUMULATOR, capacity=0.08)), "lasts").text


def test_what_runs_out_is_not_soldered_to_the_board_without_a_word():
    need = battery_need(read_device("BT1 accumulator 3.6V"))
    assert rule(judge_battery(need, replace(ACCUMULATOR, held="board")), "held").status == LOOK_TWICE
    assert rule(judge_battery(need, ACCUMULATOR), "held") is None
    with pytest.raises(BadInput):
        battery_need(read_device("BT1 battery leaking"))


@given(
    st.sampled_from(["charged", "", "not charged"]),
    st.sampled_from(sorted(CHEMISTRIES)),
    st.floats(1, 10),
    st.sampled_from([0.0, 0.3]),
)
def test_no_cell_that_must_not_be_charged_stands_where_it_may_be(words, chemistry, volts, diode):
    part = Battery(part="X", series="", chemistry=chemistry, volts=volts, capacity=1.0, diode=diode)
    judged = judge_battery(battery_need(read_device(f"BT1 battery 3.6V {words}")), part)
    if judged.status != FAILS and not CHEMISTRIES[chemistry].charged:
        assert diode or words == "not charged"


PLAIN = Diode(part="P", series="", kind="plain", volts=400, current=1.0, surge=30.0, drop=1.0, recovery=2e-6)
FAST = Diode(part="F", series="", kind="fast", volts=400, current=1.0, surge=25.0, drop=1.2, recovery=75e-9)
LOW = Diode(part="L", series="", kind="low-drop", volts=60, current=10.0, surge=150.0, drop=0.6)


@pytest.mark.parametrize(
    ("line", "more", "part", "status", "name"),
    [
        ("D1 diode 1A 400V", {}, PLAIN, FITS, "volts"),
        ("D1 diode 1A 600V", {}, PLAIN, FAILS, "volts"),
        ("D1 diode 2A 400V", {}, PLAIN, FAILS, "current"),
        ("D1 diode 1A 100V", {"reverse": 300.0}, PLAIN, FAILS, "volts"),  # 300 V × 1.5 are 450
        ("D1 diode 1A 100V", {"reverse": 260.0}, PLAIN, FITS, "volts"),  # 390
        ("D1 diode 0.5A 100V", {"average": 0.9}, PLAIN, FAILS, "current"),  # 0.9 ÷ 0.8 are 1.13 A
        ("D1 diode 1A 100V", {"pulse": 35.0}, PLAIN, FAILS, "surge"),
        ("D1 diode 1A 100V", {"switching": True}, PLAIN, FAILS, "recovery"),
        ("D5 diode 8A 45V low drop", {}, replace(PLAIN, current=10.0), LOOK_TWICE, "drop"),
        ("D1 diode 1A 40V", {}, LOW, LOOK_TWICE, "leakage"),
        ("D1 bridge 1A 100V", {}, PLAIN, FAILS, "kind"),
    ],
)
def test_a_diode_against_its_place(line, more, part, status, name):
    assert rule(judge_diode(diode_need(read_device(line), **more), part), name).status == status


def test_a_fast_diode_stands_at_a_switching_rate():
    need = diode_need(read_device("D1 diode 1A 100V"), switching=True)
    assert rule(judge_diode(need, FAST), "recovery") is None and rule(judge_diode(need, LOW), "recovery") is None
    with pytest.raises(BadInput):
        diode_need(read_device("D1 diode fast"))


def test_the_best_of_the_house():
    charged = rank_batteries(battery_need(read_device("BT1 battery 3.6V charged 5uA")), house_devices("battery"))[0]
    assert charged.status == FITS and charged.part.held == "leads"
    first = rank_diodes(diode_need(read_device("D1 diode 1A 100V")), house_devices("diode"))[0]
    assert (first.part.kind, first.part.volts, first.part.current) == ("plain", 100.0, 1.0)
    output = rank_diodes(diode_need(read_device("D5 diode 8A 45V low drop"), switching=True), house_devices("diode"))[0]
    assert output.part.kind == "low-drop" and output.part.current >= 8


RAILS = tuple(read_rail(line) for line in ("+5 V 2 A", "+12 V 0.5 A", "-12 V 0.2 A"))


def test_a_regulator_fed_by_a_rail():
    """7905 from −12 V at 0.1 A marked: 0.08 A; in 10.8 to 13.2 V; (13.2 − 5) × 0.08 = 0.66 W; bare, 60 K/W."""
    need = fed_by_rail(read_device("VR1 regulator 7905 0.1A"), RAILS)
    assert (need.v_in_low, need.v_in_high, need.theta_sa) == (pytest.approx(10.8), pytest.approx(13.2), BARE)
    assert need.current == pytest.approx(0.08) and need.assumed and "−12 V" in need.feed
    part = next(r for r in house_devices("regulator") if r.volts == -5 and r.current == 1.0)
    hot = rule(judge_regulator(need, part), "junction")
    # case to sink through a washer stands in the working: at least 45 + 0.656 × (4 + 60)
    assert 45 + 0.656 * 64 <= hot.value <= 45 + 0.656 * 64 + 2
    assert rank_regulators(need, house_devices("regulator"))[0].status != FAILS


def test_a_regulator_whose_rail_is_typed():
    need = fed_by_rail(read_device("VR1 regulator 7805 1A from +12V sink 7"), RAILS)
    assert not need.assumed and need.theta_sa == 7.0 and need.feed == "Fed from +12 V"
    for line in ("VR1 regulator 7805 1A from +24V", "VR1 regulator 7812 1A", "VR1 regulator 7805", "VR1 regulator 1A"):
        with pytest.raises(BadInput):
            fed_by_rail(read_device(line), RAILS)


def test_tables_and_lines_read_back():
    from idlebench.catalogue import make_others

    assert len(house_devices("battery")) == len(list(make_others.batteries()))
    assert len(house_devices("diode")) == len(list(make_others.diodes()))
    cells, diodes = list(house_devices("battery")), list(house_devices("diode"))
    assert list(read_devices("battery", write_devices("battery", cells)).parts) == cells
    assert list(read_devices("diode", write_devices("diode", diodes)).parts) == diodes
    own = read_own("battery lithium 3V 220mAh leads diode 0.3V €1.90 stock 2")
    assert (own.at_memory, own.capacity, own.stock, own.price) == (2.7, 0.22, 2, 1.9)
    own = read_own("diode low drop 3A 60V recovers 20n tab")
    assert (own.kind, own.current, own.volts, own.recovery, own.mounting) == ("low-drop", 3.0, 60.0, 20e-9, "tab")
    assert read_own("bridge 1.5A 400V").kind == "bridge"
    for line in ("battery 3V", "battery lithium", "diode 1A", "diode fast 1A 0V", "battery lithium -3V"):
        with pytest.raises(BadInput):
            read_own(line)
    assert (
        read_devices("battery", "part,volts\nX,0\n").problems
        and read_devices("diode", "part,volts,current\nX,100,0\n").problems
    )
