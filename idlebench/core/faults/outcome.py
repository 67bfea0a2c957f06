"""What it turned out to be: causes that were confirmed become the shop's own figures, by place, role, series, age and heat.

Source: the bands: workshop practice, because finer ones would hold too few parts to tell anything.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from ..board.parts import Fitted
from ..prove.record import BOARD, FUSE, MEND, MOVED, PART, SWAP, SWAP_BACK, Event, Record

#: Work that may have cured something.
CURES = (SWAP, MEND, FUSE, BOARD, PART)
#: Bands of age, years, and of heat at the place, °C: the upper end of each, and its words.
AGES = ((15.0, "under 15 years"), (30.0, "15 to 30 years"), (float("inf"), "over 30 years"))
HEATS = ((45.0, "under 45 °C"), (60.0, "45 to 60 °C"), (float("inf"), "over 60 °C"))


@dataclass(frozen=True)
class Traits:
    """What of a part the shop counts by; "" where it is not known."""

    role: str = ""
    series: str = ""
    age: str = ""
    heat: str = ""

    def alike(self, other: Traits) -> float:
        """The share of what is known of both that is the same, 0 to 1."""
        pairs = [(a, b) for a, b in zip(self.all, other.all, strict=True) if a and b]
        return sum(a == b for a, b in pairs) / len(self.all)

    @property
    def all(self) -> tuple[str, str, str, str]:
        return self.role, self.series, self.age, self.heat


@dataclass(frozen=True)
class Past:
    """A cause that was confirmed. place: a key of hypotheses.PRIORS, or of the table's causes."""

    place: str
    failure: str
    traits: Traits = Traits()


@dataclass(frozen=True)
class Shop:
    """The shop's own causes, and what is known of the parts that are suspected now, by reference."""

    causes: tuple[Past, ...] = ()
    traits: tuple[tuple[str, Traits], ...] = ()

    @cached_property
    def _by_ref(self) -> dict[str, Traits]:
        return dict(self.traits)

    def of(self, place: str) -> int:
        """How many causes stood in such a place."""
        return sum(one.place == place for one in self.causes)

    def ways(self, place: str, failure: str) -> int:
        """How many of them failed so."""
        return sum(one.place == place and one.failure == failure for one in self.causes)

    def leans(self, place: str, ref: str) -> float:
        """How much likelier a part is than another of its place, by causes that were like it: 1 where there was none."""
        mine = self._by_ref.get(ref)
        if mine is None:
            return 1.0
        return 1.0 + sum(one.traits.alike(mine) for one in self.causes if one.place == place)

    def says(self, place: str, ref: str) -> str:
        """The shop's figures for a part of a place, with how many they rest on; "" where there are none."""
        here = [one for one in self.causes if one.place == place]
        if not here:
            return ""
        mine = self._by_ref.get(ref, Traits())
        told = [
            f"{count} {word}"
            for word, count in ((word, sum(word in one.traits.all for one in here)) for word in mine.all if word)
            if count
        ]
        also = f", of these {', '.join(told)}" if told else ""
        return f"this shop: {len(here)} of {len(self.causes)} causes found stood in such a place{also}"


def traits_of(part: Fitted, year: int, made: int | None = None) -> Traits:
    """What the shop counts a part by.

    Args:
        part: the part in its place.
        year: now.
        made: year of the machine, where the part has no date of its own.

    Returns:
        Kind, make, age and place.
    """
    age = _band(float(year - made), AGES) if made else ""
    heat = _band(part.ambient, HEATS) if part.ambient is not None else ""
    return Traits(part.role if part.role != "unknown" else "", part.series, age, heat)


def _band(value: float, bands: tuple[tuple[float, str], ...]) -> str:
    return next(word for most, word in bands if value < most)


@dataclass(frozen=True)
class Turned:
    """What came of a suspect since it was taken on. worked: what was done to it, "" for nothing. at: when, s."""

    worked: str = ""
    at: float = 0.0


def worked_on(record: Record, since: float, row: str, board: str, ref: str, kinds: tuple[str, ...] = CURES) -> Turned:
    """The last work on a suspect since a time: on its own row, or on its board with its reference among the words.

    Args:
        record: the unit's record.
        since: s on the record's clock.
        row: of the part, "" where it is none of the survey.
        board: the row of its board.
        ref: its reference.
        kinds: the kinds, words of the open formats.

    Returns:
        When, and what was done; nothing where it was not.
    """
    last = Turned()
    for event in record.events:
        if event.at >= since and event.kind in CURES and _is_of(event, row, board, ref):
            last = Turned(event.words or event.kind, event.at)
    return last


def _is_of(event: Event, row: str, board: str, ref: str) -> bool:
    if row and event.row == row:
        return event.kind == SWAP
    words = f" {re.sub(r'[:,;]', ' ', event.words)} "
    return event.board == board and event.kind != PART and re.search(rf"\s{re.escape(ref)}\s", words) is not None


def voided(record: Record, at: float, board: str, of_fuse: bool = False) -> str:
    """What was changed on a board since something was seen or read of it, in words; "" where nothing was.

    Args:
        record: the unit's record.
        at: s on the record's clock.
        board: its row, "" for the whole unit.
        of_fuse: a blown fuse is no less blown for another fuse.

    Returns:
        The change in words; "" where nothing was.
    """
    kinds = (SWAP, SWAP_BACK, MEND, PART, MOVED) if of_fuse else (*CURES, SWAP_BACK, MOVED)
    hits = [e for e in record.events if e.at > at and e.kind in kinds and (not board or e.board == board)]
    return hits[0].words or f"{hits[0].kind} after it" if hits else ""


def causes_of(rows: Iterable[tuple[str, str, str, str, str, str]]) -> tuple[Past, ...]:
    """Confirmed causes from plain rows: place, failure, role, series, age, heat."""
    return tuple(Past(place, failure, Traits(*traits)) for place, failure, *traits in rows)
