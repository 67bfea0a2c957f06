"""The shop's own times: as it says itself, else as its swaps tell, else those a shop starts with."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from itertools import pairwise

from django.db.models import Count, Max

from idlebench.core.judge.learned import Learned, learned
from idlebench.core.judge.triage import Times, shop_times
from idlebench.core.prove import rounds
from idlebench.core.prove.rounds import Pace

from ..records.models import DeviceSwap, Reading, ShopTimes, Swap

#: The last swap_marks that are looked at.
LATELY = 3000


def own_times(learned: Mapping[str, Learned] | None = None) -> Times:
    """The shop's own times. learned: as its swaps tell, where somebody has gone through them already."""
    row = ShopTimes.objects.first()
    told = {kind: round(one.minutes, 1) for kind, one in (learned_times() if learned is None else learned).items()}
    return shop_times({**told, **(row.minutes if row else {})})


def learned_times(stamp: tuple[object, ...] = ()) -> dict[str, Learned]:
    """Minutes from dab to dab by kind of place, as the shop's own swaps tell. stamp: of the swaps, where it was asked for already."""
    return _learned(stamp or swaps_stamp())


def swaps_stamp() -> tuple[object, ...]:
    """What changes whenever something is swapped or taken back: how many swaps there are, and the last of them."""
    return tuple(
        tuple(model.objects.aggregate(n=Count("pk"), last=Max("pk"), at=Max("at")).values())
        for model in (Swap, DeviceSwap)
    )


@lru_cache(maxsize=4)
def _learned(stamp: tuple[object, ...]) -> dict[str, Learned]:
    """The same, gone through once for the same swaps. stamp: how many there are, and which is the last."""
    parts = Swap.objects.order_by().values_list("at", "part__mounting", "part__board__unit_id")
    devices = DeviceSwap.objects.order_by().values_list("at", "what", "board__unit_id")
    rows = sorted((*parts.order_by("-at")[:LATELY], *devices.order_by("-at")[:LATELY]), reverse=True)[:LATELY]
    return learned((at.timestamp(), kind, unit) for at, kind, unit in rows)


def says(name: str) -> bool:
    """Whether the shop itself has said how long something takes, a key of TIMES."""
    row = ShopTimes.objects.first()
    return bool(row and name in row.minutes)


#: Readings whose times tell the shop's own pace.
PACED = 600


def pace() -> Pace:
    """The shop's own pace, from the times of its last readings."""
    gaps: dict[str, list[float]] = {}
    rows = list(Reading.objects.order_by("-pk").values_list("unit", "at", "typed", "overridden")[:PACED])
    for (unit, at, typed, accepted), (before_unit, before, _, _) in pairwise(rows):
        if unit == before_unit and not accepted:
            gaps.setdefault(rounds.kind_of_answer(typed), []).append((at - before).total_seconds())
    return rounds.pace_of(gaps)
