"""One name for how a part stands: what is rolled into a can is one on surface pads too, ceramic and tantalum are chips."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.catalogue.make import house_parts
from idlebench.core.board.parts import KINDS, MOUNTINGS, ON_PADS, Capacitor, Fitted, as_mounted, polarity_mark
from idlebench.core.board.quickline import read_line
from idlebench.core.board.soldering import way_in, way_out
from idlebench.core.board.tables import read_catalogue, read_survey, write_survey
from idlebench.core.choose.fit_rules import mounting_grades
from idlebench.core.choose.rules import VERDICT_NAMES
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.draw.board import shape_of


@pytest.mark.parametrize(
    ("kind", "typed", "size", "stands"),
    [
        ("wet", "chip", "6.3x5.4", "can"), ("wet", "can", "6.3x5.4", "can"), ("wet", "smd", "10x10", "can"), ("polymer", "chip", "8x6.7", "can"),
        ("tantalum", "can", "3.2x1.8", "chip"), ("ceramic", "smt", "2x1.3", "chip"), ("tantalum", "chip", "7.3x3.1", "chip"),
        ("wet", "can", "35x60", "chassis"), ("wet", "can", "18x21.5", "can"), ("wet", "twist-lock", "25x50", "chassis"), ("film", "chip", "7x3", "chip"),
    ],
)  # fmt: skip
def test_each_is_read_and_written_by_its_name(kind, typed, size, stands):
    assert read_line(f"C1 10u 16V {kind} {typed} {size}").part().mounting == stands
    wide, high = size.split("x")
    if typed in MOUNTINGS:
        table = f"ref,value,volts,kind,mounting,diameter,height\nC1,10u,16,{kind},{typed},{wide},{high}\n"
        (part,) = read_survey(table.encode()).parts
        assert part.mounting == stands and f",{stands}," in write_survey([part])
        parts = f"part,value,volts,kind,mounting,diameter,height\nQ,10u,16,{kind},{typed},{wide},{high}\n"
        assert read_catalogue(parts.encode()).parts[0].mounting == stands


@given(st.sampled_from(KINDS), st.sampled_from(MOUNTINGS), st.floats(0.5, 80), st.floats(0.5, 120))
def test_the_name_of_a_name_is_the_same(kind, mounting, wide, high):
    once = as_mounted(mounting, kind, wide, high)
    assert as_mounted(once, kind, wide, high) == once
    assert (mounting in ON_PADS) or once == mounting
    part = Fitted(ref="C1", value=1e-6, volts=16.0, kind=kind, mounting=mounting, diameter=wide, height=high)
    assert (
        part.mounting
        == Capacitor(
            part="Q", series="", kind=kind, value=1e-6, volts=16.0, mounting=mounting, diameter=wide, height=high
        ).mounting
        == once
    )


def test_a_size_that_was_a_slip_makes_no_chassis_can_for_good():
    slip = read_line("C1 100u 16V can 63x77").part()
    assert slip.mounting == "chassis"
    assert read_line("C1 6.3x7.7").part(slip).mounting == "can"
    assert (
        read_line("C1 35x60").part(slip).mounting == "chassis"
        and read_line("C1 note by the lid").part(slip).mounting == "chassis"
    )
    film = Fitted(ref="C2", value=1e-6, volts=400.0, kind="film", mounting="chassis")
    assert read_line("C2 30x40").part(film).mounting == "chassis"
    assert read_line("C1 chassis 16x20").part(slip).mounting == "chassis", "what is said stands"


def test_a_kind_that_is_corrected_takes_its_name_along():
    assert Fitted(ref="C1", value=1e-5, mounting="chip").with_(kind="tantalum").mounting == "chip"
    assert Fitted(ref="C1", value=1e-5, kind="tantalum", mounting="chip").with_(kind="wet").mounting == "can"


def test_the_catalogue_has_each_under_its_name():
    seen = {(part.kind, part.mounting) for part in house_parts() if part.mounting in (*ON_PADS, "chassis")}
    assert seen == {("wet", "can"), ("polymer", "can"), ("tantalum", "chip"), ("ceramic", "chip"), ("wet", "chassis")}


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("can", "can", "fits"), ("can", "radial", "look twice"), ("can", "chassis", "fails"), ("can", "snap", "fails"),
        ("chassis", "chassis", "fits"), ("chassis", "snap", "look twice"), ("chassis", "radial", "look twice"), ("chassis", "can", "fails"),
        ("radial", "can", "fails"), ("snap", "chassis", "fails"),
    ],
)  # fmt: skip
def test_what_goes_in_its_place(old, new, said):
    grades, words = mounting_grades(old)
    place = MOUNTINGS.index(new)
    assert VERDICT_NAMES[grades[place]] == said and bool(words[place]) == (said != "fits")


def test_it_comes_off_without_a_twist_and_goes_in_flat():
    can = Fitted(ref="C1", value=1e-5, volts=16.0, mounting="chip", diameter=6.3, height=5.4)
    way = way_out(can)
    assert "Never twist" in way.how and "hot air" in way.tip
    steps = " ".join(
        way_in(
            can,
            Capacitor(
                part="Q", series="Q", kind="wet", value=1e-5, volts=16.0, mounting="can", diameter=6.3, height=5.4
            ),
        )
    )
    assert "tinned" in steps and "trim" not in steps
    lugs = Fitted(ref="C2", value=1e-4, volts=450.0, mounting="can", diameter=35.0, height=60.0)
    assert "lugs" in way_out(lugs).how and "clamp" in " ".join(
        way_in(
            lugs,
            Capacitor(
                part="Q", series="", kind="wet", value=1e-4, volts=450.0, mounting="snap", diameter=30, height=40
            ),
        )
    )


def test_a_can_is_drawn_on_its_foot_with_the_bevel_at_plus():
    can = shape_of(Fitted(ref="C1", value=1e-5, mounting="can", diameter=6.3))
    assert (
        can.round
        and can.base
        and "l" in can.base
        and polarity_mark("wet", "can").words == "the dark sector is negative"
    )
    assert not shape_of(Fitted(ref="C1", value=1e-5, diameter=6.3)).base
    assert "l-0.00" in shape_of(Fitted(ref="C1", value=1e-5, mounting="can", diameter=6.3, bipolar=True)).base


def test_a_line_of_the_shelf_reads_the_same_words():
    read = read_own("10u 16V smd 6.3x5.4 name Q1")
    assert read.mounting == "can"
