"""Procedures as files and as typed: what ships, what is refused, what is left of one as tasks."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.catalogue import FOLDER, house_procedures
from idlebench.core.judge.triage import Times
from idlebench.core.plan.schedule import Work
from idlebench.core.plan.scheduling import schedule
from idlebench.core.plan.tasks import Left, tasks_left
from idlebench.core.prove import Proof, interlocks
from idlebench.core.prove.procedure_form import edited, minutes_of, time_words
from idlebench.core.prove.procedure_sides import again, in_sides, read_sides
from idlebench.core.prove.procedure_tasks import tasks_of
from idlebench.core.prove.procedures import (
    MOST_STEPS,
    Limit,
    check_of,
    order,
    procedure_from,
    read_limit,
    read_procedure,
    slug,
    with_limit,
)
from idlebench.core.refusal import BadInput

HEAD = {"format": "idlebench-procedure", "version": 1, "name": "one", "title": "One of a few"}


def made(*steps, **more):
    return procedure_from({**HEAD, "steps": list(steps), **more})


WASH = house_procedures()["board-wash-alcohol"]


def test_what_ships_reads_back_the_same():
    assert len(house_procedures()) >= 16
    for name, procedure in house_procedures().items():
        path = FOLDER / "procedures" / f"{name}.json"
        assert procedure.as_text() == path.read_text(encoding="utf-8"), "the file is as the app writes it"
        assert read_procedure(procedure.as_text()) == procedure and procedure.minutes > 0


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("board-wash-alcohol", "transformers"), ("board-wash-ultrasonic", "crystals"), ("board-wash-ultrasonic", "Never alcohol"),
        ("battery-spill", "Never acid and bicarbonate together"), ("brightening", "Gloves and goggles"), ("fresh-compound", "beryllia"),
        ("drive-service", "Never on the belt"), ("plug-and-lead", "Local codes"), ("board-wash-alcohol", "no heated bath"),
    ],
)  # fmt: skip
def test_what_bites_is_said_where_it_bites(name, words):
    assert any(words in step.caution for step in house_procedures()[name].steps)


def test_every_wash_dries_a_day_or_more():
    for name, procedure in house_procedures().items():
        if name.startswith("board-wash") or name == "battery-spill":
            assert max(step.wait for step in procedure.steps if step.dries) >= 1440, name


def test_a_keyboard_is_held_against_a_hundred_ohms_or_its_own():
    keyboard = house_procedures()["keyboard-contacts"]
    number = next(n for n, step in enumerate(keyboard.steps, 1) if step.check)
    check = check_of(keyboard, number, "q1")
    assert check.high == 100 and check.passes(80) and not check.passes(120) and check.key == f"proc.q1.{number}"
    own = with_limit(keyboard, number, read_limit("resistance at most 400 Ω"))
    assert check_of(own, number, "q1").passes(350) and check_of(own, 1, "q1") is None


@pytest.mark.parametrize(
    ("typed", "limit"),
    [
        ("", None),
        ("look", Limit("look")),
        ("works", Limit("function")),
        ("resistance at most 100 Ω", Limit("resistance", None, 100.0)),
        ("Resistance at least 1M", Limit("resistance", 1e6)),
        ("volts 4.75 to 5.25 V", Limit("dc_volts", 4.75, 5.25)),
        ("ac volts at most 9", Limit("ac_volts", None, 9.0)),
        ("temperature at most 70", Limit("temperature", None, 70.0)),
    ],
)
def test_limits_as_typed(typed, limit):
    assert read_limit(typed) == limit
    if limit:
        assert read_limit(limit.words) == limit


@pytest.mark.parametrize(
    "typed", ["smell", "resistance", "look at most 3", "volts 5 to 4", "volts about 5", "resistance at most lots"]
)
def test_an_unknown_check_is_refused(typed):
    with pytest.raises(BadInput):
        read_limit(typed)


@pytest.mark.parametrize(
    "data",
    [
        None, [], {}, {"format": "x"}, {**HEAD, "version": 2, "steps": [{"text": "abc"}]}, {**HEAD, "steps": []}, {**HEAD, "steps": 3},
        {**HEAD, "steps": [{"text": "abc"}] * (MOST_STEPS + 1)}, {**HEAD, "steps": [{"text": "abc"}] * 10_000},
        {**HEAD, "steps": [{"text": "ab"}]}, {**HEAD, "steps": ["abc"]}, {**HEAD, "steps": [{"text": 5}]},
        {**HEAD, "steps": [{"text": "abc", "minutes": -1}]}, {**HEAD, "steps": [{"text": "abc", "minutes": 1.5}]},
        {**HEAD, "steps": [{"text": "abc", "minutes": True}]}, {**HEAD, "steps": [{"text": "abc", "wait": 1e9}]},
        {**HEAD, "steps": [{"text": "abc", "after": [1]}]}, {**HEAD, "steps": [{"text": "abc", "after": [7]}]},
        {**HEAD, "steps": [{"text": "abc", "after": "2"}]}, {**HEAD, "steps": [{"text": "abc", "after": [True]}]},
        {**HEAD, "steps": [{"text": "abc", "after": [2]}, {"text": "abc", "after": [1]}]},
        {**HEAD, "steps": [{"text": "abc", "check": {"kind": "smell"}}]}, {**HEAD, "steps": [{"text": "abc", "check": "look"}]},
        {**HEAD, "steps": [{"text": "abc", "check": {"kind": "resistance"}}]},
        {**HEAD, "steps": [{"text": "abc", "check": {"kind": "resistance", "low": float("nan")}}]},
        {**HEAD, "steps": [{"text": "abc", "check": {"kind": "resistance", "low": 5, "high": 4}}]},
        {**HEAD, "name": "../etc", "steps": [{"text": "abc"}]}, {**HEAD, "title": "", "steps": [{"text": "abc"}]},
        {**HEAD, "of": "cat", "steps": [{"text": "abc"}]}, {**HEAD, "revision": 0, "steps": [{"text": "abc"}]},
    ],
)  # fmt: skip
def test_a_file_that_is_no_procedure_is_one_clear_line(data):
    with pytest.raises(BadInput) as refused:
        procedure_from(data)
    assert len(str(refused.value)) < 400 and "\n" not in str(refused.value)


def test_a_loop_names_its_steps():
    with pytest.raises(BadInput, match=r"step 1 → step 2 → step 1|step 2 → step 1 → step 2"):
        made({"text": "abc", "after": [2]}, {"text": "abc", "after": [1]})


@given(st.text(max_size=300) | st.binary(max_size=300))
def test_any_file_is_read_or_refused(data):
    with pytest.raises(BadInput):
        read_procedure(data)


def test_files_deeper_than_any_procedure():
    with pytest.raises(BadInput):
        read_procedure("[" * 100_000)
    with pytest.raises(BadInput):
        read_procedure(json.dumps({**HEAD, "steps": [{"text": "x" * 300_000}]}))


@given(st.lists(st.sets(st.integers(1, 8), max_size=3), min_size=1, max_size=8))
def test_an_order_is_found_or_the_loop_is_named(after):
    steps = [{"text": "abc", "after": sorted(n for n in one if n <= len(after))} for one in after]
    try:
        procedure = made(*steps)
    except BadInput:
        return
    found = order(procedure.steps)
    assert sorted(found) == list(range(1, len(steps) + 1))
    for at, number in enumerate(found):
        assert set(procedure.steps[number - 1].after) <= set(found[:at])


def test_minutes_and_the_longest_way():
    """Two branches: 10 + 60 wait, and 30; then 5 after both: 75 with waits, 45 by hand."""
    found = made(
        {"text": "abc", "minutes": 10, "wait": 60, "after": []},
        {"text": "abc", "minutes": 30, "after": []},
        {"text": "abc", "minutes": 5, "after": [1, 2]},
    )
    assert (found.minutes, found.longest) == (45, 75)
    assert (minutes_of("3 d"), minutes_of("1.5 h"), time_words(90), time_words(0)) == (4320, 90, "90 min", "0 min")
    for bad in ("soon", "-5", "1.3", "5 y", "1e9"):
        with pytest.raises(BadInput):
            minutes_of(bad)


def test_the_form_keeps_the_shape():
    rows = [
        {"text": " Brush  it ", "minutes": "20", "wait": "", "caution": "no flame", "check": ""},
        {"text": ""},
        {"text": "Dry", "wait": "24 h", "dries": "on", "after": "1"},
        {"text": "Look", "check": "look", "after": "none"},
    ]
    found = edited(WASH, "Our wash", "for us", rows)
    assert [s.text for s in found.steps] == ["Brush it", "Dry", "Look"] and found.revision == WASH.revision + 1
    assert (
        found.steps[1].dries and found.steps[1].wait == 1440 and found.steps[2].after == () and found.name == WASH.name
    )
    for bad in (
        {"text": "abc", "check": "smell"},
        {"text": "abc", "after": "x"},
        {"text": "abc", "minutes": "soon"},
        {"text": "abc", "after": "9"},
    ):
        with pytest.raises(BadInput):
            edited(WASH, "Our wash", "", [bad])
    assert slug("Ünser Wash!!") == "nser-wash"


def test_what_is_left_is_planned_before_the_cold_checks():
    """A wash of 35 min that dries a day: what is settled is gone, what dries is waited for, and the checks come after it."""
    tasks = tuple(task for task, _ in tasks_of(WASH, "B", "q1", {1, 2, 3}, {}))
    assert [t.name for t in tasks] == ["B q1.4", "B q1.5"] and tasks[0].wait == 1440 and tasks[1].after == ("B q1.4",)
    dries = tuple(task for task, _ in tasks_of(WASH, "B", "q1", {1, 2, 3, 4}, {4: 700}))
    assert [(t.name, t.not_before) for t in dries] == [("B q1.5", 700)]
    plan = schedule(Work(tasks_left(Left(key="B", here=("radial",), checks=4, procedures=dries), Times())), 2.0)
    starts = {p.task.name: p.start for p in plan.tasks}
    assert starts["B q1.5"] >= 700 and starts["B cold"] >= starts["B q1.5"] + 10


# The gates


def test_a_wet_board_takes_no_power():
    proof = Proof(wet=("Board wash dries until 21:40",))
    assert any(reason.rule == "wet" for reason in interlocks.power(proof, "limited"))
    assert not any(reason.rule == "wet" for reason in interlocks.power(Proof(), "limited"))


def test_a_step_waits_for_its_turn():
    rules = lambda **more: {  # noqa: E731
        r.rule
        for r in interlocks.procedure_step(
            **{
                "proof": Proof(),
                "opens": False,
                "number": 2,
                "unmet": (),
                "waits": "",
                "settled": False,
                **more,
            }
        )
    }
    assert rules() == set()
    assert rules(unmet=(1,)) == {"after"} and rules(waits="21:40") == {"wait"} and rules(settled=True) == {"done"}
    assert rules(proof=Proof(live="full"), opens=True) == {"live"} and rules(proof=Proof(live="full")) == set()
    assert rules(proof=Proof(handed_over=True)) == {"closed"}


def test_steps_for_each_side_are_there_once_for_each_that_is_typed():
    plain = house_procedures()["brightening"]
    assert in_sides(plain, ()) == plain and read_sides("") == ()
    three = in_sides(plain, read_sides("lid, front, left"))
    texts = [step.text for step in three.steps]
    assert len(texts) == len(plain.steps) + 2 * 2
    assert texts[2].startswith("Lid: cream") and texts[4].startswith("Front: cream") and three.steps[5].side == "front"
    # each side waits for the one before it, and the rest for the last; each has a wait of its own
    assert [step.after for step in three.steps] == [(), (1,), (2,), (3,), (4,), (5,), (6,), (7,), (8,), (9,)]
    assert sum(step.wait for step in three.steps if step.side) == 3 * 240
    assert procedure_from(three.as_data()) == three


def test_a_side_is_done_once_more_after_itself():
    two = in_sides(house_procedures()["brightening"], ("lid", "front"))
    more, first = again(two, 4)
    assert first == 5 and [step.side for step in more.steps] == [
        "",
        "",
        "lid",
        "lid",
        "lid",
        "lid",
        "front",
        "front",
        "",
        "",
    ]
    assert more.steps[4].after == (4,) and more.steps[6].after == (6,)
    # a third round is one round, and no more
    third, first = again(more, 6)
    assert first == 7 and len(third.steps) == len(more.steps) + 2
    order(third.steps)
    with pytest.raises(BadInput):
        again(two, 1)


@pytest.mark.parametrize("typed", ["0", "13", "lid, lid", ",", "99 sides"])
def test_sides_that_cannot_be_are_refused(typed):
    with pytest.raises(BadInput):
        read_sides(typed)


def test_more_steps_than_a_procedure_has_are_refused():
    long = made(*({"text": f"step {n}", "each": True} for n in range(30)))
    with pytest.raises(BadInput, match="at most 100"):
        in_sides(long, read_sides("4"))


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("tape-transport", "turns"), ("tape-transport", "ac_volts"), ("tuned-circuits", "turns"), ("some-keys", "resistance"),
        ("cartridge-slot", "resistance"), ("reset-circuit", "function"), ("small-switches", "resistance"),
    ],
)  # fmt: skip
def test_tape_keys_slots_and_switches_have_procedures_with_their_readings(name, kind):
    assert kind in {step.check.kind for step in house_procedures()[name].steps if step.check}


def test_one_key_by_alcohol_dries_in_minutes_and_a_key_has_one_limit():
    keys = house_procedures()
    assert max(step.wait for step in keys["some-keys"].steps) <= 10
    limits = {
        step.check.high
        for name in ("some-keys", "keyboard-contacts")
        for step in keys[name].steps
        if step.check and step.check.kind == "resistance"
    }
    assert limits == {100.0}
