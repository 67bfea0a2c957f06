"""The tasks that are left of a unit, from what its stages say: from looking and choosing over parcels and swaps to hand-over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..judge.triage import Times
from .schedule import DAY, Task

#: Minutes to settle a place, to write an order, to hand a unit over; days a parcel takes that is not ordered yet.
CHOOSE, ORDER, HAND_OVER, PARCEL_DAYS = 2.0, 15.0, 20.0, 14
#: Minutes for the survey of a machine of which nothing is listed: what comes after it is planned when it is done.
SURVEY = 60.0
#: What only one task can use at a time.
IRON, SUPPLY = "iron", "bench supply"


@dataclass(frozen=True, kw_only=True)
class Left:
    """What is left of a unit.

    key: what tells it from others. surveyed: whether any of its parts are listed; where not, nothing more is known. looks: parts
    not seen yet. open: places nobody settled. here: mountings of the places whose part lies here; later: of those whose part is on
    its way; lacking: of those for which nothing is ordered. days: until the last parcel comes. checks: cold checks still open;
    check_minutes: how long they take as rounds.
    power, hand_over: whether they are still to be done. procedures: what is left of the procedures on it, as tasks.
    """

    key: str
    surveyed: bool = True
    looks: int = 0
    open: int = 0
    here: Sequence[str] = ()
    later: Sequence[str] = ()
    lacking: Sequence[str] = ()
    days: float = 0.0
    checks: int = 0
    check_minutes: float = 0.0
    power: bool = True
    hand_over: bool = True
    procedures: Sequence[Task] = ()


#: The one order of all units that lack parts, as Gather makes it.
ALL_ORDER = "order for all"
#: What each task of a unit is called, by the end of its name.
TITLES = {
    "survey": "Survey", "look": "Inspect the parts", "choose": "Choose", "order": "Order", "parcel": "The parcel arrives",
    "swap": "Swap the parts in stock", "swap later": "Swap the parts on order", "cold": "Cold checks", "power": "First power",
    "hand over": "Hand-over", ALL_ORDER: "Order for all jobs",
}  # fmt: skip


def tasks_of_all(lefts: Sequence[Left], times: Times) -> tuple[Task, ...]:
    """The tasks of all units; what several of them lack is ordered once, when the last of their places is settled.

    Args:
        lefts: what is left of each unit.
        times: minutes of each act.

    Returns:
        The tasks; the order of all is of no unit.

    >>> from idlebench.core.judge.triage import Times
    >>> some = [Left(key=key, lacking=("radial",), power=False, hand_over=False) for key in "AB"]
    >>> [t.name for t in tasks_of_all(some, Times())]
    ['order for all', 'A swap later', 'A cold', 'B swap later', 'B cold']
    """
    wanting = [left for left in lefts if left.surveyed and (left.lacking or left.open)]
    if len(wanting) < 2:
        return tuple(task for left in lefts for task in tasks_left(left, times))
    told = [tasks_left(left, times, ALL_ORDER if left in wanting else "") for left in lefts]
    settled = tuple(f"{left.key} {'choose' if left.open else 'look'}" for left in wanting if left.open or left.looks)
    order = Task(name=ALL_ORDER, hands=round(ORDER), days=PARCEL_DAYS, after=settled)
    return (order, *(task for tasks in told for task in tasks))


def tasks_left(left: Left, times: Times, ordered_by: str = "") -> tuple[Task, ...]:
    """The tasks of a unit in the order they come; what is nothing is left out. ordered_by: the order that brings what it lacks, "" for
    one of its own.

    >>> from idlebench.core.judge.triage import Times
    >>> [t.name for t in tasks_left(Left(key="B", here=("radial", "radial"), checks=10), Times())]
    ['B swap', 'B cold', 'B power', 'B hand over']
    """
    found: list[Task] = []

    def task(name: str, minutes: float, after: Sequence[str], uses: tuple[str, ...] = (), **more: int) -> str:
        called = f"{left.key} {name}"
        there = {ordered_by, *(t.name for t in found)}
        found.append(
            Task(
                name=called,
                unit=left.key,
                hands=round(minutes),
                after=tuple(a for a in after if a in there),
                occupies=uses,
                **more,
            )
        )
        return called

    def swaps(mountings: Sequence[str]) -> float:
        return sum(times.swap.get(mounting, times.swap["radial"]) for mounting in mountings)

    if not left.surveyed:
        task("survey", SURVEY, ())
        return (*found, *left.procedures)
    before: list[str] = []
    if left.looks:
        before = [task("look", left.looks * times.look, before)]
    if left.open:
        before = [task("choose", left.open * CHOOSE, before)]
    waits, after_swaps = list(before), list(before)
    if left.lacking or left.open:
        waits = [ordered_by] if ordered_by else [task("order", ORDER, before, days=PARCEL_DAYS)]
    if left.later:
        waits = [*waits, task("parcel", 0, (), not_before=round(left.days * DAY))]
    if left.here:
        after_swaps = [*after_swaps, task("swap", swaps(left.here), (), (IRON,))]
    if left.later or left.lacking or left.open:
        minutes = swaps([*left.later, *left.lacking]) + left.open * times.swap["radial"]
        after_swaps = [*after_swaps, task("swap later", minutes, waits, (IRON,))]
    # what is washed is dry, and what is tested is tested, before anything is checked cold
    found += left.procedures
    last = [*after_swaps, *(t.name for t in left.procedures)]
    if left.checks or after_swaps:
        last = [task("cold", max(1.0, left.check_minutes or left.checks * times.check), last)]
    if left.power:
        last = [task("power", times.power, last, (SUPPLY,))]
    if left.hand_over:
        task("hand over", HAND_OVER, last)
    return tuple(found)


def moved(before: dict[str, int], now: dict[str, int], least: int = 360) -> list[tuple[str, int, int]]:
    """Tasks that begin later or earlier than they did, by at least so many minutes: name, minutes before and now.

    A task that is done at another hour of the same evening has not moved.

    Args:
        before: what stood or was read before, None for nothing.
        now: now.
        least: the least of it.

    Returns:
        (name, minutes before, minutes now).
    """
    return [
        (name, before[name], now[name]) for name in now if name in before and abs(now[name] - before[name]) >= least
    ]
