"""How make series have done over all jobs, and the rules by which the parts were judged for it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import cache
from hashlib import sha256
from pathlib import Path

from django.db import transaction

from idlebench.core.judge.evidence import SeriesCount
from idlebench.core.judge.verdict import condemned_alone

from ..records import tally
from ..records.models import Judged, Part, SeriesTally
from .verdicts import year_now

#: Parts judged anew in one transaction: well under the time that others wait for the write lock.
AT_ONCE = 200


def series_counts(names: Iterable[str]) -> dict[str, SeriesCount]:
    """How these series have done, over all jobs; read from the tally, whatever else lies on the bench."""
    wanted = {name for name in names if name}
    return {row.series: row.to_core() for row in SeriesTally.objects.filter(series__in=wanted)} if wanted else {}


def judged_alone(part: Part, year: int) -> bool:
    """Whether a part counts as a failure of its series; without one it counts for nothing."""
    return bool(part.series) and condemned_alone(part.to_core(), year)


def save_part(part: Part, *, force_insert: bool = False) -> None:
    """Save a part with what it counts as now: the only way in which one is written by hand."""
    part.condemned = judged_alone(part, year_now())
    part.save(force_insert=force_insert)


@cache
def rules() -> str:
    """A fingerprint of the rules: what was reckoned by others is reckoned anew."""
    here = Path(__file__).resolve().parent
    found = sha256()
    for place in (here.parents[1] / "core", here):
        for file in sorted(place.rglob("*.py")):
            found.update(file.read_bytes())
    return found.hexdigest()[:32]


def rejudge() -> int:
    """Judge every part alone again where the year or the rules are others than last time; how many came out otherwise.

    In pieces, so that nobody waits for it. Cut off, it is done from the start the next time.
    """
    year, last = year_now(), Judged.objects.first()
    if last is not None and (last.year, last.rules) == (year, rules()):
        return 0
    changed = sum(_rejudged(keys, year) for keys in _pieces())
    with transaction.atomic():
        tally.recount()
        Judged.objects.all().delete()
        Judged.objects.create(year=year, rules=rules())
    return changed


def _pieces() -> Iterator[list[int]]:
    keys = list(Part.objects.exclude(series="").order_by("pk").values_list("pk", flat=True))
    return (keys[i : i + AT_ONCE] for i in range(0, len(keys), AT_ONCE))


@transaction.atomic
def _rejudged(keys: list[int], year: int) -> int:
    """Judge some parts anew; how many came out otherwise."""
    found = [(part, judged_alone(part, year)) for part in Part.objects.filter(pk__in=keys)]
    other = [(part.pk, now) for part, now in found if now != part.condemned]
    for condemned in (True, False):
        Part.objects.filter(pk__in=[pk for pk, now in other if now is condemned]).update(condemned=condemned)
    return len(other)
