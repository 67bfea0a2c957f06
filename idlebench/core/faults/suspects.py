"""Which parts explain all that was read: every hypothesis simulated for every reading, in one run for each state of the bench.

All readings are weighed together: a reading's own error is max(3 % of it, a floor), and mains, loads and tolerances move several at
once (weighing.py). That nothing is wrong, and that something is wrong which the lines do not know, are weighed as any part is. Signs
that were seen count as readings that are yes or no. Two faults at once are tried where no single one explains.

Source: Bayes' rule; widths and how rare a pair is: workshop practice, because nobody has counted them: the bench's own draws and a
meter's least digits.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..simulate.outcome import Outcome
from ..simulate.readings import read_values
from ..simulate.rectifier import MIDDLING, Floats
from ..simulate.state import State
from ..simulate.steady_state import run
from ..text.quantity import show
from .clues import ClueReading, Fitted, Mark, RankedSuspects, Said, Suspect, chance, degrees_of
from .hypotheses import NOTHING_WRONG, Hypothesis
from .predictions import Predictions
from .severity import Severity, Step, severity_of
from .signs import FALSE, FINE, Sign, likelihood
from .weighing import FAR, SLIP, covariance, fitted, unknown, weigh

#: Under this probability the best explanation explains nothing; so many suspects are paired; pairs are so much rarer.
NOTHING, PAIRED, RARER = 0.01, 12, 0.05
#: From this probability on a sound supply explains what was read.
SOUND = 0.05
#: How often a supply that is asked about has nothing wrong, and how often something that its lines do not tell.
SOUND_BEFORE, UNKNOWN_BEFORE = 0.20, 0.10
#: Two drifts at once are told this roughly, as a share of a reading.
ROUGHLY = 0.15
#: A reading that one suspect misses by so much more than both, in widths, squared, is explained by the other.
MISSED = 4.0


@dataclass(kw_only=True)
class Inquiry(Predictions):
    """A supply under suspicion."""

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
        gives = [self.gives(one.state, one.asked) for one in readings]
        read = np.array([math.inf if one.value is None else one.value for one in readings], float)
        error = np.array([self.error(one) for one in readings], float)
        drawn = np.array([self.drawn(one.state, one.asked) for one in readings])
        together = covariance(drawn)
        shape = len(self.fine) + 1, len(readings)
        coarse = np.array([self.coarse(one.state, one.asked) for one in readings])
        fit = weigh(read, np.array(gives).T.reshape(shape), error, together, coarse.T.reshape(shape))
        before = np.array([one.prior for one in self.fine])
        nothing = np.array([one is self.singles[-1] for one in self.singles])[self.owner]
        before = np.where(nothing, SOUND_BEFORE, before / before[~nothing].sum() * (1 - SOUND_BEFORE - UNKNOWN_BEFORE))
        logs = np.log(before) + fit.logs[1:]
        none = math.log(UNKNOWN_BEFORE) + unknown(
            read, np.array([one[0] for one in gives]), error, together, [_point(one) for one in readings]
        )
        outcome = self.outcome(state) if signs and state is not None and state.on else None
        said = [
            replace(one, like=one.like[self.owner]) for one in self._said(signs, marks, self.singles, outcome, state)
        ]
        for one in said:
            logs, none = logs + np.log(one.like), none + math.log(float((one.like * before).sum() / before.sum()))
        degrees = degrees_of(readings)
        best = int(np.argmax(logs))
        explains = not degrees or chance(float(fit.misses[1:][best]), degrees) >= NOTHING
        pairs = () if explains else self._pairs(readings, signs, state, logs, marks)
        if not explains:
            # below a fit that an engineer would accept nothing is named first
            none = max(none, float(logs.max()) + math.log(1.01))
        shares = _shares(np.append(logs, none))
        whole = np.bincount(self.owner, shares[:-1], len(self.singles))
        told = self._told(self.fine, shares[:-1], readings, gives, said)
        suspects = tuple(
            replace(one, severity=self._severity(one, shares)) for one in told if one.place != NOTHING_WRONG.place
        )
        unexplained = bool(shares[-1] > max((one.share for one in told), default=0.0))
        off = self._off(read, np.array([one[best + 1] for one in gives]), error, together, drawn, readings, state)
        fits = degrees > 0 and not signs and chance(float(fit.misses[0]), degrees) >= SOUND
        return RankedSuspects(suspects, unexplained, pairs, float(whole[-1]), float(shares[-1]), off, fits)

    def _severity(self, suspect: Suspect, shares: Floats) -> Severity | None:
        """How far a suspect has drifted, by the shares of its severities."""
        own = [i for i, one in enumerate(self.fine) if one.suspect == (suspect.ref, suspect.failure)]
        steps = [
            Step(
                before=self.singles[self.low[i] - 1].faults if self.low[i] else (),
                after=self.singles[self.high[i] - 1].faults,
                way=float(self.mix[i]),
                share=float(shares[i]),
            )
            for i in own
        ]
        return severity_of(self.bench, suspect.ref, steps)

    def _off(
        self,
        read: Floats,
        there: Floats,
        error: Floats,
        together: Floats,
        drawn: Floats,
        readings: Sequence[ClueReading],
        state: State | None,
    ) -> Fitted | None:
        """Mains and loads as the readings have them, with the likeliest of all."""
        live = next((one.state for one in readings if one.state.on), None)
        if live is None:
            # nothing was read under power: as they were typed
            if state is None or not state.on:
                return None
            typed = {name: rail.current for name, rail in self.bench.rails.items()}
            return Fitted(mains=state.volts * state.variable, loads=typed)
        values, _ = self.draws[repr(live)]
        shown = np.where(np.isfinite(drawn), drawn, 0.0)
        centred = shown - shown.mean(axis=1, keepdims=True)

        def share(ref: str, field: str) -> float:
            own = values.get(ref, field, 1.0)
            along = centred @ (own - own.mean()) / max(len(own) - 1, 1)
            return float(own.mean()) + fitted(read, there, error, together, along)

        loads = {
            name: share(name, "load") * (rail.board if live.load_of(name) == "board" and rail.board else rail.current)
            for name, rail in self.bench.rails.items()
        }
        return Fitted(mains=live.volts * live.variable * share("mains", "share"), loads=loads)

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
            if sign.what not in FINE and like.max() == like.min():
                # of what no model tells a supply with nothing wrong shows little
                like = np.where([one.place == NOTHING_WRONG.place for one in many], FALSE, like)
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
        marks: Sequence[Mark],
    ) -> tuple[Suspect, ...]:
        """Two faults at once of which each explains a reading that the other cannot; their shares add up to one."""
        some = self._explaining_some(readings, logs)
        pairs = [
            (a, b) for i, a in enumerate(some) for b in some[i + 1 :] if self.singles[a].ref != self.singles[b].ref
        ]
        joined = [_both(self.singles[a], self.singles[b]) for a, b in pairs]
        if not joined:
            return ()
        values = self.put([one.faults for one in joined])
        both = np.log(np.array([one.prior for one in joined]))
        misses, gives, runs = [], [], dict[str, Outcome]()
        for one in readings:
            if repr(one.state) not in runs:
                runs[repr(one.state)] = run(self.bench, values, one.state, grids=MIDDLING)
            there = read_values(self.bench, values, one.state, runs[repr(one.state)], one.asked)
            log, miss = self._fits(one, there, rough=True)
            both = both + log[1:]
            misses.append(miss[1:])
            gives.append(there)
        shown = signs and state is not None and state.on
        seen = run(self.bench, values, state, grids=MIDDLING) if shown and state is not None else None
        said = self._said(signs, marks, joined, seen, state)
        for one in said:
            both = both + np.log(one.like)
        alone = [self._fits(one, self.predicted(one.state, one.asked), rough=True)[1][1:] for one in readings]
        fit, single = np.array(misses), np.array(alone)
        # what the one cannot explain and both can, the other explains
        first, second = (single[:, [pair[i] for pair in pairs]] - fit > MISSED for i in (0, 1))
        needed = first.any(axis=0) & second.any(axis=0)
        if (
            not needed.any()
            or chance(float(fit.sum(axis=0)[np.argmax(np.where(needed, both, -np.inf))]), degrees_of(readings))
            < NOTHING
        ):
            return ()
        shares = _shares(np.where(needed, both, -np.inf))
        return tuple(one for one in self._told(joined, shares, readings, gives, said)[:12] if one.share > 0)

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
        for suspect in sorted(whole, key=lambda one: -whole[one]):
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


def _point(one: ClueReading) -> tuple[str, bool]:
    """What readings of one point have in common: its volts, steady or under a step and at either end, or its ripple."""
    return one.asked.point, one.asked.what.startswith("ripple")


def _shares(logs: Floats) -> Floats:
    up = np.exp(logs - logs.max())
    return up / up.sum()


def _both(a: Hypothesis, b: Hypothesis) -> Hypothesis:
    """Two faults at once: both rare."""
    return Hypothesis(
        ref=f"{a.ref} + {b.ref}",
        failure=f"{a.failure} + {b.failure}",
        place=f"{a.place} + {b.place}",
        severity=0,
        prior=a.prior * b.prior * RARER,
        faults=(*a.faults, *b.faults),
    )
