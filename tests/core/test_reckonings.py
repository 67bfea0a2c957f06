"""The registry: worked figures, addresses and commands come from one declaration."""

import math

import pytest
from scipy import integrate

from idlebench.core.calculators import REGISTRY, reckoning
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read

FIGURES = [
    (
        "discharge",
        {"value": "220u", "volts": "325", "resistance": "2k2", "safe_volts": "10"},
        {"seconds": 1.685, "first_power": 48.0, "energy": 11.6},
    ),
    ("earth_leakage", {"value": "4n7", "mains": "230", "frequency": "50"}, {"current": 0.340e-3}),
    ("corner", {"value": "4u7", "resistance": "10k"}, {"frequency": 3.39}),
    ("new_esr", {"value": "470u", "volts": "10", "frequency": "120"}, {"esr": 0.536}),
    (
        "life",
        {"life": "2000", "rated_temperature": "85", "ambient": "60", "ripple": "0.9", "rated_ripple": "1"},
        {"hours": 12906},
    ),
    ("dummy_load", {"volts": "12", "current": "0.25"}, {"resistance": 47, "power": 144 / 47, "rating": 7}),
    ("dummy_load", {"volts": "-12", "current": "0.1"}, {"resistance": 120, "power": 1.2, "rating": 2}),
    ("stripe", {"width": "16", "order": "msb", "offset": "3"}, {"bit": 12}),
    ("stripe", {"width": "8", "order": "lsb", "offset": "11"}, {"bit": 3}),
    (
        "supply",
        {},
        {"v_avg": 8.364, "v_min": 7.703, "v_max": 9.0, "store_rms": 1.355, "source_rms": 1.684, "source_peak": 3.587},
    ),
    ("converter_ripple", {}, {"ripple": 2.919}),
    ("inrush", {}, {"i2t": 1.096, "peak": 30.66}),
    # an IEC fuse carries its rating; one of UL 248-14 runs at 75 %; the pulse is that of the highest mains, (√2 · 253)² · 220 µ ÷ 21.2
    ("fuse", {}, {"current": 0.4294, "rating": 0.5, "i2t": 1.3285}),
    ("fuse", {"standard": "ul"}, {"rating": 0.63}),
    ("tap", {}, {"share": 0.9583, "volts": 8.625}),
    ("timing", {}, {"seconds": 0.517}),
    ("adapter", {"kind": "ac", "label_volts": "12", "label_current": "0.8333"}, {"expected_unloaded": 14.64}),
    ("adapter", {"kind": "regulated", "label_volts": "12", "label_current": "1"}, {"expected_unloaded": 12.0}),
    ("marking", {"text": "104K 2A", "kind": "film"}, {"capacitance": 100e-9, "volts": 100}),
]


@pytest.mark.parametrize(("name", "typed", "values"), FIGURES)
def test_worked_figures(name, typed, values):
    result = reckoning(name).run(typed)
    for key, value in values.items():
        assert result.values[key] == pytest.approx(value, rel=2e-3)


@pytest.mark.parametrize("item", REGISTRY.values(), ids=lambda r: r.name)
def test_each_is_whole(item):
    """Runs on its defaults, shows its working with sources, and has a JSON of the promised shape."""
    result = item.run({})
    assert result.lines and item.result in result.values
    assert set(result.as_json()) == {"name", "inputs", "values", "working", "cautions"}
    assert all(
        set(line) == {"label", "formula", "numbers", "value", "unit", "source"} for line in result.as_json()["working"]
    )
    assert {i.name for i in item.inputs} == set(result.inputs)
    assert all(i.help and i.shown for i in item.inputs)


@pytest.mark.parametrize("item", REGISTRY.values(), ids=lambda r: r.name)
@pytest.mark.parametrize("text", ["", "-1", "nonsense", "1e400", "<b>"])
def test_bad_input_names_the_field(item, text):
    field = item.inputs[0]
    if field.text and text in ("-1", "1e400"):
        text = "@@"
    try:
        item.run({field.name: text})
    except BadInput as error:
        assert error.field
        assert str(error).startswith(error.field)
    else:
        assert field.name in ("volts", "v_out") and text == "-1"  # a negative rail is a rail


def test_unknown_names():
    with pytest.raises(BadInput, match="discharge"):
        reckoning("nothing")
    with pytest.raises(BadInput, match="one of the inputs"):
        reckoning("corner").run({"frequency": "1"})


def test_discharge_against_integration():
    """The closed form against scipy's integrator."""
    r, c, v0 = 2200.0, 220e-6, 325.0
    solved = integrate.solve_ivp(
        lambda t, v: -v / (r * c), (0, 5), [v0], events=lambda t, v: v[0] - 10, rtol=1e-9, atol=1e-9
    )
    seconds = reckoning("discharge").run({}).values["seconds"]
    assert solved.t_events[0][0] == pytest.approx(seconds, rel=1e-6)
    power, _ = integrate.quad(lambda t: (v0 * math.exp(-t / (r * c))) ** 2 / r, 0, 40 * r * c)
    assert power == pytest.approx(reckoning("discharge").run({}).values["energy"], rel=1e-6)


def test_dangerous_discharge_is_cautioned():
    high = " ".join(reckoning("discharge").run({"volts": "325"}).cautions)
    low = " ".join(reckoning("discharge").run({"volts": "12"}).cautions)
    assert "can kill" in high and "local codes" in high
    assert "can kill" not in low and "meter" in low


def test_leakage_above_limits_is_cautioned():
    run = reckoning("earth_leakage").run
    assert (
        "hand-held, earthed" in run({"value": "10n"}).cautions[0]
        and "class ES1" in run({"value": "4n7", "tolerance": "0.5"}).cautions[0]
    )
    # 2π · 50 · 4.7 nF · 230 V = 339.6 µA; 1.1 times the mains and 1.2 times the part: 448.3 µA
    found = run({"value": "4n7"})
    assert found.values["current"] == pytest.approx(339.6e-6, rel=1e-3) and found.values[
        "current_worst"
    ] == pytest.approx(448.3e-6, rel=1e-3)
    assert "unearthed metal" in found.cautions[0] and "ES1" not in found.cautions[0]
    assert "smaller value" in run({"value": "100n"}).cautions[0]


def test_dummy_load_draws_at_least_the_minimum():
    for volts, current in ((5, 0.5), (12, 0.13), (3.3, 1.7)):
        values = reckoning("dummy_load").run({"volts": str(volts), "current": str(current)}).values
        assert volts / values["resistance"] >= current * 0.999
        assert values["power"] <= 0.6 * values["rating"] * 1.001
    with pytest.raises(BadInput, match="several resistors"):
        reckoning("dummy_load").run({"volts": "500", "current": "10"})


def test_whole_numbers_stay_whole():
    with pytest.raises(BadInput, match="whole"):
        reckoning("stripe").run({"offset": "3.5"})
    assert read("16", "") == 16
