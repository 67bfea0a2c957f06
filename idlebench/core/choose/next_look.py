"""When a machine is looked at again: by the life of the wet parts that stand in it, each at its own temperature and ripple.

A new part counts from its rated life; an old one that stays from a plain part's, and from half of it, as one out of a donor does.
The look is due when the first of them has used two thirds of what it is expected to last, and never later than two thirds of 15
years: seals age whatever the hours say.

Source: the ten-degree rule as in judge.ageing; two thirds of it: workshop practice, because a look that comes when it has failed is late.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..board.parts import Capacitor
from ..judge.ageing import LIFE_CAP, SOURCE_LIFE
from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.quantity import show
from .columns import Alike, Columns
from .need import Need
from .salvage import NEW_LIFE, SHARE
from .strain_rules import expected_life

#: What an old part's life is reckoned at, °C, where none is marked.
OLD_TEMPERATURE = 85.0
#: The share of its expected life after which a part is looked at, and the shortest time to the next look, years.
LOOK_AT, SOONEST = 2 / 3, 0.25
YEAR = 365.25
#: The longest that is claimed of any wet part, years.
OLDEST = LIFE_CAP / 8760
#: Kinds that wear out by the hour.
WEARING = ("wet", "polymer")


@dataclass(frozen=True, kw_only=True)
class Wearing:
    """A part that wears: its place as people say it, what stands there, hours it is expected to run there, °C round it; old: it
    was there before."""

    place: str
    part: str
    hours: float
    ambient: float
    old: bool = False

    def years(self, hours_a_day: float) -> float:
        """Years it is expected to last at so many hours a day; at most 15, whatever the hours are."""
        by_use = self.hours / (YEAR * hours_a_day) if hours_a_day > 0 else float("inf")
        return min(by_use, OLDEST)


@dataclass(frozen=True, kw_only=True)
class NextLook:
    """In how many days and years, and because of which part; by_age: none wears sooner than all seals do."""

    days: int
    years: float
    first: Wearing
    working: Calculation
    by_age: bool = False


def wears(place: str, need: Need, new: Capacitor | None = None) -> Wearing | None:
    """How long the part in a place is expected to run; None where it does not wear by the hour.

    Args:
        place: the place.
        need: what the place asks of it.
        new: the part that was put in; None where the old one stays.

    Returns:
        Hours by part and place; None where it does not wear by the hour.
    """
    kind = new.kind if new else need.kind
    if kind not in WEARING:
        return None
    if new is None:
        part = Capacitor(
            part="kept", series="", kind=kind, value=need.value, volts=need.marked or 1.0, mounting=need.mounting, life=NEW_LIFE,
            temperature=need.old.temperature or OLD_TEMPERATURE,
        )  # fmt: skip
    else:
        part = new if new.life > 0 else replace(new, life=NEW_LIFE)
    hours = float(expected_life(Alike([need], [1]), Columns.of([part]))[0])
    share = SHARE if new is None or new.life <= 0 else 1.0
    name = new.part if new else f"the old {show(need.value, 'F')}"
    return Wearing(place=place, part=name, hours=hours * share, ambient=need.ambient, old=new is None)


def next_look(parts: Iterable[Wearing], hours_a_day: float) -> NextLook | None:
    """When the first of these parts is to be looked at; None where nothing wears.

    Args:
        parts: the parts.
        hours_a_day: h a day for which it runs.

    Returns:
        The year and the part it is for; None where nothing wears.

    Raises:
        BadInput: hours that no day has.

    >>> look = next_look([Wearing(place="C1", part="the old 100 µF", hours=12_000.0, ambient=45.0, old=True)], 8.0)
    >>> look.days, round(look.years, 2)
    (1000, 2.74)
    """
    if not 0 <= hours_a_day <= 24:
        raise BadInput(f"{hours_a_day:g}", "0 to 24 hours a day", field="hours_a_day")
    found = list(parts)
    if not found:
        return None
    first = min(found, key=lambda p: (p.years(hours_a_day), not p.old, p.place))
    lasts = first.years(hours_a_day)
    years = max(SOONEST, LOOK_AT * lasts)
    lines = (
        CalculationLine(
            label="Expected to run",
            formula=f"{first.part} at {first.ambient:g} °C",
            numbers=f"{first.hours:.0f} h",
            value=first.hours,
            unit="h",
            source=SOURCE_LIFE,
        ),
        CalculationLine(
            label="In years",
            formula="hours ÷ (365.25 · hours a day), at most 15 y",
            numbers=f"{first.hours:.0f} ÷ (365.25 · {hours_a_day:g})",
            value=lasts,
            unit="y",
            source="",
        ),
        CalculationLine(
            label="Looked at after",
            formula="two thirds of it",
            numbers=f"2/3 · {lasts:.2f}",
            value=years,
            unit="y",
            source="the house's own",
        ),
    )
    return NextLook(
        days=round(years * YEAR),
        years=years,
        first=first,
        working=Calculation(name="next_look", values={"years": years}, lines=lines),
        by_age=lasts >= OLDEST,
    )
