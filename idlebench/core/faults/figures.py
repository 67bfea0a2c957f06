"""The shop's own figures: how often parts fail, by what they are and where they stood, with what so few can say.

A share of few is an interval, not a number: the exact one of Clopper and Pearson at 90 %. A verdict is only said where the whole
interval lies on one side of what all parts together do.

Source: C. J. Clopper and E. S. Pearson, Biometrika 26 (1934).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..board.parts import Fitted
from ..board.roles import role
from ..judge.verdict import condemned_alone
from .outcome import traits_of

#: How sure an interval is, and on how many parts a verdict rests at the least.
LEVEL, LEAST = 0.90, 5
#: By what failures are counted, with their words.
BY = {"series": "Series", "kind": "Kind", "role": "What it did", "age": "Age", "heat": "Warmth round it"}
#: Kinds of parts in words.
KINDS = {
    "wet": "wet electrolytic",
    "polymer": "polymer",
    "tantalum": "tantalum",
    "ceramic": "ceramic",
    "film": "film",
    "paper": "paper",
}


@dataclass(frozen=True, kw_only=True)
class Rate:
    """How many of so many failed, and between what the true share lies."""

    name: str
    failed: int
    of: int
    low: float
    high: float
    verdict: str = ""

    @property
    def share(self) -> float:
        return self.failed / self.of

    @property
    def words(self) -> str:
        """As people read it.

        >>> Rate(name='QF', failed=3, of=4, low=0.249, high=0.987).words
        '3 of 4, between 25 % and 99 %'
        """
        return f"{self.failed} of {self.of}, between {100 * self.low:.0f} % and {100 * self.high:.0f} %"


def interval(failed: int, of: int, level: float = LEVEL) -> tuple[float, float]:
    """Between what the true share lies, exactly (Clopper and Pearson).

    >>> [round(x, 3) for x in interval(0, 1)]
    [0.0, 0.95]
    """
    from scipy.special import betaincinv

    if not 0 <= failed <= of or of < 1:
        raise ValueError(f"{failed} of {of}")
    tail = (1 - level) / 2
    low = float(betaincinv(failed, of - failed + 1, tail)) if failed else 0.0
    high = float(betaincinv(failed + 1, of - failed, 1 - tail)) if failed < of else 1.0
    return low, high


#: How many failed, of how many, by name; "" where there is none.
Counts = Mapping[str, tuple[int, int]]


def rates(rows: Iterable[tuple[str, bool]]) -> tuple[Rate, ...]:
    """Failures by name, the worst first. rows: a name, "" where there is none, and whether the part failed."""
    return rates_of(_counted(rows))


def _counted(rows: Iterable[tuple[str, bool]]) -> dict[str, tuple[int, int]]:
    counted: dict[str, tuple[int, int]] = {}
    for name, failed in rows:
        before, of = counted.get(name, (0, 0))
        counted[name] = (before + failed, of + 1)
    return counted


def rates_of(counted: Counts) -> tuple[Rate, ...]:
    """The same from counts."""
    all_failed, all_of = (sum(one[i] for one in counted.values()) for i in (0, 1))
    found = []
    for name, (failed, of) in counted.items():
        if not name:
            continue
        low, high = interval(failed, of)
        rest = all_of - of
        usual = (all_failed - failed) / rest if rest else None
        verdict = ""
        if usual is not None and of >= LEAST:
            verdict = (
                "fails more often than the rest"
                if low > usual
                else "fails less often than the rest"
                if high < usual
                else ""
            )
        found.append(Rate(name=name, failed=failed, of=of, low=low, high=high, verdict=verdict))
    return tuple(sorted(found, key=lambda r: (-r.low, -r.share, r.name)))


@dataclass(frozen=True)
class Counted:
    """A part of the shop's: as it was found, the year it or its machine was made, and whether its own looks and readings
    condemn it, whatever its series or a policy says."""

    part: Fitted
    made: int | None
    failed: bool

    @classmethod
    def of(cls, part: Fitted, made: int | None, year: int) -> Counted:
        """A part judged alone, in a year."""
        return cls(part, made, condemned_alone(part, year))


def failures(parts: Iterable[Counted], year: int) -> dict[str, tuple[Rate, ...]]:
    """Failures by each of BY, of all parts that anybody looked at or measured."""
    return {name: rates_of(found) for name, found in counts(parts, year).items()}


def counts(parts: Iterable[Counted], year: int) -> dict[str, dict[str, tuple[int, int]]]:
    """The same as counts, which those of several units add up to."""
    rows: dict[str, list[tuple[str, bool]]] = {name: [] for name in BY}
    for one in parts:
        part = one.part
        if not part.looks and part.esr is None and part.capacitance is None and part.leakage is None:
            continue
        traits = traits_of(part, year, one.made)
        told = {
            "series": part.series, "kind": KINDS.get(part.kind, part.kind), "role": role(part.role).title if traits.role else "",
            "age": traits.age, "heat": traits.heat,
        }  # fmt: skip
        for name in BY:
            rows[name].append((told[name], one.failed))
    return {name: _counted(found) for name, found in rows.items()}


@dataclass(frozen=True, kw_only=True)
class UnitDone:
    """What went into a unit: its name, the policy of its job, parts that were changed and how many of them had failed, money of
    parts, minutes of hands, money an hour, what it is worth, readings that failed under power, and whether it was handed over.
    """

    name: str
    policy: str
    changed: int
    bad: int
    parts: float
    minutes: float
    rate: float
    worth: float | None
    failed: int
    closed: bool

    @property
    def cost(self) -> float:
        """Money that went into it, to the cent."""
        return round(self.parts + self.minutes / 60 * self.rate, 2)


@dataclass(frozen=True, kw_only=True)
class Paid:
    """What a policy came to, over the units it was used on: of the changed parts those that were bad, cost a unit, failed readings
    under power a unit."""

    policy: str
    units: int
    changed: int
    bad: Rate | None
    cost: float
    failed: float


def paid(units: Sequence[UnitDone], titles: Mapping[str, str]) -> tuple[Paid, ...]:
    """What each policy came to, the cheapest first. titles: of policies, by name."""
    by: dict[str, list[UnitDone]] = {}
    for unit in units:
        if unit.changed:
            by.setdefault(unit.policy, []).append(unit)
    found = []
    for policy, some in by.items():
        changed, bad = sum(u.changed for u in some), sum(u.bad for u in some)
        rate = None
        if changed:
            low, high = interval(bad, changed)
            rate = Rate(name=policy, failed=bad, of=changed, low=low, high=high)
        cost, failed = round(sum(u.cost for u in some) / len(some), 2), sum(u.failed for u in some) / len(some)
        found.append(
            Paid(
                policy=titles.get(policy, policy), units=len(some), changed=changed, bad=rate, cost=cost, failed=failed
            )
        )
    return tuple(sorted(found, key=lambda p: (p.cost, p.policy)))
