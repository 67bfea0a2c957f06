"""A supply assumed of what is listed, and symptoms in people's own words."""

import pytest

from idlebench.catalogue import house_evidence
from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.faults.assumed import assume_supply
from idlebench.core.faults.clues import Mark
from idlebench.core.faults.signs import ALONE, read_signs, signs_in
from idlebench.core.faults.suspects import Inquiry
from idlebench.core.faults.symptom_words import PATTERNS
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.state import State
from idlebench.core.simulate.supply import Bench
from idlebench.core.text.rails_and_chips import read_rail


def wet(ref, value, volts, role="unknown", rail=""):
    return Fitted(ref=ref, value=value, volts=volts, role=role, rail=rail, kind="wet")


OUTPUTS = [wet("C14", 1e-3, 10.0, "converter_output"), wet("C15", 1e-3, 10.0, "converter_output"),
           wet("C16", 470e-6, 25.0, "converter_output"), wet("C18", 470e-6, 25.0, "converter_output")]  # fmt: skip
BULK = wet("C7", 100e-6, 400.0, "bulk")


@pytest.mark.parametrize(
    ("supply", "rails", "parts", "devices", "lines"),
    [
        (
            "switching", ["+5V 3A", "+12V 1A"], [BULK, *OUTPUTS], [],
            "bridge mains 4ohm reservoir C7 converter flyback 35.1W eff 0.75 at 50k\nrail +5V 3A capacitors C14,C15\nrail +12V 1A capacitors C16,C18",
        ),
        ("linear", ["+5V 1A"], [wet("C1", 4.7e-3, 25.0)], ["VR3 regulator 7805 1A"], "bridge 7.5V 16VA reservoir C1 regulator VR3 5V 1A"),
        ("linear", ["+5V 1A"], [wet("C1", 4.7e-3, 25.0)], [], "bridge 7.5V 16VA reservoir C1 regulator VR1 5V 1A"),
        ("linear", [], [], ["VR1 regulator 7805 1A", "AD1 adapter 9V DC 1A regulated"], "adapter AD1 9V DC 1A regulated regulator VR1 5V 0.5A"),
        ("linear", [], [wet("C1", 2.2e-3, 25.0)], ["VR1 regulator 7805 1A", "AD1 adapter 9V AC 1A"],
         "adapter AD1 9V AC 1A reservoir C1 regulator VR1 5V 0.5A"),
        ("linear", ["+3.3V 0.1A"], [], ["BT1 battery 4.5V source 0.3A"], "cells BT1 4.5V 0.3A regulator VR1 3.3V 0.1A"),
        ("switching", ["+5V 2A"], [wet("C8", 220e-6, 200.0, "bulk"), wet("C9", 220e-6, 200.0, "bulk"), wet("C14", 1e-3, 10.0, "converter_output")],
         ["F1 fuse T 1.6A 250V"],
         "bridge mains 4ohm reservoir C8+C9 converter flyback 13W eff 0.75 at 50k fuse T 1.6A\nrail +5V 2A capacitors C14"),
    ],
)  # fmt: skip
def test_a_supply_of_its_kind_is_assumed_of_what_is_listed(supply, rails, parts, devices, lines):
    found = assume_supply(supply, list(map(read_rail, rails)), parts, list(map(read_device, devices)))
    assert found.lines == lines and found.said
    # what is assumed can be simulated as it stands
    assert Bench.of(found.lines, parts).rails


@pytest.mark.parametrize(
    ("supply", "rails", "parts"),
    [
        ("linear", [], []),
        ("linear", ["+5V 1A"], []),
        ("switching", ["+5V 1A"], OUTPUTS),
        ("switching", ["+5V 1A"], [BULK]),
    ],
)
def test_where_too_little_is_listed_nothing_is_assumed(supply, rails, parts):
    assert assume_supply(supply, list(map(read_rail, rails)), parts, []) is None


def test_each_rail_has_the_capacitors_that_are_said_to_stand_on_it():
    parts = [
        BULK,
        wet("C1", 1e-3, 25.0, "converter_output", "+5 V"),
        wet("C2", 1e-3, 25.0, "converter_output", "+12 V"),
    ]
    found = assume_supply("switching", [read_rail("+5V 1A"), read_rail("+12V 1A")], parts, [])
    assert "rail +5V 1A capacitors C1\nrail +12V 1A capacitors C2" in found.lines


def test_a_dead_supply_with_four_leaking_output_capacitors_names_them():
    parts = [BULK, *OUTPUTS]
    found = assume_supply("switching", [read_rail("+5V 3A"), read_rail("+12V 1A")], parts, [])
    bench = Bench.of(found.lines, parts)
    marks = [Mark(p.ref, "", 8.0, f"{p.ref} looks leaking") for p in OUTPUTS]
    told = Inquiry(bench=bench, evidence=house_evidence()).look((), read_signs("dead"), State(volts=230.0), marks)
    refs = list(dict.fromkeys(s.ref for s in told.suspects))
    assert set(refs[:4]) == {p.ref for p in OUTPUTS}, refs


def test_what_moves_under_the_finger_beats_a_reservoir_that_could_explain_it_too():
    parts = [wet("C1", 4.7e-3, 25.0, "bulk")]
    bench = Bench.of("bridge 9V 25VA reservoir C1 regulator VR1 5V 1A joint J2", parts)
    signs = read_signs("sags with load +5V; moves when pressed J2", bench)
    told = Inquiry(bench=bench, evidence=house_evidence()).look((), signs, State(volts=230.0))
    assert told.suspects[0].words == "J2 cracked" and told.suspects[0].share > 0.6


@pytest.mark.parametrize(
    ("words", "signs"),
    [
        ("It motorboats and oscillates", ("motorboats", "squeals")),
        ("Sound comes back when I touch the board", ("comes when touched",)),
        ("works only when tapped", ("comes when touched",)),
        ("the radio won't turn on, fuse is fine", ("dead", "fuse whole")),
        ("keys D, F and G do not work", ("keys dead",)),
        ("screen stays black", ("no picture",)),
        ("loses its settings; garbled text", ("wrong letters", "forgets")),
        ("barely audible, no bass", ("weak sound",)),
        ("it is not silent and does not hum", ()),
        ("PSU is ticking", ("fan twitches",)),
        ("no picture, heater dark", ("no picture, heater dark",)),
    ],
)
def test_symptoms_in_peoples_own_words(words, signs):
    assert signs_in(words) == signs
    if signs and ";" not in words:
        # typed on Suspects it is the same sign
        assert read_signs(words)[0].what == signs[0]


def test_every_pattern_speaks_of_a_sign_and_every_new_sign_has_its_evidence():
    assert set(PATTERNS) <= set(ALONE)
    told = set(house_evidence().signs)
    assert {"motorboats", "squeals", "comes when touched", "distorted", "weak sound", "no picture"} <= told


@pytest.mark.parametrize("stage", ["tuned circuit", "coupling store", "amplifier supply", "loudspeaker", "amplifier"])
def test_no_sound_leads_to_each_stage(stage):
    assert house_evidence().of("no sound")[stage].ratio > 1


def test_a_word_nearly_a_sign_is_offered():
    with pytest.raises(BadInput) as error:
        read_signs("crackel")
    assert error.value.instead and "crackle" in error.value.instead
