"""Verdict on an old part: evidence added up, each piece shown with what it added.

Source: limits as in ageing; weights: workshop practice, because no standard weighs old parts. Good readings in circuit clear nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

from ..board.parts import Fitted
from ..board.roles import is_mains_place, wrong_class
from ..refusal import BadInput
from ..text.calculation import Calculation, CalculationLine
from ..text.dates import year_of
from ..text.quantity import show
from ..wording import on_screen
from . import ageing
from .policy import BIG_STORE, Policy, policy_of

SOUND, DOUBTFUL, REPLACE, NOT_SEEN = "sound", "doubtful", "replace", "not seen"
VERDICTS = (REPLACE, DOUBTFUL, NOT_SEEN, SOUND)
#: What NOT_SEEN is called on a page.
NOT_MEASURED = "not measured"
#: Up to this age the looks of an electrolytic may speak for it, years: makers rate their life at up to 15 years, and none longer. Workshop
#: practice, because it dries out without a sign.
LOOKS_COUNT = 10
#: Places in which an electrolytic dries first, °C from which, and what is asked there.
HOT_ROLES, HOT = ("startup", "converter_output"), 60.0

#: Points from which a part counts as doubtful and as one to replace; one piece of that weight condemns by itself,
#: whatever else reads well.
DOUBTFUL_FROM, REPLACE_FROM = 3.0, 6.0

#: What looks add.
LOOK_POINTS = {
    "burst": 10.0, "leaking": 10.0, "missing": 10.0, "cracked": 10.0, "bulging": 8.0, "crusty": 6.0, "corroded": 6.0,
    "stained": 3.0, "rusty": 2.0, "bare": 1.0,
}  # fmt: skip
#: What a look says of a part, where the word alone does not.
LOOK_SAYS = {
    "missing": "missing from its place", "cracked": "its case is cracked", "corroded": "its leads or end are corroded",
    "stained": "stained or browned: heat, or leaked fluid", "rusty": "rusty legs", "bare": "its sleeve is missing",
}  # fmt: skip
#: Above this share of the marked value a good reading clears nothing: an old part may have been made so, or it leaks.
NORMAL_MORE = 1.2
#: A paper part on the mains is replaced from this age, years, whatever it reads: its paper takes up water, splits and burns.
PAPER_MAINS_AGE = 25


#: How each school judges: ESR as a multiple of new, least capacitance as a share of the marked value.
@dataclass(frozen=True)
class School:
    """A school of judging. esr: times the new-part limit. capacitance: least share of the marked value."""

    name: str
    esr: float
    capacitance: float


SCHOOLS = {"strict": School("strict", 1.5, 0.8), "lenient": School("lenient", 3.0, 0.7)}

#: Wet parts of these years and kinds are known for bad fluid.
FLUID_ERAS = (
    (1988, 1994, ("can",), "electrolytic surface-mount part of 1988–1994, known for leaking fluid"),
    (1999, 2007, ("radial", "snap"), "electrolytic of 1999–2007, years of bad low-ESR fluid"),
)


class SeriesCount(NamedTuple):
    """How a series has done across all jobs: parts that failed, parts seen."""

    failed: int
    seen: int


@dataclass(frozen=True, kw_only=True)
class Evidence:
    """One reason. points is what it added; value and limit are SI, where the reason has them."""

    rule: str
    text: str
    points: float
    value: float | None = None
    limit: float | None = None


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
    school: str = "strict",
    series: Mapping[str, SeriesCount] | None = None,
    reformed: bool = False,
    meter_frequency: float = 120.0,
) -> Verdict:
    """Judge a part as it stands.

    Args:
        part: what was seen and measured.
        year: the year it is now. made: year of make of the part or its machine, if known.
        school: "strict" (ESR up to 1.5 × new) or "lenient" (3 ×).
        series: failures by make series, across all jobs, the part itself left out.
        reformed: whether it was just reformed (leakage limit × 3).
        meter_frequency: Hz, at which ESR was read where the part names none.

    >>> judge(Fitted(ref='C22', value=100e-6, volts=10, esr=6.8), year=2026).name
    'replace'
    """
    rules = SCHOOLS[school]
    found: list[Evidence] = []
    found += _looks(part)
    found += _esr(part, rules, part.esr_frequency or meter_frequency)
    found += _capacitance(part, rules)
    found += _leakage(part, reformed)
    # in circuit a reading may condemn, and clears nothing
    own = () if part.in_circuit else (part.esr, part.capacitance)
    read_ = any(x is not None for x in (*own, part.leakage))
    seen = read_ or (bool(part.looks) and not _looks_tell_nothing(part, year, made))
    found += _series(part, series or {})
    found += _years(part, year, made)
    found += [*_mains(part), *_place(part)]
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


def _looks_tell_nothing(part: Fitted, year: int, made: int | None) -> bool:
    """Whether the looks of a part speak for nothing: an electrolytic dries out without a sign."""
    return part.kind == "wet" and (made is None or year - made > LOOKS_COUNT)


def _place(part: Fitted) -> list[Evidence]:
    """What the place asks of the old part: volts that it was not made for, and a reading where it dries first."""
    found = []
    worst = abs(part.rail_volts or 0.0)
    if part.volts and worst > part.volts * 1.0001 and not is_mains_place(part.role, part.safety):
        text = f"marked {show(part.volts, 'V')}, and the place sees {show(worst, 'V')}"
        found.append(Evidence(rule="volts", text=text, points=10.0, value=part.volts, limit=worst))
    hot = part.kind == "wet" and part.role in HOT_ROLES and (part.ambient or 0.0) >= HOT
    if hot and (part.esr is None or part.in_circuit):
        text = f"a {part.role.replace('_', ' ')} part in {show(part.ambient, '°C')}, and its ESR is not read out of circuit"
        found.append(Evidence(rule="unread", text=text, points=3.0, value=None, limit=None))
    return found


def _looks(part: Fitted) -> list[Evidence]:
    if part.looks in LOOK_POINTS:
        return [
            Evidence(
                rule="looks",
                text=LOOK_SAYS.get(part.looks, f"{part.looks} to the eye"),
                points=LOOK_POINTS[part.looks],
            )
        ]
    return [Evidence(rule="looks", text="looks sound", points=0.0)] if part.looks == "sound" else []


def _times(share: float) -> str:
    """A share above one, as people say it."""
    return "just over" if share < 1.1 else f"{share:.2g} times"


def _esr(part: Fitted, school: School, frequency: float) -> list[Evidence]:
    if part.esr is None or part.kind != "wet" or not part.volts:
        return []
    new = ageing.new_esr(part.value, part.volts, frequency)
    limit = school.esr * new
    said = f"ESR {show(part.esr, 'Ω')}"
    at = f"at {show(frequency, 'Hz')}"
    if part.esr > limit:
        return [
            Evidence(
                rule="esr",
                text=f"{said} {at} is {_times(part.esr / limit)} the {school.name} limit of {show(limit, 'Ω')}",
                points=8.0,
                value=part.esr,
                limit=limit,
            )
        ]
    if part.esr > new:
        return [
            Evidence(
                rule="esr",
                text=f"{said} {at} is above a new part's {show(new, 'Ω')}, inside the {school.name} limit",
                points=1.5,
                value=part.esr,
                limit=limit,
            )
        ]
    if part.in_circuit:
        return [
            Evidence(
                rule="esr",
                text=f"{said} {at} in circuit is in parallel with other parts: it clears nothing",
                points=0.0,
                value=part.esr,
                limit=limit,
            )
        ]
    return [
        Evidence(
            rule="esr", text=f"{said} {at} is good, limit {show(limit, 'Ω')}", points=-1.5, value=part.esr, limit=limit
        )
    ]


def _capacitance(part: Fitted, school: School) -> list[Evidence]:
    if part.capacitance is None:
        return []
    share = part.capacitance / part.value
    measured, marked = show(part.capacitance, "F"), show(part.value, "F")
    if 7 <= share <= 14:
        text = f"measures {measured}, ten times the listed {marked}: read its code again, a tenfold slip is common"
        return [Evidence(rule="misread", text=text, points=4.0, value=part.capacitance, limit=part.value)]
    least = school.capacitance * part.value
    if part.capacitance < least:
        text = f"{measured} left of {marked}, limit {show(least, 'F')}"
        if 0.07 <= share <= 0.14:
            text += ": a tenth of it. Read its code again, too: a tenfold slip is common"
        # the more is gone the worse: from 8 at the limit to 10 where nothing is left
        points = round(8.0 + 2.0 * (1 - part.capacitance / least), 2)
        return [Evidence(rule="capacitance", text=text, points=points, value=part.capacitance, limit=least)]
    if part.in_circuit:
        text = f"{measured} in circuit is in parallel with others: it clears nothing"
        return [Evidence(rule="capacitance", text=text, points=0.0, value=part.capacitance, limit=least)]
    if share >= 1.5:
        leaks = part.leakage is not None and part.volts and part.leakage > ageing.leakage_limit(part.value, part.volts)
        text = f"reads {measured}, {(share - 1) * 100:.0f} % above the marked {marked}"
        if leaks:
            return [
                Evidence(
                    rule="capacitance",
                    text=f"{text}, and it leaks: failing, not strong",
                    points=8.0,
                    value=part.capacitance,
                    limit=1.5 * part.value,
                )
            ]
        return [
            Evidence(
                rule="capacitance",
                text=f"{text}: leakage may be fooling the meter, measure it",
                points=3.0,
                value=part.capacitance,
                limit=1.5 * part.value,
            )
        ]
    if share > NORMAL_MORE:
        text = (
            f"reads {measured}, {(share - 1) * 100:.0f} % above the marked {marked}: leakage reads so too, measure it"
        )
        return [
            Evidence(rule="capacitance", text=text, points=1.0, value=part.capacitance, limit=NORMAL_MORE * part.value)
        ]
    return [
        Evidence(
            rule="capacitance",
            text=f"{measured} of {marked} is inside its tolerance",
            points=-1.0,
            value=part.capacitance,
            limit=least,
        )
    ]


def _leakage(part: Fitted, reformed: bool) -> list[Evidence]:
    if part.leakage is None:
        return []
    shown = show(part.leakage, "A")
    if part.kind in ("film", "ceramic", "paper"):
        if part.leakage <= 1e-6:
            return [
                Evidence(
                    rule="leakage",
                    text=f"leaks {shown}, as a dry part should",
                    points=-1.0,
                    value=part.leakage,
                    limit=1e-6,
                )
            ]
        if part.kind == "paper":
            return [
                Evidence(
                    rule="leakage",
                    text=f"leaks {shown}: old paper, limit 1 µA",
                    points=8.0,
                    value=part.leakage,
                    limit=1e-6,
                )
            ]
        return [
            Evidence(
                rule="dressed",
                text=f"leaks {shown}, and a sound {part.kind} part does not: an electrolytic that looks like a dry "
                "part, or failed",
                points=6.0,
                value=part.leakage,
                limit=1e-6,
            )
        ]
    if not part.volts:
        return []
    limit = ageing.leakage_limit(part.value, part.volts, reformed)
    if part.leakage > limit:
        return [
            Evidence(
                rule="leakage",
                text=f"leaks {shown}, limit {show(limit, 'A')}",
                points=8.0,
                value=part.leakage,
                limit=limit,
            )
        ]
    return [
        Evidence(
            rule="leakage",
            text=f"leaks {shown}, limit {show(limit, 'A')}",
            points=-1.0,
            value=part.leakage,
            limit=limit,
        )
    ]


def series_points(count: SeriesCount) -> float:
    """What a series' failures among the others say against a part of it: 3 from a quarter on, 1.5 for any, 0 for none.

    >>> [series_points(SeriesCount(failed, 8)) for failed in (0, 1, 2)]
    [0.0, 1.5, 3.0]
    """
    return 0.0 if count.failed <= 0 else 3.0 if count.failed * 4 >= count.seen else 1.5


def _series(part: Fitted, series: Mapping[str, SeriesCount]) -> list[Evidence]:
    count = series.get(part.series) if part.series else None
    points = series_points(count) if count else 0.0
    if not points:
        return []
    text = f"{count.failed} of {count.seen} others of series {part.series} failed"
    return [Evidence(rule="series", text=text, points=points, value=count.failed, limit=count.seen)]


def condemned_alone(part: Fitted, year: int) -> bool:
    """Whether a part's own looks and readings condemn it, by the strict school and with nothing known of its series: what
    counts as a failure of its series. year: the year it is now.
    """
    return judge(part, year=year, made=year_of(part.date)).name == REPLACE


def old_paper_on_mains(part: Fitted, year: int, made: int | None) -> str:
    """Why a paper part on the mains goes whatever it reads, "" where it is none or young. Of unknown age it counts as old."""
    if part.kind != "paper" or not is_mains_place(part.role, part.safety):
        return ""
    if not made:
        return "paper part on the mains, its age not known"
    age = year - made
    return f"paper part on the mains, {age} years old, replaced from {PAPER_MAINS_AGE}" if age > PAPER_MAINS_AGE else ""


def unclassed_on_mains(part: Fitted) -> str:
    """Why a part that stands across the mains or to earth goes whatever it reads: no safety class, or not one that its place asks; "" where
    it bears one, or nothing stands there.

    >>> unclassed_on_mains(Fitted(ref='C1', value=47e-9, volts=630.0, kind='film', role='mains_x'))
    'no safety class: X1, X2, Y1 or Y2 is asked across the line'
    """
    return "" if part.looks == "missing" else wrong_class(part.role, part.safety)


def _mains(part: Fitted) -> list[Evidence]:
    """A part across the mains or to earth of no class, or of a wrong one."""
    if wrong := unclassed_on_mains(part):
        return [Evidence(rule="class", text=f"a mains part with {wrong}", points=10.0)]
    return []


def _years(part: Fitted, year: int, made: int | None) -> list[Evidence]:
    if paper := old_paper_on_mains(part, year, made):
        return [
            Evidence(
                rule="paper",
                text=f"{paper}: it splits and burns whatever it reads",
                points=10.0,
                value=made,
                limit=PAPER_MAINS_AGE,
            )
        ]
    if part.kind != "wet":
        return []
    found = []
    if made and year - made > 25:
        age = year - made
        found.append(
            Evidence(
                rule="age",
                text=f"{age} years old, fluid parts are asked about from 25",
                points=min(0.1 * (age - 25), 2.0),
                value=age,
                limit=25,
            )
        )
    if made:
        for first, last, mountings, text in FLUID_ERAS:
            if first <= made <= last and part.mounting in mountings:
                found.append(Evidence(rule="era", text=text, points=3.0, value=made))
    if part.ambient and part.ambient >= 60:
        found.append(
            Evidence(
                rule="heat",
                text=f"stands in {show(part.ambient, '°C')}, fluid dries twice as fast each 10 °C",
                points=1.0,
                value=part.ambient,
                limit=60,
            )
        )
    return found


@dataclass(frozen=True)
class Decision:
    """What a policy does with a place: replace it or keep the old part, and why."""

    replace: bool
    why: str


def decide(part: Fitted, verdict: Verdict, policy: str | Policy, bad_series: frozenset[str] = frozenset()) -> Decision:
    """What a policy asks for one part.

    Args:
        part, verdict: the part and how it was judged.
        policy: a policy, or the name of one that ships.
        bad_series: series of which a part on this unit is judged to be replaced.
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
