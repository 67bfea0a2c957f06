"""Every kind of print of the rules, likeliest reading first."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import read_date
from idlebench.core.text.marking import marking_working, read_marking
from idlebench.core.text.marking_values import TOLERANCE, VOLTAGE_CODE, VOLTAGE_LETTER

READ = [
    # text, kind, farads, volts, tolerance
    ("104", "ceramic", 100e-9, None, None),
    ("103", "ceramic", 10e-9, None, None),
    ("475", "tantalum", 4.7e-6, None, None),
    ("229", "ceramic", 2.2e-12, None, None),
    ("4u7", "wet", 4.7e-6, None, None),
    ("2n2", "film", 2.2e-9, None, None),
    ("R47", "film", 0.47e-6, None, None),
    ("R47", "ceramic", 0.47e-12, None, None),
    ("µ22", "film", 0.22e-6, None, None),
    ("4,7", "wet", 4.7e-6, None, None),
    ("4m7", "wet", 4.7e-3, None, None),
    ("0.1 MFD 400V", "paper", 0.1e-6, 400, None),
    ("8 MF 450 V", "wet", 8e-6, 450, None),
    ("100 mF", "wet", 100e-6, None, None),
    ("470 MMF", "ceramic", 470e-12, None, None),
    ("470 µµF", "ceramic", 470e-12, None, None),
    ("470 mmfd", "ceramic", 470e-12, None, None),
    ("220", "wet", 220e-6, None, None),
    ("220", "ceramic", 22e-12, None, None),
    ("22", "ceramic", 22e-12, None, None),
    ("227", "wet", 220e-6, None, None),
    ("107C", "tantalum", 100e-6, 16, None),
    ("C107", "wet", 100e-6, 16, None),
    ("e107", "tantalum", 100e-6, 2.5, None),
    ("100 16", "wet", 100e-6, 16, None),
    ("100/16", "wet", 100e-6, 16, None),
    ("16/100", "wet", 100e-6, 16, None),
    ("10µ35", "wet", 10e-6, 35, None),
    ("104K", "film", 100e-9, None, (-0.1, 0.1)),
    ("2A104K", "film", 100e-9, 100, (-0.1, 0.1)),
    ("104J 2E", "film", 100e-9, 250, (-0.05, 0.05)),
    (".47K250", "film", 0.47e-6, 250, (-0.1, 0.1)),
    ("223Z", "ceramic", 22e-9, None, (-0.2, 0.8)),
    ("470µF 25V 105°C", "wet", 470e-6, 25, None),
]  # fmt: skip


@pytest.mark.parametrize(("text", "kind", "farads", "volts", "tolerance"), READ)
def test_likeliest_reading(text, kind, farads, volts, tolerance):
    best = read_marking(text, kind).best
    assert best.capacitance == pytest.approx(farads, rel=1e-9)
    assert best.volts == volts
    assert best.tolerance == tolerance


def test_safety_and_ac_volts():
    best = read_marking("X2 275~ .22", "film").best
    assert (best.safety, best.ac_volts) == ("X2", 275)
    assert best.capacitance == pytest.approx(220e-9)
    assert read_marking("4n7 Y2 250~", "ceramic").best.safety == "Y2"


def test_temperature_is_told_from_a_voltage_letter():
    assert read_marking("220µF 25V 85°C").best.temperature == 85
    assert read_marking("105C", "tantalum").best.volts == 16


def test_small_values_take_absolute_tolerances():
    low, high = read_marking("100C", "ceramic").best.tolerance
    assert (low, high) == pytest.approx((-0.025, 0.025))


def test_two_readings_are_both_given_the_likelier_first():
    assert [r.text for r in read_marking("220", "ceramic").readings] == ["22 pF", "220 pF"]
    assert [r.text for r in read_marking("104J", "film").readings] == ["100 nF ±5 %", "100 nF 6.3 V"]
    assert len(read_marking("104", "ceramic").readings) == 1, "104 pF is no value that is made"


def test_unknown_kind_gives_the_doubt():
    marking = read_marking("220")
    assert marking.doubtful
    assert {round(r.capacitance * 1e12) for r in marking.readings} == {22, 220, 220_000_000}
    assert marking_working("220").cautions


@pytest.mark.parametrize("text", ["", "hello", "0", "000", "X2", "9" * 80, "12 34 56 78", "<script>", "2Z104"])
def test_unreadable_prints_say_so(text):
    with pytest.raises(BadInput, match="marking"):
        read_marking(text, "film")


def test_the_tables_stand_as_printed():
    assert (
        VOLTAGE_CODE["1C"] == 16
        and VOLTAGE_CODE["2J"] == 630
        and len(VOLTAGE_CODE) == 31
        and VOLTAGE_CODE["0E"] == 2.5
        and VOLTAGE_CODE["3D"] == 2000
    )
    assert VOLTAGE_LETTER["V"] == 35 and len(VOLTAGE_LETTER) == 9
    assert TOLERANCE["Q"] == (-0.10, 0.30)


@given(st.integers(10, 99), st.integers(0, 6))
def test_three_digit_codes_are_pF(digits, power):
    readings = read_marking(f"{digits}{power}J", "ceramic").readings if digits * 10.0**power <= 1e8 else ()
    assert not readings or any(r.capacitance == pytest.approx(digits * 10.0**power * 1e-12) for r in readings)


@given(st.text(max_size=40), st.sampled_from(["", "wet", "film", "ceramic", "tantalum", "paper"]))
def test_any_text_is_read_or_refused_clearly(text, kind):
    try:
        marking = read_marking(text, kind)
    except BadInput as error:
        assert error.expected
    else:
        assert all(r.capacitance > 0 for r in marking.readings)


@pytest.mark.parametrize(
    ("text", "machine", "year", "week", "month"),
    [("8423", None, 1984, 23, None), ("423", 1985, 1984, 23, None), ("423", 1995, 1994, 23, None), ("423", 1976, 1974, 23, None),
     ("84K", None, 1984, None, 10), ("K84", None, 1984, None, 10), ("4N", 1985, 1984, None, 11), ("1984", None, 1984, None, None),
     ("1984-06", None, 1984, None, 6)],
)  # fmt: skip
def test_date_codes(text, machine, year, week, month):
    first = read_date(text, machine)[0]
    assert (first.year, first.week, first.month) == (year, week, month)


def test_one_figure_years_give_their_decades():
    assert {d.year for d in read_date("423")} == {1974, 1984, 1994}
    assert len({d.month for d in read_date("4D", 1985) if d.year == 1984}) == 2  # April by letter, December by figure


@pytest.mark.parametrize("text", ["", "8499", "0000", "ABC", "99999"])
def test_no_date(text):
    with pytest.raises(BadInput):
        read_date(text)


@pytest.mark.parametrize(
    ("text", "kind", "read"),
    [
        ("476 10", "tantalum", "47 µF 10 V"), ("105 16", "tantalum", "1 µF 16 V"), ("222 3KV", "ceramic", "2.2 nF 3000 V"),
        ("222K 3D", "ceramic", "2.2 nF ±10 % 2000 V"), ("2K 103J", "film", "10 nF ±5 % 800 V"), ("2H 103", "ceramic", "10 nF 500 V"),
        ("1D 226", "tantalum", "22 µF 20 V"), ("10u/25", "wet", "10 µF 25 V"), ("0.47 275 X2", "film", "470 nF 275 V~ class X2"),
        (".047 400", "film", "47 nF 400 V"), ("Z5U 103", "ceramic", "10 nF"), ("X7R 104 50", "ceramic", "100 nF 50 V"),
        ("100 16", "wet", "100 µF 16 V"), ("220 25", "", "220 µF 25 V"), ("1000 105 degC", "wet", "1000 µF 105 °C"),
    ],
)  # fmt: skip
def test_prints_with_their_volts_beside_them(text, kind, read):
    assert read_marking(text, kind).best.text == read
