"""Bars in percent of their length: margins with the limit as a tick, cost beside worth."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..choose.rank import BARS, Candidate, Reason
from ..judge.triage import DONOR_FROM, REPAIR_UP_TO, Estimate
from ..text.quantity import show


@dataclass(frozen=True, kw_only=True)
class Bar:
    """A margin bar in percent of its length: how far it is filled, where the limit ticks, and the number shown."""

    title: str
    fill: float
    tick: float | None
    shown: str
    words: str
    status: int


def bar(reason: Reason) -> Bar:
    """A margin bar for a reason that has a number."""
    value, limit = reason.value or 0.0, reason.limit or 0.0
    scale = max(value * 1.1, limit * 1.8) or 1.0
    shown = show(value, reason.unit)
    if reason.rule == "life":
        shown = "15 y +" if value >= 131_399 else f"{value / 8760:.1f} y"
    limit_shown = f"{limit / 8760:.0f} y" if reason.rule == "life" else show(limit, reason.unit)
    side = "at least" if reason.at_least else "at most"
    return Bar(
        title=BARS[reason.rule],
        fill=round(100 * value / scale, 1),
        tick=round(100 * limit / scale, 1) if limit else None,
        shown=shown,
        words=f"{BARS[reason.rule]} {shown}, {side} {limit_shown}",
        status=reason.status,
    )


def bars(candidate: Candidate) -> tuple[Bar, ...]:
    """All margin bars of a candidate."""
    return tuple(bar(m) for m in candidate.margins)


@dataclass(frozen=True)
class CostBar:
    """Cost beside worth, in percent of the longer: hands with parts, the risk on top, and where the worth ticks."""

    cost: float
    worth: float | None
    repair: float | None
    words: str


def cost_scale(estimates: Iterable[Estimate]) -> float:
    """The money at the end of the bars of several units, so that all are drawn on one scale."""
    ends = (max(one.cost, (one.facts.worth or 0.0) * DONOR_FROM) for one in estimates)
    return max([*ends, 1e-9]) * 1.05


def cost_bar(estimate: Estimate, scale: float | None = None) -> CostBar:
    """What a unit would take, drawn against what it is worth. scale: money at the end of the bar; its own where none is given."""
    worth = estimate.facts.worth
    scale = scale or cost_scale([estimate])
    tick = round(100 * worth / scale, 1) if worth is not None else None
    limit = round(100 * worth * REPAIR_UP_TO / scale, 1) if worth is not None else None
    said = f"would cost {estimate.cost:.0f}" + (f", worth {worth:.0f}" if worth is not None else ", worth not given")
    return CostBar(round(100 * estimate.cost / scale, 1), tick, limit, said)
