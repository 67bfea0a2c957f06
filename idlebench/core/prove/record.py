"""The record of a unit: what was read and done, in order, and what of it still counts.

Nothing that was concluded is kept. An event says what happened to which row, when (a number given from outside), and for a
reading what the thing was like then. Whether it counts now is reckoned each time: from the number and the limit as they are
now, from what happened since (VOIDS, below, is the whole of it), and from what the thing is like now.
Source: IEC 62368-1:2018, table 4, for stored charge; the rest is worked here from one question: could this have changed since?
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from .checks import Check
from .clock import Moment
from .facts import (
    CLIPPED,
    DEAD,
    DISCHARGED,
    DUMMY,
    FUSE_WHOLE,
    HANDS_IN,
    INSIDE,
    JOINED,
    LOADED,
    MAINS_READ,
    MAINS_SIDE,
    NO_SHORT,
    PLUG,
    PLUGGED,
    POLARITY,
    STEP,
)  # fmt: skip

# What can happen to a unit.
READ, POWER, IDLE = "read", "power", "idle"
SWAP, SWAP_BACK, PART, MEND, BOARD, MOVED = "swap", "swap back", "part", "mend", "board", "moved"
SMOKE = "smoke"
MAINS, FUSE, REFORM, HANDED, REOPENED = "mains", "fuse", "reform", "handed over", "reopened"
# The same machine lies on the bench in another job as well, and had power there.
TWIN = "power as a twin"
# A hand in the case that changes no part: a meter's leads, a cover taken off.
HANDS = "hands"
# A store that is on no list any more though it may be charged; one that left for good; the record taken from an older copy
# of the bench, or from a file.
UNLISTED, WRITTEN_OFF, RESTORED, IMPORTED = "unlisted", "written off", "restored", "imported"


# Whose events count: of the very part, of a board the check stands on, of a mains place there, or of anything in the unit.
OWN, BOARDS, MAINS_PLACES, ANY = "own", "boards", "mains places", "any"


@dataclass(frozen=True, kw_only=True)
class Event:
    """One thing that happened to a unit.

    Attributes:
        kind: one of the words above. at: seconds on any clock, the same for all events of a unit.
        row: the part or board it happened to; board: the board that is on. Rows, never names: names are given twice.
        what: of a BOARD event, what of it was changed: rails, chips, fuse or supply.
        mains: whether it happened at a mains place. key, value, overridden: of a READ. step: of a POWER.
        was: of a READ, what the thing was like then; None where nobody noted it.
        words: what happened, for people. boot, steady: when it was by a clock that only counts, as Moment has them.
        imported: it came with a file, and nobody at this bench has confirmed it.
    """

    kind: str
    at: float
    row: str = ""
    board: str = ""
    what: str = ""
    mains: bool = False
    key: str = ""
    value: float | None = None
    overridden: bool = False
    step: str = ""
    was: Mapping[str, str] | None = None
    words: str = ""
    boot: str = ""
    steady: float = 0.0
    imported: bool = False

    @property
    def moment(self) -> Moment:
        """When it was."""
        return Moment(self.at, self.boot, self.steady)

    @cached_property
    def tells(self) -> tuple[str, ...]:
        """The kinds it counts as: its own, and what its reading tells beside the number."""
        if self.kind != READ or self.was is None:
            return (self.kind,)
        found = [READ]
        floor, does = self.was.get("dead below"), self.was.get("does", "")
        if floor is not None and self.value is not None and abs(self.value) < float(floor):
            found.append(DEAD)
        if does in (PLUGGED, LOADED) and self.value is not None:
            found.append(does)
        if self.was.get("hands"):
            found.append(HANDS_IN)
        return tuple(found)


@dataclass(frozen=True)
class Void:
    """What takes a fact away: events of some kinds, where they happen, and the words for it."""

    kinds: tuple[str, ...]
    where: str
    words: str
    what: tuple[str, ...] = ()

    def hits(self, check: Check, event: Event) -> bool:
        """Whether an event of one of its kinds takes a check's fact away."""
        if event.key == check.key:
            return False
        if self.what and event.kind == BOARD and event.what not in self.what:
            return False
        if self.where == OWN:
            return event.row in check.rows
        # work on the whole machine names no board, and may have been on any
        there = event.board in check.boards or (event.kind == MEND and not event.board)
        if self.where == BOARDS:
            return there
        if self.where == MAINS_PLACES:
            return there and (event.mains or event.kind in (BOARD, MEND, FUSE))
        return True


#: Work on a board. To list a part, or to correct what is written of one, is none: nothing was touched.
_WORK = (SWAP, SWAP_BACK, MEND)
_ELSEWHERE = Void((TWIN,), ANY, "the same machine had power in another job after it")
_OLDER = (
    Void((RESTORED,), ANY, "the record was restored from an older copy after it"),
    Void((IMPORTED,), ANY, "the job was imported from a file after it"),
)
#: What voids what. The one place that says so.
VOIDS: dict[str, tuple[Void, ...]] = {
    DISCHARGED: (
        Void((POWER,), ANY, "power was on after it"),
        Void((REFORM,), OWN, "it was put on volts to reform after it"),
        Void((SWAP, SWAP_BACK, PART), OWN, "the capacitor was changed after it"),
        _ELSEWHERE,
        *_OLDER,
    ),
    POLARITY: (Void((SWAP, SWAP_BACK, PART), OWN, "another part is fitted there since"),),
    NO_SHORT: (
        Void(_WORK, BOARDS, "there was work on a board of this rail after it"),
        Void((BOARD,), BOARDS, "the board was described again after it"),
        Void((MOVED,), ANY, "a board was added or removed after it"),
        Void((DEAD,), ANY, "power was on after it and nothing came up"),
    ),
    JOINED: (
        Void(_WORK, BOARDS, "there was work on the board after it"),
        Void((BOARD,), BOARDS, "the chip was described again after it", ("chips",)),
    ),
    FUSE_WHOLE: (
        Void((DEAD,), ANY, "power was on after it and nothing came up"),
        Void((FUSE,), BOARDS, "a fuse blew or was changed after it"),
        Void((BOARD,), BOARDS, "another fuse is marked since", ("fuse",)),
    ),
    MAINS_SIDE: (
        Void((*_WORK, BOARD, FUSE), MAINS_PLACES, "something on the mains side was changed after it", ("fuse", "supply")),
    ),
    DUMMY: (
        Void((PLUGGED,), ANY, "the boards were plugged after it"),
        Void((BOARD,), BOARDS, "the rails were typed again after it", ("rails", "supply")),
        Void((MAINS,), ANY, "the mains or the power-up method was changed after it"),
    ),
    PLUG: (
        Void((LOADED,), ANY, "dummy loads were fitted after it"),
        Void((*_WORK, BOARD), BOARDS, "there was work on a board after it"),
        Void((MOVED,), ANY, "a board was added or removed after it"),
    ),
    STEP: (
        Void((*_WORK, BOARD, FUSE), BOARDS, "something it feeds was changed after it"),
        Void((MOVED,), ANY, "a board was added or removed after it"),
        Void((MAINS,), ANY, "the mains or the power-up method was changed after it"),
    ),
    CLIPPED: (Void((POWER,), ANY, "power was on after it"), _ELSEWHERE, *_OLDER),
    MAINS_READ: (Void((MAINS,), ANY, "the mains or the power-up method was changed after it"),),
    INSIDE: (
        Void((SWAP, SWAP_BACK, MEND, REFORM, HANDS, HANDS_IN), ANY, "the case was opened again after it"),
        Void((MOVED,), ANY, "a board was added or removed after it"),
        *_OLDER,
    ),
}  # fmt: skip
#: What voids every fact.
ALWAYS: tuple[Void, ...] = (
    Void((REOPENED,), ANY, "the unit was reopened after it"),
    Void((MOVED,), OWN, "its board was added or removed after it"),
)


def _by_kind(voids: Iterable[Void]) -> dict[str, tuple[Void, ...]]:
    found: dict[str, tuple[Void, ...]] = {}
    for void in voids:
        for kind in void.kinds:
            found[kind] = (*found.get(kind, ()), void)
    return found


#: The same by fact and kind: most events void nothing of a fact, and are passed over at once.
TABLE = {fact: _by_kind((*ALWAYS, *voids)) for fact, voids in ({"": ()} | VOIDS).items()}


@dataclass(frozen=True)
class Record:
    """The events of a unit in the order in which they happened."""

    events: tuple[Event, ...] = ()

    @cached_property
    def _last(self) -> dict[str, int]:
        return {event.key: i for i, event in enumerate(self.events) if event.kind == READ}

    @cached_property
    def _voiding(self) -> tuple[tuple[int, Event, tuple[str, ...]], ...]:
        """Events that can void anything; most readings tell no more than their number."""
        told = ((i, event, event.tells) for i, event in enumerate(self.events))
        return tuple(
            (i, e, t) for i, e, t in told if t != (READ,) and e.kind not in (IDLE, HANDED, UNLISTED, WRITTEN_OFF)
        )

    def last(self, check: Check) -> tuple[int, Event] | None:
        """The last reading of a check. One kept under a name, from before rows were noted, is found too."""
        at = self._last.get(check.key)
        if at is not None:
            return at, self.events[at]
        for name in check.names:
            at = self._last.get(name)
            if at is not None and self.events[at].was is None:
                return at, self.events[at]
        return None

    def clips(self, key: str) -> tuple[int, Event] | None:
        """The last answer to a check by its key."""
        at = self._last.get(key)
        return (at, self.events[at]) if at is not None else None

    def after(self, at: int) -> Iterable[tuple[Event, tuple[str, ...]]]:
        """What happened after an event and can void something, with what it tells; of a unit that is handed over, until then."""
        start = bisect_right(self._voiding, at, key=lambda item: item[0])
        return ((event, told) for i, event, told in self._voiding[start:] if i < self._end)

    @cached_property
    def _end(self) -> int:
        """How many events count: those before the hand-over while it stands, else all."""
        last = next((i for i in range(len(self.events) - 1, -1, -1) if self.events[i].kind in (HANDED, REOPENED)), -1)
        return last if last >= 0 and self.events[last].kind == HANDED else len(self.events)

    @cached_property
    def sealed(self) -> Event | None:
        """The hand-over, while it stands: what counted then counts until the unit is reopened."""
        return self.events[self._end] if self._end < len(self.events) else None

    @cached_property
    def power(self) -> Event | None:
        """The event that put the power on which is on now; None where the unit is idle."""
        last = next((e for e in reversed(self.events) if e.kind in (POWER, IDLE)), None)
        return last if last is not None and last.kind == POWER else None

    @cached_property
    def ever_powered(self) -> bool:
        """Whether it had power here, or may have had it: what a copy of before or a file's bench knows nothing of."""
        return any(e.kind in (POWER, TWIN, RESTORED, IMPORTED) for e in self.events)

    @cached_property
    def unlisted(self) -> tuple[Event, ...]:
        """Stores that went off the list while they may have been charged, by the last time each did, and that nobody closed."""
        last: dict[str, Event] = {}
        for event in self.events:
            if event.kind == UNLISTED:
                last[event.row] = event
            elif event.kind == WRITTEN_OFF:
                last.pop(event.row, None)
        return tuple(last.values())

    def new_since_power(self, rows: frozenset[str]) -> bool:
        """Whether a new piece was put into one of these places after power, or a reforming of it, was last on."""
        for event in reversed(self.events):
            if event.kind in (POWER, TWIN, RESTORED, IMPORTED):
                return False
            if event.row in rows and event.kind in (SWAP, SWAP_BACK, REFORM):
                return event.kind == SWAP
        return False

    def with_(self, *events: Event) -> Record:
        """The record with some more events."""
        return Record((*self.events, *events))
