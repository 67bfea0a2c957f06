"""Parts that are no capacitors: what is measured of them as it is typed, and what a sound one of each kind reads."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.catalogue import house_evidence, house_procedures
from idlebench.core.board.device_lines import on_top
from idlebench.core.board.device_readings import (
    IN_ORDER,
    NOTHING_TO_MEASURE,
    OL,
    QUANTITIES,
    Measured,
    read_measured,
    write_measured,
)
from idlebench.core.board.devices import TITLES, read_device
from idlebench.core.board.listing import named
from idlebench.core.judge.device_limits import CARBON, CONTACT, sound_readings
from idlebench.core.judge.device_verdict import judge_device
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("kind", "typed", "readings"),
    [
        ("resistor", "2.4k", {"ohms": 2400.0}), ("resistor", "2R2", {"ohms": 2.2}), ("resistor", "120 ohm", {"ohms": 120.0}),
        ("resistor", "OL", {"ohms": OL}), ("resistor", "r=2.21k", {"ohms": 2210.0}), ("fuse", "short", {"ohms": 0.0}),
        ("diode", "0.58 OL", {"drop": 0.58, "back": OL}), ("diode", "580 OL", {"drop": 0.58, "back": OL}),
        ("diode", "550mV, 0.56V", {"drop": 0.55, "back": 0.56}), ("diode", "Uf=0.61V", {"drop": 0.61}),
        ("zener", "0.7 OL 5.05V", {"drop": 0.7, "back": OL, "volts": 5.05}), ("zener", "Uz 5.05", {"volts": 5.05}),
        ("transistor", "be 0.65 bc 0.64 ce OL hfe 180", {"be": 0.65, "bc": 0.64, "ce": OL, "hfe": 180.0}),
        ("transistor", "0.65 0.64 OL", {"be": 0.65, "bc": 0.64, "ce": OL}), ("transistor", "B=210 Vbe 0.67", {"hfe": 210.0, "be": 0.67}),
        ("optocoupler", "1.1 OL 80%", {"drop": 1.1, "back": OL, "ctr": 0.8}), ("relay", "coil 120 closed 0.1 open OL", {"coil": 120.0, "closed": 0.1, "opened": OL}),
        ("switch", "0.2 OL", {"closed": 0.2, "opened": OL}), ("choke", "9.8u", {"henries": 9.8e-6}), ("choke", "9.8 uH 0.4", {"henries": 9.8e-6, "ohms": 0.4}),
        ("crystal", "4.0002 MHz", {"hertz": 4.0002e6}), ("battery", "3.2", {"volts": 3.2}), ("battery", "3.2V", {"volts": 3.2}),
    ],
)  # fmt: skip
def test_readings_as_people_and_meters_write_them(kind, typed, readings):
    told = read_measured(typed, kind)
    assert {one.what: one.value for one in told.readings} == pytest.approx(readings) and not told.rest


@pytest.mark.parametrize(
    ("kind", "typed", "names"),
    [("resistor", "2k 3k", "at most 1"), ("resistor", "-5", "not negative"), ("transistor", "be hfe 100", "after “be”"), ("relay", "1 2 3 4", "at most 3")],
)  # fmt: skip
def test_a_reading_without_its_meaning_is_asked_about(kind, typed, names):
    with pytest.raises(BadInput, match=names):
        read_measured(typed, kind)


def test_where_it_was_read_is_kept_and_what_is_no_reading_is_left_over():
    told = read_measured("2.4k out of circuit, by the edge", "resistor")
    assert (told.lifted is True and told.rest == ("circuit,", "by", "the", "edge")) or told.rest == (
        "by",
        "the",
        "edge",
    )
    assert (
        read_measured("2.4k in circuit", "resistor").lifted is False
        and read_measured("2.4k", "resistor").lifted is None
    )


@given(
    st.lists(st.tuples(st.sampled_from(sorted(QUANTITIES)), st.floats(1e-9, 900) | st.just(OL)), max_size=6, unique_by=lambda one: one[0]),
    st.sampled_from([True, False, None]),
    st.sampled_from(sorted(TITLES)),
)  # fmt: skip
def test_what_is_written_reads_back_the_same(found, lifted, kind):
    readings = tuple(Measured(what, float(f"{value:.12g}")) for what, value in found if (what, value) != ("ctr", OL))
    readings = tuple(
        one
        for one in readings
        if one.what not in ("ctr",) and not (QUANTITIES[one.what].unit == "V" and 50 <= one.value < OL)
    )
    told = read_measured(write_measured(readings, lifted), kind)
    assert told.readings == readings and told.lifted == (lifted if readings else None) and not told.rest


@pytest.mark.parametrize(
    ("line", "verdict", "says"),
    [
        ("R5 2k2 5% reads 2.25k", "sound", "2.07–2.33"), ("R5 2k2 5% reads 2.4k", "doubtful", ""), ("R5 2k2 5% reads 3.1k", "replace", ""),
        ("R5 2k2 5% reads OL", "replace", "open"), ("R5 2k2 5% reads 900 in circuit", "not seen", "lift one leg"),
        ("R5 2k2 5% reads 900 lifted", "replace", ""), ("R5 2k2 reads 2.4k", "sound", "no tolerance"), ("R5 2k2 fusible burnt", "replace", "burnt"),
        ("R9 bleeder 220k for C7 reads 300k", "replace", ""), ("TH1 10R reads 11", "sound", "cold"), ("TH1 10R reads OL", "replace", "open"),
        ("L3 10u reads 9.1uH 0.3", "sound", ""), ("L3 10u reads OL", "replace", "open"), ("FB1 bead reads 0.2", "sound", ""),
        ("D1 1N4007 reads 0.58 OL", "sound", "silicon"), ("D1 1N4007 reads 0.0 0.0 lifted", "replace", "shorted"),
        ("D1 1N4007 reads OL OL", "replace", "open"), ("D1 1N4007 reads 0.58 0.6 lifted", "replace", ""), ("D1 schottky reads 0.22 OL", "sound", "low-drop"),
        ("D1 1N4007 reads 0.22 OL lifted", "replace", "silicon"), ("D1 high-voltage stick reads OL", "sound", "more than a meter"),
        ("D1 germanium reads 0.28 OL", "sound", "germanium"), ("ZD1 5.1V reads 0.7 OL 5.1V", "sound", ""), ("ZD1 5.1V reads 5.9V", "replace", "5.1 V ± 5 %"),
        ("Q1 npn reads 0.65 0.64 OL hfe 180", "sound", ""), ("Q1 npn reads be 0.0 ce 0.0 lifted", "replace", "shorted"), ("Q1 npn hfe 8", "replace", "amplifies"),
        ("Q1 fet reads be OL", "sound", "gate"), ("Q2 line reads bc 0.5 ce OL note built-in diode", "sound", "red on the collector"),
        ("OK1 reads 1.1 OL ctr 80%", "sound", ""), ("OK1 reads 1.1 OL ctr 5%", "replace", "feedback"), ("RL1 12V 120ohm reads coil 124 closed 0.1", "sound", ""),
        ("RL1 12V 120ohm reads closed 40", "replace", "clean contact"), ("RL1 12V 1.2W reads coil 122", "sound", "volts and power"),
        ("S1 reads 0.2 OL", "sound", ""), ("S1 reads 3", "doubtful", ""), ("S7 carbon key reads 80", "sound", "key"), ("SK1 reads 12", "replace", ""),
        ("F1 T1A reads 0.2", "sound", ""), ("F1 T1A blown", "replace", "open"), ("F1 T63mA reads 7", "sound", ""), ("MOV1 275V~ reads OL", "sound", ""),
        ("MOV1 275V~ reads 40k lifted", "replace", ""), ("X1 4MHz crystal reads 4.0001MHz", "sound", ""), ("X1 4MHz crystal reads 4.2MHz", "replace", ""),
        ("T2 transformer reads 12", "sound", ""), ("T2 transformer OL", "replace", "open"), ("LA1 lamp 12V 21W reads 0.6", "sound", "cold"),
        ("LED1 led reads 1.9 OL", "sound", "lights"), ("NE1 neon reads OL", "sound", "60 V"), ("BT1 3.6V reads 3.5", "sound", ""), ("BT1 3.6V reads 0.4", "replace", "flat"),
        ("LS1 8ohm reads 7.2", "sound", "impedance"), ("LS1 8ohm reads OL", "replace", "open"), ("VR3 trimmer 10k reads 11k", "sound", ""),
        ("HS1 heatsink sound", "sound", ""), ("R5 2k2 sound", "not seen", "looks sound"), ("MOD1 module dead", "replace", "noted: dead"),
    ],
)  # fmt: skip
def test_a_part_of_each_kind_is_judged_by_what_it_reads(line, verdict, says):
    found = judge_device(read_device(named(line)))
    assert found.name == verdict and says in " ".join(e.text for e in found.evidence), found


def test_every_kind_that_is_measured_has_limits_and_says_them():
    for kind, title in TITLES.items():
        if kind in (*NOTHING_TO_MEASURE, "chip", "regulator", "adapter", "module", "battery", "thermistor"):
            continue
        limits = sound_readings(read_device(f"AA1 {kind}"))
        assert limits and all(one.text and one.why for one in limits), title
        order = IN_ORDER.get(kind, ("ohms",))
        assert order[0] in {one.what for one in limits}, title


def test_a_later_reading_stands_beside_an_earlier_one_of_another_thing_and_replaces_the_same():
    part = read_device("RL1 relay 12V 120ohm reads coil 300")
    assert judge_device(part).name == "replace"
    later = on_top(part, read_device("RL1 relay reads coil 121 closed 0.1 lifted"))
    assert (
        [one.text for one in later.reads] == ["121 Ω", "100 mΩ"]
        and later.lifted
        and judge_device(later).name == "sound"
    )
    assert read_device(later.as_line()) == later


def test_in_circuit_less_clears_nothing_and_more_condemns():
    short = judge_device(read_device("R5 resistor 10k reads 4k in-circuit"))
    assert short.name == "not seen" and short.evidence[0].rule == "in circuit"
    assert judge_device(read_device("R5 resistor 10k reads 15k in-circuit")).name == "replace"


@given(st.floats(1.0, 1e6), st.floats(0.01, 0.2), st.floats(0.1, 10.0))
def test_a_lifted_resistor_is_sound_inside_its_tolerance_and_replaced_far_out_of_it(ohms, share, ratio):
    line = f"R1 resistor {ohms:.6g}ohm reads {ohms * ratio:.6g}ohm lifted note {share * 100:.3g}%"
    name = judge_device(read_device(line)).name
    if abs(ratio - 1) <= share:
        assert name == "sound"
    elif abs(ratio - 1) > 2 * (share + 0.01) + 1.3 / ohms + 1e-3:
        assert name == "replace"


def test_a_verdict_by_hand_has_its_reason_and_never_hides_what_is_plain_to_see():
    with pytest.raises(BadInput, match="a reason in a few words"):
        read_device("R5 resistor 2k2 OL judged sound")
    told = judge_device(read_device("R5 resistor 2k2 OL judged sound note the trace was open"))
    assert told.name == "sound" and told.by_hand and "instead of replace" in told.leading
    assert judge_device(read_device("R5 resistor 2k2 burnt judged sound note it still reads right")).name == "replace"
    assert judge_device(read_device("BT1 battery 3.6V leaking judged sound note only a little of it")).name == "replace"


def test_a_key_has_one_limit_wherever_it_is_told():
    pressed = next(step for step in house_procedures()["keyboard-contacts"].steps if step.check)
    look = house_evidence().causes["switch contact"].look
    assert (
        pressed.check.high == CARBON
        and f"at most {CONTACT:g} Ω of metal" in look
        and f"at most {CARBON:g} Ω of a carbon key" in look
    )
