"""Hidden faults on the simulated bench, found by what the suspects page asks for: how often, in how many measurements, how sure."""

from __future__ import annotations

import math
import random
import statistics
import time
from collections.abc import Sequence
from dataclasses import replace

from asked import asked

from idlebench.core.board.parts import Fitted
from idlebench.core.faults.clues import ClueReading, RankedSuspects
from idlebench.core.faults.further import further
from idlebench.core.faults.hypotheses import Hypothesis, hypotheses
from idlebench.core.faults.signs import Sign
from idlebench.core.faults.suspects import Inquiry
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.state import State, read_state
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.truth import Fault

FLYBACK = (
    "bridge mains 10.6ohm store C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A startstore C9\n"
    "rail +5V 3.1A duty 0.47 stores C14,C15\nrail +12V 0.5A duty 0.47 stores C18\nrail -12V 0.2A duty 0.47 stores C21"
)
FORWARD = (
    "bridge mains 5ohm store C5 converter forward 60W eff 0.75 at 50k fuse T2A\n"
    "rail +5V 6A stores C11\nrail +12V 1.5A stores C12"
)
ONE = "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A\ncentre 15V 25VA store C2 regulator VR2 12V 0.4A"
TWO = "bridge 15V 1.1ohm store C1 regulator VR1 12V 0.5A dropout 2.2\nhalf 12V 10VA store C3 regulator VR3 -9V 0.1A"


def supplies() -> list[Bench]:
    """Two linear ones and two switching ones."""
    wet = {
        "C7": (220e-6, 400),
        "C9": (10e-6, 50),
        "C14": (2200e-6, 10),
        "C15": (2200e-6, 10),
        "C18": (1000e-6, 16),
        "C21": (100e-6, 25),
    }
    other = {"C5": (330e-6, 400), "C11": (4700e-6, 10), "C12": (1000e-6, 25)}
    first = {"C1": (4700e-6, 16), "C2": (1000e-6, 35)}
    second = {"C1": (3300e-6, 25), "C3": (470e-6, 25)}

    def parts(sizes: dict[str, tuple[float, float]]) -> list[Fitted]:
        return [
            Fitted(ref=ref, value=value, volts=float(volts), role="startup" if ref == "C9" else "")
            for ref, (value, volts) in sizes.items()
        ]

    return [
        Bench.of(FLYBACK, parts(wet)), Bench.of(FORWARD, parts(other)), Bench.of(ONE, parts(first), "T 630mA 250V"),
        Bench.of(TWO, parts(second), "T 250mA 250V"),
    ]  # fmt: skip


#: Hidden faults, two at once, and cases that the shares are held against.
SINGLES, DOUBLES, CALIBRATED = 48, 12, 400
STATE = read_state("mains 230V 50Hz; load rated")


def take(sitting: Sitting, state: State, asked: Asked) -> ClueReading | None:
    """A reading of the bench as it really is; None where it cannot be taken so."""
    sitting.set(state)
    try:
        return ClueReading(state, asked, sitting.read(asked).value)
    except BadInput:
        return None


def begins(sitting: Sitting, bench: Bench) -> tuple[list[ClueReading], list[Sign]]:
    """What a person comes with: the volts of every rail, and whether the fuse went."""
    readings = [one for name in bench.rails if (one := take(sitting, STATE, Asked(point=name, what="dc", typed=name)))]
    sitting.set(STATE)
    gone = any("blew" in words for words in sitting.events)
    return ([], [Sign("fuse gone")]) if gone else (readings, [Sign("fuse good")])


def search(
    bench: Bench, faults: Sequence[Fault], most: int = 6, seed: int = 1
) -> tuple[list[RankedSuspects], list[ClueReading]]:
    """What was found after each measurement that was asked for, the beginning first."""
    sitting, inquiry = Sitting(bench=bench, faults=faults, state=STATE, seed=seed), Inquiry(bench=bench)
    readings, signs = begins(sitting, bench)
    # after a blown fuse nothing is powered again before its cause is known
    state = replace(STATE, volts=0.0) if signs[0].what == "fuse gone" else STATE
    found = [inquiry.look(readings, signs, STATE)]
    for _ in range(most):
        following = further(inquiry, found[-1], state, readings)
        one = next((read for f in following if (read := take(sitting, f.state, f.asked))), None)
        if one is None:
            break
        readings.append(one)
        found.append(inquiry.look(readings, signs, STATE))
    return found, readings


def among(found: RankedSuspects, ref: str, first: int = 3) -> bool:
    """Whether a part is among the first that are named, alone or in a pair."""
    return any(ref in s.ref.split(" + ") for s in found.named[:first])


def cured(bench: Bench, picked: Sequence[Hypothesis], most: int = 6) -> tuple[int, int, bool]:
    """Faults searched, and cured one after the other end: one may hide another until it is gone.

    Returns:
        How many were named first when they were swapped, measurements that were asked for, whether all were.
    """
    left, took = list(picked), 0
    while left:
        found, _ = search(bench, tuple(f for one in left for f in one.faults), most - took)
        took += len(found) - 1
        named = found[-1].named[0].ref.split(" + ")
        hit = [one for one in left if one.ref in named]
        if not hit:
            return len(picked) - len(left), took, False
        left = [one for one in left if one not in hit]
    return len(picked), took, True


def off_the_grid(many: Sequence[Hypothesis], one: Hypothesis, dice: random.Random) -> Hypothesis:
    """A drift as far as chance has it, between two severities and not on one."""
    ladder = sorted((h for h in many if h.lane == one.lane), key=lambda h: h.severity)
    if len(ladder) < 2:
        return one
    at = dice.uniform(0, len(ladder) - 1)
    low, high, way = ladder[int(at)], ladder[min(int(at) + 1, len(ladder) - 1)], at % 1
    faults = tuple(
        replace(a, value=math.copysign(abs(a.value) ** (1 - way) * abs(b.value) ** way, a.value))
        for a, b in zip(low.faults, high.faults, strict=True)
    )
    return replace(one, faults=faults)


def drawn(
    benches: Sequence[Bench], singles: int, doubles: int, seed: int
) -> list[tuple[Bench, tuple[Hypothesis, ...]]]:
    """Hidden faults, drawn as often as they are found in practice."""
    dice, made = random.Random(seed), []
    for number in range(singles + doubles):
        bench = benches[number % len(benches)]
        many = hypotheses(bench)
        picked = dice.choices(many, [one.prior for one in many], k=1 if number < singles else 2)
        while len({one.ref for one in picked}) < len(picked):
            picked = dice.choices(many, [one.prior for one in many], k=2)
        made.append((bench, tuple(off_the_grid(many, one, dice) for one in picked)))
    return made


def fixed_order(bench: Bench, picked: Sequence[Hypothesis]) -> int:
    """Measurements of a person who goes by a fixed order: rails, then stores out of circuit from the largest down, then the rest."""
    stores = sorted(bench.stores, key=lambda ref: -bench.stores[ref].value)
    order = [*stores, *sorted(bench.refs - set(stores))]
    places = [order.index(one.ref) + 1 if one.ref in order else len(order) + 1 for one in picked]
    return len(bench.rails) + max(places)


def main(seed: int = 13) -> None:
    """Print how often the cause was found, and in how many measurements."""
    benches = supplies()
    hit, took, persons, missed = 0, [], [], []
    cases = drawn(benches, SINGLES, 0, seed)
    for bench, (one,) in cases:
        found, _ = search(bench, one.faults)
        good = among(found[-1], one.ref)
        hit += good
        missed += [] if good else [one.words]
        # from when on it is named and stays so
        lost = [i for i, each in enumerate(found) if not among(each, one.ref)]
        took.append(lost[-1] + 1 if lost else 0)
        persons.append(fixed_order(bench, [one]))
    print(
        f"single faults: the cause is among the first three after six measurements in {hit} of {len(cases)}; "
        f"median {statistics.median(took):g} beside the rails, at the most {max(took)}; by a fixed order "
        f"{statistics.median(persons):g}{'; missed: ' if missed else ''}{', '.join(missed)}"
    )
    asked(
        "single faults: the cause among the first three after six measurements",
        100 * hit / len(cases),
        90,
        "%",
        least=True,
    )
    pairs = drawn(benches, 0, DOUBLES, seed)
    told = [cured(bench, picked) for bench, picked in pairs]
    whole = sum(all_ for _, _, all_ in told)
    print(
        f"double faults: both named first and cured, one after the other end, in at most six measurements in {whole} of {len(pairs)} "
        f"; median {statistics.median(n for _, n, _ in told):g} measurements, by a fixed order "
        f"{statistics.median(fixed_order(bench, picked) for bench, picked in pairs):g}"
    )
    asked(
        "double faults: both named first and cured in six measurements", 100 * whole / len(pairs), 70, "%", least=True
    )
    sure, right = 0, 0
    for bench, picked in drawn(benches, CALIBRATED, 0, seed + 1):
        found, _ = search(bench, picked[0].faults, most=3)
        for s in found[-1].suspects:
            if 0.6 <= s.share <= 0.8:
                sure += 1
                right += picked[0].ref in s.ref.split(" + ")
    share = 100 * right / max(sure, 1)
    asked(
        f"of {sure} suspects given 60 to 80 % over {CALIBRATED} cases so many were the cause",
        share,
        50,
        "%",
        least=True,
    )
    asked("and no more than", share, 90, "%")
    bench = benches[0]
    began = time.perf_counter()
    inquiry = Inquiry(bench=bench)
    readings = [
        ClueReading(STATE, Asked(point="+5 V", what="dc", typed="+5V"), 4.98),
        ClueReading(STATE, Asked(point="+5 V", what="ripple_switching", typed="+5V"), 0.15),
    ]
    inquiry.look(readings[:1], (), STATE)
    first = time.perf_counter() - began
    began = time.perf_counter()
    inquiry.look(readings, (), STATE)
    further = time.perf_counter() - began
    asked("suspects, the first time", 1000 * first, 500, "ms")
    asked("suspects, a further reading", 1000 * further, 50, "ms")


if __name__ == "__main__":
    main()
