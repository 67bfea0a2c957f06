"""What counts now for a check, and why an older reading does not.

Source: IEC 62368-1:2018, table 4, for stored charge; the rest is worked here from one question: could this have changed since?
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from ..circuit.discharge import DANGEROUS
from ..text.quantity import show
from ..wording import on_screen
from . import clock
from .checks import Check
from .clock import Moment
from .facts import (
    DISCHARGED,
)  # fmt: skip
from .record import POWER, TABLE, Event, Record, Void

#: A discharge of a store above 60 V counts this long, s: charge creeps back out of the dielectric.
CREEPS_BACK = 30 * 60.0


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
        check: as the unit asks it now.
        record: the unit's record.
        now: the moment, or s by the wall clock alone.
        simulated: the unit is tried on the simulated bench: nowhere else does a reading of it count.

    Returns:
        Passed, failed, open or void, and why.
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
    if hit := next(voiding(check, record.after(at)), None):
        later, void = hit
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


def voiding(check: Check, after: Iterable[tuple[Event, tuple[str, ...]]]) -> Iterator[tuple[Event, Void]]:
    """What takes a check's fact away, in the order in which it happened: each event of those since its reading, and why."""
    table = TABLE[check.fact]
    for later, told in after:
        for kind in told:
            yield from ((later, void) for void in table.get(kind, ()) if void.hits(check, later))


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
