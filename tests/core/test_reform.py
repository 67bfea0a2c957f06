"""Reforming: the plan in figures, and advice that stops in time."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.draw.plots import reform_plot
from idlebench.core.judge.reform import (
    DONE,
    NEXT,
    STEPS,
    STOP,
    WAIT,
    CurrentReading,
    advise,
    check_resistance,
    largest,
    limit_at,
    possible,
    reform,
    stairs,
)
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
    ("value", "volts", "ohms"), [(0, 16, 1000), (C, 0, 1000), (C, V, 90), (C, V, 11_000), (-1e-6, 16, 1000)]
)
def test_what_cannot_be(value, volts, ohms):
    with pytest.raises(BadInput):
        reform(value, volts, ohms)


def test_high_volts_are_cautioned():
    assert "can kill" in reform(100e-6, 400).cautions[0]
    assert "can kill" not in " ".join(reform(C, V).cautions)


R = 330.0


def run(*readings: tuple[float, ...], minutes: float = 20.0, warm: bool = False):
    """Advice after readings (step, minutes, mA, V across the part; all that the resistor leaves where none is given)."""
    got = []
    for step, at, ma, *across in readings:
        volts = across[0] if across else STEPS[step] * V - ma / 1000 * R
        got.append(CurrentReading(step=step, minutes=at, current=ma / 1000, volts=volts))
    if warm:
        got[-1] = replace(got[-1], warm=True)
    return advise(C, V, got, minutes, R)


@pytest.mark.parametrize(
    ("readings", "kind", "step"),
    [
        ((), WAIT, 0),
        (((0, 1, 3.0),), WAIT, 0),
        (((0, 1, 3.0), (0, 5, 1.0)), WAIT, 0),
        # good from the fifth minute on: five minutes later it goes on, and not a second before
        (((0, 1, 3.0), (0, 5, 0.4), (0, 9.9, 0.39)), WAIT, 0),
        (((0, 1, 3.0), (0, 5, 0.4), (0, 10, 0.39)), NEXT, 1),
        # two readings seconds apart are one reading
        (((0, 1, 0.4), (0, 1.1, 0.4)), WAIT, 0),
        (((0, 0, 0.4), (0, 5, 0.4), (1, 6, 2.0)), WAIT, 1),
        (((0, 0, 0.4), (0, 5, 0.4), (1, 6, 0.8), (1, 11, 0.8)), NEXT, 2),
        # at rated volts it stays for half an hour
        (((4, 1, 2.0), (4, 6, 2.0)), WAIT, 4),
        (((4, 1, 2.0), (4, 31, 2.0)), DONE, 4),
        (((4, 1, 3.0), (4, 31, 2.4)), WAIT, 4),
        (((0, 1, 1.0), (0, 5, 1.2)), STOP, 0),
        (((0, 1, 0.30), (0, 6, 0.35)), NEXT, 1),
        # a break begins the dwell anew
        (((4, 0, 2.0), (4, 29, 2.3), (4, 31, 2.0), (4, 40, 2.0)), WAIT, 4),
        # nobody read the volts: no current alone passes a step
        (((0, 1, 0.4, None), (0, 9, 0.4, None)), WAIT, 0),
        # it holds 94 % and 95 % of 3.2 V
        (((0, 1, 0.4, 3.008), (0, 9, 0.4, 3.008)), WAIT, 0),
        (((0, 1, 0.4, 3.04), (0, 9, 0.4, 3.04)), NEXT, 1),
    ],
)
def test_advice(readings, kind, step):
    got = run(*readings)
    assert (got.kind, got.step) == (kind, step)
    assert got.text


def test_a_dead_short_does_not_pass():
    """4700 µF 16 V through 10 kΩ: a short draws 1.6 mA at rated volts, under the 2.26 mA allowed, and holds nothing."""
    for step, share in enumerate(STEPS):
        amps = share * V / 10e3
        assert amps < limit_at(C, share * V)
        got = [CurrentReading(step=step, minutes=at, current=amps, volts=0.0) for at in (0.0, 60.0)]
        assert advise(C, V, got, 60.0, 10e3).kind == STOP
        assert advise(C, V, [replace(r, volts=None) for r in got], 60.0, 10e3).kind == WAIT
    with pytest.raises(BadInput, match="hides a short"):
        check_resistance(C, V, 10e3)


@pytest.mark.parametrize(
    ("value", "volts", "most"),
    [
        # 5 % of 16 V ÷ (3 · 0.01 · 4700 · 16 µA) = 0.8 V ÷ 2.256 mA
        (4700e-6, 16.0, 354.0),
        # the step does not matter where the leakage goes with the volts: 0.05 ÷ (3e-8 · 220) a volt
        (220e-6, 400.0, 7570.0),
        # 3 · 3 µA at the least: 5 % of the first step's 2 V ÷ 9 µA is over 10 kΩ
        (10e-6, 10.0, 10e3),
        # 76 Ω would do; the least is 100 Ω
        (22e-3, 16.0, 100.0),
    ],
)
def test_the_largest_resistor_by_hand(value, volts, most):
    assert largest(value, volts) == pytest.approx(most, rel=1e-3)
    check_resistance(value, volts, most)
    if most < 10e3:
        with pytest.raises(BadInput):
            check_resistance(value, volts, most * 1.01)


def test_a_large_resistor_is_warned_of_and_a_small_one_asks_for_a_limit():
    assert "hides a short" in " ".join(reform(C, V, 2200.0).cautions)
    assert "hides a short" not in " ".join(reform(C, V, 330.0).cautions)
    # 16² ÷ 330
    assert "776 mW" in reform(C, V, 330.0).cautions[0] and "current limit" in reform(C, V, 330.0).cautions[0]
    assert "current limit" not in " ".join(reform(220e-6, 400, 4700.0).cautions)


def test_volts_that_do_not_add_up_are_asked_about():
    possible(C, V, 330.0, 4, 2e-3, 15.3)
    with pytest.raises(BadInput, match="add up to the 16 V"):
        possible(C, V, 330.0, 4, 2e-3, 12.0)
    with pytest.raises(BadInput, match="add up"):
        possible(C, V, 330.0, 4, 2e-3, 19.0)


def test_a_warm_can_and_a_long_wait_stop():
    assert run((0, 1, 3.0), (0, 5, 1.0), warm=True).kind == STOP
    late = run((0, 1, 3.0), (0, 5, 1.0), minutes=241)
    assert late.kind == STOP and "4 h" in late.text
    assert run((4, 200, 2.0), (4, 239, 2.0), minutes=241).kind == DONE, "met is met"


@given(st.lists(st.floats(1e-6, 20e-3), min_size=1, max_size=12), st.integers(0, 4))
def test_a_rising_current_never_goes_on(currents, step):
    here = STEPS[step] * V
    readings = [
        CurrentReading(step=step, minutes=float(i), current=c, volts=max(0.0, here - c * R))
        for i, c in enumerate(currents)
    ]
    got = advise(C, V, readings, 60.0, R)
    if len(currents) > 1 and currents[-1] > currents[-2] * 1.06 and currents[-1] > limit_at(C, here):
        assert got.kind == STOP, "a rise under the limit is noise"
    if got.kind in (NEXT, DONE):
        assert currents[-1] <= limit_at(C, here) and readings[-1].volts >= 0.95 * here
        assert len(currents) > 5
    assert 0 <= got.step < len(STEPS) and got.step <= step + 1


def test_the_limit_is_stairs_and_the_axes_have_numbers():
    assert reform_plot(C, V, []) is None
    readings = [
        CurrentReading(step=0, minutes=0.0, current=3e-3),
        CurrentReading(step=0, minutes=4.0, current=0.0),
        CurrentReading(step=1, minutes=9.0, current=5e-3),
    ]
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
