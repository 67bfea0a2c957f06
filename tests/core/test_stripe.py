"""The stripe finder: from a stripe to a data line, to its nets, to the ways that are tested and the wire that mends one."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.mends import read_mend
from idlebench.core.faults.stripe import NetConnection, data_nets, offset_of, stripe, ways
from idlebench.core.refusal import BadInput
from idlebench.core.text.nets import Node


@given(st.sampled_from([8, 16, 32]), st.integers(0, 639), st.floats(50, 400), st.floats(1.0, 4.0))
def test_a_mark_in_the_middle_of_a_pixel_counts_that_pixel(width, pixel, left, scale):
    """However large the picture stands in the photo, and wherever."""
    right = left + 640 * scale
    offset = offset_of(left, right, left + (pixel + 0.5) * scale, 640)
    assert offset == pixel
    assert stripe(width, "msb", offset).values["bit"] == width - 1 - pixel % width


@pytest.mark.parametrize(
    ("marks", "words"),
    [((500, 400, 450, 640), "left of the right"), ((100, 900, 950, 640), "between the edges"), ((100, 900, 50, 640), "between"), ((100, 900, 500, 3), "8 to 4096"), ((math.nan, 900, 500, 640), "left")],
)  # fmt: skip
def test_marks_that_cannot_be(marks, words):
    with pytest.raises(BadInput) as refused:
        offset_of(*marks)
    assert words in str(refused.value)


@pytest.mark.parametrize(
    ("name", "bit"),
    [
        ("D12", 12),
        ("DATA12", 12),
        ("/D12", 12),
        ("VD12", 12),
        ("RAM_D12", 12),
        ("bus.DQ12", 12),
        ("D<12>", 12),
        ("AD12", 12),
        ("D012", 12),
        ("md12", 12),
    ],
)
def test_names_that_data_lines_go_by(name, bit):
    assert data_nets(bit, [Node(name, "U1", "3")]) == (name,)


@pytest.mark.parametrize("name", ["LED12", "ADD12", "A12", "D1", "D120", "+12V", "GND", "D12A", "ID12"])
def test_names_that_are_none(name):
    assert data_nets(12, [Node(name, "U1", "3")]) == ()


def test_ways_go_from_the_first_pin_to_each_other_and_an_open_one_is_mended_by_a_line_that_reads():
    nodes = [
        Node("D3", "U1", "10"),
        Node("D3", "U2", "13"),
        Node("D4", "U1", "11"),
        Node("D3", "U8", "2"),
        Node("D3", "U2", "13"),
    ]
    found = ways("D3", nodes)
    assert [way.words for way in found] == ["D3: U1 10 to U2 13", "D3: U1 10 to U8 2"]
    mend = read_mend(found[1].mend(math.inf))
    assert (mend.a.words, mend.b.words, mend.wire, mend.insulated, mend.glued) == ("U1 10", "U8 2", 0.25, True, True)
    assert math.isinf(mend.before) and read_mend(NetConnection("D3", "U1 10", "U8 2").mend(47.0)).before == 47.0
    assert ways("D9", nodes) == ()
