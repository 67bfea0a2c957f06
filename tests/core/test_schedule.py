"""When to do what: the worked figure, what no plan may do, and that none made by hand is earlier."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.cli import main
from idlebench.core.plan.schedule import DAY, Hours, Planned, Schedule, Task, Work, bound, breaks, plainly
from idlebench.core.plan.schedule_table import read_work
from idlebench.core.plan.scheduling import schedule
from idlebench.core.refusal import BadInput

HEAD = "task,unit,hands,wait,after,occupies\n"
WORKED = (
    HEAD
    + "A1,A,30,0,,\nA2,A,10,120,A1,washer\nA3,A,90,0,A2,\nB1,B,30,0,,\nB2,B,10,120,B1,washer\nB3,B,60,0,B2,\nD,,45,0,,\n"
)


def test_the_worked_plan():
    work = read_work(WORKED)
    plan = schedule(work)
    assert (plan.finish, plan.proved, plan.bound) == (310, True, 310)
    assert breaks(work, plan) == ""


def test_two_pairs_of_hands_and_a_washer_that_is_held():
    # both recaps end on the longer way: strip 30, wash 10, wait 120, recap 90
    assert schedule(read_work(WORKED, hands=2)).finish == 250
    held = WORKED.replace("washer", "washer+wait")
    plan = schedule(read_work(held))
    # the second wash begins when the first is dry: 30 + 130, then 10 + 120, then a recap of 60 at least
    assert plan.proved and plan.finish == 30 + 130 + 130 + 60
    washes = sorted((p.start, p.free_at) for p in plan.tasks if p.task.holds)
    assert washes[0][1] <= washes[1][0]


def test_evenings():
    plan = schedule(read_work(WORKED, hours_a_day=2))
    assert plan.proved and all(p.start % DAY + p.task.hands <= 120 for p in plan.tasks)
    # 275 min with hands on do not go into two evenings of 120
    assert plan.finish // DAY == 2
    free = Work(read_work(WORKED).tasks, 1, Hours(120, frozenset({0, 2})))
    assert {p.start // DAY for p in schedule(free).tasks} <= {1, 3, 4}
    assert Hours(120, frozenset({0, 2})).after(130) == 3 * DAY + 10


def test_what_is_longer_than_an_evening_goes_over_several():
    plan = schedule(Work((Task(name="recap", unit="A", hands=300),), 1, Hours(120)))
    assert (plan.tasks[0].start, plan.tasks[0].end) == (0, 2 * DAY + 60) and plan.proved


def test_a_unit_that_matters_more_is_done_first():
    tasks = (Task(name="a", unit="A", hands=60), Task(name="b", unit="B", hands=60))
    for first in ("A", "B"):
        assert schedule(Work(tasks, weights={first: 5.0})).finishes()[first] == 60


def test_a_parcel_that_comes_late_moves_what_waits_for_it():
    tasks = (
        Task(name="parcel", unit="A", not_before=500),
        Task(name="swap", unit="A", hands=30, wait=0, after=("parcel",)),
        Task(name="clean", unit="A", hands=20),
    )
    at = {p.task.name: p.start for p in schedule(Work(tasks)).tasks}
    assert at["swap"] == 500 and at["clean"] < 500
    assert bound(Work(tasks)) == 530


@pytest.mark.parametrize(
    ("rows", "said"),
    [
        ("A,,1,0,B,\nB,,1,0,A,", "A after B after A"), ("A,,1,0,A,", "A after A"), ("A,,1,0,X,", "the name of a task in this table"),
        ("A,,1,0,,\nA,,2,0,,", "A"), ("A,,-1,0,,", "read “-1”"), ("A,,1.5,0,,", "whole minutes"), ("A,,1,x,,", "read “x”"),
    ],
)  # fmt: skip
def test_bad_tables_say_what_is_wrong(rows, said):
    with pytest.raises(BadInput) as refused:
        read_work(HEAD + rows)
    assert said in str(refused.value)


@pytest.mark.parametrize(("hands", "hours"), [(0, 0), (1, 25), (1, -1), (1, 0.001)])
def test_no_hands_and_no_hours(hands, hours):
    with pytest.raises(BadInput):
        read_work(WORKED, hands, hours)


def test_the_command(capsys, tmp_path):
    file = tmp_path / "tasks.csv"
    file.write_text(WORKED)
    assert main(["schedule", "--tasks", str(file), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["finish"] == 310 and found["proved"] is True and found["bound"] == 310
    assert {"task", "start", "end", "free_at"} <= set(found["tasks"][0])
    assert (
        next(t for t in found["tasks"] if t["task"] == "A2")["free_at"]
        - next(t for t in found["tasks"] if t["task"] == "A2")["end"]
        == 120
    )
    assert main(["schedule", "--tasks", str(file), "--hours-a-day", "2"]) == 0
    assert "no plan is earlier" in capsys.readouterr().out
    for extra in (("--hands", "0"), ("--hands", "x"), ("--hours-a-day", "30")):
        assert main(["schedule", "--tasks", str(file), *extra]) == 2
        out = capsys.readouterr()
        assert out.out == "" and out.err.startswith("idlebench: ") and out.err.count("\n") == 1


@st.composite
def works(draw):
    tasks = []
    for i in range(draw(st.integers(1, 8))):
        after = draw(st.lists(st.sampled_from([t.name for t in tasks]), max_size=2, unique=True)) if tasks else []
        thing = draw(st.sampled_from([(), (), ("washer",)]))
        held = draw(st.sampled_from([(), (), ("bath",)]))
        tasks.append(
            Task(
                name=f"T{i}",
                unit=draw(st.sampled_from("AB")),
                hands=draw(st.sampled_from((0, 5, 30, 70))),
                **draw(st.sampled_from(({}, {}, {"wait": 60}, {"days": 1}))),
                after=tuple(after),
                occupies=thing,
                holds=held,
                not_before=draw(st.sampled_from((0, 0, 40))),
            )
        )
    own = (Hours(90, frozenset({1}), 30), Hours(120, frozenset(), 1400))
    others = draw(st.sampled_from(((), (), own[:1], own)))
    first = draw(st.sampled_from((frozenset(), frozenset("A"))))
    return Work(
        tuple(tasks), draw(st.integers(1, 2)), Hours(draw(st.sampled_from((0, 0, 120)))), others=others, first=first
    )


@given(works())
@settings(max_examples=40)
def test_what_every_plan_keeps_to(work):
    plan, by_hand = schedule(work, 1.0), plainly(work)
    assert breaks(work, plan) == "" and breaks(work, by_hand) == ""
    assert bound(work) <= plan.bound <= plan.finish
    assert not plan.proved or plan.bound == plan.finish
    for p in plan.tasks:
        assert sum(end - begin for begin, end in p.pieces) == p.task.hands and p.pieces[-1][1] == p.end
        for begin, end in p.pieces if p.task.hands else ():
            assert any(not one.minutes or one.next_start(begin, end - begin) == begin for one in work.people)
    if plan.in_any_order is None:
        assert plan.finish <= by_hand.finish
    else:
        now, else_ = plan.finishes(), plan.in_any_order.finishes()
        assert (now["A"] <= else_["A"] and plan.finish >= plan.in_any_order.finish) or not plan.proved


def test_what_is_first_is_finished_before_all_is():
    """Two units and one bath: A is long and holds all up, B is short. First, B is done in its own time, whatever A says."""
    tasks = (
        Task(name="A1", unit="A", hands=30, wait=500, holds=("bath",)), Task(name="A2", unit="A", hands=10, after=("A1",)),
        Task(name="B1", unit="B", hands=30, wait=100, holds=("bath",)), Task(name="B2", unit="B", hands=10, after=("B1",)),
    )  # fmt: skip
    plain = schedule(Work(tasks))
    for first in ("A", "B"):
        plan = schedule(Work(tasks, first=frozenset({first})))
        assert plan.proved and plan.finishes()[first] == sum(t.hands + t.wait for t in tasks if t.unit == first)
        assert plan.in_any_order.finishes() == plain.finishes() and plan.finish >= plain.finish
    assert schedule(Work(tasks, first=frozenset({"nobody"}))).in_any_order is None


def test_a_parcel_is_over_with_a_day_whenever_it_was_ordered():
    hours = Hours(120)
    tasks = (
        Task(name="before", hands=50),
        Task(name="order", hands=15, days=3, after=("before",)),
        Task(name="swap", hands=10, after=("order",)),
    )
    plan = schedule(Work(tasks, 1, hours))
    at = {p.task.name: p for p in plan.tasks}
    assert (
        at["order"].free_at == 3 * DAY == at["swap"].start and plan.proved and breaks(Work(tasks, 1, hours), plan) == ""
    )


def test_people_with_hours_of_their_own_share_the_work():
    """Evenings of an hour, and a free Saturday of three: 200 minutes are done on day 1."""
    evening, saturday = Hours(60), Hours(180, frozenset({0, 2, 3}), 600)
    work = Work((Task(name="a", hands=60), Task(name="b", hands=140)), 1, evening, others=(saturday,))
    plan = schedule(work)
    assert plan.finish == DAY + 600 + 140 and plan.proved and breaks(work, plan) == ""
    assert saturday.worked(DAY + 700) == 100 and saturday.next_start(0, 30) == DAY + 600


def test_a_plan_that_is_wrong_is_told_so():
    work = read_work(WORKED)
    at = dict.fromkeys(work.by_name, 0)
    wrong = [
        (at, "begins before"), ({**at, "A2": 30, "A3": 160, "B2": 30, "B3": 160}, "too few people"),
        ({"A1": 0, "B1": 30, "D": 300, "A2": 60, "B2": 65, "A3": 345, "B3": 435}, "too few people"),
    ]  # fmt: skip
    for starts, said in wrong:
        tasks = tuple(Planned(t, starts[t.name], starts[t.name] + t.hands) for t in work.tasks)
        assert said in breaks(work, Schedule(tasks, False, 0))
    two = read_work(WORKED, hands=2)
    starts = {"A1": 0, "B1": 0, "A2": 30, "B2": 35, "D": 45, "A3": 160, "B3": 165}
    tasks = tuple(Planned(t, starts[t.name], starts[t.name] + t.hands) for t in two.tasks)
    assert breaks(two, Schedule(tasks, False, 0)) == "washer is used twice at minute 35"
