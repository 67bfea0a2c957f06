"""The tasks that are left of a unit, and what a delay moves."""

from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.judge.triage import Times
from idlebench.core.plan.schedule import DAY, Hours, Work, breaks
from idlebench.core.plan.scheduling import schedule
from idlebench.core.plan.tasks import Left, moved, tasks_left, tasks_of_all

T = Times()


def by_end(tasks):
    return {t.name.split(" ", 1)[1]: t for t in tasks}


def test_a_unit_that_waits_for_a_parcel():
    tasks = by_end(tasks_left(Left(key="B", here=("radial",) * 10, later=("snap", "radial"), days=5, checks=20), T))
    assert tasks["swap"].hands == 40 and tasks["swap later"].hands == 10 and tasks["parcel"].not_before == 5 * DAY
    assert tasks["swap later"].after == ("B parcel",) and tasks["swap"].after == ()
    assert set(tasks["cold"].after) == {"B swap", "B swap later"} and tasks["cold"].hands == 14
    assert tasks["power"].after == ("B cold",) and tasks["hand over"].after == ("B power",)


def test_a_unit_of_which_nothing_is_known_yet():
    tasks = by_end(tasks_left(Left(key="C", looks=30, open=8), T))
    assert list(tasks) == ["look", "choose", "order", "swap later", "cold", "power", "hand over"]
    assert tasks["order"].days == 14 and tasks["choose"].after == ("C look",) and tasks["order"].after == ("C choose",)


def test_of_what_is_not_surveyed_nothing_more_is_planned():
    assert [(t.name, t.hands) for t in tasks_left(Left(key="C", surveyed=False, checks=9), T)] == [("C survey", 60)]


def test_what_is_done_is_left_out():
    assert [t.name for t in tasks_left(Left(key="A", power=False), T)] == ["A hand over"]
    assert tasks_left(Left(key="A", power=False, hand_over=False), T) == ()


@given(
    st.lists(
        st.builds(
            Left, key=st.uuids().map(str), surveyed=st.booleans(), looks=st.integers(0, 40), open=st.integers(0, 20),
            here=st.lists(st.sampled_from(("radial", "snap"))), later=st.lists(st.just("radial")), lacking=st.lists(st.just("axial")),
            days=st.floats(0, 30), checks=st.integers(0, 40), power=st.booleans(), hand_over=st.booleans(),
        ),
        max_size=3,
    )
)  # fmt: skip
def test_every_unit_can_be_planned(units):
    work = Work(tuple(task for left in units for task in tasks_left(left, T)), 1, Hours(120))
    assert breaks(work, schedule(work, 0.1)) == ""


def test_a_late_parcel_moves_what_waits_for_it():
    plans = []
    for days in (2, 6):
        work = Work(
            tasks_left(Left(key="B", here=("radial",), later=("radial",), days=days, checks=1), T), 1, Hours(120)
        )
        plans.append({p.task.name: p.start for p in schedule(work).tasks})
    found = {name for name, _, _ in moved(*plans)}
    assert {"B parcel", "B swap later", "B cold", "B power", "B hand over"} == found


def test_what_several_units_lack_is_ordered_once_when_the_last_place_is_settled():
    lefts = [
        Left(key="A", open=3),
        Left(key="B", lacking=("radial",)),
        Left(key="C", here=("radial",)),
        Left(key="D", surveyed=False),
    ]
    tasks = {t.name: t for t in tasks_of_all(lefts, T)}
    order = tasks["order for all"]
    assert order.unit == "" and order.after == ("A choose",) and order.days == 14
    assert not any(name.endswith(" order") for name in tasks)
    assert tasks["A swap later"].after[-1] == tasks["B swap later"].after[-1] == "order for all"
    assert tasks["C swap"].after == () and "D survey" in tasks
    # it can be planned, and one unit alone has an order of its own
    plan = schedule(Work(tuple(tasks.values()), 1, Hours(180)), 1.0)
    assert {p.task.name for p in plan.tasks} == set(tasks)
    assert "B order" in {t.name for t in tasks_of_all([lefts[1], lefts[2]], T)}
