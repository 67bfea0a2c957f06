"""A kit held against the survey: enough, short, too many, wrong volts, value, pitch or size, nothing for a place."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.quickline import read_line
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import FAILS, Columns, judge_parts, rank
from idlebench.core.plan.kits import hold, read_kit
from idlebench.core.refusal import BadInput

PLACES = """
C1 100u 16V 6.3x11 p2.5 decoupling rail +5V
C2 100u 16V 6.3x11 p2.5 decoupling rail +5V
C3 22u 16V 5x11 p2 decoupling rail +5V
""".strip().splitlines()


def needs_of(lines):
    parts = [read_line(line).part() for line in lines]
    return {part.ref: need_of(part) for part in parts}


def words(kit_text, places=PLACES):
    kit = hold(needs_of(places), read_kit(kit_text))
    return {held.ref: held for held in kit.places}, [c.words for c in kit.lines], kit


def test_a_kit_that_is_enough():
    places, lines, kit = words("2 x 100u 25V 6.3x11 p2.5 105C\n1 x 22u 25V 5x11 p2 105C")
    assert lines == ["enough", "enough"] and not kit.wrong and "3 of 3 places served" in kit.words
    assert all(held.candidate for held in places.values())


def test_too_few_and_too_many():
    _, lines, kit = words("1 x 100u 25V 6.3x11 p2.5 105C\n4 x 22u 25V 5x11 p2 105C")
    assert lines == ["short by 1", "3 too many"]
    assert [held.ref for held in kit.wrong] in (["C1"], ["C2"]) and "too few" in kit.wrong[0].why


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("2 x 100u 10V 6.3x11 p2.5 105C", "10 V"), ("2 x 1000u 16V 6.3x11 p2.5 105C", "1000 µF"),
        ("2 x 100u 16V 12.5x25 p5 105C", "12.5"),
    ],
)  # fmt: skip
def test_what_is_wrong_for_its_place_is_said(line, said):
    places, lines, _ = words(f"{line}\n1 x 22u 25V 5x11 p2 105C")
    assert lines[0] == "for no place" and places["C1"].candidate is None
    assert "nothing for it; the nearest" in places["C1"].why and said in places["C1"].why


def test_a_table_is_a_kit_too():
    kit = read_kit("part,value,volts,diameter,height,pitch,stock\nK1,100u,25,6.3,11,2.5,7\n")
    assert [(line.part.part, line.pieces) for line in kit] == [("K1", 7)]


@pytest.mark.parametrize(
    "text", ["", "  \n", "10 x much", "0 x 100u 16V 6.3x11 p2.5", "100u 16 bananas", "fuse T 1A 250V 5x20",
             "2 x 100u 16V 6.3x11 p2.5\n3 x 100u 16V 6.3x11 p2.5", "part,value,volts,stock\nA,100q,16,2\n", "1 x 1u 50V 5x11 p2\n" * 400],
)  # fmt: skip
def test_a_kit_that_cannot_be_read_says_where(text):
    with pytest.raises(BadInput):
        read_kit(text)


def test_the_line_is_named():
    with pytest.raises(BadInput, match="line 2"):
        read_kit("1 x 22u 25V 5x11 p2\n10 x 100u 16 V q")


@given(st.lists(st.integers(0, 4), min_size=3, max_size=3))
@settings(max_examples=25)
def test_as_many_places_as_can_be_are_served_and_no_piece_twice(counts):
    texts = ["100u 25V 6.3x11 p2.5 105C name A", "100u 35V 6.3x11 p2.5 105C name B", "22u 25V 5x11 p2 105C name C"]
    lines = [f"{n} x {text}" for n, text in zip(counts, texts, strict=True) if n]
    if not lines:
        return
    kit = hold(needs_of(PLACES), read_kit("\n".join(lines)))
    assert len(kit.places) - len(kit.wrong) == min(2, counts[0] + counts[1]) + min(1, counts[2])
    assert all(c.used <= c.line.pieces for c in kit.lines)


@pytest.mark.parametrize("line", ["1 x fuse 1.5A", "1 x fuse 1.5A 250V 5x20", "fuse 500mA"])
def test_a_fuse_without_its_kind_is_a_question(line):
    with pytest.raises(BadInput, match="time-lag") as error:
        read_kit(line)
    assert error.value.instead and " T " in f"{error.value.instead} "


@pytest.mark.parametrize("line", ["1 x fuse T 1.5A 250V 5x20", "1 x fuse F1.5A"])
def test_a_fuse_with_its_kind_is_none(line):
    with pytest.raises(BadInput) as error:
        read_kit(line)
    assert "time-lag" not in str(error.value)


def test_nearest_is_by_value_before_the_number_of_refusals():
    """A 100 µF that is too low and too tall was meant for the 100 µF place, not for the 10 µF one that it is only too large for."""
    places = {"C1": (1e-4, 50.0, 8.0), "C2": (1e-5, 16.0, 40.0)}
    needs = {
        ref: need_of(
            Fitted(
                ref=ref, value=value, volts=volts, role="decoupling", diameter=6.3, height=room - 1, room_height=room
            )
        )
        for ref, (value, volts, room) in places.items()
    }
    kit = hold(needs, read_kit("1 x 100u 35V 8x20 p3.5 105C\n1 x 4700u 35V 8x7 p3.5 105C"))
    assert kit.lines[0].why.startswith("nearest C1: ") and kit.lines[0].why.count(";") >= 1
    assert all("nearest, 100u-35V" in place.why for place in kit.places if place.ref == "C1")


def test_a_line_for_no_place_says_what_the_nearest_refuses_it_for():
    needs = {
        "C1": need_of(
            Fitted(ref="C1", value=1e-4, volts=16.0, role="decoupling", diameter=6.3, height=7.0, room_height=8.0)
        )
    }
    kit = hold(needs, read_kit("1 x 100u 25V 6.3x16 p2.5"))
    (line,) = kit.lines
    assert line.words == "for no place" and line.why.startswith("nearest C1: ") and "16" in line.why and "8" in line.why


def test_a_line_without_a_temperature_is_not_85_degrees():
    (typed,) = read_kit("4 x 100u 16V 6.3x11 p2.5")
    (told,) = read_kit("4 x 100u 16V 6.3x11 p2.5 105C")
    table = read_kit("part,value,volts,temperature,stock\nA,100u,16,,4\nB,100u,16,85,4\n")
    assert [line.part.temperature for line in (typed, told, *table)] == [0.0, 105.0, 0.0, 85.0]


@pytest.mark.parametrize(
    ("kind", "asked", "words"),
    [("wet", 85.0, True), ("wet", 105.0, True), ("film", 85.0, False), ("film", 105.0, True)],
)
def test_a_temperature_that_nobody_says_is_read_on_the_sleeve_and_refuses_nothing(kind, asked, words):
    need = need_of(Fitted(ref="C1", value=1e-6, volts=16, kind=kind, temperature=asked))
    unsaid = Capacitor(
        part="Z", series="", kind=kind, value=1e-6, volts=25, mounting="radial", temperature=0.0, life=5000
    )
    (judged,) = judge_parts(need, [unsaid])
    (ranked,) = rank(need, Columns.of([unsaid])).candidates
    told = [reason for reason in judged.reasons if reason.rule == "temperature"]
    assert bool(told) is words and all(reason.status < FAILS for reason in told)
    assert ranked.part == unsaid and not any(
        margin.rule == "life" and margin.value and margin.value == margin.value for margin in judged.margins
    )
