"""Mends as typed, held against the nets that are known, and what is asked cold of what was changed and mended."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.devices import read_device
from idlebench.core.board.mends import End, check_mend, is_mend, leg, read_end, read_mend, reflow, too_thin
from idlebench.core.board.parts import Fitted
from idlebench.core.draw.board import board_scene
from idlebench.core.draw.closeup import closeup, closeup_of, window
from idlebench.core.prove import BoardFacts, Changed, Event, Mended, Record, changed_from, cold_checks, status_of
from idlebench.core.prove.changed_facts import facts_of
from idlebench.core.prove.record import MEND, READ, SWAP
from idlebench.core.refusal import BadInput
from idlebench.core.text.nets import Node
from idlebench.core.text.rails_and_chips import read_chip, read_rail

C7 = Fitted(ref="C7", value=22e-6, volts=16.0, rail="+5", x=40.0, y=30.0, pitch=2.0, diameter=5.0, height=11.0)
C27 = Fitted(ref="C27", value=22e-6, volts=16.0, rail="-12 V", x=60.0, y=30.0, pitch=2.0, diameter=5.0)
U1 = read_chip("U1 processor 46x14 at 100,40 gnd 20 +5V 40")


@pytest.mark.parametrize(
    ("line", "title"),
    [
        ("pad C7 + to D2 1 wire 0.25 insulated glued before OL", "lifted pad from C7 + to D2 1: wire 0.25 mm, insulated, glued"),
        ("trace U3 4 to U7 12 wire 0.2 mm before 1.2M", "broken trace from U3 4 to U7 12: wire 0.2 mm, bare"),
        ("hole C19- to 40,32", "torn hole from C19 - to 40,32"),
        ("joint J4", "joint made new at J4"),
    ],
)  # fmt: skip
def test_a_mend_reads_and_is_written_the_same(line, title):
    mend = read_mend(line)
    assert mend.title == title and read_mend(mend.as_line()) == mend and is_mend(line)


def test_what_was_read_before():
    assert math.isinf(read_mend("pad C7 + to D2 1 before OL").before)
    assert read_mend("trace U3 4 to U7 12 before 1.2M").before == 1.2e6
    assert read_mend("joint J4").before is None and not is_mend("J4 reflowed")


@pytest.mark.parametrize(
    "line",
    [
        "", "pad", "pad C7 +", "pad C7 + to C7 +", "pad to D2 1", "trace U3 4 to U7 12 to U8 1", "pad C7 + to D2 1 wire",
        "pad C7 + to D2 1 wire 80", "pad C7 + to D2 1 wire -1", "pad C7 + to D2 1 before cold", "hole to to", "pad ?? to D2 1",
        "pad C7 + to D2 1 note", "pad " + "x" * 400,
    ],
)  # fmt: skip
def test_what_is_no_mend_is_refused(line):
    with pytest.raises(BadInput):
        read_mend(line)


@given(st.text(max_size=40))
def test_any_end_is_read_or_refused(text):
    try:
        end = read_end(text)
    except BadInput:
        return
    assert read_end(end.words) == end


@pytest.mark.parametrize(
    ("line", "meets"),
    [
        ("pad C7 + to U1 40", "+5 V"),
        ("pad C7 - to U1 20", "ground"),
        ("pad C27 - to C27 +", None),  # −12 V to ground
        ("pad C7 + to U1 20", None),
        ("pad C7 + to C27 -", None),  # +5 V to −12 V
        ("pad C7 - to C27 +", "ground"),
        ("pad C7 + to 10,10", "+5 V"),
        ("trace U1 5 to U1 6", ""),
        ("trace X1 1 to U1 7", None),  # another net by the list
        ("trace X1 1 to U1 5", "DATA3"),
    ],
)
def test_nets_that_must_not_meet_do_not(line, meets):
    nets = (Node("DATA3", "X1", "1"), Node("DATA3", "U1", "5"), Node("DATA4", "U1", "7"))
    nets = nets if "X1" in line else ()
    if meets is None:
        with pytest.raises(BadInput, match="must not be joined"):
            check_mend(read_mend(line), (C7, C27), (U1,), (), nets)
    else:
        assert check_mend(read_mend(line), (C7, C27), (U1,), (), nets) == meets


def test_an_end_on_no_part_of_the_board_is_refused():
    with pytest.raises(BadInput, match="listed on this board"):
        check_mend(read_mend("pad C9 + to U1 40"), (C7,), (U1,))


def test_a_wire_that_is_too_thin_for_its_rail():
    """π/4 · 0.25² · 10 A/mm² are 0.491 A; 2 A ask √(0.2 · 4/π) = 0.505 mm."""
    rails = (read_rail("+5 V 2 A"),)
    said = too_thin(read_mend("pad C7 + to U1 40 wire 0.25"), "+5 V", rails)
    assert "491 mA" in said and "0.5 mm" in said
    assert too_thin(read_mend("pad C7 + to U1 40 wire 0.6"), "+5 V", rails) == ""
    assert too_thin(read_mend("pad C7 + to U1 40 wire 0.25"), "", rails) == ""


def test_what_is_offered_for_new_solder():
    devices = [read_device("VR1 regulator 7805 1A"), read_device("F1 fuse T 1A")]
    hot = Fitted(ref="C9", value=1e-5, ambient=62.0)
    found = reflow((C7, hot, Fitted(ref="C1", value=1e-3, diameter=18.0)), devices, (read_chip("J1 power 17x46"), U1))
    assert [ref for ref, _ in found] == ["J1", "VR1", "C9", "C1"]


# Drawn


def test_the_legs_stand_where_the_part_does():
    """A part turned by 90° has its minus leg half a pitch below its middle."""
    assert leg(C7, 1) == pytest.approx((41, 30)) and leg(C7, -1) == pytest.approx((39, 30))
    assert leg(replace(C7, angle=90.0), 1) == pytest.approx((40, 31))


def test_a_mend_is_drawn_from_leg_to_chip_and_mirrored_from_below():
    mend = read_mend("pad C7 + to U1 40")
    for side, x in (("parts", 39.0), ("solder", 200 - 39.0)):
        drawn = board_scene(200, 140, [C7], (U1,), side=side, mends=[mend]).mends[0]
        assert (drawn.x, drawn.y) == pytest.approx((x, 30)) and drawn.to[0] == pytest.approx(100)
    assert board_scene(200, 140, [C7], mends=[mend]).mends == ()


def test_the_near_picture_is_three_times_as_large_and_stays_on_the_board():
    scene = board_scene(200, 140, [C7], (U1,))
    for x, y in ((40, 30), (0, 0), (200, 140)):
        left, top, w, h = map(float, window(scene, x, y).split())
        assert w == pytest.approx(208 / 3, rel=1e-4) and h == pytest.approx(148 / 3, rel=1e-4)
        assert -4.01 <= left <= 204.01 - w and -4.01 <= top <= 144.01 - h
    near = closeup(scene, C7, None)
    assert {p.words for p in near.pads} == {"+", "−"}
    below = closeup(scene, C7, None, mirror=200)
    plus = next(p for p in below.pads if p.words == "+")
    assert plus.x == pytest.approx(161) and plus.text_x > plus.x
    regulator = read_device("VR1 regulator 7805 1A at 30,30")
    pins = closeup_of(scene, regulator, regulator.pins[:3]).pads
    assert [p.words for p in sorted(pins, key=lambda p: p.x)] == ["input", "ground", "output"]
    turned = closeup_of(scene, regulator, regulator.pins[:3], mirror=200).pads
    assert [p.words for p in sorted(turned, key=lambda p: p.x)] == ["output", "ground", "input"]
    assert (
        closeup(scene, replace(C7, x=None), None) is None and closeup_of(scene, read_device("F1 fuse T 1A"), ()) is None
    )


# Asked cold


def board(**more):
    return BoardFacts(name="MB", supply="", parts=(C7,), row="b1", rows={"C7": "p1"}, **more)


def keys(**more):
    return {c.key: c for c in cold_checks([board(**more)])}


@pytest.mark.parametrize(
    ("changed", "asked"),
    [
        (
            Changed(row="d1", ref="VR2", what="regulator", item="RN7912", tab="input"),
            {"seat", "pins", "tab", "tabfree"},
        ),
        (Changed(row="d1", ref="VR1", what="regulator", item="RP7805", tab="ground"), {"seat", "pins", "tab"}),
        (Changed(row="d1", ref="VR1", what="regulator", item="SM1-5", module=True), {"seat", "pins"}),
        (Changed(row="d1", ref="BT1", what="battery", item="LCD", charged=False, blocks=True), {"seat", "charge"}),
        (Changed(row="d1", ref="BT1", what="battery", item="AC"), {"seat"}),
        (Changed(row="d1", ref="D1", what="diode", item="GD"), {"seat", "pins"}),
        (Changed(row="d1", ref="Q1", what="transistor", item="a type"), {"seat", "pins"}),
        (Changed(row="d1", ref="U1", what="chip", item="a chip"), {"seat"}),
        (Changed(row="d1", ref="T1", what="transformer", item="wound anew"), {"seat", "windings"}),
        (Changed(row="d1", ref="F2", what="fuse", item="FUTL5-1"), {"seat", "whole"}),
        (Changed(row="d1", ref="X1", what="valve", item="another"), {"seat"}),
    ],
)
def test_what_is_asked_of_a_changed_part(changed, asked):
    found = keys(changed=(changed,))
    assert {k.split(".")[1] for k in found if k.endswith(".d1")} == asked


def test_a_tab_that_is_the_input_is_kept_off_its_heatsink():
    new = Changed(row="d1", ref="VR2", what="regulator", item="RN7912", tab="input")
    free = keys(changed=(new,))["cold.tabfree.d1"]
    assert (
        free.safety and not free.passes(900) and not free.passes(0.99e6) and free.passes(1e6) and free.passes(math.inf)
    )
    # in circuit only a short fails, and the page says so
    tab = keys(changed=(new,))["cold.tab.d1"]
    assert not tab.passes(0.4) and tab.passes(900) and "only a short fails" in tab.ask
    assert "cold.tabfree.d1" not in keys(changed=(replace(new, tab_read=20e6),))
    assert "cold.tabfree.d1" in keys(changed=(replace(new, tab_read=900.0),))
    joined = keys(changed=(Changed(row="d1", ref="VR1", what="regulator", item="RP7805", tab="ground"),))["cold.tab.d1"]
    assert joined.passes(0.4) and not joined.passes(900)


def test_a_supplys_fuse_is_asked_for_by_its_marking():
    supply = replace(
        board(changed=(Changed(row="d1", ref="F1", what="fuse", item="FU"),)), supply="linear", fuse="T 1 A"
    )
    found = {c.key for c in cold_checks([supply])}
    assert "cold.fuse.rating.b1" in found and not any(k.endswith(".d1") for k in found)


def test_a_mend_is_asked_for_and_the_next_work_asks_again():
    check = keys(mended=(Mended(row="m1", a="C7 +", b="U1 40", title="lifted pad", before=math.inf),))["cold.mend.m1"]
    assert check.high == 2.0 and not check.safety and check.ask.endswith("it read OL.")
    read = Event(kind=READ, at=1.0, key=check.key, value=0.3, was=check.evidence)
    assert status_of(check, Record((read,)), 2.0).passed
    for later in (Event(kind=MEND, at=2.0, row="m2", board="b1"), Event(kind=SWAP, at=2.0, row="d9", board="b1")):
        assert not status_of(check, Record((read, later)), 3.0).passed
    assert status_of(check, Record((read, Event(kind=SWAP, at=2.0, row="p7", board="b2"))), 3.0).passed


def test_a_discharge_stands_when_another_part_of_its_board_is_changed():
    big = BoardFacts(
        name="PS",
        supply="linear",
        parts=(Fitted(ref="C1", value=4.7e-3, volts=25.0, role="bulk"),),
        row="b1",
        rows={"C1": "p1"},
    )
    check = next(c for c in cold_checks([big]) if c.fact == "discharged")
    read = Event(kind=READ, at=1.0, key=check.key, value=0.3, was=check.evidence)
    assert status_of(check, Record((read, Event(kind=SWAP, at=2.0, row="d1", board="b1", mains=True))), 3.0).passed


def test_what_is_kept_of_a_part_is_read_back_as_the_stricter():
    from idlebench.catalogue import house_devices

    minus = next(r for r in house_devices("regulator") if r.volts == -12 and r.package == "to220")
    assert changed_from("d1", "VR2", "regulator", minus.part, facts_of("regulator", minus)).tab == "input"
    diode = next(b for b in house_devices("battery") if b.diode)
    found = changed_from("d1", "BT1", "battery", diode.part, facts_of("battery", diode))
    assert found.blocks and not found.charged
    for odd in ({}, {"pins": 5, "tab": None}, {"pins": {"a": 1}}):
        assert changed_from("d1", "BT1", "battery", "x", odd).charged is False


def test_an_end_tells_its_place():
    assert End(x=4.0, y=5.5).words == "4,5.5" and read_end("D2 band").pin == "cathode"
