"""What a rail with too much ripple needs, in parts: the stores of a rail looked at together."""

from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.choose.branch_circuit import new_store, rail_ripple, together
from idlebench.core.choose.cure import cure
from idlebench.core.choose.supply_model import reckon
from idlebench.core.circuit.supply_lines import read_model
from idlebench.core.draw.gauge import of_figure
from tests.core.test_supply_model import FLYBACK

(BRANCH,) = read_model(FLYBACK)
FED = BRANCH.converter
FIVE = next(rail for rail in FED.rails if rail.name == "+5 V")
OLD = {
    ref: Fitted(ref=ref, value=2200e-6, volts=10.0, esr=0.06, esr_frequency=100e3, kind="wet", mounting="radial")
    for ref in FIVE.stores
}


def part(name: str, esr: float, value: float = 2200e-6) -> Capacitor:
    return Capacitor(
        part=name, series=name, kind="wet", value=value, volts=10.0, esr=esr, esr_frequency=100e3, low_impedance=True
    )


def of(*parts: Capacitor) -> float:
    """The ripple of +5 V with these as its stores."""
    return rail_ripple(FED, FIVE, together([new_store(one) for one in parts]))


GOOD, FAIR, POOR = part("GOOD", 0.008), part("FAIR", 0.0148), part("POOR", 0.04)


def test_a_pair_of_a_kind_before_parts_that_differ():
    """Two of 14.8 mΩ are 7.4 mΩ together and not enough; two of 8 mΩ are 4, and do it. Each alone in its place would not."""
    assert of(FAIR, FAIR) > 0.05 > of(GOOD, GOOD)
    found = cure(FED, FIVE, OLD, {}, {"C14": [POOR, FAIR, GOOD], "C15": [POOR, FAIR, GOOD]})
    assert found.places == ("C14", "C15") and found.limit == 0.05
    assert [found.takes[ref].part for ref in found.places] == ["GOOD", "GOOD"]
    assert found.ripple == pytest.approx(of(GOOD, GOOD)) and found.esr == pytest.approx(0.004, rel=0.01)
    # what it needs in ohms is where the limit is met
    at_most = part("EXACT", 2 * found.most)
    assert of(at_most, at_most) == pytest.approx(0.05, rel=1e-3)


def test_what_is_soldered_in_stays_and_is_reckoned_with():
    found = cure(FED, FIVE, OLD, {"C14": FAIR}, {"C15": [POOR, FAIR, GOOD]})
    assert found.places == ("C15",) and found.standing == ("C14",)
    assert found.takes["C15"].part == "GOOD" and found.ripple == pytest.approx(of(FAIR, GOOD))
    # an old part that nobody may choose for stays as it was read
    stays = cure(FED, FIVE, OLD, {}, {"C15": [GOOD]})
    assert stays.standing == () and stays.ripple > of(FAIR, GOOD)


def test_nothing_that_does_it_is_said_with_what_comes_nearest():
    found = cure(FED, FIVE, OLD, {}, {"C14": [POOR, FAIR], "C15": [POOR, FAIR]})
    assert found.takes == {} and {p.part for p in found.nearest.values()} == {"FAIR"} and found.ripple > found.limit
    assert cure(FED, FIVE, OLD, {}, {}) is None and cure(FED, FIVE, OLD, {"C14": GOOD}, {"C15": []}) is None


@given(
    st.lists(st.floats(0.004, 0.06), min_size=1, max_size=5),
    st.lists(st.floats(0.004, 0.06), min_size=1, max_size=5),
)
def test_a_cure_is_found_wherever_there_is_one(ones, twos):
    """Held against trying all: what is offered meets the limit, and where nothing is offered nothing meets it."""
    options = {
        "C14": [part(f"A{i}", esr) for i, esr in enumerate(ones)],
        "C15": [part(f"B{i}", esr) for i, esr in enumerate(twos)],
    }
    found = cure(FED, FIVE, OLD, {}, options)
    ways = [of(a, b) for a, b in product(*options.values())]
    assert bool(found.takes) == (min(ways) <= 0.05)
    assert found.ripple <= 0.05 if found.takes else found.ripple == pytest.approx(min(ways))


def test_the_figure_of_the_supply_says_the_same():
    """The ripple a cure tells is the one that the whole supply is reckoned with."""
    refs = (*BRANCH.stores, *(ref for rail in FED.rails for ref in rail.stores))
    parts = {
        ref: replace(next(iter(OLD.values())), ref=ref, volts=400.0 if ref in BRANCH.stores else 35.0) for ref in refs
    }
    found = cure(FED, FIVE, parts, {}, {"C14": [GOOD], "C15": [GOOD]})
    state = reckon(BRANCH, parts, chosen=dict(found.takes))
    figure = next(f for f in state.figures if f.name == "Ripple on +5 V")
    assert figure.after == pytest.approx(found.ripple) and not figure.bad


@pytest.mark.parametrize(
    ("before", "after", "limit", "at_least"),
    [
        (0.171, 0.043, 0.05, False),
        (0.04, 0.3, 0.05, False),
        (1.14, 1.23, 22.3, False),
        (-0.4, 0.7, 0.0, True),
        (0.7, -0.4, 0.0, True),
    ],
)
def test_a_needle_stands_in_the_band_only_where_the_limit_is_met(before, after, limit, at_least):
    g = of_figure(before, after, limit, at_least, "V")
    inside = g.band_from <= g.needle <= g.band_from + g.band_width
    assert inside == (after >= limit if at_least else after <= limit)
    was = g.band_from <= g.before <= g.band_from + g.band_width
    assert was == (before >= limit if at_least else before <= limit)


def test_a_rail_of_many_stores_is_told_at_once():
    """Eight stores with forty parts each are more ways than could ever be tried; few are, and the same part in all before them."""
    refs = tuple(f"C{n}" for n in range(31, 39))
    rail = replace(FIVE, stores=refs)
    old = {ref: replace(OLD["C14"], ref=ref) for ref in refs}
    parts = [part(f"P{i}", 0.09 - 0.0005 * i) for i in range(40)]
    found = cure(FED, rail, old, {}, dict.fromkeys(refs, parts))
    assert found is not None and len({p.part for p in found.nearest.values()}) == 1
