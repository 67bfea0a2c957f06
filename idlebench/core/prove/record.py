"""The record of a unit: what was read and done, in order, and what of it still counts.

Nothing that was concluded is kept. An event says what happened to which row, when (a number given from outside), and for a
reading what the thing was like then. Whether it counts now is reckoned each time: from the number and the limit as they are
now, from what happened since (VOIDS, below, is the whole of it), and from what the thing is like now.
Source: IEC 62368-1:2018, table 4, for stored charge; the rest is worked here from one question: could this have changed since?
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from ..board.parts import LEFT_OUT
from ..circuit.discharge import DANGEROUS
from ..text.quantity import show
from ..wording import on_screen
from . import clock
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
MAINS, FUSE, REFORM, HANDED, REOPENED = "mains", "fuse", "reform", "handed over", "reopened"
# The same machine lies on the bench in another job as well, and had power there.
TWIN = "power as a twin"
# A hand in the case that changes no part: a meter's leads, a cover taken off.
HANDS = "hands"
# A store that is on no list any more though it may be charged; one that left for good; the record taken from an older copy
# of the bench, or from a file.
UNLISTED, WRITTEN_OFF, RESTORED, IMPORTED = "unlisted", "written off", "restored", "imported"

#: A discharge of a store above 60 V counts this long, s: charge creeps back out of the dielectric.
CREEPS_BACK = 30 * 60.0

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
_TABLE = {fact: _by_kind((*ALWAYS, *voids)) for fact, voids in ({"": ()} | VOIDS).items()}
UNKNOWN = "it was read before the record noted what was read"


@dataclass(frozen=True)
class CheckStatus:
    """What counts now for a check: its last reading if there is one, and why that does not count any more."""

    check: Check
    event: Event | None = None
    void: str = ""

    @property
    def passed(self) -> bool:
        """Inside the limit as it is now, and still true."""
        return self._good and not self.void

    @property
    def _good(self) -> bool:
        e = self.event
        return e is not None and not e.overridden and e.value is not None and self.check.passes(e.value)

    @property
    def failed(self) -> bool:
        """Read, still true, and outside."""
        return self.event is not None and not self.void and not self._good and not self.overridden

    @property
    def overridden(self) -> bool:
        return self.event is not None and not self.void and self.event.overridden and not self.check.safety

    @property
    def done(self) -> bool:
        """Whether nothing more is asked of this check now."""
        return self.passed or self.overridden

    @property
    def word(self) -> str:
        """The state in a word, as its tag tells it."""
        return "passed" if self.passed else "failed" if self.failed else "look twice" if self.overridden else "not yet"

    @property
    def value(self) -> float | None:
        return self.event.value if self.event else None


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


#: What a reading notes that was read of the simulated bench and not of a machine, and the word for it.
BENCH, SIMULATED = "bench", "simulated"


def is_simulated(event: Event | None) -> bool:
    """Whether a reading was taken of the simulated bench."""
    return event is not None and event.was is not None and event.was.get(BENCH) == SIMULATED


#: Why a reading of another bench proves nothing here.
NOT_CONFIRMED = "it was imported from a file and is not confirmed at this bench"


def status_of(check: Check, record: Record, now: Moment | float, simulated: bool = False) -> CheckStatus:
    """What counts now for a check, and why an older reading does not.

    Args:
        check: as the unit asks it now. now: the moment, or s by the wall clock alone. simulated: the unit is tried on the
            simulated bench: nowhere else does a reading of it count.
    """
    found = record.last(check)
    if found is None:
        return CheckStatus(check)
    at, event = found
    now = now if isinstance(now, Moment) else Moment(now)
    if record.sealed is not None:
        now = record.sealed.moment
    if event.imported:
        return CheckStatus(check, event, NOT_CONFIRMED)
    if is_simulated(event) and not simulated:
        return CheckStatus(check, event, "it was read on the simulated bench, not on this machine")
    return CheckStatus(check, event, _void(check, record, at, event, now))


def _void(check: Check, record: Record, at: int, event: Event, now: Moment) -> str:
    if record.sealed is not None and event.was is None:
        # a unit handed over before the record began keeps what it was handed over with
        return ""
    table = _TABLE[check.fact]
    for later, told in record.after(at):
        for kind in told:
            for void in table.get(kind, ()):
                if void.hits(check, later):
                    said = f": {later.words}" if later.words and later.kind != POWER else ""
                    return void.words + said
    if event.was is None:
        return UNKNOWN
    was, is_ = {name: text for name, text in event.was.items() if name != BENCH}, check.evidence
    if record.sealed is None and dict(was) != dict(is_):
        return _changed(was, is_)
    if check.fact == DISCHARGED and check.nominal is not None and abs(check.nominal) > DANGEROUS:
        return _too_old(check, record, at, event, now)
    return ""


def _too_old(check: Check, record: Record, at: int, event: Event, now: Moment) -> str:
    """Why a discharge above 60 V does not count any more by the clocks."""
    last = record.events[-1].moment
    if back := max(clock.set_back(event.moment, now), clock.set_back(last, now)):
        return f"the clock was set back by {_minutes(back)} after it, so its age is unknown"
    # a clip lead that is on keeps a tube empty, however long
    clip = record.clips(check.kept_by) if check.kept_by else None
    if clip is not None and clip[0] >= at and clip[1].value == 1:
        return ""
    old = clock.age(event.moment, now)
    if old == math.inf:
        return f"the computer was restarted after it, and charge creeps back above {show(DANGEROUS, 'V')}"
    if old > CREEPS_BACK:
        return f"it was read {old / 60:.0f} min ago, and charge creeps back above {show(DANGEROUS, 'V')}"
    return ""


def _minutes(seconds: float) -> str:
    return f"{seconds / 60:.0f} min" if seconds >= 90 else f"{seconds:.0f} s"


def _changed(was: Mapping[str, str], is_: Mapping[str, str]) -> str:
    """What is not as it was when it was read."""
    for name in dict.fromkeys((*was, *is_)):
        if name == "boards" and was.get(name) != is_.get(name):
            # it holds rows, which nobody reads
            return "other boards are plugged in now than at the reading"
        if was.get(name) != is_.get(name):
            return (
                f"{on_screen(name)} was {was.get(name) or 'not given'} then and is {is_.get(name) or 'not given'} now"
            )
    return "something was changed after it"


#: What of a part the record follows; the rest (notes, readings, places on the picture) changes nothing that was proven.
PART_FACTS = ("value", "volts", "kind", "mounting", "bipolar", "safety", "role", "rail", "rail_volts", "looks")
#: What of a board it follows, and as what of the board a change counts.
BOARD_FACTS = {
    "rails": "rails", "chips": "chips", "fuse": "fuse", "fuses": "fuse", "supply": "supply", "source_volts": "supply",
    "source_va": "supply", "supply_model": "supply", "devices": "supply", "wiring": "supply",
    "monitor_model": "supply",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Thing:
    """A part or a board as the record follows it. facts: by the names above; fitted: what was swapped in, "" for the old part."""

    row: str
    board: str
    name: str
    facts: Mapping[str, object]
    fitted: str = ""
    mains: bool = False

    @property
    def is_board(self) -> bool:
        return self.row == self.board


def changes(before: Mapping[str, Thing], after: Mapping[str, Thing], at: float) -> tuple[Event, ...]:
    """What happened between two looks at a unit, as events: parts listed, edited, swapped, boards described or moved."""
    events: list[Event] = []
    for row in dict.fromkeys((*before, *after)):
        old, new = before.get(row), after.get(row)
        thing = new or old
        if old is None or new is None:
            if thing.is_board:
                words = f"{thing.name} {'added' if old is None else 'removed'}"
                events.append(Event(kind=MOVED, at=at, row=row, board=row, words=words, mains=True))
            elif thing.board in before and thing.board in after:
                words = f"{thing.name} {'listed' if old is None else 'taken off the list'}"
                events.append(Event(kind=PART, at=at, row=row, board=thing.board, words=words, mains=thing.mains))
            continue
        events += _of_board(old, new, at) if thing.is_board else _of_part(old, new, at)
    return tuple(events)


def _of_board(old: Thing, new: Thing, at: float) -> list[Event]:
    whats = dict.fromkeys(
        what
        for name, what in BOARD_FACTS.items()
        if old.facts.get(name) != new.facts.get(name) and not (name == "devices" and _only_listed(old, new))
    )
    words = {"rails": "its rails", "chips": "its chips", "fuse": "its fuse", "supply": "its supply or devices"}
    return [
        Event(kind=BOARD, at=at, row=new.row, board=new.row, what=what, words=f"{new.name}, {words[what]}")
        for what in whats
    ]


def _only_listed(old: Thing, new: Thing) -> bool:
    """Whether devices were only written down that stood there all along: nothing was touched."""
    return set(old.facts.get("devices") or ()) <= set(new.facts.get("devices") or ())


def _of_part(old: Thing, new: Thing, at: float) -> list[Event]:
    events, mains = [], old.mains or new.mains
    if old.fitted != new.fitted:
        piece = new.fitted.split(" #")[0]
        said = "taken out, and left out for a test" if piece == LEFT_OUT else f"{piece} in"
        kind, words = (SWAP, f"{new.name}: {said}") if new.fitted else (SWAP_BACK, f"{new.name}: swap taken back")
        events.append(Event(kind=kind, at=at, row=new.row, board=new.board, words=words, mains=mains))
    if old.facts != new.facts or old.board != new.board:
        changed = [n.replace("_", " ") for n in PART_FACTS if old.facts.get(n) != new.facts.get(n)]
        events.append(
            Event(
                kind=PART, at=at, row=new.row, board=new.board, words=f"{new.name}: {', '.join(changed)}", mains=mains
            )
        )
    return events
