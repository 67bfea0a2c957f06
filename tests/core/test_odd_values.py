"""Bare decimals are µF, sections of a can are parts, what is hardly made is asked about, and what is not read is said."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.devices import read_device
from idlebench.core.board.odd_values import doubt_of, odd_value
from idlebench.core.board.parts import Fitted
from idlebench.core.board.quickline import as_line, read_line, sections
from idlebench.core.board.tables import read_catalogue, read_survey, read_value, write_value
from idlebench.core.calculators import reckoning
from idlebench.core.judge.live_reading import live_reading
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("text", "farads"),
    [
        ("0.1", 100e-9), (".01", 10e-9), ("0,33", 330e-9), ("0.001", 1e-9), ("0.47", 470e-9), (".99", 990e-9),
        # under 0.001 nobody prints it: SI
        ("0.0000047", 4.7e-6), ("0.00099", 990e-6), ("0.1F", 0.1), ("100n", 100e-9), ("1e-7", 1e-7),
    ],
)  # fmt: skip
def test_a_bare_decimal_is_microfarads(text, farads):
    for kind in ("wet", "film", "tantalum", "paper"):
        assert read_value(text, kind) == pytest.approx(farads)


def test_typed_lines_and_tables_read_it_so_and_calculators_stay_in_si():
    line = read_line("C22 0.1 250V~ X2")
    assert line.changes["value"] == pytest.approx(100e-9) and line.changes["safety"] == "X2"
    assert read_line("C22 .01 250VAC X2").changes["value"] == pytest.approx(10e-9)
    assert read_line("C22 0.33 35V tantalum").changes["value"] == pytest.approx(330e-9)
    assert read_survey("ref,value\nC1,0.47\n").parts[0].value == pytest.approx(470e-9)
    table = "part,kind,value,volts,mounting,diameter,height,pitch\nF,film,0.22,63,radial,7,6,5\n"
    assert read_catalogue(table).parts[0].value == pytest.approx(220e-9)
    assert reckoning("new_esr").run({"value": "0.001", "volts": "16", "frequency": "120"}).values["esr"] == pytest.approx(0.16 / (2 * 3.14159 * 120 * 1e-3), rel=1e-3)  # fmt: skip


@given(st.floats(1e-12, 9.0))
def test_what_is_written_reads_back_the_same(value):
    assert read_value(write_value(value), "film") == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("line", "celsius", "rest"),
    [("C1 100u 16V 105 degC", 105.0, []), ("C1 100u 16V 105", 105.0, []), ("C1 100u 16V 85deg", 85.0, []), ("C1 100u 16V 105 °C 85", 105.0, ["85"])],
)  # fmt: skip
def test_temperatures_as_people_write_them(line, celsius, rest):
    read = read_line(line)
    assert read.changes["temperature"] == celsius and read.rest == rest


def test_a_surface_part_by_its_other_names():
    assert (
        read_line("C1 10u 16V tantalum SMD").changes["mounting"]
        == read_line("C1 100n ceramic smt").changes["mounting"]
        == "chip"
    )


@pytest.mark.parametrize(
    ("value", "kind", "odd"),
    [
        (220e-6, "film", True), (100e-6, "film", False), (150e-6, "ceramic", True), (1500e-6, "tantalum", True), (1000e-6, "tantalum", False),
        (1.5, "wet", True), (1.0, "wet", False), (137e-6, "wet", True), (8e-6, "wet", False), (32e-6, "wet", False), (500e-6, "wet", False),
        (250e-6, "wet", False), (4.7e-6, "wet", False), (0.068e-6, "film", False), (2.5e-12, "ceramic", False), (0.1, "film", True),
    ],
)  # fmt: skip
def test_what_is_hardly_made_is_asked_about(value, kind, odd):
    assert bool(odd_value(value, kind)) is odd


def test_a_value_once_read_in_farads_is_asked_about():
    assert "is it 0.1 µF" in doubt_of(Fitted(ref="C22", value=0.1, volts=250.0, kind="film"))
    assert "is it 0.33 µF" in doubt_of(Fitted(ref="C22", value=0.33, volts=35.0, kind="tantalum"))
    # a memory store of 0.1 F stands a few volts; a big can has some millifarads
    assert not doubt_of(Fitted(ref="C1", value=0.1, volts=5.5)) and not doubt_of(
        Fitted(ref="C1", value=0.0047, volts=16.0)
    )


def test_an_odd_value_is_said_while_it_is_typed():
    said = {one.text: one.tone for one in live_reading(read_line("C5 film 220u"), None)}
    assert any("add the word sure" in text and tone == "bad" for text, tone in said.items())
    assert not any("sure" in one.text for one in live_reading(read_line("C5 film 220u sure"), None))
    assert read_line("C5 film 220u sure").rest == []


@pytest.mark.parametrize(
    ("line", "parts"),
    [
        ("C1 8+8 450", [("C1A", 8e-6, 450.0), ("C1B", 8e-6, 450.0)]), ("C1 50+50+20u 350V can", [("C1A", 50e-6, 350.0), ("C1B", 50e-6, 350.0), ("C1C", 20e-6, 350.0)]),
        ("C2 16+32u 275V note glued", [("C2A", 16e-6, 275.0), ("C2B", 32e-6, 275.0)]),
    ],
)  # fmt: skip
def test_a_can_of_sections_is_a_part_for_each(line, parts):
    found = [read_line(one).part() for one in sections(line)]
    assert [(p.ref, pytest.approx(p.value), p.volts) for p in found] == parts
    assert all(f"section {i} of {len(found)}" in p.note for i, p in enumerate(found, 1))
    if "glued" in line:
        assert all(p.note.startswith("glued;") for p in found)
    assert not sections("C1 100u 16V") and not sections("C1") and not sections("C1 8+ 450")


def test_an_adapters_va_is_kept():
    adapter = read_device("AD1 adapter 9V AC 14VA")
    assert adapter.va == 14.0 and adapter.marked == "9 V 14 VA AC" and adapter.volts == 9.0
    with pytest.raises(BadInput):
        read_line("C1 8+8+8+8+8+8 450").part()


@pytest.mark.parametrize(
    "part",
    [
        Fitted(ref="C3", value=220e-9, volts=250.0, kind="film", safety="X2", role="mains_x", diameter=18.0, height=14.0, pitch=15.0),
        Fitted(ref="C1", value=4700e-6, volts=25.0, diameter=18.0, height=35.5, pitch=7.5, role="bulk", rail="+5 V", temperature=105.0),
        Fitted(ref="C2", value=1e-6, volts=35.0, kind="tantalum", mounting="chip", bipolar=True), Fitted(ref="C9", value=0.1, volts=5.5, role="memory_backup"), Fitted(ref="C4", value=47e-12, volts=None, kind="ceramic"),
    ],
)  # fmt: skip
def test_a_listed_part_is_written_as_it_is_typed(part):
    read = read_line(as_line(part)).part()
    for name in (
        "ref",
        "volts",
        "kind",
        "mounting",
        "bipolar",
        "safety",
        "role",
        "diameter",
        "height",
        "pitch",
        "temperature",
    ):
        assert getattr(read, name) == getattr(part, name), name
    assert read.value == pytest.approx(part.value) and not read.note
