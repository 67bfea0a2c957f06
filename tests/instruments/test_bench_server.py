"""The simulated bench as instruments: driven by a VISA client that knows nothing of the program, verb by verb."""

import json
import subprocess
import sys

import numpy as np
import pytest
import pyvisa

SUPPLY = "bridge 15V 1.1ohm store C1 regulator VR1 12V 0.5A dropout 2.2\n"
SURVEY = "ref,value,volts,kind\nC1,3300u,25,wet\n"


@pytest.fixture
def files(tmp_path):
    (tmp_path / "supply.txt").write_text(SUPPLY)
    (tmp_path / "survey.csv").write_text(SURVEY)
    (tmp_path / "truth.txt").write_text("C1 cap 330u esr 1.4\n")
    return tmp_path


def command(files, *more):
    names = ["--supply", str(files / "supply.txt"), "--survey", str(files / "survey.csv")]
    return [sys.executable, "-m", "idlebench.cli", "bench", *names, *more]


@pytest.fixture
def visa(files):
    """A VISA session with the bench, served by the command of its own process."""
    more = ("--truth", str(files / "truth.txt"), "--state", "mains 230V 60Hz; load rated", "--serve", "--json")
    server = subprocess.Popen(command(files, *more), stdout=subprocess.PIPE, text=True)
    manager = pyvisa.ResourceManager("@py")
    try:
        told = json.loads(server.stdout.readline())
        session = manager.open_resource(told["visa"], read_termination="\n", write_termination="\n", timeout=5000)
        yield session
        session.close()
    finally:
        manager.close()
        server.terminate()
        server.wait()
        server.stdout.close()


def number(session, question):
    return float(session.query(question))


def test_every_verb_of_the_meter_the_source_and_the_scope(visa):
    assert visa.query("*IDN?").count(",") == 3
    assert number(visa, "MEAS:VOLT:DC?") == 9.9e37 and "no probe" in visa.query("SYST:ERR?")
    visa.write("ROUT:CLOS (@+12V)")
    assert number(visa, "MEAS:VOLT:DC?") == pytest.approx(11.13, abs=0.05)
    assert 1.0 < number(visa, "MEAS:VOLT:AC?") < 1.5
    assert number(visa, "MEAS:CURR:DC?") == pytest.approx(0.5, rel=0.01)
    visa.write("ROUT:CLOS (@C1)")
    assert number(visa, "MEAS:VOLT:DC?") == pytest.approx(14.65, abs=0.05)
    assert 20 <= number(visa, "MEAS:TEMP?") < 60
    # ohms and the LCR meter are refused while the power is on
    assert number(visa, "MEAS:RES?") == 9.9e37 and visa.query("SYST:ERR?").startswith("-221")
    assert visa.query("SYST:ERR?").startswith("0,")
    # the source
    assert (
        number(visa, "MEAS:VOLT?") == 230
        and 0.04 < number(visa, "MEAS:CURR?") < 0.07
        and visa.query("STAT:QUES?") == "0"
    )
    visa.write("CURR 0.02")
    assert visa.query("STAT:QUES?") == "1"
    visa.write("CURR 5")
    visa.write("VOLT 120")
    low = number(visa, "MEAS:VOLT:DC?")
    assert low < 9 and number(visa, "MEAS:VOLT?") == 120
    # the scope: two cycles, the reservoir's saw-tooth at twice the mains
    visa.write("VOLT 230")
    visa.write("WAV:POIN 2000")
    points, step, *_ = visa.query("WAV:PRE?").split(",")
    data = np.array(visa.query_binary_values("WAV:DATA?", datatype="f", is_big_endian=False))
    assert len(data) == int(points) == 2000 and float(step) * 2000 == pytest.approx(2 / 60)
    assert np.ptp(data) == pytest.approx(7.8, abs=0.4) and data.mean() == pytest.approx(14.65, abs=0.1)
    assert int(np.abs(np.fft.rfft(data - data.mean())).argmax()) == 4
    # off: the LCR meter
    visa.write("OUTP OFF")
    assert number(visa, "MEAS:VOLT?") == 0 and number(visa, "MEAS:VOLT:DC?") == 0
    assert number(visa, "MEAS:CAP?") == pytest.approx(330e-6, rel=0.01)
    assert number(visa, "MEAS:ESR?") == pytest.approx(1.4, rel=0.01)
    visa.write("FREQ 100000")
    assert number(visa, "MEAS:ESR?") == pytest.approx(1.4 * 0.4, rel=0.02)
    assert number(visa, "MEAS:RES?") == 9.9e37
    visa.write("OUTP ON")
    visa.write("ROUT:CLOS (@+12V)")
    assert number(visa, "MEAS:VOLT:DC?") == pytest.approx(11.13, abs=0.05)


def test_what_is_not_understood_is_an_error_and_nothing_breaks(visa):
    for line in (
        "ROUT:CLOS (@+5V)",
        "VOLT lots",
        "VOLT -5",
        "CURR 0",
        "OUTP PERHAPS",
        "WAV:POIN 1",
        "FREQ 0",
        "BANG 1",
        "ROUT:CLOS 7",
    ):
        visa.write(line)
        assert not visa.query("SYST:ERR?").startswith("0,"), line
    visa.write("ROUT:CLOS (@+12V)")
    assert number(visa, "MEAS:VOLT:DC?") > 10


def test_read_once_as_promised(files):
    reads = "+12V dc; +12V ripple_mains; C1 dc; lamp; mains amps"
    argv = command(
        files, "--truth", str(files / "truth.txt"), "--state", "mains 230V 60Hz; load rated", "--read", reads, "--json"
    )
    one, two = (subprocess.run(argv, capture_output=True, text=True, check=True).stdout for _ in range(2))
    assert one == two
    told = json.loads(one)
    assert set(told) == {"readings", "events", "expected"} and told["events"] == []
    assert [(r["point"], r["what"], r["unit"]) for r in told["readings"]][:2] == [
        ("+12V", "dc", "V"),
        ("+12V", "ripple_mains", "V"),
    ]
    assert told["readings"][0]["value"] == pytest.approx(11.13, abs=0.05)
    assert told["expected"][2]["point"] == "C1" and 16 < told["expected"][2]["low"] < told["expected"][2]["high"] < 17.5
    cold = subprocess.run(command(files, "--read", "+12V ohms", "--json"), capture_output=True, text=True, check=True)
    assert json.loads(cold.stdout)["readings"][0] == {
        "point": "+12V",
        "what": "ohms",
        "value": None,
        "unit": "Ω",
        "overload": True,
    }


@pytest.mark.parametrize(
    ("more", "said"),
    [
        (("--read", "+5V dc"), "a rail, a part"), (("--read", ""), "what to read"), (("--read", "C1 dc", "--state", "mains lots"), "mains"),
        (("--read", "C1 dc", "--seed", "x"), "seed"), (("--read", "C1 dc", "--fuse", "big"), "a fuse as it is marked"), (("--serve", "--port", "99999999"), "a whole number from 0 to 65535"),
        (("--read", "C1 esr", "--state", "mains 230V"), "everything off"),
    ],
)  # fmt: skip
def test_bad_input_is_one_clear_line(files, more, said):
    found = subprocess.run(command(files, *more), capture_output=True, text=True, check=False)
    assert found.returncode == 2 and said in found.stderr and found.stderr.count("\n") == 1 and not found.stdout
