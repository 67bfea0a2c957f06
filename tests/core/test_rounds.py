"""Rounds: what is asked after work near a check, what is left out, what a late answer counts, how long it takes."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, Event, Proof, Record
from idlebench.core.prove import record as r
from idlebench.core.prove.facts import DISCHARGED, MAINS_SIDE
from idlebench.core.prove.near_work import Near, subject_of
from idlebench.core.prove.rounds import (
    DEPTHS,
    FULL,
    PERSON,
    SHORT,
    TIME,
    TOUCHED,
    Answered,
    Pace,
    asked_again,
    guards,
    in_words,
    pace_of,
    rounds_of,
)
from idlebench.core.text.rails_and_chips import read_chip, read_rail

#: Four chips in a row, 40 mm apart, and a fifth on another rail; a capacitor beside each.
CHIPS = [f"U{n} logic 20x8 at {40 * n},20 gnd 7 +5V 14" for n in range(1, 5)] + [
    "U9 driver 20x8 at 160,90 gnd 7 +12V 14"
]
PARTS = [Fitted(ref=f"C{n}", value=1e-5, volts=16.0, rail="+5 V", diameter=5, x=40.0 * n, y=34.0) for n in range(1, 5)]
PARTS.append(Fitted(ref="C9", value=1e-5, volts=25.0, rail="+12 V", diameter=5, x=160.0, y=104.0))
#: One whose place nobody typed.
SOMEWHERE = Fitted(ref="C10", value=1e-5, volts=25.0, rail="+12 V", diameter=5)


def board(*swapped: str, parts=PARTS, adapter="AD1 adapter 15V DC 1A regulated centre - 5.5x2.1", **more) -> BoardFacts:
    return BoardFacts(
        name="MB-1", row="b1", supply="linear", rails=(read_rail("+5V 0.8A"), read_rail("+12V 0.2A")), parts=tuple(parts),
        chips=tuple(map(read_chip, CHIPS)), devices=(read_device(adapter),), swapped=frozenset(swapped),
        rows={part.ref: f"p{part.ref[1:]}" for part in parts}, fitted={ref: f"LZ #{ref}" for ref in swapped}, **more,
    )  # fmt: skip


def good(check) -> float:
    if check.seen:
        return 1.0
    return (check.high or 0.0) / 2 if check.high is not None else check.low * 3


def proven(one: BoardFacts, **more) -> Proof:
    """A unit of which every cold check was read once."""
    unit = Proof(boards=(one,), way="low", **more)
    events = [
        Event(kind=r.READ, at=float(n), key=c.key, value=good(c), was=c.evidence)
        for n, c in enumerate(unit.steps[0].checks)
    ]
    return replace(unit, record=Record(tuple(events)), now=1000.0)


def after(unit: Proof, *swapped: str, kind=r.SWAP) -> Proof:
    """The same after some capacitors were swapped."""
    events = [Event(kind=kind, at=500.0 + n, row=f"p{ref[1:]}", board="b1") for n, ref in enumerate(swapped)]
    one = board(*swapped, parts=unit.boards[0].parts)
    return replace(unit, boards=(one,), record=unit.record.with_(*events))


def asked(unit: Proof) -> set[str]:
    return {check.key.removeprefix("cold.") for check in unit.open_checks(unit.steps[0])}


def test_three_parts_swapped_on_a_proven_board_ask_at_most_fourteen():
    unit = proven(board())
    assert unit.depth == SHORT and asked(unit) == set()
    for swapped in (("C1", "C2", "C3"), ("C1", "C3", "C4"), ("C1", "C2", "C9")):
        some = after(unit, *swapped)
        assert len(asked(some)) <= 14 < len(asked(replace(some, asked=FULL)))
        # every new part's polarity, and the inside of the case, are always asked
        assert {f"polarity.p{ref[1:]}" for ref in swapped} <= asked(some)
        assert "look.loose" in asked(some)


def test_the_rail_of_the_part_the_nearest_chip_and_the_far_end():
    some = after(proven(board()), "C1")
    assert asked(some) == {
        "polarity.p1", "look.loose", "rail.b1.+5-v", "pin.b1.u1.7", "pin.b1.u1.14", "pin.b1.u4.14",
    }  # fmt: skip
    told = dict(some.left_out_of(some.steps))
    assert any("U2 pin 7 to ground" in point for points in told.values() for point in points)
    assert all("no work was near it" in why or "both ways" in why for why in told)
    # a touched round reads both ways
    assert asked(replace(some, asked=TOUCHED)) - asked(some) == {"back.b1.+5-v"}


@pytest.mark.parametrize(
    ("what", "near"),
    [
        ({"row": "p99"}, True),  # a place that nobody knows
        ({"row": "p10"}, True),  # a part without a place
        ({"board": "b7"}, True),  # a board that is out of the machine
        ({"kind": r.MEND, "row": "b1"}, True),  # a repair may be anywhere
        ({"row": "p9"}, False),
    ],
)
def test_what_has_no_known_place_is_near_everything(what, near):
    unit = proven(board(parts=[*PARTS, SOMEWHERE]))
    event = Event(**{"kind": r.SWAP, "at": 500.0, "board": "b1", **what})
    check = unit.check("cold.pin.b1.u2.7")
    assert Near(unit.boards).any(check, [event]) is near
    assert (check.key in replace(unit, record=unit.record.with_(event)).left_out) is not near


@pytest.mark.parametrize(
    "more",
    [
        Event(kind=r.BOARD, at=600.0, row="b1", board="b1", what="rails"),
        Event(kind=r.MOVED, at=600.0, row="b3", board="b3"),
        Event(kind=r.REOPENED, at=600.0),
    ],
)
def test_whatever_else_voids_a_reading_asks_everything_again(more):
    some = after(proven(board()), "C1")
    later = replace(some, record=some.record.with_(more))
    assert "rail.b1.+12-v" not in asked(some) and "rail.b1.+12-v" in asked(later)


def test_a_part_without_a_place_is_everybodys_neighbour():
    unit = after(proven(board(parts=[*PARTS, SOMEWHERE])), "C1")
    assert "rail.b1.+12-v" in asked(unit) and "rail.b1.+12-v" not in asked(after(proven(board()), "C1"))


def test_a_place_that_is_described_anew_after_the_work_is_near_everything():
    """Its rail was corrected after the swap: what the work was near is not known by the new words."""
    some = after(proven(board()), "C1")
    edit = Event(kind=r.PART, at=700.0, row="p1", board="b1")
    assert "rail.b1.+12-v" in asked(replace(some, record=some.record.with_(edit))) and "rail.b1.+12-v" not in asked(
        some
    )


def test_a_bad_reading_and_an_accepted_one_are_never_left_out():
    unit = after(proven(board()), "C1")
    key = "cold.pin.b1.u2.7"
    check = unit.check(key)
    for event in (
        Event(kind=r.READ, at=700.0, key=key, value=90.0, was=check.evidence),
        Event(kind=r.READ, at=400.0, key=key, value=90.0, was=check.evidence, overridden=True),
    ):
        events = sorted((*unit.record.events, event), key=lambda one: one.at)
        assert key.removeprefix("cold.") in asked(replace(unit, record=Record(tuple(events))))


def test_what_was_never_read_is_asked_in_a_touched_round_and_pins_alone_are_not_in_a_short_one():
    new = Proof(boards=(board(),), way="low")
    touched = replace(new, asked=TOUCHED)
    assert touched.left_out == {} and new.depth == SHORT
    assert set(new.left_out) and all(key.startswith(("cold.pin.", "cold.back.")) for key in new.left_out)


@pytest.mark.parametrize(
    ("told", "one", "depth"),
    [
        ("", board(), SHORT),
        (SHORT, board(), SHORT),
        (FULL, board(), FULL),
        ("", board(adapter="F1 fuse T 1A 250V"), TOUCHED),
        (SHORT, board(adapter="F1 fuse T 1A 250V"), FULL),
        (SHORT, board(adapter="AD1 adapter 90V DC 1A regulated"), FULL),
        (SHORT, board(parts=[*PARTS, Fitted(ref="C20", value=1e-7, volts=275, role="mains_x", safety="X2")]), FULL),
    ],
)
def test_short_is_for_under_60_volts_alone(told, one, depth):
    assert Proof(boards=(one,), way="low", asked=told).depth == depth


@pytest.mark.parametrize("kind", [r.RESTORED, r.IMPORTED])
def test_an_unknown_history_asks_everything(kind):
    unit = after(proven(board()), "C1")
    later = replace(unit, record=Record((Event(kind=kind, at=-1.0), *unit.record.events)))
    assert later.depth == FULL and later.left_out == {}


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.sampled_from([part.ref for part in PARTS]), max_size=5, unique=True),
    st.sampled_from(sorted(DEPTHS)),
    st.sampled_from(["AD1 adapter 15V DC 1A regulated", "F1 fuse T 1A 250V"]),
)
def test_what_guards_a_person_is_never_left_out(swapped, depth, source):
    unit = proven(board(adapter=source), asked=depth)
    later = after(unit, *swapped)
    later = replace(later, boards=(board(*swapped, adapter=source),))
    for step in later.steps:
        for check in step.checks:
            if check.key in later.left_out:
                assert guards(check) != PERSON and subject_of(check) is not None
            if check.fact in (DISCHARGED, MAINS_SIDE) or check.key.startswith("cold.polarity"):
                assert check.key not in later.left_out
    # a round asks less than everything, never something else
    full = replace(later, asked=FULL)
    assert asked(later) <= asked(full)


def test_a_rail_above_60_volts_guards_a_person():
    one = BoardFacts(name="VM", row="b1", supply="linear", rails=(read_rail("+115V 0.4A"), read_rail("+12V 1A")))
    kinds = {c.rail: guards(c) for c in Proof(boards=(one,)).steps[0].checks if c.key.startswith("cold.rail.")}
    assert kinds == {"+115 V": PERSON, "+12 V": "machine"}


def test_rounds_hold_every_check_once_in_the_order_of_safety():
    unit = Proof(boards=(board("C1", "C2", adapter="F1 fuse T 1A 250V"),))
    for step in unit.steps:
        found = rounds_of(step, step.checks)
        assert sorted(c.key for one in found for c in one.checks) == sorted(c.key for c in step.checks)
    keys = [one.key for one in rounds_of(unit.steps[0], unit.steps[0].checks)]
    assert keys.index("mains") < keys.index("polarity") < keys.index("rails") < keys.index("tone") < keys.index("close")


def test_a_late_answer():
    unit = proven(board("C1"))
    store = replace(unit.check("cold.polarity.p1"), fact=DISCHARGED)
    live = replace(store, live=True, fact="")
    assert asked_again(store, Answered(age=59)) == "" and "61 s old" in asked_again(store, Answered(age=61))
    assert asked_again(live, Answered(age=4)) == "" and "under power" in asked_again(live, Answered(age=6))
    check = unit.check("cold.polarity.p1")
    assert asked_again(check, Answered(age=600)) == ""
    assert "more than a day" in asked_again(check, Answered(age=90_000))
    assert "changed" in asked_again(check, Answered(age=1, same=False))
    swap = Event(kind=r.SWAP, at=1.0, row="p1", board="b1")
    assert "another part" in asked_again(check, Answered(age=1, since=((swap, swap.tells),)))
    other = Event(kind=r.SWAP, at=1.0, row="p2", board="b1")
    assert asked_again(check, Answered(age=1, since=((other, other.tells),))) == ""


def test_how_long_it_takes_is_told_before():
    unit = Proof(boards=(board("C1"),), way="low")
    look, pin = unit.check("cold.polarity.p1"), unit.check("cold.pin.b1.u2.7")
    rail = unit.check("cold.rail.b1.+5-v")
    assert [Pace().seconds(c) for c in (look, pin, rail)] == [2, 4, 7] and guards(pin) == TIME
    own = pace_of({"look": [1.0] * 20, "tone": [3.0] * 20, "number": [9.0] * 20 + [400.0] * 50})
    assert (own.look, own.probe, own.number, own.told) == (1.0, 3.0, 6.0, True)
    assert [in_words(m) for m in (0.2, 1.0, 8.7)] == ["under 1 min", "about 1 min", "about 9 min"]


def test_connectors_of_a_board_that_was_worked_on_were_pulled():
    """Far from the work as it is, its pins are asked."""
    one = proven(replace(board(), chips=(*board().chips, read_chip("J1 plug 20x8 at 300,20 gnd 1 +12V 2"))))
    event = Event(kind=r.SWAP, at=500.0, row="p1", board="b1")
    check, far = one.check("cold.pin.b1.j1.2"), one.check("cold.pin.b1.u9.14")
    assert Near(one.boards).any(check, [event]) and not Near(one.boards).any(far, [event])


def test_what_is_on_one_signal_net_with_the_part_is_near():
    unit = proven(board(joined={"C1": frozenset({"U3"})}))
    some = after(unit, "C1")
    assert "pin.b1.u3.7" not in asked(some)
    joined = replace(some, boards=(board("C1", joined={"C1": frozenset({"U3"})}),))
    assert {"pin.b1.u3.7", "pin.b1.u3.14"} <= asked(joined)


def test_the_round_at_the_plug_says_that_the_case_is_open():
    step = Proof(boards=(board(adapter="F1 fuse T 1A 250V"),)).steps[0]
    assert [one.title for one in rounds_of(step, step.checks, "case open") if one.key == "mains"] == [
        "Plug, fuse, earth, case open"
    ]
