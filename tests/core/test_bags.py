"""Bags: pockets by value, and a bag checked off at its board."""

from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.plan.bags import held, missing, pockets

PLACES = [("C2", "B", 1e-4), ("C1", "A", 1e-5), ("C3", "B", 1e-4), ("C9", "Z", 1e-5)]


def test_pockets_are_sorted_by_value_one_kind_each():
    assert [(p.number, p.part, p.refs) for p in pockets(PLACES)] == [
        (1, "A", ("C1",)),
        (2, "Z", ("C9",)),
        (3, "B", ("C2", "C3")),
    ]


def test_a_bag_is_checked_off_at_its_board():
    bag = pockets(PLACES)
    asked = {"C1": "A", "C2": "B", "C3": "X", "C5": "Q"}
    lines = {line.ref: line for line in held(bag, asked, ["C1"])}
    assert lines["C1"].done and not lines["C1"].odd and not lines["C2"].odd
    assert lines["C3"].odd == "C3 uses X now" and lines["C9"].odd == "C9 uses nothing now"
    assert missing(bag, asked, ["C1"]) == ("C5",) and missing(bag, asked, ["C5"]) == ()


@given(st.lists(st.tuples(st.integers(1, 40), st.sampled_from("ABCD")), max_size=40, unique_by=lambda p: p[0]))
def test_nothing_is_bagged_twice_or_left_out(places):
    values = {"A": 1e-6, "B": 1e-5, "C": 1e-4, "D": 1e-3}
    bag = pockets((f"C{n}", part, values[part]) for n, part in places)
    assert sorted(ref for p in bag for ref in p.refs) == sorted(f"C{n}" for n, _ in places)
    assert [values[p.part] for p in bag] == sorted(values[p.part] for p in bag)
