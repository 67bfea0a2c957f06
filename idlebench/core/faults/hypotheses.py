"""What may be wrong with a supply: every part and joint of its lines with its ways to fail, and how likely each is beforehand.

Source: SOURCE.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

from ..circuit.supply_lines import Branch, ConverterIn
from ..simulate.supply import OF_SOURCE, USUAL, Bench
from ..simulate.truth import LOAD, LOAD_SHORT, Fault
from .outcome import Shop

Add = Callable[..., None]
#: What is left of a dried store, and times its ESR then; times the ESR where the value stays; Ω of a cracked joint.
DRIED = ((0.5, 2.5), (0.3, 5.0), (0.16, 10.0), (0.08, 20.0))
#: A part loses capacitance and gains ESR each by itself: times the ESR that usually goes with what is left.
BESIDE = (1.0, 0.3, 3.0)
WORN, CRACKED = (3.0, 8.0, 25.0), (0.1, 0.35, 1.5)
#: A value that fell while the ESR stayed.
FALLEN = (0.5, 0.36, 0.25, 0.16, 0.1)
#: How far a divider or a reference drifts, a share; times the load that is typed.
DRIFTED, HEAVY = (0.05, 0.12, 0.25), (1.6, 2.5, 4.0)
#: Ω of a worn fuse holder or switch.
HOLDER = (1.0, 4.0, 12.0)
#: How often each kind of place is the cause, as weights; a kind's weight is shared by its places.
PRIORS: dict[str, float] = {
    "output store": 28, "reservoir": 14, "start store": 9, "joint": 16, "regulator or switch": 6, "diode": 5, "start resistor": 5,
    "X part": 5, "transformer or thermal fuse": 2, "lead or switch": 3, "fuse alone": 3, "feedback": 2, "load on the board": 7,
    "adapter or cells": 8,
}  # fmt: skip
#: How a place's weight is shared by its ways to fail.
WAYS: dict[str, float] = {
    "dried": 5, "high ESR": 3, "open": 1, "shorted": 1, "cracked": 1, "dead": 2, "blown": 1, "lower value": 1, "tired": 1,
    "drifted up": 1, "drifted down": 1, "too heavy": 0.3, "high resistance": 0.5,
}  # fmt: skip
SOURCE = (
    "Weights: workshop practice, because nobody counts them for old machines: electrolytics and joints before silicon; a kind's weight is "
    "shared by its places"
)


@dataclass(frozen=True, kw_only=True)
class Hypothesis:
    """One way of one part to fail. place: a key of PRIORS. failure: in a word. severity: which of its severities, from 0.

    prior: its share beforehand. faults: as truth lines say it.
    """

    ref: str
    failure: str
    place: str
    severity: int
    prior: float
    faults: tuple[Fault, ...]

    @property
    def lane(self) -> tuple[str, str, int]:
        """What it is a step of: a drift goes on from one severity to the next along its lane, each from a sound part on."""
        steps = len(DRIED) if self.failure == "dried" else 1000
        return (*self.suspect, self.severity // steps)

    @property
    def suspect(self) -> tuple[str, str]:
        """What it counts for: the part and its failure, whatever the severity."""
        return self.ref, self.failure

    @property
    def words(self) -> str:
        return f"{self.ref} {self.failure}".strip()


#: That a supply has nothing wrong.
NOTHING_WRONG = Hypothesis(
    ref="", failure="nothing is wrong here", place="nothing wrong", severity=0, prior=1.0, faults=()
)


def hypotheses(bench: Bench, shop: Shop | None = None) -> tuple[Hypothesis, ...]:
    """All single faults of a supply, their shares beforehand summing to one.

    Args:
        bench: the supply as the simulated bench knows it.
        shop: its own causes, each as much as one of the shipped weights; among the parts of a place those like it lead.

    Returns:
        A set of faults each, with its share.
    """
    found: list[tuple[str, str, str, list[tuple[Fault, ...]]]] = []

    def add(place: str, ref: str, failure: str, *ways: tuple[Fault, ...]) -> None:
        if ref and not any((one[1], one[2]) == (ref, failure) for one in found):
            found.append((place, ref, failure, list(ways)))

    def store(place: str, ref: str) -> None:
        one = bench.stores[ref]
        if not one.dry:
            add(
                place,
                ref,
                "dried",
                *(
                    (Fault(ref, "cap", one.value * left), Fault(ref, "esr", one.esr * max(more * beside, 1.0)))
                    for beside in BESIDE
                    for left, more in DRIED
                ),
            )
            add(place, ref, "high ESR", *((Fault(ref, "esr", one.esr * more),) for more in WORN))
            add(place, ref, "lower value", *((Fault(ref, "cap", one.value * left),) for left in FALLEN))
        add(place, ref, "open", (Fault(ref, "open"),))
        add(place, ref, "shorted", (Fault(ref, "short"),))

    for branch, diodes in zip(bench.branches, bench.diodes, strict=True):
        for ref in branch.stores:
            store("reservoir", ref)
        # any one of a bridge reads alike: one suspect, called by the first
        if diodes:
            add("diode", diodes[0], "open", (Fault(diodes[0], "open"),))
        if diodes and not branch.direct:
            # in the way of DC a shorted diode only guards no more
            add("diode", diodes[0], "shorted", (Fault(diodes[0], "short"),))
        if branch.outside and (ref := branch.outside.ref or OF_SOURCE.get(branch.outside.kind, "")):
            add("adapter or cells", ref, "dead", (Fault(ref, "open"),))
            add("adapter or cells", ref, "tired", (Fault(ref, "weak"),))
        elif branch.volts and not branch.outside:
            add("transformer or thermal fuse", "T1", "open", (Fault("T1", "open"),))
        if branch.regulator:
            add("regulator or switch", branch.regulator.ref, "dead", (Fault(branch.regulator.ref, "dead"),))
            add("regulator or switch", branch.regulator.ref, "shorted", (Fault(branch.regulator.ref, "short"),))
        if branch.converter:
            _of_converter(bench, branch, branch.converter, add, store)
        joint = branch.joint or USUAL["joint"]
        add("joint", joint, "cracked", *((Fault(joint, "joint", ohms),) for ohms in CRACKED))
    for ref in {*bench.x_parts, *(b.xcap for b in bench.branches)} - {""}:
        add("X part", ref, "shorted", (Fault(ref, "short"),))
    if not bench.outside:
        add("lead or switch", "L1", "open", (Fault("L1", "open"),))
    add("fuse alone", USUAL["fuse"], "blown", (Fault(USUAL["fuse"], "blown"),))
    add("fuse alone", USUAL["fuse"], "high resistance", *((Fault(USUAL["fuse"], "ohms", ohms),) for ohms in HOLDER))
    for rail in bench.rails:
        add("load on the board", rail, "shorted", (Fault(rail, LOAD_SHORT),))
        add("load on the board", rail, "too heavy", *((Fault(rail, LOAD, more),) for more in HEAVY))
    return _weighed(found, shop or Shop())


def _of_converter(bench: Bench, branch: Branch, fed: ConverterIn, add: Add, store: Callable[[str, str], None]) -> None:
    switch, start, feedback = (bench.named(fed, what) for what in ("switch", "start", "feedback"))
    add("regulator or switch", switch, "open", (Fault(switch, "open"),))
    add("regulator or switch", switch, "shorted", (Fault(switch, "short"),))
    add("start resistor", start, "open", (Fault(start, "open"),))
    add("feedback", feedback, "open", (Fault(feedback, "open"),))
    add("feedback", feedback, "drifted up", *((Fault(feedback, "drift", share),) for share in DRIFTED))
    add("feedback", feedback, "drifted down", *((Fault(feedback, "drift", -share),) for share in DRIFTED))
    if (ref := bench.start_store(fed)) in bench.stores:
        store("start store", ref)
    for rail in fed.rails:
        for ref in rail.stores:
            store("output store", ref)
        rectifier = bench.rectifier_of(branch, rail)
        if rectifier:
            add("diode", rectifier, "open", (Fault(rectifier, "open"),))


def _weighed(found: list[tuple[str, str, str, list[tuple[Fault, ...]]]], shop: Shop) -> tuple[Hypothesis, ...]:
    places: dict[str, dict[str, float]] = {}
    ways: Counter[str] = Counter()
    for place, ref, failure, _ in found:
        places.setdefault(place, {})[ref] = shop.leans(place, ref)
        ways[ref] += WAYS[failure] + shop.ways(place, failure)
    whole = sum(PRIORS[place] + shop.of(place) for place in places)
    made = []
    for place, ref, failure, severities in found:
        its = places[place][ref] / sum(places[place].values())
        way = (WAYS[failure] + shop.ways(place, failure)) / ways[ref]
        weight = (PRIORS[place] + shop.of(place)) / whole * its * way
        for number, faults in enumerate(severities):
            made.append(
                Hypothesis(
                    ref=ref,
                    failure=failure,
                    place=place,
                    severity=number,
                    prior=weight / len(severities),
                    faults=faults,
                )
            )
    return tuple(made)
