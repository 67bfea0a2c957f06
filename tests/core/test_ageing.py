"""Worked figures of ageing, and what must hold whatever the figures."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.judge import ageing
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("value", "volts", "ohms"),
    [
        (22e-6, 16, 9.65),
        (470e-6, 10, 0.536),
        (4700e-6, 25, 0.0621),
        (100e-6, 10, 2.52),
        (47e-6, 200, 5.64),
        (10e-6, 450, 31.8),
    ],
)
def test_new_esr_at_120_hz(value, volts, ohms):
    assert ageing.new_esr(value, volts) == pytest.approx(ohms, rel=3e-3)


@pytest.mark.parametrize(
    ("value", "tangent"), [(1000e-6, 0.14), (1001e-6, 0.16), (2000e-6, 0.16), (2200e-6, 0.18), (4700e-6, 0.22)]
)
def test_loss_grows_with_each_further_1000_uF(value, tangent):
    assert ageing.tan_delta(value, 25) == pytest.approx(tangent)


def test_the_meters_frequency_is_part_of_a_reading():
    at_120 = ageing.new_esr(100e-6, 16)
    assert 0.35 <= ageing.new_esr(100e-6, 16, 100e3) / at_120 <= 0.5
    assert 0.1 <= ageing.new_esr(100e-6, 16, 100e3, low_impedance=True) / at_120 <= 0.2


@pytest.mark.parametrize("bad", [(0, 16, 120), (1e-6, 0, 120), (1e-6, 16, 0), (-1e-6, 16, 120)])
def test_new_esr_refuses_what_cannot_be(bad):
    with pytest.raises(BadInput, match="more than zero"):
        ageing.new_esr(*bad)


def test_leakage_limit():
    assert ageing.leakage_limit(4700e-6, 16) == pytest.approx(752e-6)
    assert ageing.leakage_limit(1e-6, 16) == pytest.approx(3e-6)
    assert ageing.leakage_limit(4700e-6, 16, reformed=True) == pytest.approx(3 * 752e-6)


@pytest.mark.parametrize(
    ("rated", "t0", "ta", "i", "i0", "hours"),
    [(2000, 85, 60, 0.9, 1.0, 12_906), (3000, 105, 75, 1.46, 2.29, 36_214), (10_000, 105, 40, 0, 1, 131_400)],
)
def test_life(rated, t0, ta, i, i0, hours):
    assert ageing.life(rated, t0, ta, i, i0) == pytest.approx(hours, rel=1e-4)


@given(st.floats(20, 105), st.floats(0, 2), st.floats(0.1, 3))
def test_life_never_grows_with_heat_or_ripple(ambient, ripple, rated):
    here = ageing.life(3000, 105, ambient, ripple, rated)
    assert ageing.life(3000, 105, ambient + 5, ripple, rated) <= here
    assert ageing.life(3000, 105, ambient, ripple + 0.1, rated) <= here


def test_life_working_warns():
    said = " ".join(ageing.life_working(2000, 85, 90, 2.0, 1.0).cautions)
    assert "above the rating" in said and "above the rated temperature" in said


@pytest.mark.parametrize(
    ("frequency", "value", "low", "factor"),
    [(120, 100e-6, True, 0.40), (1e3, 180e-6, True, 0.75), (10e3, 470e-6, True, 0.94), (120, 1500e-6, True, 0.60), (1e3, 3300e-6, True, 0.90),
     (120, 6800e-6, True, 0.85), (100e3, 10e-6, True, 1.0), (50, 10e-6, False, 0.8), (120, 10e-6, False, 1.0), (300, 10e-6, False, 1.1),
     (100e3, 10e-6, False, 1.5)],
)  # fmt: skip
def test_ripple_multipliers(frequency, value, low, factor):
    assert ageing.ripple_multiplier(frequency, value, low) == pytest.approx(factor)


def test_ripple_multipliers_go_by_arrays():
    values = np.array([100e-6, 470e-6])
    got = ageing.ripple_multiplier(120, values, np.array([True, False]))
    assert got == pytest.approx([0.40, 1.0])
