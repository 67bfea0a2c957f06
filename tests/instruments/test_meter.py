"""The meter and its stand-in over a real socket, well and badly behaved."""

import socket

import pytest

from idlebench.core.judge.ageing import new_esr
from idlebench.core.refusal import BadInput
from idlebench.instruments import LcrMeter, Probed, StandIn, believable, read_address
from idlebench.instruments import meter as meters

STORE = Probed(value=100e-6, volts=16.0, kind="wet", looks="sound", seed="B MB-80 C4")


@pytest.fixture
def stand_in():
    with StandIn() as server:
        yield server


def read(server, part, patience=3.0):
    with LcrMeter(server.address, patience) as meter:
        meter.tell(part.as_command())
        return meter.read()


def test_a_reading_over_the_wire_is_what_the_model_says(stand_in):
    found = read(stand_in, STORE)
    value, esr = believable(STORE, 120.0)
    assert found.capacitance == pytest.approx(value, rel=1e-5) and found.esr == pytest.approx(esr, rel=1e-5)
    assert found.frequency == 120.0
    assert "µF" in found.text and "120 Hz" in found.text


def test_it_says_what_it_is_and_keeps_its_frequency(stand_in):
    with LcrMeter(stand_in.address) as meter:
        assert "STAND-IN" in meter.identity
        meter.tell("FREQ 100000")
        meter.tell(STORE.as_command())
        assert meter.read().frequency == 100e3


@pytest.mark.parametrize(
    ("fault", "said"),
    [
        ("garbage", "expected 2 numbers"),
        ("overload", "overload"),
        ("silent", "no answer to FETC?"),
        ("late", "no answer to FETC?"),
    ],
)
def test_a_meter_that_misbehaves_is_told_of(stand_in, fault, said):
    stand_in.fault, stand_in.delay = fault, 0.6
    with pytest.raises(BadInput, match=said.replace("?", r"\?")):
        read(stand_in, STORE, patience=0.25)
    stand_in.fault = ""
    assert read(stand_in, STORE).capacitance > 0, "a late answer is not taken for the next one"


def test_nobody_there():
    with StandIn() as gone:
        address = gone.address
    with pytest.raises(BadInput, match="a meter that listens there"):
        LcrMeter(address, 0.5)


@pytest.mark.parametrize(
    "text", ["", "nowhere", "127.0.0.1", "127.0.0.1:99999999", "TCPIP::x", "a b:5025", "http://x:1/"]
)
def test_addresses_that_are_none(text):
    with pytest.raises(BadInput, match="a meter's address"):
        read_address(text)


def test_a_part_that_is_not_there_overloads(stand_in):
    with pytest.raises(BadInput, match="probes touch"):
        read(stand_in, Probed(looks="missing"))


def test_worn_parts_read_worn_and_neighbours_hide_it():
    limit = new_esr(100e-6, 16.0, 120.0)
    worn = Probed(value=100e-6, volts=16.0, kind="wet", looks="leaking", seed="x")
    value, esr = believable(worn, 120.0)
    assert esr > 1.5 * limit and value < 80e-6
    in_circuit = Probed(
        value=100e-6,
        volts=16.0,
        kind="wet",
        looks="leaking",
        seed="x",
        in_circuit=True,
        beside_value=2200e-6,
        beside_esr=0.1,
    )
    hidden_value, hidden_esr = believable(in_circuit, 120.0)
    assert hidden_esr < 0.2 * esr and hidden_value > 2000e-6, "in circuit clears nothing"


@pytest.mark.parametrize("seed", [f"part {i}" for i in range(30)])
def test_sound_parts_mostly_read_sound(seed):
    value, esr = believable(Probed(value=47e-6, volts=25.0, kind="wet", looks="sound", seed=seed), 120.0)
    assert 0.8 < value / 47e-6 < 1.25 and esr < 3 * new_esr(47e-6, 25.0, 120.0)


def test_a_command_reads_back():
    assert Probed.from_command(STORE.as_command()[10:]) == STORE
    for bad in ("", "1,2", "x" * 500, ",".join(["nan"] * 9)):
        with pytest.raises(ValueError):
            Probed.from_command(bad)


@pytest.mark.parametrize("host", ["169.254.7.7", "169.254.169.254"])
def test_an_address_that_machines_give_themselves_is_asked_only_on_a_cable(host, monkeypatch):
    """No interface of a test's machine lies there; with one, all but the one that is never asked."""
    with pytest.raises(BadInput):
        read_address(f"{host}:5025")

    class Cabled(socket.socket):
        def connect(self, address):
            pass

        def getsockname(self):
            return ("169.254.3.3", 40000)

    monkeypatch.setattr(meters.socket, "socket", Cabled)
    if host == meters.NEVER:
        with pytest.raises(BadInput):
            read_address(f"{host}:5025")
    else:
        assert read_address(f"{host}:5025") == f"TCPIP::{host}::5025::SOCKET"
