"""Monitors: the figures of the field, what is typed of one, what its places get, and what is drawn of a picture."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.monitor_lines import read_monitor
from idlebench.core.board.parts import Fitted
from idlebench.core.circuit.monitor import beside, field_store, hum_bar, lamp_for, lamp_load, retrace, rise, tube_charge
from idlebench.core.draw.picture_signs import PATTERNS, faces, pattern
from idlebench.core.faults.signs import ALONE
from idlebench.core.prove import cold_checks, interlocks
from idlebench.core.prove.checks import BoardFacts, Check
from idlebench.core.prove.monitor_cold import cold_checks_of_monitor, discharge_checks
from idlebench.core.prove.monitors import monitor_steps
from idlebench.core.prove.typed_readings import read_reading
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.monitor import shows
from idlebench.core.simulate.truth import read_truth

LINES = """monitor 15.625kHz 50Hz tube 12kV nominal 12in
line stage B+ 12V retrace C112 6n8 yoke 1.2mH deflection C115 boost C118 transformer T2 transistor Q3 draws 1.1A
field output IC1 store C122 1000u into 12 mH 8 ohm 0.9A
heater 12V 0.3A
video rail 60V C201"""


@pytest.mark.parametrize(
    ("inductance", "value", "line", "supply", "time", "pulse"),
    [
        (1.2e-3, 6.8e-9, 15625, 12, 8.974e-6, 127.6), (1.2e-3, 5.6e-9, 15625, 12, 8.144e-6, 141.3),
        (1.2e-3, 4.7e-9, 31500, 115, None, 703), (1.2e-3, 4.7e-9, 15700, 115, None, 1477), (beside(1.2e-3, 5e-3), 4.7e-9, 31500, 115, None, 790),
    ],
)  # fmt: skip
def test_retrace_and_pulse_as_the_field_reckons_them(inductance, value, line, supply, time, pulse):
    found = retrace(inductance, value, line, supply).values
    assert found["pulse"] == pytest.approx(pulse, rel=1e-3)
    assert time is None or found["retrace"] == pytest.approx(time, rel=2e-4)


def test_the_other_figures_of_the_field():
    assert rise(1.2e-3, 6.8e-9, 5.6e-9, 15625, 12) == pytest.approx(0.107, abs=5e-4)
    assert tube_charge(1e-9, 12e3).values["energy"] == pytest.approx(0.072)
    assert hum_bar(50, 60, 2).values["seconds"] == pytest.approx(0.050)
    assert hum_bar(50, 50.08, 1).values["seconds"] == pytest.approx(12.5)
    assert any("flickers" in c for c in hum_bar(50, 60, 2).cautions) and not any(
        "flickers" in c for c in hum_bar(50, 50.08, 1).cautions
    )
    assert any("stands still" in c for c in hum_bar(50, 50, 2).cautions)
    for value, corner in ((1000e-6, 19.9), (3300e-6, 6.03)):
        store = field_store(value, 8, 60)
        assert store.values["corner"] == pytest.approx(corner, rel=2e-3) and any(
            "check first" in c for c in store.cautions
        )
    assert field_store(1e-3, 8, 60, 1.0).values["ripple"] == pytest.approx(1 / math.sqrt(12))
    assert lamp_load(60, 230, 115).values["watts"] == pytest.approx(21.2, abs=0.1) and lamp_for(21, 230, 115) == 60


@given(st.floats(0.5e-3, 3e-3), st.floats(2e-9, 8e-9), st.floats(0.5, 0.99))
def test_less_of_a_retrace_part_never_lowers_the_pulse(inductance, value, share):
    assert rise(inductance, value, share * value, 15625, 24) > 0


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("line stage B+ 12V retrace C1 6n8 yoke 1mH", "the monitor itself first"), ("monitor 15kHz 50Hz", "Missing: anode"), ("monitor 15kHz 50Hz tube 12V", "12V"),
        ("monitor 15kHz 50Hz tube 12kV\nline stage B+ 12V retrace C1 yoke 1mH", "with its value by the service sheet"),
        ("monitor 15kHz 50Hz tube 12kV\nline stage B+ 12V retrace C1 6n8", "inductance"),
        ("monitor 15kHz 50Hz tube 12kV\nline stage B+ 12V retrace C1 6u8 yoke 1.2mH", "shorter than a line"),
        ("monitor 15kHz 50Hz tube 12kV\nline stage B+ -12V retrace C1 6n8 yoke 1.2mH", "-12V"), ("monitor 15kHz 50Hz tube 12kV\nfield output IC1 store C2", "into"),
        ("monitor 15kHz 50Hz tube 12kV\nheater hot", "volts"), ("monitor 15kHz 50Hz tube 12kV\nheater 6.3V\nheater 6.3V", "each stage once"),
        ("monitor 15kHz 50Hz tube 12kV\npicture big", "monitor, line stage"),
    ],
)  # fmt: skip
def test_lines_that_cannot_be_are_said(text, words):
    with pytest.raises(BadInput) as refused:
        read_monitor(text)
    assert words in str(refused.value)


def board(lines=LINES, **more):
    return BoardFacts(name="VM-12", supply="linear", row="b6", monitor=read_monitor(lines), **more)


def test_a_marked_maximum_may_be_passed_by_nothing_and_a_nominal_by_five_per_cent():
    assert board().monitor.anode_most == pytest.approx(12600)
    assert board(LINES.replace("nominal", "max")).monitor.anode_most == 12000


def test_the_anode_is_read_by_a_probe_and_by_nothing_else():
    (check,) = [c for step in monitor_steps(board(), ()) for c in step.checks if c.kind == "tube_volts"]
    assert read_reading(check, "11.8 kV probe 3 %") == pytest.approx(11800 * 1.03), "its error counts against the unit"
    assert check.passes(read_reading(check, "12 kV with probe 3%")) and not check.passes(
        read_reading(check, "12.4 kV probe 3%")
    )
    for text in (
        "11.8 kV",
        "11800",
        "12 V probe 3 %",
        "12 probe 3%",
        "11.8 kV probe",
        "11.8 kV probe 40 %",
        "-11.8 kV probe 3%",
        "probe",
        "",
    ):
        with pytest.raises(BadInput):
            read_reading(check, text)
    with pytest.raises(BadInput, match="high-voltage probe"):
        read_reading(check, "600 V")
    with pytest.raises(BadInput, match="over 1 kV"):
        read_reading(check, "12 V probe 1 %")


def test_the_probe_is_on_before_the_line_stage_has_power_and_b_plus_comes_in_steps():
    steps = monitor_steps(board(), ())
    first = next(s for s in steps if any("line stage" in s.title.lower() and c.live for c in s.checks))
    assert first.key == "mrise.b6" and "limiter lamp" in first.title
    probe = first.checks[0]
    assert (
        "Probe under the cup" in probe.ask
        and probe.safety
        and not probe.live
        and probe.serves == ("mrise.b6", "mline.b6")
    )
    # 12 kV on 12 V: 1000 times, 1050 at most; 6.8 nF to 5.6 nF is 10.7 % more, found on the lamp at 4.6 V instead of at 13.3 kV
    ratio = first.checks[1]
    assert (ratio.kind, ratio.high, ratio.off_now) == ("tube_ratio", pytest.approx(1050), True)
    assert read_reading(ratio, "4.5 kV probe 2 % at 4.6 V") == pytest.approx(4500 * 1.02 / 4.6)
    assert ratio.passes(read_reading(ratio, "4.6 kV probe 2 % at 4.6V")) and not ratio.passes(
        read_reading(ratio, f"{4.6 * 1.107} kV probe 2 % at 4.6 V")
    )
    for text in (
        "4.6 kV probe 2 %",
        "4.6 kV at 4.6 V",
        "4.6 kV probe 2 % at 0",
        "4.6 kV probe 2 % at -4.6 V",
        "0.2 kV probe 2 % at 1 V",
        "",
    ):
        with pytest.raises(BadInput):
            read_reading(ratio, text)
    # the full B+ comes last, and the anode is the first thing read there
    full = steps[2]
    assert [c.kind for c in full.checks[:3]] == ["look", "tube_volts", "tube_ratio"]
    # a variable transformer behind a linear supply has a step of its own between
    keys = [s.key for s in monitor_steps(board(), (), part=True)]
    assert (
        keys[:4] == ["mlamp.b6", "mrise.b6", "mpart.b6", "mline.b6"]
        and "60 %" in monitor_steps(board(), (), part=True)[2].title
    )
    # the over-voltage shutdown is tested where the sheet names how
    tested = monitor_steps(board(LINES.replace("boost", "shutdown TP3 boost")), ())
    assert [s.key for s in tested][2:4] == ["mline.b6", "mshut.b6"] and "TP3" in tested[3].checks[0].point


def test_what_a_monitor_asks_cold_and_on_its_way_up():
    cold = {c.key: c for c in (*discharge_checks(board()), *cold_checks_of_monitor(board()))}
    assert cold["cold.tube2.b6"].after == ("cold.tube1.b6", 10.0) and cold["cold.tube3.b6"].after == (
        "cold.tube2.b6",
        600.0,
    )
    assert {
        "cold.braid.b6",
        "cold.coils.b6",
        "cold.sheets.b6",
        "cold.line.b6",
        "cold.field.b6",
        "cold.tjoint.b6.t2",
        "cold.stageoff.b6",
    } <= set(cold)
    assert "cold.hot.b6" not in cold
    assert "cold.hot.b6" in {c.key for c in cold_checks([board(LINES.replace("12in", "12in hot chassis"))])}
    steps = monitor_steps(board(), ())
    assert [s.key for s in steps] == ["mlamp.b6", "mrise.b6", "mline.b6", "mfield.b6", "mpict.b6", "msoak.b6"]
    assert all(len(s.key) <= 20 and s.live for s in steps)
    plus = next(c for c in steps[0].checks if c.key.startswith("up.mlamp.bplus"))
    assert (plus.low, plus.high) == (pytest.approx(11.64), pytest.approx(12.36))
    assert {c.hold for s in steps for c in s.checks if c.key.startswith("up.msoak")} == {30.0}


def test_no_board_of_a_monitor_is_fed_before_its_own_steps():
    """Its neck board hangs on it: fed with the rest, the line stage would meet its B+ without a lamp."""
    from idlebench.core import prove
    from idlebench.core.text.rails_and_chips import read_rail

    supply = BoardFacts(name="PS-1", supply="linear", rails=(read_rail("+12 V 2 A"),), row="b1")
    fed = BoardFacts(name="VM-12", row="b2", monitor=read_monitor(LINES))
    neck, video = (
        BoardFacts(name="VM-12N", row="b3"),
        BoardFacts(name="NB", row="b4", parts=(Fitted(ref="C201", value=1e-5, volts=100.0, role="video"),)),
    )
    keys = [s.key for s in prove.power_up((supply, fed, neck, video))]
    assert "feed" not in keys and keys[-6:] == [
        "mlamp.b2",
        "mrise.b2",
        "mline.b2",
        "mfield.b2",
        "mpict.b2",
        "msoak.b2",
    ]
    assert "feed" in [s.key for s in prove.power_up((supply, fed, neck, BoardFacts(name="MB-80", row="b5")))]


def test_no_hand_leaves_a_wrong_tuning_part_in():
    part = Fitted(ref="C112", value=6.8e-9, volts=630.0, kind="film", role="retrace_tuning")
    assert interlocks.leave_in(part, True, "5.6 nF stands there") and not interlocks.leave_in(part, False, "")


def test_every_drawn_sign_is_one_that_can_be_typed_and_no_two_are_alike():
    drawn = faces()
    fourteen = {
        "one bright line across", "one bright line upright", "no height at the bottom", "foldover", "picture small", "picture breathes", "wavy edges",
        "hum bar", "dim", "one colour missing", "retrace lines", "out of focus", "leaning", "stripes",
    }  # fmt: skip
    assert fourteen <= set(drawn) and set(drawn) - {"stripes"} <= set(ALONE)
    assert len({face.strokes for face in drawn.values()}) == len(drawn) and len(
        {face.says for face in drawn.values()}
    ) == len(drawn)
    for name in PATTERNS:
        found = pattern(name)
        assert found.lines or found.dots or found.steps


def test_a_check_of_a_plain_kind_takes_no_probe():
    with pytest.raises(BadInput):
        read_reading(Check(key="k", step="s", kind="dc_volts", point="B+", ask=""), "12 kV probe 3 %")


@pytest.mark.parametrize(
    ("b_plus", "ripple", "values", "truth", "anode", "signs"),
    [
        (12.0, 0.02, {}, "", 12000, ()), (12.0, 0.02, {"C112": 5.6e-9}, "", 13284, ()), (13.0, 0.02, {}, "", 13000, ()),
        (12.0, 0.02, {"C122": 250e-6}, "", 12000, ("no height at the bottom",)), (12.0, 0.02, {}, "C122 open", 12000, ("one bright line across",)),
        (12.0, 0.5, {}, "", 12000, ("hum bar",)), (12.0, 0.02, {}, "Q3 short", 0, ("no picture, heater glows",)),
        (12.0, 0.02, {}, "T2 joint 0.4", 12000, ("picture shakes",)), (0.0, 0.0, {}, "", 0, ("no picture, heater dark",)),
    ],
)  # fmt: skip
def test_what_a_monitor_on_the_simulated_bench_shows(b_plus, ripple, values, truth, anode, signs):
    """5.6 nF for 6.8 nF: +10.7 % at the anode. A third of the field store: pressed. A joint at the line transformer: it shakes."""
    found = shows(read_monitor(LINES), b_plus, ripple, values, read_truth(truth))
    assert found.anode == pytest.approx(anode, rel=1e-3) and found.signs == signs
    assert found.amps == pytest.approx(1.1 * b_plus / 12 if anode else 0.0) and (found.bar is None) == (
        "hum bar" not in signs
    )
