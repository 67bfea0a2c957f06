"""What is read, seen and said of a supply, and the suspects that follow from it.

Source: Bayes' rule; when a sign speaks: workshop practice, because nobody has counted them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..simulate.readings import UNITS, Asked
from ..simulate.rectifier import Floats
from ..simulate.state import State
from ..simulate.truth import Fault
from ..text.quantity import show
from .severity import Severity

#: What is said speaks for or against a suspect from so many times the likelihood of all together.
SPEAKS = 1.5


@dataclass(frozen=True)
class ClueReading:
    """A reading: the bench as it was set, what was read there, and the number; None off the scale.

    said: its words, where the number is what it comes to and not what was read.
    """

    state: State
    asked: Asked
    value: float | None
    said: str = ""

    @property
    def unit(self) -> str:
        return UNITS[self.asked.what]

    @property
    def words(self) -> str:
        if self.said:
            return self.said
        shown = "off the scale" if self.value is None else show(self.value, self.unit)
        return f"{self.asked.typed} {self.asked.what} {shown}"


@dataclass(frozen=True, kw_only=True)
class Suspect:
    """A part and its failure: its share of all that may be, what speaks for and against it in words with numbers."""

    ref: str
    failure: str
    share: float
    speaks_for: tuple[str, ...]
    against: tuple[str, ...]
    place: str = ""
    faults: tuple[Fault, ...] = ()
    severity: Severity | None = None

    @property
    def words(self) -> str:
        return f"{self.ref} {self.failure}"

    @property
    def percent(self) -> int:
        """Its share in whole per cent."""
        return round(100 * self.share)


@dataclass(frozen=True)
class Fitted:
    """What was not known, as the readings have it: V of the mains, and A of each rail's load."""

    mains: float
    loads: Mapping[str, float]

    @property
    def words(self) -> str:
        """Mains and loads in words, to two digits: no more is known of them."""
        loads = "".join(f"; {rail} {show(float(f'{amps:.2g}'), 'A')}" for rail, amps in self.loads.items())
        return f"mains {self.mains:.0f} V{loads}"


@dataclass(frozen=True)
class RankedSuspects:
    """All single suspects, the likeliest first: their shares add up to one with those of sound and none.

    unexplained: none leads, nothing in the lines explains what was read. pairs: two faults at once where no single one explains,
    their shares of one among themselves; what they explain lies inside none. sound: the share of nothing being wrong. none: of
    something being wrong that the lines do not tell. sound_fits: a supply with nothing wrong would be accepted by its readings alone.
    """

    suspects: tuple[Suspect, ...]
    unexplained: bool
    pairs: tuple[Suspect, ...] = ()
    sound: float = 0.0
    none: float = 0.0
    fitted: Fitted | None = None
    sound_fits: bool = False

    @property
    def named(self) -> tuple[Suspect, ...]:
        """What is shown first: pairs where only they explain, else single suspects."""
        return self.pairs or self.suspects

    @property
    def sound_percent(self) -> int:
        """How sure it is that nothing is wrong, in whole per cent."""
        return round(100 * self.sound)

    @property
    def none_percent(self) -> int:
        """How sure it is that something is wrong which the lines do not tell, in whole per cent."""
        return round(100 * self.none)

    @property
    def nothing_wrong(self) -> bool:
        """Whether a supply with nothing wrong leads."""
        return self.sound > max(self.none, *(one.share for one in self.suspects), 0.0)


@dataclass(frozen=True)
class Mark:
    """What is known of a part itself beside what is read of the supply: how it looks, or that it was ruled out.

    ref, failure: of the suspect, failure "" for all of a part's. factor: how much likelier it makes it.
    """

    ref: str
    failure: str
    factor: float
    words: str


@dataclass(frozen=True)
class Said:
    """A sign or mark: its words, how likely it is with each hypothesis, and a reason where its cause has one."""

    words: str
    like: Floats
    reasons: Mapping[str, str] = field(default_factory=dict)

    def of(self, row: int, usual: float) -> tuple[str, bool | None]:
        """What it says of a hypothesis, and whether for or against it; None for neither."""
        like = float(self.like[row])
        # a cause that a sign says nothing of is not spoken against
        speaks = True if like > SPEAKS * usual else False if like * SPEAKS < min(usual, 1.0) else None
        return self.words, speaks


def chance(miss: float, degrees: int) -> float:
    """How often chance alone misses by so much or more: the upper tail of chi squared."""
    from scipy.special import chdtrc  # half a second to bring in, and most commands never ask

    return float(chdtrc(degrees, miss))


def degrees_of(readings: Sequence[ClueReading]) -> int:
    """Degrees of freedom: numbers that were read. What comes to a yes or no is met by most, and would hide a number that is not."""
    return max(sum(not one.said for one in readings), min(len(readings), 1))
