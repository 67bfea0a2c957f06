"""Whatever is typed: every reader takes it or says why, and what it takes it writes so that it reads back the same."""

import string
from functools import partial

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.core.board.column_map import read_foreign
from idlebench.core.board.devices import Device, read_device
from idlebench.core.board.dismantle import read_step
from idlebench.core.board.profile import read_profile
from idlebench.core.board.quickline import read_line
from idlebench.core.board.square_up import square_up
from idlebench.core.board.tables import read_catalogue, read_survey
from idlebench.core.board.zones import Zone, read_zone
from idlebench.core.choose.device_tables import TABLES, read_devices
from idlebench.core.circuit.supply_lines import read_model
from idlebench.core.circuit.supply_working import read_load
from idlebench.core.judge.policy import read_policy
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.state import read_state
from idlebench.core.simulate.supply import read_fuse
from idlebench.core.simulate.truth import read_truth
from idlebench.core.text.dates import dated, hold
from idlebench.core.text.marking import read_marking
from idlebench.core.text.nets import read_nets, write_nets
from idlebench.core.text.rails_and_chips import chip_line, read_chip, read_rail
from idlebench.instruments import Probed, believable, meter_address

WORDS = st.sampled_from(
    ["C1", "VR1", "F1", "BT1", "U1", "bridge", "centre", "half", "mains", "9V", "25VA", "4ohm", "store", "stores", "C14,C15", "regulator", "5V", "1A", "converter",
     "flyback", "buck", "30W", "eff", "0.8", "at", "42k", "40,30", "60x20", "heat", "lid", "drive", "daughter", "70", "hides", "rail", "duty", "0.47", "choke", "current",
     "load", "8ohm", "short", "joint", "step", "on", ";", "mains", "230V", "cap", "lamp", "FB", "dummy", "fuse", "T", "FF", "T1.6A", "250V", "5x20", "battery", "leaking", "winding", "diode", "7805", "7912", "note", "gnd", "20", "+5V", "40", "clock",
     "100u", "4u7", "esr", "6.8", "sound", "film", "X2", "-12V", "−5", "nan", "1e999", "0", "µ", "Ω", "∞", "½", "٣", "", "lots"]
)  # fmt: skip
LINES = st.lists(WORDS, max_size=10).map(" ".join)
TEXTS = st.one_of(LINES, st.text(max_size=60), st.text(string.printable, max_size=60))

READERS = {
    "supply": read_model, "zone": read_zone, "other": read_device, "chip": read_chip, "rail": read_rail, "part": read_line, "marking": read_marking, "step": read_step,
    "date": hold, "load": read_load, "meter": meter_address, "nets": read_nets, "foreign": read_foreign, **{what: partial(read_devices, what) for what in TABLES},
    "survey": read_survey, "catalogue": read_catalogue, "truth": read_truth, "state": read_state, "marked fuse": read_fuse,
}  # fmt: skip


@pytest.mark.parametrize("name", READERS)
@settings(max_examples=120)
@given(text=TEXTS)
def test_any_text_is_taken_or_refused_with_words(name, text):
    try:
        READERS[name](text)
    except BadInput as error:
        assert error.expected and len(str(error)) < 600


@pytest.mark.parametrize(
    ("read", "write"), [(read_zone, Zone.as_line), (read_device, Device.as_line), (read_chip, chip_line), (read_rail, lambda r: r.as_line())],
    ids=["zone", "other", "chip", "rail"],
)  # fmt: skip
@settings(max_examples=200)
@given(text=LINES)
def test_what_is_taken_reads_back_the_same(read, write, text):
    try:
        found = read(text)
    except BadInput:
        return
    assert write(read(write(found))) == write(found)


@given(st.binary(max_size=200))
def test_any_bytes_are_no_profile_nets_or_table_unless_they_are(data):
    for read in (read_profile, read_nets, read_foreign, partial(read_devices, "regulator"), read_survey):
        try:
            read(data)
        except BadInput as error:
            assert error.expected


@given(
    st.dictionaries(
        st.sampled_from(
            ["title", "reason", "what", "stores", "kinds", "values", "regulators", "weights", "weight_value", "name"]
        ),
        TEXTS,
    )
)
def test_any_form_is_a_policy_or_says_which_field(typed):
    try:
        policy = read_policy(typed)
        assert read_policy(policy.as_json()) == policy
    except BadInput as error:
        assert error.field


@given(st.text(max_size=200))
def test_date_lines_never_lose_a_line(text):
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    assert [d.line for d in dated(text, 1984)] == lines


@given(st.lists(st.tuples(st.floats(-1e4, 1e4), st.floats(-1e4, 1e4)), min_size=4, max_size=4))
def test_any_four_points_square_up_or_say_why(points):
    try:
        squared = square_up(points, [(0.0, 0.0), (100.0, 0.0), (100.0, 60.0), (0.0, 60.0)])
    except BadInput as error:
        assert error.field == "points"
    else:
        assert squared.pixel(0, 0) == pytest.approx(points[0], abs=1e-2 * (1 + max(map(abs, points[0]))))


@settings(max_examples=60)
@given(
    st.floats(1e-9, 1e-2), st.floats(4, 450), st.sampled_from(["wet", "film", "ceramic", "tantalum", "polymer", "paper"]),
    st.sampled_from(["", "sound", "leaking", "bulging", "crusty"]), st.sampled_from([50.0, 120.0, 1e3, 100e3]), st.floats(1e-6, 1e-2), st.floats(1e-3, 1.0),
)  # fmt: skip
def test_the_stand_in_reads_what_could_be(value, volts, kind, looks, frequency, near, near_esr):
    alone = Probed(value=value, volts=volts, kind=kind, looks=looks, seed="seed")
    capacitance, esr = believable(alone, frequency)
    assert 0 < capacitance < 2 * value and esr > 0
    assert believable(alone, frequency) == (capacitance, esr), "the same part reads the same each time"
    inside = believable(
        Probed(
            value=value,
            volts=volts,
            kind=kind,
            looks=looks,
            seed="seed",
            in_circuit=True,
            beside_value=near,
            beside_esr=near_esr,
        ),
        frequency,
    )
    assert inside[1] <= max(esr, near_esr) * 1.001, "neighbours only make it look better"
    assert Probed.from_command(alone.as_command().removeprefix("BENC:PROB ")) == alone


def test_nets_of_any_table_are_written_as_read():
    nets = read_nets("net;ref;pin\nGND;U1;20\n+5V;U1;40\n")
    assert read_nets(write_nets(nets.nodes)).nodes == nets.nodes
