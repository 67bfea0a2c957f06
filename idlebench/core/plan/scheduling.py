"""When to do what: the earliest finish of all tasks, then each unit as early as it can be by its weight.

Solved as a constraint program by OR-Tools' CP-SAT; the plan that is made by hand, longest way to the end first, is where it starts
from.
"""

from __future__ import annotations

import math
from dataclasses import replace

from ortools.sat.python import cp_model

from ..refusal import BadInput
from .schedule import DAY, LONGEST, Hours, Planned, Schedule, Task, Work, bound, plainly

#: How long may be looked, s.
SECONDS = 2.0
#: How many searches run beside each other.
WORKERS = 4


def schedule(work: Work, seconds: float = SECONDS) -> Schedule:
    """The plan with the earliest finish that is found in that time, each unit then as early as can be.

    Args:
        work: the work that is planned.
        seconds: how long may be looked, two thirds of it for the finish, the rest for the units.

    Returns:
        When each task begins and ends, and whether no plan is earlier.
    """
    if not work.tasks:
        return Schedule((), True, 0)
    first = work.first & {task.unit for task in work.tasks}
    if not first:
        return _plan(work, seconds)
    without = _plan(replace(work, first=frozenset()), seconds / 2)
    return _first(replace(work, first=first), without, seconds / 2)


def _plan(work: Work, seconds: float) -> Schedule:
    """The plan with the earliest finish, each unit then as early as can be."""
    by_hand = plainly(work)
    if by_hand.finish > LONGEST:
        raise BadInput(f"{by_hand.finish / DAY:.0f} days", "ten years at most", "Look at the waits.", field="wait")
    first, lower = (
        (by_hand, by_hand.finish) if by_hand.bound == by_hand.finish else _earliest(work, by_hand, seconds * 2 / 3)
    )
    best = first if first.finish < by_hand.finish else by_hand
    proved = lower >= best.finish
    if len(best.finishes()) > 1 or proved:
        best = _each_early(work, best, seconds / 3)
    return Schedule(best.tasks, proved, min(lower, best.finish))


def _first(work: Work, without: Schedule, seconds: float) -> Schedule:
    """The plan in which what is first is done as early as can be, then all of it, then each unit by its weight."""
    upto = without.finish + sum(task.hands + task.wait + (task.days + 1) * DAY for task in work.tasks)
    program = _Program(work, min(upto, LONGEST))
    program.model.minimize(program.first)
    found, lower = program.solve(without, seconds / 3)
    best = found if found and _finish_of(work, found) < _finish_of(work, without) else without
    soonest = _finish_of(work, best)
    surely = lower >= soonest
    program = _Program(work, max(best.finish, without.finish))
    program.model.add(program.first <= soonest)
    program.model.minimize(program.last)
    found, lower = program.solve(best, seconds / 3)
    best = found if found and found.finish <= best.finish else best
    best = _each_early(work, best, seconds / 3, soonest)
    return Schedule(best.tasks, surely and lower >= best.finish, min(lower, best.finish), without)


def _finish_of(work: Work, plan: Schedule) -> int:
    """When all units are done that are first."""
    return max(at for unit, at in plan.finishes().items() if unit in work.first)


class _Program:
    """The tasks as a constraint program. upto: no wait is over later."""

    def __init__(self, work: Work, upto: int) -> None:
        self.work, self.upto = work, upto
        self.model = cp_model.CpModel()
        self.begins: dict[str, cp_model.IntVar] = {}
        self.ends: dict[str, cp_model.LinearExpr] = {}
        self.last = self.model.new_int_var(0, upto, "finish")
        units = dict.fromkeys(task.unit for task in work.tasks)
        self.first = self.model.new_int_var(0, upto, "first")
        self.done = {unit: self.model.new_int_var(0, upto, f"done {unit}") for unit in units}
        self.over: dict[str, cp_model.LinearExprT] = {}
        self.stretches: dict[str, list[tuple[cp_model.IntVar, int]]] = {}
        self._own: list[list[cp_model.IntervalVar]] = [[] for _ in work.people] if work.others else []
        self._hands: list[cp_model.IntervalVar] = []
        self._things: dict[str, list[cp_model.IntervalVar]] = {}
        for task, goes in work.pieces:
            self._task(task, goes)
        for task in work.tasks:
            for other in task.after:
                self.model.add(self.begins[task.name] >= self.over[other])
        for unit in work.first & set(self.done):
            self.model.add(self.first >= self.done[unit])
        alone = [*self._own, *self._things.values()]
        if work.hands == 1:
            alone.append(self._hands)
        elif not work.others:
            self.model.add_cumulative(self._hands, [1] * len(self._hands), work.hands)
        for held in alone:
            self.model.add_no_overlap(held)

    def _task(self, task: Task, goes: tuple[int, ...]) -> None:
        """A task in its goes, one after the other; each lies within one day's hours."""
        at = None
        for i, go in enumerate(goes):
            ranges = [span for one in set(self.work.people) for span in self._when(one, go)] if go else [(0, self.upto)]
            begin = self.model.new_int_var_from_domain(cp_model.Domain.from_intervals(ranges), f"{task.name} {i}")
            self.stretches.setdefault(task.name, []).append((begin, go))
            if go and self.work.others:
                self._by_somebody(begin, go, f"{task.name} {i}")
            elif go:
                self._hands.append(self.model.new_fixed_size_interval_var(begin, go, f"{task.name} hands {i}"))
            if at is None:
                self.begins[task.name] = begin
            else:
                self.model.add(begin >= at)
            at = begin + go
        self.ends[task.name] = at
        first, over = self.begins[task.name], self._over(task, at)
        self.over[task.name] = over
        self.model.add(first >= task.not_before)
        for thing in task.occupies:
            self._held(thing, first, at)
        for thing in task.holds:
            self._held(thing, first, over)
        self.model.add(self.last >= over)
        self.model.add(self.done[task.unit] >= over)

    def _when(self, hours: Hours, go: int) -> list[tuple[int, int]]:
        """The minutes at which so many can be begun by somebody with these hours."""
        return hours.starts(go, self.upto) if hours.minutes else [(0, self.upto)]

    def _by_somebody(self, begin: cp_model.IntVar, go: int, name: str) -> None:
        """A stretch of work is done by one of the people, in the hours of that one."""
        by = []
        for i, hours in enumerate(self.work.people):
            ranges = self._when(hours, go)
            if not ranges:
                continue
            done = self.model.new_bool_var(f"{name} by {i}")
            self.model.add_linear_expression_in_domain(begin, cp_model.Domain.from_intervals(ranges)).only_enforce_if(
                done
            )
            self._own[i].append(self.model.new_optional_fixed_size_interval_var(begin, go, done, f"{name} of {i}"))
            by.append(done)
        self.model.add_exactly_one(by)

    def _over(self, task: Task, end: cp_model.LinearExprT) -> cp_model.LinearExprT:
        """When a task's wait is over."""
        if not task.days:
            return end + task.wait
        day = self.model.new_int_var(0, self.upto // DAY + 1, f"{task.name} on")
        # the day of the last minute on which hands are on it; the same for a task without any that begins a day
        last = end - 1 if task.hands else end
        self.model.add(day * DAY <= last)
        self.model.add(last < day * DAY + DAY)
        return day * DAY + task.days * DAY

    def _held(self, thing: str, start: cp_model.IntVar, end: cp_model.LinearExpr) -> None:
        length = self.model.new_int_var(0, self.upto, f"{thing} for")
        self._things.setdefault(thing, []).append(self.model.new_interval_var(start, length, end, thing))

    def solve(self, start: Schedule, seconds: float) -> tuple[Schedule | None, int]:
        """The best plan found in that time, None where there is none, and what its measure cannot be less than."""
        for planned in start.tasks:
            self.model.add_hint(self.begins[planned.task.name], planned.start)
        solver = cp_model.CpSolver()
        solver.parameters.max_time_in_seconds = seconds
        solver.parameters.num_workers = WORKERS
        solver.parameters.random_seed = 1
        if solver.solve(self.model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None, 0
        found = tuple(
            Planned(
                task, solver.value(self.begins[task.name]), solver.value(self.ends[task.name]),
                tuple((at := solver.value(begin), at + go) for begin, go in self.stretches[task.name]),
            )
            for task in self.work.tasks
        )  # fmt: skip
        # all is in whole minutes: a bound between two of them is the later one
        return Schedule(found, False, 0), math.ceil(solver.best_objective_bound - 1e-6)


def _earliest(work: Work, start: Schedule, seconds: float) -> tuple[Schedule, int]:
    """The plan with the earliest finish, and what none can finish before."""
    program = _Program(work, start.finish)
    program.model.add(program.last >= bound(work))
    program.model.minimize(program.last)
    found, lower = program.solve(start, seconds)
    return (found, max(lower, start.bound)) if found else (start, start.bound)


def _each_early(work: Work, start: Schedule, seconds: float, first: int | None = None) -> Schedule:
    """The plan that is no later as a whole, in which each unit is done as early as can be by its weight. first: by when what is first
    is done.
    """
    program = _Program(work, start.finish)
    if first is not None:
        program.model.add(program.first <= first)
    weights = {unit: max(1, round(100 * work.weights.get(unit, 1.0))) for unit in program.done}
    program.model.minimize(sum(weights[unit] * at for unit, at in program.done.items()))
    found, _ = program.solve(start, seconds)

    def cost(plan: Schedule) -> int:
        return sum(weights[unit] * at for unit, at in plan.finishes().items())

    return found if found and cost(found) <= cost(start) else start
