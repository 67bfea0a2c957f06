"""Drawings to scale: what is drawn is what was measured."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.parts import Capacitor, Fitted, polarity_mark
from idlebench.core.board.zones import read_zone
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import Reason
from idlebench.core.draw.bars import bar
from idlebench.core.draw.board import board_scene, shape_of
from idlebench.core.draw.gauge import gauge
from idlebench.core.draw.side_view import lineup, side_view
from idlebench.core.text.rails_and_chips import read_chip

PART = Fitted(ref="C1", value=1e-4, volts=16, diameter=8, height=11.5, x=30.0, y=20.0)


def test_parts_are_drawn_at_their_size_and_place():
    scene = board_scene(240, 168, [PART], [read_chip("U1 cpu 46x14 at 100,26")])
    (drawn,) = scene.parts
    assert (drawn.x, drawn.y, drawn.shape.r, drawn.placed) == (30, 20, 4, True)
    (chip,) = scene.chips
    assert (chip.x, chip.y, chip.w, chip.h) == (77, 19, 46, 14)
    assert scene.view_box == "-4 -4 248 176"


def test_parts_without_a_place_wait_below_the_board():
    scene = board_scene(60, 40, [PART.with_(ref=f"C{i}", x=None, y=None) for i in range(12)])
    assert all(not d.placed and d.y > 40 for d in scene.parts)
    assert len({(d.x, d.y) for d in scene.parts}) == 12, "none on top of another"
    assert scene.height > 48


@pytest.mark.parametrize(
    ("kind", "mounting", "bipolar", "side"),
    [("wet", "radial", False, "negative"), ("wet", "axial", False, "positive"), ("wet", "can", False, "negative"), ("polymer", "can", False, "negative"), ("tantalum", "chip", False, "positive"),
     ("tantalum", "radial", False, "positive"), ("film", "radial", False, "none"), ("wet", "radial", True, "none"), ("polymer", "radial", False, "negative")],
)  # fmt: skip
def test_marks_differ_by_kind_and_are_drawn_on_their_side(kind, mounting, bipolar, side):
    assert polarity_mark(kind, mounting, bipolar).side == side
    mark = shape_of(PART.with_(kind=kind, mounting=mounting, bipolar=bipolar)).mark
    assert bool(mark) == (side != "none")
    if mark:
        x = float(mark[1:].split(" ")[0].split("h")[0])
        assert (x > 0) == (side == "negative"), "the minus side is drawn to the right"


def test_side_view_is_to_scale_under_the_lid():
    need = need_of(PART.with_(room_height=13.0))
    view = side_view(
        need,
        Capacitor(
            part="N",
            series="GP",
            kind="wet",
            value=1e-4,
            volts=25,
            mounting="radial",
            diameter=10,
            height=12.5,
            pitch=5,
        ),
    )
    assert view.new[2:] == (10, 12.5) and view.old[2:] == (8, 11.5)
    assert view.board_y - view.lid_y == 13
    assert view.new[1] == pytest.approx(view.board_y - 12.5)
    assert "room under the lid 13 mm" in view.words


@given(st.floats(0.001, 1e4), st.floats(0.001, 1e4))
def test_bars_show_the_limit_in_the_right_order(value, limit):
    drawn = bar(Reason(rule="ripple", text="", status=0, value=value, limit=limit, unit="A"))
    assert 0 <= drawn.fill <= 100 and 0 <= drawn.tick <= 100
    if value > limit * 1.01:
        assert drawn.fill >= drawn.tick
    assert "at least" in drawn.words


@pytest.mark.parametrize(("nominal", "low", "high"), [(5, 4.75, 5.25), (-12, -13.2, -10.8)])
def test_gauges(nominal, low, high):
    at = gauge(nominal, low, high, nominal)
    assert at.needle == at.ticks[1] == 50
    assert at.band_from < 50 < at.ticks[2]
    assert gauge(nominal, low, high, nominal * 1.04).needle > 50, "larger volts stand to the right, whatever the sign"
    assert gauge(nominal, low, high, -nominal).needle == 0
    assert gauge(nominal, low, high, None).needle is None
    assert at.labels[0][1] == f"{min(abs(low), abs(high)):.4g}"


def test_the_solder_side_is_the_mirror_image():
    zones = [read_zone("heat 70 at 30,20 20x10"), read_zone("drive 22 at 200,100 40x40")]
    front = board_scene(240, 168, [PART], [read_chip("U1 cpu 46x14 at 100,26")], zones)
    back = board_scene(240, 168, [PART], [read_chip("U1 cpu 46x14 at 100,26")], zones, "solder")
    assert back.parts[0].x == 240 - front.parts[0].x and back.parts[0].ghost and not front.parts[0].ghost
    assert back.chips[0].cx == 240 - front.chips[0].cx and back.chips[0].x == 240 - front.chips[0].x - front.chips[0].w
    for one, other in zip(front.zones, back.zones, strict=True):
        assert other.x == pytest.approx(240 - one.x - one.w) and (other.y, other.title) == (one.y, one.title)


@given(st.floats(0, 360))
def test_minus_stays_minus_from_behind(angle):
    """Up and down stay, left and right change: the minus side points where it points on the board."""
    import math

    one = board_scene(240, 168, [PART.with_(angle=angle)]).parts[0]
    two = board_scene(240, 168, [PART.with_(angle=angle)], side="solder").parts[0]
    a, b = math.radians(one.angle), math.radians(two.angle)
    assert math.cos(a) == pytest.approx(-math.cos(b), abs=1e-9) and math.sin(a) == pytest.approx(math.sin(b), abs=1e-9)


def test_leads_are_bent_where_a_part_lies_or_an_axial_one_stands():
    axial = Capacitor(part="A", series="A", kind="wet", value=1e-4, volts=16, mounting="axial", diameter=8, height=18)
    radial = Capacitor(
        part="R", series="R", kind="wet", value=1e-4, volts=16, mounting="radial", diameter=8, height=11.5, pitch=3.5
    )
    place = PART.with_(mounting="axial", height=20.0)
    lying = side_view(need_of(place), axial)
    assert len(lying.bends) == 2 and not lying.leads and lying.new[2:] == (18, 8)
    standing = side_view(need_of(PART.with_(room_height=30.0)), axial)
    assert len(standing.bends) == 2 and standing.new[2:] == (8, 18), "it stands on end"
    flat = side_view(need_of(PART.with_(mounting="chip")), radial)
    assert flat.new[2:] == (11.5, 8) and len(flat.bends) == 2
    assert side_view(need_of(PART), radial).bends == () and len(side_view(need_of(PART), radial).leads) == 2


def test_a_lineup_has_one_scale_and_one_lid():
    parts = [
        Capacitor(
            part=f"P{h}",
            series="P",
            kind="wet",
            value=1e-4,
            volts=16,
            mounting="radial",
            diameter=8,
            height=h,
            pitch=3.5,
        )
        for h in (11.5, 20.0, 25.0)
    ]
    drawn = lineup(need_of(PART.with_(room_height=26.0)), parts)
    assert [o.name for o in drawn.outlines] == ["old", "1", "2", "3"] and [o.h for o in drawn.outlines] == [
        11.5,
        11.5,
        20,
        25,
    ]
    assert all(o.y + o.h == drawn.board_y for o in drawn.outlines) and drawn.board_y - drawn.lid_y == 26
    edges = [(o.x, o.x + o.w) for o in drawn.outlines]
    assert all(a[1] < b[0] for a, b in itertools.pairwise(edges)), "none covers another"
