"""Cold checks in full: rails both ways, copper by the label, regulators, the way of the leads, the pin that is lit."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.draw.chip_outline import outline, pin_count
from idlebench.core.prove import BoardFacts, Check, cold_checks, power_up, read_reading, windings_of
from idlebench.core.prove.cold_mains import SPREAD, copper
from idlebench.core.prove.cold_rails import climbs
from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.core.prove.leads import GROUND, Leads, by_leads, leads_of, moves
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_chip, read_rail

RAILS = tuple(read_rail(line) for line in ("+5 V 3 A", "+12 V 1 A", "-12 V 0.1 A"))
PS = BoardFacts(
    name="PS-1", supply="linear", parts=(Fitted(ref="C1", value=2200e-6, volts=25.0, rail="+5 V", x=10.0, y=10.0),), rails=RAILS, source_volts=15.0,
    source_va=25.0, devices=(read_device("VR1 regulator 7805 1A at 20,30"), read_device("VR2 regulator 7912")),
)  # fmt: skip
MB = BoardFacts(
    name="MB-80", chips=tuple(read_chip(line) for line in ("U1 processor 52x14 at 100,20 gnd 20 +5V 40", "U2 ram at 20,20 gnd 7 +5V 14",
    "U3 ram at 95,60 gnd 7 +5V 14", "U4 ram at 25,60 gnd 7 +12V 14")),
)  # fmt: skip


def of(checks, text):
    return [c for c in checks if text in c.point]


def test_every_rail_is_read_both_ways_and_a_short_is_one_either_way():
    checks = cold_checks([PS, MB])
    for board in ("PS-1", "MB-80"):
        for rail in RAILS:
            there, back = (
                next(c for c in checks if c.point == p)
                for p in (f"{rail.name} to ground, {board}", f"ground to {rail.name}, {board}")
            )
            assert there.low == back.low and there.safety and back.safety and there.key != back.key
            assert not back.passes(0.5) and back.passes(read_reading(back, "0.45 V"))
    assert len({c.key for c in checks}) == len(checks)


def test_volts_of_the_diode_range_tell_a_junction_from_a_short():
    """0.45 V at 1 mA are 450 Ω; a short shows a few millivolts; only a rail's ohms are typed so."""
    back = of(cold_checks([PS]), "ground to +5 V")[0]
    assert read_reading(back, "0.45 V") == pytest.approx(450) and read_reading(back, "450 mV") == pytest.approx(450)
    assert not back.passes(read_reading(back, "1 mV"))
    for typed in ("-0.4 V", "9 V", "0.4 V V"):
        with pytest.raises(BadInput):
            read_reading(back, typed)
    fuse = next(
        c
        for c in cold_checks([BoardFacts(name="PS", supply="linear", fuse="T 1 A 250 V", rails=RAILS)])
        if c.point == "fuse"
    )
    with pytest.raises(BadInput):
        read_reading(fuse, "0.45 V")


def test_a_store_that_charges_is_said():
    """2200 µF to 0.5 V at 0.1 mA: 11 s, said as about 10 s."""
    assert climbs(PS, RAILS[0]) == pytest.approx(11.0) and climbs(PS, RAILS[1]) == 0
    there = of(cold_checks([PS]), "+5 V to ground")[0]
    assert "about 10 s" in there.ask and "climb" not in of(cold_checks([PS]), "+12 V to ground")[0].ask


def test_copper_by_the_label():
    """25 VA loses 15 %: half of 0.15 · 230²/25 is 158.7 Ω in the mains side, of 0.15 · 15²/25 0.675 Ω in the other end."""
    assert copper(15, 25, 230) == pytest.approx((158.7, 0.675), rel=1e-3)
    checks = cold_checks([PS], 230.0)
    mains, winding = of(checks, "line to neutral")[0], of(checks, "across it")[0]
    assert mains.low == pytest.approx(158.7 / SPREAD, rel=1e-3) and mains.high == pytest.approx(
        158.7 * SPREAD, rel=1e-3
    )
    assert mains.passes(160) and not mains.passes(math.inf) and not mains.passes(20) and mains.safety
    assert winding.passes(0.7) and winding.passes(2.0) and not winding.passes(math.inf)
    assert of(cold_checks([PS], 115.0), "line to neutral")[0].high == pytest.approx(mains.high / 4)
    assert "115 V" in of(cold_checks([PS], 115.0), "tap")[0].ask


def test_a_supply_without_a_transformer_is_no_short_across_the_mains():
    switching = BoardFacts(name="PS-2", supply="switching", rails=RAILS)
    mains = of(cold_checks([switching]), "line to neutral")[0]
    assert mains.low == 1000 and mains.high is None and not mains.passes(0.5) and mains.passes(math.inf)
    assert not of(cold_checks([switching]), "across it")
    assert not of(cold_checks([MB]), "line to neutral"), "a fed board has no mains"
    unknown = of(cold_checks([BoardFacts(name="PS-3", supply="linear", rails=RAILS)]), "line to neutral")[0]
    assert unknown.passes(40) and unknown.passes(900) and not unknown.passes(0.5) and not unknown.passes(math.inf)
    two = BoardFacts(
        name="PS",
        supply="linear",
        windings=windings_of(None, None, [read_device("T1 winding 9V 1.5A"), read_device("T2 winding 9V 1A")], ()),
    )
    keys = [c.key for c in cold_checks([two])]
    assert len(set(keys)) == len(keys) and len(of(cold_checks([two]), "across it")) == 2


def test_regulators_that_stayed_are_read_pin_to_pin():
    found = of(cold_checks([PS]), "pin to pin")
    assert [c.point for c in found] == ["VR1, pin to pin", "VR2, pin to pin"] and all(c.safety for c in found)
    assert not found[0].passes(0.3) and found[0].passes(900)


def test_what_is_off_by_the_dismantling_log_is_counted():
    steps = power_up([PS, MB], apart=("4 screws not back: 4 M3x8", "1 plug not back: J4"))
    inside = next(c for s in steps for c in s.checks if c.fact == INSIDE)
    assert "4 M3x8" in inside.ask and "J4" in inside.ask and "tray" in inside.ask
    assert "tray" not in next(c for s in power_up([PS, MB]) for c in s.checks if c.fact == INSIDE).ask


def test_the_leads_of_each_kind_of_check():
    checks = {c.point: c for s in power_up([PS, MB])[:2] for c in s.checks}
    told = {point: leads_of(c) for point, c in checks.items()}
    assert (told["U1 pin 40 to +5 V"].black, told["U1 pin 40 to +5 V"].red) == ("+5 V", "U1 pin 40")
    assert (told["+12 V to ground, MB-80"].black, told["ground to +12 V, MB-80"].black) == (GROUND, "+12 V")
    assert told["across C1"].red == "C1 plus" and told["line to neutral at the plug"].black == "neutral at the plug"
    assert (
        told["mains tap or selector"] is None
        and told["mains at the socket"] is None
        and told["inside the case"] is None
    )


def test_ground_first_then_rail_by_rail_then_the_leads_changed_over():
    ordered = by_leads(power_up([PS, MB])[0].checks, [PS, MB])
    assert ordered[0].fact == DISCHARGED and ordered[-1].fact == INSIDE
    mb = [c.point for c in ordered if c.board == "MB-80"]
    assert mb == [
        "+5 V to ground, MB-80", "+12 V to ground, MB-80", "−12 V to ground, MB-80",
        "U2 pin 7 to ground", "U4 pin 7 to ground", "U3 pin 7 to ground", "U1 pin 20 to ground",
        "U4 pin 14 to +12 V", "U2 pin 14 to +5 V", "U1 pin 40 to +5 V", "U3 pin 14 to +5 V",
        "ground to +5 V, MB-80", "ground to +12 V, MB-80", "ground to −12 V, MB-80",
    ]  # fmt: skip


@given(
    st.lists(
        st.tuples(st.floats(0, 200), st.floats(0, 100), st.sampled_from(["gnd 7", "gnd 7 +5V 14", "+12V 1 gnd 2"])),
        max_size=12,
    ),
    st.randoms(),
)
def test_every_check_is_kept_and_no_order_moves_the_leads_less(places, dice):
    """Every check once, and never more moves than as they come, however that is."""
    chips = tuple(read_chip(f"U{i} ram at {x:.1f},{y:.1f} {pins}") for i, (x, y, pins) in enumerate(places, 1))
    boards = [PS, BoardFacts(name="MB", chips=chips)]
    checks = list(power_up(boards)[0].checks)
    ordered = by_leads(checks, boards)
    assert sorted(c.key for c in ordered) == sorted(c.key for c in checks)
    assert moves(ordered, boards) <= moves(checks, boards)
    dice.shuffle(checks)
    assert moves(by_leads(checks, boards), boards) <= moves(checks, boards)


def test_the_pin_that_is_lit():
    """A chip of 40 pins counts round from the notch: pin 20 lower right, 21 above it, 40 above pin 1."""
    drawn = outline(MB.chips[0], "20")
    by = {p.number: p for p in drawn.pins}
    assert len(by) == 40 == pin_count(MB.chips[0]) and [n for n, p in by.items() if p.lit] == [20]
    assert by[20].x == by[21].x and by[1].x == by[40].x and by[20].y > by[21].y and by[1].x < by[20].x
    assert (by[20].is_, by[40].is_, by[2].is_) == ("ground", "+5 V", "")
    assert (
        outline(MB.chips[0], "A1") is None and outline(MB.chips[0], "41") is None and outline(MB.chips[0], "0") is None
    )
    plug = outline(read_chip("J1 power gnd 3 +5V 1,2"), "2")
    assert [p.number for p in plug.pins] == [1, 2, 3] and not plug.notch


def test_the_way_that_conducts_is_that_of_the_junctions():
    """A junction from ground to a rail has its anode at ground on a positive rail, and at the rail on a negative one."""
    board = BoardFacts(name="PS", supply="linear", rails=(read_rail("+5 V 1 A"), read_rail("-12 V 0.5 A")))
    asks = {c.point: c.ask for c in cold_checks([board]) if c.fact == "no short" and c.rail}
    assert "like diodes" in asks["ground to +5 V, PS"] and "like diodes" not in asks["+5 V to ground, PS"]
    assert "like diodes" in asks["−12 V to ground, PS"] and "like diodes" not in asks["ground to −12 V, PS"]


def test_red_on_the_collector_is_the_way_that_blocks():
    """The diode in a line transistor has its anode at the emitter."""
    check = Check(key="cold.line.b1", step="cold", kind="resistance", point="Q5, collector to emitter", ask="")
    assert leads_of(check) == Leads("Q5 emitter", "Q5 collector")
