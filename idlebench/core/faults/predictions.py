"""What each hypothesis of a supply gives, at every severity, and how far a sound one may stray: simulated once for each state of the bench.

Source: widths: workshop practice, because nobody has counted them: the bench's own draws and a meter's least digits.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ..simulate.expected import draws
from ..simulate.outcome import Outcome
from ..simulate.readings import UNITS, Asked, read_values
from ..simulate.rectifier import MIDDLING, ROUGH, Floats
from ..simulate.state import State
from ..simulate.steady_state import run
from ..simulate.supply import Bench
from ..simulate.truth import Fault, Values
from .clues import ClueReading
from .hypotheses import NOTHING_WRONG, Hypothesis, hypotheses
from .outcome import Shop
from .table import Evidence, Place

Ints = NDArray[np.int_]
#: Width of a reading: share of it, and floors by unit.
SHARE, FLOORS, FLOOR_RIPPLE = 0.03, {"V": 0.020, "Ω": 0.05, "A": 0.005, "F": 1e-9, "%": 3.0, "°C": 2.0}, 0.003
#: Draws that the tolerances are told from.
DRAWS = 120
#: Steps between two severities of a drift.
FINE_STEPS = 4
#: A drift under this share of its first severity is a tolerance, and nothing is wrong with the part.
FROM = 0.5
#: What is told between two severities may be off by so much of what lies between them.
COARSE = 0.12
#: How much more a load strays than in the draws, where nobody read it: 30 % instead of 10 %.
LOAD_WIDER = 3.0


@dataclass(kw_only=True)
class Predictions:
    """What a supply gives with each of its faults. Runs are kept: a further reading costs no more than what is new in it.

    shop: the shop's own figures. evidence: the table for what has no model, with the signs it is asked for and what the unit
    has that they may come from.
    """

    bench: Bench
    shop: Shop = field(default_factory=Shop)
    evidence: Evidence | None = None
    elsewhere: tuple[str, ...] = ()
    places: tuple[Place, ...] = ()

    def __post_init__(self) -> None:
        others = self.evidence.elsewhere(self.elsewhere, self.places) if self.evidence else ()
        self.singles = (*hypotheses(self.bench, self.shop), *others, NOTHING_WRONG)
        self.values = self.put([one.faults for one in self.singles])
        self.fine, self.low, self.high, self.mix, self.owner = self._between()
        self._outcomes: dict[str, Outcome] = {}
        self._widths: dict[tuple[str, str, str], float] = {}
        self.draws: dict[str, tuple[Values, Outcome]] = {}

    def put(self, many: Sequence[Sequence[Fault]]) -> Values:
        """Row 0 sound, then one for each set of faults."""
        values = Values(1 + len(many))
        for row, faults in enumerate(many, 1):
            self.bench.truth(values, faults, row)
        return values

    def _between(self) -> tuple[tuple[Hypothesis, ...], Ints, Ints, Floats, Ints]:
        """Every drift read on between its severities, from sound on: what it gives between two is told by what they give.

        Returns:
            Hypotheses; the rows of what is predicted that each lies between, its way from the one to the other, and its single.
        """
        fine, low, high, mix, owner = [], [], [], [], []
        last: dict[tuple[str, str, int], int] = {}
        kinds = Counter(one.suspect for one in self.singles)
        for i, one in enumerate(self.singles):
            drifts = kinds[one.suspect] > 1
            steps = [k / FINE_STEPS for k in range(1, FINE_STEPS + 1)] if drifts else [1.0]
            if drifts and one.lane not in last:
                steps = [way for way in steps if way >= FROM]
            for way in steps:
                fine.append(replace(one, prior=one.prior / len(steps)))
                low.append(last.get(one.lane, -1) + 1)
                high.append(i + 1)
                mix.append(way)
                owner.append(i)
            last[one.lane] = i
        return tuple(fine), np.array(low), np.array(high), np.array(mix), np.array(owner)

    def gives(self, state: State, asked: Asked) -> Floats:
        """What each fine hypothesis gives, the sound supply first.

        Args:
            state: the state the supply is in.
            asked: what is asked for.

        Returns:
            A row for each hypothesis, V, A, Ω or F.

        Raises:
            BadInput: what cannot be read so.
        """
        there = self.predicted(state, asked)
        low, high = there[self.low], there[self.high]
        both = np.isfinite(low) & np.isfinite(high)
        with np.errstate(invalid="ignore"):
            between = np.where(both, low + (high - low) * self.mix, np.where(self.mix >= 0.5, high, low))
        return np.concatenate([there[:1], between])

    def coarse(self, state: State, asked: Asked) -> Floats:
        """How far what is told between two severities may be off: a share of what lies between them.

        Args:
            state: the state the supply is in.
            asked: what is asked for.

        Returns:
            A row for each fine hypothesis, the sound supply first.
        """
        there = self.predicted(state, asked)
        low, high = there[self.low], there[self.high]
        both = np.isfinite(low) & np.isfinite(high)
        with np.errstate(invalid="ignore"):
            return np.concatenate([[0.0], np.where(both, COARSE * np.abs(high - low), 0.0)])

    def outcome(self, state: State) -> Outcome:
        """Everything of every hypothesis in a state."""
        key = repr(state)
        if key not in self._outcomes:
            self._outcomes[key] = run(self.bench, self.values, state, grids=MIDDLING)
        return self._outcomes[key]

    def predicted(self, state: State, asked: Asked) -> Floats:
        """What each hypothesis gives, the sound supply first.

        Args:
            state: the state the supply is in.
            asked: what is asked for.

        Returns:
            A row for each hypothesis, V, A, Ω or F.

        Raises:
            BadInput: what cannot be read so.
        """
        return read_values(self.bench, self.values, state, self.outcome(state), asked)

    def width(self, state: State, asked: Asked, value: float | None) -> float:
        """How far a reading may be off what a hypothesis gives."""
        key = (repr(state), asked.point + asked.at, asked.what)
        if key not in self._widths:
            self._widths[key] = self._half_band(state, asked)
        floor = FLOOR_RIPPLE if asked.what.startswith("ripple") else FLOORS.get(UNITS[asked.what], 1e-6)
        size = 0.0 if value is None or not math.isfinite(value) else abs(value)
        return max(SHARE * size, self._widths[key] / 1.96, floor)

    def drawn(self, state: State, asked: Asked) -> Floats:
        """What the sound supply gives in each of the draws, V, A, Ω or F: the same draws in every state, one run for each."""
        key = repr(state)
        if key not in self.draws:
            values = draws(self.bench, DRAWS, mains_known=False)
            for rail in self.bench.rails:
                values.put(rail, "load", 1 + LOAD_WIDER * (values.get(rail, "load", 1.0) - 1))
            self.draws[key] = values, run(self.bench, values, state, grids=ROUGH)
        values, outcome = self.draws[key]
        return read_values(self.bench, values, state, outcome, asked)

    def _half_band(self, state: State, asked: Asked) -> float:
        """Half of what tolerances leave of a reading."""
        there = self.drawn(state, asked)
        there = there[np.isfinite(there)]
        return float(np.subtract(*np.percentile(there, [97.5, 2.5])) / 2) if len(there) else 0.0

    def error(self, one: ClueReading) -> float:
        """The meter's and the model's own error of a reading, without what tolerances leave."""
        floor = FLOOR_RIPPLE if one.asked.what.startswith("ripple") else FLOORS.get(UNITS[one.asked.what], 1e-6)
        size = 0.0 if one.value is None or not math.isfinite(one.value) else abs(one.value)
        return max(SHARE * size, floor)
