"""What it would take to save a unit, against what it is worth: repair it, wait, or take parts from it.

Times are the shop's own; the ones here are where a shop starts. Source: workshop practice, because only hands tell how long hands take.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..refusal import BadInput, nearly
from ..text.calculation import Calculation, CalculationLine
from ..wording import many

REPAIR, WAIT, DONOR = "repair", "wait", "donor"
SOURCE = "the shop's own times"

#: Up to this share of its worth a unit is repaired; above the second it becomes a donor.
REPAIR_UP_TO, DONOR_FROM = 0.7, 1.2


#: Minutes for one part out and in, by how it stands.
SWAP_TIMES = {
    "radial": 4.0, "axial": 4.0, "snap": 6.0, "chip": 7.0, "can": 7.0, "screw": 10.0, "chassis": 12.0,
}  # fmt: skip


#: How a machine looks before its survey: damaged places that such looks stand for, and what it means.
CONDITIONS: dict[str, tuple[int, str]] = {
    "eaten": (8, "a spill has eaten traces"), "spilt": (4, "a cell or a drink has spilt on it"), "wet": (3, "it stood in water"),
    "burnt": (5, "something has burnt"), "rusty": (2, "rust, from damp air"), "broken": (4, "a board or a case is broken"),
    "mouldy": (1, "mould"), "gutted": (10, "parts were taken out before"), "clean": (0, "clean, as far as can be seen"),
    "unseen": (0, "bought unseen: only its photos are known"),
}  # fmt: skip
#: Other words for them.
_ALSO = {
    "corroded": "eaten", "leaked": "spilt", "leaking": "spilt", "spill": "spilt", "water": "wet", "soaked": "wet", "scorched": "burnt",
    "charred": "burnt", "rust": "rusty", "cracked": "broken", "mould": "mouldy", "stripped": "gutted", "dry": "clean",
}  # fmt: skip
#: What is decided by hand.
DECISIONS = {"save": REPAIR, "donor": DONOR, "wait": WAIT}


def read_condition(text: str) -> tuple[str, ...]:
    """How a machine looks before its survey, as typed: words apart by commas or blanks.

    Args:
        text: as it was typed.

    Returns:
        Words of CONDITIONS, each once.

    Raises:
        BadInput: another word; the nearest is offered.

    >>> read_condition('burnt, corroded'), read_condition('')
    (('burnt', 'eaten'), ())
    """
    found = []
    for word in re.split(r"[,;\s]+", text.strip().lower()):
        if not word:
            continue
        name = _ALSO.get(word, word)
        if name not in CONDITIONS:
            known = (*CONDITIONS, *_ALSO)
            raise BadInput(
                word, f"how it looks: {', '.join(CONDITIONS)}", field="condition", instead=nearly(word, known)
            )
        found.append(name)
    return tuple(dict.fromkeys(found))


@dataclass(frozen=True, kw_only=True)
class Times:
    """Hands-on minutes. swap: one part out and in, by how it stands. The rest: for one of each."""

    swap: dict[str, float] = field(default_factory=SWAP_TIMES.copy)
    look: float = 1.0
    check: float = 0.7
    damage: float = 25.0
    missing: float = 15.0
    power: float = 45.0


#: What a shop may say of its own times: name → words.
TIMES = {
    "radial": "a radial part", "axial": "an axial part", "snap": "a snap-in part", "chip": "a surface chip",
    "can": "a surface can", "screw": "a screw-down can", "chassis": "a chassis can", "look": "a look at a part", "check": "a cold check",
    "damage": "repair of a pad or trace", "missing": "finding a missing part", "power": "a first power",
}  # fmt: skip


def shop_times(minutes: Mapping[str, float]) -> Times:
    """A shop's own times; those it does not say are the ones a shop starts with.

    >>> shop_times({'radial': 3, 'power': 60}).swap['radial'], shop_times({}).power
    (3, 45.0)
    """
    start = Times()
    swap = {name: minutes.get(name, start.swap[name]) for name in start.swap}
    rest = {name: minutes.get(name, getattr(start, name)) for name in ("look", "check", "damage", "missing", "power")}
    return Times(swap=swap, **rest)


def minutes_of(times: Times) -> dict[str, float]:
    """Times by their names in TIMES."""
    return {name: times.swap.get(name, getattr(times, name, 0.0)) for name in TIMES}


@dataclass(frozen=True, kw_only=True)
class UnitFacts:
    """What triage needs to know of a unit.

    Attributes:
        name: of the unit. swaps: the mounting of each part to be replaced. parts_cost: money for them.
        not_seen: parts not looked at or measured, or still to be found. missing: parts missing from their places.
        damage: lifted pads and broken traces. checks: cold checks to do. leaking: parts that leak.
        worth: money, None when nobody said. surveyed: whether any part is listed.
        shown: how many boards are on a photo, and how many are listed.
        condition: how it looks before its survey, words of CONDITIONS. decided: a key of DECISIONS, "" for none, and why.
    """

    name: str
    swaps: tuple[str, ...] = ()
    parts_cost: float = 0.0
    not_seen: int = 0
    missing: int = 0
    damage: int = 0
    checks: int = 0
    leaking: int = 0
    worth: float | None = None
    surveyed: bool = True
    shown: tuple[int, int] = (0, 0)
    condition: tuple[str, ...] = ()
    decided: str = ""
    why: str = ""


@dataclass(frozen=True, kw_only=True)
class Estimate:
    """What a unit would take: minutes, money with risk, the suggestion and its reasons, and the working."""

    facts: UnitFacts
    minutes: float
    cost: float
    risk: float
    suggestion: str
    reasons: tuple[str, ...]
    working: Calculation

    @property
    def hours(self) -> str:
        return f"{self.minutes / 60:.1f} h"

    @property
    def share(self) -> float | None:
        """Cost as a share of worth."""
        return self.cost / self.facts.worth if self.facts.worth else None


def estimate(facts: UnitFacts, rate: float, times: Times | None = None) -> Estimate:
    """Reckon a unit.

    Args:
        facts: of the unit.
        rate: money for an hour of hands.
        times: the shop's own.

    Returns:
        Minutes and € with their lines, and what is suggested.

    >>> e = estimate(UnitFacts(name='B', swaps=('radial',) * 15, parts_cost=6.0, worth=200.0), rate=20.0)
    >>> e.minutes, round(e.cost, 2), e.suggestion
    (105.0, 41.0, 'repair')
    """
    times = times or Times()
    if not facts.surveyed and facts.condition:
        # before a survey the looks stand for the damage that it would find
        facts = replace(facts, damage=max(facts.damage, sum(CONDITIONS[word][0] for word in facts.condition)))
    swaps = Counter(facts.swaps)
    lines = [
        _minutes(many(count, f"{mounting} part"), count, times.swap.get(mounting, 6.0))
        for mounting, count in sorted(swaps.items())
    ]
    for label, count, each in (
        ("Parts still to be seen", facts.not_seen, times.look),
        ("Missing parts to be found", facts.missing, times.missing),
        ("Pads and traces to repair", facts.damage, times.damage),
        ("Cold checks", facts.checks, times.check),
        ("First power", 1, times.power),
    ):
        if count:
            lines.append(_minutes(label, count, each))
    minutes = sum(float(line.value) for line in lines)
    risk, risks = _risk(facts)
    plain = minutes / 60 * rate + facts.parts_cost
    cost = plain * (1 + risk)
    lines += [
        CalculationLine(
            label="Hands",
            formula="minutes ÷ 60 · rate",
            numbers=f"{minutes:.0f} ÷ 60 · {rate:g}",
            value=minutes / 60 * rate,
            unit="",
            source=SOURCE,
        ),
        CalculationLine(
            label="Parts",
            formula="the parts chosen at Choose, priced",
            numbers="",
            value=facts.parts_cost,
            unit="",
            source="catalogue",
        ),
        CalculationLine(
            label="Risk",
            formula=" + ".join(risks) or "none seen",
            numbers=f"{plain:.2f} · {risk:.2f}",
            value=plain * risk,
            unit="",
            source="workshop practice, because no standard weighs old parts",
        ),
        CalculationLine(label="Altogether", formula="hands + parts + risk", numbers="", value=cost, unit="", source=""),
    ]
    suggestion, reasons = _suggest(facts, cost, minutes)
    reasons += [f"Looks {word}: {CONDITIONS[word][1]}." for word in facts.condition]
    if facts.decided in DECISIONS:
        suggestion = DECISIONS[facts.decided]
        reasons = [f"Decided by hand: {facts.decided}{', ' + facts.why if facts.why else ''}.", *reasons]
    working = Calculation(name="triage", values={"minutes": minutes, "cost": cost, "risk": risk}, lines=tuple(lines))
    return Estimate(
        facts=facts,
        minutes=minutes,
        cost=cost,
        risk=risk,
        suggestion=suggestion,
        reasons=(*reasons, *risks),
        working=working,
    )


def _minutes(label: str, count: int, each: float) -> CalculationLine:
    return CalculationLine(
        label=label,
        formula="count · minutes each",
        numbers=f"{count} · {each:g}",
        value=count * each,
        unit="min",
        source=SOURCE,
    )


def _risk(facts: UnitFacts) -> tuple[float, list[str]]:
    """Share added for what may turn up, with its reasons."""
    found = [
        (0.05 * min(facts.damage, 6), f"{many(facts.damage, 'damaged pad or trace')} may hide others"),
        (0.10 * min(facts.missing, 5), f"{many(facts.missing, 'missing part')} to be found"),
        (0.02 * min(facts.leaking, 10), f"{many(facts.leaking, 'leaking part')} may have eaten traces"),
        (0.01 * min(facts.not_seen, 30), f"{many(facts.not_seen, 'part')} not measured yet"),
        (_trust(facts), f"bought unseen, {facts.shown[0]} of {many(facts.shown[1], 'board')} on a photo"),
    ]
    return sum(share for share, _ in found), [text for share, text in found if share]


#: What is added for a machine that was bought unseen and of which no board is on a photo, a share.
UNSEEN = 0.3


def _trust(facts: UnitFacts) -> float:
    """What a machine that was bought unseen may hide, a share: the less, the more of its boards are on a photo."""
    if "unseen" not in facts.condition:
        return 0.0
    shown, listed = facts.shown
    return UNSEEN * (1 - min(shown / listed, 1.0) if listed else 1.0)


def _suggest(facts: UnitFacts, cost: float, minutes: float) -> tuple[str, list[str]]:
    if not facts.surveyed and not facts.condition:
        return WAIT, ["Not surveyed yet: list its parts, or say how it looks."]
    if not facts.surveyed and (facts.worth is None or cost <= DONOR_FROM * facts.worth):
        return WAIT, ["Not surveyed yet: by its looks alone it may be saved."]
    if facts.worth is None:
        return WAIT, ["Its worth is not given."]
    if facts.worth == 0:
        return DONOR, ["Worth nothing as it stands."]
    share = cost / facts.worth
    said = f"{cost:.0f} against {facts.worth:.0f} worth, {share * 100:.0f} %; {minutes / 60:.1f} h of bench time"
    if share <= REPAIR_UP_TO:
        return REPAIR, [f"{said}: up to {REPAIR_UP_TO * 100:.0f} % it is repaired."]
    if share < DONOR_FROM:
        return WAIT, [
            f"{said}: between {REPAIR_UP_TO * 100:.0f} % and {DONOR_FROM * 100:.0f} % it can wait for a donor."
        ]
    return DONOR, [f"{said}: from {DONOR_FROM * 100:.0f} % it is more useful as a donor."]


def helped_by(estimates: Sequence[Estimate]) -> dict[str, str]:
    """Which donor could give parts to which unit: unit name → words, where a donor stands beside a unit that misses parts."""
    donors = [e.facts.name for e in estimates if e.suggestion == DONOR]
    return {
        e.facts.name: f"Unit {' or '.join(donors)} may have the {many(e.facts.missing, 'part')} it misses."
        for e in estimates
        if donors and e.facts.missing and e.suggestion != DONOR
    }
