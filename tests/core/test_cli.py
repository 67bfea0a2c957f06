"""The command line, as a person runs it: no database, JSON of the promised shape, one clear line for bad input."""

import json
import subprocess
import sys

import pytest

from idlebench.cli import main
from idlebench.instruments import LcrMeter

SURVEY = "ref,value,volts,diameter,height,role,esr,looks\nC22,100u,10,6.3,11,decoupling,6.8,\nC1,4700u,25,18,35.5,bulk,,leaking\nC9,100n,63,7.2,6.5,filter,,sound\n"


def run(capsys, *argv):
    code = main(list(argv))
    out = capsys.readouterr()
    return code, out.out, out.err


def test_reckon_lists_tells_and_prints_json(capsys):
    code, out, _ = run(capsys, "reckon")
    assert code == 0 and "discharge" in out and "stripe" in out
    code, out, _ = run(capsys, "reckon", "discharge", "value=220u", "volts=325", "resistance=2k2")
    assert code == 0 and "1.68 s" in out and "Caution" in out
    code, out, _ = run(capsys, "reckon", "earth_leakage", "value=4n7", "--json")
    data = json.loads(out)
    assert data["name"] == "earth_leakage" and data["values"]["current"] == pytest.approx(0.34e-3, rel=2e-3)


@pytest.mark.parametrize(
    "argv",
    [("reckon", "nothing"), ("reckon", "discharge", "value=much"), ("reckon", "discharge", "value"), ("reckon", "corner", "colour=red"),
     ("choose", "--survey", "no-such.csv"), ("choose", "--survey", "."), ("choose", "--survey", "S", "--policy", "all"), ("choose", "--survey", "S", "--mains", "5")],
)  # fmt: skip
def test_bad_input_is_exit_2_and_one_line(capsys, tmp_path, argv):
    survey = tmp_path / "s.csv"
    survey.write_text(SURVEY)
    code, out, err = run(capsys, *(str(survey) if a == "S" else a for a in argv))
    assert code == 2 and out == ""
    assert err.startswith("idlebench: ") and err.count("\n") == 1


def test_choose_prints_the_plan_json(capsys, tmp_path):
    survey = tmp_path / "s.csv"
    survey.write_text(SURVEY)
    code, out, _ = run(capsys, "choose", "--survey", str(survey), "--policy", "mend", "--json")
    plan = json.loads(out)
    assert code == 0 and plan["policy"] == "mend"
    assert {p["ref"]: p["verdict"] for p in plan["places"]} == {"C22": "fits", "C1": "fits", "C9": "keep"}
    assert all(p["chosen"] for p in plan["places"][:2])


def test_choose_with_ones_own_catalogue(capsys, tmp_path):
    survey, own = tmp_path / "s.csv", tmp_path / "c.csv"
    survey.write_text(SURVEY)
    own.write_text("part,value,volts,diameter,height,pitch\nMINE,100u,16,6.3,11,2.5\nTEN,1000u,16,6.3,11,2.5\n")
    code, out, _ = run(capsys, "choose", "--survey", str(survey), "--catalogue", str(own), "--json")
    place = json.loads(out)["places"][0]
    assert code == 0 and place["chosen"] == "MINE"
    refused = next(c for c in place["candidates"] if c["part"] == "TEN")
    assert {"value", "tenfold"} <= {r["rule"] for r in refused["reasons"]}


def test_bad_rows_stop_unless_told(capsys, tmp_path):
    survey = tmp_path / "s.csv"
    survey.write_text(SURVEY + "C5,lots,16,,,,,\n")
    code, out, err = run(capsys, "choose", "--survey", str(survey))
    assert code == 2 and out == "" and "Line 5, column value" in err
    code, out, err = run(capsys, "choose", "--survey", str(survey), "--good-rows")
    assert code == 0 and "C22" in out


def test_no_database_and_no_django_are_touched(tmp_path):
    """In a process of its own, with a home that cannot be made."""
    script = "import sys; from idlebench.cli import main; code = main(['reckon', 'corner', '--json']); sys.exit(code or ('django' in sys.modules))"
    done = subprocess.run(
        [sys.executable, "-c", script],
        capture_output=True,
        text=True,
        env={"IDLEBENCH_HOME": "/proc/none", "PATH": ""},
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["values"]["frequency"] == pytest.approx(3.386, rel=1e-3)


#: The table of the open formats: a reckoning, inputs, and the keys of values that others rely on.
PROMISED = {
    "marking": ("text=104K kind=film", "capacitance tolerance volts safety readings"),
    "supply": ("topology=half source=12 frequency=50 source_resistance=2 store=1000u store_esr=0.1 load=0.12A mains_percent=-10",
               "v_avg v_min v_max ripple_pp store_rms source_rms source_peak"),
    "new_esr": ("value=22u volts=16 frequency=120", "esr"),
    "life": ("life=3000 rated_temperature=105 ambient=75 ripple=1.46 rated_ripple=2.29", "hours"),
    "discharge": ("value=220u volts=325 resistance=2k2 safe_volts=10", "seconds first_power energy"),
    "inrush": ("volts=325 value=220u resistance=10.6", "i2t peak"),
    "fuse": ("power=40 efficiency=0.75 power_factor=0.6 mains_min=207 store=220u resistance=10.6", "current rating characteristic i2t"),
    "adapter": ("label_volts=9 label_current=1 kind=unregulated measured=13.6", "expected_unloaded verdict"),
    "regulator": ("v_out=5 load=1 v_in_min=7.7 v_in_max=10.2 dropout=2 theta_jc=3 theta_cs=0.5 theta_sa=8 ambient=45",
                  "headroom dissipation junction theta_sa_max"),
    "converter_ripple": ("topology=flyback current=3.1 duty=0.47 frequency=42k inductor_ripple=0 share=0.5", "ripple"),
    "dummy_load": ("volts=5 current=0.5", "resistance power rating"),
    "reform": ("value=4700u volts=16 resistance=2k2", "steps current_limit time_constant resistor_power"),
    "earth_leakage": ("value=4n7 mains=230 frequency=50", "current"),
    "stripe": ("width=16 order=msb offset=3", "bit"),
}  # fmt: skip


@pytest.mark.parametrize("name", PROMISED)
def test_every_promised_reckoning_works_with_its_keys(capsys, name):
    inputs, keys = PROMISED[name]
    assert main(["reckon", name, *inputs.split(), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert set(keys.split()) <= set(found["values"]) and found["name"] == name
    assert {pair.split("=")[0] for pair in inputs.split()} <= set(found["inputs"]) and found["working"]


@pytest.mark.parametrize(
    "argv",
    [["serve", "--address", "0.0.0.0"], ["serve", "--address", "the bench"], ["reckon", "supply", "store=0"], ["reckon", "supply", "load=90A"],
     ["reckon", "converter_ripple", "duty=1"], ["reckon", "adapter", "kind=solar"], ["reckon", "fuse", "efficiency=1.4"]],
    ids=" ".join,
)  # fmt: skip
def test_what_cannot_be_is_one_line_and_exit_2(capsys, argv):
    assert main(argv) == 2
    said = capsys.readouterr().err
    assert said.startswith("idlebench: ") and said.count("\n") == 1 and "expected" in said


def test_the_stand_in_answers_from_the_command_line(tmp_path):
    import socket

    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "idlebench.cli", "stand-in", "--port", str(port)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as meter:
        try:
            assert f"127.0.0.1:{port}" in meter.stdout.readline()
            with LcrMeter(f"127.0.0.1:{port}") as found:
                assert "STAND-IN" in found.identity
            assert main(["stand-in", "--port", str(port)]) == 2, "a taken port is one line"
        finally:
            meter.terminate()


def test_buy_prints_the_worked_plan(capsys, tmp_path):
    from tests.core.test_buy import DEMAND, OFFERS, SUPPLIERS

    files = {"demand": DEMAND, "offers": OFFERS, "suppliers": SUPPLIERS}
    for name, text in files.items():
        (tmp_path / f"{name}.csv").write_text(text)
    argv = ["buy", *(word for name in files for word in (f"--{name}", str(tmp_path / f"{name}.csv")))]
    code, out, _ = run(capsys, *argv, "--json")
    found = json.loads(out)
    assert (
        code == 0
        and found["total"] == 5.45
        and found["proved"] is True
        and found["gap"] == 0
        and found["part_by_part"] == 8.9
    )
    assert {key: found[key] for key in ("goods", "postage", "handling", "penalties")} == {
        "goods": 1.7, "postage": 2.9, "handling": 0.5, "penalties": 0.35,
    }  # fmt: skip
    assert [(o["supplier"], [(x["part"], x["quantity"], x["price"]) for x in o["lines"]]) for o in found["orders"]] == [
        ("S", [("B", 10, 0.09), ("C", 2, 0.4)])
    ]
    assert {"ref": "C1", "part": "B", "from": "S"}.items() <= found["places"][0].items()
    code, out, _ = run(capsys, *argv)
    assert code == 0 and "€5.45 in all, part by part €8.90. Proven cheapest." in out
    (tmp_path / "shelf.csv").write_text("part,quantity\nA,9\nC,2\n")
    code, out, _ = run(capsys, *argv, "--shelf", str(tmp_path / "shelf.csv"), "--json")
    assert json.loads(out)["total"] == 0 and {p["from"] for p in json.loads(out)["places"]} == {"shelf"}
    (tmp_path / "offers.csv").write_text(OFFERS.replace("1:0.40", "1:0"))
    code, out, err = run(capsys, *argv, "--json")
    assert code == 2 and out == "" and err.count("\n") == 1 and "a price above 0" in err


def test_every_command_shows_an_example_that_it_takes():
    import shlex

    from idlebench.cli import EXAMPLES, _parser

    parser = _parser()
    (commands,) = (
        action for action in parser._actions if getattr(action, "choices", None) and "reckon" in action.choices
    )
    assert set(commands.choices) == set(EXAMPLES)
    for name, example in EXAMPLES.items():
        assert f"Example: {example}" in " ".join(commands.choices[name].format_help().split())
        told = parser.parse_args(shlex.split(example)[1:])
        assert callable(told.run)


@pytest.mark.parametrize("port", ["99999", "-1", "80000000000000000000", "abc", "", "8000.5"])
@pytest.mark.parametrize("command", ["serve", "stand-in"])
def test_a_port_that_cannot_be_is_one_line(capsys, command, port):
    with pytest.raises(SystemExit) as stopped:
        main([command, f"--port={port}"])
    out = capsys.readouterr()
    assert stopped.value.code == 2 and out.out == "" and out.err.count("\n") == 1
    assert f"read “{port}”, expected a whole number from 1 to 65535" in out.err


def test_with_json_what_cannot_be_is_an_object(capsys, tmp_path):
    code, out, err = run(capsys, "reckon", "discharge", "value=much", "--json")
    told = json.loads(err)
    assert (
        code == 2
        and out == ""
        and told["read"] == "much"
        and told["field"] == "value"
        and told["expected"] in told["error"]
    )
    code, _, err = run(capsys, "choose", "--survey", str(tmp_path / "none.csv"), "--json")
    assert code == 2 and json.loads(err)["error"] == f"there is no file {tmp_path / 'none.csv'}"
    with pytest.raises(SystemExit):
        main(["buy", "--json"])
    assert "--demand" in json.loads(capsys.readouterr().err)["error"], "what argparse refuses is an object, too"


@pytest.mark.parametrize("argv", [["backup", "out.zip"], ["export", "1", "-o", "out.zip"]])
def test_a_home_that_is_not_there_is_not_made(capsys, tmp_path, monkeypatch, argv):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("IDLEBENCH_HOME", str(tmp_path / "none"))
    code, out, err = run(capsys, *argv)
    assert code == 2 and out == "" and err.count("\n") == 1 and str(tmp_path / "none") in err
    assert list(tmp_path.iterdir()) == []


def test_who_reads_may_go_away():
    """A pipe that is closed at once, as by head: no traceback, and no complaint."""
    script = "import os, sys; from idlebench.cli import main; r, w = os.pipe(); os.close(r); os.dup2(w, 1); sys.exit(main(['reckon']))"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)
    assert done.returncode == 0 and done.stderr == ""


def test_the_exit_codes_are_in_every_help():
    from idlebench.cli import EXIT_CODES, _parser

    parser = _parser()
    (commands,) = (
        action for action in parser._actions if getattr(action, "choices", None) and "reckon" in action.choices
    )
    for one in (parser, *commands.choices.values()):
        assert EXIT_CODES in " ".join(one.format_help().split())
