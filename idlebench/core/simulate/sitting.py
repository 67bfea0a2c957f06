"""Sitting at the simulated bench: one supply as it really is, the state it is set to, and readings of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..refusal import BadInput
from .expected import Band, bands
from .outcome import Outcome
from .readings import UNITS, Asked, metered, read_values
from .rectifier import Floats
from .state import State
from .steady_state import run
from .supply import Bench
from .truth import Fault, Values


@dataclass(frozen=True)
class MeterReading:
    """What a meter showed; value None: off the scale."""

    asked: Asked
    value: float | None

    @property
    def unit(self) -> str:
        return UNITS[self.asked.what]


@dataclass(kw_only=True)
class Sitting:
    """A supply with its truth on the bench. seed: the same one gives the same readings. seconds: since it was switched on."""

    bench: Bench
    faults: Sequence[Fault] = ()
    state: State = field(default_factory=State)
    seed: int = 1
    seconds: float = 0.0

    def __post_init__(self) -> None:
        self._rng = np.random.default_rng(self.seed)
        self._values = Values(1)
        self.bench.truth(self._values, self.faults)

    @cached_property
    def _outcome(self) -> Outcome:
        values = Values(1)
        self.bench.truth(values, self.faults)
        self._values = values
        found = run(self.bench, values, self.state, self.seconds)
        if not found.settled.all():
            raise BadInput(
                "a supply that does not settle", "a supply that comes to a repeating state",
                "Check the values of its reservoirs and windings against each other.", field="supply",
            )  # fmt: skip
        return found

    def set(self, state: State, seconds: float | None = None) -> None:
        """Set the bench anew."""
        self.state = state
        self.seconds = self.seconds if seconds is None else seconds
        self.__dict__.pop("_outcome", None)

    @property
    def events(self) -> list[str]:
        """What happened since it was switched on."""
        return [words for rows, words in self._outcome.said if rows[0]]

    def read(self, asked: Asked) -> MeterReading:
        """Take a reading with a meter.

        Args:
            asked: what is asked for.

        Returns:
            The number, its unit, and how the meter shows it.

        Raises:
            BadInput: what cannot be read so.
        """
        outcome = self._outcome
        value = float(read_values(self.bench, self._values, self.state, outcome, asked)[0])
        return MeterReading(asked, metered(value, UNITS[asked.what], self._rng))

    def expected(self, asked: Sequence[Asked]) -> list[Band]:
        """What these points should read if the parts were as the survey has them."""
        return bands(self.bench, self.state, asked, self.seconds)

    def limited(self) -> bool:
        """Whether the source is in its limit."""
        return bool(self._outcome.limited[0])

    @property
    def mains_amps(self) -> float:
        return float(self._outcome.mains_amps[0])

    def trace(self, point: str, points: int, cycles: int = 2) -> tuple[Floats, float]:
        """What a scope shows of a rail or a store: V at each point, and s between two."""
        outcome = self._outcome
        wave, switching, rate = _waves(self.bench, outcome, point)
        span = cycles / self.state.frequency if self.state.on else 0.04
        time = np.arange(points) * span / points
        at = (time * self.state.frequency % 1.0) * len(wave)
        volts = np.interp(at, np.arange(len(wave)), wave, period=len(wave))
        if switching and rate:
            volts = volts + switching * (np.abs((time * rate % 1.0) * 2 - 1) - 0.5)
        noise = (0.0004 + 0.001 * float(np.ptp(volts))) * self._rng.standard_normal(points)
        return volts + noise, span / points


def _waves(bench: Bench, outcome: Outcome, point: str) -> tuple[Floats, float, float]:
    """A cycle of a point, its switching ripple p-p, and the rate of that, Hz."""
    if point in outcome.rails:
        rail, place = outcome.rails[point], bench.rails[point]
        fed = bench.branches[place.branch].converter
        return rail.volts[0], float(rail.switching[0]), fed.frequency if fed else 0.0
    if point in outcome.stores:
        store = outcome.stores[point]
        rates = [b.converter.frequency for b in bench.branches if b.converter]
        return store.volts[0], float(store.switching[0]), rates[0] if rates else 0.0
    raise BadInput(point, "a rail or a capacitor", field="scope")
