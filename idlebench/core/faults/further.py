"""The next measurement: what would tell most between the suspects for its minutes, of the points that can be reached safely now.

Source: the entropy of C. E. Shannon, Bell System Technical Journal 27 (1948), 6; minutes: workshop practice, because only hands tell how
long hands take.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..refusal import BadInput
from ..simulate.readings import UNITS, Asked
from ..simulate.rectifier import Floats
from ..simulate.state import State
from ..simulate.supply import Bench
from ..text.quantity import show
from .clues import ClueReading, RankedSuspects
from .hypotheses import NOTHING_WRONG
from .suspects import Inquiry
from .weighing import AS_SOUND

#: Minutes of a measurement by what is read.
MINUTES = {
    "dc": 1.0,
    "lowest": 2.0,
    "ripple_mains": 2.0,
    "ripple_switching": 2.0,
    "esr": 2.0,
    "cap": 2.0,
    "ohms": 1.5,
    "diode": 2.0,
}
#: What is read, in words.
TITLES = {
    "dc": "DC volts", "lowest": "lowest under a load step", "ripple_mains": "ripple of the mains, p-p", "esr": "ESR in circuit",
    "ripple_switching": "switching ripple, p-p", "cap": "capacitance in circuit", "ohms": "ohms", "diode": "diode test",
}  # fmt: skip
#: Making idle and discharging before something is read cold, minutes; once the bench is idle already, nothing.
TO_IDLE = 3.0
#: Outcomes that are nearer than this many widths are one; so many are told, and measurements named.
APART, TOLD, NAMED = 3.0, 4, 3
#: Hypotheses of a smaller share are not asked about.
UNLIKELY = 1e-6
#: An outcome that is less likely is not told.
LEAST_TOLD = 0.005
#: A frequency at which an LCR meter reads a store, Hz, by how it is used.
AT_MAINS, AT_SWITCHING = 120.0, 100e3


@dataclass(frozen=True)
class Ends:
    """One outcome of a measurement: what it would read, how likely, and which suspects it would leave."""

    reads: str
    share: float
    suspects: tuple[str, ...]

    @property
    def percent(self) -> int:
        """How likely, in whole per cent."""
        return round(100 * self.share)


@dataclass(frozen=True, kw_only=True)
class Further:
    """A measurement: the bench as it is set for it, where and what, bits it would tell, its minutes, its outcomes."""

    state: State
    asked: Asked
    bits: float
    minutes: float
    outcomes: tuple[Ends, ...]

    @property
    def cold(self) -> bool:
        """Whether it is read with everything off and discharged."""
        return not self.state.on

    @property
    def title(self) -> str:
        """What is read, in words."""
        return TITLES.get(self.asked.what, self.asked.what)

    @property
    def unit(self) -> str:
        """What it is read in."""
        return UNITS[self.asked.what]

    @property
    def worth(self) -> float:
        """Bits a minute."""
        return self.bits / self.minutes


def reachable(bench: Bench, state: State) -> list[tuple[State, Asked]]:
    """What can be read safely: rails and their stores under power, never the primary; everything cold once it is idle."""
    found: list[tuple[State, Asked]] = []
    primary = {ref for b in bench.branches if not b.volts for ref in b.stores}
    if state.on:
        stepping = replace(state, step="all")
        for name in bench.rails:
            for what in ("dc", "ripple_mains", "ripple_switching"):
                found.append((state, Asked(point=name, what=what, typed=name)))
            found.append((stepping, Asked(point=name, what="lowest", typed=name)))
            # at the board is where it is read anyway: before the joint tells the joint
            found.append((state, Asked(point=name, what="dc", typed=f"{name}@supply", at="supply")))
        for branch in bench.branches:
            found += [
                (state, Asked(point=ref, what=what, typed=ref))
                for ref in branch.stores
                if ref not in primary
                for what in ("dc", "ripple_mains")
            ]
    idle = State(frequency=state.frequency, load="none")
    found.append((idle, Asked(point="l-n", what="ohms", typed="L-N")))
    found += [(idle, Asked(point=name, what="ohms", typed=name)) for name in bench.rails]
    for ref in sorted(bench.refs):
        if ref in bench.stores:
            hertz = AT_MAINS if any(ref in b.stores for b in bench.branches) else AT_SWITCHING
            found += [
                (idle, Asked(point=ref, what=what, typed=ref, at="", frequency=hertz if what == "esr" else AT_MAINS))
                for what in ("esr", "cap", "ohms")
            ]
        elif ref[:1] in "DQ":
            found.append((idle, Asked(point=ref, what="diode", typed=ref)))
        elif ref[:1] in "RF":
            found.append((idle, Asked(point=ref, what="ohms", typed=ref)))
    return found


def further(
    inquiry: Inquiry, found: RankedSuspects, state: State, taken: Sequence[ClueReading] = ()
) -> tuple[Further, ...]:
    """The measurements that would tell most for their minutes, the best first; none that was taken already.

    Args:
        inquiry: what was asked and read so far.
        found: what was found.
        state: the bench as it is now.
        taken: what is taken already.

    Returns:
        Each with minutes, what it tells, and the suspects it tells apart.
    """
    weights = _weights(inquiry, found)
    if weights is None:
        return ()
    done = {(repr(one.state), one.asked.point, one.asked.what, one.asked.at) for one in taken}
    ranked = []
    for where, asked in reachable(inquiry.bench, state):
        if (repr(where), asked.point, asked.what, asked.at) in done:
            continue
        try:
            there = inquiry.predicted(where, asked)[1:]
        except BadInput:
            continue
        groups = _groups(there, weights, lambda value, w=where, a=asked: inquiry.width(w, a, value))
        # something unknown reads as a sound supply would, or anything else
        unknown = found.none * AS_SOUND
        sound = len(weights) - 1
        split = [share * (1 - found.none) + (unknown if sound in group else 0.0) for _, share, group in groups]
        bits = _bits([*split, found.none - (unknown if sum(split) > 1 - found.none else 0.0)])
        minutes = MINUTES.get(asked.what, 2.0) + (TO_IDLE if state.on and not where.on else 0.0)
        if bits > 0.02:
            told = [(value, share, group) for (value, _, group), share in zip(groups, split, strict=True)]
            ranked.append((bits / minutes, where, asked, bits, minutes, told))
    ranked.sort(key=lambda one: -one[0])
    return tuple(
        Further(state=where, asked=asked, bits=bits, minutes=minutes, outcomes=_ends(inquiry, groups, asked, weights))
        for _, where, asked, bits, minutes, groups in ranked[:NAMED]
    )


def _weights(inquiry: Inquiry, found: RankedSuspects) -> Floats | None:
    """A share for each single hypothesis, nothing wrong included. Of pairs, each part carries what they explain of none."""
    shares = {NOTHING_WRONG.suspect: found.sound}
    singles = ((one, 1.0) for one in found.suspects)
    for suspect, share in (*singles, *((one, found.none) for one in found.pairs)):
        refs, failures = suspect.ref.split(" + "), suspect.failure.split(" + ")
        for ref, failure in zip(refs, failures, strict=True):
            shares[ref, failure] = shares.get((ref, failure), 0.0) + suspect.share * share
    counts: dict[tuple[str, str], int] = {}
    for one in inquiry.singles:
        counts[one.suspect] = counts.get(one.suspect, 0) + 1
    weights = np.array([shares.get(one.suspect, 0.0) / counts[one.suspect] for one in inquiry.singles])
    whole = weights.sum()
    return weights / whole if whole > 0 else None


def _groups(there: Floats, weights: Floats, width: Callable[[float], float]) -> list[tuple[float, float, list[int]]]:
    """Hypotheses that would read alike: (what they would read, their share, which)."""
    order = [int(i) for i in np.argsort(there) if weights[i] > UNLIKELY]
    groups: list[list[int]] = []
    for i in order:
        if groups and _alike(there[groups[-1][-1]], there[i], width):
            groups[-1].append(i)
        else:
            groups.append([i])
    told = []
    for group in groups:
        share = float(weights[group].sum())
        told.append((float(there[max(group, key=lambda i: weights[i])]), share, group))
    return told


def _alike(a: float, b: float, width: Callable[[float], float]) -> bool:
    if not (math.isfinite(a) and math.isfinite(b)):
        return a == b
    return abs(b - a) < APART * width(max(abs(a), abs(b)))


def _bits(shares: Sequence[float]) -> float:
    return -sum(share * math.log2(share) for share in shares if share > 0)


def _ends(
    inquiry: Inquiry, groups: Sequence[tuple[float, float, list[int]]], asked: Asked, weights: Floats
) -> tuple[Ends, ...]:
    told = []
    for value, share, group in sorted(groups, key=lambda one: -one[1])[:TOLD]:
        reads = show(value, UNITS[asked.what]) if math.isfinite(value) else "off the scale"
        names = dict.fromkeys(inquiry.singles[i].words for i in sorted(group, key=lambda i: -weights[i]))
        told.append(Ends(f"about {reads}" if math.isfinite(value) else reads, share, tuple(names)[:4]))
    rest = 1 - sum(share for _, share, _ in groups)
    if rest > LEAST_TOLD:
        told.append(Ends("anything else", rest, ("something else than the parts listed",)))
    return tuple(told)
