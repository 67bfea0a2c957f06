"""What a place may do, where nobody said it; and the words that people have for it."""

import pytest

from idlebench.catalogue import house_columns
from idlebench.core.board.devices import read_device
from idlebench.core.board.likely_roles import MOST, likely_roles
from idlebench.core.board.parts import Fitted
from idlebench.core.board.quickline import read_line
from idlebench.core.board.roles import ROLES
from idlebench.core.choose.misses import nearest_miss
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import rank
from idlebench.core.text.rails_and_chips import read_chip

LIKE = [Fitted(ref=f"C{i}", value=100e-6, volts=16.0, role="coupling") for i in (10, 11, 12)]


@pytest.mark.parametrize(
    ("part", "more", "first", "why"),
    [
        ({"value": 4700e-6, "volts": 25.0}, {"supply": "linear"}, "bulk", "linear supply"), ({"value": 220e-6, "volts": 400.0}, {"supply": "switching"}, "bulk", "mains rectifier"),
        ({"value": 2200e-6, "volts": 10.0}, {"supply": "switching"}, "converter_output", "switching"), ({"value": 100e-6, "volts": 16.0}, {"parts": LIKE}, "coupling", "C10, C11, C12"),
        ({"value": 10e-6, "volts": 16.0, "x": 10.0, "y": 10.0}, {"devices": [read_device("VR1 regulator 7805 at 20,10")]}, "regulator_output", "10 mm from regulator VR1"),
        ({"value": 100e-9, "kind": "ceramic", "x": 10.0, "y": 10.0}, {"chips": [read_chip("U3 counter 20x8 at 18,10")]}, "decoupling", "8 mm from U3"),
        ({"value": 22e-12, "kind": "ceramic", "x": 10.0, "y": 10.0}, {"devices": [read_device("X1 crystal 4MHz at 15,10")]}, "timing", "crystal X1"),
        ({"value": 4.7e-6, "volts": 50.0, "bipolar": True}, {}, "coupling", "both ways"), ({"value": 47e-9, "kind": "film", "volts": 63.0}, {}, "filter", "sets a frequency"),
        ({"value": 10e-6, "volts": 16.0, "rail": "+5V"}, {}, "decoupling", "+5V"),
    ],
)  # fmt: skip
def test_a_place_is_guessed_by_what_stands_beside_it(part, more, first, why):
    here = Fitted(ref="C1", **part)
    found = likely_roles(here, more.pop("parts", []), **more)
    assert found[0].role == first and why in found[0].why and len(found) <= MOST
    assert len({one.role for one in found}) == len(found) and all(one.role in ROLES for one in found)


def test_nothing_is_guessed_where_it_is_said_and_a_draw_tells_nothing():
    assert likely_roles(Fitted(ref="C1", value=1e-4, role="reset"), LIKE) == ()
    mixed = [LIKE[0], Fitted(ref="C20", value=100e-6, volts=16.0, role="decoupling")]
    assert "of the same size" not in " ".join(
        one.why for one in likely_roles(Fitted(ref="C1", value=100e-6, volts=16.0), mixed)
    )


@pytest.mark.parametrize(
    ("words", "role"),
    [("sound supply", "decoupling"), ("amplifier supply", "decoupling"), ("speaker coupling", "coupling"), ("headphone", "coupling"), ("main filter", "bulk"), ("start-up supply", "startup"),
     ("tube supply", "tube_supply"), ("driver supply", "startup"), ("output filter", "converter_output"), ("clock", "timing"), ("clock backup", "memory_backup"), ("tone", "filter"), ("regulator output", "regulator_output")],
)  # fmt: skip
def test_roles_as_people_say_them(words, role):
    assert read_line(f"C5 100u 16V {words}").changes["role"] == role


def ranked(**facts):
    return rank(need_of(Fitted(ref="C1", **facts)), house_columns())


def test_what_lies_is_held_by_its_width_under_a_lid_and_by_its_length_between_its_holes():
    under = ranked(
        value=22e-6, volts=25.0, mounting="axial", diameter=6.0, height=13.0, role="coupling", room_height=8.0
    )
    assert (under.need.diameter, under.need.lid) == (7.0, 8.0) and under.need.height == pytest.approx(15.6)
    assert under.best.part.mounting == "axial" and under.best.verdict == "fits" and under.best.part.height == 13.0
    low = ranked(value=22e-6, volts=25.0, mounting="axial", diameter=6.0, height=13.0, role="coupling", room_height=5.0)
    assert low.need.diameter == 5.0 and all(c.part.mounting != "axial" for c in low.candidates if c.verdict != "fails")
    holes = need_of(Fitted(ref="C1", value=22e-6, volts=25.0, mounting="axial", pitch=30.0))
    assert holes.height == 26.0 and holes.diameter is None


def test_the_same_kind_stands_before_another_kind():
    found = ranked(
        value=22e-6, volts=25.0, mounting="axial", diameter=6.0, height=13.0, role="coupling", room_height=6.0
    )
    kinds = [c.part.kind for c in found.candidates if c.verdict != "fails"]
    assert kinds and kinds == sorted(kinds, key=lambda kind: kind != "wet")


def test_a_bad_fit_says_by_how_much_and_what_hands_can_do():
    found = ranked(
        value=4700e-6, volts=25.0, diameter=10.0, height=10.0, role="bulk", room_height=12.0, room_diameter=30.0
    )
    miss = nearest_miss(found)
    assert found.best is None and miss.what == "height" and miss.by > 1 and "lay it flat" in miss.ways[0]
    assert f"misses by {miss.by:.1f} mm" in miss.words
    guessed = ranked(value=4700e-6, volts=25.0, diameter=10.0, height=10.0, role="bulk")
    texts = " ".join(r.text for c in guessed.candidates for r in c.reasons)
    assert "guessed by the old part" in texts and "measure the room" in " ".join(nearest_miss(guessed).ways)
    # a place of which no room is known is measured first, and never refuses for it
    unknown = ranked(value=100e-6, volts=16.0, role="decoupling")
    assert unknown.best.verdict == "look twice" and "measure the old part" in " ".join(
        r.text for r in unknown.best.reasons
    )
    assert nearest_miss(unknown) is None
