"""Suspects by the table of causes alone, where the supply has no lines."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from ..simulate.readings import read_values
from ..simulate.rectifier import MIDDLING
from ..simulate.steady_state import run
from ..simulate.supply import Bench
from ..simulate.truth import Fault, Values
from ..text.quantity import show
from .clues import ClueReading, Mark, Suspect
from .hypotheses import PRIORS, Hypothesis
from .signs import Sign
from .table import Evidence, Place


def by_table(
    evidence: Evidence, signs: Sequence[Sign], places: Sequence[Place] = (), marks: Sequence[Mark] = ()
) -> tuple[Suspect, ...]:
    """Suspects by the table alone, of a unit whose supply has no lines: its places are named by their kind."""
    words = [sign.what for sign in signs]
    whole = sum(PRIORS.values())
    rows = [evidence.of(word) for word in words]
    named = dict.fromkeys(cause for some in rows for cause, row in some.items() if row.ratio > 1 and cause in PRIORS)
    own = [
        Hypothesis(
            ref=f"a {place} of the supply",
            failure="worn",
            place=place,
            severity=0,
            prior=PRIORS[place] / whole,
            faults=(),
        )
        for place in named
    ]
    many = (*evidence.elsewhere(words, places), *own)
    found = []
    for one in many:
        share, good = one.prior, []
        for word, some in zip(words, rows, strict=True):
            if one.place in some:
                share *= some[one.place].ratio
                good.append(f"{word}: {some[one.place].reason}")
        for mark in marks:
            if mark.ref == one.ref and mark.failure in ("", one.failure):
                share *= mark.factor
                good.append(mark.words)
        found.append(
            Suspect(ref=one.ref, failure=one.failure, share=share, speaks_for=tuple(good), against=(), place=one.place)
        )
    sum_ = sum(one.share for one in found) or 1.0
    return tuple(sorted((replace(one, share=one.share / sum_) for one in found), key=lambda one: -one.share)[:12])


def as_measured(
    bench: Bench,
    renewed: Mapping[str, Sequence[Fault]],
    readings: Sequence[ClueReading],
    width: Callable[[ClueReading], float],
) -> tuple[Suspect, ...]:
    """How much of what was read each part explains that was measured as bad, by what would be read with a new one in its place.

    Args:
        bench: the supply with its parts as they were measured.
        renewed: what a new part would be, by reference.
        readings: what was read.
        width: of a reading, as its tolerances leave it.

    Returns:
        Suspects, the one that explains most first.
    """
    if not renewed or not readings:
        return ()
    values = Values(1 + len(renewed))
    for row, (_, faults) in enumerate(renewed.items(), 1):
        bench.truth(values, faults, row)
    moved, lines = np.zeros(len(renewed)), [[] for _ in renewed]
    for key in dict.fromkeys(repr(one.state) for one in readings):
        here = [one for one in readings if repr(one.state) == key]
        outcome = run(bench, values, here[0].state, grids=MIDDLING)
        for one in here:
            there = read_values(bench, values, here[0].state, outcome, one.asked)
            off = np.abs(there[1:] - there[0]) / width(one)
            moved = moved + np.where(np.isfinite(off), off, 0.0)
            for i in np.flatnonzero(np.isfinite(off) & (off > 1.0)):
                lines[i].append(f"{one.words}: with a new one {show(float(there[1 + i]), one.unit)}")
    whole = float(moved.sum())
    if whole <= 1.0:
        return ()
    found = [
        Suspect(
            ref=ref, failure="as it was measured", share=float(moved[i]) / whole, speaks_for=tuple(lines[i]), against=()
        )
        for i, ref in enumerate(renewed)
        if lines[i]
    ]
    return tuple(sorted(found, key=lambda one: -one.share))
