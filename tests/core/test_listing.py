"""What a typed line speaks of: the words first, the letters of the reference second, and where they disagree it is asked."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.device_lines import on_top
from idlebench.core.board.devices import TITLES, WORDS, read_device
from idlebench.core.board.listing import CHIP, LETTERS, is_device, kind_of, letters_of, named, only_capacitor
from idlebench.core.board.quickline import read_line
from idlebench.core.board.tables import read_survey, write_survey
from idlebench.core.judge.live_reading import live_reading
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("line", "kind", "kept"),
    [
        ("R5 resistor 2R2 1W open", "resistor", "R5 resistor 2.2ohm reads ohms OL note 1W"), ("R7 2R2", "resistor", "R7 resistor 2.2ohm"),
        ("L3 10u choke", "choke", "L3 choke note 10u"), ("L3 10u", "choke", "L3 choke note 10u"),
        ("D12 1n4148", "diode", "D12 diode note 1n4148"), ("ZD1 5.1V 1.3W", "zener", "ZD1 zener 5.1V note 1.3W"),
        ("HS1 heatsink 14x14 glued", "heatsink", "HS1 heatsink 14x14 note glued"), ("X1 4MHz", "crystal", "X1 crystal note 4MHz"),
        ("OK1 4N-type", "optocoupler", "OK1 optocoupler note 4N-type"), ("MOV1 275V~", "varistor", "MOV1 varistor 275Vac"),
        ("NTC1 10R", "thermistor", "NTC1 thermistor 10ohm"), ("RL1 12V 2 changeover", "relay", "RL1 relay 12V note 2 changeover"),
        ("SW1 mains", "switch", "SW1 switch note mains"), ("FAN1 12V", "fan", "FAN1 fan 12V"), ("C7 trimmer 5-30p", "trimmer", "C7 trimmer note 5-30p"),
        ("C9 variable 500p", "trimmer", "C9 trimmer note variable 500p"), ("F2 T1A", "fuse", "F2 fuse T 1A"), ("BR1 4A 400V", "diode", "BR1 diode 4A 400V"),
        ("Q4 npn", "transistor", "Q4 transistor note npn"), ("VR1 7805", "regulator", "VR1 regulator 7805"), ("K1 relay 12V", "relay", "K1 relay 12V"),
        ("R5 is diode 1A", "diode", "R5 diode 1A"), ("TR2 transistor npn", "transistor", "TR2 transistor note npn"),
    ],
)  # fmt: skip
def test_words_decide_then_letters_and_every_word_is_kept(line, kind, kept):
    assert kind_of(line) == kind and is_device(named(line))
    device = read_device(named(line))
    assert device.what == kind and device.as_line() == kept and read_device(kept) == device


@pytest.mark.parametrize("line", ["C5 100u 16V", "C5 film 100n", "E5 100u 10V", "X1 100n 275V~ X2", "X2 film 100n", "C1", "CX1 0.1 250V~", "C5 100u coupling to relay", "R5 is capacitor 100n"])  # fmt: skip
def test_a_capacitor_stays_one(line):
    assert kind_of(line) == "capacitor"
    only_capacitor(line)


@pytest.mark.parametrize("line", ["U1 processor 46x14", "U3 display driver", "J2 fan", "J3 lamp plug", "K1 power 4x10", "U7 fuse driver", "J4 battery"])  # fmt: skip
def test_the_words_of_a_chip_or_a_connector_are_labels(line):
    assert kind_of(line) == CHIP and named(line) == line and not is_device(line)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("U1 heatsink 14x14 glued", "HS1 heatsink"), ("R5 diode 1A", "R5 is diode"), ("X1 0.1", "a crystal or a capacitor"),
        ("TR3 red", "a transistor or a transformer"), ("VR1 10k", "a regulator"), ("R5 100n", "R5 is capacitor"), ("Q1 100u 10V", "Q1 is capacitor"),
        ("U2 100n", "U2 is capacitor"), ("C5 diode 1A", "C5 is diode"), ("U1 is heatsink 14x14", "HS1 heatsink"),
    ],
)  # fmt: skip
def test_where_they_disagree_it_is_asked(line, said):
    with pytest.raises(BadInput, match="line") as asked:
        named(line)
    assert said in str(asked.value)


def test_nothing_typed_for_one_thing_overwrites_another():
    diode = read_device("D4 diode 1A 400V for C7")
    read = on_top(diode, read_device(named("D4 0.42V")))
    assert read.volts == 400.0 and read.reads == (("drop", 0.42),) and read.serves == "C7"
    # words stay beside words, and the same word does not come twice
    again = on_top(read, read_device("D4 diode for C7 greenish scorched"))
    assert again.note == "for C7 greenish" and again.looks == "burnt" and again.reads == read.reads
    # a rating that is corrected is one
    assert on_top(read, read_device("D4 diode 600V")).volts == 600.0


def test_a_table_lists_no_resistor_as_a_capacitor():
    read = read_survey("ref,value\nC1,100u\nR5,2R2\nE7,10u\n")
    assert [p.ref for p in read.parts] == ["C1", "E7"] and "a resistor's reference" in read.problems[
        0
    ].text + read.problems[0].complaint
    # where its kind is said it is one, and what is written reads back
    told = read_survey("ref,value,kind\nR5,100n,film\n")
    assert told.parts[0].kind == "film" and read_survey(write_survey(told.parts)).parts == told.parts


def test_every_kind_has_letters_a_title_and_a_word():
    kinds = {kind for kinds in LETTERS.values() for kind in kinds} - {"capacitor"}
    assert kinds <= set(TITLES) and set(WORDS.values()) <= set(TITLES)
    assert set(TITLES) - kinds == set(), "a kind without letters"


def test_what_is_not_read_is_shown_beside_what_was():
    line = read_line("C5 100u 16V purple stuff")
    said = [one.text for one in live_reading(line, None)]
    assert "100 µF" in said and "not understood, saved as a note: purple stuff" in said


@given(st.sampled_from([*LETTERS, "E", "ZZ"]), st.integers(1, 999), st.text(max_size=40))
def test_any_line_is_a_part_or_asked_about(letters, number, words):
    line = f"{letters}{number} {words}"
    try:
        full = named(line)
        if is_device(full):
            assert read_device(full).ref == f"{letters}{number}"
    except BadInput:
        pass
    assert letters_of(f"{letters}{number}") == letters
