"""Hidden faults by seeds, none of which it was tuned on: how often the cause is named, sound called sound, and how right shares are."""

from __future__ import annotations

import random
import statistics
import sys
from collections import Counter
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from functools import cached_property

from asked import asked, table
from faulting import STATE, off_the_grid, supplies, take

from idlebench.core.board.parts import Fitted
from idlebench.core.faults.clues import ClueReading, RankedSuspects
from idlebench.core.faults.fifths import FEWEST, in_fifths
from idlebench.core.faults.further import further
from idlebench.core.faults.hypotheses import hypotheses
from idlebench.core.faults.signs import Sign
from idlebench.core.faults.suspects import Inquiry
from idlebench.core.simulate.outcome import Outcome
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.truth import Fault, Values

#: Of a hundred cases: one fault, two, something that the list does not have, nothing.
MIX = {"single": 60, "pair": 15, "outside": 15, "sound": 10}
#: How far mains, loads and parts are off, a share; measurements offered at most.
MAINS, LOADS, VALUES, MOST = 0.06, 0.20, 0.20, 6
ADAPTER = "adapter AD1 12V DC 1.5A store C1 regulator VR1 5V 0.8A"
SMALL = (
    "bridge mains 14ohm store C1 converter flyback 18W eff 0.75 at 60k fuse T1A startstore C2\n"
    "rail +5V 1.8A duty 0.45 stores C3,C4\nrail +15V 0.4A duty 0.45 stores C5"
)


@dataclass(kw_only=True)
class Hidden(Sitting):
    """A supply whose mains, loads and parts are off by what nobody told. off: numbers by reference and field."""

    off: Mapping[tuple[str, str], float] = field(default_factory=dict)

    def _real(self) -> Values:
        values = Values(1)
        for (ref, what), number in self.off.items():
            values.put(ref, what, number)
        self.bench.truth(values, self.faults)
        return values

    @cached_property
    def _outcome(self) -> Outcome:
        self._values = self._real()
        return run(self.bench, self._values, self.state, self.seconds)


@dataclass(frozen=True, kw_only=True)
class Case:
    """What was hidden. kind: of MIX. refs: of the faults. supply: its number. seed: of the meter."""

    kind: str
    refs: tuple[str, ...]
    faults: tuple[Fault, ...]
    off: Mapping[tuple[str, str], float]
    supply: int
    seed: int


def benches() -> list[Bench]:
    """Six supplies: two linear, two switching, one on an adapter, a small flyback."""
    small = {"C1": (100e-6, 400), "C2": (22e-6, 35), "C3": (1000e-6, 10), "C4": (1000e-6, 10), "C5": (470e-6, 25)}

    def parts(sizes: Mapping[str, tuple[float, float]]) -> list[Fitted]:
        return [
            Fitted(ref=ref, value=v, volts=float(volts), role="startup" if ref == "C2" and len(sizes) > 2 else "")
            for ref, (v, volts) in sizes.items()
        ]

    return [
        *supplies(),
        Bench.of(ADAPTER, parts({"C1": (470e-6, 25)})),
        Bench.of(SMALL, parts(small)),
    ]


def drawn(count: int, seed: int) -> list[Case]:
    """Hidden cases."""
    dice, made, many = random.Random(seed), [], benches()
    kinds = [kind for kind, of in MIX.items() for _ in range(of)]
    for number in range(count):
        kind, which = dice.choice(kinds), number % len(many)
        bench = many[which]
        off = _off(bench, dice)
        supposed = hypotheses(bench)
        faults: tuple[Fault, ...] = ()
        refs: tuple[str, ...] = ()
        if kind in ("single", "pair"):
            wanted = 1 if kind == "single" else 2
            picked = dice.choices(supposed, [one.prior for one in supposed], k=wanted)
            while len({one.ref for one in picked}) < wanted:
                picked = dice.choices(supposed, [one.prior for one in supposed], k=wanted)
            picked = [off_the_grid(supposed, one, dice) for one in picked]
            faults, refs = tuple(f for one in picked for f in one.faults), tuple(one.ref for one in picked)
        elif kind == "outside":
            # a regulator or a winding that gives other volts than it should: no line of the list has it
            rail = dice.choice(sorted(bench.rails))
            off[rail, "set"] = 1 + dice.choice((-1, 1)) * dice.uniform(0.12, 0.22)
        made.append(Case(kind=kind, refs=refs, faults=faults, off=off, supply=which, seed=dice.randrange(10**6)))
    return made


def _off(bench: Bench, dice: random.Random) -> dict[tuple[str, str], float]:
    found = {("mains", "share"): 1 + dice.uniform(-MAINS, MAINS)}
    for rail in bench.rails:
        found[rail, "load"] = 1 + dice.uniform(-LOADS, LOADS)
    for ref, one in bench.stores.items():
        found[ref, "value"] = one.value * (1 + dice.uniform(-VALUES, VALUES))
        esr = one.limit * dice.uniform(0.3, 0.8)
        found[ref, "esr"], found[ref, "esr_high"] = esr, esr * one.share
    return found


def alike(bench: Bench, ref: str) -> set[str]:
    """Parts that no measurement in circuit tells from one: stores that lie side by side."""
    for branch in bench.branches:
        groups = [set(rail.stores) for rail in (branch.converter.rails if branch.converter else ())]
        groups.append({one for group in branch.in_groups for one in group})
        for group in groups:
            if ref in group:
                return group
    return {ref}


def play(case: Case) -> tuple[Case, list[RankedSuspects]]:
    """What was found after each offered measurement, the beginning first."""
    bench = benches()[case.supply]
    sitting = Hidden(bench=bench, faults=case.faults, state=STATE, seed=case.seed, off=case.off)
    inquiry = Inquiry(bench=bench)
    readings: list[ClueReading] = []
    for rail in bench.rails:
        one = take(sitting, STATE, Asked(point=rail, what="dc", typed=rail))
        readings += [one] if one else []
    sitting.set(STATE)
    gone = any("blew" in words for words in sitting.events)
    signs = [Sign("fuse gone" if gone else "fuse whole")]
    readings, state = ([], replace(STATE, volts=0.0)) if gone else (readings, STATE)
    found = [inquiry.look(readings, signs, STATE)]
    for _ in range(MOST):
        following = further(inquiry, found[-1], state, readings)
        one = next((read for f in following if (read := take(sitting, f.state, f.asked))), None)
        if one is None:
            break
        readings.append(one)
        found.append(inquiry.look(readings, signs, STATE))
    return case, found


def _first(found: RankedSuspects, most: int, refs: set[str]) -> bool:
    return any(set(one.ref.split(" + ")) & refs for one in found.named[:most])


def main(count: int = 500, seed: int = 2027) -> None:
    """Play the cases, and print how often what was right."""
    with ProcessPoolExecutor() as pool:
        played = list(pool.map(play, drawn(count, seed), chunksize=4))
    many = benches()
    of = {kind: [(case, found) for case, found in played if case.kind == kind] for kind in MIX}
    singles = [(alike(many[case.supply], case.refs[0]), found) for case, found in of["single"]]
    _share("single faults: the cause first", [_first(found[-1], 1, refs) for refs, found in singles], 80)
    _share("single faults: among the first three", [_first(found[-1], 3, refs) for refs, found in singles], 93)
    _share("sound supplies called sound", [found[-1].nothing_wrong for _, found in of["sound"]], 90)
    wrong = [any(one.share > 0.5 for one in found[-1].suspects) for _, found in of["outside"]]
    _share("outside the list: a wrong part over 50 %", wrong, 10, least=False)
    took = [
        next((i for i in range(len(found)) if all(_first(one, 1, refs) for one in found[i:])), MOST)
        for refs, found in singles
    ]
    asked("measurements to the cause, median", float(statistics.median(took)), 3, "")
    _calibrated(played, many)


def _share(what: str, held: Sequence[bool], limit: float, *, least: bool = True) -> None:
    asked(f"{what}, of {len(held)}", 100 * sum(held) / max(len(held), 1), limit, "%", least=least)


def _calibrated(played: Sequence[tuple[Case, Sequence[RankedSuspects]]], many: Sequence[Bench]) -> None:
    told: list[tuple[float, bool]] = []
    for case, found in played:
        # a suspect is right where its part is bad: of two hidden at once either is
        refs = set().union(*(alike(many[case.supply], ref) for ref in case.refs))
        for one in found:
            told.append((one.sound, case.kind == "sound"))
            told.append((one.none, case.kind in ("pair", "outside")))
            # what no measurement can tell apart counts as one: failures of a part, and parts that lie side by side
            shares: Counter[frozenset[str]] = Counter()
            for s in one.suspects:
                shares[frozenset(alike(many[case.supply], s.ref))] += s.share
            told += [(min(share, 1.0), bool(group & refs)) for group, share in shares.items()]
    for one in in_fifths(told):
        if one.said < FEWEST:
            print(f"shares of {one.range}: {one.said}, too few to judge")
            continue
        mean, right = 100 * one.mean, 100 * one.share_right
        words = f"{one.said} shares of {one.range}, {mean:.0f} % on average: right in {right:.0f} %, off by"
        asked(words, 100 * one.off, 10, "points")
    print("as kept in core/faults/trial_record.py:")
    for one in in_fifths(told):
        print(f"    Fifth(low={one.low}, said={one.said}, right={one.right}, mean={one.mean:.3f}),")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
    table()
