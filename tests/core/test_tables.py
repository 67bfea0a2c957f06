"""Import and export tables, the quick line, and the catalogue, against frictionless where it can judge."""

import json

import pytest
from frictionless import Package
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.catalogue import PATH, house_columns
from idlebench.catalogue import make as catalogue
from idlebench.core.board.parts import KINDS, LOOKS, MOUNTINGS, Fitted
from idlebench.core.board.quickline import read_line
from idlebench.core.board.roles import ROLES, role_from_words
from idlebench.core.board.tables import read_catalogue, read_survey, read_value, write_catalogue, write_survey
from idlebench.core.judge.live_reading import live_reading
from idlebench.core.refusal import BadInput
from idlebench.core.text import csvtable


def test_a_survey_as_people_write_it():
    found = read_survey(
        "\ufeffRef;Value;Volts;Looks;ESR;Rail volts;Old owner\nc22;4u7;16 V;leaking;6,8;-12;glued\n\nC23;4,7 µF;;;;;\n".encode()
    )
    first, second = found.parts
    assert not found.problems and found.unknown == ("old_owner",)
    assert (first.ref, first.value, first.volts, first.looks, first.esr, first.rail_volts) == (
        "C22",
        4.7e-6,
        16,
        "leaking",
        6.8,
        -12,
    )
    assert first.note == "old_owner: glued"
    assert second.value == pytest.approx(4.7e-6) and second.kind == "wet"


def test_tabs_are_taken_too():
    assert read_survey("ref\tvalue\nC1\t100n\n").parts[0].value == 1e-7


@pytest.mark.parametrize(
    ("row", "column", "said"),
    [
        ("C1,,", "value", "expected a value"), ("C1,lots,", "value", "lots"), ("C1,100u,0", "volts", "more than 0 V"), ("C1,-5u,", "value", "expected"),
        ("C1,100u,-16", "volts", "more than 0 V"), ("1C,100u,", "ref", "C22"), ("C1,99,16", "value", "100"), ("C1,50F,", "value", "10 F"),
        ("C1,100u,16,extra", "", "4 cells"),
    ],
)  # fmt: skip
def test_a_bad_row_names_line_column_and_mend(row, column, said):
    if row == "C1,99,16":
        assert read_survey(f"ref,value,volts\n{row}\n").parts[0].value == pytest.approx(99e-6)
        return
    found = read_survey(f"ref,value,volts\nC9,1u,16\n{row}\n")
    assert [p.ref for p in found.parts] == ["C9"]
    (problem,) = found.problems
    assert (problem.line, problem.column) == (3, column) and said in str(problem)


def test_two_readings_are_asked_not_guessed():
    with pytest.raises(BadInput, match="22 pF or 220 pF"):
        read_value("220", "ceramic")
    assert read_value("220", "wet") == pytest.approx(220e-6)


def test_a_reference_twice_is_said():
    found = read_survey("ref,value\nC1,1u\nc1,2u\n")
    assert len(found.parts) == 1 and "line 2 already" in str(found.problems[0])


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"), (b"a,b\n1,2\n", "ref, value"), ("ref,value\nC1,4,7 \xb5F\n".encode("latin-1"), "UTF-8"), (b"ref,value\n\x00\n", "binary"),
        (b"ref,ref,value\nC1,C1,1u\n", "each column once"), (b"x" * (csvtable.MAX_BYTES + 1), "at most 8 MB"), (b'ref,value\n"C1,1u\n' + b"x" * 200_000, "line"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_taken(data, said):
    with pytest.raises(BadInput, match=said):
        read_survey(data)


positive = st.floats(1e-12, 5, allow_nan=False)
PARTS = st.builds(
    Fitted,
    ref=st.integers(1, 999).map(lambda n: f"C{n}"),
    value=positive,
    volts=st.none() | st.floats(0.5, 1000),
    kind=st.sampled_from(KINDS),
    mounting=st.sampled_from(MOUNTINGS),
    diameter=st.none() | st.floats(1, 60),
    bipolar=st.booleans(),
    role=st.sampled_from(tuple(ROLES)),
    rail_volts=st.none() | st.floats(-500, 500),
    looks=st.sampled_from(("", *LOOKS)),
    esr=st.none() | st.floats(0, 1000),
    leakage=st.none() | st.floats(0, 1),
    in_circuit=st.booleans(),
    angle=st.sampled_from([0.0, 90.0, 270.0]),
    note=st.sampled_from(["", 'a "quoted", note', "Ω < µ", "two; parts"]),
)


@settings(max_examples=60, deadline=None)
@given(st.lists(PARTS, min_size=1, unique_by=lambda p: p.ref))
def test_what_is_written_reads_back_the_same(parts):
    found = read_survey(write_survey(parts))
    assert not found.problems
    assert list(found.parts) == parts


def test_the_catalogue_is_what_the_script_makes():
    assert PATH.read_text(encoding="utf-8") == write_catalogue(map(catalogue.generic, catalogue.house_parts()))
    assert json.loads(PATH.with_name("datapackage.json").read_text(encoding="utf-8")) == catalogue.datapackage()


def test_the_catalogue_is_large_and_believable():
    parts = house_columns().parts
    assert len(parts) >= 1500
    series = {p.series for p in parts}
    assert {"GP 85", "LZ 105", "LL 105", "BP 85", "AX 85", "CC 105", "MF 100", "XL 2", "YE 2"} <= series
    wet = [p for p in parts if p.kind == "wet"]
    assert all(0.003 < p.ripple < (40 if p.mounting == "screw" else 12) and 0.002 < p.esr < 800 for p in wet)
    same = {p.part: p for p in parts}
    assert (
        same["LZ105-1000u-16"].esr < same["LZ105-100u-16"].esr
        and same["LZ105-1000u-16"].ripple > same["LZ105-100u-16"].ripple
    )
    assert list(read_catalogue(write_catalogue(parts)).parts) == list(parts)


def test_safety_parts_without_ac_volts_are_refused():
    found = read_catalogue("part,value,volts,safety\nX,100n,630,X2\n")
    assert not found.parts and "ac_volts" in str(found.problems[0])


@pytest.mark.parametrize("package", [PATH.with_name("datapackage.json"), "demo/skerry-point/datapackage.json"])
def test_frictionless_finds_the_tables_as_described(package):
    report = Package(str(package)).validate()
    assert report.valid, report.flatten(["rowNumber", "fieldName", "note"])[:5]


def test_the_issue_of_a_quick_line():
    line = read_line("C22 100u 10V 6.3x11 p2.5 esr 6.8 sound store")
    part = line.part()
    assert (part.ref, part.value, part.volts, part.diameter, part.height, part.pitch, part.esr) == (
        "C22",
        1e-4,
        10,
        6.3,
        11,
        2.5,
        6.8,
    )
    assert part.role == "decoupling" and part.looks == ""
    said = live_reading(line, None)
    assert any(s.tone == "bad" and "at most 2.52 Ω" in s.text for s in said)
    assert any("sound store" in s.text for s in said)


@pytest.mark.parametrize(
    ("text", "changes"),
    [
        ("C1 100u 16V looks leaking", {"value": 1e-4, "volts": 16, "looks": "leaking"}), ("C1 220 16V", {"value": 220e-6}),
        ("C3 470n X2", {"safety": "X2", "kind": "film", "role": "mains_x"}), ("C3 4n7 Y2", {"role": "mains_y"}),
        ("C1 2200u 10V ripple 1.46@42k room 13x26 ambient 60", {"ripple": 1.46, "frequency": 42e3, "room_diameter": 13, "room_height": 26, "ambient": 60}),
        ("C1 esr 6.8@100k in circuit", {"esr": 6.8, "esr_frequency": 100e3, "in_circuit": True}), ("C1 cap 71u leak 40u", {"capacitance": 71e-6, "leakage": 40e-6}),
        ("C1 sound", {"looks": "sound"}), ("C1 10u bipolar axial 105C at 40,25 angle 90", {"bipolar": True, "mounting": "axial", "temperature": 105, "x": 40, "y": 25, "angle": 90}),
        ("C1 1u 50V reset series QF date 8423", {"role": "reset", "series": "QF", "date": "8423"}), ("C1 role timing", {"role": "timing"}),
        ("C1 47u note under the fan", {"note": "under the fan"}),
    ],
)  # fmt: skip
def test_quick_lines(text, changes):
    got = read_line(text).changes
    assert (
        {k: got.get(k) for k in changes} == pytest.approx(changes)
        if all(isinstance(v, float) for v in changes.values())
        else True
    )
    for key, value in changes.items():
        assert got[key] == (pytest.approx(value) if isinstance(value, float) else value)


def test_unknown_words_are_kept_as_a_note():
    part = read_line("C1 100u 16V wobbly leg").part()
    assert part.note == "wobbly leg" and part.role == "unknown"


@pytest.mark.parametrize(
    "text",
    [
        "",
        "100u C22",
        "C22 100u 0V",
        "C22 esr lots",
        "C22 100u room 13",
        "C22 looks happy",
        "C22 220 ceramic",
        "C1 " + "x" * 500,
        "C1 1u at 4",
    ],
)
def test_quick_lines_that_cannot_be_read(text):
    with pytest.raises(BadInput):
        read_line(text).part()


def test_adding_to_a_part_keeps_the_rest():
    before = Fitted(ref="C22", value=1e-4, volts=10, note="glued")
    after = read_line("C22 esr 6.8 wobbly").part(before)
    assert (after.value, after.esr, after.note) == (1e-4, 6.8, "glued; wobbly")
    with pytest.raises(BadInput, match="its value"):
        read_line("C23 esr 3").part()


@pytest.mark.parametrize(
    ("words", "name"),
    [
        ("sound store", "decoupling"),
        ("bulk store", "bulk"),
        ("signal coupling", "coupling"),
        ("start-up", "startup"),
        ("memory backup", "memory_backup"),
    ],
)
def test_roles_from_words(words, name):
    assert role_from_words(words)[0] == name
    assert role_from_words("nothing like it") is None


@given(st.text(max_size=60))
def test_any_line_is_read_or_refused_clearly(text):
    try:
        read_line(text)
    except BadInput as error:
        assert error.expected
