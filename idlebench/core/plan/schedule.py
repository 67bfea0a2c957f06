"""Work to be planned: tasks with hands-on minutes and waits, hours, hands, things that only one can use at a time.

The plan that is made by hand stands here, too, with what no plan can finish before and what none may do.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

from ..refusal import BadInput
from ..wording import listed

#: Minutes of a day, and of the longest plan that is made.
DAY, LONGEST = 1440, 1440 * 3660
MOST_TASKS = 2000


@dataclass(frozen=True, kw_only=True)
class Task:
    """A piece of work.

    hands: minutes with hands on; 0 for what only takes time, such as a parcel. wait: minutes after it that need no hands. days: the
    same in days of the calendar, over when the hours of that day begin: a parcel comes on a day, not at a minute.
    after: tasks whose waits must be over before it begins. occupies: what only one task can use at a time, for its hands-on
    minutes. holds: the same, held until its wait is over. not_before: minutes from now before which it cannot begin.
    """

    name: str
    unit: str = ""
    hands: int = 0
    wait: int = 0
    days: int = 0
    after: tuple[str, ...] = ()
    occupies: tuple[str, ...] = ()
    holds: tuple[str, ...] = ()
    not_before: int = 0


@dataclass(frozen=True)
class Hours:
    """When hands are at work: so many minutes of each day, but for free days. 0 minutes: always.

    Days are counted from now: day 0 begins at minute 0. free: days without work, by number. begins: minutes into the day; the hours
    may go on into the next.
    """

    minutes: int = 0
    free: frozenset[int] = frozenset()
    begins: int = 0

    def open(self, day: int) -> bool:
        return day not in self.free

    def next_start(self, at: int, length: int) -> int:
        """The first minute from one on at which so many can be worked in one go."""
        if not self.minutes or not length:
            return at
        day, into = divmod(at - self.begins, DAY)
        while day < 0 or not self.open(day) or into + length > self.minutes:
            day, into = day + 1, 0
        return day * DAY + self.begins + into

    def worked(self, upto: int) -> int:
        """Minutes that can be worked until then."""
        last = (upto - self.begins) // DAY
        whole = sum(1 for day in range(max(0, last)) if self.open(day))
        rest = max(0, min(self.minutes, (upto - self.begins) - last * DAY)) if last >= 0 and self.open(last) else 0
        return whole * self.minutes + rest

    def after(self, minutes: int) -> int:
        """The first minute by which so many can be worked."""
        if not self.minutes or not minutes:
            return minutes
        days, rest = divmod(minutes - 1, self.minutes)
        day = 0
        while not self.open(day) or days:
            days -= self.open(day)
            day += 1
        return day * DAY + rest + 1

    def starts(self, length: int, upto: int) -> list[tuple[int, int]]:
        """All minutes up to one at which so many can be begun, as ranges, both ends in."""
        return [
            (day * DAY + self.begins, day * DAY + self.begins + self.minutes - length)
            for day in range(upto // DAY + 1)
            if self.open(day) and length <= self.minutes
        ]


@dataclass(frozen=True)
class Planned:
    """A task in the plan, minutes from now: when it begins, when hands are off it, and when its wait is over.

    goes: its stretches of work, from and to; one where it goes on in one day.
    """

    task: Task
    start: int
    end: int
    goes: tuple[tuple[int, int], ...] = ()

    @property
    def pieces(self) -> tuple[tuple[int, int], ...]:
        """Its stretches of work, which hands are on."""
        return self.goes or ((self.start, self.end),)

    @property
    def free_at(self) -> int:
        return over(self.task, self.end)


def over(task: Task, end: int) -> int:
    """When a task's wait is over that hands left at a minute."""
    if not task.days:
        return end + task.wait
    last = end - 1 if task.hands else end
    return (last // DAY + task.days) * DAY


@dataclass(frozen=True)
class Schedule:
    """A plan. finish: when the last wait is over, minutes from now. proved: none is earlier. bound: none can be earlier than that.

    in_any_order: the plan in which no unit is first, where some are; what being first costs the others is told against it.
    """

    tasks: tuple[Planned, ...]
    proved: bool
    bound: int
    in_any_order: Schedule | None = None

    @cached_property
    def finish(self) -> int:
        return max((planned.free_at for planned in self.tasks), default=0)

    def finishes(self) -> dict[str, int]:
        """When each unit's last wait is over."""
        found: dict[str, int] = {}
        for planned in self.tasks:
            found[planned.task.unit] = max(found.get(planned.task.unit, 0), planned.free_at)
        return found

    def as_json(self) -> dict[str, object]:
        return {
            "finish": self.finish,
            "proved": self.proved,
            "bound": self.bound,
            "tasks": [
                {
                    "task": p.task.name, "unit": p.task.unit, "start": p.start, "end": p.end, "free_at": p.free_at,
                    "pieces": [list(piece) for piece in p.pieces],
                }
                for p in self.tasks
            ],
        }  # fmt: skip


@dataclass(frozen=True)
class Work:
    """What is to be planned.

    hands: pairs of hands that share the hours. others: hours of further people, each with hours of their own. weights: how much it
    matters that a unit is done early; 1 where none is given. first: units whose finish is put before the finish of all.

    Raises:
        BadInput: a task twice, one that waits for itself or for what is not there, or what cannot be done in the hours there are.
    """

    tasks: tuple[Task, ...]
    hands: int = 1
    hours: Hours = Hours()
    weights: Mapping[str, float] = field(default_factory=dict)
    others: tuple[Hours, ...] = ()
    first: frozenset[str] = frozenset()

    @cached_property
    def people(self) -> tuple[Hours, ...]:
        """The hours of each pair of hands."""
        return (*[self.hours] * self.hands, *self.others)

    def __post_init__(self) -> None:
        if len(self.tasks) > MOST_TASKS:
            raise BadInput(
                f"{len(self.tasks)} tasks", f"at most {MOST_TASKS}", "Leave out what is far off.", field="tasks"
            )
        names = [task.name for task in self.tasks]
        if len(set(names)) < len(names):
            twice = next(name for name in names if names.count(name) > 1)
            raise BadInput(twice, "each task once", "Give the two different names.", field="task")
        if self.hands < 1:
            raise BadInput(str(self.hands), "at least one person", field="hands")
        for task in self.tasks:
            for other in task.after:
                if other not in self.by_name:
                    raise BadInput(
                        other, "the name of a task in this table", f"{task.name} comes after it.", field="after"
                    )
        if round_ := _round(self.tasks, self.by_name):
            raise BadInput(
                " after ".join(round_),
                "tasks of which none waits for itself",
                "Remove one of these from “after”.",
                field="after",
            )

    @cached_property
    def by_name(self) -> dict[str, Task]:
        return {task.name: task for task in self.tasks}

    @cached_property
    def pieces(self) -> tuple[tuple[Task, tuple[int, ...]], ...]:
        """Each task with the minutes of its goes: one, or a day's each where it is longer than a day has hours."""
        lengths = [one.minutes for one in self.people]
        day = 0 if 0 in lengths else max(lengths)
        found = []
        for task in self.tasks:
            whole, rest = divmod(task.hands, day) if day and task.hands > day else (0, task.hands)
            found.append((task, (*([day] * whole), *([rest] if rest or not whole else []))))
        return tuple(found)

    @cached_property
    def to_the_end(self) -> dict[str, int]:
        """The longest way from the beginning of each task to the end of all, minutes, hours left out."""
        after: dict[str, list[str]] = {task.name: [] for task in self.tasks}
        for task in self.tasks:
            for other in task.after:
                after[other].append(task.name)
        found: dict[str, int] = {}
        for name in reversed(_in_order(self.tasks, self.by_name)):
            task = self.by_name[name]
            found[name] = (
                task.hands + task.wait + task.days * DAY + max((found[later] for later in after[name]), default=0)
            )
        return found


def _in_order(tasks: Iterable[Task], by_name: Mapping[str, Task]) -> list[str]:
    """Names so that each stands behind those it comes after; those of a round are left out."""
    waits = {task.name: set(task.after) for task in tasks}
    later: dict[str, list[str]] = {name: [] for name in waits}
    for name, others in waits.items():
        for other in others:
            later[other].append(name)
    ready, found = [name for name, others in waits.items() if not others], []
    while ready:
        found.append(name := ready.pop())
        for other in later[name]:
            waits[other].discard(name)
            if not waits[other]:
                ready.append(other)
    return found


def _round(tasks: Sequence[Task], by_name: Mapping[str, Task]) -> list[str]:
    """Tasks that wait for each other in a round, the first named again at the end; empty where there is none."""
    stuck = set(by_name) - set(_in_order(tasks, by_name))
    if not stuck:
        return []
    way = [next(task.name for task in tasks if task.name in stuck)]
    while True:
        name = next(other for other in by_name[way[-1]].after if other in stuck)
        if name in way:
            return [*way[way.index(name) :], name][:6]
        way.append(name)


def plainly(work: Work) -> Schedule:
    """The plan that is made by hand: whatever can be begun first is begun, what has the longest way to the end before the rest."""
    done: dict[str, Planned] = {}
    hands = [0] * len(work.people)
    things: dict[str, int] = {}
    left = {task.name: (task, goes) for task, goes in work.pieces}
    while left:
        best = None
        for task, goes in left.values():
            if any(other not in done for other in task.after):
                continue
            earliest = max([task.not_before, *(done[other].free_at for other in task.after)])
            earliest = max([earliest, *(things.get(thing, 0) for thing in (*task.occupies, *task.holds))])
            start, who = earliest, 0
            if task.hands:
                start, _, who = min(
                    (one.next_start(max(earliest, hands[i]), goes[0]), hands[i], i)
                    for i, one in enumerate(work.people)
                    if not one.minutes or goes[0] <= one.minutes
                )
            rank = (start, -work.to_the_end[task.name], task.name)
            if best is None or rank < best[0]:
                best = (rank, task, goes, who)
        assert best is not None, "a round is refused before"
        (start, _, _), task, goes, who = best
        stretches = [(start, start + goes[0])]
        for go in goes[1:]:
            begin = work.people[who].next_start(stretches[-1][1], go)
            stretches.append((begin, begin + go))
        end = stretches[-1][1]
        planned = done[task.name] = Planned(task, start, end, tuple(stretches))
        if task.hands:
            hands[who] = end
        for thing in task.occupies:
            things[thing] = end
        for thing in task.holds:
            things[thing] = planned.free_at
        del left[task.name]
    plan = Schedule(tuple(done[task.name] for task in work.tasks), False, 0)
    return Schedule(plan.tasks, False, min(bound(work), plan.finish))


def bound(work: Work) -> int:
    """What no plan can finish before, minutes: each task as if it had all hands, and all hands-on minutes shared by all hands."""
    ends: dict[str, int] = {}
    goes = {task.name: goes for task, goes in work.pieces}
    for name in _in_order(work.tasks, work.by_name):
        task = work.by_name[name]
        at = max([task.not_before, *(ends[other] for other in task.after)])
        for go in goes[name]:
            at = min(one.next_start(at, go) for one in work.people if not one.minutes or go <= one.minutes) + go
        ends[name] = over(task, at)
    return max(*ends.values(), _all_worked(work), 0) if ends else 0


def _all_worked(work: Work) -> int:
    """The first minute by which all hands-on minutes can be worked, if only they were shared out evenly."""
    total = sum(task.hands for task in work.tasks)
    if not work.others:
        return work.hours.after(-(-total // work.hands))
    if any(not one.minutes for one in work.people):
        return -(-total // len(work.people))

    def worked(upto: int) -> int:
        return sum(one.worked(upto) for one in work.people)

    high = DAY
    while worked(high) < total:
        high *= 2
    return bisect_left(range(high + 1), total, key=worked)


def breaks(work: Work, plan: Schedule) -> str:
    """What a plan does that it may not, in words; empty where it is sound. For those who do not trust a solver."""
    at = {planned.task.name: planned for planned in plan.tasks}
    for planned in plan.tasks:
        task = planned.task
        if planned.start < task.not_before or planned.end < planned.start + task.hands:
            return f"{task.name} begins or ends too early"
        for other in task.after:
            if planned.start < at[other].free_at:
                return f"{task.name} begins before {other} is over"
    busy = [piece for p in plan.tasks if p.task.hands for piece in p.pieces]
    for begin, _ in busy:
        there = sum(one.next_start(begin, 1) == begin for one in work.people)
        if sum(a <= begin < b for a, b in busy) > there:
            return f"at minute {begin} there are too few people"
    things = {thing for task in work.tasks for thing in (*task.occupies, *task.holds)}
    for thing in sorted(things):
        spans = sorted(
            (p.start, p.free_at if thing in p.task.holds else p.end)
            for p in plan.tasks
            if thing in (*p.task.occupies, *p.task.holds)
        )
        for (_, end), (begin, _) in pairwise(spans):
            if begin < end:
                return f"{listed([thing])} is used twice at minute {begin}"
    return ""
