"""Reforming: the plan in figures, and advice that stops in time."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.draw.plots import reform_plot
from idlebench.core.judge.reform import DONE, NEXT, STEPS, STOP, WAIT, Reading, advise, limit_at, reform, stairs
from idlebench.core.refusal import BadInput

C, V = 4700e-6, 16.0


def test_the_plan_by_hand():
    """4700 µF 16 V through 1 kΩ: τ 4.7 s, 752 µA leakage tripled, 0.256 W if it shorts."""
    values = reform(C, V, 1000.0).values
    assert values["steps"] == [3.2, 6.4, 9.6, 12.8, 16.0]
    assert values["time_constant"] == pytest.approx(4.7)
    assert values["current_limit"] == pytest.approx(2.256e-3)
    assert values["resistor_power"] == pytest.approx(0.256)
    assert max(values["steps"]) <= V


@pytest.mark.parametrize(
    ("value", "volts", "ohms"), [(0, 16, 1000), (C, 0, 1000), (C, V, 400), (C, V, 11_000), (-1e-6, 16, 1000)]
)
def test_what_cannot_be(value, volts, ohms):
    with pytest.raises(BadInput):
        reform(value, volts, ohms)


def test_high_volts_are_cautioned():
    assert "can kill" in reform(100e-6, 400).cautions[0]
    assert "can kill" not in " ".join(reform(C, V).cautions)


def run(*readings: tuple[int, float, float], minutes: float = 20.0, warm: bool = False):
    """Advice after readings (step, minutes, mA)."""
    got = [Reading(step, at, ma / 1000) for step, at, ma in readings]
    if warm:
        got[-1] = Reading(got[-1].step, got[-1].minutes, got[-1].current, True)
    return advise(C, V, got, minutes)


@pytest.mark.parametrize(
    ("readings", "kind", "step"),
    [
        ((), WAIT, 0),
        (((0, 1, 3.0),), WAIT, 0),
        (((0, 1, 3.0), (0, 5, 1.0)), WAIT, 0),
        (((0, 1, 3.0), (0, 5, 0.4)), NEXT, 1),
        (((0, 1, 0.4),), WAIT, 0),
        (((0, 1, 3.0), (0, 5, 0.4), (1, 6, 2.0)), WAIT, 1),
        (((0, 1, 3.0), (0, 5, 0.4), (1, 6, 2.0), (1, 9, 0.8)), NEXT, 2),
        (((4, 1, 3.0), (4, 5, 2.2)), DONE, 4),
        (((4, 1, 3.0), (4, 5, 2.4)), WAIT, 4),
        (((0, 1, 1.0), (0, 5, 1.2)), STOP, 0),
        (((0, 1, 0.30), (0, 5, 0.35)), NEXT, 1),
        (((2, 1, 1.0), (2, 5, 1.04)), NEXT, 3),
    ],
)
def test_advice(readings, kind, step):
    got = run(*readings)
    assert (got.kind, got.step) == (kind, step)
    assert got.text


def test_a_warm_can_and_a_long_wait_stop():
    assert run((0, 1, 3.0), (0, 5, 1.0), warm=True).kind == STOP
    late = run((0, 1, 3.0), (0, 5, 1.0), minutes=241)
    assert late.kind == STOP and "4 h" in late.text
    assert run((4, 1, 3.0), (4, 239, 2.0), minutes=241).kind == DONE, "met is met"


@given(st.lists(st.floats(1e-6, 20e-3), min_size=1, max_size=12), st.integers(0, 4))
def test_a_rising_current_never_goes_on(currents, step):
    readings = [Reading(step, float(i), c) for i, c in enumerate(currents)]
    got = advise(C, V, readings, 60.0)
    if len(currents) > 1 and currents[-1] > currents[-2] * 1.06:
        assert got.kind == STOP
    if got.kind in (NEXT, DONE):
        assert currents[-1] <= limit_at(C, STEPS[step] * V)
    assert 0 <= got.step < len(STEPS) and got.step <= step + 1


def test_the_limit_is_stairs_and_the_axes_have_numbers():
    assert reform_plot(C, V, []) is None
    readings = [Reading(0, 0.0, 3e-3), Reading(0, 4.0, 0.0), Reading(1, 9.0, 5e-3)]
    minutes, allowed = stairs(C, V, readings)
    first, second = (limit_at(C, STEPS[step] * V) for step in (0, 1))
    # flat while the first step lasts, then at once to what the second allows
    assert list(zip(minutes, allowed, strict=True)) == [(0.0, first), (4.0, first), (4.0, second), (9.0, second)]
    drawn = reform_plot(C, V, readings)
    limit, read = drawn.curves
    assert limit.which == "limit" and [len(c.points.split()) for c in drawn.curves] == [4, 3]
    heights = [float(point.split(",")[1]) for point in read.points.split()]
    assert heights[0] < heights[1], "more current stands higher"
    assert [t.text for t in drawn.across][:2] == ["0", "2"] and all(t.text.endswith("A") for t in drawn.up)
