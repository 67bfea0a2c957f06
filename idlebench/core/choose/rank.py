"""Many parts against a place, best first, with the reasons of each; refused ones after, with the numbers that refused them.

Source: the rules of choose.rules; what is put first among parts that fit: workshop practice, because two parts that fit differ in what a
restorer would take, not in what a standard says.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from ..board.parts import KINDS, ON_PADS, Capacitor
from ..judge.policy import Weights
from . import fit_rules, rules, strain_rules
from .columns import KIND_CODE
from .need import Need
from .rules import FAILS, FITS, VERDICT_NAMES, Alike, Columns
from .ruling import Rule, Ruling
from .stand_in import LOOK_TWICE
from .strain_rules import EVERYDAY

#: Catalogues above this many rows are searched near the place's value only.
SEARCH_ALL = 500
#: How many rows are looked at in one go: few enough for the arrays to stay in the processor's cache.
BATCH = 20_000
#: What no part falls short of.
NONE = -math.inf
#: Whether a kind is another than the old part's, by the old one's number and the new one's.
OTHER_KIND = 1.0 - np.eye(len(KINDS))
#: A score that no part has: it keeps places and verdicts apart where all are sorted at once.
WORST = 1e3
#: What one row more adds, so that equal scores keep the catalogue's order on every machine.
TIES = 1e-9
#: How far past the value window near misses are looked for.
NEAR = 2.2


@dataclass(frozen=True, kw_only=True)
class Reason:
    """What one rule says of one part. value and limit are SI where the rule has numbers."""

    rule: str
    text: str
    status: int
    value: float | None = None
    limit: float | None = None
    unit: str = ""
    at_least: bool = True

    def as_json(self) -> dict[str, object]:
        return {"rule": self.rule, "text": self.text, "value": self.value, "limit": self.limit}


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A part judged for a place: its verdict, the reasons worth saying, and the margins for the bars."""

    part: Capacitor
    status: int
    score: float
    reasons: tuple[Reason, ...]
    margins: tuple[Reason, ...]

    @property
    def verdict(self) -> str:
        return VERDICT_NAMES[self.status]

    def as_json(self) -> dict[str, object]:
        return {"part": self.part.part, "verdict": self.verdict, "reasons": [r.as_json() for r in self.reasons]}


#: The rules whose numbers are drawn as margin bars, with their names for people.
BARS = {"volts": "Voltage", "safety": "AC rating", "ripple": "Ripple", "esr": "ESR", "life": "Life"}


@dataclass(frozen=True, eq=False, kw_only=True)
class Ranking:
    """All that a search over a catalogue gave for a place. Rows in order are cheap; reasons are worked out for what is asked.

    need: of the place. columns: the catalogue. rows: the rows that go in, best first. fits, refused: how many get reasons.
    """

    need: Need
    columns: Columns
    rows: np.ndarray
    fits: int = 6
    refused: int = 4

    @property
    def fitting(self) -> int:
        """How many parts go in."""
        return len(self.rows)

    @property
    def searched(self) -> int:
        return len(self.columns)

    @cached_property
    def candidates(self) -> tuple[Candidate, ...]:
        """The best that go in, then the nearest of those refused, each with its reasons."""
        first = self.rows[: self.fits]
        if not self.refused:
            return _candidates(self.need, self.columns.take(first))
        return _with_nearest(self.need, self.columns, first, self.refused)

    @cached_property
    def best(self) -> Candidate | None:
        """The first that goes in."""
        if not len(self.rows):
            return None
        if "candidates" in self.__dict__ and self.fits:
            return self.candidates[0]
        return _candidates(self.need, self.columns.take(self.rows[:1]))[0]


def rank(need: Need, columns: Columns, *, fits: int = 6, refused: int = 4) -> Ranking:
    """Rank a catalogue for one place; see rank_many."""
    return rank_many([need], columns, fits=fits, refused=refused)[0]


def rank_many(needs: Sequence[Need], columns: Columns, *, fits: int = 6, refused: int = 4) -> list[Ranking]:
    """Rank a catalogue for many places in one run.

    Args:
        needs: what each place asks, the policy with its weights in it.
        columns: the catalogue. fits, refused: how many of each get reasons, when they are asked for.
        fits: how many that fit are wanted.
        refused: how many that do not fit are wanted.

    Returns:
        A Ranking for each need: parts that go in first, those of the old part's kind before any other kind, then fits before look
        twice, then by score.
    """
    asked = [need.same for need in needs]
    once = dict(zip(reversed(asked), reversed(needs), strict=True))
    found = dict(zip(once, _search(list(once.values()), columns), strict=True))
    return [
        Ranking(need=need, columns=columns, rows=found[key], fits=fits, refused=refused)
        for need, key in zip(needs, asked, strict=True)
    ]


def _search(needs: Sequence[Need], columns: Columns) -> list[np.ndarray]:
    """The rows that go into each place, best first. Places that ask the same are looked for once by the caller."""
    # the catalogue is sorted by value, so a place's window is one slice of it: most of the catalogue is never looked at
    bounds = np.array([(need.value_low * 0.999, need.value_high * 1.001) for need in needs]).reshape(-1, 2)
    low, high = (np.searchsorted(columns["value"], bounds[:, i]) for i in (0, 1))
    rows = [
        _possible(need, columns, slice(*cut)) for need, *cut in zip(needs, low.tolist(), high.tolist(), strict=True)
    ]
    # places that differ in numbers only share each rule's array run; what changes a rule's branches keeps them apart
    groups: dict[tuple[object, ...], list[int]] = {}
    for i, need in enumerate(needs):
        groups.setdefault(need.alike, []).append(i)
    found: list[np.ndarray] = [np.empty(0, dtype=np.intp)] * len(needs)
    for members in groups.values():
        for batch in _batches(members, rows):
            counts = [len(rows[i]) for i in batch]
            together = np.concatenate([rows[i] for i in batch])
            ordered = _ordered(Alike([needs[i] for i in batch], counts), columns.take(together), together, counts)
            for i, best in zip(batch, ordered, strict=True):
                found[i] = best
    return found


def _batches(members: Sequence[int], rows: Sequence[np.ndarray]) -> Iterator[list[int]]:
    """Places in batches of about BATCH rows, those without any left out."""
    # larger arrays fall out of the processor's cache, smaller ones pay numpy's call more often
    batch: list[int] = []
    total = 0
    for i in members:
        if not len(rows[i]):
            continue
        batch.append(i)
        total += len(rows[i])
        if total >= BATCH:
            yield batch
            batch, total = [], 0
    if batch:
        yield batch


def _possible(need: Need, columns: Columns, cut: slice) -> np.ndarray:
    """Rows of a cut by value that the plainest rules leave: make, temperature, volts, diameter, height."""
    goes = _goes(need.role.name, need.kind, need.mounting, need.policy.kinds == "same")
    kept = goes.take(columns["make"][cut], mode="clip")
    on_pads = need.mounting in ON_PADS
    asked = np.array(
        (
            (need.temperature - 0.5 if need.temperature > EVERYDAY else NONE,),
            (NONE if need.role.safety else max(need.marked, need.place_volts) * 0.999,),
            (NONE if on_pads or need.diameter is None else -need.diameter - 0.05,),
            (NONE if on_pads or need.height is None or need.mounting == "axial" else -need.height - 0.05,),
        )
    )
    kept &= (columns.plain[:, cut] >= asked).all(axis=0)
    return kept.nonzero()[0] + cut.start


@lru_cache(maxsize=512)
def _goes(role: str, kind: str, mounting: str, same: bool) -> np.ndarray:
    """Which makes, kind and mounting together, are not refused outright."""
    kinds, mountings = rules.kind_grades(role, kind, same)[0], fit_rules.mounting_grades(mounting)[0]
    return ((kinds != FAILS)[:, None] & (mountings != FAILS)[None, :]).ravel()


def _ordered(alike: Alike, rows: Columns, numbers: np.ndarray, counts: Sequence[int]) -> list[np.ndarray]:
    """For each of the places in a group, the catalogue rows that go in, best first."""
    status = _graded_by(rules.SIEVE, alike, rows)
    left = (status != FAILS).nonzero()[0]
    status, numbers, counts = (
        status.take(left),
        numbers.take(left),
        np.bincount(alike.place.take(left), minlength=len(counts)),
    )
    alike, rows = Alike(alike.needs, counts), rows.take(left)
    np.maximum(status, _graded_by(rules.AFTER_SIEVE, alike, rows), out=status)
    good = (status != FAILS).nonzero()[0]
    place = alike.place.take(good, mode="clip")
    # one number a row, so that one sort orders all places at once: place before change of kind before verdict before score before
    # catalogue order
    other = alike.by_place(lambda one: OTHER_KIND[KIND_CODE[one.kind]], rows["kind"])
    key = np.minimum(scores(alike, rows), WORST) + (status + 2.0 * other) * WORST
    key = key.take(good, mode="clip") + place * (5 * WORST) + np.arange(len(good)) * TIES
    order = np.argsort(key)
    ends = np.searchsorted(place, np.arange(len(counts) + 1))
    chosen = numbers.take(good.take(order, mode="clip"), mode="clip")
    return [chosen[ends[i] : ends[i + 1]] for i in range(len(counts))]


def _graded_by(of: Iterable[Rule], alike: Alike, rows: Columns) -> np.ndarray:
    """The worst grade of each row by some rules."""
    status = np.zeros(len(rows), dtype=np.int8)
    for rule in of:
        ruling = rule(alike, rows)
        if ruling is not None:
            np.maximum(status, ruling.status, out=status)
    return status


def judge_parts(need: Need, parts: Iterable[Capacitor]) -> tuple[Candidate, ...]:
    """Judge given parts for a place, in the order given: the same rules, no ranking."""
    parts = list(parts)
    found = {c.part.part: c for c in _candidates(need, Columns.of(parts))}
    return tuple(found[part.part] for part in parts)


def rulings_of(alike: Alike, columns: Columns) -> list[Ruling]:
    """What every rule says of every row."""
    return [ruling for rule in rules.RULES if (ruling := rule(alike, columns)) is not None]


def status_of(need: Need, columns: Columns) -> np.ndarray:
    """FITS, LOOK_TWICE or FAILS of every row for one place."""
    return np.maximum.reduce([r.status for r in rulings_of(Alike([need], [len(columns)]), columns)])


def _candidates(need: Need, columns: Columns) -> tuple[Candidate, ...]:
    """Every row with its reasons, in the order they stand."""
    if not len(columns):
        return ()
    alike = Alike([need], [len(columns)])
    rulings = rulings_of(alike, columns)
    status = np.maximum.reduce([r.status for r in rulings])
    score = scores(alike, columns)
    return tuple(_candidate(columns, rulings, i, int(status[i]), float(score[i])) for i in range(len(columns)))


def _with_nearest(need: Need, columns: Columns, first: np.ndarray, most: int) -> tuple[Candidate, ...]:
    """Some rows that go in, then the refused ones that come nearest: fewest refusals, then by score.

    The rules run once over all that is near: the rows that go in lie there too, for their values are inside the place's limits.
    """
    low, high = 0, len(columns)
    if len(columns) > SEARCH_ALL:
        low, high = np.searchsorted(columns["value"], [need.value_low / NEAR, need.value_high * NEAR]).tolist()
    near = columns.take(np.arange(low, high))
    if not len(near):
        return ()
    alike = Alike([need], [len(near)])
    rulings = rulings_of(alike, near)
    status = np.maximum.reduce([r.status for r in rulings])
    failures = np.add.reduce([(r.status == FAILS) for r in rulings], dtype=int)
    score = scores(alike, near)
    bad = np.flatnonzero(status == FAILS)
    picked = bad[np.lexsort((score[bad], failures[bad]))][:most]
    return tuple(
        _candidate(near, rulings, i, int(status[i]), float(score[i]))
        for i in (*(first - low).tolist(), *picked.tolist())
    )


#: What another mounting costs in a place whose role is not settled.
UNSETTLED = 10.0
#: What ordinary leakage costs where leakage counts: more than a place on the shelf, less than another value.
LEAKY = 0.4


def scores(need: Alike, columns: Columns) -> np.ndarray:
    """How far each row is from the ideal part; lower is better. Margins count less the larger they are.

    fmax and fmin take the other of two where one is not a number: what is not known neither helps nor harms, but for ripple.
    """
    weights = need.policy.weights
    score = weights.value * np.abs(columns["log2"] - need.log2)
    if not need.classes:
        aim = 0 if need.policy.values == "exact" else 1
        score += np.abs(columns["step"] - (need.marked_step + aim)) * (weights.volts * (need.marked > 0))
    score += weights.margin * np.exp(
        -np.fmin(strain_rules.expected_life(need, columns) * (1 / strain_rules.LIFE_WANTED), 3.0)
    )
    if need.any("ripple"):
        rating = np.fmin(np.fmax(strain_rules.ripple_rating(need, columns) / np.maximum(need.ripple, 1e-9), 0.0), 50.0)
        score += np.exp(-rating) * (weights.margin * (need.ripple > 0))
    score += columns.standing_costs(weights)
    score += columns["height"] * (weights.height * need.per_height)
    if need.any("unsettled"):
        # where nobody has said what the place does, another mounting never comes first
        score += UNSETTLED * (need.unsettled & (fit_rules.mounting_rule(need, columns).status > 0))
    if need.any("leaks"):
        score += LEAKY * (need.leaks & columns["leaky"])
    score += weights.forming * np.fmax(np.abs(columns["leads"] - need.pitch), 0.0)
    return score


def _candidate(cols: Columns, rulings: list[Ruling], i: int, status: int, score: float) -> Candidate:
    said, bars = [], []
    for ruling in rulings:
        reason = Reason(
            rule=ruling.rule,
            text=ruling.say(i),
            status=int(ruling.status[i]),
            value=ruling.number(i),
            limit=ruling.limit,
            unit=ruling.unit,
            at_least=ruling.at_least,
        )
        if reason.text:
            said.append(reason)
        if ruling.rule in BARS and reason.value is not None:
            bars.append(reason)
    said.sort(key=lambda r: -r.status)
    return Candidate(part=cols.part(i), status=status, score=score, reasons=tuple(said), margins=tuple(bars))


__all__ = [
    "BARS", "FAILS", "FITS", "LOOK_TWICE", "Alike", "Candidate", "Ranking", "Reason", "Weights", "judge_parts", "rank", "rank_many",
    "status_of",
]  # fmt: skip
