"""The shop's figures against another library, and what a few parts may not say."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from idlebench.core.board.parts import Fitted
from idlebench.core.faults.fifths import EDGES, in_fifths
from idlebench.core.faults.figures import LEAST, Counted, UnitDone, failures, interval, paid, rates
from idlebench.core.faults.trial_record import CASES, TRIALS


@given(st.integers(1, 400).flatmap(lambda n: st.tuples(st.integers(0, n), st.just(n))))
def test_the_interval_is_that_of_a_library(counts):
    failed, of = counts
    theirs = binomtest(failed, of).proportion_ci(confidence_level=0.90, method="exact")
    assert interval(failed, of) == pytest.approx((theirs.low, theirs.high), abs=1e-9)


@pytest.mark.parametrize("counts", [(1, 0), (2, 1), (-1, 3), (0, 0)])
def test_counts_that_cannot_be_are_refused(counts):
    with pytest.raises(ValueError, match="of"):
        interval(*counts)


def test_a_series_with_one_part_has_an_interval_and_no_verdict():
    found = {r.name: r for r in rates([("QF", True), *[("KV", False)] * 40])}
    assert found["QF"].verdict == "" and found["QF"].low == pytest.approx(0.05) and found["QF"].high == 1.0
    assert found["KV"].verdict == "fails less often than the rest"


def test_a_verdict_only_where_the_whole_interval_lies_on_one_side():
    worse = rates([("QF", True)] * 9 + [("QF", False)] + [("KV", False)] * 30 + [("KV", True)] * 2)
    assert [r.verdict for r in worse] == ["fails more often than the rest", "fails less often than the rest"]
    alike = rates([("QF", n % 3 == 0) for n in range(9)] + [("KV", n % 3 == 0) for n in range(12)])
    assert {r.verdict for r in alike} == {""}
    assert all(r.verdict == "" for r in rates([("QF", True)] * (LEAST - 1) + [("KV", False)] * 30) if r.name == "QF")


def test_failures_are_counted_by_what_each_part_was():
    bad = Fitted(ref="C1", value=1e-4, volts=16.0, series="QF", role="decoupling", looks="leaking", ambient=70.0)
    good = Fitted(ref="C2", value=1e-4, volts=16.0, series="KV", role="decoupling", looks="sound", ambient=30.0)
    unseen = Fitted(ref="C3", value=1e-4, volts=16.0, series="KV")
    found = failures([Counted.of(part, 1984, 2026) for part in (bad, good, unseen)], 2026)
    assert [(r.name, r.failed, r.of) for r in found["series"]] == [("QF", 1, 1), ("KV", 0, 1)]
    assert [(r.failed, r.of) for r in found["role"]] == [(1, 2)] and found["kind"][0].name == "wet electrolytic"
    assert len(found["age"]) == 1 and len(found["heat"]) == 2


def test_what_policies_came_to():
    facts = {"rate": 20.0, "worth": 100.0, "closed": True}
    units = [
        UnitDone(name="A", policy="renew", changed=40, bad=10, parts=20.0, minutes=120.0, failed=0, **facts),
        UnitDone(name="B", policy="renew", changed=20, bad=5, parts=10.0, minutes=60.0, failed=1, **facts),
        UnitDone(name="C", policy="worst", changed=8, bad=7, parts=6.0, minutes=30.0, failed=3, **facts),
        UnitDone(name="D", policy="worst", changed=0, bad=0, parts=0.0, minutes=0.0, failed=0, **facts),
    ]
    cheap, dear = paid(units, {"renew": "Renew all", "worst": "The worst first"})
    assert (cheap.policy, cheap.units, cheap.changed, cheap.bad.failed) == ("The worst first", 1, 8, 7)
    assert cheap.cost == pytest.approx(6 + 10) and cheap.failed == 3
    assert dear.cost == pytest.approx((20 + 40 + 10 + 20) / 2) and (dear.bad.failed, dear.bad.of) == (15, 60)


@given(st.lists(st.tuples(st.floats(0, 1), st.booleans()), max_size=60))
def test_fifths_are_those_of_a_histogram(told):
    found = in_fifths(told)
    shares = [share for share, _ in told]
    # a share on an edge belongs to the fifth above it
    counted, _ = np.histogram([share + 1e-9 / 5 for share in shares], bins=[0.0, 0.2, 0.4, 0.6, 0.8, 1.1])
    assert [one.said for one in found] == counted.tolist()
    assert sum(one.right for one in found) == sum(right for _, right in told)
    assert all(one.low - 1e-6 <= one.mean <= one.low + 0.2 + 1e-6 for one in found)
    assert all(one.between[0] <= one.share_right <= one.between[1] for one in found if one.said)


def test_what_is_kept_of_the_trials_is_whole():
    assert [one.low for one in TRIALS] == list(EDGES) and CASES == 500
    assert all(0 < one.right <= one.said for one in TRIALS)
    # each of the cases is judged at the beginning and after its measurements, and says sound and none beside its suspects
    assert sum(one.said for one in TRIALS) > 3 * CASES
