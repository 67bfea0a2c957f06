"""What a check under power should read, beside what is allowed: from the supply's own model with the parts that stand in it.

Inside the limit but outside the band is *look twice*: the reading is fine, and the explanation is not.

Source: simulate.expected; a filament's glow: workshop practice, because an eye judges it; 20 mV and 0.5 %: workshop practice, because
meters of a bench promise no better.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..simulate.expected import DRAWS, SOURCE, Band, foreseen, share_above
from ..simulate.explain import Explained, explain
from ..simulate.readings import Asked
from ..simulate.state import ALL, State
from ..simulate.supply import Bench
from ..simulate.switch_on import switch_on
from ..simulate.truth import Values
from ..text.quantity import show
from .checks import Check
from .highest import HIGHEST
from .power_methods import RISING

#: What a meter, its leads and a regulator's own noise leave open whatever the parts do: V of DC, V p-p of ripple, and a share of
#: the reading.
FLOOR = {"volts": 0.020, "ripple": 0.010, "lowest": 0.020}
METER = 0.005
#: What is read of a rail for each aspect, and how the bench is loaded at each step of a way up.
_READ = {"volts": "dc", "ripple": "ripple", "lowest": "lowest"}
_LOADED = {**dict.fromkeys(RISING, "dummy"), "full": "dummy", "high": "dummy", "feed": "board", "life": "board"}


@dataclass(frozen=True, kw_only=True)
class Expected:
    """What a check should read. bench, state, asked: what it was reckoned from, to explain a reading by."""

    band: Band
    bench: Bench
    state: State
    asked: Asked
    unit: str = "V"

    @property
    def words(self) -> str:
        """The band as people read it."""
        if self.band.low <= 0 < self.band.high:
            return f"at most {show(self.band.high, self.unit)}"
        return f"{show(self.band.low, self.unit)} to {show(self.band.high, self.unit)}"

    @property
    def source(self) -> str:
        return SOURCE

    @property
    def middle(self) -> str:
        return show(self.band.middle, self.unit)

    def unexplained(self, value: float | None) -> bool:
        """Whether a reading is not what the parts give."""
        return value is not None and not self.band.holds(value)

    def more_than_allowed(self, limit: float | None) -> str:
        """Why a ripple may be expected above its limit; "" where it is not. The reading decides, and the sheet has the reason."""
        if limit is None or self.asked.what != "ripple" or self.band.high <= limit:
            return ""
        share = share_above(self.bench, self.state, self.asked, limit)
        rail = self.bench.rails[self.asked.point]
        why = (
            "the regulator gets less than its least input voltage"
            if rail.out is None
            else "the capacitance is low and the ESR is high"
        )
        return (
            f"Of {DRAWS} simulated supplies with random tolerances {round(share * DRAWS)} are above the limit: there {why}. "
            "The measured ripple is inside the limit."
        )

    def explained_by(self, value: float) -> tuple[Explained, ...]:
        """Which parts would explain a reading that is not."""
        return explain(self.bench, self.state, self.asked, value, self.band)


def rails_are_read(step: str) -> bool:
    """Whether a step of the way up, by its key, is one that the simulated bench can be set to."""
    return step.split(".")[0] in _LOADED


def state_at(step: str, way: str, mains: float, frequency: float, lamp: float, stepping: bool = False) -> State | None:
    """The bench as a step of the way up sets it; None where no rail is read at it.

    Args:
        step: its key, with or without the supply it is of.
        way: lamp, or variable for a transformer that rises.
        mains: V rms as it was read, else nominal.
        frequency: Hz.
        lamp: W.
        stepping: the loads step.

    Returns:
        The state; None where no rail is read at it.
    """
    base = step.split(".")[0]
    if not rails_are_read(step):
        return None
    return State(
        volts=mains,
        frequency=frequency,
        lamp=lamp if base == "limited" and way != "variable" else 0.0,
        variable={**RISING, "high": HIGHEST}.get(base, 1.0) if way == "variable" else 1.0,
        load=_LOADED[base],
        step=ALL if stepping else "",
    )


@dataclass(frozen=True)
class Outlook:
    """What to expect of a step as a whole, in words: at first, after a while; wrong: what it says that cannot work."""

    told: tuple[str, ...] = ()
    wrong: tuple[str, ...] = ()


@dataclass(frozen=True)
class Ahead:
    """What a step should read, by the keys of its rail checks, and what it should look like."""

    readings: dict[str, Expected]
    outlook: Outlook


#: A filament shows under this share of its volts no light to the eye, under that one little.
DARK, FAINT = 0.18, 0.4
_WHOLE = (Asked(point="mains", what="amps", typed="mains"), Asked(point="lamp", what="brightness", typed="lamp"))


def ahead(
    bench: Bench, step: str, checks: Iterable[Check], way: str, mains: float, frequency: float, lamp: float, known: bool
) -> Ahead:  # fmt: skip
    """What a step of the way up should read and look like: the loads as they are in one run, stepping in another.

    Args:
        bench: the supply as the simulated bench knows it.
        step: its key.
        checks: those of its rails; those of rails that the supply's lines do not make have no band.
        way: how the machine is powered.
        mains: V AC.
        frequency: Hz.
        lamp: the limiter lamp.
        known: whether the mains were read.

    Returns:
        Bands by check, what the lamp does, and who would explain a miss.
    """
    wanted = [c for c in checks if c.aspect in _READ and c.rail in bench.rails]
    found: dict[str, Expected] = {}
    outlook = Outlook()
    for stepping in (False, True):
        here = [c for c in wanted if (c.aspect == "lowest") == stepping]
        state = state_at(step, way, mains, frequency, lamp, stepping)
        if state is None or (not here and (stepping or state.load == "board")):
            continue
        asked = [Asked(point=c.rail, what=_READ[c.aspect], typed=c.rail) for c in here]
        read, happens = foreseen(bench, state, [*asked, *_WHOLE], mains_known=known)
        for check, one, band in zip(here, asked, read, strict=False):
            found[check.key] = Expected(band=_seen(check, band), bench=bench, state=state, asked=one)
        if not stepping and state.load != "board":
            outlook = _outlook(bench, state, *read[-2:], happens)
    return Ahead(found, outlook)


def _outlook(bench: Bench, state: State, amps: Band, light: Band, wrong: tuple[str, ...]) -> Outlook:
    """The lamp's light, what the mains give, whether the supply starts at all."""
    told = []
    if state.lamp:
        low, high = light.low / 100, light.high / 100
        eye = "dark to the eye" if high < DARK else "glowing faintly" if high < FAINT else "half bright"
        share = _from_to(f"{100 * low:.0f}", f"{100 * high:.0f}")
        rush = switch_on(bench, Values(1), state)
        most, dims = 100 * float(rush.bright[0]), float(rush.dims[0])
        told.append(f"The lamp flares to about {most:.0f} % of its volts while the reservoirs charge{_until(dims)}.")
        told.append(f"Then {eye}: {share} % of its volts. Still bright after ten seconds: make idle.")
    elif state.variable == 1.0:
        rush = switch_on(bench, Values(1), state)
        told.append(
            f"At switch-on up to {show(float(rush.peak[0]), 'A', 2)} for a moment, while the reservoirs charge."
        )
    gives = _from_to(show(amps.low, "A", 2), show(amps.high, "A", 2))
    told.append(f"Its source gives {gives}." if bench.outside else f"The mains give {gives} rms.")
    return Outlook(tuple(told), wrong)


def _until(dims: float) -> str:
    """When a lamp that lit up is dim again; "" where it hardly did, or where nobody can say."""
    return f", and is dim again after {show(dims, 's', 1)}" if 0 < dims < 10 else ""


def _from_to(low: str, high: str) -> str:
    return f"about {low}" if low == high else f"{low} to {high}"


def _seen(check: Check, band: Band) -> Band:
    """The band as a meter can tell it, with the sign that the check reads with."""
    least = FLOOR[check.aspect]
    low, high = band.low, band.high
    if check.aspect == "lowest" and (check.nominal or 0.0) < 0:
        low, high = -high, -low
    low, high = low - METER * abs(low), high + METER * abs(high)
    short = max(0.0, least - (high - low) / 2)
    low, high = low - short, high + short
    if check.aspect == "ripple":
        low, high = max(0.0, low), max(high, least)
    return Band(low, high, band.middle)


def words_of(found: Sequence[Explained]) -> str:
    """Which parts would explain a reading, as a sentence."""
    if not found:
        return "No single part of the supply's lines explains it: check the load, the mains and the meter."
    return "It would be explained by " + ", or by ".join(one.words for one in found) + "."
