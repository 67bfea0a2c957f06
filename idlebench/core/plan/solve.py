"""A mixed-integer program, put together row by row and solved by HiGHS.

highspy rather than scipy.optimize.milp: the same solver from its own makers, but it takes a cost to stay under, and goes on from
where it stopped when bounds have moved or columns have come; the search over parcels rests on both.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

#: A plan has to be better by this, € or pieces, to count as better.
LESS = 1e-7


@dataclass(frozen=True)
class Solved:
    """values: one for each variable, None where none were found. bound: no solution costs less; infinite where there is none.
    took: s.
    """

    values: Sequence[float] | None
    cost: float
    bound: float
    took: float = 0.0


class Patience:
    """How long may be looked, s. now: a clock, s; without one it is counted by what the solvers say they took."""

    def __init__(self, seconds: float, now: Callable[[], float] | None = None) -> None:
        self.seconds, self._now, self._spent = seconds, now, 0.0
        self._begun = now() if now else 0.0

    def spend(self, seconds: float) -> None:
        """Count what a solver took; not where there is a clock."""
        self._spent += 0.0 if self._now else seconds

    @property
    def left(self) -> float:
        """What is left, s; below 0 when it is over."""
        return self.seconds - self._spent - (self._now() - self._begun if self._now else 0.0)


class Model:
    """Variables and rows; every variable is at least 0. Costs are made as small as they can be."""

    def __init__(self) -> None:
        self.costs: list[float] = []
        self._most: list[float] = []
        self._whole: list[bool] = []
        self._rows: list[tuple[Mapping[int, float], float, float]] = []

    def whole(self, most: float, cost: float = 0.0) -> int:
        """A variable of whole numbers up to a most; its number."""
        return self._variable(most, cost, True)

    def real(self, most: float, cost: float = 0.0) -> int:
        """A variable of any numbers up to a most; its number."""
        return self._variable(most, cost, False)

    def _variable(self, most: float, cost: float, whole: bool) -> int:
        self.costs.append(cost)
        self._most.append(most)
        self._whole.append(whole)
        return len(self.costs) - 1

    def at_least(self, row: Mapping[int, float], least: float) -> None:
        """Demand that the row's sum is no less."""
        self._rows.append((row, least, float("inf")))

    def at_most(self, row: Mapping[int, float], most: float) -> None:
        """Demand that the row's sum is no more."""
        self._rows.append((row, -float("inf"), most))

    def equal(self, row: Mapping[int, float], value: float) -> None:
        """Demand that the row's sum is just that."""
        self._rows.append((row, value, value))

    def _solver(self, fixed: Mapping[int, float], below: float, whole: bool) -> Any:
        import highspy
        import numpy as np

        solver = highspy.Highs()
        solver.silent()
        rows = list(self._rows)
        if below < float("inf"):
            rows.append(({j: cost for j, cost in enumerate(self.costs) if cost}, -float("inf"), below - LESS))
        low, high = np.zeros(len(self.costs)), np.array(self._most, dtype=float)
        for j, value in fixed.items():
            low[j] = high[j] = value
        model = highspy.HighsLp()
        model.num_col_, model.num_row_ = len(self.costs), len(rows)
        model.col_cost_, model.col_lower_, model.col_upper_ = np.array(self.costs, dtype=float), low, high
        model.row_lower_ = np.array([row[1] for row in rows], dtype=float)
        model.row_upper_ = np.array([row[2] for row in rows], dtype=float)
        model.a_matrix_.format_ = highspy.MatrixFormat.kRowwise
        model.a_matrix_.start_ = np.cumsum([0, *(len(row[0]) for row in rows)]).astype(np.int32)
        model.a_matrix_.index_ = np.array([j for row in rows for j in row[0]], dtype=np.int32)
        model.a_matrix_.value_ = np.array([x for row in rows for x in row[0].values()], dtype=float)
        if whole:
            kinds = (highspy.HighsVarType.kContinuous, highspy.HighsVarType.kInteger)
            model.integrality_ = [kinds[one] for one in self._whole]
        solver.passModel(model)
        return solver

    def solve(self, seconds: float, fixed: Mapping[int, float] | None = None, below: float = float("inf")) -> Solved:
        """The best values, looked for no longer than that.

        Args:
            seconds: s.
            fixed: variables whose values are given.
            below: only what costs less than this is looked for.

        Returns:
            The values, the cost, and the bound from below.
        """
        import highspy

        if not self.costs:
            return Solved([], 0.0, 0.0)
        solver = self._solver(fixed or {}, below, True)
        solver.setOptionValue("time_limit", max(seconds, 0.05))
        solver.setOptionValue("mip_rel_gap", 0.0)
        solver.setOptionValue("mip_abs_gap", LESS)
        solver.run()
        status, info = solver.getModelStatus(), solver.getInfo()
        if status == highspy.HighsModelStatus.kInfeasible:
            return Solved(None, float("inf"), float("inf"), solver.getRunTime())
        values = (
            solver.getSolution().col_value if info.primal_solution_status == highspy.kSolutionStatusFeasible else None
        )
        cost = info.objective_function_value if values is not None else float("inf")
        proven = status == highspy.HighsModelStatus.kOptimal
        return Solved(values, cost, cost if proven else info.mip_dual_bound, solver.getRunTime())
