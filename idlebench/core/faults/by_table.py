"""Suspects by the table of causes alone, where the supply has no lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from .clues import Mark, Suspect
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
