"""The verdict on a part as its job judges it, remembered."""

from __future__ import annotations

from functools import lru_cache

from django.utils import timezone

from idlebench.core.board.parts import Fitted
from idlebench.core.judge.evidence import SeriesCount
from idlebench.core.judge.verdict import Verdict, by_hand, judge
from idlebench.core.text.dates import year_of

from ..records.models import Job, Part


def year_now() -> int:
    return timezone.localdate().year


@lru_cache(maxsize=4096)
def _judged(
    core: Fitted,
    year: int,
    made: int | None,
    esr_criterion: str,
    frequency: float,
    count: SeriesCount | None,
    reformed: bool,
) -> Verdict:
    """A verdict, remembered: a part and what is known beside it judge the same each time."""
    return judge(
        core,
        year=year,
        made=year_of(core.date, made),
        esr_criterion=esr_criterion,
        meter_frequency=frequency,
        series={core.series: count} if count else {},
        reformed=reformed,
    )


def verdict_of(
    part: Part, core: Fitted, job: Job, counts: dict[str, SeriesCount], esr_criterion: str = "", year: int | None = None
) -> Verdict:
    """A part judged by the job's ESR criterion, or by the one named; a verdict by hand stands before it.

    Args:
        year: this year, for who judges many: to ask the clock for each takes as long as to judge it.
    """
    year, esr_criterion = year or year_now(), esr_criterion or job.school
    # a part is no evidence against itself
    known = counts.get(part.series)
    count = SeriesCount(known.failed - part.condemned, known.seen - 1) if known else None
    found = _judged(core, year, job.made, esr_criterion, job.meter_frequency, count, part.reformed)
    return by_hand(found, part.by_hand, part.by_hand_reason) if part.by_hand else found
