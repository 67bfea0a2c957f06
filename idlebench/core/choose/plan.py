"""A whole survey at once: judge every part, let the policy decide, rank what must be replaced."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, fields

from ..board.devices import Device
from ..board.parts import Capacitor, Fitted
from ..judge.device_verdict import judge_device
from ..judge.evidence import SeriesCount
from ..judge.policy import Policy, policy_of
from ..judge.verdict import REPLACE, Decision, Verdict, decide, judge
from ..refusal import BadInput
from .by_limits import NEEDS, rank_by_limits
from .need import Mains, Need, need_of
from .rank import Ranking, rank_many
from .regulators_and_fuses import Judged
from .rules import FAILS, Columns


@dataclass(frozen=True, kw_only=True)
class Place:
    """One place of a plan."""

    part: Fitted
    verdict: Verdict
    decision: Decision
    need: Need
    ranking: Ranking | None

    @property
    def chosen(self) -> Capacitor | None:
        best = self.ranking.best if self.ranking else None
        return best.part if best else None

    @property
    def outcome(self) -> str:
        """``fits``, ``look twice``, ``fails`` or ``keep``."""
        if self.ranking is None:
            return "keep"
        return self.ranking.best.verdict if self.ranking.best else "fails"

    def as_json(self) -> dict[str, object]:
        return {
            "ref": self.part.ref,
            "need": self.need.as_json(),
            "chosen": self.chosen.part if self.chosen else None,
            "verdict": self.outcome,
            "judged": self.verdict.name,
            "why": self.decision.why,
            "candidates": [c.as_json() for c in self.ranking.candidates] if self.ranking else [],
        }


@dataclass(frozen=True, kw_only=True)
class OtherPlace:
    """A place of a part that is no capacitor. need: what it asks, None for a kind without limits. ranked: what goes in, judged."""

    device: Device
    verdict: Verdict
    need: object | None = None
    ranked: tuple[Judged, ...] = ()

    @property
    def best(self) -> Judged | None:
        return next((one for one in self.ranked if one.status != FAILS), None)

    @property
    def outcome(self) -> str:
        """``fits``, ``look twice``, ``fails`` or ``keep``."""
        if self.verdict.name != REPLACE:
            return "keep"
        return self.best.verdict if self.best else "fails"

    @property
    def why(self) -> str:
        return (
            f"judged bad: {self.verdict.leading}" if self.verdict.name == REPLACE else f"{self.verdict.shown}, it stays"
        )

    def as_json(self) -> dict[str, object]:
        replaced = self.verdict.name == REPLACE
        asked = (
            {one.name: getattr(self.need, one.name) for one in fields(self.need) if one.name != "old"}
            if self.need
            else None
        )
        return {
            "ref": self.device.ref,
            "need": asked,
            "chosen": self.best.part.part if replaced and self.best else None,
            "verdict": self.outcome,
            "judged": self.verdict.name,
            "why": self.why,
            "candidates": [
                {"part": one.part.part, "verdict": one.verdict, "reasons": [r.text for r in one.reasons]}
                for one in (self.ranked if replaced else ())
            ],
        }


def other_places(devices: Iterable[Device], shelf: Callable[[str], Iterable[object]]) -> tuple[OtherPlace, ...]:
    """The places of parts that are no capacitors, judged, and chosen for by the limits of their kind where they have any.

    Args:
        devices: the parts.
        shelf: what may be chosen, by kind.

    Returns:
        A place for each, in order.
    """
    found = []
    for device in devices:
        need = None
        if device.what in NEEDS:
            with suppress(BadInput):
                need = NEEDS[device.what](device)
        ranked = tuple(rank_by_limits(need, shelf(device.what))) if need is not None else ()
        found.append(OtherPlace(device=device, verdict=judge_device(device), need=need, ranked=ranked))
    return tuple(found)


@dataclass(frozen=True)
class Plan:
    """What to do with every place of a survey under one policy."""

    places: tuple[Place, ...]
    policy: str
    others: tuple[OtherPlace, ...] = ()

    def as_json(self) -> dict[str, object]:
        """The plan JSON of the open formats."""
        counts = Counter(place.outcome for place in (*self.places, *self.others))
        price = sum(place.chosen.price for place in self.places if place.chosen)
        by_policy = [p.part.ref for p in self.places if p.decision.replace and p.verdict.name != REPLACE]
        summary = {name: counts.get(name, 0) for name in ("fits", "look twice", "fails", "keep")}
        return {
            "places": [place.as_json() for place in (*self.places, *self.others)],
            "policy": self.policy,
            "summary": {
                "places": len(self.places) + len(self.others),
                **summary,
                "price": round(price, 2),
                "replaced_by_policy_alone": by_policy,
            },
        }


def bad_series(judged: Iterable[tuple[Fitted, Verdict]]) -> frozenset[str]:
    """The series of which a part is judged to be replaced."""
    return frozenset(part.series for part, verdict in judged if part.series and verdict.name == REPLACE)


def count_series(judged: Iterable[tuple[Fitted, bool]]) -> dict[str, SeriesCount]:
    """Failures by series from (part, whether it failed by its looks or readings)."""
    failed, seen = Counter(), Counter()
    for part, bad in judged:
        if part.series:
            seen[part.series] += 1
            failed[part.series] += bad
    return {name: SeriesCount(failed[name], seen[name]) for name in seen}


def without(counts: Mapping[str, SeriesCount], part: Fitted, failed: bool) -> dict[str, SeriesCount]:
    """Series counts with a part itself left out, so that it is not evidence against itself."""
    if part.series not in counts:
        return dict(counts)
    own = counts[part.series]
    return {**counts, part.series: SeriesCount(own.failed - failed, own.seen - 1)}


def judge_all(
    parts: Sequence[Fitted],
    *,
    year: int,
    made: int | None = None,
    esr_criterion: str = "strict",
    counts: Mapping[str, SeriesCount] | None = None,
    meter_frequency: float = 120.0,
) -> dict[str, Verdict]:
    """Judge every part of a survey, by reference; series failures among themselves count where no counts are given."""
    alone = {
        p.ref: judge(p, year=year, made=made, esr_criterion=esr_criterion, meter_frequency=meter_frequency)
        for p in parts
    }
    failed = {ref: verdict.name == REPLACE for ref, verdict in alone.items()}
    known = counts if counts is not None else count_series((p, failed[p.ref]) for p in parts)
    return {
        p.ref: judge(
            p,
            year=year,
            made=made,
            esr_criterion=esr_criterion,
            meter_frequency=meter_frequency,
            series=without(known, p, failed[p.ref]),
        )
        for p in parts
    }


def make_plan(
    parts: Sequence[Fitted],
    columns: Columns,
    *,
    policy: str | Policy = "renew",
    year: int,
    made: int | None = None,
    esr_criterion: str = "strict",
    mains: Mains = Mains(),
    fits: int = 6,
    refused: int = 4,
) -> Plan:
    """Judge, decide and choose for a whole survey.

    Args:
        parts: the parts.
        columns: the columns.
        policy: the policy by which it is decided.
        year: the year it is now.
        made: the year it was made in, None where unknown.
        esr_criterion: strict or lenient: how far ESR may rise.
        mains: the mains as the place sees them.
        fits: how many that fit are wanted.
        refused: how many that do not fit are wanted.

    Returns:
        A verdict, a decision and a ranking for each part.

    Raises:
        BadInput: an unknown policy.
    """
    policy = policy_of(policy)
    verdicts = judge_all(parts, year=year, made=made, esr_criterion=esr_criterion)
    bad = bad_series((p, verdicts[p.ref]) for p in parts)
    needs = {part.ref: need_of(part, mains, policy=policy) for part in parts}
    decisions = {part.ref: decide(part, verdicts[part.ref], policy, bad) for part in parts}
    open_places = [ref for ref, decision in decisions.items() if decision.replace]
    ranked = rank_many([needs[ref] for ref in open_places], columns, fits=fits, refused=refused)
    rankings = dict(zip(open_places, ranked, strict=True))
    return Plan(
        tuple(
            Place(
                part=part,
                verdict=verdicts[part.ref],
                decision=decisions[part.ref],
                need=needs[part.ref],
                ranking=rankings.get(part.ref),
            )
            for part in parts
        ),
        policy.name,
    )
