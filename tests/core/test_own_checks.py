"""Checks that a person adds to a board, and the damages that ask one of themselves."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.devices import read_device
from idlebench.core.board.mends import check_mend, is_mend, read_mend
from idlebench.core.board.own_checks import check_ends, read_own_check
from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, Mended, cold_checks, windings_of
from idlebench.core.prove.checks import Check, most_volts
from idlebench.core.prove.power_steps import source_step
from idlebench.core.prove.typed_readings import read_reading
from idlebench.core.refusal import BadInput
from idlebench.core.text.nets import Node


@pytest.mark.parametrize(
    ("line", "point", "low", "high"),
    [
        ("C7 + to U5 8 continuity", "C7 + to U5 8", None, 2.0), ("check c7 + to u5 8 beeps", "C7 + to U5 8", None, 2.0), ("J2 3 to J2 4 isolation", "J2 3 to J2 4", 10e6, None),
        ("+5V to GND over 100", "+5V to GND", 100.0, None), ("SK1 4 to U2 4 under 0.5 ohm", "SK1 4 to U2 4", None, 0.5), ("R5 1 to R5 2 4k7 5%", "R5 1 to R5 2", 4465.0, 4935.0),
        ("R5 1 to R5 2 4.7k", "R5 1 to R5 2", 4230.0, 5170.0), ("R5 1 to R5 2 4k to 5k", "R5 1 to R5 2", 4000.0, 5000.0), ("the burn at 20,30 to the edge no connection", "the burn at 20,30 to the edge", 10e6, None),
        ("look SK1 legs bright, nothing green", "SK1 legs bright, nothing green", None, None),
    ],
)  # fmt: skip
def test_a_check_from_one_line(line, point, low, high):
    check = read_own_check(line)
    assert check.point == point and (check.low, check.high) == (
        pytest.approx(low) if low else low,
        pytest.approx(high) if high else high,
    )
    assert read_own_check(check.as_line()) == check and check.limit


@pytest.mark.parametrize(
    ("line", "says"),
    [("", "from, to"), ("C7 + to U5 8", "from, to"), ("C7 to C7 continuity", "two different ends"), ("C7 1 to C7 2 5k to 4k", "smaller limit first"), ("look", "from, to"), ("look x", "looked at"), ("A to B under 0", "more than 0"), (f"{'x' * 50} to B continuity", "from, to")],
)  # fmt: skip
def test_what_is_no_check_says_how_one_is_typed(line, says):
    with pytest.raises(BadInput, match=says):
        read_own_check(line)


@given(st.text(max_size=80))
def test_any_text_is_a_check_that_reads_back_or_is_refused(text):
    try:
        check = read_own_check(text)
    except BadInput:
        return
    assert read_own_check(check.as_line()) == check


def test_a_part_that_is_not_listed_is_asked_about():
    check = read_own_check("C9 + to U5 8 continuity")
    with pytest.raises(BadInput, match="C9"):
        check_ends(check, {"C7", "U5"}, "MB-80")
    check_ends(check, (), "MB-80")


def test_a_board_without_rails_or_supply_is_asked_what_its_person_added():
    own = tuple(
        read_own_check(one) for one in ("C7 + to U5 8 continuity", "J2 3 to J2 4 isolation", "look SK1 legs bright")
    )
    checks = [c for c in cold_checks([BoardFacts(name="KB-1", row="b1", own=own)]) if c.key.startswith("cold.own")]
    assert [c.kind for c in checks] == ["continuity", "resistance", "look"] and not any(c.safety for c in checks)
    assert (
        checks[0].passes(0.4)
        and not checks[0].passes(30.0)
        and checks[1].passes(float("inf"))
        and not checks[1].passes(2e6)
    )
    assert len({c.key for c in checks}) == 3
    # a plus and a minus make two checks
    ends = tuple(read_own_check(f"C7 {sign} to U5 8 continuity") for sign in "+-")
    assert len({c.key for c in cold_checks([BoardFacts(name="KB-1", row="b1", own=ends)]) if "own" in c.key}) == 2


@pytest.mark.parametrize(
    ("line", "title", "low", "high"),
    [
        ("lifted pad C7 + to D2 1 wire 0.25", "lifted pad from C7 + to D2 1: wire 0.25 mm, bare", None, 2.0), ("broken track U3 4 to U7 12", "broken trace from U3 4 to U7 12", None, 2.0),
        ("stub U3 4 to U7 12", "pin cut to a stub, joined from U3 4 to U7 12", None, 2.0), ("conductive paint U3 4 to U7 12 under 5 ohm", "conductive paint from U3 4 to U7 12", None, 5.0),
        ("paint U3 4 to U7 12", "conductive paint from U3 4 to U7 12", None, 20.0), ("scraped short U3 4 to U3 5", "short scraped away from U3 4 to U3 5", 10e6, None),
        ("solder bridge between U3 4 and U3 5", "short scraped away from U3 4 to U3 5", 10e6, None), ("lost leg J2 3 to U5 8 wire 0.3", "lost leg from J2 3 to U5 8: wire 0.3 mm, bare", None, 2.0),
    ],
)  # fmt: skip
def test_whatever_damage_is_typed_becomes_its_check(line, title, low, high):
    assert is_mend(line)
    mend = read_mend(line)
    assert mend.title == title and read_mend(mend.as_line()) == mend
    facts = BoardFacts(
        name="MB-80",
        row="b1",
        mended=(Mended(row="m1", a=mend.a.words, b=mend.b.words, title=mend.title, most=mend.most, least=mend.least),),
    )
    check = next(c for c in cold_checks([facts]) if c.key == "cold.mend.m1")
    assert (check.low, check.high) == (low, high)


@pytest.mark.parametrize(
    "line", ["bridge rectifier resoldered", "short cable replaced", "pin straightened", "new grommet"]
)
def test_a_repair_in_plain_words_stays_one(line):
    assert not is_mend(line)


def test_a_short_is_scraped_between_two_nets_and_joined_ends_are_of_one():
    nets = (Node("GND", "U3", "4"), Node("+5V", "U3", "5"), Node("+5V", "U3", "6"))
    parts = (Fitted(ref="C1", value=1e-6),)
    assert check_mend(read_mend("scrape U3 4 to U3 5"), parts, nets=nets) == ""
    with pytest.raises(BadInput, match="no short was there"):
        check_mend(read_mend("scrape U3 5 to U3 6"), parts, nets=nets)
    with pytest.raises(BadInput, match="must not be joined"):
        check_mend(read_mend("trace U3 4 to U3 5"), parts, nets=nets)
    with pytest.raises(BadInput, match="no wire"):
        read_mend("scrape U3 4 to U3 5 wire 0.3")


@pytest.mark.parametrize(("measured", "volts"), [(None, 8.63), (228.0, 8.55)])
def test_a_transformer_is_one_part_with_its_secondaries_and_the_tap_scales_them(measured, volts):
    part = read_device("T1 transformer 30VA tap 240V secondary 9V 1.5A secondary 12-0-12V 0.5A at 40,30")
    assert read_device(part.as_line()) == part and part.volts is None and (part.x, part.y) == (40.0, 30.0)
    windings = windings_of(None, None, [part], ())
    assert [(w.name, w.volts, w.at) for w in windings] == [
        ("T1 secondary 1", 9.0, 240.0),
        ("T1 secondary 2", 12.0, 240.0),
        ("T1 secondary 3", 12.0, 240.0),
    ]
    board = BoardFacts(name="PS-1", supply="linear", row="b1", windings=windings)
    step = source_step(board, 230.0, measured, ())
    first = step.checks[0]
    full = windings[0].expected[0]
    assert (first.low + first.high) / 2 == pytest.approx(full * volts / 9.0, rel=0.002)
    assert "the label is for 240 V" in first.ask and len({c.key for c in step.checks}) == 3
    tap = next(c for c in cold_checks([board]) if c.key == "cold.tap.b1")
    assert "4 % less" in tap.ask


def test_a_tap_under_the_mains_is_said_and_what_a_store_may_hold_goes_with_it():
    low, right = (
        BoardFacts(
            name="PS-1",
            supply="linear",
            row="b1",
            windings=windings_of(None, None, [read_device(f"T1 transformer tap {tap}V secondary 9V 1.5A")], ()),
        )
        for tap in (220, 240)
    )
    assert "5 % more. Take the next tap above" in next(c for c in cold_checks([low]) if c.key == "cold.tap.b1").ask
    store = Fitted(ref="C1", value=4.7e-3)
    assert most_volts(low, store) > 1.08 * most_volts(right, store)
    # a line of before reads as before
    assert windings_of(None, None, [read_device("T1 winding 9V 1.5A")], ())[0].at == 0.0


def test_a_tone_tells_continuity_and_nothing_that_guards_a_person():
    joined = Check(key="k", step="cold", kind="continuity", point="U5 pin 16 to +5 V", ask="", high=2.0)
    assert (
        joined.passes(read_reading(joined, "beeps"))
        and joined.passes(read_reading(joined, "It beeps"))
        and not joined.passes(read_reading(joined, "silent"))
    )
    earth = replace(joined, safety=True)
    with pytest.raises(BadInput, match="the ohms in figures"):
        read_reading(earth, "beeps")
    for kind in ("resistance", "dc_volts", "ripple"):
        with pytest.raises(BadInput, match="A tone tells continuity only"):
            read_reading(replace(joined, kind=kind), "beeps")
