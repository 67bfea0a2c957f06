"""Calculators against figures worked out by hand from the named sources: what they refuse, and what they say of the worst case."""

import math

import pytest

from idlebench.core.calculators import reckoning
from idlebench.core.circuit.converter import converter_ripple, discontinuous
from idlebench.core.circuit.inrush import fuse, inrush_i2t
from idlebench.core.circuit.monitor import hum_bar
from idlebench.core.circuit.regulator import regulator
from idlebench.core.circuit.supply import Load, Supply, simulate
from idlebench.core.circuit.supply_working import supply_working
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show


def test_a_fuse_carries_by_its_standard_and_is_pulsed_at_the_highest_mains():
    # 40 W ÷ (0.75 · 0.6 · 207 V) = 0.4294 A
    iec, ul = (fuse(40, 0.75, 0.6, 207, 220e-6, 10.6, standard).values for standard in ("iec", "ul"))
    assert iec["current"] == ul["current"] == pytest.approx(0.42941, rel=1e-4)
    assert (iec["rating"], ul["rating"]) == (0.5, 0.63) and iec["characteristic"] == "T"
    # (√2 · 253 V)² · 220 µF ÷ (2 · 10.6 Ω) = 1.3285 A²s; at 230 V it would be 1.098
    assert iec["i2t"] == pytest.approx(2 * 253**2 * 220e-6 / 21.2, rel=1e-9) == pytest.approx(1.3285, rel=1e-3)
    assert (
        "T (time-lag)" in fuse(40, 0.75, 0.6, 207, 220e-6).lines[1].label
        and "F (quick-acting)" in fuse(40, 0.75, 0.6, 207).lines[1].label
    )
    with pytest.raises(BadInput, match="one of iec, ul"):
        fuse(40, 0.75, 0.6, 207, standard="din")
    assert inrush_i2t(325, 220e-6, 10.6) == pytest.approx(1.096, rel=1e-3)


def test_a_discontinuous_flyback_ripples_more():
    # a triangle of Ip = 2·3.1 ÷ 0.4 = 15.5 A over 0.4 of the period: rms² = 15.5²·0.4÷3, less 3.1²
    by_hand = math.sqrt(15.5**2 * 0.4 / 3 - 3.1**2)
    assert discontinuous(3.1, 0.4) == pytest.approx(by_hand) == pytest.approx(4.735, abs=1e-3)
    got = reckoning("converter_ripple").run({"current": "3.1", "duty": "0.4", "mode": "discontinuous"})
    assert got.values["ripple"] == pytest.approx(by_hand) and got.inputs["mode"] == "discontinuous"
    assert converter_ripple("flyback", 3.1, 0.47).values["ripple"] == pytest.approx(2.919, abs=1e-3)
    for wrong in ((3.1, 0.0), (3.1, 1.0)):
        with pytest.raises(BadInput):
            discontinuous(*wrong)
    with pytest.raises(BadInput, match="a flyback may be discontinuous"):
        converter_ripple("boost", 3.1, 0.4, mode="discontinuous")


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"v_in_max": 40.0, "v_in_limit": 35.0}, "what its input stands"), ({"v_in_min": -7.7}, "one sign"), ({"v_out": -5.0}, "one sign"),
        ({"theta_sa": -1.0}, "0 K/W or more"),
    ],
)  # fmt: skip
def test_what_no_regulator_does_is_refused(change, said):
    given = {
        "v_out": 5.0,
        "load": 1.0,
        "v_in_min": 7.7,
        "v_in_max": 10.2,
        "dropout": 2.0,
        "theta_jc": 3.0,
        "theta_cs": 0.5,
        "theta_sa": 8.0,
        "ambient": 45.0,
    }
    with pytest.raises(BadInput, match=said):
        regulator(**{**given, **change})
    # 15 V · 1 A into 3.5 K/W: the junction is over 125 °C before any heatsink counts
    hot = regulator(**{**given, "v_in_max": 30.0})
    assert hot.values["theta_sa_max"] < 0 and any("No heatsink helps" in text for text in hot.cautions)
    minus = regulator(**{**given, "v_out": -5.0, "v_in_min": -7.7, "v_in_max": -10.2})
    assert minus.values["junction"] == pytest.approx(104.8, abs=0.1)


def test_a_hum_bar_says_both_times_and_stands_still():
    # 2 · 50 Hz against 60 Hz: beat 40 Hz against the nearest field, 20 Hz against twice: 50 ms a bar, bars 10 ms apart
    assert hum_bar(50, 60, 2).values == pytest.approx({"seconds": 0.05, "spacing": 0.01, "bars": 2})
    still = hum_bar(50, 50, 2)
    assert still.values["seconds"] is None and still.as_json()["values"]["seconds"] is None
    assert still.lines[0].shown == "stands still" and hum_bar(50, 50.08, 1).values["seconds"] == pytest.approx(12.5)


def test_an_adapter_is_blamed_for_what_it_has():
    def said(kind, volts):
        return reckoning("adapter").run({"kind": kind, "measured": str(volts)}).cautions[0]

    # an AC adapter is a transformer and a lead: no capacitor, no bridge, no regulator
    for volts in (4, 20):
        assert not any(word in said("ac", volts) for word in ("capacitor", "bridge", "regulator"))
    assert "capacitor" in said("unregulated", 4) and "regulator" not in said("unregulated", 30)
    assert "regulator" in said("regulated", 30)


def test_hours_are_years_from_ten_thousand_on():
    # 12 906 h ÷ 8760 h
    assert (show(9999, "h"), show(10_000, "h"), show(12906, "h"), show(131_400, "h")) == (
        "9999 h",
        "1.14 years",
        "1.47 years",
        "15 years",
    )


def test_a_supply_takes_watts_and_doubles():
    by_watts = supply_working("bridge", 230, 50, 4.0, 100e-6, 0.6, "50 W").values
    # a constant power: 50 W ÷ its own average
    amps = 50 / by_watts["v_avg"]
    same = simulate(
        Supply(
            topology="bridge",
            source=230,
            frequency=50,
            source_resistance=4.0,
            store=100e-6,
            store_esr=0.6,
            load=Load("current", amps),
        )
    )
    assert by_watts["v_avg"] == pytest.approx(same.v_avg, rel=2e-3) and by_watts["store_rms"] == pytest.approx(
        same.store_rms, rel=5e-3
    )
    # a doubler is two half waves in turn: twice the volts of one, each capacitor carrying what one would
    half = supply_working("half", 115, 60, 2.0, 470e-6, 0.2, "0.2 A").values
    both = supply_working("doubler", 115, 60, 2.0, 470e-6, 0.2, "0.2 A").values
    assert both["v_avg"] == pytest.approx(2 * half["v_avg"], rel=1e-6) and both["store_rms"] == pytest.approx(
        half["store_rms"]
    )
    # their ripples do not come together: less than twice, and more than nothing
    assert 0.2 * half["ripple_pp"] < both["ripple_pp"] < 1.6 * half["ripple_pp"]
    assert supply_working("doubler", 115, 60, 2.0, 470e-6, 0.2, "1500 Ω").values["v_avg"] == pytest.approx(
        both["v_avg"], rel=0.02
    )
    assert supply_working("doubler", 115, 60, 2.0, 470e-6, 0.2, "60 W").values["v_avg"] == pytest.approx(
        both["v_avg"], rel=0.02
    )
    with pytest.raises(BadInput):
        supply_working("doubler", 115, 60, 2.0, 470e-6, 0.2, "0 W")
