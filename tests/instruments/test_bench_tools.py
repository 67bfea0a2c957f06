"""Sources, loads and scopes over VISA, on the simulated bench and on things that only look like instruments."""

import socketserver
import threading

import numpy as np
import pytest

from idlebench.core.board.parts import Fitted
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.sitting import Sitting
from idlebench.core.simulate.state import read_state
from idlebench.core.simulate.supply import Bench
from idlebench.instruments import KINDS, BenchServer, Multimeter, Scope, Source, tried

LINES = "bridge 15V 1.1ohm store C1 regulator VR1 12V 0.5A dropout 2.2"


@pytest.fixture
def bench():
    made = Bench.of(LINES, [Fitted(ref="C1", value=3300e-6, volts=25.0)], "T 250mA 250V")
    with BenchServer(Sitting(bench=made, faults=(), state=read_state("mains 230V 50Hz; load rated"))) as server:
        yield server


class Says(socketserver.StreamRequestHandler):
    def handle(self):
        for line in self.rfile:
            answer = self.server.answers.get(line.strip().decode(), self.server.answers.get(""))
            if answer is not None:
                self.wfile.write(answer + b"\n")


@pytest.fixture
def odd():
    """Something that answers as it is told to; None: not at all."""
    made = []

    def start(**answers):
        server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Says)
        server.daemon_threads = True
        server.answers = {"*IDN?": b"Workshop,ODD,1,1", **{k.replace("_", ":") + "?": v for k, v in answers.items()}}
        threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
        made.append(server)
        return f"127.0.0.1:{server.server_address[1]}"

    yield start
    for server in made:
        server.shutdown()
        server.server_close()


@pytest.mark.parametrize("switch", ["OUTP", "INP"])
def test_a_source_is_set_only_while_it_is_off(bench, switch):
    with Source(bench.address, switch=switch) as source:
        assert source.is_on
        with pytest.raises(BadInput, match="output that is on"):
            source.set(12, 0.5)
        source.off()
        assert not source.is_on and source.gives().now_volts == 0
        source.set(230, 0.2)
        told = source.gives()
        assert (told.volts, told.limit, told.on) == (230, 0.2, False) and "output off" in told.words
        for volts, limit in (
            (-5, 1),
            (0, 1),
            (5, -1),
            (5, 0),
            (1e4, 1),
            (5, 1e4),
            (float("nan"), 1),
            (5, float("inf")),
        ):
            with pytest.raises(BadInput):
                source.set(volts, limit)
        assert source.gives().volts == 230, "nothing was set"


def test_amps_and_the_limit_are_read(bench):
    """Half an amp at 12 V behind a regulator from 16.7 V: some 0.06 A of 230 V."""
    with Source(bench.address) as source:
        assert 0.03 < source.amps() < 0.12 and not source.limited()


def test_a_scopes_trace_is_what_the_bench_shows(bench):
    with Multimeter(bench.address) as meter:
        meter.probe("C1")
        mean = meter.read("dc_volts")
    with Scope(bench.address) as scope:
        scope.tell("ROUT:CLOS (@C1)")
        time, volts = scope.trace(2000)
    assert len(time) == len(volts) == 2000 and np.mean(volts) == pytest.approx(mean, rel=0.01)
    assert np.ptp(volts) == pytest.approx(0.88 * 60 / 50, rel=0.15), "0.877 V at 60 Hz"
    assert np.all(np.diff(time) > 0) and time[-1] == pytest.approx(0.04, rel=0.01)


def test_each_kind_is_tried_as_its_kind(bench):
    said = {}
    for kind in ("source", "ac", "load"):
        name, said[kind] = tried(kind, bench.address)
        assert "BENCH" in name and "limit" in said[kind]
    with pytest.raises(BadInput):
        tried("toaster", bench.address)
    assert set(KINDS) == {"meter", "lcr", "source", "ac", "load", "scope"}


@pytest.mark.parametrize(
    ("answers", "what"),
    [
        ({"VOLT": b"9.9E37"}, "source"), ({"VOLT": b"kaboom"}, "source"),
        ({"VOLT": b"5", "CURR": b"1", "MEAS_VOLT": b"5", "MEAS_CURR": b"0.1", "OUTP": b"maybe"}, "source"),
        ({"WAV_PRE": b"kaboom"}, "scope"), ({"WAV_PRE": b"4,1e-3,0,1,0,F"}, "scope"),
        ({"WAV_PRE": b"4,-1e-3,0,1,0,F"}, "scope"), ({"WAV_PRE": b"400000,1e-3,0,1,0,F"}, "scope"), ({"WAV_PRE": b"nan,1,0,1,0"}, "scope"),
        ({"WAV_PRE": b"2,1e-3,0,1,0,F", "WAV_DATA": b"#212" + bytes(12)}, "scope"),
        ({"WAV_PRE": b"2,1e-3,0,1,0,F", "WAV_DATA": b"#18" + np.array([1, np.nan], "<f4").tobytes()}, "scope"),
        ({"MEAS_VOLT_DC": b"5000"}, "meter"),
    ],
)  # fmt: skip
def test_what_only_looks_like_an_instrument_is_said(odd, monkeypatch, answers, what):
    monkeypatch.setattr("idlebench.instruments.meter.PATIENCE", 0.3)
    address = odd(**answers)
    with pytest.raises(BadInput) as told:
        tried(what, address)
    assert told.value.read and told.value.expected


def test_an_output_that_stays_on_is_told_to_be_switched_off_by_hand(odd):
    with Source(odd(OUTP=b"1")) as source, pytest.raises(BadInput, match="by hand, now"):
        source.off()
