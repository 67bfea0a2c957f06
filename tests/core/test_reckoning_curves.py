"""A reckoning tells what its large number is called, and how it moves with an input."""

import pytest

from idlebench.core.calculators import REGISTRY


@pytest.mark.parametrize("name", REGISTRY)
def test_the_large_number_is_named_by_a_line_of_its_working(name):
    item = REGISTRY[name]
    working = item.run({})
    assert item.headline(working) in {line.label for line in working.lines}


def test_a_curve_goes_through_where_its_input_stands():
    item = REGISTRY["discharge"]
    curve = item.curve({})
    at = {round(x, 12): y for x, y in curve.points}
    # worked by hand: the time is RC·ln(V ÷ 10), so that it goes with the value
    (first, second), (last, longest) = curve.points[0], curve.points[-1]
    assert curve.label == "Value" and curve.unit == "F" and last / first == pytest.approx(16)
    assert longest / second == pytest.approx(16)
    assert at[round(curve.at, 12)] == pytest.approx(item.run({}).values[item.result])


def test_no_curve_where_nothing_is_a_number_that_moves_it_or_a_supply_would_be_simulated():
    assert REGISTRY["marking"].curve({}) is None
    assert REGISTRY["supply"].curve({}) is None and REGISTRY["adapter"].curve({}) is None
    # places at which it cannot be reckoned are left out: a regulator's output above its input
    regulator = REGISTRY["regulator"].curve({})
    assert 4 < len(regulator.points) < 25
