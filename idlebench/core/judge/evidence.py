"""What speaks for or against an old part, each with its points: looks, readings, years, place and series.

Source: limits as in ageing; weights: workshop practice, because no standard weighs old parts. Good readings in circuit clear nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

from ..board.parts import OPEN_ESR, Fitted
from ..board.roles import is_mains_place, wrong_class
from ..text.quantity import show
from . import ageing

#: Up to this age the looks of an electrolytic may speak for it, years: makers rate their life at up to 15 years, and none longer. Workshop
#: practice, because it dries out without a sign.
LOOKS_COUNT = 10


#: Places in which an electrolytic dries first, °C from which, and what is asked there.
HOT_ROLES, HOT = ("startup", "converter_output"), 60.0


#: What looks add.
LOOK_POINTS = {
    "burst": 10.0, "leaking": 10.0, "missing": 10.0, "cracked": 10.0, "bulging": 8.0, "crusty": 6.0, "corroded": 6.0,
    "stained": 3.0, "rusty": 2.0, "bare": 1.0, "burnt": 8.0,
}  # fmt: skip


#: What a look says of a part, where the word alone does not.
LOOK_SAYS = {
    "missing": "missing from its place", "cracked": "its case is cracked", "corroded": "its leads or end are corroded",
    "stained": "stained or browned: heat, or leaked fluid", "rusty": "rusty legs", "bare": "its sleeve is missing",
    "burnt": "burnt: it was far too hot",
}  # fmt: skip


#: Above this share of the marked value a good reading clears nothing: an old part may have been made so, or it leaks.
NORMAL_MORE = 1.2


#: A paper part on the mains is replaced from this age, years, whatever it reads: its paper takes up water, splits and burns.
PAPER_MAINS_AGE = 25


#: How each criterion judges: ESR as a multiple of new, least capacitance as a share of the marked value.
@dataclass(frozen=True)
class EsrCriterion:
    """How far ESR and capacitance may have gone. esr: times the new-part limit. capacitance: least share of the marked value."""

    name: str
    esr: float
    capacitance: float


ESR_CRITERIA = {"strict": EsrCriterion("strict", 1.5, 0.8), "lenient": EsrCriterion("lenient", 3.0, 0.7)}


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


def looks_tell_nothing(part: Fitted, year: int, made: int | None) -> bool:
    """Whether the looks of a part speak for nothing: an electrolytic dries out without a sign."""
    return part.kind == "wet" and (made is None or year - made > LOOKS_COUNT)


def by_place(part: Fitted) -> list[Evidence]:
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


def by_looks(part: Fitted) -> list[Evidence]:
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


def by_esr(part: Fitted, esr_criterion: EsrCriterion, frequency: float) -> list[Evidence]:
    if part.esr is not None and part.esr >= OPEN_ESR:
        return [
            Evidence(rule="esr", text="ESR OL: open, nothing is joined inside", points=10.0, value=part.esr, limit=None)
        ]
    if part.esr is None or part.kind != "wet" or not part.volts:
        return []
    new = ageing.new_esr(part.value, part.volts, frequency)
    limit = esr_criterion.esr * new
    said = f"ESR {show(part.esr, 'Ω')}"
    at = f"at {show(frequency, 'Hz')}"
    if part.esr > limit:
        return [
            Evidence(
                rule="esr",
                text=f"{said} {at} is {_times(part.esr / limit)} the {esr_criterion.name} limit of {show(limit, 'Ω')}",
                points=8.0,
                value=part.esr,
                limit=limit,
            )
        ]
    if part.esr > new:
        return [
            Evidence(
                rule="esr",
                text=f"{said} {at} is above a new part's {show(new, 'Ω')}, inside the {esr_criterion.name} limit",
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


def by_capacitance(part: Fitted, esr_criterion: EsrCriterion) -> list[Evidence]:
    if part.capacitance is None:
        return []
    share = part.capacitance / part.value
    measured, marked = show(part.capacitance, "F"), show(part.value, "F")
    if 7 <= share <= 14:
        text = f"measures {measured}, ten times the listed {marked}: read its code again, a tenfold slip is common"
        return [Evidence(rule="misread", text=text, points=4.0, value=part.capacitance, limit=part.value)]
    least = esr_criterion.capacitance * part.value
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


def by_leakage(part: Fitted, reformed: bool) -> list[Evidence]:
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


def by_series(part: Fitted, series: Mapping[str, SeriesCount]) -> list[Evidence]:
    count = series.get(part.series) if part.series else None
    points = series_points(count) if count else 0.0
    if not points:
        return []
    text = f"{count.failed} of {count.seen} others of series {part.series} failed"
    return [Evidence(rule="series", text=text, points=points, value=count.failed, limit=count.seen)]


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


def by_mains(part: Fitted) -> list[Evidence]:
    """A part across the mains or to earth of no class, or of a wrong one."""
    if wrong := unclassed_on_mains(part):
        return [Evidence(rule="class", text=f"a mains part with {wrong}", points=10.0)]
    return []


def by_years(part: Fitted, year: int, made: int | None) -> list[Evidence]:
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
