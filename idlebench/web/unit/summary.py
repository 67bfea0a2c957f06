"""What the Bench and Triage say of a unit, kept with a stamp of all it was reckoned from.

A page of the Bench shows two dozen units and Triage all of a job; to judge each of them anew would take seconds. What is kept here
is taken only while its stamp is the one of now: the unit's turn (the door counts it on by every change), the rules, the year,
the policy, and what the series of its parts are held for. Lost, it is reckoned again.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from hashlib import sha256

from django.db import OperationalError, transaction
from django.utils import timezone

from idlebench.core.judge.evidence import SeriesCount, series_points
from idlebench.core.judge.verdict import NOT_SEEN
from idlebench.core.prove.rounds import by_answer

from ..records import steady
from ..records.models import Summary, Unit
from .policies import all_policies
from .series import rules, series_counts
from .stage_rail import Stage
from .state import UnitState, states_of
from .verdicts import year_now


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """What Triage needs of a unit that its own rows tell.

    mountings: of the parts to be replaced. items: what is taken for each, "" where nothing is. answers: how many of the cold checks are
    looks, tones and numbers. The rest as core.judge.triage.UnitFacts.
    """

    mountings: tuple[str, ...]
    items: tuple[str, ...]
    not_seen: int
    missing: int
    checks: int
    answers: tuple[int, int, int]
    leaking: int
    surveyed: bool


@dataclass(frozen=True)
class UnitSummary:
    """A unit in a few words. boards: key, name and full name of each. series: those its parts belong to."""

    boards: tuple[tuple[int, str, str], ...]
    stages: tuple[Stage, ...]
    weighed: Weighed
    series: tuple[str, ...]

    @property
    def waits_for(self) -> Stage | None:
        """The first station with something left."""
        return next((s for s in self.stages if not s.done), None)


def summary_of(state: UnitState) -> UnitSummary:
    """A unit that was judged, in a few words."""
    parts, places = state.parts, [p for p in state.parts if p.to_fill and not p.swap and not p.kept]
    to_find = sum(max(0, (b.row.expected or 0) - len(b.parts)) for b in state.boards)
    weighed = Weighed(
        mountings=tuple(p.core.mounting for p in places),
        items=tuple(p.choice.item if p.choice else "" for p in places),
        not_seen=sum(p.verdict.name == NOT_SEEN for p in parts) + to_find,
        missing=sum(p.core.looks == "missing" and not p.swap for p in parts),
        checks=len(state.proof.open_checks(state.proof.steps[0])),
        answers=by_answer(state.proof.open_checks(state.proof.steps[0])),
        leaking=sum(p.core.looks in ("leaking", "burst") and not p.swap for p in parts),
        surveyed=bool(parts),
    )
    return UnitSummary(
        tuple((b.row.pk, b.row.name, str(b.row)) for b in state.boards),
        tuple(state.stages),
        weighed,
        tuple(sorted({p.core.series for p in parts if p.core.series})),
    )


def summaries(units: Iterable[Unit]) -> dict[int, UnitSummary]:
    """Units in a few words, by their keys. units: rows with their jobs. Those that changed since are reckoned and kept anew."""
    rows = {unit.pk: unit for unit in units}
    kept = {row.unit: row for row in Summary.objects.filter(unit__in=rows)}
    known = {pk: read for pk, row in kept.items() if (read := _read(row.data)) is not None}
    counts = series_counts(name for one in known.values() for name in one.series)
    policies = {name: repr(policy) for name, policy in all_policies().items()}
    good = {
        pk: one
        for pk, one in known.items()
        if _in_time(kept[pk])
        and kept[pk].stamp == _stamp(rows[pk], one.series, counts, policies.get(rows[pk].job.policy, ""))
    }
    fresh = {state.row.pk: (state, summary_of(state)) for state in states_of(rows.keys() - good.keys())}
    if fresh:
        _keep(
            Summary(
                unit=pk,
                stamp=_stamp(state.row, one.series, state.counts, policies.get(state.job.policy, "")),
                data=asdict(one),
                made=state.now,
                until=_until(state),
            )
            for pk, (state, one) in fresh.items()
        )
    return {**good, **{pk: one for pk, (_, one) in fresh.items()}}


def _keep(rows: Iterable[Summary]) -> None:
    """Keep what was reckoned; a bench that cannot be written just now is read all the same."""
    try:
        with transaction.atomic():
            Summary.objects.bulk_create(
                rows, update_conflicts=True, unique_fields=["unit"], update_fields=["stamp", "data", "made", "until"]
            )
    except OperationalError:
        return


def _in_time(kept: Summary) -> bool:
    """Whether nothing of it can be another by the clock alone."""
    now = timezone.now()
    return kept.made is not None and kept.made <= now and (kept.until is None or now < kept.until)


def _until(state: UnitState) -> datetime | None:
    """When the next conclusion of a unit may be another by the clock alone: a discharge grows old, or something is dry."""
    left = state.proof.grows_old_in
    ends = [state.dries] if state.dries is not None else []
    if left is not None:
        ends.append(state.now + timedelta(seconds=left))
    return min(ends, default=None)


def _stamp(unit: Unit, series: Iterable[str], counts: Mapping[str, SeriesCount], policy: str) -> str:
    """All that a summary rests on. Of a series it is what a part of it is charged with, not the count itself: that is another
    after every survey in the shop."""
    held = [(name, *_held(counts.get(name, SeriesCount(0, 0)))) for name in series]
    facts = (unit.pk, unit.turn, rules(), year_now(), policy, held, steady.boot())
    return sha256(repr(facts).encode()).hexdigest()


def _held(count: SeriesCount) -> tuple[float, float]:
    """What a series says against a sound part of it and a bad one, each left out of the count."""
    failed, seen = count
    return series_points(SeriesCount(failed, seen - 1)), series_points(SeriesCount(failed - 1, seen - 1))


def _read(data: object) -> UnitSummary | None:
    """What was kept; None where it is of another shape."""
    try:
        weighed = Weighed(**{k: tuple(v) if isinstance(v, list) else v for k, v in data["weighed"].items()})
        stages = tuple(Stage(**stage) for stage in data["stages"])
        return UnitSummary(tuple(map(tuple, data["boards"])), stages, weighed, tuple(data["series"]))
    except (TypeError, KeyError, AttributeError):
        return None
