"""Verdict on an old part: evidence added up, each piece shown with what it added.

Source: limits as in ageing; weights: workshop practice, because no standard weighs old parts. Good readings in circuit clear nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..board.parts import Fitted
from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.dates import year_of
from ..wording import on_screen
from .evidence import (
    ESR_CRITERIA,
    Evidence,
    SeriesCount,
    by_capacitance,
    by_esr,
    by_leakage,
    by_looks,
    by_mains,
    by_place,
    by_series,
    by_years,
    looks_tell_nothing,
    old_paper_on_mains,
    unclassed_on_mains,
)
from .policy import BIG_STORE, Policy, policy_of

SOUND, DOUBTFUL, REPLACE, NOT_SEEN = "sound", "doubtful", "replace", "not seen"
VERDICTS = (REPLACE, DOUBTFUL, NOT_SEEN, SOUND)
#: What NOT_SEEN is called on a page.
NOT_MEASURED = "not measured"

#: Points from which a part counts as doubtful and as one to replace; one piece of that weight condemns by itself,
#: whatever else reads well.
DOUBTFUL_FROM, REPLACE_FROM = 3.0, 6.0


@dataclass(frozen=True)
class Verdict:
    """What a part is judged as, with the evidence, the weightiest first."""

    name: str
    points: float
    evidence: tuple[Evidence, ...]
    by_hand: bool = False

    @property
    def shown(self) -> str:
        """The verdict as people read it: a part that nobody read is not measured, whatever it looks like."""
        return NOT_MEASURED if self.name == NOT_SEEN else self.name

    @property
    def against(self) -> tuple[Evidence, ...]:
        """The pieces that count against the part."""
        return tuple(e for e in self.evidence if e.points > 0)

    @property
    def leading(self) -> str:
        """The weightiest reason, in a few words for a list."""
        return self.evidence[0].text if self.evidence else ""

    @property
    def of_reading(self) -> str:
        """What the ESR reading added, in words; else the weightiest reason."""
        return next((e.text for e in self.evidence if e.rule == "esr"), self.leading)

    def working(self) -> Calculation:
        """The sum as a Working."""
        lines = [
            CalculationLine(
                label=e.text,
                formula="points",
                numbers=e.rule,
                value=e.points,
                unit="",
                source="workshop practice, because no standard weighs old parts",
            )
            for e in self.evidence
        ]
        lines.append(
            CalculationLine(
                label="Sum",
                formula=f"doubtful from {DOUBTFUL_FROM:g}, replace from {REPLACE_FROM:g}",
                numbers=" + ".join(f"{e.points:g}" for e in self.evidence) or "0",
                value=self.points,
                unit="",
                source="",
            )
        )
        return Calculation(name="judge", values={"verdict": self.name, "points": self.points}, lines=tuple(lines))


#: What a look or old paper on the mains adds that no word of a person makes sound.
PLAIN_POINTS = 8.0
PLAIN_TO_SEE = ("burst", "missing", "leaking", "bulging", "cracked")


def by_hand(verdict: Verdict, name: str, reason: str) -> Verdict:
    """A verdict that a person gave instead, with the reason; the evidence stays beside it. What is plain to see since then
    stands before it."""
    if name != REPLACE and any(
        e.rule in ("looks", "paper", "class") and e.points >= PLAIN_POINTS for e in verdict.evidence
    ):
        return verdict
    said = Evidence(rule="by hand", text=f"{name} by hand, instead of {verdict.name}: {reason}", points=0.0)
    return Verdict(name, verdict.points, (said, *verdict.evidence), by_hand=True)


#: The rule by which a tube tuning part of another value than the sheet's is judged; no hand overrules it.
SHEET = "sheet"


def wrong_one(verdict: Verdict, wrong: str) -> Verdict:
    """The verdict on a place where another part stands than the service sheet says; as it was where nothing is wrong."""
    if not wrong:
        return verdict
    return Verdict(
        REPLACE,
        verdict.points + PLAIN_POINTS,
        (Evidence(rule=SHEET, text=wrong, points=PLAIN_POINTS), *verdict.evidence),
    )


def may_override(part: Fitted, name: str, reason: str, year: int, made: int | None) -> None:
    """Refuse a verdict by hand that has no ground.

    Args:
        part: the part in its place.
        name: its name.
        reason: why.
        year: the year it is now.
        made: the year it was made in, None where unknown.

    Raises:
        BadInput: not a verdict, no reason, or a part called sound whose damage is plain to see, or old paper on the mains.
    """
    if name not in (SOUND, DOUBTFUL, REPLACE):
        raise BadInput(name, f"one of {SOUND}, {DOUBTFUL}, {REPLACE}", field="verdict")
    if len(reason.split()) < 2:
        raise BadInput(
            reason, "a reason in a few words", "The reason is shown with the verdict from now on.", field="reason"
        )
    if name != REPLACE and part.looks in PLAIN_TO_SEE:
        raise BadInput(
            name, f"{REPLACE}: {part.ref} is {part.looks}", "If it is not, correct its looks.", field="verdict"
        )
    if name != REPLACE and (paper := old_paper_on_mains(part, year, made)):
        raise BadInput(
            name, f"{REPLACE}: {paper}", "If it is film, or no mains part, correct its line.", field="verdict"
        )
    if name != REPLACE and (wrong := unclassed_on_mains(part)):
        raise BadInput(
            name,
            f"{REPLACE}: a mains part with {wrong}",
            f"If {part.ref} is marked with one, type it: {part.ref} X2.",
            field="verdict",
        )


def judge(
    part: Fitted,
    *,
    year: int,
    made: int | None = None,
    esr_criterion: str = "strict",
    series: Mapping[str, SeriesCount] | None = None,
    reformed: bool = False,
    meter_frequency: float = 120.0,
) -> Verdict:
    """Judge a part as it stands.

    Args:
        part: what was seen and measured.
        year: the year it is now.
        made: year of make of the part or its machine, if known.
        esr_criterion: "strict" (ESR up to 1.5 × new) or "lenient" (3 ×).
        series: failures by make series, across all jobs, the part itself left out.
        reformed: whether it was just reformed (leakage limit × 3).
        meter_frequency: Hz, at which ESR was read where the part names none.

    Returns:
        The verdict, with every piece of evidence and its points.

    >>> judge(Fitted(ref='C22', value=100e-6, volts=10, esr=6.8), year=2026).name
    'replace'
    """
    rules = ESR_CRITERIA[esr_criterion]
    found: list[Evidence] = []
    found += by_looks(part)
    found += by_esr(part, rules, part.esr_frequency or meter_frequency)
    found += by_capacitance(part, rules)
    found += by_leakage(part, reformed)
    # in circuit a reading may condemn, and clears nothing
    own = () if part.in_circuit else (part.esr, part.capacitance)
    read_ = any(x is not None for x in (*own, part.leakage))
    seen = read_ or (bool(part.looks) and not looks_tell_nothing(part, year, made))
    found += by_series(part, series or {})
    found += by_years(part, year, made)
    found += [*by_mains(part), *by_place(part)]
    found.sort(key=lambda e: -e.points)
    points = sum(e.points for e in found)
    if points >= REPLACE_FROM or any(e.points >= REPLACE_FROM for e in found):
        name = REPLACE
    elif points >= DOUBTFUL_FROM or any(e.rule in NEVER_CLEARED and e.points >= DOUBTFUL_FROM for e in found):
        name = DOUBTFUL
    else:
        name = SOUND if seen else NOT_SEEN
    return Verdict(name, round(points, 2), tuple(found))


#: Pieces that no good reading of another kind clears: much more than marked is leakage, and heat dries what nobody read.
NEVER_CLEARED = ("capacitance", "unread")


def condemned_alone(part: Fitted, year: int) -> bool:
    """Whether a part's own looks and readings condemn it, by the strict criterion and with nothing known of its series: what
    counts as a failure of its series. year: the year it is now.
    """
    return judge(part, year=year, made=year_of(part.date)).name == REPLACE


@dataclass(frozen=True)
class Decision:
    """What a policy does with a place: replace it or keep the old part, and why."""

    replace: bool
    why: str


def decide(part: Fitted, verdict: Verdict, policy: str | Policy, bad_series: frozenset[str] = frozenset()) -> Decision:
    """What a policy asks for one part.

    Args:
        part: the part in its place.
        verdict: how it was judged.
        policy: a policy, or the name of one that ships.
        bad_series: series of which a part on this unit is judged to be replaced.

    Returns:
        Replace, keep, look twice or leave, with the reason.
    """
    if verdict.name == REPLACE:
        return Decision(True, f"judged bad: {verdict.leading}")
    asked = policy_of(policy)
    policy = asked.what
    if part.role == "bulk" and part.kind == "wet" and part.value >= BIG_STORE:
        if asked.stores == "always":
            return Decision(True, "a big reservoir, and the policy always replaces them")
        if asked.stores == "measured" and verdict.name == SOUND and part.capacitance is not None:
            return Decision(False, "a big reservoir that measures sound, and the policy keeps those")
    if policy == "renew" and part.kind == "wet":
        return Decision(True, "electrolytic, and the policy replaces all of them")
    if policy == "cohort" and part.series and part.series in bad_series:
        return Decision(True, f"same series, {part.series}, as a part judged bad")
    if policy == "staged" and verdict.name == DOUBTFUL:
        return Decision(False, f"doubtful, waits for the test after the worst: {verdict.leading}")
    if verdict.name == NOT_SEEN:
        later = ", after what is bad" if policy == "staged" else ""
        return Decision(False, f"not measured: measure it first{later}")
    return Decision(
        False,
        f"{verdict.name}, and the policy keeps it"
        if policy != "renew"
        else f"{on_screen(part.kind)} part, judged {verdict.name}",
    )
