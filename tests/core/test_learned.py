"""Minutes learned from dab to dab."""

from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.judge.learned import LEAST, PAUSE, learned


def test_a_median_with_pauses_left_out():
    """Gaps of 3, 3, 4, 10 and 3 min: 3 min; a night between two evenings, and two logged at once, tell nothing."""
    at, swap_marks = 0.0, [(0.0, "radial", 1)]
    for minutes in (3, 3, 4, 10, 3):
        at += minutes * 60
        swap_marks.append((at, "radial", 1))
    swap_marks += [(at + 80_000, "radial", 1), (at + 80_001, "radial", 1)]
    found = learned(swap_marks)["radial"]
    assert (found.minutes, found.of) == (3.0, 5)


def test_another_machine_beside_it_tells_nothing_of_this_one():
    swap_marks = [(i * 180.0, "radial", 1) for i in range(6)] + [(i * 180.0 + 60, "can", 2) for i in range(6)]
    found = learned(swap_marks)
    assert found["radial"].minutes == 3.0 and found["can"].minutes == 3.0


def test_a_few_are_no_figure():
    assert learned([(i * 180.0, "radial", 1) for i in range(LEAST)]) == {}


@given(st.lists(st.tuples(st.floats(0, 1e6), st.sampled_from(["radial", "can"]), st.integers(1, 3)), max_size=60))
def test_never_longer_than_a_pause_and_in_any_order(swap_marks):
    found = learned(swap_marks)
    assert found == learned(reversed(swap_marks))
    assert all(0 < one.minutes * 60 <= PAUSE and one.of >= LEAST for one in found.values())
