"""Practice machines: each made by its seed, each cured by its own advice, and ways to hurt oneself that are caught."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.catalogue import house_columns
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.rank import rank
from idlebench.core.practice.machine_parts import NOTHING
from idlebench.core.practice.machines import KINDS, machine, truly
from idlebench.core.practice.play import Run, play
from idlebench.core.refusal import BadInput

PARTS = {part.part: part for part in house_columns().parts}
SEEDS = ("1", "گزند 7")


def best(made, ref):
    return rank(need_of(made.part(ref), Mains()), house_columns()).best.part.part


def by_advice(made, most=60):
    """A run that does what a careful person would, by what the run itself says next."""
    run = Run(machine=made, find=PARTS.get)
    while not run.done and (step := run.advice()):
        move = step.move
        if move.endswith(" best"):
            ref = move.split()[1]
            move = f"swap {ref} with {best(made, ref)}"
        run.move(move)
        assert len(run.moves) < most
    return run


@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize("kind", KINDS)
def test_each_machine_is_cured_by_its_own_advice(kind, seed):
    made = machine(kind, seed)
    assert Run(machine=made, find=PARTS.get).cured_at_last == (made.cause == {NOTHING}), "it is broken in any order"
    run = by_advice(made)
    assert run.done and run.cured_at_last and run.cause_found and not run.harm and run.passed
    assert run.measured == run.best > 0 and run.minutes > 10


@pytest.mark.parametrize("kind", KINDS)
def test_an_unsafe_way_through_each_is_caught(kind):
    """A probe on a full store; an iron under power; and where it would burst or kill a board, full mains at once."""
    made = machine(kind, "1")
    first = made.parts[0].ref
    run = Run(machine=made, find=PARTS.get)
    assert run.move(f"read {first} esr").kind == "harm" and run.measured == 0
    on, other = ("power full dummy", "VR1") if made.low else ("power lamp dummy", "F1")
    run = play(made, ["empty", on], PARTS.get)
    assert run.move(f"swap {other}").kind == "harm" and run.move(f"read {first} esr").kind == "harm"
    assert first not in run.fitted
    run = play(made, ["empty", *([] if made.low else ["swap F1"]), "power full board"], PARTS.get)
    hurts = {
        "kitchen": "wrong way round",
        "drawer": "marked",
        "brush": "boards on it would be destroyed",
        "storm": "F1 blew",
        "mast": "F1 blew",
        "second": "boards on it would be destroyed",
        "drawing": "bursts",
    }
    if kind in hurts:
        assert any(hurts[kind] in words for words in run.harm), run.harm
    run.move("power off")
    assert run.move(f"read {first} cap").kind == "harm", "power was on after it"


def test_what_burst_stays_burst_until_it_is_changed_and_costs_the_pass():
    made = machine("kitchen", "3")
    (ref,) = made.cause
    run = play(made, ["power lamp dummy", "power off", "empty"], PARTS.get)
    assert run.burst == {ref} and "has burst" in run.move(f"look {ref}").text
    assert not run.cured_at_last
    run.move(f"swap {ref} with {best(made, ref)}")
    for move in ("power lamp dummy", "power full board", "power off", f"say {ref}", "done"):
        run.move(move)
    assert run.cured_at_last and run.cause_found and not run.passed and len(run.harm) == 1


def test_a_part_that_does_not_fit_its_place_goes_the_way_it_would():
    made = machine("hum", "Anna")
    low = next(p for p in PARTS.values() if p.volts == 6.3 and p.kind == "wet" and p.value >= 2e-3)
    run = play(made, ["empty", f"swap C1 with {low.part}", "power lamp dummy"], PARTS.get)
    assert any(re.match("C1 bursts: ", words) for words in run.harm) and "C1" not in run.fitted


def test_a_wrong_cause_and_a_machine_left_broken_are_said():
    made = machine("door", "1")
    run = play(made, ["say C1", "done"], PARTS.get)
    assert not run.cause_found and not run.cured_at_last and not run.passed
    with pytest.raises(BadInput, match="finished"):
        run.move("empty")


def test_the_same_seed_is_the_same_machine_and_another_is_another():
    for kind in KINDS:
        assert machine(kind, "7") == machine(kind, " 7 ")
    assert len({machine("hum", str(n)).title + machine("hum", str(n)).truth for n in range(20)}) > 15
    assert truly(machine("drawer", "1")) != machine("drawer", "1").parts


@pytest.mark.parametrize("seed", ["", "   ", "x" * 61])
def test_a_seed_is_text_of_some_length(seed):
    with pytest.raises(BadInput, match="seed"):
        machine("hum", seed)
    with pytest.raises(BadInput, match="one of hum"):
        machine("no such", "1")


@pytest.mark.parametrize(
    "move",
    ["", "jump", "look", "look C99", "read", "read C1", "read +99V dc", "read C1 esr twice", "press C1", "picture", "power", "power full",
     "power off", "power lamp on", "swap", "swap C1", "swap C1 with", "swap C1 with nothing", "swap J4", "mend C1", "say", "say C99", "done",
     "done now", "empty all", "x" * 90, "read +5V dc", "swap VR1 with GP"],
)  # fmt: skip
def test_a_move_that_cannot_be_says_what_can_and_does_nothing(move):
    run = Run(machine=machine("hum", "1"), find=PARTS.get)
    with pytest.raises(BadInput) as refused:
        run.move(move)
    assert refused.value.expected and not run.moves and not run.said


MOVES = st.sampled_from(
    ["empty", "look C1", "look C2", "read C1 esr", "read C2 cap", "read F1 ohms", "power lamp none", "power lamp dummy", "power full dummy",
     "power full board", "power off", "say C1", "say nothing", "swap F1", "swap D1", "swap C1 with GP105-4700u-25", "done"]
)  # fmt: skip


@settings(max_examples=8)
@given(st.sampled_from(sorted(KINDS)), st.lists(MOVES, max_size=12))
def test_any_order_of_moves_keeps_its_promises(kind, moves):
    """Nothing goes through a full store or a live board; a run is the same when it was kept and taken up again after each move."""
    made = machine(kind, "1")
    run = Run(machine=made, find=PARTS.get)
    kept = {}
    for move in moves:
        again = Run.of(made, PARTS.get, kept)
        before = (run.power, run.charged, len(run.harm), run.measured, set(run.fitted))
        try:
            said = run.move(move)
        except BadInput:
            with pytest.raises(BadInput):
                again.move(move)
            assert (run.power, run.charged, len(run.harm), run.measured, set(run.fitted)) == before
            continue
        assert again.move(move) == said
        hands = move.startswith("swap") or move.split()[-1] in ("esr", "cap", "ohms")
        if hands and (before[0] or before[1]):
            assert said.kind == "harm" and len(run.harm) == before[2] + 1 and set(run.fitted) == before[4]
        if run.power:
            assert run.charged
        kept = run.as_json()
        assert Run.of(made, PARTS.get, kept).as_json() == kept


def test_there_are_machines_of_every_sort():
    made = [machine(kind, "1") for kind in KINDS]
    assert len(made) >= 25
    assert sum(one.tube for one in made) >= 3 and sum(one.low for one in made) >= 3
    assert sum(one.cause == {NOTHING} for one in made) >= 3, "sound ones"
    assert {"list", "drawing", "flux"} <= set(KINDS), "whose sheet is wrong"
    assert len({one.told for one in made}) == len(made)


def test_a_blown_fuse_stays_blown_and_hurts_nobody_again():
    run = play(machine("storm", "1"), ["empty", "swap F1", "power full dummy"], PARTS.get)
    assert run.blown and len(run.harm) == 1
    charged, lamped = run.charged, run.lamped
    run.move("power off")
    run.move("empty")
    for move in ("power lamp dummy", "power full board", "power full dummy"):
        said = run.move(move)
        assert said.text == "Nothing happens: the fuse is blown." and said.kind == "event"
    assert len(run.harm) == 1 and run.blown and not run.charged and charged and not (lamped or run.lamped)
    run.move("power off")
    run.move("swap D1")
    assert len(run.harm) == 1, "nothing came through the fuse"
    run.move("swap F1")
    assert not run.blown and "lamp" in run.move("power lamp dummy").text


def test_it_works_needs_each_rail_read_right_under_its_load_since_the_last_change():
    made = machine("minus", "1")
    (ref,) = made.cause
    run = play(made, ["empty", f"swap {ref} with {best(made, ref)}", "power lamp dummy", "power full dummy"], PARTS.get)
    for point in ("+5V", "+12V", "-12V"):
        run.move(f"read {point} dc")
    assert len(run.unproven) == 3, "on dummy loads it proves nothing"
    run.move("power full board")
    run.move("read +5V dc")
    run.move("read -12V dc")
    assert run.unproven == ("+12 V",)
    for move in ("power off", f"say {ref}", "done"):
        run.move(move)
    assert run.cured_at_last and run.cause_found and not run.harm and not run.passed
    again = play(made, run.moves[:-3], PARTS.get)
    again.move("read +12V dc")
    assert not again.unproven
    for move in ("power off", "empty", f"swap {ref} with {best(made, ref)}"):
        again.move(move)
    assert len(again.unproven) == 3, "changed since"


def test_hints_count_once_a_step_and_stand_in_the_score():
    run = Run(machine=machine("hum", "1"), find=PARTS.get)
    assert run.hint() == run.hint() and run.hints == 1
    run.move(run.hint().move)
    run.hint()
    assert run.hints == 2 and "2 hints" in run.counted
    kept = Run.of(run.machine, PARTS.get, run.as_json())
    kept.hint()
    assert kept.hints == 2
    guided = Run(machine=run.machine, find=PARTS.get, guided=True)
    guided.hint()
    assert guided.hints == 0 and Run.of(run.machine, PARTS.get, guided.as_json()).guided


def test_no_lamp_stands_before_an_adapter():
    run = Run(machine=machine("box", "1"), find=PARTS.get)
    with pytest.raises(BadInput, match="No lamp"):
        run.move("power lamp dummy")
    assert "its adapter in" in run.move("power full dummy").text and "through you" not in run.move("swap VR1").text
