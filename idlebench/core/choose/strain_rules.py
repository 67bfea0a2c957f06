"""Rules by strain: ripple, heat, and how long a part lasts under them.

Source: ripple and life as in judge.ageing; the hours that are asked are worked here from hours a day in use.
"""

from __future__ import annotations

import numpy as np

from ..judge import ageing
from ..text.quantity import show
from .columns import Alike, Columns
from .ruling import Ruling, graded

#: A temperature, °C, that nearly every part stands: below it the search leaves it to the rule itself.
EVERYDAY = 85.0
#: Expected life under which a part is looked at twice, h (5 years day and night).
LIFE_WANTED = 43_800.0


def temperature_rule(need: Alike, cols: Columns) -> Ruling:
    temperature, first = cols["temperature"], need.first
    unsaid = (temperature <= 0) & ~(
        cols.is_kind("film", "ceramic") & (need.temperature <= EVERYDAY) & (need.ambient <= EVERYDAY)
    )
    fails = ((temperature < need.temperature - 0.5) | (temperature < need.ambient)) & (temperature > 0)

    def say(i: int) -> str:
        if unsaid[i]:
            return (
                f"Temperature rating not known: read the sleeve of the part. The place needs {first.temperature:g} °C"
            )
        if not fails[i]:
            return ""
        return f"{temperature[i]:g} °C part, the place asks {first.temperature:g} °C ({first.ambient:g} °C round it)"

    return Ruling(
        rule="temperature", status=graded(fails, unsaid), say=say, value=temperature, limit=first.temperature, unit="°C"
    )


def ripple_rating(need: Alike, cols: Columns) -> np.ndarray:
    """Ripple each row may carry at the place's frequency, A; not a number where none is given."""
    return cols.once("ripple", need, lambda: cols["ripple_base"] * need.multiplier(cols["band"]))


def ripple_rule(need: Alike, cols: Columns) -> Ruling | None:
    if not need.any("ripple") and not need.any("ripples"):
        return None
    rating, first = ripple_rating(need, cols), need.first
    asked = need.ripple > 0
    dry = cols.is_kind("film", "ceramic")
    fails = (rating < need.ripple) & asked
    unknown = np.isnan(rating) & (asked | need.ripples)
    # a place that ripples, and nobody knows how much: no part fits it in silence
    unsaid = need.ripples & ~asked & np.ones(len(cols), bool)

    def say(i: int) -> str:
        if fails[i]:
            return f"Ripple rating {show(float(rating[i]), 'A')}, the place needs {show(first.ripple, 'A')}"
        if dry[i]:
            return ""
        if unknown[i]:
            return "No ripple rating is given for it"
        return (
            "What ripple this place carries is not known: type its supply's lines, or ripple 1.2A" if unsaid[i] else ""
        )

    return Ruling(
        rule="ripple",
        status=graded(fails, (unknown | unsaid) & ~dry),
        say=say,
        value=rating,
        limit=first.ripple,
        unit="A",
    )


def expected_life(need: Alike, cols: Columns) -> np.ndarray:
    """Expected life of each row in the place, h; not a number for dry parts and parts without a rated life."""

    def work() -> np.ndarray:
        ratio = np.fmin(need.ripple / ripple_rating(need, cols), 1e6)
        ratio = np.where(np.isnan(cols["ripple_base"]), np.minimum(need.ripple * 1e9, 1.0), ratio)
        return ageing.life_of(cols["rated_life"], cols["temperature"], need.ambient, ratio)

    return cols.once("life", need, work)


def life_rule(need: Alike, cols: Columns) -> Ruling:
    hours, first = expected_life(need, cols), need.first
    short = hours < LIFE_WANTED

    def say(i: int) -> str:
        if not short[i]:
            return ""
        return f"Expected life {hours[i] / 8760:.1f} y at {first.ambient:g} °C, {LIFE_WANTED / 8760:g} y is wanted"

    return Ruling(
        rule="life", status=graded(np.zeros(len(cols), bool), short), say=say, value=hours, limit=LIFE_WANTED, unit="h"
    )


def esr_rule(need: Alike, cols: Columns) -> Ruling | None:
    if not need.any("esr_high"):
        return None
    asked = np.isfinite(need.esr_high)
    esr, first = cols["esr_high"], need.first
    none = np.isnan(esr) & asked
    high, low = esr > need.esr_high, (esr < need.esr_low) & asked
    old = first.esr_high / first.role.esr[1] if first.esr_high and first.role.esr else first.esr_high

    def say(i: int) -> str:
        if high[i]:
            return f"ESR {show(float(esr[i]), 'Ω')}, the old part was at most {show(first.esr_high, 'Ω')} when new"
        if low[i]:
            return f"ESR {esr[i] / old:.2f} of the old part's: check the loop"
        return "No ESR is given for it" if none[i] else ""

    return Ruling(
        rule="esr", status=graded(high, low | none), say=say, value=esr, limit=first.esr_high, unit="Ω", at_least=False
    )


def stability_rule(need: Alike, cols: Columns) -> Ruling | None:
    """A linear regulator that wants its output store's ESR inside a range."""
    if not need.any("stable_high"):
        return None
    esr, first = cols["esr_high"], need.first
    out = (esr < need.stable_low) | (esr > need.stable_high)
    unknown = np.isnan(esr) & np.isfinite(need.stable_high)

    def say(i: int) -> str:
        if not (out[i] or unknown[i]) or first.stable is None:
            return ""
        found = "No ESR is given" if unknown[i] else f"ESR {show(float(esr[i]), 'Ω')}"
        low, high = (show(limit, "Ω") for limit in first.stable)
        return f"{found}, the regulator before it is stable from {low} to {high}: it {'may' if unknown[i] else 'would'} oscillate"

    return Ruling(rule="stability", status=graded(out, unknown), say=say, value=esr)
