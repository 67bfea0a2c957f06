"""Minutes learned from dab to dab."""

from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.judge.learned import LEAST, PAUSE, learned


def test_a_median_with_pauses_left_out():
    """Gaps of 3, 3, 4, 10 and 3 min: 3 min; a night between two evenings, and two logged at once, tell nothing."""
    at, dabs = 0.0, [(0.0, "radial", 1)]
    for minutes in (3, 3, 4, 10, 3):
        at += minutes * 60
        dabs.append((at, "radial", 1))
    dabs += [(at + 80_000, "radial", 1), (at + 80_001, "radial", 1)]
    found = learned(dabs)["radial"]
    assert (found.minutes, found.of) == (3.0, 5)


def test_another_machine_beside_it_tells_nothing_of_this_one():
    dabs = [(i * 180.0, "radial", 1) for i in range(6)] + [(i * 180.0 + 60, "can", 2) for i in range(6)]
    found = learned(dabs)
    assert found["radial"].minutes == 3.0 and found["can"].minutes == 3.0


def test_a_few_are_no_figure():
    assert learned([(i * 180.0, "radial", 1) for i in range(LEAST)]) == {}


@given(st.lists(st.tuples(st.floats(0, 1e6), st.sampled_from(["radial", "can"]), st.integers(1, 3)), max_size=60))
def test_never_longer_than_a_pause_and_in_any_order(dabs):
    found = learned(dabs)
    assert found == learned(reversed(dabs))
    assert all(0 < one.minutes * 60 <= PAUSE and one.of >= LEAST for one in found.values())
