"""The counts at the stages and the queries behind them; the bench's own files; the machine check."""

import json
import os
import sqlite3
import subprocess
from pathlib import Path

import pytest
from django.test.utils import CaptureQueriesContext

from idlebench.web.records.models import Board, Unit
from idlebench.web.survey.services import add_line
from idlebench.web.unit.state import states_of, unit_state

from .helpers import pass_up_to, settle

ROOT = Path(__file__).resolve().parents[2]


def left(unit) -> dict[str, str]:
    return {s.key: s.left for s in unit_state(unit.pk).stages}


def done(unit) -> list[str]:
    return [s.key for s in unit_state(unit.pk).stages if s.done]


@pytest.mark.django_db
def test_the_stages_follow_the_work(surveyed):
    unit = surveyed.unit
    assert left(unit) | {"cold": "", "handover": ""} == {
        "intake": "done", "survey": "done", "choose": "2 left", "gather": "", "swap": "", "cold": "", "power": "5 left", "handover": "",
    }  # fmt: skip
    assert unit_state(unit.pk).waits_for.key == "choose"
    settle(unit)
    assert left(unit)["choose"] == "done" and left(unit)["swap"] == "done"
    assert done(unit) == ["intake", "survey", "choose", "gather", "swap"]
    pass_up_to(unit, "")
    assert {"cold", "power"} <= set(done(unit))
    assert unit_state(unit.pk).proof.proven


@pytest.mark.django_db
def test_a_part_too_many_or_too_few_is_seen(surveyed):
    assert unit_state(surveyed.unit_id).board(surveyed.pk).complete
    add_line(surveyed, "C9 10u 16V 5x11")
    state = unit_state(surveyed.unit_id).board(surveyed.pk)
    assert not state.complete and state.counted == "4 of 3"


@pytest.mark.django_db
def test_queries_do_not_grow_with_parts_or_units(surveyed, django_assert_max_num_queries):
    from django.db import connection

    add_line(surveyed, "C9 10u 16V 5x11 series QF")
    with CaptureQueriesContext(connection) as few:
        states_of([surveyed.unit_id])
    for i in range(10, 40):
        add_line(surveyed, f"C{i} 10u 16V 5x11 series QF")
    with CaptureQueriesContext(connection) as many:
        states_of([surveyed.unit_id])
    assert len(many) == len(few)
    for name in "BCDEF":
        unit = Unit.objects.create(job=surveyed.unit.job, name=name)
        Board.objects.create(unit=unit, name="MB-80")
    # each unit asks the same few; what is judged already is not read again
    states_of(Unit.objects.values_list("pk", flat=True))
    with django_assert_max_num_queries(4 + 2 * Unit.objects.count()):
        states_of(Unit.objects.values_list("pk", flat=True))


@pytest.mark.django_db
def test_series_failures_count_across_jobs(surveyed):
    from tests import typed

    add_line(surveyed, "C20 10u 16V series QF leaking")
    other = typed.take_in_job({"name": "Other", "machine": "Other", "units": "Z"}).units.get()
    board = typed.add_board(other, {"name": "B"})
    add_line(board, "C1 47u 16V series QF sound")
    verdict = unit_state(other.pk).parts[0].verdict
    assert verdict.name == "doubtful" and "1 of 1 others of series QF" in verdict.leading


@pytest.mark.django_db
def test_another_unit_of_a_job(client, unit):
    url = f"/job/{unit.job_id}/unit/"
    assert client.post(url, {"name": "D", "unit": unit.pk}).status_code == 302
    again = client.post(url, {"name": "D", "unit": unit.pk})
    assert again.status_code == 422 and "does not have yet" in again.content.decode()
    assert Unit.objects.count() == 2


def command(home: Path, *argv: str) -> subprocess.CompletedProcess:
    env = {**os.environ, "IDLEBENCH_HOME": str(home)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    return subprocess.run(
        [str(ROOT / ".venv/bin/idlebench"), *argv], env=env, capture_output=True, text=True, check=False
    )


def test_a_bench_keeps_to_its_home_in_wal_mode(tmp_path):
    home, small = tmp_path / "bench", tmp_path / "job"
    small.mkdir()
    job = {"name": "Fog bell", "machine": "Bell timer"}
    board = {"name": "B-1", "survey": "parts.csv"}
    data = {"format": "idlebench-job", "version": 1, "job": job, "units": [{"name": "A", "boards": [board]}]}
    (small / "job.json").write_text(json.dumps(data), encoding="utf-8")
    (small / "parts.csv").write_text("ref,value,volts\nC1,100u,16\nC2,10u,25\n", encoding="utf-8")
    loaded = command(home, "import", str(small))
    assert loaded.returncode == 0 and "Imported job 1" in loaded.stdout, loaded.stderr
    with sqlite3.connect(home / "bench.sqlite3") as db:
        assert db.execute("PRAGMA journal_mode").fetchone() == ("wal",)
        assert db.execute("SELECT COUNT(*) FROM survey_part").fetchone() == (2,)
    assert oct((home / "secret").stat().st_mode)[-3:] == "600"
    again = command(home, "demo")
    assert again.returncode == 0 and "has jobs already" in again.stdout
    assert command(home, "import", str(tmp_path)).returncode == 2


def test_a_taken_port_is_one_clear_line(tmp_path):
    import socket

    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        refused = command(tmp_path / "bench", "serve", "--port", str(port))
    assert refused.returncode == 1 and f"127.0.0.1:{port} is in use" in refused.stderr
    assert "Traceback" not in refused.stderr and refused.stderr.count("\n") == 1


@pytest.mark.parametrize(
    ("fakes", "said"),
    [({}, "Python is missing"), ({"python3": "exit 1"}, "3.11 or newer is needed"), ({"python3": "exit 0"}, "Node is missing"),
     ({"python3": "exit 0", "node": "exit 0"}, "npm is missing"), ({"python3": "exit 0", "node": "exit 1", "npm": "exit 0"}, "Node 20 or newer is needed")],
)  # fmt: skip
def test_what_a_machine_lacks_is_one_clear_line(tmp_path, fakes, said):
    for name, body in fakes.items():
        file = tmp_path / name
        file.write_text(f"#!/bin/sh\n{body}\n")
        file.chmod(0o755)
    (tmp_path / "cut").symlink_to("/usr/bin/cut")
    done = subprocess.run(
        ["/bin/bash", str(ROOT / "tools/check-machine.sh")],
        env={"PATH": str(tmp_path)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 1 and said in done.stderr and done.stderr.count("\n") == 1


def test_no_address_of_a_registry_stands_in_a_lock_file():
    for name in ("requirements/base.txt", "requirements/dev.txt", "package-lock.json", ".npmrc"):
        text = (ROOT / name).read_text(encoding="utf-8")
        assert "://" not in text, name
    assert "--hash=sha256:" in (ROOT / "requirements/base.txt").read_text(encoding="utf-8")
