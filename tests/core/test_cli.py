"""The command line, as a person runs it: no database, JSON of the promised shape, one clear line for bad input."""

import json
import subprocess
import sys

import pytest

from idlebench.cli import main

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
