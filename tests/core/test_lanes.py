"""The calendar as lanes: bars in their day and lane, work over several evenings in pieces, parcels as marks."""

import pytest

from idlebench.core.draw.lanes import COLUMN, NAMES, lanes_of
from idlebench.core.plan.schedule import DAY, Hours, Planned, Task, Work
from idlebench.core.plan.scheduling import schedule


def test_a_bar_lies_in_its_day_and_lane():
    tasks = [
        Planned(Task(name="a", unit="A", hands=60), 0, 60),
        Planned(Task(name="b", unit="B", hands=30), 2 * DAY + 90, 2 * DAY + 120),
    ]
    drawn = lanes_of(tasks, 120)
    assert [day for day, _ in drawn.days] == [0, 2], "days without work take no room"
    first, second = drawn.bars
    assert (first.x, first.width) == (NAMES, COLUMN / 2) and not first.part
    assert second.x == pytest.approx(NAMES + COLUMN * 1.75) and second.width == pytest.approx(COLUMN / 4)
    assert second.y > first.y + first.height and [name for name, _ in drawn.lanes] == ["A", "B"]


def test_work_over_several_evenings_is_drawn_in_pieces_that_add_up():
    plan = schedule(
        Work(
            (Task(name="recap", unit="A", hands=300), Task(name="strip", unit="A", hands=30)),
            1,
            Hours(120, frozenset({1})),
        )
    )
    drawn = lanes_of(plan.tasks, 120)
    pieces = [bar for bar in drawn.bars if bar.name == "recap"]
    assert sum(bar.width for bar in pieces) == pytest.approx(300 / 120 * COLUMN) and all(bar.part for bar in pieces)
    assert all(bar.x + bar.width <= drawn.width + 1e-9 for bar in drawn.bars)


def test_what_only_comes_is_a_mark_and_far_days_are_counted():
    tasks = [Planned(Task(name="parcel", unit="A"), 3 * DAY, 3 * DAY)]
    tasks += [Planned(Task(name=f"t{i}", unit="A", hands=10), i * DAY, i * DAY + 10) for i in range(12)]
    drawn = lanes_of(tasks, 120)
    assert [name for name, _, _ in drawn.marks] == ["parcel"] and drawn.later == 3
    assert lanes_of([], 120).bars == ()
