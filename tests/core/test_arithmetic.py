"""Figures that were wrong once, worked by hand from rules.md; the section is named beside each."""

import math

import pytest

from idlebench.core.board.devices import Device, read_device
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.calculators import REGISTRY
from idlebench.core.choose.branch_circuit import new_store, old_store
from idlebench.core.choose.columns import Columns
from idlebench.core.choose.fuses import Fuse, fuse_need, judge_fuse
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.rank import judge_parts, rank
from idlebench.core.choose.regulators_and_fuses import RegulatorNeed, judge_regulator
from idlebench.core.choose.supply_model import places_of, read_model, reckon
from idlebench.core.judge import reform
from idlebench.core.judge.measure import read_with, stored
from idlebench.core.judge.verdict import judge
from idlebench.core.refusal import BadInput

WET = Capacitor(part="W", series="LZ", kind="wet", value=1000e-6, volts=25, mounting="radial", diameter=10, height=20, pitch=5, temperature=105, life=5000, ripple=1.0, ripple_frequency=100e3,
                esr=0.04, esr_frequency=100e3, low_impedance=True)  # fmt: skip


# rules §3: a general part reads half of its 120 Hz ESR at 100 kHz, a low-impedance one a fifth


def test_an_old_part_is_taken_at_the_frequency_it_was_read_at():
    read_high = old_store(Fitted(ref="C1", value=1e-3, volts=25, esr=0.2, esr_frequency=100e3))
    assert (read_high.esr, read_high.esr_high) == (pytest.approx(0.4), pytest.approx(0.2))
    read_low = old_store(Fitted(ref="C1", value=1e-3, volts=25, esr=0.2, esr_frequency=120))
    assert (read_low.esr, read_low.esr_high) == (pytest.approx(0.2), pytest.approx(0.1))
    # 1 kHz lies 0.315 of the way from 120 Hz to 100 kHz in log f: share 1 − 0.5 · 0.315 = 0.842
    assert old_store(Fitted(ref="C1", value=1e-3, volts=25, esr=0.2, esr_frequency=1e3)).esr == pytest.approx(
        0.2 / 0.842, rel=2e-3
    )


def test_a_part_without_a_frequency_was_read_at_the_meters():
    assert read_with(Fitted(ref="C1", value=1e-3, esr=0.2), 100e3).esr_frequency == 100e3
    assert read_with(Fitted(ref="C1", value=1e-3, esr=0.2, esr_frequency=120), 100e3).esr_frequency == 120


@pytest.mark.parametrize(
    ("low_impedance", "given", "low", "high"),
    [(True, 100e3, 0.2, 0.04), (False, 100e3, 0.08, 0.04), (True, 120, 0.04, 0.008), (False, 120, 0.04, 0.02)],
)
def test_a_new_part_has_the_esr_of_its_own_series_kind(low_impedance, given, low, high):
    from dataclasses import replace

    part = replace(WET, low_impedance=low_impedance, esr_frequency=given)
    store = new_store(part)
    assert (store.esr, store.esr_high) == (pytest.approx(low), pytest.approx(high))
    assert Columns.of([part])["esr_high"][0] == pytest.approx(high)


# rules §3, ripple multipliers: general 1.5 from 10 kHz, 1.3 at 1 kHz; low-impedance of 680 µF 0.60 at 120 Hz, 0.87 at 1 kHz


@pytest.mark.parametrize(
    ("low_impedance", "rated_at", "place", "carries"),
    [(False, 120, 120, 1.0), (False, 100e3, 120, 1 / 1.5), (False, 1e3, 120, 1 / 1.3), (False, 100e3, 1e3, 1.3 / 1.5),
     (True, 100e3, 120, 0.60), (True, 120, 120, 1.0), (True, 120, 100e3, 1 / 0.60), (True, 1e3, 120, 0.60 / 0.87)],
)  # fmt: skip
def test_a_ripple_rating_is_converted_from_its_own_frequency(low_impedance, rated_at, place, carries):
    part = Capacitor(part="R", series="S", kind="wet", value=680e-6, volts=25, mounting="radial", diameter=10, height=20, pitch=5, temperature=105, life=5000, ripple=1.0,
                     ripple_frequency=rated_at, low_impedance=low_impedance)  # fmt: skip
    old = Fitted(
        ref="C1",
        value=680e-6,
        volts=25,
        role="decoupling",
        diameter=10,
        height=20,
        ripple=carries * 1.001,
        frequency=place,
    )
    reasons = {r.rule: r for c in judge_parts(need_of(old), [part]) for r in (*c.reasons, *c.margins)}
    assert reasons["ripple"].value == pytest.approx(carries, rel=1e-6)
    assert judge_parts(need_of(old), [part])[0].verdict == "fails"
    assert judge_parts(need_of(old.with_(ripple=carries * 0.999)), [part])[0].verdict != "fails"


# rules §4, discharge: ½CV² from the peak, √2 · 230 V · 1.1 = 358 V, of 240 V 373 V


def test_an_x_part_holds_the_mains_peak_whatever_ac_volts_are_marked():
    x = Fitted(ref="C3", value=1e-6, volts=275, kind="film", safety="X2", role="mains_x")
    assert stored(x) >= 0.5 * 1e-6 * (240 * 1.1 * math.sqrt(2)) ** 2 == pytest.approx(0.0697, rel=1e-2)
    assert stored(x.with_(volts=None)) == stored(x) == stored(x.with_(role="unknown"))


# the peak of a store less the diodes' drop


def test_a_16_volt_store_stays_16_where_the_real_peak_is_under_it():
    """10.5 V open circuit on +10 %: √2 · 11.55 = 16.33 V at the winding; two diodes at 1 mA take 1.1 V: 15.2 V on the reservoir."""
    model = read_model("bridge 10.5V 0.5ohm store C1 current 1A")
    told, _ = places_of(model, {"C1": Fitted(ref="C1", value=4700e-6, volts=16, role="bulk")}, Mains())
    diode = 1.75 * 0.02585 * math.log(1e-3 / 5e-9)
    assert told["C1"].volts == pytest.approx(10.5 * 1.1 * math.sqrt(2) - 2 * diode, abs=0.02)
    assert told["C1"].volts < 16
    part = Capacitor(
        part="B",
        series="S",
        kind="wet",
        value=4700e-6,
        volts=16,
        mounting="radial",
        diameter=16,
        height=25,
        pitch=7.5,
        temperature=105,
        life=5000,
        ripple=3.0,
    )
    old = Fitted(
        ref="C1", value=4700e-6, volts=16, role="bulk", diameter=16, height=25, pitch=7.5, rail_volts=told["C1"].volts
    )
    assert judge_parts(need_of(old), [part])[0].verdict == "fits"
    half = places_of(
        read_model("half 10.5V 0.5ohm store C1 current 1A"), {"C1": Fitted(ref="C1", value=4700e-6, volts=16)}, Mains()
    )[0]
    assert half["C1"].volts - told["C1"].volts == pytest.approx(diode, abs=0.02), "one diode, not two"


# rules §2: one step up in volts comes first, also from a rating that is not made any more


@pytest.mark.parametrize(("marked", "up", "more"), [(20, 25, 35), (40, 50, 63), (500, 630, 1000), (16, 25, 35)])
def test_one_step_up_is_said_and_comes_first(marked, up, more):
    old = Fitted(ref="C1", value=10e-6, volts=marked, role="decoupling", diameter=8, height=12)
    parts = [
        Capacitor(
            part=f"P{v}",
            series="S",
            kind="wet",
            value=10e-6,
            volts=v,
            mounting="radial",
            diameter=6.3,
            height=11,
            pitch=2.5,
            temperature=105,
            life=9e4,
        )
        for v in (up, more)
    ]
    ranking = rank(need_of(old), Columns.of(parts))
    assert [c.part.volts for c in ranking.candidates] == [up, more]
    said = [next(r.text for r in c.reasons if r.rule == "volts") for c in ranking.candidates]
    assert "one step up" in said[0] and "one step up" not in said[1] and f"{marked} V" in said[0]


def test_the_same_odd_rating_is_the_same():
    old = Fitted(ref="C1", value=10e-6, volts=20, kind="tantalum", role="coupling", diameter=8, height=12, rail_volts=5)
    part = Capacitor(
        part="T",
        series="S",
        kind="tantalum",
        value=10e-6,
        volts=20,
        mounting="radial",
        diameter=6.3,
        height=11,
        pitch=2.5,
        temperature=125,
    )
    wet = Capacitor(
        part="W",
        series="S",
        kind="wet",
        value=10e-6,
        volts=20,
        mounting="radial",
        diameter=6.3,
        height=11,
        pitch=2.5,
        temperature=105,
        life=9e4,
    )
    same = judge_parts(need_of(old.with_(kind="wet", rail_volts=None)), [wet])[0]
    assert "Same volts" in [r.text for r in same.reasons]
    assert "4 times the 5 V here" in " ".join(r.text for r in judge_parts(need_of(old), [part])[0].reasons)


# rules §2: × 2 for tantalum on a low-impedance supply


def test_a_tantalum_says_its_factor_and_never_ranks_first_under_twice():
    wet = Capacitor(
        part="W",
        series="S",
        kind="wet",
        value=10e-6,
        volts=63,
        mounting="radial",
        diameter=6.3,
        height=11,
        pitch=2.5,
        temperature=85,
        life=2000,
    )
    tantalum = Capacitor(
        part="T",
        series="S",
        kind="tantalum",
        value=10e-6,
        volts=16,
        mounting="radial",
        diameter=6.3,
        height=9,
        pitch=2.5,
        temperature=125,
        stock=50,
    )
    old = Fitted(
        ref="C1", value=10e-6, volts=16, kind="tantalum", role="decoupling", diameter=6.3, height=11, pitch=2.5
    )
    first = rank(need_of(old.with_(rail_volts=12)), Columns.of([wet, tantalum])).candidates
    refused = next(c for c in first if c.part is tantalum or c.part.part == "T")
    assert refused.verdict == "fails" and "1.3 times the 12 V here" in " ".join(r.text for r in refused.reasons)
    unknown = next(c for c in rank(need_of(old), Columns.of([wet, tantalum])).candidates if c.part.part == "T")
    assert unknown.verdict == "look twice" and "1 times the marked 16 V" in " ".join(r.text for r in unknown.reasons)
    enough = judge_parts(need_of(old.with_(rail_volts=7.9)), [tantalum])[0]
    assert enough.verdict == "fits" and "2 times the 7.9 V here" in " ".join(r.text for r in enough.reasons)


# rules §3, an old part's condition


def test_36_per_cent_more_is_no_reading_inside_its_tolerance():
    part = Fitted(ref="C1", value=100e-6, volts=16, capacitance=136e-6)
    verdict = judge(part, year=2026)
    said = next(e for e in verdict.evidence if e.rule == "capacitance")
    assert said.points > 0 and "36 % above" in said.text and "leakage" in said.text
    assert (
        next(e for e in judge(part.with_(capacitance=118e-6), year=2026).evidence if e.rule == "capacitance").points < 0
    )


def test_the_more_is_gone_the_worse():
    def points(left):
        return judge(Fitted(ref="C1", value=100e-6, volts=16, capacitance=left * 100e-6), year=2026).points

    lost = [points(left) for left in (0.79, 0.5, 0.3, 0.1, 0.05, 0.01)]
    assert lost == sorted(lost) and lost[0] >= 8 and len(set(lost)) == 6
    nine_tenths = judge(Fitted(ref="C1", value=100e-6, volts=16, capacitance=10e-6), year=2026)
    assert nine_tenths.name == "replace" and "tenfold" in nine_tenths.leading


# rules §4, linear regulator: θ of a 79xx with its washer


def test_the_junction_of_a_79xx_is_the_same_on_every_page():
    model = read_model("bridge 14V 20VA store C1 regulator VR1 -12V 0.5A")
    cores = {"C1": Fitted(ref="C1", value=2200e-6, volts=35, role="bulk")}
    state = reckon(model[0], cores, Mains())
    figure = next(f for f in state.figures if f.name == "Junction at +10 %").after
    heat = next(f for f in state.figures if f.name == "Regulator heat at +10 %").after
    branch = model[0].regulator
    assert figure == pytest.approx(branch.ambient + heat * (branch.theta_jc + 0.5 + 1.0 + branch.theta_sa), rel=1e-6)
    from idlebench.catalogue import house_devices

    part = next(
        r for r in house_devices("regulator") if r.volts == -12 and r.tab == "input" and r.theta_jc == branch.theta_jc
    )
    need = RegulatorNeed(
        old=Device(ref="VR1", what="regulator"),
        volts=-12,
        current=0.5,
        v_in_low=14.0,
        v_in_high=12 + heat / 0.5,
        v_in_peak=20.0,
        theta_sa=branch.theta_sa,
        ambient=branch.ambient,
    )
    judged = next(r for r in judge_regulator(need, part).reasons if r.rule == "junction")
    assert judged.value == pytest.approx(figure, rel=1e-6)


# every reckoning with a zero, and a regulator that has nothing to do


@pytest.mark.parametrize(("name", "field"), [(r.name, i.name) for r in REGISTRY.values() for i in r.inputs])
def test_a_zero_is_reckoned_or_refused_clearly(name, field):
    reckoning = REGISTRY[name]
    for zero in ("0", "-0", "1e-30"):
        try:
            values = reckoning.run({**reckoning.defaults(), field: zero}).values
        except BadInput as error:
            assert error.expected and (error.read or error.field)
        else:
            numbers = [v for v in values.values() if isinstance(v, float)]
            assert all(math.isfinite(v) for v in numbers), (name, field, values)


def test_in_equal_to_out_is_refused_clearly():
    reckoning = REGISTRY["regulator"]
    with pytest.raises(BadInput, match="come out"):
        reckoning.run({**reckoning.defaults(), "v_out": "5", "v_in_min": "5", "v_in_max": "5"})


# rules §4, fuse: time-lag where inrush


def test_an_unmarked_fuse_behind_a_transformer_with_a_store_is_time_lag():
    old = read_device("F1 fuse 1A 250V 5x20")
    time_lag = Fuse(
        part="T1",
        series="T",
        rating=1.0,
        characteristic="T",
        volts_ac=250,
        volts_dc=250,
        breaking=1500,
        size="5x20",
        mounting="holder",
        melting=2.0,
    )
    quick = Fuse(
        part="F1",
        series="F",
        rating=1.0,
        characteristic="F",
        volts_ac=250,
        volts_dc=250,
        breaking=1500,
        size="5x20",
        mounting="holder",
        melting=0.5,
    )
    need = fuse_need(old, primary=True, charges=True)
    assert judge_fuse(need, time_lag).verdict == "look twice" and judge_fuse(need, quick).verdict == "fails"
    plain = fuse_need(old, primary=True)
    assert judge_fuse(plain, quick).verdict == "look twice" and judge_fuse(plain, time_lag).verdict == "fails"


# rules §3, reforming: limit at 20 % of 16 V, 4700 µF: 3 · 0.01 · 4700 · 3.2 = 451 µA


def run(*currents):
    return reform.advise(
        4700e-6, 16, [reform.CurrentReading(step=0, minutes=i, current=c) for i, c in enumerate(currents)], 10
    )


@pytest.mark.parametrize(
    ("currents", "kind"),
    [((1e-3, 1.04e-3), "wait"), ((1e-3, 1.06e-3), "stop"), ((200e-6, 300e-6), "wait"), ((1e-3, 0.9e-3, 0.94e-3, 0.985e-3), "wait"),
     ((1e-3, 0.9e-3, 0.94e-3, 0.98e-3, 1.01e-3), "stop"), ((2e-3, 1.5e-3), "wait")],
)  # fmt: skip
def test_only_a_rise_that_counts_condemns(currents, kind):
    """5 % over the last, or 10 % over the lowest of the step, and above the limit; a rise under the limit is noise."""
    assert run(*currents).kind == kind


def test_a_current_that_volts_and_resistor_cannot_give_is_refused():
    """3.2 V through 1 kΩ is 3.2 mA."""
    reform.possible(4700e-6, 16, 1000, 0, 3.4e-3)
    with pytest.raises(BadInput, match=r"3.2 V through 1 kΩ"):
        reform.possible(4700e-6, 16, 1000, 0, 20e-3)
