"""Values as people type them, against values written another way."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from quantiphy import Quantity

from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import exact
from idlebench.core.text.quantity import read, show, show_range


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("4u7", "F", 4.7e-6), ("4.7 µF", "F", 4.7e-6), ("4,7u", "F", 4.7e-6), ("0.0000047", "F", 4.7e-6), ("µ22", "F", 0.22e-6),
        ("100n", "F", 1e-7), ("10 Ω", "Ω", 10), ("R47", "Ω", 0.47), ("2k2", "Ω", 2200), ("2R2", "Ω", 2.2), ("1M5", "Ω", 1.5e6),
        ("230 V", "V", 230), ("-12 V", "V", -12), ("−12", "V", -12), ("350m", "A", 0.35), ("100k", "Hz", 1e5), ("42kHz", "Hz", 42e3),
        ("105°C", "°C", 105), ("12,5 mm", "mm", 12.5), ("3000 h", "h", 3000), ("1e-6", "F", 1e-6), ("10 ohm", "Ω", 10),
    ],
)  # fmt: skip
def test_reads_what_people_type(text, unit, value):
    assert read(text, unit) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("", "F"),
        ("abc", "F"),
        ("10 V", "F"),
        ("4u7 V", "F"),
        ("1e999", "F"),
        ("nan", "V"),
        ("--4", "V"),
        ("5 mmm", "mm"),
        ("<b>", "V"),
        ("1" * 90, "F"),
    ],
)
def test_refuses_with_what_was_expected(text, unit):
    with pytest.raises(BadInput) as caught:
        read(text, unit, field="value")
    assert "value" in str(caught.value)
    assert "expected" in str(caught.value)


def test_bounds_are_named():
    with pytest.raises(BadInput, match="at most 10 F"):
        read("11", "F", high=10)
    with pytest.raises(BadInput, match="at least 0 A"):
        read("-1", "A", low=0)
    with pytest.raises(BadInput, match="more than 0 V"):
        read("0", "V", above=0)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        (4.7e-6, "F", "4.7 µF"), (0.0022, "F", "2200 µF"), (4.7e-9, "F", "4.7 nF"), (2.2e-12, "F", "2.2 pF"), (0.023, "Ω", "23 mΩ"),
        (9.646, "Ω", "9.65 Ω"), (340e-6, "A", "340 µA"), (1.46, "A", "1.46 A"), (100e3, "Hz", "100 kHz"), (230, "V", "230 V"),
        (0.05, "V", "50 mV"), (-12, "V", "−12 V"), (12906, "h", "1.47 years"), (9999, "h", "9999 h"), (36214, "h", "4.13 years"), (None, "V", "–"), (0, "A", "0 A"), (1.685, "s", "1.69 s"),
    ],
)  # fmt: skip
def test_shows_with_units(value, unit, text):
    assert show(value, unit) == text


def test_range_names_the_unit_once():
    assert show_range(95e-6, 120e-6, "F") == "95–120 µF"


@given(st.floats(1e-12, 1, allow_nan=False))
def test_written_values_read_back_the_same(value):
    assert read(exact(value, "pnu"), "F") == value
    assert read(exact(value), "A") == value


@given(st.floats(1e-9, 1e9).map(lambda x: float(f"{x:.3g}")))
def test_agrees_with_quantiphy(value):
    """Against a library: what we show is read as the same value by quantiphy."""
    shown = show(value, "Ω")
    number, _, symbol = shown.partition(" ")
    assert float(Quantity(f"{number}{symbol.removesuffix('Ω')}")) == pytest.approx(value, rel=1e-9)
