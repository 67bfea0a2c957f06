"""What every page's shell needs."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import cache

from django.http import HttpRequest
from django.utils import timezone

from ..records.prepared import Prepared


@dataclass(frozen=True, kw_only=True)
class Live:
    """The unit that has power. session: the key of this time of power, for whoever says that it is over."""

    session: int
    unit: str
    unit_id: int
    title: str
    began: datetime
    machine: str = ""
    off_now: str = ""
    way: str = ""

    @property
    def at_mains(self) -> bool:
        """Whether its power-up method is one for the mains."""
        return self.way != "low"


@dataclass(frozen=True, kw_only=True)
class Waits:
    """A wait of a procedure that runs, or is over and not answered yet."""

    unit: str
    machine: str
    title: str
    unit_pk: int
    pk: int
    until: datetime
    over: bool


def shell(request: HttpRequest) -> dict[str, object]:
    """The live unit, if any has power, the waits that run, and the theme."""
    live, now = next((Live(**dict(zip(_POWER, row, strict=True))) for row in _power().rows(0)), None), timezone.now()
    running = [
        Waits(unit=name, machine=machine, title=title, unit_pk=unit, pk=pk, until=at, over=at <= now)
        for pk, unit, name, machine, title, at in _waits().rows(0)
    ]
    chosen = request.COOKIES.get("theme")
    theme = chosen if chosen in ("dark", "light") else "auto"
    return {"live": live, "timers": sorted(running, key=lambda w: w.until)[:3], "theme": theme}


#: the columns of a time of power, as Live names them
_POWER = ("session", "unit", "unit_id", "title", "began", "machine", "off_now", "way")


@cache
def _power() -> Prepared:
    from ..records.models import PowerSession

    columns = ("pk", "unit__name", "unit_id", "title", "began", "unit__job__machine", "off_now", "unit__job__way")
    return Prepared(lambda _: PowerSession.objects.order_by().filter(ended=None).values_list(*columns))


@cache
def _waits() -> Prepared:
    from ..records.models import UnitProcedure

    running = {"ended": None, "unit__handed_over": None, "waits_until__isnull": False}
    columns = ("pk", "unit_id", "unit__name", "unit__job__machine", "title", "waits_until")
    return Prepared(lambda _: UnitProcedure.objects.order_by().filter(**running).values_list(*columns))
