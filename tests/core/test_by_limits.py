"""Resistors, zener diodes, optocouplers and transistors chosen by their limits; fuses that are refused, the next rating first."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.catalogue import house_devices
from idlebench.cli import main
from idlebench.core.board.devices import read_device
from idlebench.core.board.tables import read_survey, write_survey
from idlebench.core.choose.by_limits import optocoupler_need, rank_by_limits, transistor_need, zener_need
from idlebench.core.choose.device_tables import TABLES, read_devices, write_devices
from idlebench.core.choose.fuses import fuse_need, rank_fuses
from idlebench.core.choose.resistors import FUSIBLE, judge_resistor, resistor_need, watts_of
from idlebench.core.choose.rules import FAILS
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.refusal import BadInput


def best(need, what):
    return rank_by_limits(need, house_devices(what))[0]


def test_a_resistor_by_ohms_watts_and_kind():
    first = best(resistor_need(read_device("R5 resistor 2k2 0.25W 5%")), "resistor")
    assert first.part.ohms == 2200 and first.part.watts == 0.25 and first.verdict != "fails"
    # the fuse of its branch: no other kind, no more watts, whatever is in stock
    fusible = resistor_need(read_device("R1 resistor 10R 1W fusible"))
    for judged in rank_by_limits(fusible, house_devices("resistor"), fits=99, refused=0):
        assert judged.part.kind == FUSIBLE and judged.part.watts == 1.0 and judged.part.ohms == 10.0
    bigger = next(p for p in house_devices("resistor") if p.kind == FUSIBLE and p.ohms == 10 and p.watts == 2)
    assert (
        judge_resistor(fusible, bigger).status == FAILS
        and "opens too late" in judge_resistor(fusible, bigger).reasons[0].text
    )
    # high volts are asked where they are typed
    high = best(resistor_need(read_device("R7 resistor 10M 0.5W 2000V")), "resistor")
    assert high.part.volts >= 2000


@pytest.mark.parametrize(
    ("line", "watts", "guessed"),
    [("R1 resistor 1k 1W", 1.0, False), ("R1 resistor 1k 2.5x6.5", 0.25, True), ("R1 resistor 1k 9x3.3", 0.5, True), ("R1 resistor 1k 8x30", 5.0, True), ("R1 resistor 1k 1/4W", 0.25, False)],
)  # fmt: skip
def test_watts_as_marked_or_by_the_size_of_the_body(line, watts, guessed):
    assert watts_of(read_device(line)) == (watts, guessed)


@pytest.mark.parametrize(
    ("need", "line", "asks"),
    [
        (resistor_need, "R1 resistor 1k", "watts, or its size"), (resistor_need, "R1 resistor 1W", "ohms"), (zener_need, "ZD1 zener 5.1V", "watts"),
        (zener_need, "ZD1 zener 0.5W", "volts"), (transistor_need, "Q1 transistor 60V 1A", "type"), (transistor_need, "Q1 transistor npn 60V", "current"),
        (lambda old: optocoupler_need(old, mains=True), "OK1 optocoupler", "transfer ratio"),
    ],
)  # fmt: skip
def test_what_is_missing_is_asked_with_an_example(need, line, asks):
    with pytest.raises(BadInput, match=asks) as error:
        need(read_device(line))
    assert line.split()[0] in str(error.value)


def test_a_zener_an_optocoupler_and_a_transistor():
    zener = best(zener_need(read_device("ZD1 zener 5.1V 0.5W")), "zener")
    assert (zener.part.volts, zener.part.watts, zener.verdict) == (5.1, 0.5, "fits")
    opto = best(optocoupler_need(read_device("OK1 optocoupler ctr 80-160% 35V"), mains=True), "optocoupler")
    assert opto.part.ctr_low >= 0.8 and opto.part.holds_off >= 3750
    weak = read_own("optocoupler ctr 80-160% 35V holds 1500V")
    judged = rank_by_limits(optocoupler_need(read_device("OK1 optocoupler ctr 80%"), mains=True), [weak])[0]
    assert judged.status == FAILS and "between mains and output" in judged.reasons[0].text
    assert (
        rank_by_limits(optocoupler_need(read_device("OK1 optocoupler ctr 80%"), mains=False), [weak])[0].status != FAILS
    )
    transistor = best(transistor_need(read_device("Q1 transistor npn 60V 2A hfe 40")), "transistor")
    assert transistor.part.type == "npn" and transistor.part.volts >= 60 and transistor.part.current >= 2
    assert all(
        j.status == FAILS
        for j in rank_by_limits(transistor_need(read_device("Q1 transistor pnp 900V 5A")), house_devices("transistor"))
    )


@given(st.sampled_from(house_devices("resistor")), st.sampled_from(["", "fusible"]))
def test_nothing_that_fails_a_limit_goes_in(part, kind):
    need = resistor_need(read_device(f"R1 resistor 100R 0.5W 5% {kind}"))
    judged = judge_resistor(need, part)
    sound = (
        abs(part.ohms / 100 - 1) <= 0.0501
        and part.watts >= 0.5
        and (not kind or (part.kind == FUSIBLE and part.watts == 0.5))
    )
    assert (judged.status != FAILS) == sound, (part, judged.reasons)


def test_the_ratings_next_to_a_marked_one_stand_first_of_those_refused_with_why():
    need = fuse_need(read_device("F1 fuse T 1.7A 250V 5x20 low"), True)
    refused = rank_fuses(need, house_devices("fuse"), fits=0, refused=4)
    assert {j.part.rating for j in refused} <= {1.6, 2.0} and all("A" in j.reasons[0].text for j in refused)


@pytest.mark.parametrize("what", sorted(TABLES))
def test_every_table_reads_back_the_same(what):
    house = house_devices(what)
    assert house and read_devices(what, write_devices(what, house)).parts == house
    with pytest.raises(BadInput, match="header"):
        read_devices(what, "part,price\nX,1\n")


@pytest.mark.parametrize(
    ("line", "facts"),
    [
        ("resistor 2R2 1W 5% fusible €0.15 stock 4", {"ohms": 2.2, "watts": 1.0, "kind": "fusible", "tolerance": 0.05, "stock": 4, "price": 0.15}),
        ("zener 5.1V 1.3W name Z51", {"part": "Z51", "volts": 5.1, "watts": 1.3}), ("transistor pnp 80V 4A 36W hfe 40", {"type": "pnp", "current": 4.0, "gain": 40.0}),
        ("optocoupler ctr 80-160% 35V holds 5000V", {"ctr_low": 0.8, "ctr_high": 1.6, "volts": 35.0, "holds_off": 5000.0}),
    ],
)  # fmt: skip
def test_one_of_ones_own_from_a_line(line, facts):
    part = read_own(line)
    assert {name: getattr(part, name) for name in facts} == facts


@pytest.mark.parametrize("line", ["resistor 2R2", "zener 5V", "transistor npn 80V", "optocoupler 35V"])
def test_one_of_ones_own_without_its_limits_is_asked_about(line):
    with pytest.raises(BadInput, match="Such as"):
        read_own(line)


def test_parts_of_every_kind_stand_in_the_survey_table_and_read_back():
    table = (
        'ref,value,kind,volts,watts,tolerance,note,reads,x,y\nC1,100u,,16,,,,,1,2\nR5,2k2,resistor,,1,5,fusible,ohms 2.3k lifted,3,4\nD1,,diode,400,,,,"drop 0.58, back OL",,\n'
        "L3,10u,choke,,,,,,,\nF1,1.6,fuse,250,,,,,,\nX1,4M,crystal,,,,,,,\nVR2,,regulator,,,,,,,\n"
    )
    found = read_survey(table)
    parts = {one.ref: one for one in found.devices}
    assert not found.problems and [p.ref for p in found.parts] == ["C1"]
    assert parts["R5"].ohms == 2200 and parts["R5"].watts == 1 and parts["R5"].tolerance == 0.05 and parts["R5"].lifted
    assert parts["L3"].henries == pytest.approx(1e-5) and parts["X1"].hertz == 4e6 and parts["F1"].current == 1.6
    written = write_survey(found.parts, found.devices)
    again = read_survey(written)
    assert again.devices == found.devices and again.parts == found.parts
    # a board of capacitors alone is written as before
    assert write_survey(found.parts).splitlines()[0].endswith(",note,side")


@pytest.mark.parametrize(
    ("row", "column", "says"),
    [("R5,2k2,resistor,purple", "reads", "readings of a resistor"), ("Q1,5,transistor,", "value", "no value for a transistor"), ("C1,,,", "value", "a value"), ("C1,100u,wet,ohms 5", "reads", "an empty cell"), ("R5,2k2,toaster,", "kind", "one of")],
)  # fmt: skip
def test_a_row_that_cannot_be_read_is_named_with_its_column(row, column, says):
    found = read_survey(f"ref,value,kind,reads\n{row}\n")
    assert (
        not found.parts and not found.devices and found.problems[0].column == column and says in str(found.problems[0])
    )


def test_the_command_chooses_by_limits_and_a_kind_without_limits_needs_nothing(tmp_path, capsys):
    survey = tmp_path / "s.csv"
    survey.write_text(
        "ref,value,kind,volts,note,reads\nC1,100u,,16,,\nR5,10,resistor,,1W fusible,ohms OL\nS1,,switch,,,0.2 OL\nHS1,,heatsink,,,\n"
    )
    assert main(["choose", "--survey", str(survey), "--json"]) == 0
    plan = json.loads(capsys.readouterr().out)
    places = {place["ref"]: place for place in plan["places"]}
    assert places["S1"]["need"] is None and places["S1"]["judged"] == "sound" and places["HS1"]["need"] is None
    assert (
        places["R5"]["need"]["fusible"]
        and places["R5"]["verdict"] == "fits"
        and places["R5"]["chosen"].startswith("UR1-10R")
    )
    assert plan["summary"]["places"] == 4 and plan["summary"]["keep"] == 2
