"""The shop's own times."""

from __future__ import annotations

from idlebench.core.judge.triage import Times, shop_times

from ..records.models import ShopTimes


def own_times() -> Times:
    """The shop's own times."""
    row = ShopTimes.objects.first()
    return shop_times(row.minutes if row else {})
