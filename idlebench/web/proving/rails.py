"""Rails on First power: each aspect of a rail with what was read, what is allowed and what these parts should give."""

from __future__ import annotations

from dataclasses import dataclass

from idlebench.core import prove
from idlebench.core.draw.gauge import Gauge, from_nought, gauge
from idlebench.core.prove.expect import Expected

from ..unit.expecting import Expecting
from ..unit.state import UnitState
from .check_rows import CheckRow, row_of

#: What is asked of each aspect, and what its number is called where it is read.
ASPECTS = {"volts": "volts", "ripple": "ripple p-p, or rms", "lowest": "lowest under a load step"}
#: The states of a rail, the one that counts most first.
WORST = ("failed", "not yet", "look twice", "passed")


@dataclass(frozen=True, kw_only=True)
class Aspect:
    """Volts, ripple or lowest of a rail. before: what was read earlier. why: what would explain a reading that is not expected."""

    name: str
    title: str
    row: CheckRow
    gauge: Gauge
    expected: Expected | None
    state: str
    tag: str
    why: str
    before: float | None

    @property
    def value(self) -> float | None:
        """What was read and still counts."""
        return self.row.reading.value if self.row.reading and not self.row.void else None


@dataclass(frozen=True)
class RailRow:
    """A rail on the page."""

    name: str
    aspects: tuple[Aspect, ...]
    state: str

    @property
    def volts(self) -> Aspect:
        return self.aspects[0]

    @property
    def failed(self) -> list[Aspect]:
        return [one for one in self.aspects if one.state == "failed"]

    @property
    def unexplained(self) -> list[Aspect]:
        return [one for one in self.aspects if one.state == "look twice"]


def rail_rows(state: UnitState, step: prove.PowerStep, expecting: Expecting) -> list[RailRow]:
    """The rails of a step with their gauges."""
    rows = []
    for name in dict.fromkeys(c.rail for c in step.checks if c.rail and c.aspect):
        checks = {c.aspect: c for c in step.checks if c.rail == name and c.aspect}
        volts = checks.get("volts")
        if volts is None or volts.low is None or volts.high is None or volts.nominal is None:
            continue
        aspects = tuple(_aspect(state, checks[one], expecting) for one in ASPECTS if one in checks)
        states = [one.state for one in aspects]
        rows.append(RailRow(name, aspects, next((word for word in WORST if word in states), "not yet")))
    return rows


def _aspect(state: UnitState, check: prove.Check, expecting: Expecting) -> Aspect:
    row = row_of(state, check)
    value = row.reading.value if row.reading and not row.void else None
    should = expecting.of.get(check.key)
    before = _before(state, check, row)
    word = row.state
    if word == "passed" and should is not None and should.unexplained(value):
        word = "look twice"
    why = expecting.why(check, value) if value is not None and word in ("failed", "look twice") else ""
    frame = (should.band.low, should.band.high) if should else None
    if check.aspect == "ripple":
        drawn = from_nought(check.high or 0.0, value, frame, before)
    else:
        drawn = gauge(check.nominal or 0.0, check.low or 0.0, check.high or 0.0, value, frame, before)
    return Aspect(
        name=check.aspect,
        title=ASPECTS[check.aspect],
        row=row,
        gauge=drawn,
        expected=should,
        state=word,
        tag=_tag(check, value, word, should),
        why=why,
        before=before,
    )


def _tag(check: prove.Check, value: float | None, word: str, should: Expected | None) -> str:
    """The state in words, beside the number."""
    if value is None:
        return "not read yet"
    if word == "failed":
        return "over its limit" if check.aspect == "ripple" else "outside its limits"
    if word == "look twice":
        return "allowed, not explained"
    return "inside, and as expected" if should else "inside"


def _before(state: UnitState, check: prove.Check, row: CheckRow) -> float | None:
    """What was read earlier: a reading that counts no more, or the same of an earlier step."""
    if row.reading and row.void:
        return row.reading.value
    earlier = None
    for step in state.proof.steps:
        if step.key == check.step:
            return earlier
        for other in step.checks:
            if other.rail == check.rail and other.aspect == check.aspect and (found := state.reading_of(other)):
                earlier = found.value
    return earlier
