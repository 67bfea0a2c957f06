"""Switching on: the rush into empty stores, the fuse, the lamp; against a general circuit simulator and the closed form."""

import json
from pathlib import Path

import numpy as np
import pytest

from idlebench.core.board.parts import Fitted
from idlebench.core.choose.need import Mains
from idlebench.core.circuit.inrush import inrush_i2t
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.state import State, read_state
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.switch_on import may_blow, switch_on
from idlebench.core.simulate.truth import Values, read_truth

CASES = json.loads((Path(__file__).parent / "reference_switch_on.json").read_text())


def bare(volts, ohms, store, esr, hertz):
    """A bridge and a store, nothing drawn. Its own mains are the case's, or it hangs on a winding."""
    source = f"mains {ohms:g}ohm" if volts > 60 else f"{volts:g}V {ohms:g}ohm"
    mains = Mains(volts if volts > 60 else 230.0, hertz)
    return Bench.of(
        f"bridge {source} store C1 load 1000000ohm",
        [Fitted(ref="C1", value=store, volts=400.0, esr=esr)],
        nominal=mains,
    ), mains


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["name"])
def test_against_a_circuit_simulator(case):
    """Peak within 5 %, ∫i²dt within 10 %."""
    bench, mains = bare(*(case[key] for key in ("volts", "ohms", "store", "esr", "hertz")))
    found = switch_on(bench, Values(1), State(volts=mains.volts, frequency=mains.frequency, load="none"))
    ratio = case["volts"] / mains.volts
    assert found.peak[0] / ratio == pytest.approx(case["figures"]["peak"], rel=0.05)
    assert found.i2t[0] / ratio**2 == pytest.approx(case["figures"]["i2t"], rel=0.10)


def test_no_more_than_the_closed_form():
    """V²C/2R is all that a store can take in through a resistance; a crest that falls away gives less."""
    for case in CASES:
        bench, mains = bare(*(case[key] for key in ("volts", "ohms", "store", "esr", "hertz")))
        ratio = case["volts"] / mains.volts
        found = switch_on(bench, Values(1), State(volts=mains.volts, frequency=mains.frequency, load="none"))
        whole = inrush_i2t(case["volts"] * 2**0.5, case["store"], case["ohms"]) * ratio**2
        assert 0.4 * whole < found.i2t[0] < whole


LINES = "bridge mains {ohms}ohm store C7 converter flyback 30W eff 0.78 at 42k fuse {fuse}\nrail +5V 3.1A duty 0.47 stores C14"
PARTS = [Fitted(ref="C7", value=220e-6, volts=400.0), Fitted(ref="C14", value=2200e-6, volts=10.0)]


def test_a_fuse_that_goes_in_the_first_cycle():
    weak = Bench.of(LINES.format(ohms=1, fuse="F500mA"), PARTS)
    sitting = Sitting(bench=weak, faults=(), state=read_state("mains 230V 50Hz; load rated"))
    assert any("F1 blew after" in words and "switch-on" in words for words in sitting.events)
    outcome = run(weak, Values(1), read_state("mains 230V 50Hz; load rated"))
    assert 0 < outcome.blown[0] < 0.02 and not outcome.rails["+5 V"].volts.any()
    behind = run(weak, Values(1), read_state("mains 230V 50Hz; lamp 200W"))
    assert behind.blown[0] == 0, "a lamp takes the rush"
    right = Bench.of(LINES.format(ohms=10.6, fuse="T1.6A"), PARTS)
    assert not may_blow(right, Values(1), read_state("mains 230V 50Hz"))
    assert not any(
        "blew" in words for words in Sitting(bench=right, faults=(), state=read_state("mains 230V 50Hz")).events
    )


def test_a_dried_store_takes_less_and_is_there_sooner():
    """All variants at once give what each gives alone."""
    bench = Bench.of(LINES.format(ohms=10.6, fuse="T1.6A"), PARTS)
    values, state = Values(3), read_state("mains 230V 50Hz; load rated")
    bench.truth(values, read_truth("C7 cap 100u"), 1)
    bench.truth(values, read_truth("C7 open"), 2)
    found = switch_on(bench, values, state)
    assert found.i2t[0] > found.i2t[1] > found.i2t[2] and np.isfinite(found.peak).all()
    assert found.i2t[0] == switch_on(bench, Values(1), state).i2t[0]


def test_the_lamp_flares_and_dims_and_a_larger_one_flares_less():
    bench = Bench.of(LINES.format(ohms=10.6, fuse="T1.6A"), PARTS)
    small, large = (
        switch_on(bench, Values(1), read_state(f"mains 230V 50Hz; lamp {w}W; load none")) for w in (40, 150)
    )
    assert 0.4 < small.bright[0] < 1 and small.bright[0] > large.bright[0]
    assert 0.1 < small.dims[0] < 0.8 and small.peak[0] < large.peak[0] < 10


def test_the_rush_is_read_on_the_bench():
    bench = Bench.of(LINES.format(ohms=10.6, fuse="T1.6A"), PARTS)
    from idlebench.core.simulate.readings import read_asked

    sitting = Sitting(bench=bench, faults=(), state=read_state("mains 230V 50Hz; load rated"))
    reading = sitting.read(read_asked("mains inrush", bench)[0])
    assert reading.unit == "A" and (reading.value is None or 20 < reading.value < 31)
