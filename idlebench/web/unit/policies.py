"""The policies there are: those that ship, and the shop's own."""

from __future__ import annotations

from idlebench.core.judge.policy import POLICIES, Policy

from ..records.models import ShopPolicy


def all_policies() -> dict[str, Policy]:
    """Every policy by its name."""
    return {**POLICIES, **{row.name: row.to_core() for row in ShopPolicy.objects.all()}}


def policy_named(name: str) -> Policy:
    """A job's policy; one of the shop's own that is gone is the first that ships."""
    if name in POLICIES:
        return POLICIES[name]
    row = ShopPolicy.objects.filter(name=name).first()
    return row.to_core() if row else next(iter(POLICIES.values()))
