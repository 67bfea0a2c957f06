"""What every page's shell needs."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.db.models import CharField, F, Value
from django.http import HttpRequest
from django.utils import timezone


@dataclass(frozen=True)
class Live:
    """The unit that has power. session: the key of this time of power, for whoever says that it is over."""

    session: int
    unit: str
    unit_id: int
    title: str
    began: datetime
    off_now: str = ""


@dataclass(frozen=True)
class Waits:
    """A wait of a procedure that runs, or is over and not answered yet."""

    unit: str
    title: str
    unit_pk: int
    pk: int
    until: datetime
    over: bool


def shell(request: HttpRequest) -> dict[str, object]:
    """The live unit, if any has power, the waits that run, and the theme. One query for both."""
    from ..records.models import PowerSession, UnitProcedure

    power = PowerSession.objects.order_by().filter(ended=None)
    waits = UnitProcedure.objects.order_by().filter(ended=None, unit__handed_over=None, waits_until__isnull=False)
    kind = lambda word: Value(word, CharField())  # noqa: E731
    rows = power.values_list(kind("power"), "pk", "unit_id", F("unit__name"), "title", "began", "off_now").union(
        waits.values_list(kind("wait"), "pk", "unit_id", F("unit__name"), "title", "waits_until", kind("")), all=True
    )
    live, running, now = None, [], timezone.now()
    for what, pk, unit, name, title, at, off_now in rows:
        if what == "power":
            live = Live(pk, name, unit, title, at, off_now)
        else:
            running.append(Waits(name, title, unit, pk, at, at <= now))
    chosen = request.COOKIES.get("theme")
    theme = chosen if chosen in ("dark", "light") else "auto"
    return {"live": live, "timers": sorted(running, key=lambda w: w.until)[:3], "theme": theme}
