"""Zones, other parts, nets, profiles, squaring up, rows and the heat map, by tables and properties."""

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from idlebench.core.board.copies import copy_row
from idlebench.core.board.device_lines import doubts, first_out, on_top, taken_out
from idlebench.core.board.devices import is_device, read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.board.profile import Profile, belongs, difference, read_profile, write_profile
from idlebench.core.board.square_up import picture_size, square_up
from idlebench.core.board.zones import hidden, is_zone, read_zone, tell
from idlebench.core.judge.heat_map import heat_map
from idlebench.core.judge.measure import in_walking_order, next_unread, shut_before_meter, stored, with_reading
from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import dated, hold, year_of
from idlebench.core.text.nets import Node, read_nets, use_of, wire, write_nets
from idlebench.core.text.rails_and_chips import Chip, Pin, is_chip, read_chip

CORNERS = [(0.0, 0.0), (240.0, 0.0), (240.0, 168.0), (0.0, 168.0)]


# zones
@pytest.mark.parametrize(
    ("line", "kind", "number", "label"),
    [("heat 70 heatsink of VR1 at 40,30 60x20", "heat", 70.0, "heatsink of VR1"), ("drive 22 at 150,60 90x50", "drive", 22.0, ""),
     ("lid 34 mm at 80 , 44 150x76".replace(" , ", ","), "lid", 34.0, ""), ("shield 12,5 tin box at 50,50 30x30", "shield", 12.5, "tin box"),
     ("daughter 12 MB-81 at 60,40 50x30 hides c12,C13", "daughter", 12.0, "MB-81")],
)  # fmt: skip
def test_a_zone_is_read_and_reads_back(line, kind, number, label):
    zone = read_zone(line)
    assert (zone.kind, zone.temperature if kind == "heat" else zone.room, zone.label) == (kind, number, label)
    assert read_zone(zone.as_line()) == zone and is_zone(line)


@pytest.mark.parametrize(
    ("line", "said"),
    [("heat at 40,30 60x20", "a temperature"), ("drive 22 90x50", "its middle and size"), ("heat 400 at 1,1 5x5", "°C"), ("lid 0 at 1,1 5x5", "mm"),
     ("room 12 at 1,1 5x5 hides C1", "daughter board only"), ("daughter 12 at 1,1 5x5 hides 12", "references"), ("cellar 3", "heat, lid"), ("heat 70 at", "something after")],
)  # fmt: skip
def test_a_zone_that_cannot_be_read_says_why(line, said):
    with pytest.raises(BadInput, match=said):
        read_zone(line)


def test_zones_tell_a_place_its_temperature_and_room_and_what_was_typed_wins():
    zones = [read_zone(z) for z in ("heat 62 sound chip at 50,50 40x40", "heat 70 at 60,50 10x10", "drive 22 at 50,50 90x90", "lid 34 at 50,50 200x200")]  # fmt: skip
    there = tell(Fitted(ref="C1", value=1e-4, x=60.0, y=50.0), zones)
    assert (there.part.ambient, there.part.room_height) == (70.0, 22.0) and "drive" in there.said[1]
    typed = tell(Fitted(ref="C1", value=1e-4, x=60.0, y=50.0, ambient=40.0, room_height=10.0), zones)
    assert (typed.part.ambient, typed.part.room_height) == (40.0, 10.0) and not typed.said
    assert tell(Fitted(ref="C1", value=1e-4), zones).part == Fitted(ref="C1", value=1e-4), "no place, no zone"
    assert not tell(Fitted(ref="C1", value=1e-4, x=60.0, y=50.0, side="solder"), zones).said, (
        "the other end side is not under the lid"
    )


def test_a_daughter_board_says_what_it_hides_until_it_is_listed():
    zones = [read_zone("daughter 12 MB-81 at 60,40 50x30 hides C12,C13")]
    assert hidden(zones, ["C12"]) == ("MB-81 hides C13, not listed yet",) and not hidden(zones, ["C12", "C13"])


# parts that are no capacitors
@pytest.mark.parametrize(
    ("line", "what", "volts", "current"),
    [("VR1 regulator 7805 1A at 10,20", "regulator", 5.0, 1.0), ("vr2 regulator 7912 1 A", "regulator", -12.0, 1.0), ("F1 fuse T1.6A 250V 5x20", "fuse", 250.0, 1.6),
     ("F2 fuse FF 500mA 250 V", "fuse", 250.0, 0.5), ("BT1 battery 3.6V leaking", "battery", 3.6, None), ("D1 bridge 1.5A 400V", "diode", 400.0, 1.5),
     ("T1 winding 9V 2.8A", "winding", 9.0, 2.8), ("Q7 regulator −12V 0.5A on heatsink", "regulator", -12.0, 0.5)],
)  # fmt: skip
def test_other_parts_are_read_and_read_back(line, what, volts, current):
    part = read_device(line)
    assert (part.what, part.volts, part.current) == (what, volts, current) and is_device(line)
    assert read_device(part.as_line()) == part


@pytest.mark.parametrize(
    ("line", "said"),
    [("F1 fuse 7805", "a regulator's marking"), ("fuse T 1A", "a reference"), ("F1 fuse T 1A at", "something after"), ("F1 fuse 900A", "A"), ("F1 " + "x" * 500, "400")],
)  # fmt: skip
def test_an_other_part_that_cannot_be_read_says_why(line, said):
    with pytest.raises(BadInput, match=said):
        read_device(line)


def test_doubts_are_asked_and_a_leaking_battery_is_first():
    assert doubts(read_device("F1 fuse 250V")) == ("which current is marked?", "fast (F) or time-lag (T)?")
    assert doubts(read_device("VR1 regulator")) and not doubts(read_device("VR1 regulator 7805"))
    battery = read_device("BT1 battery 3.6V crusty")
    assert first_out([battery, read_device("BT2 battery 3V sound")]) == (battery,)
    out = taken_out(battery)
    assert not first_out([out]) and "was crusty" in out.note


def test_a_later_line_lies_on_top_of_an_earlier_one():
    before = read_device("VR2 regulator 7912 at 10,20")
    assert on_top(before, read_device("VR2 regulator 1A sound")).as_line() == "VR2 regulator 7912 1A sound at 10,20"
    with pytest.raises(BadInput, match="which VR2 is listed as"):
        on_top(before, read_device("VR2 fuse T 1A"))


def test_pins_of_the_families_differ_and_the_79_tab_is_its_input():
    assert read_device("VR1 regulator 7805").pins == ("input", "ground", "output", "ground")
    assert read_device("VR1 regulator 7912").pins[3] == "input"


@pytest.mark.parametrize(("line", "yes"), [("U1 processor 46x14", True), ("j12 power in 17x46", True), ("C1 100u", False), ("U1", False), ("F1 fuse", False)])  # fmt: skip
def test_a_chip_is_told_by_its_reference(line, yes):
    assert is_chip(line) is yes


# nets
IPC = """C  IDLE BENCH TEST
P  UNITS CUST 0
317GND              U1    -20         D  38PA00X+000100Y+000100
317+5V              U1    -40         D  38PA00X+000100Y+000200
327/CLK             U1    -18         D  38PA00X+000100Y+000300
317+5V              C4    -1
317-12V             C27   -2
317N/C              U1    -39
317GND              VIA   -
999
"""


def test_an_ipc_netlist_gives_pins_and_rails():
    nets = read_nets(IPC)
    assert not nets.problems and nets.names == ("GND", "+5V", "/CLK", "-12V")
    wired = wire(nets, [read_chip("U1 processor 46x14 at 100,26")], ["C4", "C27"])
    assert [(p.number, p.is_, p.rail) for p in wired.chips[0].pins] == [
        ("20", "ground", ""),
        ("40", "supply", "+5 V"),
        ("18", "clock", ""),
    ]
    assert wired.rails == {"C4": "+5 V", "C27": "−12 V"} and "3 pins to test" in wired.said


def test_a_table_of_nets_tells_what_its_names_do_not():
    nets = read_nets("net,ref,pin,use\nVMEM,U5,8,supply\nSEL,U5,3,activity\nGND,U9,16,\n")
    wired = wire(nets, [], [])
    assert {c.ref: [p.is_ for p in c.pins] for c in wired.chips} == {"U5": ["activity"], "U9": ["ground"]}
    assert "which volts has VMEM" in wired.said[-1]


def test_a_bad_netlist_says_which_record():
    nets = read_nets("317GND              U1    x20\n317GND              U2    -20\n")
    assert [p.line for p in nets.problems] == [1] and len(nets.nodes) == 1
    for text, said in (("317N/C              U1    -1\n", "without pins"), ("a,b\n1,2\n", "net")):
        with pytest.raises(BadInput, match=said):
            read_nets(text)


@given(st.lists(st.builds(Node, st.sampled_from(["GND", "+5V", "D7", "CLK"]), st.from_regex(r"U[1-9]\d?", fullmatch=True), st.from_regex(r"[1-9]\d?", fullmatch=True), st.sampled_from(["", "signal", "clock"])), min_size=1, max_size=20))  # fmt: skip
def test_nets_written_read_back_the_same(nodes):
    assert list(read_nets(write_nets(nodes)).nodes) == nodes


@pytest.mark.parametrize(("name", "use"), [("AGND", "ground"), ("0V", "ground"), ("3V3", "supply"), ("V12", "supply"), ("+12V", "supply"), ("A12", ""), ("XTAL1", "clock"), ("D0", "")])  # fmt: skip
def test_what_the_name_of_a_net_tells(name, use):
    assert use_of(name)[0] == use


def test_pins_that_a_chip_has_stay_as_they_are():
    chip = Chip(ref="U1", label="", width=20, height=8, pins=(Pin("20", "activity"),))
    assert wire(read_nets(IPC), [chip], []).chips[0].pins[0] == Pin("20", "activity")


# profiles
PARTS = (
    Fitted(ref="C1", value=1e-4, volts=16.0, x=10.0, y=10.0, role="bulk"),
    Fitted(ref="C2", value=1e-5, volts=16.0),
    Fitted(ref="C3", value=1e-6, volts=50.0, kind="film"),
)
PROFILE = Profile(board="MB-80", title="Mainboard", width=240.0, height=168.0, supply="", fuse="", parts=PARTS, rails=("+5 V 2 A",), chips=("U1 processor 46x14 gnd 20",), zones=("heat 70 at 40,30 60x20",), others=("BT1 battery 3.6V",), steps=("lid: 4 screws M3x8",), supply_model=("bridge 9V 25VA store C1 current 1A",))  # fmt: skip


def test_a_profile_reads_back_without_what_was_found():
    measured = tuple(p.with_(looks="leaking", esr=9.0, capacitance=1e-5, note="scorched", series="QF") for p in PARTS)
    back = read_profile(write_profile(Profile(**{**vars(PROFILE), "parts": measured})).encode())
    assert back == PROFILE


def test_the_difference_names_missing_extra_and_changed():
    here = [
        PARTS[0].with_(value=2.2e-4, volts=10.0),
        PARTS[1].with_(looks="missing"),
        PARTS[2].with_(bipolar=True),
        Fitted(ref="C9", value=1e-6),
    ]
    found = difference(PROFILE, here)
    assert [p.ref for p in found.missing] == ["C2"] and [p.ref for p in found.extra] == ["C9"]
    assert [(c.ref, c.words) for c in found.changed] == [
        ("C1", "value 220 µF, should be 100 µF; volts 10 V, should be 16 V"), ("C3", "bipolar, should have a polarity"),
    ]  # fmt: skip
    assert difference(PROFILE, PARTS).agrees and difference(PROFILE, PARTS).same == 3


@pytest.mark.parametrize(
    ("change", "said"),
    [({"format": "other"}, "idlebench-board-profile"), ({"version": 2}, "version"), ({"board": ""}, "name of the board"), ({"width": "wide"}, "10 to 1000 mm"),
     ({"width": True}, "10 to 1000 mm"), ({"rails": "+5 V"}, "a list"), ({"zones": ["heat"]}, "temperature"), ({"supply_model": ["bridge"]}, "winding"), ({"parts": ["ref,value", "C1,lots"]}, "every row")],
)  # fmt: skip
def test_a_profile_that_cannot_be_read_says_why(change, said):
    import json

    with pytest.raises(BadInput, match=said):
        read_profile(json.dumps({**json.loads(write_profile(PROFILE)), **change}).encode())


def test_a_profile_of_another_board_is_refused():
    belongs(PROFILE, "mb-80")
    with pytest.raises(BadInput, match="one of PS-2"):
        belongs(PROFILE, "PS-2")
    for junk in (b"", b"[]", b"\xff\xfe", b"{" * 100_000, b'"' + b"x" * 5_000_000):
        with pytest.raises(BadInput):
            read_profile(junk)


# squaring up
@given(st.lists(st.tuples(st.floats(-90, 90), st.floats(-60, 60)), min_size=4, max_size=4), st.floats(0, 240), st.floats(0, 168))  # fmt: skip
def test_a_squared_photo_maps_its_corners_and_keeps_lines_straight(moves, x, y):
    photo = [(400 + 6 * cx + dx, 300 + 6 * cy + dy) for (cx, cy), (dx, dy) in zip(CORNERS, moves, strict=True)]
    squared = square_up(photo, CORNERS)
    for corner, mm in zip(photo, CORNERS, strict=True):
        assert squared.pixel(*mm) == pytest.approx(corner, abs=1e-3)
    (ax, ay), (bx, by), (cx, cy) = squared.pixel(0, y), squared.pixel(x, y), squared.pixel(240, y)
    assert abs((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)) < 1e-3 * (1 + math.hypot(cx - ax, cy - ay) ** 2)


@pytest.mark.parametrize(
    ("points", "said"),
    [([(0, 0), (800, 500), (800, 0), (0, 500)], "lines that cross"), ([(0, 0), (400, 0), (800, 0), (0, 500)], "three points in a line"),
     ([(0, 0), (0, 0), (800, 500), (0, 500)], "two points in one place"), ([(0, 0), (800, 0), (200, 150), (0, 500)], "points inwards"),
     ([(0, 0), (0, 500), (800, 500), (800, 0)], "the other way"), ([(0, 0), (800, 0), (800, 500)], "four points"), ([(0, 0), (math.nan, 0), (800, 500), (0, 500)], "numbers")],
)  # fmt: skip
def test_four_points_that_make_no_board_are_refused(points, said):
    with pytest.raises(BadInput, match=said):
        square_up(points, CORNERS)


def test_a_laid_picture_is_never_larger_than_it_need_be():
    assert picture_size(100, 50) == (800, 400, 8.0)
    assert max(picture_size(1000, 700)[:2]) == 2400


# rows, heat, dates, measuring
@given(st.integers(1, 40), st.floats(0, 200), st.floats(0, 200))
def test_a_row_is_even_new_and_ends_where_told(more, x, y):
    assume(abs(x - 10) >= 0.5 or abs(y - 5) >= 0.5)
    first = Fitted(ref="C8", value=1e-5, volts=16.0, x=10.0, y=5.0, esr=9.0, looks="leaking", role="decoupling")
    row = copy_row(first, more, (x, y), {"C8", "C10", "C12"})
    assert len({p.ref for p in row} | {"C8", "C10", "C12"}) == more + 3
    assert (row[-1].x, row[-1].y) == (pytest.approx(x, abs=0.01), pytest.approx(y, abs=0.01))
    assert all(p.esr is None and p.looks == "" and p.role == "decoupling" for p in row), "nothing seen is copied"


@pytest.mark.parametrize(("part", "more", "last", "said"), [(Fitted(ref="C1", value=1e-5), 3, (9, 9), "has a place"), (Fitted(ref="C1", value=1e-5, x=1.0, y=1.0), 0, (9, 9), "copies"), (Fitted(ref="C1", value=1e-5, x=1.0, y=1.0), 3, (1, 1), "away from")])  # fmt: skip
def test_a_row_that_cannot_be_says_why(part, more, last, said):
    with pytest.raises(BadInput, match=said):
        copy_row(part, more, last, set())


def test_the_heat_map_finds_the_cluster_and_names_what_is_hot_there():
    bad = [(Fitted(ref=f"C{i}", value=1e-5, x=20.0 + 4 * i, y=20.0, ambient=62.0), "replace") for i in range(4)]
    good = [(Fitted(ref="C9", value=1e-5, x=200.0, y=150.0), "sound")]
    found = heat_map(240, 168, bad + good, [read_zone("heat 62 sound chip at 26,20 30x20")])
    assert any(d.cluster for d in found.dots) and all(d.x < 80 and d.y < 60 for d in found.dots)
    assert found.said == ("upper left: 4 of 4 bad or doubtful (C0, C1, C2, C3), up to 62 °C at sound chip",)
    assert heat_map(240, 168, good).dots == ()


@pytest.mark.parametrize(("code", "made", "doubt"), [("8423", 1984, ""), ("9112", 1984, "7 years younger"), ("7020", 1984, "older than the machine"), ("423", None, "type the machine's year")])  # fmt: skip
def test_dates_are_held_against_the_machine(code, made, doubt):
    assert doubt in hold(code, made).doubt and bool(doubt) == bool(hold(code, made).doubt)


def test_date_lines_keep_what_cannot_be_read():
    found = dated("8423 on U5\n\nrubbish on U6", 1984)
    assert found[0].held.date.year == 1984 and found[1].held is None and "expected" in found[1].wrong
    assert year_of("9112", 1984) == 1991 and year_of("??", 1984) == 1984


@pytest.mark.parametrize(
    ("part", "left", "opens"),
    [(Fitted(ref="C7", value=220e-6, volts=400.0), None, False), (Fitted(ref="C7", value=220e-6, volts=400.0), 9.0, False), (Fitted(ref="C7", value=220e-6, volts=400.0), -0.4, True),
     (Fitted(ref="C1", value=1e-4, volts=16.0), None, True), (Fitted(ref="C1", value=1e-4, volts=16.0), 2.0, False), (Fitted(ref="C2", value=1e-7, volts=63.0), None, True), (Fitted(ref="C1", value=470e-9, safety="X2"), None, False)],
)  # fmt: skip
def test_a_meter_touches_only_what_is_empty(part, left, opens):
    shut = shut_before_meter(part, left)
    assert (shut is None) is opens
    if shut:
        assert part.ref in shut.text and shut.opens


def test_a_run_goes_round_and_a_reading_in_circuit_keeps_no_capacitance():
    order = in_walking_order([("C3", 50.0, 5.0), ("C1", 1.0, 2.0), ("R9", None, None), ("D2", 20.0, 3.0)])
    assert order == ("C1", "D2", "C3", "R9")
    assert next_unread(order, {"D2"}, "C1") == "C3" and next_unread(order, {"C3"}, "R9") == "C1"
    assert next_unread(order, set(order)) == "" and next_unread((), set()) == ""
    assert with_reading(Fitted(ref="C1", value=1e-4), 9e-5, 0.5, 120.0, False).capacitance == 9e-5
    assert stored(Fitted(ref="C1", value=2e-3, volts=16.0)) == pytest.approx(0.256)
