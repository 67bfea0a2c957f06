"""Choosing: every rule by table, and what must hold over any catalogue."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.catalogue import house_columns
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.roles import ROLES
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.plan import make_plan
from idlebench.core.choose.rank import FAILS, judge_parts, rank
from idlebench.core.choose.rules import Columns
from idlebench.core.judge.policy import POLICIES
from idlebench.core.refusal import BadInput
from tools.ordinary_places import WANTED, ordinary_places, unserved

OLD = Fitted(ref="C1", value=100e-6, volts=16, diameter=8, height=11.5, pitch=3.5, temperature=85, role="decoupling")
NEW = Capacitor(
    part="N",
    series="GP",
    kind="wet",
    value=100e-6,
    volts=25,
    mounting="radial",
    diameter=8,
    height=11.5,
    pitch=3.5,
    temperature=105,
    life=5000,
    ripple=0.3,
    esr=0.5,
)
X_OLD = Fitted(
    ref="C3", value=470e-9, volts=None, kind="film", safety="X2", role="mains_x", diameter=26.5, height=19, pitch=22.5
)
X_NEW = Capacitor(
    part="X",
    series="XL",
    kind="film",
    value=470e-9,
    volts=630,
    mounting="radial",
    diameter=26.5,
    height=19,
    pitch=22.5,
    ac_volts=275,
    safety="X2",
    temperature=105,
)
Y_OLD = replace(X_OLD, role="mains_y", value=4.7e-9, safety="Y2", diameter=13.0, height=11.0, pitch=10.0)
Y_NEW = replace(X_NEW, value=4.7e-9, safety="Y2", ac_volts=300.0, diameter=13.0, height=11.0, pitch=10.0)
OUT = replace(OLD, value=2200e-6, volts=10, role="converter_output", diameter=12.5, height=20.0, pitch=5.0, temperature=105,
              ripple=1.46, frequency=42e3, ambient=60.0, room_diameter=13.0, room_height=26.0)  # fmt: skip
LZ = Capacitor(part="L", series="LZ", kind="wet", value=2200e-6, volts=16, mounting="radial", diameter=12.5, height=20, pitch=5, temperature=105, life=5000, ripple=2.36, ripple_frequency=100e3,
               esr=0.023, esr_frequency=100e3, low_impedance=True)  # fmt: skip


def verdict(old: Fitted, new: Capacitor, **mains):
    """The candidate's verdict, and the rules that spoke against it."""
    got = judge_parts(need_of(old, Mains(**mains)), [new])[0]
    return got.verdict, {r.rule for r in got.reasons if r.status > 0}


RULES = [
    (OLD, NEW, "fits", set()),
    (OLD, replace(NEW, value=220e-6), "fits", set()),
    (OLD, replace(NEW, value=80e-6), "fits", set()),
    (OLD, replace(NEW, value=221e-6), "fails", {"value"}),
    (OLD, replace(NEW, value=79e-6), "fails", {"value"}),
    (OLD, replace(NEW, value=1000e-6), "fails", {"value", "tenfold"}),
    (OLD, replace(NEW, value=10e-6), "fails", {"value", "tenfold"}),
    (OLD, replace(NEW, volts=16), "fits", set()),
    (OLD, replace(NEW, volts=10), "fails", {"volts"}),
    (OLD, replace(NEW, volts=63), "fits", set()),
    (OLD, replace(NEW, volts=100), "look twice", {"volts"}),
    (replace(OLD, rail_volts=-20.0), replace(NEW, volts=16), "fails", {"volts"}),
    (replace(OLD, volts=None), NEW, "look twice", {"volts"}),
    (OLD, replace(NEW, kind="polymer", volts=16), "look twice", {"kind"}),
    (replace(OLD, rail_volts=15.0), replace(NEW, kind="polymer", volts=16), "fails", {"kind", "volts"}),
    (replace(OLD, rail_volts=12.0), replace(NEW, kind="tantalum", volts=16), "fails", {"kind", "volts"}),
    (replace(OLD, role="timing"), replace(NEW, kind="polymer"), "fails", {"kind", "tolerance"}),
    (replace(OLD, role="bulk"), replace(NEW, kind="tantalum"), "fails", {"kind", "volts"}),
    (OLD, replace(NEW, kind="film", pitch=3.5), "fits", set()),
    (OLD, replace(NEW, temperature=85), "fits", set()),
    (replace(OLD, ambient=60.0), replace(NEW, temperature=85), "fails", {"temperature"}),
    (replace(OLD, temperature=105), replace(NEW, temperature=85), "fails", {"temperature"}),
    (OLD, replace(NEW, diameter=9.0), "fits", set()),
    (OLD, replace(NEW, diameter=9.2), "fails", {"diameter"}),
    (OLD, replace(NEW, height=13.8), "fits", set()),
    (OLD, replace(NEW, height=14.0), "fails", {"height"}),
    (replace(OLD, room_height=12.5), NEW, "fits", set()),
    (replace(OLD, room_height=11.0), NEW, "fails", {"height"}),
    (replace(OLD, diameter=None, height=None), NEW, "look twice", {"diameter"}),
    (OLD, replace(NEW, pitch=8.5), "fits", set()),
    (OLD, replace(NEW, pitch=8.6), "fails", {"pitch"}),
    (X_OLD, replace(X_NEW, pitch=25.0), "fails", {"pitch"}),
    (OLD, replace(NEW, mounting="axial"), "fails", {"height", "mounting"}),
    (replace(OLD, room_height=20.0), replace(NEW, mounting="axial"), "look twice", {"mounting"}),
    (replace(OLD, mounting="chip", pitch=None), NEW, "look twice", {"mounting"}),
    (replace(OLD, mounting="axial", height=20.0, pitch=None), NEW, "look twice", {"mounting"}),
    (replace(OLD, bipolar=True), NEW, "fails", {"bipolar"}),
    (OLD, replace(NEW, bipolar=True), "fits", set()),
    (replace(OLD, role="unknown"), NEW, "look twice", {"role"}),
    (replace(OLD, role="filter"), replace(NEW, value=105e-6), "look twice", {"tolerance"}),
    (replace(OLD, role="filter"), replace(NEW, value=105e-6, tolerance=0.05), "fits", set()),
    (replace(OLD, role="filter"), replace(NEW, value=106e-6), "fails", {"tolerance", "value"}),
    (replace(OLD, role="filter", kind="film"), replace(NEW, kind="film", tolerance=0.1), "fails", {"tolerance"}),
    (replace(OLD, role="filter", kind="film"), replace(NEW, kind="film", tolerance=0.05), "fits", set()),
    (replace(OLD, role="timing"), replace(NEW, tolerance=0.1), "fits", set()),
    (replace(OLD, role="deflection_coupling"), replace(NEW, ripple=1.0), "look twice", {"ripple"}),
    (replace(OLD, role="startup"), replace(NEW, life=2000), "look twice", {"series"}),
    (replace(OLD, role="startup"), replace(NEW, temperature=85), "fails", {"temperature"}),
    (OUT, LZ, "fits", set()),
    (OUT, replace(LZ, low_impedance=False, ripple=3.0, esr_frequency=120.0, ripple_frequency=120.0, esr=0.05), "fails", {"series"}),
    (OUT, replace(LZ, ripple=1.4), "fails", {"ripple"}),
    (OUT, replace(LZ, esr=0.08), "fails", {"esr"}),
    (OUT, replace(LZ, esr=0.015), "look twice", {"esr"}),
    (OUT, replace(LZ, height=25.0), "look twice", {"height"}),
    (OUT, replace(LZ, life=300), "look twice", {"life"}),
    (X_OLD, X_NEW, "fits", set()),
    (X_OLD, replace(X_NEW, safety="", ac_volts=275.0), "fails", {"safety"}),
    (X_OLD, replace(X_NEW, ac_volts=250.0), "look twice", {"safety"}),
    (X_OLD, replace(X_NEW, ac_volts=220.0), "fails", {"safety"}),
    (X_OLD, replace(X_NEW, safety="X3"), "fails", {"safety"}),
    (replace(X_OLD, safety="X1"), X_NEW, "fails", {"safety"}),
    (X_OLD, replace(X_NEW, safety="Y2"), "fits", set()),
    (X_OLD, replace(X_NEW, value=560e-9), "fits", set()),
    (Y_OLD, Y_NEW, "fits", set()),
    (Y_OLD, replace(Y_NEW, safety="X1"), "fails", {"safety"}),
    (Y_OLD, replace(Y_NEW, value=2.35e-9), "fits", set()),
    (Y_OLD, replace(Y_NEW, value=5.6e-9), "fails", {"value"}),
    (replace(Y_OLD, value=68e-9), replace(Y_NEW, value=68e-9), "fails", {"touch_current"}),
]  # fmt: skip


@pytest.mark.parametrize(("old", "new", "expected", "against"), RULES)
def test_rules(old, new, expected, against):
    assert verdict(old, new) == (expected, against)


def test_retrace_tuning_is_never_relaxed():
    old = Fitted(
        ref="C5", value=10e-9, volts=1000, kind="film", role="retrace_tuning", diameter=18, height=13.5, pitch=15
    )
    new = Capacitor(
        part="P",
        series="PF",
        kind="film",
        value=10e-9,
        volts=1000,
        mounting="radial",
        diameter=18,
        height=13.5,
        pitch=15,
        temperature=105,
        pulse=True,
    )
    assert verdict(old, new)[0] == "fits"
    for other in (
        replace(new, value=10.3e-9),
        replace(new, value=9.7e-9),
        replace(new, pulse=False),
        replace(new, volts=630),
        replace(new, kind="ceramic"),
    ):
        assert verdict(old, other)[0] == "fails"


def test_each_refusal_says_its_number():
    got = judge_parts(need_of(OUT), [replace(LZ, ripple=1.0, volts=6.3, diameter=16.0)])[0]
    texts = {r.rule: r for r in got.reasons if r.status == FAILS}
    assert texts["ripple"].limit == 1.46 and "needs 1.46 A" in texts["ripple"].text
    assert "6.3 V" in texts["volts"].text and "room for 13 mm" in texts["diameter"].text


def test_tenfold_is_called_by_name():
    got = judge_parts(need_of(OLD), [replace(NEW, value=1000e-6)])[0]
    assert any("tenfold slip" in r.text for r in got.reasons)


def test_nearest_value_and_one_step_up_come_first():
    parts = [
        replace(NEW, part=f"{value}-{volts}", value=value, volts=volts)
        for value in (100e-6, 150e-6, 220e-6)
        for volts in (16.0, 25.0, 50.0)
    ]
    best = rank(need_of(OLD), Columns.of(parts)).best.part
    assert (best.value, best.volts) == (100e-6, 25)


@pytest.mark.parametrize(
    ("role", "series"),
    [("timing", "LK 105"), ("reset", "LK 105"), ("coupling", "LK 105"), ("memory_backup", "LK 105"), ("decoupling", "GP 105")],
)  # fmt: skip
def test_where_leakage_counts_the_one_that_leaks_less_comes_first(role, series):
    """Both are of the same size, and the ordinary one is not refused for it."""
    old = replace(OLD, role=role, value=10e-6, diameter=5.0, height=11.0, pitch=2.0)
    ranking = rank(need_of(old), house_columns(), fits=50)
    assert ranking.best.part.series == series
    ordinary = next(c for c in ranking.candidates if c.part.part == "GP105-10u-25")
    assert ordinary.verdict == ranking.best.verdict
    assert ("leakage" in {r.rule for r in ordinary.reasons}) == (role != "decoupling")


def test_an_ordinary_place_finds_an_ordinary_part_first():
    places, missed = ordinary_places(), unserved()
    assert len(set(places)) == 120
    assert len(missed) <= (1 - WANTED) * len(places), [(p.value, p.volts, p.diameter, p.height) for p in missed]


@pytest.mark.parametrize(
    ("value", "volts", "sizes"),
    [(220e-6, 400, {(22, 30), (25, 30)}), (220e-6, 25, {(8, 11.5)}), (47e-6, 50, {(6.3, 11)})],
)
def test_sizes_that_can_be_bought_are_there(value, volts, sizes):
    columns = house_columns()
    made = {(p.diameter, p.height) for p in columns.parts if p.kind == "wet" and p.value == value and p.volts == volts}
    assert sizes <= made


def test_margin_counts_less_and_less():
    """Doubling a short life moves a part up more than doubling a long one."""
    need = need_of(replace(OLD, ambient=70.0))
    scores = [judge_parts(need, [replace(NEW, life=h)])[0].score for h in (1000, 2000, 4000, 8000)]
    steps = [a - b for a, b in itertools.pairwise(scores)]
    assert all(s >= 0 for s in steps) and steps[0] >= steps[-1]


def test_the_need_has_its_working():
    need = need_of(OUT)
    assert (need.esr_low, need.esr_high) == pytest.approx((0.3 * need.esr_high, need.esr_high))
    labels = [line.label for line in need.working().lines]
    assert labels == ["Value", "Volts", "Temperature", "Ripple", "ESR", "Room"]
    assert need_of(X_OLD, Mains(120)).ac_volts == pytest.approx(132)


@pytest.mark.parametrize("name", ROLES)
def test_every_role_finds_something_in_the_house_catalogue(name):
    old = {
        "mains_x": X_OLD, "mains_y": Y_OLD, "converter_output": OUT,
        "retrace_tuning": Fitted(ref="C5", value=10e-9, volts=1000, kind="film", diameter=18, height=13.5, pitch=15),
    }.get(name, replace(OLD, diameter=10.0, height=16.0, pitch=5.0))  # fmt: skip
    ranking = rank(need_of(replace(old, role=name)), house_columns())
    assert ranking.best is not None, [r.text for r in ranking.candidates[0].reasons]


PLACES = st.builds(
    Fitted,
    ref=st.just("C1"),
    value=st.sampled_from([1e-6, 4.7e-6, 22e-6, 100e-6, 470e-6, 2200e-6]),
    volts=st.sampled_from([6.3, 10, 16, 25, 50]),
    role=st.sampled_from([name for name, role in ROLES.items() if role.relaxable]),
    mounting=st.sampled_from(["radial", "radial", "axial", "chip"]),
    diameter=st.sampled_from([5.0, 8.0, 12.5]),
    height=st.sampled_from([11.0, 20.0]),
    room_height=st.sampled_from([None, 12.0, 30.0]),
    ripple=st.sampled_from([None, 0.05, 1.0]),
    ambient=st.sampled_from([None, 45.0, 65.0]),
    bipolar=st.booleans(),
)


@settings(max_examples=40, deadline=None)
@given(PLACES)
def test_ranking_and_single_judging_agree(old):
    need = need_of(old)
    ranking = rank(need, house_columns(), fits=5, refused=5)
    for candidate in ranking.candidates:
        assert judge_parts(need, [candidate.part])[0] == candidate
        assert candidate.status != FAILS or any(r.status == FAILS for r in candidate.reasons)


@settings(max_examples=40, deadline=None)
@given(PLACES, st.floats(1.0, 40.0))
def test_raising_volts_never_refuses_for_volts(old, factor):
    need = need_of(old)
    some = list(house_columns().parts[::97])
    before = judge_parts(need, some)
    after = judge_parts(need, [replace(p, volts=p.volts * factor) for p in some])
    for a, b in zip(before, after, strict=True):
        if not any(r.rule == "volts" and r.status == FAILS for r in a.reasons):
            assert not any(r.rule == "volts" and r.status == FAILS for r in b.reasons)


@settings(max_examples=30, deadline=None)
@given(PLACES, st.floats(0.3, 1.0))
def test_a_smaller_room_never_adds_candidates(old, share):
    roomy = replace(old, room_diameter=old.diameter + 2, room_height=25.0)
    tight = replace(roomy, room_diameter=roomy.room_diameter * share, room_height=25.0 * share)
    assert rank(need_of(tight), house_columns()).fitting <= rank(need_of(roomy), house_columns()).fitting


@settings(max_examples=30, deadline=None)
@given(PLACES, st.integers(0, 1000))
def test_adding_a_part_never_removes_another(old, drop):
    need = need_of(old)
    parts = list(house_columns().parts[::5])
    fewer = parts[:drop] + parts[drop + 1 :]
    accepted = [
        {c.part.part for c in rank(need, Columns.of(p), fits=9999, refused=0).candidates} for p in (fewer, parts)
    ]
    assert accepted[0] <= accepted[1]


@pytest.mark.parametrize("policy", POLICIES)
@pytest.mark.parametrize("esr_criterion", ["strict", "lenient"])
def test_no_policy_relaxes_a_mains_part(policy, esr_criterion):
    bad = replace(X_OLD, looks="burst")
    plain = Columns.of([replace(X_NEW, part="plain", safety="", ac_volts=0.0, volts=1000.0)])
    plan = make_plan([bad], plain, policy=policy, esr_criterion=esr_criterion, year=2026)
    assert plan.places[0].chosen is None and plan.places[0].outcome == "fails"


def test_plan_json_has_the_promised_shape():
    parts = [replace(OLD, looks="leaking"), replace(X_OLD, ref="C2", looks="sound")]
    data = make_plan(parts, house_columns(), policy="renew", year=2026).as_json()
    first, second = data["places"]
    assert first["ref"] == "C1" and first["verdict"] == "fits" and first["chosen"]
    assert second["verdict"] == "keep" and second["chosen"] is None and second["candidates"] == []
    verdicts = [c["verdict"] for c in first["candidates"]]
    assert verdicts == sorted(verdicts, key=["fits", "look twice", "fails"].index)
    assert all({"rule", "text", "value", "limit"} == set(r) for c in first["candidates"] for r in c["reasons"])
    assert data["summary"]["places"] == 2 and data["policy"] == "renew"
    with pytest.raises(BadInput, match="renew, mend, staged, cohort"):
        make_plan(parts, house_columns(), policy="none", year=2026)


def test_an_empty_catalogue_is_no_crash():
    ranking = rank(need_of(OLD), Columns.of([]))
    assert ranking.best is None and ranking.candidates == ()


def test_a_large_catalogue_is_searched_near_the_value():
    """Beyond the size that is searched whole, what fits is the same."""
    some = [replace(p, part=f"{p.part}/{i}") for i in range(3) for p in house_columns().parts]
    many = Columns.of(some)
    assert len(many) > 4000
    need = need_of(OLD)
    assert rank(need, many).fitting == 3 * rank(need, house_columns()).fitting
    assert np.all(np.diff(many["value"]) >= 0)
