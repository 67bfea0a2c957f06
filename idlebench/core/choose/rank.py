"""Many parts against a place, best first, with the reasons of each; refused ones after, with the numbers that refused them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..parts import Capacitor
from . import rules
from .need import Need
from .rules import FAILS, FITS, LOOK_TWICE, VERDICT_NAMES, Columns, Ruling

#: Catalogues above this many rows are searched near the place's value only.
SEARCH_ALL = 500
#: How far past the value window near misses are looked for.
NEAR = 2.2


@dataclass(frozen=True)
class Weights:
    """How much each thing counts among parts that fit; a policy's own, shown with the plan. Lower scores come first.

    value: per doubling away from the marked value. volts: per rating away from one step up. margin: what the first margin
    of life and of ripple is worth, falling off as it grows. shelf: for a part not on the shelf. price: per unit of money.
    height: per old height. forming: per mm of lead forming.
    """

    value: float = 2.0
    volts: float = 0.25
    margin: float = 0.8
    shelf: float = 0.25
    price: float = 0.05
    height: float = 0.15
    forming: float = 0.05


@dataclass(frozen=True)
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


@dataclass(frozen=True)
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


@dataclass(frozen=True)
class Ranking:
    """All that a search over a catalogue gave for a place."""

    need: Need
    candidates: tuple[Candidate, ...]
    fitting: int
    searched: int

    @property
    def best(self) -> Candidate | None:
        first = self.candidates[0] if self.candidates else None
        return first if first and first.status != FAILS else None


#: The rules whose numbers are drawn as margin bars, with their names for people.
BARS = {"volts": "Voltage", "safety": "AC rating", "ripple": "Ripple", "esr": "ESR", "life": "Life"}


def rank(need: Need, columns: Columns, *, weights: Weights = Weights(), fits: int = 6, refused: int = 4) -> Ranking:
    """Rank a catalogue for one place.

    Args:
        need: what the place asks. columns: the catalogue. weights: what counts among parts that fit.
        fits, refused: how many of each to give reasons for.

    Returns:
        Ranking: fitting parts first (fits before look twice, then by score), then the nearest refused ones.
    """
    cols = _near(need, columns)
    if not len(cols):
        return Ranking(need, (), 0, len(columns))
    rulings = rulings_of(need, cols)
    status = np.maximum.reduce([r.status for r in rulings])
    failures = np.add.reduce([(r.status == FAILS) for r in rulings], dtype=int)
    score = scores(need, cols, weights)
    good = np.flatnonzero(status != FAILS)
    bad = np.flatnonzero(status == FAILS)
    first = good[np.lexsort((score[good], status[good]))][:fits]
    then = bad[np.lexsort((score[bad], failures[bad]))][:refused]
    picked = tuple(_candidate(cols, rulings, int(i), int(status[i]), float(score[i])) for i in (*first, *then))
    return Ranking(need, picked, len(good), len(columns))


def judge_parts(need: Need, parts: Iterable[Capacitor], weights: Weights = Weights()) -> tuple[Candidate, ...]:
    """Judge given parts for a place, in the order given: the same rules, no ranking."""
    columns = Columns.of(parts)
    rulings = rulings_of(need, columns)
    status = np.maximum.reduce([r.status for r in rulings])
    score = scores(need, columns, weights)
    found = {
        part.part: _candidate(columns, rulings, i, int(status[i]), float(score[i]))
        for i, part in enumerate(columns.parts)
    }
    return tuple(found[part.part] for part in parts)


def rulings_of(need: Need, columns: Columns) -> list[Ruling]:
    """What every rule says of every row."""
    return [ruling for rule in rules.RULES if (ruling := rule(need, columns)) is not None]


def _near(need: Need, columns: Columns) -> Columns:
    if len(columns) <= SEARCH_ALL:
        return columns
    value = columns["value"]
    low, high = np.searchsorted(value, [need.value_low / NEAR, need.value_high * NEAR])
    return columns.slice(int(low), int(high))


def scores(need: Need, columns: Columns, weights: Weights) -> np.ndarray:
    """How far each row is from the ideal part; lower is better. Margins count less the larger they are."""
    score = weights.value * np.abs(np.log2(columns["value"] / need.value))
    if need.old.volts and not need.role.safety:
        score += weights.volts * np.abs(rules._steps(columns["volts"], need.old.volts) - 1)
    life = rules.expected_life(need, columns)
    score += weights.margin * np.exp(-np.nan_to_num(life / rules.LIFE_WANTED, nan=3.0))
    if need.ripple:
        rating = rules.ripple_rating(need, columns)
        score += weights.margin * np.exp(-np.nan_to_num(rating / need.ripple, nan=0.0))
    score += weights.shelf * (columns["stock"] <= 0) + weights.price * columns["price"]
    if need.old.height:
        score += weights.height * columns["height"] / need.old.height
    if need.pitch:
        score += weights.forming * np.where(columns["pitch"] > 0, np.abs(columns["pitch"] - need.pitch), 0.0)
    return score


def _candidate(cols: Columns, rulings: list[Ruling], i: int, status: int, score: float) -> Candidate:
    said, bars = [], []
    for ruling in rulings:
        reason = Reason(
            ruling.rule,
            ruling.say(i),
            int(ruling.status[i]),
            ruling.number(i),
            ruling.limit,
            ruling.unit,
            ruling.at_least,
        )
        if reason.text:
            said.append(reason)
        if ruling.rule in BARS and reason.value is not None:
            bars.append(reason)
    said.sort(key=lambda r: -r.status)
    return Candidate(cols.parts[i], status, score, tuple(said), tuple(bars))


__all__ = ["BARS", "FAILS", "FITS", "LOOK_TWICE", "Candidate", "Ranking", "Reason", "Weights", "judge_parts", "rank"]
