"""A part drawn to scale with its sizes."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.parts import Capacitor
from idlebench.core.draw.side_view import sized


@pytest.mark.parametrize(
    ("mounting", "size", "across", "high"),
    [
        ("radial", (12.5, 25.0, 5.0), "12.5 mm", "25 mm"),
        ("axial", (8.0, 21.0, 0.0), "21 mm", "8 mm"),
        ("chip", (6.3, 5.4, 0.0), "6.3 mm", "5.4 mm"),
    ],
)
def test_each_size_is_written_at_its_line(mounting, size, across, high):
    diameter, height, pitch = size
    drawn = sized(
        Capacitor(
            part="P",
            series="P",
            kind="wet",
            value=1e-4,
            volts=16.0,
            mounting=mounting,
            diameter=diameter,
            height=height,
            pitch=pitch,
        )
    )
    assert (drawn.across[3], drawn.high[3]) == (across, high)
    assert (drawn.pitch is not None) == (pitch > 0)
    if drawn.pitch:
        assert drawn.pitch[1] - drawn.pitch[0] == pytest.approx(pitch) and drawn.pitch[3] == "5 mm"


@given(
    st.sampled_from(["radial", "axial", "chip", "snap"]),
    st.floats(1, 90),
    st.floats(1, 140),
    st.sampled_from([0.0, 2.5, 5.0, 10.0]),
)
def test_all_of_it_is_inside_and_to_scale(mounting, diameter, height, pitch):
    drawn = sized(
        Capacitor(
            part="P",
            series="P",
            kind="wet",
            value=1e-4,
            volts=16.0,
            mounting=mounting,
            diameter=diameter,
            height=height,
            pitch=pitch,
        )
    )
    x, y, wide, tall = drawn.body
    assert {round(wide, 6), round(tall, 6)} == {round(diameter, 6), round(height, 6)}
    assert drawn.across[1] - drawn.across[0] == pytest.approx(wide) and drawn.high[1] - drawn.high[0] == pytest.approx(
        tall
    )
    assert x >= 0 and y >= 0 and drawn.board_y == pytest.approx(y + tall)
    assert drawn.above_x + diameter / 2 <= drawn.width and drawn.across[2] + drawn.letter < drawn.height
    assert x + wide < drawn.above_x - diameter / 2, "the two do not lie on each other"
