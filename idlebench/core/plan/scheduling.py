"""When to do what: the earliest finish of all tasks, then each unit as early as it can be by its weight.

Solved as a constraint program by OR-Tools' CP-SAT; the plan that is made by hand, longest way to the end first, is where it starts
from.
"""

from __future__ import annotations

import math

from ortools.sat.python import cp_model

from ..refusal import BadInput
from .schedule import DAY, LONGEST, Planned, Schedule, Task, Work, bound, plainly

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
    by_hand = plainly(work)
    if not work.tasks:
        return Schedule((), True, 0)
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


class _Program:
    """The tasks as a constraint program. upto: no wait is over later."""

    def __init__(self, work: Work, upto: int) -> None:
        self.work, self.upto = work, upto
        self.model = cp_model.CpModel()
        self.begins: dict[str, cp_model.IntVar] = {}
        self.ends: dict[str, cp_model.LinearExpr] = {}
        self.last = self.model.new_int_var(0, upto, "finish")
        units = dict.fromkeys(task.unit for task in work.tasks)
        self.done = {unit: self.model.new_int_var(0, upto, f"done {unit}") for unit in units}
        self._hands: list[cp_model.IntervalVar] = []
        self._things: dict[str, list[cp_model.IntervalVar]] = {}
        for task, goes in work.pieces:
            self._task(task, goes)
        for task in work.tasks:
            for other in task.after:
                self.model.add(self.begins[task.name] >= self.ends[other] + work.by_name[other].wait)
        if work.hands == 1:
            self.model.add_no_overlap(self._hands)
        else:
            self.model.add_cumulative(self._hands, [1] * len(self._hands), work.hands)
        for held in self._things.values():
            self.model.add_no_overlap(held)

    def _task(self, task: Task, goes: tuple[int, ...]) -> None:
        """A task in its goes, one after the other; each lies within one day's hours."""
        at = None
        for i, go in enumerate(goes):
            hours = self.work.hours
            ranges = hours.starts(go, self.upto) if hours.minutes and go else [(0, self.upto)]
            begin = self.model.new_int_var_from_domain(cp_model.Domain.from_intervals(ranges), f"{task.name} {i}")
            if go:
                self._hands.append(self.model.new_fixed_size_interval_var(begin, go, f"{task.name} hands {i}"))
            if at is None:
                self.begins[task.name] = begin
            else:
                self.model.add(begin >= at)
            at = begin + go
        self.ends[task.name] = at
        first, over = self.begins[task.name], at + task.wait
        self.model.add(first >= task.not_before)
        for thing in task.occupies:
            self._held(thing, first, at)
        for thing in task.holds:
            self._held(thing, first, over)
        self.model.add(self.last >= over)
        self.model.add(self.done[task.unit] >= over)

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
            Planned(task, solver.value(self.begins[task.name]), solver.value(self.ends[task.name]))
            for task in self.work.tasks
        )
        # all is in whole minutes: a bound between two of them is the later one
        return Schedule(found, False, 0), math.ceil(solver.best_objective_bound - 1e-6)


def _earliest(work: Work, start: Schedule, seconds: float) -> tuple[Schedule, int]:
    """The plan with the earliest finish, and what none can finish before."""
    program = _Program(work, start.finish)
    program.model.add(program.last >= bound(work))
    program.model.minimize(program.last)
    found, lower = program.solve(start, seconds)
    return (found, max(lower, start.bound)) if found else (start, start.bound)


def _each_early(work: Work, start: Schedule, seconds: float) -> Schedule:
    """The plan that is no later as a whole, in which each unit is done as early as can be by its weight."""
    program = _Program(work, start.finish)
    weights = {unit: max(1, round(100 * work.weights.get(unit, 1.0))) for unit in program.done}
    program.model.minimize(sum(weights[unit] * at for unit, at in program.done.items()))
    found, _ = program.solve(start, seconds)

    def cost(plan: Schedule) -> int:
        return sum(weights[unit] * at for unit, at in plan.finishes().items())

    return found if found and cost(found) <= cost(start) else start
