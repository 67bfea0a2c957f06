"""Mains places: by class or role, the stricter of the two, what condemns them, what may stand there. rules.md §1 to §3 in cases."""

import pytest

from idlebench.core.board.parts import SAFETY_MARKS, Capacitor, Fitted, read_looks, read_safety
from idlebench.core.board.quickline import read_line
from idlebench.core.board.roles import disagreement, effective_role
from idlebench.core.board.tables import read_survey
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.rank import judge_parts
from idlebench.core.judge.policy import POLICIES
from idlebench.core.judge.verdict import by_hand, decide, judge, may_override
from idlebench.core.prove import BoardFacts, interlocks
from idlebench.core.refusal import BadInput

X = Capacitor(
    part="X",
    series="XK",
    kind="film",
    value=100e-9,
    volts=0.0,
    mounting="radial",
    diameter=18,
    height=11,
    pitch=15,
    ac_volts=275,
    safety="X2",
    temperature=110,
)


def verdicts(old, *parts, mains=230.0):
    return [c.verdict for c in judge_parts(need_of(old, Mains(mains)), parts)]


def why(old, part, mains=230.0):
    found = judge_parts(need_of(old, Mains(mains)), [part])[0]
    return " ".join(r.text for r in found.reasons if r.rule == "safety")


@pytest.mark.parametrize("role", ["decoupling", "unknown", "filter", "coupling", "bulk"])
@pytest.mark.parametrize("safety", SAFETY_MARKS)
def test_no_plain_part_goes_where_a_class_is_marked_whatever_the_role(role, safety):
    """A 630 V film part fits a decoupling place by its volts; across the mains it burns."""
    plain = Capacitor(
        part="P",
        series="FK",
        kind="film",
        value=100e-9,
        volts=630,
        mounting="radial",
        diameter=18,
        height=11,
        pitch=15,
        temperature=110,
    )
    old = Fitted(ref="C3", value=100e-9, volts=250, kind="film", safety=safety, role=role)
    assert verdicts(old, plain) == ["fails"]


@pytest.mark.parametrize(
    ("role", "safety", "holds", "asked"),
    [("decoupling", "X2", "mains_x", True), ("unknown", "X2", "mains_x", False), ("mains_x", "X2", "mains_x", False),
     ("mains_x", "Y2", "mains_y", True), ("mains_y", "X2", "mains_y", True), ("bulk", "X1/Y2", "mains_y", True),
     ("mains_x", "X1/Y2", "mains_x", False), ("mains_y", "X1/Y2", "mains_y", False), ("mains_y", "", "mains_y", False)],
)  # fmt: skip
def test_the_stricter_of_role_and_class_holds_and_the_two_are_asked_about(role, safety, holds, asked):
    assert effective_role(role, safety) == holds and bool(disagreement(role, safety)) == asked
    assert need_of(Fitted(ref="C3", value=4.7e-9, kind="film", role=role, safety=safety)).role.name == holds


def test_an_x_part_in_a_line_to_earth_place_is_refused_even_where_x_was_marked():
    """Someone put an X2 part from line to earth once: its class does not make that right."""
    old = Fitted(ref="C5", value=4.7e-9, kind="film", role="mains_y", safety="X2", diameter=13, height=11)
    x = Capacitor(
        part="X",
        series="XK",
        kind="film",
        value=4.7e-9,
        volts=0,
        mounting="radial",
        diameter=13,
        height=9,
        pitch=10,
        ac_volts=275,
        safety="X1",
        temperature=110,
    )
    y = Capacitor(
        part="Y",
        series="YK",
        kind="film",
        value=4.7e-9,
        volts=0,
        mounting="radial",
        diameter=13,
        height=9,
        pitch=10,
        ac_volts=300,
        safety="Y2",
        temperature=110,
    )
    assert verdicts(old, x, y) == ["fails", "fits"]


@pytest.mark.parametrize("text", ["X1/Y2", "x1y2", "Y2/X1", "X1 Y2"])
def test_two_classes_are_read_in_any_way_of_writing(text):
    assert read_safety(text) == "X1/Y2"


@pytest.mark.parametrize("text", ["X4", "Z2", "X1/X2", "Y2 or so", "X1/Y3", ""])
def test_what_is_no_class_is_refused(text):
    with pytest.raises(BadInput, match="X1/Y2"):
        read_safety(text)


def test_a_line_and_a_table_take_two_classes():
    assert read_line("C3 4n7 X1/Y2").changes["safety"] == "X1/Y2"
    assert read_survey("ref,value,safety\nC3,4n7,Y2/X1\n").parts[0].safety == "X1/Y2"
    assert read_line("C3 4n7 X1/Y2").changes["role"] == "mains_y", "the stricter until somebody says"


def test_a_part_of_both_classes_stands_for_either():
    both = Capacitor(
        part="B",
        series="BK",
        kind="ceramic",
        value=4.7e-9,
        volts=0,
        mounting="radial",
        diameter=9,
        height=5,
        pitch=10,
        ac_volts=300,
        safety="X1/Y2",
        temperature=110,
    )
    for role in ("mains_x", "mains_y"):
        assert verdicts(Fitted(ref="C1", value=4.7e-9, kind="ceramic", role=role, diameter=9, height=6), both) == [
            "fits"
        ]


def test_an_x_part_for_the_mains_itself_is_looked_at_twice_and_under_it_fails():
    """IEC 60384-14 rates for the nominal mains: 250 V~ on 230 V is 1.09 times, under 1.1; on 240 V 1.04; on 265 V under it."""
    old = Fitted(ref="C3", value=100e-9, kind="film", role="mains_x", safety="X2", diameter=18, height=11, pitch=15)
    part = Capacitor(
        part="X250",
        series="XK",
        kind="film",
        value=100e-9,
        volts=0,
        mounting="radial",
        diameter=18,
        height=11,
        pitch=15,
        ac_volts=250,
        safety="X2",
        temperature=110,
    )
    assert verdicts(old, part) == ["look twice"] and "1.09 times" in why(old, part)
    assert verdicts(old, part, mains=240) == ["look twice"] and verdicts(old, part, mains=127) == ["fits"]
    assert verdicts(old, part, mains=265) == ["fails"] and "under the mains" in why(old, part, 265)


PAPER = Fitted(
    ref="C3",
    value=100e-9,
    volts=250,
    kind="paper",
    role="mains_x",
    safety="X2",
    looks="sound",
    capacitance=101e-9,
    leakage=1e-8,
)


@pytest.mark.parametrize("policy", POLICIES)
@pytest.mark.parametrize("made", [1984, None])
def test_old_paper_on_the_mains_goes_under_every_policy_whatever_it_reads(policy, made):
    verdict = judge(PAPER, year=2026, made=made)
    assert verdict.name == "replace" and decide(PAPER, verdict, policy).replace
    by_class = PAPER.with_(role="unknown", safety="Y2")
    assert judge(by_class, year=2026, made=made).name == "replace"


@pytest.mark.parametrize("policy", POLICIES)
def test_young_paper_and_sound_film_stay(policy):
    """25 years are not over 25."""
    for part, made in ((PAPER, 2001), (PAPER.with_(kind="film"), 1984)):
        verdict = judge(part, year=2026, made=made)
        assert verdict.name == "sound" and not decide(part, verdict, policy).replace
    assert judge(PAPER, year=2027, made=2001).name == "replace"


@pytest.mark.parametrize("kind", ["film", "paper", "ceramic", "wet", "tantalum"])
@pytest.mark.parametrize("words", ["cracked", "split", "cracked case"])
def test_a_cracked_case_condemns_any_kind(kind, words):
    part = Fitted(ref="C3", value=100e-9, volts=250, kind=kind, looks=read_looks(words), capacitance=100e-9)
    verdict = judge(part, year=2026, made=2020)
    assert verdict.name == "replace" and all(decide(part, verdict, p).replace for p in POLICIES)


@pytest.mark.parametrize(
    ("words", "look"),
    [("cracked", "cracked"), ("split", "cracked"), ("stained", "stained"), ("swollen", "bulging"), ("brown", "stained"),
     ("corroded", "corroded"), ("missing sleeve", "bare"), ("rusty legs", "rusty"), ("Swollen", "bulging")],
)  # fmt: skip
def test_words_for_looks_are_read_in_a_line_a_table_and_after_looks(words, look):
    assert read_line(f"C1 100u 16V {words}").changes["looks"] == look
    assert read_line(f"C1 100u 16V {words}").rest == [], "nothing of it is left over for a note"
    assert read_survey(f"ref,value,looks\nC1,100u,{words}\n").parts[0].looks == look


def test_no_hand_calls_old_paper_or_a_crack_sound():
    with pytest.raises(BadInput, match="paper"):
        may_override(PAPER, "sound", "reads very well", 2026, 1984)
    with pytest.raises(BadInput, match="cracked"):
        may_override(PAPER.with_(kind="film", looks="cracked"), "doubtful", "only a hairline", 2026, 1984)
    # nor does a word given before the line was corrected to paper
    assert by_hand(judge(PAPER, year=2026, made=1984), "sound", "looked fine").name == "replace"
    assert by_hand(judge(PAPER, year=2026, made=2010), "doubtful", "smells odd").name == "doubtful"


@pytest.mark.parametrize("looks", ["cracked", "burst", "leaking", "bulging", "missing"])
def test_no_power_on_a_bad_mains_part_by_class_or_role(looks):
    for part in (
        Fitted(ref="C3", value=1e-7, kind="film", safety="X2", looks=looks),
        Fitted(ref="C3", value=1e-7, kind="film", role="mains_y", safety="Y2", looks=looks),
    ):
        assert [r.rule for r in interlocks.mains_parts([BoardFacts(name="PS-1", supply="linear", parts=(part,))])] == [
            "mains part"
        ]


def test_only_a_mains_filter_part_is_left_out_and_then_nothing_leaves():
    assert interlocks.leave_out(Fitted(ref="C1", value=1e-4, role="decoupling"))
    assert not interlocks.leave_out(PAPER) and not interlocks.leave_out(
        Fitted(ref="C1", value=1e-9, kind="ceramic", safety="Y2")
    )
    board = BoardFacts(name="PS-1", supply="linear", parts=(Fitted(ref="C1", value=1e-4),), left_out=("C3",))
    assert "C3 on PS-1" in interlocks.left_out([board])[0].text and not interlocks.mains_parts([board])
