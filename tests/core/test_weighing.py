"""How well hypotheses fit: against a library's normal density, what mains and loads explain, sound and unknown, how far a part drifted."""

import math
import sys
from pathlib import Path

import numpy as np
import pytest

from idlebench.core.faults.clues import ClueReading
from idlebench.core.faults.severity import severity_of
from idlebench.core.faults.suspects import Inquiry
from idlebench.core.faults.weighing import SLIP, covariance, unknown, weigh
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.truth import Fault, read_truth

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "tools"))
import faulting

ON = faulting.STATE


@pytest.fixture(scope="module")
def inquiries():
    return [Inquiry(bench=bench) for bench in faulting.supplies()]


def read(inquiry, points, faults="", volts=230.0):
    """Readings of a supply as it really is, on mains that nobody read."""
    from dataclasses import replace

    sitting = Sitting(bench=inquiry.bench, faults=read_truth(faults), state=ON, seed=3)
    found = []
    for rail, what in points:
        one = faulting.take(sitting, replace(ON, volts=volts), Asked(point=rail, what=what, typed=rail))
        found.append(replace(one, state=ON))
    return found


def every_rail(inquiry, *whats):
    return [(rail, what) for rail in inquiry.bench.rails for what in whats]


def test_the_likelihood_is_that_of_a_library():
    from scipy.stats import multivariate_normal

    dice = np.random.default_rng(7)
    draws = dice.normal(size=(4, 200)) * np.array([[0.1], [0.2], [0.5], [0.05]])
    draws[1] += 3 * draws[0]
    together, error = covariance(draws), np.array([0.05, 0.1, 0.1, 0.02])
    assert together == pytest.approx(np.cov(draws))
    there = np.array([[5.0, 12.0, 9.0, 1.0]] * 2)
    for off in ([0.0, 0.0, 0.0, 0.0], [0.1, 0.3, -0.1, 0.01]):
        fit = weigh(there[0] + off, there, error, together)
        library = multivariate_normal(np.zeros(4), together + np.diag(error**2)).logpdf(off)
        # in units of the meter's error, and with its share of no slip; a slip adds next to nothing here
        mine = library + 2 * math.log(2 * math.pi) + np.log(error).sum() + math.log(1 - SLIP)
        assert fit.logs == pytest.approx(mine, abs=0.02)


def test_one_slip_of_the_hand_costs_one_slip_and_what_is_off_the_scale_is_one():
    there, error = np.array([[5.0, 12.0], [5.0, 12.0]]), np.array([0.1, 0.1])
    good = weigh(np.array([5.0, 12.0]), there, error, np.zeros((2, 2))).logs[0]
    slip = weigh(np.array([5.0, 90.0]), there, error, np.zeros((2, 2))).logs[0]
    over = weigh(np.array([5.0, math.inf]), there, error, np.zeros((2, 2))).logs[0]
    assert good > -0.1 and -9 < slip < -7 and -9 < over < -7
    both_over = weigh(np.array([math.inf]), np.array([[math.inf], [5.0]]), np.array([0.1]), np.zeros((1, 1)))
    assert both_over.misses[0] == 0 and both_over.misses[1] > 9


def test_something_unknown_beats_what_cannot_be_and_never_what_fits():
    sound, error = np.array([5.0, 12.0]), np.array([0.15, 0.3])
    for value, leads in ((12.0, False), (12.3, False), (30.0, True), (0.0, True)):
        seen = np.array([5.0, value])
        best = weigh(seen, np.array([sound]), error, np.zeros((2, 2))).logs[0]
        assert (unknown(seen, sound, error, np.zeros((2, 2))) > best) == leads


@pytest.mark.parametrize("number", range(4))
@pytest.mark.parametrize("volts", [216.0, 230.0, 244.0])
def test_a_sound_supply_on_mains_that_nobody_read_accuses_nobody(inquiries, number, volts):
    inquiry = inquiries[number]
    found = inquiry.look(read(inquiry, every_rail(inquiry, "dc", "ripple_mains"), volts=volts), (), ON)
    assert found.nothing_wrong and not found.unexplained and not found.pairs
    assert sum(one.share for one in found.suspects) + found.sound + found.none == pytest.approx(1.0)


def test_the_mains_are_fitted_where_a_reading_follows_them(inquiries):
    inquiry = inquiries[2]
    for volts in (218.0, 242.0):
        found = inquiry.look(read(inquiry, [("C1", "dc"), ("C2", "dc")], volts=volts), (), ON)
        assert abs(found.fitted.mains - volts) < abs(230.0 - volts) * 0.75
        assert set(found.fitted.loads) == set(inquiry.bench.rails)


@pytest.mark.parametrize(
    ("number", "truth", "ref", "failure"),
    [
        (0, "FB drift 12%", "FB", "drifted up"),
        (0, "FB drift -10%", "FB", "drifted down"),
        (1, "FB drift 8%", "FB", "drifted up"),
        (2, "C1 cap 1500u", "C1", ""),
        (3, "C1 cap 900u", "C1", ""),
        (2, "J2 joint 0.5", "J2", "cracked"),
    ],
)
def test_a_drift_is_named_first(inquiries, number, truth, ref, failure):
    inquiry = inquiries[number]
    points = every_rail(inquiry, "dc", "ripple_mains", "ripple_switching")
    # a regulator holds its rail whatever its reservoir does: the reservoir itself is read
    points += [("C1", "dc"), ("C1", "ripple_mains")] if ref == "C1" else []
    found = inquiry.look(read(inquiry, points, truth), (), ON)
    first = found.suspects[0]
    assert first.ref == ref and failure in first.failure and first.share > found.sound


def test_what_nothing_explains_is_named_by_nobody(inquiries):
    inquiry = inquiries[0]
    odd = [
        ClueReading(ON, Asked(point=rail, what=what, typed=rail), value)
        for rail, what, value in (("+5 V", "dc", 5.0), ("+12 V", "dc", 3.3), ("−12 V", "dc", -31.0))
    ]
    found = inquiry.look(odd, (), ON)
    assert found.unexplained and found.none > max(one.share for one in found.suspects) and found.none > found.sound


def test_how_far_it_drifted_holds_what_it_is(inquiries):
    inquiry = inquiries[0]
    value = inquiry.bench.stores["C18"].value
    found = inquiry.look(
        read(inquiry, every_rail(inquiry, "dc", "ripple_switching"), f"C18 cap {0.2 * value:g} esr 0.9"), (), ON
    )
    first = next(one for one in found.suspects if (one.ref, one.failure) == ("C18", "dried"))
    told = first.severity
    assert told.unit == "F" and told.new == value and told.low <= told.value <= told.high < value
    assert "% of its capacitance is left" in told.words and "ESR is about" in told.words
    assert next(one for one in found.suspects if one.failure == "open").severity is None
    assert severity_of(inquiry.bench, "C18", []) is None


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("FB drift 3%", Fault("FB", "drift", 0.03)),
        ("FB drift -5", Fault("FB", "drift", -0.05)),
        ("load +5V 2x", Fault("+5 V", "load", 2.0)),
        ("F1 ohms 2", Fault("F1", "ohms", 2.0)),
    ],
)
def test_truth_of_drifts_is_read(text, fault):
    assert read_truth(text) == (fault,)


@pytest.mark.parametrize("text", ["FB drift", "FB drift lots", "FB drift 90%", "load +5V 2", "load +5V -2x", "F1 ohms"])
def test_truth_that_cannot_be_is_refused(text):
    with pytest.raises(BadInput):
        read_truth(text)


def test_a_load_of_its_own_row_leaves_the_others_as_they_are(inquiries):
    """In a run of many the load of one variant is no other's."""
    bench = inquiries[2].bench
    from idlebench.core.simulate.truth import Values

    values = Values(3)
    bench.truth(values, read_truth("load +5V 2x"), 1)
    assert list(values.get("+5 V", "heavy", 1.0)) == [1.0, 2.0, 1.0]
