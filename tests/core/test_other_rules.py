"""Regulators, fuses, policies, pairs, kinds, foreign tables: every rule by table, and what no policy can change."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.catalogue import house_columns, house_devices
from idlebench.core.board.column_map import check_map, guess, read_foreign, translated
from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.tables import read_catalogue
from idlebench.core.choose.combine import pairs
from idlebench.core.choose.device_tables import read_devices, write_devices
from idlebench.core.choose.fuses import fuse_need, judge_fuse, rank_fuses
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import judge_parts, rank, rank_many
from idlebench.core.choose.regulators_and_fuses import FAILS, Regulator, RegulatorNeed, judge_regulator, rank_regulators
from idlebench.core.choose.rules import Columns
from idlebench.core.judge.policy import POLICIES, QUESTIONS, policy_of, read_policy
from idlebench.core.judge.verdict import decide, judge
from idlebench.core.refusal import BadInput

NEED = RegulatorNeed(
    old=read_device("VR1 regulator 7805"), volts=5.0, current=0.7, v_in_low=8.3, v_in_high=11.0, v_in_peak=16.1
)
GOOD = Regulator(
    part="R",
    series="R",
    type="linear",
    volts=5.0,
    current=1.0,
    dropout=2.0,
    v_in_max=35.0,
    pins=("input", "ground", "output"),
    tab="ground",
    theta_jc=4.0,
    height=16.0,
)
MODULE = Regulator(
    part="M",
    series="M",
    type="module",
    volts=5.0,
    current=1.0,
    dropout=1.5,
    v_in_max=32.0,
    pins=("input", "ground", "output"),
    tab="",
    theta_jc=0.0,
    height=9.0,
    min_load=0.01,
    efficiency=0.87,
)
MODULES = replace(POLICIES["renew"], name="own", regulators="module")


# regulators
@pytest.mark.parametrize(
    ("need", "part", "verdict", "rules"),
    [(NEED, GOOD, "fits", set()), (NEED, replace(GOOD, volts=6.0), "fails", {"volts"}), (NEED, replace(GOOD, volts=-5.0), "fails", {"volts"}),
     (NEED, replace(GOOD, current=0.5), "fails", {"current"}), (NEED, replace(GOOD, v_in_max=15.0), "fails", {"input"}), (NEED, replace(GOOD, dropout=3.5), "fails", {"headroom"}),
     (replace(NEED, theta_sa=30.0), GOOD, "fails", {"junction"}), (replace(NEED, height=12.0), GOOD, "fails", {"height"}),
     (NEED, replace(GOOD, pins=("ground", "input", "output")), "look twice", {"pins"}), (NEED, replace(GOOD, tab="input"), "look twice", {"tab"}),
     (NEED, MODULE, "fails", {"policy", "noise"}), (replace(NEED, policy=MODULES), MODULE, "look twice", {"noise"}),
     (replace(NEED, policy=MODULES, current=0.005), MODULE, "fails", {"min_load", "noise"})],
)  # fmt: skip
def test_a_regulator_against_its_place(need, part, verdict, rules):
    got = judge_regulator(need, part)
    assert got.verdict == verdict and {r.rule for r in got.reasons if r.status} == rules


def test_a_refused_regulator_says_its_number_and_a_79_tab_is_insulated():
    hot = judge_regulator(replace(NEED, theta_sa=30.0), GOOD)
    assert "the heatsink must be" in hot.reasons[0].text and hot.reasons[0].limit == 125.0
    need = replace(
        NEED,
        old=read_device("VR2 regulator 7912"),
        volts=-12.0,
        current=0.2,
        v_in_low=18.0,
        v_in_high=22.0,
        v_in_peak=28.0,
        theta_sa=20.0,
    )
    best = rank_regulators(need, house_devices("regulator"))[0]
    assert best.part.volts == -12.0 and any("insulate it" in r.text for r in best.reasons)


def test_a_policy_of_modules_puts_one_first_where_it_fits():
    assert rank_regulators(NEED, house_devices("regulator"))[0].part.type == "linear"
    assert (
        rank_regulators(replace(NEED, policy=MODULES, current=0.7), house_devices("regulator"))[0].part.type == "module"
    )


# fuses
F1 = read_device("F1 fuse T 1.6A 250V 5x20")
FUSE = next(
    f
    for f in house_devices("fuse")
    if (f.rating, f.characteristic, f.size) == (1.6, "T", "5x20") and f.breaking >= 1000
)


@pytest.mark.parametrize(
    ("old", "part", "verdict", "rules"),
    [("F1 fuse T 1.6A 250V 5x20", FUSE, "fits", set()), ("F1 fuse T 1.6A 250V 5x20", replace(FUSE, rating=2.0), "fails", {"rating"}),
     ("F1 fuse T 1.6A 250V 5x20", replace(FUSE, rating=1.25), "fails", {"rating"}), ("F1 fuse T 1.6A 250V 5x20", replace(FUSE, characteristic="F"), "fails", {"characteristic"}),
     ("F1 fuse T 1.6A 250V 5x20", replace(FUSE, volts_ac=125.0), "fails", {"volts"}), ("F1 fuse T 1.6A 250V 5x20", replace(FUSE, breaking=35.0), "fails", {"breaking"}),
     ("F1 fuse T 1.6A 250V 5x20 note low breaking", replace(FUSE, breaking=35.0), "fits", set()), ("F1 fuse T 1.6A 250V 6.3x32", FUSE, "fails", {"size"}),
     ("F1 fuse 1.6A 250V 5x20", FUSE, "fails", {"characteristic"})],
)  # fmt: skip
def test_a_fuse_against_its_place(old, part, verdict, rules):
    got = judge_fuse(fuse_need(read_device(old), primary=True), part)
    assert got.verdict == verdict and {r.rule for r in got.reasons if r.status} == rules


def test_dc_pulse_and_missing_marks():
    assert judge_fuse(fuse_need(F1, primary=False, dc=250.0), FUSE).status == FAILS, "125 V DC is not 250 V"
    tired = judge_fuse(fuse_need(F1, primary=True, pulse=FUSE.melting), FUSE)
    assert tired.verdict == "look twice" and "tires" in tired.reasons[0].text
    with pytest.raises(BadInput, match="marked rating"):
        fuse_need(read_device("F1 fuse T 250V"), primary=True)
    worked = rank_fuses(fuse_need(read_device("F1 fuse T 250V"), True, worked_out=0.63), house_devices("fuse"))[0]
    assert (
        worked.part.rating == 0.63
        and worked.verdict == "look twice"
        and "stands in for a missing marking" in worked.reasons[0].text
    )


@given(st.sampled_from(house_devices("fuse")), st.floats(0, 20))
def test_nothing_lets_a_larger_fuse_in(part, pulse):
    got = judge_fuse(fuse_need(F1, primary=True, pulse=pulse), part)
    if part.rating > 1.6 * 1.01:
        assert got.status == FAILS and any("never a bigger fuse" in r.text for r in got.reasons)


def test_the_house_has_enough_of_them_and_they_read_back():
    assert len(house_devices("regulator")) >= 120 and len(house_devices("fuse")) >= 150
    assert read_devices("regulator", write_devices("regulator", (house_devices("regulator")))).parts == house_devices(
        "regulator"
    )
    assert read_devices("fuse", write_devices("fuse", (house_devices("fuse")))).parts == house_devices("fuse")
    bad = read_devices("regulator", "part,volts,current,pins\nA,5,1,in out\nB,0,1,\nC,5,1,input ground output\n")
    assert [p.line for p in bad.problems] == [2, 3] and len(bad.parts) == 1
    assert "melting" in str(read_devices("fuse", "part,rating,characteristic,size\nX,1,T,5x20\n").problems[0])


# kinds
OLD = Fitted(
    ref="C1", value=10e-6, volts=16, diameter=5, height=11, pitch=2.0, temperature=85, role="decoupling", rail_volts=5.0
)
CERAMIC = Capacitor(
    part="X",
    series="X",
    kind="ceramic",
    value=10e-6,
    volts=25,
    mounting="radial",
    diameter=5,
    height=5,
    pitch=2.5,
    temperature=125,
    note="class 2",
)


def test_a_ceramic_loses_value_under_volts():
    got = judge_parts(
        need_of(OLD), [CERAMIC, replace(CERAMIC, volts=16.0, part="Y"), replace(CERAMIC, note="class 1", part="Z")]
    )
    assert got[0].verdict == "look twice" and "9 µF of it left" in " ".join(r.text for r in got[0].reasons)
    loses = judge_parts(need_of(replace(OLD, rail_volts=16.0)), [replace(CERAMIC, volts=16.0)])[0]
    assert loses.verdict == "fails" and any("5 µF of it left" in r.text for r in loses.reasons)
    assert "of it left" not in " ".join(r.text for r in got[2].reasons)
    assert judge_parts(need_of(replace(OLD, role="timing")), [CERAMIC])[0].verdict == "fails"


@pytest.mark.parametrize(
    ("old", "new", "verdict"),
    [("wet", "polymer", "look twice"), ("wet", "tantalum", "look twice"), ("wet", "film", "fits"), ("tantalum", "wet", "look twice"), ("tantalum", "polymer", "look twice"),
     ("film", "ceramic", "fails"), ("film", "wet", "fails"), ("paper", "film", "fits"), ("ceramic", "film", "fits")],
)  # fmt: skip
def test_kind_for_kind(old, new, verdict):
    part = replace(CERAMIC, kind=new, volts=50.0, note="", ripple=1.0, life=5000)
    place = replace(OLD, kind=old, role="decoupling", rail_volts=None, pitch=None)
    assert judge_parts(need_of(place), [part])[0].verdict == verdict
    same = need_of(place, policy=replace(POLICIES["renew"], kinds="same"))
    assert judge_parts(same, [part])[0].verdict == "fails", "a policy of kind for kind"


def test_a_regulators_window_of_esr_refuses():
    need = replace(need_of(replace(OLD, role="regulator_output")), stable=(0.02, 2.0))
    part = Capacitor(
        part="P",
        series="P",
        kind="wet",
        value=10e-6,
        volts=25,
        mounting="radial",
        diameter=5,
        height=11,
        pitch=2.0,
        temperature=105,
        life=5000,
        esr=0.01,
        esr_frequency=100e3,
    )
    assert any(
        r.rule == "stability" and "would oscillate" in r.text and r.status == FAILS
        for r in judge_parts(need, [part])[0].reasons
    )
    assert not any(r.rule == "stability" for r in judge_parts(need, [replace(part, esr=0.5)])[0].reasons)


def test_a_bulk_store_that_grows_is_looked_at():
    old = Fitted(ref="C1", value=1000e-6, volts=25, diameter=12.5, height=25, role="bulk")
    part = Capacitor(
        part="P",
        series="P",
        kind="wet",
        value=1400e-6,
        volts=35,
        mounting="radial",
        diameter=12.5,
        height=25,
        pitch=5.0,
        temperature=105,
        life=5000,
        ripple=2.0,
    )
    got = judge_parts(need_of(old), [part])[0]
    assert got.verdict == "look twice" and any("inrush" in r.text for r in got.reasons)


# many at once
@settings(max_examples=15, deadline=None)
@given(st.lists(st.builds(Fitted, ref=st.just("C1"), value=st.sampled_from([1e-6, 22e-6, 100e-6, 1e-3]), volts=st.sampled_from([None, 10.0, 25.0]),
    role=st.sampled_from(["decoupling", "bulk", "timing", "converter_output", "unknown", "mains_x"]), mounting=st.sampled_from(["radial", "axial", "chip"]),
    diameter=st.sampled_from([None, 6.3, 12.5]), height=st.sampled_from([None, 11.0, 25.0]), ripple=st.sampled_from([None, 0.2]), bipolar=st.booleans()), min_size=1, max_size=12))  # fmt: skip
def test_many_places_at_once_rank_as_each_alone(places):
    needs = [need_of(p) for p in places]
    for together, need in zip(rank_many(needs, house_columns()), needs, strict=True):
        alone = rank(need, house_columns())
        assert np.array_equal(together.rows, alone.rows)
        assert [c.part.part for c in together.candidates] == [c.part.part for c in alone.candidates]


def test_every_row_that_goes_in_is_one_that_judging_alone_lets_in():
    need = need_of(replace(OLD, diameter=8.0, height=12.0))
    ranking = rank(need, house_columns(), fits=10_000, refused=0)
    inside = {c.part.part for c in ranking.candidates}
    for candidate in judge_parts(need, house_columns().parts):
        assert (candidate.status != FAILS) == (candidate.part.part in inside)


# pairs
def test_two_in_parallel_where_no_single_one_fits():
    part = Capacitor(part="P", series="P", kind="wet", value=1000e-6, volts=16, mounting="radial", diameter=8, height=20, pitch=3.5, temperature=105, life=5000, ripple=1.5, ripple_frequency=100e3, esr=0.03, esr_frequency=100e3, low_impedance=True)  # fmt: skip
    old = Fitted(
        ref="C1",
        value=2000e-6,
        volts=10,
        role="converter_output",
        room_diameter=17.0,
        room_height=25.0,
        temperature=105,
        ripple=2.0,
        frequency=50e3,
    )
    shelf = Columns.of([part])
    assert rank(need_of(old), shelf).best is None
    (pair,) = pairs(need_of(old), shelf)
    assert pair.how == "parallel" and pair.candidate.part == part and "share the ripple" in pair.reasons[0]
    for other in (replace(old, role="timing"), replace(old, bipolar=True), replace(old, role="mains_x", safety="X2")):
        assert pairs(need_of(other), shelf) == ()


def test_a_series_pair_for_high_volts_has_its_resistors():
    part = Capacitor(
        part="P",
        series="P",
        kind="wet",
        value=470e-6,
        volts=250,
        mounting="snap",
        diameter=22,
        height=30,
        pitch=10,
        temperature=105,
        life=3000,
        ripple=2.0,
    )
    old = Fitted(
        ref="C1",
        value=220e-6,
        volts=450,
        mounting="snap",
        role="bulk",
        room_diameter=50.0,
        room_height=40.0,
        rail_volts=380.0,
    )
    found = {p.how: p for p in pairs(need_of(old), Columns.of([part]))}
    pair = found["series"]
    assert pair.watts == pytest.approx(225.0**2 / pair.resistor) and "it can kill" in pair.reasons[2]


# policies
def test_policies_answer_every_question_and_read_back():
    for policy in POLICIES.values():
        assert len(policy.answers) == len(QUESTIONS) and read_policy(policy.as_json()) == policy
    own = read_policy({"title": "Quiet terminals", "regulators": "module", "weight_price": "2"})
    assert (
        own.name == "quiet-terminals"
        and own.weights.price == 2.0
        and policy_of("quiet-terminals", {own.name: own}) is own
    )


@pytest.mark.parametrize(
    ("typed", "field"),
    [({"title": ""}, "title"), ({"title": "x" * 61}, "title"), ({"title": "mine", "what": "burn"}, "what"), ({"title": "mine", "weight_value": "-1"}, "weight_value"), ({"title": "mine", "reason": "x" * 400}, "reason")],
)  # fmt: skip
def test_a_policy_that_cannot_be_read_names_its_field(typed, field):
    with pytest.raises(BadInput) as told:
        read_policy(typed)
    assert told.value.field == field


def test_big_reservoirs_by_policy():
    store = Fitted(ref="C1", value=4700e-6, volts=25, role="bulk", looks="sound", capacitance=4700e-6, esr=0.03)
    verdict = judge(store, year=2026)
    keep = replace(POLICIES["renew"], stores="measured")
    always = replace(POLICIES["mend"], stores="always")
    assert not decide(store, verdict, keep).replace and decide(store, verdict, always).replace
    assert decide(store, verdict, "renew").replace and not decide(store, verdict, "mend").replace


def test_an_exact_policy_looks_twice_at_anything_else():
    need = need_of(replace(OLD, diameter=8.0), policy=replace(POLICIES["renew"], values="exact"))
    part = Capacitor(
        part="P",
        series="P",
        kind="wet",
        value=10e-6,
        volts=25,
        mounting="radial",
        diameter=5,
        height=11,
        pitch=2.0,
        temperature=105,
        life=5000,
    )
    assert any(r.rule == "policy" for r in judge_parts(need, [part])[0].reasons)
    assert rank(need, house_columns()).best.part.volts == 16


@pytest.mark.parametrize("answers", [{"kinds": k, "values": v, "what": w} for k in ("free", "same") for v in ("step up", "exact") for w in ("renew", "mend", "cohort")])  # fmt: skip
def test_no_policy_touches_safety_or_tube_tuning(answers):
    policy = replace(POLICIES["renew"], **answers)
    mains = need_of(
        Fitted(ref="C1", value=470e-9, kind="film", safety="X2", role="mains_x", diameter=26.5, height=19, pitch=22.5),
        policy=policy,
    )
    plain = Capacitor(
        part="N",
        series="N",
        kind="film",
        value=470e-9,
        volts=1000,
        mounting="radial",
        diameter=26.5,
        height=19,
        pitch=22.5,
        temperature=105,
    )
    assert judge_parts(mains, [plain])[0].status == FAILS
    tube = need_of(
        Fitted(
            ref="C5", value=10e-9, volts=1000, kind="film", role="retrace_tuning", diameter=18, height=13.5, pitch=15
        ),
        policy=policy,
    )
    other = Capacitor(
        part="P",
        series="P",
        kind="film",
        value=10.4e-9,
        volts=1600,
        mounting="radial",
        diameter=18,
        height=13.5,
        pitch=15,
        temperature=105,
        pulse=True,
    )
    assert judge_parts(tube, [other])[0].status == FAILS


# foreign tables
EXPORT = "Order code;Family;Cap (uF);Rated voltage V;Dia mm;Length mm;Ripple mA;Price\nA-1;GZ;100;16;6,3;11;250;0,12\nA-2;GZ;lots;16;6.3;11;250;0.1\n"


def test_a_foreign_export_is_guessed_and_read():
    foreign = read_foreign(EXPORT)
    chosen = check_map(foreign.guess, foreign.header)
    assert chosen["value"] == "Cap (uF)" and chosen["ripple"] == "Ripple mA" and chosen["height"] == "Length mm"
    found = read_catalogue(translated(foreign, chosen))
    part = found.parts[0]
    assert (part.value, part.volts, part.ripple, part.diameter, part.price) == (
        pytest.approx(100e-6),
        16,
        pytest.approx(0.25),
        6.3,
        0.12,
    )
    assert [p.line for p in found.problems] == [3]


@pytest.mark.parametrize(
    ("columns", "said"),
    [({"part": "Order code", "value": "Cap (uF)"}, "holds the volts"), ({"part": "Nothing"}, "one of the columns"), ({"part": "Family", "series": "Family"}, "each column once")],
)  # fmt: skip
def test_a_map_that_does_not_go_says_why(columns, said):
    with pytest.raises(BadInput, match=said):
        check_map(columns, read_foreign(EXPORT).header)


def test_what_is_no_table_is_refused():
    for data in ("", "only a header\n", "one column\n1\n", b"\xff\xfe\x00"):
        with pytest.raises(BadInput):
            read_foreign(data)
    assert guess(["foo", "bar"]) == {}


@pytest.mark.parametrize(
    ("row", "said"),
    [("A,GP,wet,10u,16,0,,0.5,,5,11", "rated ripple"), ("B,GP,wet,10u,16,0,,,,5,0.5", "height"), ("C,XL,film,100n,630,,X2,,,18,13", "AC volts")],
)  # fmt: skip
def test_contradictory_rows_are_listed_and_the_rest_can_go_on(row, said):
    head = "part,series,kind,value,volts,ripple,safety,esr,life,diameter,height\n"
    found = read_catalogue(f"{head}{row}\nD,GP,wet,10u,16,0.1,,,,5,11\n")
    assert len(found.parts) == 1 and len(found.problems) == 1 and said in str(found.problems[0])
