"""Triage: what a unit would take, worked by hand, and how the suggestion turns."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.draw.bars import cost_bar
from idlebench.core.judge.triage import DONOR, REPAIR, WAIT, Times, UnitFacts, estimate, helped_by

FACTS = UnitFacts(
    name="B",
    swaps=("radial",) * 10 + ("snap", "chip"),
    parts_cost=12.0,
    not_seen=4,
    damage=2,
    checks=40,
    leaking=3,
    worth=300.0,
)


def test_the_sum_by_hand():
    """40 + 6 + 7 swaps, 4 looks, 50 mending, 28 checks, 45 power: 180 minutes; risk 0.10 + 0.06 + 0.04."""
    got = estimate(FACTS, 20.0)
    assert got.minutes == pytest.approx(180)
    assert got.risk == pytest.approx(0.20)
    assert got.cost == pytest.approx((60 + 12) * 1.20)
    assert got.hours == "3.0 h" and got.share == pytest.approx(86.4 / 300)
    assert got.working.values["minutes"] == got.minutes
    assert sum(line.value for line in got.working.lines if line.unit == "min") == pytest.approx(180)


@pytest.mark.parametrize(
    ("worth", "suggestion", "said"),
    [(300.0, REPAIR, "29 %"), (124.0, REPAIR, "70 %"), (123.0, WAIT, "between 70 % and 120 %"), (73.0, WAIT, "can wait"), (72.0, DONOR, "120 %"),
     (0.0, DONOR, "Worth nothing"), (None, WAIT, "Its worth is not given")],
)  # fmt: skip
def test_the_suggestion_turns_with_worth(worth, suggestion, said):
    got = estimate(UnitFacts(**{**FACTS.__dict__, "worth": worth}), 20.0)
    assert got.suggestion == suggestion and said in got.reasons[0]


def test_nothing_is_decided_before_the_survey():
    got = estimate(UnitFacts(name="C", worth=500.0, surveyed=False), 20.0)
    assert got.suggestion == WAIT and "list its parts" in got.reasons[0]


def test_the_shops_own_times_count():
    slow = Times(swap={"radial": 8.0, "snap": 6.0, "chip": 7.0})
    assert estimate(FACTS, 20.0, slow).minutes - estimate(FACTS, 20.0).minutes == pytest.approx(40)


def test_a_donor_is_named_to_those_who_miss_parts():
    donor = estimate(UnitFacts(name="D", swaps=("can",) * 20, worth=1.0), 20.0)
    poor = estimate(UnitFacts(name="E", swaps=("radial",), missing=2, worth=500.0), 20.0)
    assert helped_by([donor, poor]) == {"E": "Unit D may have the 2 parts it misses."}
    assert helped_by([poor]) == {}


@given(
    st.integers(0, 60), st.integers(0, 9), st.integers(0, 9), st.integers(0, 9), st.floats(0, 100), st.floats(1, 1000),
)  # fmt: skip
def test_more_to_do_never_costs_less(swaps, damage, missing, leaking, rate, worth):
    here = estimate(
        UnitFacts(
            name="A",
            swaps=("radial",) * swaps,
            parts_cost=1.0,
            not_seen=0,
            missing=missing,
            damage=damage,
            checks=5,
            leaking=leaking,
            worth=worth,
        ),
        rate,
    )
    more = estimate(
        UnitFacts(
            name="A",
            swaps=("radial",) * (swaps + 1),
            parts_cost=1.0,
            not_seen=0,
            missing=missing,
            damage=damage + 1,
            checks=5,
            leaking=leaking,
            worth=worth,
        ),
        rate,
    )
    assert more.cost >= here.cost and more.minutes > here.minutes
    order = [REPAIR, WAIT, DONOR]
    assert order.index(more.suggestion) >= order.index(here.suggestion)


def test_the_bar_is_drawn_against_the_worth():
    dear, cheap = (
        cost_bar(estimate(FACTS, 20.0)),
        cost_bar(estimate(UnitFacts(**{**FACTS.__dict__, "worth": 40.0}), 20.0)),
    )
    assert dear.cost < dear.repair < dear.worth <= 100
    assert cheap.repair < cheap.worth < cheap.cost <= 100
    assert cost_bar(estimate(UnitFacts(name="A"), 20.0)).worth is None
