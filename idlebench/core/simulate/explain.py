"""A reading that is allowed but not what the parts should give: which parts would explain it.

Every part of the supply is supposed to have failed in its usual ways, in a few severities, all in one run; a drift is read on
between its severities. Those that give what was read are named, those first that have gone the least way.

Source: the simulated bench; severities: workshop practice, because parts fail in steps of about two.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..text.quantity import show
from .expected import Band
from .readings import Asked, read_values
from .rectifier import MIDDLING, Floats
from .state import State
from .steady_state import run
from .supply import USUAL, Bench
from .truth import Fault, Values

#: What is left of a drifted store's value, how much more its ESR is, and Ω of a bad joint.
LEFT, MORE = (0.7, 0.5, 0.3, 0.2, 0.1, 0.05, 0.02, 0.01), (1.5, 2.0, 3.0, 5.0, 8.0, 12.0, 20.0)
JOINTS = (0.03, 0.05, 0.08, 0.12, 0.2, 0.3, 0.5, 1.0)
#: How many parts are named; how far off a reading may be to count as explained, as a share of it: of volts, of ripple; and V.
NAMED, NEAR, NEAR_RIPPLE, FLOOR = 2, 0.015, 0.25, 0.005


@dataclass(frozen=True)
class Explained:
    """A part that would explain a reading: in words what it would have to be. severe: how far it would have drifted, times."""

    ref: str
    words: str
    severe: float


@dataclass(frozen=True)
class Supposed:
    """A part, or parts of one rail, that have failed: how, how far by times or Ω, and the words with a place for that.

    A drift is read on between its severities; what has none is so or is not.
    """

    refs: tuple[str, ...]
    what: str
    amount: float
    words: str

    def faults(self, bench: Bench) -> tuple[Fault, ...]:
        """The truth lines of it."""
        if self.what == "cap":
            return tuple(Fault(ref, "cap", bench.stores[ref].value * self.amount) for ref in self.refs)
        if self.what == "esr":
            return tuple(Fault(ref, "esr", bench.stores[ref].esr * self.amount) for ref in self.refs)
        return tuple(Fault(ref, self.what, self.amount) for ref in self.refs)

    @property
    def severe(self) -> float:
        """How far from sound, times; what is open or shorted is as far as can be."""
        if self.what in ("cap", "esr"):
            return max(self.amount, 1 / self.amount)
        return 1 + 20 * self.amount if self.what == "joint" else 1e3

    def told(self, bench: Bench, amount: float) -> str:
        """In words, at some amount of drift."""
        if self.what == "cap":
            return self.words.format(show(float(f"{bench.stores[self.refs[0]].value * amount:.2g}"), "F"))
        return self.words.format(show(amount, "Ω", 2) if self.what == "joint" else f"{amount:.2g}")


def suppositions(bench: Bench) -> list[list[Supposed]]:
    """The usual ways in which a supply's parts fail: each drift with its severities, and what has none."""
    found: dict[tuple, list[Supposed]] = {}

    def add(refs: Sequence[str], what: str, amounts: Sequence[float], words: str) -> None:
        if all(refs):
            found[(*refs, what)] = [Supposed(tuple(refs), what, amount, words) for amount in amounts]

    used = {ref for b in bench.branches for ref in b.stores}
    used |= {ref for b in bench.branches if b.converter for rail in b.converter.rails for ref in rail.stores}
    for ref in sorted(used):
        add([ref], "cap", LEFT, f"{ref} dried to about {{}}")
        if not bench.stores[ref].dry:
            add([ref], "esr", MORE, f"{ref} at about {{}} times its ESR")
        add([ref], "open", (1.0,), f"{ref} open")
    for branch, diodes in zip(bench.branches, bench.diodes, strict=True):
        if diodes:
            add([diodes[0]], "open", (1.0,), f"{diodes[0]} open")
        if branch.converter:
            fed = branch.converter
            add([bench.named(fed, "feedback")], "open", (1.0,), f"{bench.named(fed, 'feedback')} open")
            for rail in fed.rails:
                add([bench.rectifier_of(branch, rail)], "open", (1.0,), f"{bench.rectifier_of(branch, rail)} open")
                if len(rail.stores) > 1:
                    add(rail.stores, "esr", MORE, f"{' and '.join(rail.stores)} at about {{}} times their ESR")
        if branch.regulator:
            add([branch.regulator.ref], "short", (1.0,), f"{branch.regulator.ref} shorted")
        joint = branch.joint or USUAL["joint"]
        add([joint], "joint", JOINTS, f"about {{}} in {joint}")
    return list(found.values())


def explain(bench: Bench, state: State, asked: Asked, value: float, band: Band) -> tuple[Explained, ...]:
    """The parts that would explain a reading outside its band, those that have gone the least way first; none where none does.

    Args:
        bench: the supply as the simulated bench knows it.
        state: the state the supply is in.
        asked: what is asked for.
        value: the value, in SI.
        band: from the lowest to the highest that may be.

    Returns:
        Parts with what would be wrong with them, nearest first.

    Raises:
        BadInput: what cannot be read so.
    """
    drifts = suppositions(bench)
    flat = [one for drift in drifts for one in drift]
    values = Values(1 + len(flat))
    for row, one in enumerate(flat, 1):
        bench.truth(values, one.faults(bench), row)
    outcome = run(bench, values, state, grids=MIDDLING)
    read = read_values(bench, values, state, outcome, asked)
    near = max((NEAR_RIPPLE if asked.what == "ripple" else NEAR) * abs(value), FLOOR)
    found: dict[str, Explained] = {}
    row = 1
    for drift in drifts:
        there = read[row : row + len(drift)]
        row += len(drift)
        best = _along(bench, drift, float(read[0]), there, value) or _at(
            bench, drift, there, value, near, float(read[0])
        )
        if best is not None and (best.ref not in found or best.severe < found[best.ref].severe):
            found[best.ref] = best
    return tuple(sorted(found.values(), key=lambda one: one.severe)[:NAMED])


def _along(bench: Bench, drift: Sequence[Supposed], sound: float, there: Floats, value: float) -> Explained | None:
    """Where a drift passes a reading on its way from sound."""
    if len(drift) < 2:
        return None
    amount, at = (0.01 if drift[0].what == "joint" else 1.0), sound
    for one, read in zip(drift, there, strict=True):
        if not np.isfinite(read):
            return None
        if min(at, read) <= value <= max(at, read) and read != at:
            share = (value - at) / (read - at)
            passed = amount * (one.amount / amount) ** share
            return Explained(
                " and ".join(one.refs), one.told(bench, passed), Supposed(one.refs, one.what, passed, "").severe
            )
        amount, at = one.amount, float(read)
    return None


def _at(
    bench: Bench, drift: Sequence[Supposed], there: Floats, value: float, near: float, sound: float
) -> Explained | None:
    """What is near enough to a reading, and nearer than a sound supply."""
    off = np.abs(there - value)
    if not np.isfinite(off).any():
        return None
    best = int(np.nanargmin(off))
    if off[best] > near or off[best] >= abs(sound - value):
        return None
    one = drift[best]
    return Explained(" and ".join(one.refs), one.told(bench, one.amount), one.severe)
