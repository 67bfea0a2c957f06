"""Which parts explain all that was read: every hypothesis simulated for every reading, in one run for each state of the bench.

A reading's likelihood is a normal of width max(3 % of it, half of what tolerances leave ÷ 1.96, a floor), with a share for a slip
of the hand. Signs that were seen count as readings that are yes or no. Two faults at once are tried where no single one explains.

Source: Bayes' rule; widths and how rare a pair is: workshop practice, because nobody has counted them: the bench's own draws and a
meter's least digits.
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
from ..text.quantity import show
from .clues import ClueReading, Mark, RankedSuspects, Said, Suspect, chance, degrees_of
from .hypotheses import Hypothesis, hypotheses
from .outcome import Shop
from .signs import Sign, likelihood
from .table import Evidence, Place

Ints = NDArray[np.int_]
#: Width of a reading: share of it, and floors by unit; and how often a hand slips.
SHARE, FLOORS, FLOOR_RIPPLE, SLIP = (
    0.03,
    {"V": 0.020, "Ω": 0.05, "A": 0.005, "F": 1e-9, "%": 3.0, "°C": 2.0},
    0.003,
    0.02,
)
#: Draws that the tolerances are told from.
DRAWS = 120
#: Under this probability the best explanation explains nothing; so many suspects are paired; pairs are so much rarer.
NOTHING, PAIRED, RARER = 0.01, 12, 0.05
#: From this probability on a sound supply explains what was read.
SOUND = 0.05
#: Steps between two severities of a drift; two drifts at once are told this roughly, as a share of a reading.
FINE_STEPS, ROUGHLY = 5, 0.15
#: Off the scale counts as this, in widths.
FAR = 6.0


@dataclass(kw_only=True)
class Inquiry:
    """A supply under suspicion. Runs are kept: a further reading costs no more than what is new in it.

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
        self.singles = (*hypotheses(self.bench, self.shop), *others)
        self.values = self._put([one.faults for one in self.singles])
        self.fine, self._low, self._high, self._mix, self.owner = self._between()
        self._outcomes: dict[str, Outcome] = {}
        self._widths: dict[tuple[str, str, str], float] = {}
        self._draws: dict[str, tuple[Values, Outcome]] = {}

    def _put(self, many: Sequence[Sequence[Fault]]) -> Values:
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
        last: dict[tuple[str, str], int] = {}
        kinds = Counter(one.suspect for one in self.singles)
        for i, one in enumerate(self.singles):
            drifts = kinds[one.suspect] > 1
            steps = [k / FINE_STEPS for k in range(1, FINE_STEPS + 1)] if drifts else [1.0]
            for way in steps:
                fine.append(replace(one, prior=one.prior / len(steps)))
                low.append(last.get(one.suspect, -1) + 1)
                high.append(i + 1)
                mix.append(way)
                owner.append(i)
            last[one.suspect] = i
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
        low, high = there[self._low], there[self._high]
        both = np.isfinite(low) & np.isfinite(high)
        with np.errstate(invalid="ignore"):
            between = np.where(both, low + (high - low) * self._mix, np.where(self._mix >= 0.5, high, low))
        return np.concatenate([there[:1], between])

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

    def _half_band(self, state: State, asked: Asked) -> float:
        """Half of what tolerances leave of a reading; one run of draws for each state serves all of its readings."""
        key = repr(state)
        if key not in self._draws:
            values = draws(self.bench, DRAWS)
            self._draws[key] = values, run(self.bench, values, state, grids=ROUGH)
        values, outcome = self._draws[key]
        there = read_values(self.bench, values, state, outcome, asked)
        there = there[np.isfinite(there)]
        return float(np.subtract(*np.percentile(there, [97.5, 2.5])) / 2) if len(there) else 0.0

    def look(
        self,
        readings: Sequence[ClueReading],
        signs: Sequence[Sign] = (),
        state: State | None = None,
        marks: Sequence[Mark] = (),
    ) -> RankedSuspects:
        """What the readings and signs say.

        Args:
            readings: what was read.
            signs: what was seen.
            state: the bench when the signs were seen.
            marks: what is known of parts themselves.

        Returns:
            Suspects with their shares, and what none explains.
        """
        logs = np.log(np.array([one.prior for one in self.fine]))
        misses = np.zeros(len(self.fine))
        gives: list[Floats] = []
        sound = 0.0
        for one in readings:
            there = self.gives(one.state, one.asked)
            gives.append(there)
            log, miss = self._fits(one, there)
            logs, misses, sound = logs + log[1:], misses + miss[1:], sound + float(miss[0])
        outcome = self.outcome(state) if signs and state is not None and state.on else None
        said = [
            replace(one, like=one.like[self.owner]) for one in self._said(signs, marks, self.singles, outcome, state)
        ]
        for one in said:
            logs = logs + np.log(one.like)
        degrees = degrees_of(readings)
        best = float(misses[np.argmax(logs)]) if len(logs) else 0.0
        if degrees and chance(best, degrees) < NOTHING:
            return self._pairs(readings, signs, state, logs, said, marks)
        nothing_wrong = degrees > 0 and not signs and bool(chance(sound, degrees) >= SOUND)
        return RankedSuspects(self._told(self.fine, _shares(logs), readings, gives, said), False, sound=nothing_wrong)

    def _said(
        self,
        signs: Sequence[Sign],
        marks: Sequence[Mark],
        many: Sequence[Hypothesis],
        outcome: Outcome | None,
        state: State | None,
    ) -> list[Said]:
        """What signs and marks say of each of some hypotheses: by the model, and by the table where that has a row."""
        found = []
        for sign in signs:
            like = likelihood(sign, self.bench, many, outcome, state)
            rows = self.evidence.of(sign.what) if self.evidence else {}
            ratios = [max((rows[p].ratio for p in one.place.split(" + ") if p in rows), default=1.0) for one in many]
            reasons = {cause: row.reason for cause, row in rows.items()}
            found.append(Said(sign.words, like * np.array(ratios), reasons))
        for mark in marks:
            hits = [
                any(
                    ref == mark.ref and mark.failure in ("", failure)
                    for ref, failure in zip(one.ref.split(" + "), one.failure.split(" + "), strict=True)
                )
                for one in many
            ]
            found.append(Said(mark.words, np.where(hits, mark.factor, 1.0)))
        return found

    def _fits(self, one: ClueReading, there: Floats, rough: bool = False) -> tuple[Floats, Floats]:
        """Log likelihood and squared miss of a reading, for each row of what is predicted. rough: by severities far apart."""
        width = self.width(one.state, one.asked, one.value)
        if rough and one.value is not None and math.isfinite(one.value):
            width = max(width, ROUGHLY * abs(one.value))
        finite = np.isfinite(there)
        read = math.inf if one.value is None else one.value
        both = finite & math.isfinite(read)
        off = np.where(both, (read - np.where(both, there, read)) / width if math.isfinite(read) else 0.0, FAR)
        off = np.where(~finite & (not math.isfinite(read)), 0.0, off)
        miss = off**2
        return np.log((1 - SLIP) * np.exp(-miss / 2) + SLIP * 0.02), miss

    def _pairs(
        self,
        readings: Sequence[ClueReading],
        signs: Sequence[Sign],
        state: State | None,
        logs: Floats,
        said: Sequence[Said],
        marks: Sequence[Mark],
    ) -> RankedSuspects:
        """Two faults at once, of those that explain some of it."""
        some = self._explaining_some(readings, logs)
        pairs = [
            (self.singles[a], self.singles[b])
            for i, a in enumerate(some)
            for b in some[i + 1 :]
            if self.singles[a].ref != self.singles[b].ref
        ]
        values = self._put([(*a.faults, *b.faults) for a, b in pairs])
        both = np.log(np.array([a.prior * b.prior * RARER for a, b in pairs])) if pairs else np.zeros(0)
        misses, gives = np.zeros(len(pairs)), []
        for key in dict.fromkeys(repr(one.state) for one in readings):
            here = [one for one in readings if repr(one.state) == key]
            outcome = run(self.bench, values, here[0].state, grids=MIDDLING)
            for one in here:
                there = read_values(self.bench, values, one.state, outcome, one.asked)
                log, miss = self._fits(one, there, rough=True)
                both, misses = both + log[1:], misses + miss[1:]
                gives.append((one, there))
        joined = tuple(
            Hypothesis(
                ref=f"{a.ref} + {b.ref}",
                failure=f"{a.failure} + {b.failure}",
                place=f"{a.place} + {b.place}",
                severity=0,
                prior=a.prior * b.prior * RARER,
                faults=(*a.faults, *b.faults),
            )
            for a, b in pairs
        )
        shown = bool(pairs) and bool(signs) and state is not None and state.on
        seen = run(self.bench, values, state, grids=MIDDLING) if shown else None
        told_of = self._said(signs, marks, joined, seen, state) if pairs else []
        for one in told_of:
            both = both + np.log(one.like)
        single = [self.gives(one.state, one.asked) for one in readings]
        explains = len(both) > 0 and chance(float(misses[np.argmax(both)]), degrees_of(readings)) >= NOTHING
        if not explains:
            missed = sum(
                (self._fits(one, there)[1][1:] for one, there in zip(readings, single, strict=True)),
                np.zeros(len(logs)),
            )
            nothing = chance(float(missed[np.argmax(logs)]), degrees_of(readings)) < NOTHING
            return RankedSuspects(self._told(self.fine, _shares(logs), readings, single, said), bool(nothing))
        ordered, told = [one for one, _ in gives], [there for _, there in gives]
        return RankedSuspects(self._told(joined, _shares(both), ordered, told, told_of), False, True)

    def _explaining_some(self, readings: Sequence[ClueReading], logs: Floats) -> list[int]:
        """The likeliest suspects, and for each reading those that come nearest to it; each with all its severities."""
        priors = np.log(np.array([one.prior for one in self.fine]))
        misses = [self._fits(one, self.gives(one.state, one.asked))[1] for one in readings]
        # a reading that a sound supply explains asks for nobody
        order = [logs, *(priors - miss[1:] for miss in misses if miss[0] > 4.0)]
        ranked = [list(dict.fromkeys(self.fine[i].suspect for i in np.argsort(-log))) for log in order]
        picked: dict[tuple[str, str], None] = {}
        for place in range(len(ranked[0])):
            for one in ranked:
                if len(picked) < PAIRED:
                    picked.setdefault(one[place])
        return [i for i, one in enumerate(self.singles) if one.suspect in picked]

    def _told(
        self,
        many: Sequence[Hypothesis],
        shares: Floats,
        readings: Sequence[ClueReading],
        gives: Sequence[Floats],
        said: Sequence[Said],
    ) -> tuple[Suspect, ...]:
        """Suspects by part and failure, what speaks for and against each by its likeliest severity."""
        whole: dict[tuple[str, str], float] = {}
        best: dict[tuple[str, str], int] = {}
        for i, one in enumerate(many):
            whole[one.suspect] = whole.get(one.suspect, 0.0) + float(shares[i])
            if one.suspect not in best or shares[i] > shares[best[one.suspect]]:
                best[one.suspect] = i
        priors = np.array([one.prior for one in many])
        usual = [float((one.like * priors).sum() / priors.sum()) if priors.sum() > 0 else 1.0 for one in said]
        found = []
        for suspect in sorted(whole, key=lambda one: -whole[one])[:12]:
            row = best[suspect]
            good, bad = [], []
            for one, there in zip(readings, gives, strict=True):
                value, sound = float(there[row + 1]), float(there[0])
                given = show(value, one.unit) if math.isfinite(value) else "off the scale"
                off = abs((one.value if one.value is not None else math.inf) - value)
                width = self.width(one.state, one.asked, one.value)
                near = off <= 2 * width or (one.value is None and not math.isfinite(value))
                both = math.isfinite(sound) and math.isfinite(value)
                tells = abs(value - sound) > width if both else math.isfinite(sound) != math.isfinite(value)
                if near and tells:
                    good.append(one.words if one.said else f"{one.words}: it explains {given}")
                elif not near:
                    bad.append(one.words if one.said else f"{one.words}: it would give {given}")
            for one, middle in zip(said, usual, strict=True):
                words, speaks = one.of(row, middle)
                reason = next((one.reasons[p] for p in many[row].place.split(" + ") if p in one.reasons), "")
                if speaks is not None:
                    (good if speaks else bad).append(f"{words}: {reason}" if speaks and reason else words)
            ref, failure = suspect
            found.append(
                Suspect(
                    ref=ref,
                    failure=failure,
                    share=whole[suspect],
                    speaks_for=tuple(good),
                    against=tuple(bad),
                    place=many[row].place,
                    faults=many[row].faults,
                )
            )
        return tuple(found)


def _shares(logs: Floats) -> Floats:
    up = np.exp(logs - logs.max())
    return up / up.sum()
