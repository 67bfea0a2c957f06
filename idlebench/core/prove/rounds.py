"""Rounds: checks that are done without moving, and which of them a round asks.

A check says whom it guards. What guards a person is asked always. What guards the machine or a restorer's time is asked after work
near it, or all of it in a full round. What voids a reading stands in record.VOIDS and stays as it is; a round only says which of the
open checks are asked.
Source: IEC 62368-1:2018, 5.2.1, for 60 V DC; what counts as near: near_work.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from .checks import BoardFacts, Check, PowerStep
from .clock import Moment
from .facts import CLIPPED, DISCHARGED, FUSE_WHOLE, INSIDE, MAINS_READ, MAINS_SIDE, POLARITY
from .low_voltage import why_not_low
from .near_work import Near, subject_of
from .record import IMPORTED, MEND, PART, RESTORED, SWAP, SWAP_BACK, Event, Record
from .status import status_of, voiding

FULL, TOUCHED, SHORT = "full", "touched", "short"
#: How much a round asks, by the words for it. "": as the unit's history and its source say.
DEPTHS = {
    "": "by the unit's history and source",
    FULL: "full: every check",
    TOUCHED: "touched: what work was near, once every check has passed",
    SHORT: "short: under 60 V DC, what work was near",
}
PERSON, DEAR, TIME = "person", "machine", "time"
#: Work whose place is known; whatever else voids a reading asks for it again everywhere.
_WORK = (SWAP, SWAP_BACK, MEND)


def guards(check: Check) -> str:
    """Whom a check guards: a person, the machine, or the restorer's time.

    >>> guards(Check(key='cold.pin.b1.u5.16', step='cold', kind='continuity', point='U5 pin 16 to +5 V', ask=''))
    'time'
    """
    subject = subject_of(check)
    if subject is None:
        return PERSON if check.safety or check.fact in (DISCHARGED, POLARITY, MAINS_SIDE, FUSE_WHOLE) else DEAR
    return DEAR if subject.rail else TIME


#: Whom a check guards, and after what it is asked, in words.
SAID = {
    PERSON: "guards a person: always asked",
    DEAR: "guards the machine: asked after work that may have changed it",
    TIME: "saves time: asked after work near it",
}


def depth_of(asked: str, boards: Sequence[BoardFacts], record: Record) -> str:
    """How much the rounds of a unit ask.

    Args:
        asked: as the job says, a key of DEPTHS.
        boards: of the unit.
        record: its record.

    Returns:
        Full, touched or short. Short is for machines under 60 V DC alone; for any other it is full.
    """
    low = not why_not_low(boards)
    if asked == SHORT:
        return SHORT if low else FULL
    if asked in (FULL, TOUCHED):
        return asked
    if any(event.kind in (RESTORED, IMPORTED) for event in record.events):
        # its history is unknown here
        return FULL
    return SHORT if low else TOUCHED


def left_out(
    checks: Iterable[Check],
    record: Record,
    boards: Sequence[BoardFacts],
    depth: str,
    now: Moment,
    simulated: bool = False,
) -> dict[str, str]:
    """Which open checks a round does not ask.

    A check is left out where its last reading would still count had the work far from it not been done. A check that guards a
    person, one that failed, and one that was never read in a touched round are asked; a short round asks chip pins that were never read
    only near the work, but whatever is read under power.

    Args:
        checks: of the unit, none of which counts now.
        record: of the unit.
        boards: of the unit.
        depth: how much its rounds ask.
        now: the moment.
        simulated: whether it is tried on the simulated bench.

    Returns:
        The reason, by the check's key.
    """
    if depth == FULL:
        return {}
    found: dict[str, str] = {}
    without: dict[tuple[Event, ...], Record] = {}
    work = [event for event in record.events if event.kind in _WORK]
    unsure, near = _described_since(record), Near(boards)
    sure = [event for event in work if event not in unsure]
    for check in checks:
        if subject_of(check) is None:
            continue
        if depth == SHORT and check.key.startswith("cold.back."):
            found[check.key] = ONE_WAY
            continue
        # where a place was described anew since the work on it, nobody can say what the work was near
        far = tuple(event for event in sure if not near.any(check, (event,)))
        if record.last(check) is None:
            if depth == SHORT and guards(check) == TIME and not check.live and len(far) == len(work):
                found[check.key] = NOT_NEAR
        elif far:
            quiet = without.setdefault(far, Record(tuple(event for event in record.events if event not in far)))
            if status_of(check, quiet, now, simulated).passed:
                found[check.key] = STANDS
    return found


def _described_since(record: Record) -> set[Event]:
    """Work on places that were described anew after it."""
    edited: set[str] = set()
    found: set[Event] = set()
    for event in reversed(record.events):
        if event.kind == PART:
            edited.add(event.row)
        elif event.kind in _WORK and event.row in edited:
            found.add(event)
    return found


#: Why a check is not asked.
NOT_NEAR = "no work was near it, and a short round asks no more"
ONE_WAY = "a short reads the same both ways, and a short round reads one"
STANDS = "it passed before, and no work was near it since"


@dataclass(frozen=True, kw_only=True)
class Round:
    """Checks that are done without moving.

    key, title: of the round. checks: all of it, in order.
    """

    key: str
    title: str
    checks: tuple[Check, ...]


#: Rounds without power: key, title, and what belongs to them; a check is of the first that holds it.
_COLD: tuple[tuple[str, str, Callable[[Check], bool]], ...] = (
    ("empty", "Empty the reservoirs", lambda c: c.fact in (DISCHARGED, CLIPPED)),
    ("mains", "Plug, fuse, earth", lambda c: c.fact in (MAINS_SIDE, FUSE_WHOLE)),
    ("polarity", "Polarity", lambda c: c.fact == POLARITY),
    ("close", "Before the lid goes on", lambda c: c.fact in (MAINS_READ, INSIDE)),
    ("looks", "Visual checks", lambda c: c.seen),
    ("tone", "Continuity by tone", lambda c: by_tone(c)),
    ("rails", "Rails and junctions", lambda c: True),
)
#: The order in which they are played: what is looked at before what is read, the lid last.
_ORDER = ("empty", "mains", "polarity", "looks", "rails", "tone", "close")


def rounds_of(step: PowerStep, checks: Iterable[Check], case: str = "") -> tuple[Round, ...]:
    """The rounds of a step, in the order in which they are played; rounds without checks are left out.

    Args:
        step: of the power-up steps.
        checks: of the step, in the order in which the leads move least.
        case: whether the case is open, in words, for the round at the plug; "" where nobody said.

    Returns:
        The rounds; a step under power is one round.
    """
    checks = tuple(checks)
    if step.key != "cold":
        return (Round(key=step.key, title=step.title, checks=checks),) if checks else ()
    found: dict[str, list[Check]] = {key: [] for key in _ORDER}
    titles = {key: title for key, title, _ in _COLD}
    for check in checks:
        found[next(key for key, _, holds in _COLD if holds(check))].append(check)
    return tuple(
        Round(
            key=key,
            title=titles[key] + (f", {case}" if case and key == "mains" else ""),
            checks=tuple(found[key]),
        )
        for key in _ORDER
        if found[key]
    )


def by_tone(check: Check) -> bool:
    """Whether a tone answers a check: continuity that guards nobody."""
    return check.kind == "continuity" and not check.safety


#: An answer to a discharge counts if it came within so long, s: charge creeps back.
FRESH = 60.0
#: Under power nothing is kept: an answer counts if it came within so long, s.
LIVE_FRESH = 5.0
#: No answer counts that is older, s: a page that lay open since yesterday is of another day's work.
OLDEST = 86_400.0


@dataclass(frozen=True, kw_only=True)
class Answered:
    """How an answer of a round came. age: s since it was given. same: whether the check is as the page showed it. since: what happened
    after the page was last told, without that page's own earlier answers."""

    age: float
    same: bool = True
    since: Sequence[tuple[Event, tuple[str, ...]]] = ()


def asked_again(check: Check, answered: Answered) -> str:
    """Why an answer does not count any more when it arrives, "" where it does.

    Args:
        check: as the unit asks it now.
        answered: how it came.

    Returns:
        The reason, in words.
    """
    if check.live and answered.age > LIVE_FRESH:
        return f"the answer is {answered.age:.0f} s old, and under power no answer is kept"
    if check.fact == DISCHARGED and answered.age > FRESH:
        return f"the answer is {answered.age:.0f} s old, and charge creeps back"
    if answered.age > OLDEST:
        return "the answer is more than a day old"
    if not answered.same:
        return "what is checked was changed since it was shown"
    hit = next(voiding(check, answered.since), None)
    return hit[1].words if hit else ""


@dataclass(frozen=True)
class Pace:
    """Seconds of a look, of a probe put to a point, and of a number typed. told: whether they are the shop's own."""

    look: float = 2.0
    probe: float = 4.0
    number: float = 3.0
    told: bool = False

    def seconds(self, check: Check) -> float:
        """How long a check takes, s; what power must be held for is counted, too."""
        if check.seen:
            return self.look + 60 * check.hold
        return self.probe + (0.0 if by_tone(check) else self.number) + 60 * check.hold

    def minutes(self, checks: Iterable[Check]) -> float:
        """How long some checks take, minutes."""
        return sum(map(self.seconds, checks)) / 60

    def minutes_of(self, answers: Sequence[int]) -> float:
        """How long so many looks, tones and numbers take, minutes."""
        looks, tones, numbers = answers
        return (looks * self.look + (tones + numbers) * self.probe + numbers * self.number) / 60


def by_answer(checks: Iterable[Check]) -> tuple[int, int, int]:
    """How many of some checks are looks, tones and numbers."""
    some = list(checks)
    looks, tones = sum(check.seen for check in some), sum(map(by_tone, some))
    return looks, tones, len(some) - looks - tones


#: Gaps between two answers above this were pauses, s; from so many gaps of a kind the shop's own median counts.
PAUSE, ENOUGH = 60.0, 12


def pace_of(gaps: Mapping[str, Sequence[float]]) -> Pace:
    """The shop's own pace.

    Args:
        gaps: s between an answer and the one before it, by "look", "tone" and "number".

    Returns:
        Its medians; the usual pace where there are too few.

    >>> pace_of({"look": [1.5] * 12}).look, pace_of({"look": [1.5]}).look
    (1.5, 2.0)
    """
    usual, found = Pace(), {}
    for kind, some in gaps.items():
        kept = sorted(gap for gap in some if 0 < gap <= PAUSE)
        if len(kept) >= ENOUGH:
            found[kind] = kept[len(kept) // 2]
    probe = found.get("tone", usual.probe)
    number = max(0.5, found["number"] - probe) if "number" in found else usual.number
    return Pace(found.get("look", usual.look), probe, number, bool(found))


def in_words(minutes: float) -> str:
    """A stretch of time as it is told before: ``about 9 min``, ``under 1 min``."""
    return "under 1 min" if minutes < 0.75 else f"about {round(minutes)} min"


def kind_of_answer(typed: str) -> str:
    """Which pace an answer tells of, as it was typed.

    >>> kind_of_answer("yes"), kind_of_answer("beeps"), kind_of_answer("4.7")
    ('look', 'tone', 'number')
    """
    return "look" if typed in ("yes", "no") else "tone" if typed == "beeps" else "number"
