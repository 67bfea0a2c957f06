"""Nothing lost: the bench's folder, backups of it and the way back; by commands of their own, as people run them."""

import json
import os
import shutil
import socket
import sqlite3
import subprocess
import sys
import time
import urllib.request
import zipfile
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing, contextmanager
from datetime import date, timedelta
from pathlib import Path

import pytest

from idlebench.core.refusal import BadInput
from idlebench.web import home as folders
from idlebench.web.keep import automatic_backups, backups

ROOT = Path(__file__).resolve().parents[2]
IDLEBENCH = str(ROOT / ".venv/bin/idlebench")


def run(home: Path, *args: str, **more) -> subprocess.CompletedProcess:
    env = {**os.environ, "IDLEBENCH_HOME": str(home)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    return subprocess.run([IDLEBENCH, *args], env=env, capture_output=True, text=True, check=False, **more)


#: Several commands, one after the other end in one program; what each said, and what stood on the bench after it.
ONE_AFTER_THE_OTHER = """
import contextlib, io, json, os, pathlib, sqlite3, sys
from idlebench.cli import main
home = pathlib.Path(os.environ["IDLEBENCH_HOME"])
for words in json.load(sys.stdin):
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(words)
    with contextlib.closing(sqlite3.connect(home / "bench.sqlite3")) as db:
        left = {"jobs": [name for (name,) in db.execute("SELECT name FROM jobs_job")], "halves": list(map(str, home.glob("*.part*")))}
    print(json.dumps([code, out.getvalue(), err.getvalue(), left]))
"""


class Done(subprocess.CompletedProcess):
    """What a command said; left: what stood on the bench after it."""

    left: dict[str, list[str]]


def run_all(home: Path, *commands: list[str]) -> list[Done]:
    """As run, for many commands that take no second each."""
    env = {**os.environ, "IDLEBENCH_HOME": str(home)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    program = [sys.executable, "-c", ONE_AFTER_THE_OTHER]
    done = subprocess.run(program, env=env, input=json.dumps(commands), capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    told = []
    for words, line in zip(commands, done.stdout.splitlines(), strict=True):
        code, out, err, left = json.loads(line)
        told.append(Done(words, code, out, err))
        told[-1].left = left
    return told


def refused(done: subprocess.CompletedProcess) -> str:
    """The one clear line of a command that did nothing."""
    assert done.returncode == 2, (done.stdout, done.stderr[-800:])
    lines = done.stderr.strip().splitlines()
    assert len(lines) == 1 and lines[0].startswith("idlebench: "), done.stderr[-800:]
    return lines[0]


@pytest.fixture(scope="module")
def loaded(demo_home, tmp_path_factory):
    """A bench with the demo on it, and a backup of it; copied for each test that changes it."""
    home = tmp_path_factory.mktemp("bench") / "home"
    shutil.copytree(demo_home, home)
    done = run(home, "backup", str(home.parent / "whole.zip"), "--json")
    assert done.returncode == 0, done.stderr
    return home, home.parent / "whole.zip", json.loads(done.stdout)


@pytest.fixture
def bench(loaded, tmp_path):
    shutil.copytree(loaded[0], tmp_path / "home")
    return tmp_path / "home"


@contextmanager
def served(home: Path, port: int):
    env = {**os.environ, "IDLEBENCH_HOME": str(home)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    command = [IDLEBENCH, "serve", "--port", str(port)]
    with subprocess.Popen(command, env=env, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as server:
        try:
            assert b"Idle Bench is on" in server.stdout.readline(), server.stderr.read()
            yield server
        finally:
            server.terminate()


@pytest.fixture
def port():
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return free.getsockname()[1]


JOBS = ["Three tide-display terminals", "Timer of the fog signal", "Amber monitor of unit B"]


def jobs(home: Path) -> list[str]:
    with closing(sqlite3.connect(home / "bench.sqlite3")) as db:
        return [name for (name,) in db.execute("SELECT name FROM jobs_job")]


def test_a_backup_holds_everything_and_is_counted(loaded):
    _, path, told = loaded
    assert told["rows"]["survey_part"] == 147 and told["photos"] == 6 and told["file"] == str(path)
    with zipfile.ZipFile(path) as bundle:
        assert json.loads(bundle.read("backup.json"))["counts"] == told["rows"]
        assert len(bundle.namelist()) == 8


def test_a_backup_is_restored_on_an_empty_bench_and_on_one_with_jobs_only_when_told(loaded, tmp_path):
    _, path, told = loaded
    empty = tmp_path / "empty"
    done = run(empty, "restore", str(path), "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["rows"] == told["rows"] and jobs(empty) == JOBS
    assert len(list((empty / "photos").glob("*.jpg"))) == 6
    assert "There are jobs on this bench" in refused(run(empty, "restore", str(path)))
    with closing(sqlite3.connect(empty / "bench.sqlite3")) as db, db:
        db.execute("UPDATE jobs_job SET name = 'Changed since'")
    done = run(empty, "restore", str(path), "--replace", "--json")
    kept = Path(json.loads(done.stdout)["kept"])
    assert jobs(empty) == JOBS
    back = tmp_path / "back"
    assert run(back, "restore", str(kept)).returncode == 0
    assert jobs(back) == ["Changed since"] * 3, "what a restore replaces is a backup of its own"


def test_no_backup_takes_the_place_of_a_bench_that_has_power(loaded, bench):
    with closing(sqlite3.connect(bench / "bench.sqlite3")) as db, db:
        db.execute(
            "INSERT INTO proving_powersession (unit_id, step, title, began, off_now) VALUES (2, 'limited', 'Lamp', '2026-11-25', '')"
        )
        db.execute("UPDATE jobs_job SET name = 'Under power'")
    line = refused(run(bench, "restore", str(loaded[1]), "--replace"))
    assert "Unit B has power" in line and jobs(bench) == ["Under power"] * 3


def test_a_backup_brings_no_logins_along(loaded, tmp_path, bench):
    with closing(sqlite3.connect(bench / "bench.sqlite3")) as db, db:
        db.execute("INSERT INTO django_session VALUES ('abc', 'x', '2099-01-01')")
        db.execute("INSERT INTO records_wrongcode (at, address) VALUES ('2026-01-01', '10.0.0.9')")
    assert run(bench, "backup", str(tmp_path / "b.zip")).returncode == 0
    assert run(tmp_path / "new", "restore", str(tmp_path / "b.zip")).returncode == 0
    with closing(sqlite3.connect(tmp_path / "new" / "bench.sqlite3")) as db:
        assert [
            db.execute(f"SELECT COUNT(*) FROM {t}").fetchone()[0] for t in ("django_session", "records_wrongcode")
        ] == [0, 0]
        last = (
            "SELECT kind FROM records_event e WHERE id = (SELECT MAX(id) FROM records_event WHERE unit_id = e.unit_id)"
        )
        units = db.execute("SELECT COUNT(*) FROM jobs_unit").fetchone()[0]
        assert db.execute(last).fetchall() == [("restored",)] * units > [], "every record says that it is of before"


def test_a_backup_is_never_written_over_and_needs_a_folder(loaded, bench, tmp_path):
    assert "not there yet" in refused(run(bench, "backup", str(loaded[1])))
    assert "a folder that is there" in refused(run(bench, "backup", str(tmp_path / "none" / "b.zip")))


def spoiled(path: Path, to: Path, **other: bytes | None) -> Path:
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(to, "w") as new:
        for name in old.namelist():
            data = other.get(name.split(".")[0], old.read(name))
            if data is not None:
                new.writestr(name, data)
        for name, data in other.items():
            if "/" in name:
                new.writestr(name, data)
    return to


def test_made_up_backups_are_one_clear_line_and_change_nothing(loaded, bench, tmp_path):
    whole, before = loaded[1], jobs(bench)
    page = json.loads(zipfile.ZipFile(whole).read("backup.json"))
    hostile = {
        "cut": whole.read_bytes()[:-500],
        "empty": b"",
        "text": b"no zip at all",
    }
    paths = []
    for name, data in hostile.items():
        (tmp_path / name).write_bytes(data)
        paths.append(tmp_path / name)
    other = sqlite3.connect(":memory:")
    other.execute("CREATE TABLE x (y)")
    paths += [
        spoiled(whole, tmp_path / "no page.zip", backup=None),
        spoiled(whole, tmp_path / "no database.zip", bench=None),
        spoiled(whole, tmp_path / "broken.zip", bench=b"SQLite format 3\x00" + bytes(5000)),
        spoiled(whole, tmp_path / "another.zip", bench=other.serialize()),
        spoiled(whole, tmp_path / "climbs.zip", **{"../evil": b"x"}),
        spoiled(whole, tmp_path / "program.zip", **{"photos/run.sh": b"x"}),
        spoiled(whole, tmp_path / "list.zip", backup=b"[]"),
        spoiled(whole, tmp_path / "deep.zip", backup=b"[" * 200_000),
        spoiled(whole, tmp_path / "counts.zip", backup=json.dumps({**page, "counts": {"jobs_job": 9}}).encode()),
        spoiled(whole, tmp_path / "newer.zip", backup=json.dumps({**page, "version": 9}).encode()),
        tmp_path / "there is none.zip",
    ]
    for path, done in zip(paths, run_all(bench, *(["restore", str(path), "--replace"] for path in paths)), strict=True):
        line = refused(done)
        assert "Traceback" not in line, path
        assert done.left == {"jobs": before, "halves": []}, path
    assert jobs(bench) == before and not list(bench.glob("*.part*"))


def test_a_backup_of_a_newer_version_is_refused(loaded, bench, tmp_path):
    with closing(sqlite3.connect(bench / "bench.sqlite3")) as db, db:
        db.execute("INSERT INTO django_migrations (app, name, applied) VALUES ('records', '9999_later', '2030-01-01')")
    made = tmp_path / "newer.zip"
    with zipfile.ZipFile(loaded[1]) as old, zipfile.ZipFile(made, "w") as new:
        with (
            closing(sqlite3.connect(bench / "bench.sqlite3")) as db,
            closing(sqlite3.connect(tmp_path / "copy")) as copy,
        ):
            db.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
        with closing(sqlite3.connect(tmp_path / "copy")) as copy:
            counts = backups._counts(copy)
        page = {**json.loads(old.read("backup.json")), "counts": counts}
        new.writestr("backup.json", json.dumps(page))
        new.write(tmp_path / "copy", "bench.sqlite3")
        for name in old.namelist():
            if name.startswith("photos/"):
                new.writestr(name, old.read(name))
    assert "9999_later" in refused(run(tmp_path / "fresh", "restore", str(made)))
    assert "tables of a newer Idle Bench" in refused(run(bench, "demo"))


def test_a_second_server_is_told_who_has_the_bench(bench, port):
    with served(bench, port) as server:
        line = refused(run(bench, "serve", "--port", str(port + 1 if port < 65000 else port - 1)))
        assert f"process {server.pid}" in line and f":{port}/" in line
        assert f"process {server.pid}" in refused(run(bench, "restore", "any.zip", "--replace"))
        assert run(bench, "backup", str(bench.parent / "live.zip")).returncode == 0, "a bench in use is backed up"
    assert run(bench, "export", "1", "-o", str(bench.parent / "job.zip"), "--json").returncode == 0


def test_export_and_import_by_command(bench, tmp_path):
    out = tmp_path / "job.zip"
    assert json.loads(run(bench, "export", "1", "-o", str(out), "--json").stdout)["bytes"] == out.stat().st_size
    told = json.loads(run(tmp_path / "other", "import", str(out), "--json").stdout)
    assert told["name"] == "Three tide-display terminals"
    assert run(tmp_path / "other", "export", str(told["job"]), "-o", str(tmp_path / "again.zip")).returncode == 0
    assert (tmp_path / "again.zip").read_bytes() == out.read_bytes(), "byte for byte"
    x = str(tmp_path / "x.zip")
    told = run_all(bench, ["export", "1", "-o", str(out)], ["export", "7", "-o", x], ["export", "one", "-o", x])
    for done, says in zip(told, ("not there yet", "a job's number: 1", "a job's number"), strict=True):
        assert says in refused(done)


def test_an_empty_database_beside_photos_is_no_new_bench(bench):
    (bench / "bench.sqlite3").write_bytes(b"")
    for gone in bench.glob("bench.sqlite3-*"):
        gone.unlink()
    line = refused(run(bench, "serve"))
    assert "an empty database (0 bytes) next to 6 photo files" in line and "idlebench restore" in line
    (bench / "bench.sqlite3").unlink()
    assert "no database next to 6 photo files" in refused(run(bench, "demo"))
    assert not (bench / "bench.sqlite3").exists()


def test_a_damaged_database_is_told_and_left_and_restored(bench, loaded):
    for gone in bench.glob("bench.sqlite3-*"):
        gone.unlink()
    (bench / "bench.sqlite3").write_bytes(b"junk" * 5000)
    assert "it is not a database" in refused(run(bench, "serve"))
    assert (bench / "bench.sqlite3").read_bytes() == b"junk" * 5000
    done = run(bench, "restore", str(loaded[1]), "--json")
    assert done.returncode == 0, done.stderr
    assert Path(json.loads(done.stdout)["kept"]).read_bytes() == b"junk" * 5000
    assert jobs(bench) == JOBS


def test_a_folder_that_cannot_be_written_is_one_clear_line(tmp_path, monkeypatch):
    real = Path.open

    def full(self, mode="r", *args, **kwargs):
        if "w" in mode and self.name.startswith("probe"):
            raise OSError(28, "No space left on device")
        return real(self, mode, *args, **kwargs)

    monkeypatch.setattr(Path, "open", full)
    with pytest.raises(BadInput, match="No space left on device") as told:
        folders.prepare(tmp_path / "bench")
    assert "Nothing was changed" in str(told.value)
    (tmp_path / "file").write_text("x")
    with pytest.raises(BadInput, match="a folder that can be written"):
        folders.prepare(tmp_path / "file")


def test_the_folder_is_its_owner_s_alone(bench):
    for path in (bench, *bench.rglob("*")):
        path.chmod(0o777)
    assert run(bench, "backup", str(bench.parent / "b.zip")).returncode == 0
    for path in (bench, *bench.rglob("*")):
        assert path.stat().st_mode & 0o077 == 0, path


def test_before_tables_change_a_copy_is_kept(tmp_path):
    import gzip

    home = tmp_path / "old"
    home.mkdir()
    old = gzip.decompress((Path(__file__).parents[1] / "data" / "bench-of-november.sqlite3.gz").read_bytes())
    (home / "bench.sqlite3").write_bytes(old)
    assert run(home, "backup", str(tmp_path / "b.zip")).returncode == 0
    (copy,) = (home / "backups").glob("before-*.sqlite3")
    with closing(sqlite3.connect(copy)) as db:
        names = {n for (n,) in db.execute("SELECT name FROM sqlite_master")}
        assert "records_event" not in names and db.execute("SELECT COUNT(*) FROM proving_reading").fetchone()[0] == 119


def test_halves_are_swept_and_photos_nobody_speaks_of_put_aside(bench, port):
    (bench / "photos" / "a.jpg.part").write_bytes(b"half")
    (bench / f"making123{folders.HALF}").mkdir()
    stray = bench / "photos" / "stray.jpg"
    stray.write_bytes(b"x")
    os.utime(stray, (time.time() - 3 * 86400,) * 2)
    with served(bench, port):
        pass
    assert not list(bench.rglob("*.part")) and not stray.exists()
    assert (bench / "photos" / "unclaimed" / "stray.jpg").exists() and len(list((bench / "photos").glob("*.jpg"))) == 6


def test_what_is_acknowledged_is_on_the_disk(bench):
    code = (
        "import django; django.setup()\nfrom django.db import connection\n"
        "c = connection.cursor()\nprint(c.execute('PRAGMA synchronous').fetchone()[0], c.execute('PRAGMA journal_mode').fetchone()[0])"
    )
    env = {**os.environ, "IDLEBENCH_HOME": str(bench), "DJANGO_SETTINGS_MODULE": "idlebench.web.settings"}
    done = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True, cwd=ROOT)
    assert done.stdout.split() == ["2", "wal"], "2 is FULL"


def test_which_automatic_backups_are_kept(settings, tmp_path, monkeypatch):
    settings.BACKUPS = tmp_path / "backups"
    monkeypatch.setattr(automatic_backups, "make", lambda to: to.write_bytes(b"x") and type("Made", (), {"path": to}))
    monkeypatch.setattr(backups.Job.objects, "exists", lambda: True)
    first = date(2026, 1, 1)
    for n in range(120):
        automatic_backups.automatic(first + timedelta(days=n))
        automatic_backups.automatic(first + timedelta(days=n))
    days = [date.fromisoformat(p.stem.removeprefix("day-")) for p in automatic_backups.made_by_themselves()]
    last = first + timedelta(days=119)
    assert days[:7] == [last - timedelta(days=n) for n in range(7)], "one a day for a week"
    weeks = {d.isocalendar()[:2] for d in days}
    assert len(weeks) == 8 and len(days) <= 15, "one a week for eight"


@pytest.mark.django_db
def test_a_disk_that_is_full_or_read_only_is_one_clear_page(client, surveyed, monkeypatch):
    from django.db import OperationalError
    from django.urls import reverse

    from idlebench.web.intake import services

    client.raise_request_exception = False
    for error, status, said in (
        (OperationalError("database or disk is full"), 507, "The disk is full"),
        (OperationalError("attempt to write a readonly database"), 507, "can only be read"),
        (OperationalError("unable to open database file"), 503, "cannot be opened"),
        (OperationalError("database disk image is malformed"), 503, "is damaged"),
        (OSError(28, "No space left on device"), 507, "The disk is full"),
        (OSError(30, "Read-only file system"), 507, "can only be read"),
    ):

        def fails(*args, error=error, **kwargs):
            raise error

        monkeypatch.setattr(services, "describe_unit", fails)
        response = client.post(reverse("intake", args=[surveyed.unit_id]), {"serial": "7"})
        assert response.status_code == status and said in response.content.decode(), error


def half_sent(port: int, count: int) -> list[socket.socket]:
    """Requests that are begun and never ended."""
    begun = []
    for _ in range(count):
        one = socket.create_connection(("127.0.0.1", port))
        one.sendall(b"POST /job/new/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000\r\n\r\nname=")
        begun.append(one)
    return begun


def test_stuck_clients_hold_no_thread(bench, port):
    """Forty half-sent requests, and forty readers that read nothing: a page still comes as fast as any."""
    with served(bench, port):
        address = f"http://127.0.0.1:{port}/"
        with urllib.request.urlopen(address, timeout=20) as page:
            assert page.status == 200
        begun = half_sent(port, 40)
        for _ in range(40):
            one = socket.create_connection(("127.0.0.1", port))
            one.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 2048)
            one.sendall(b"GET /ledger/ HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            begun.append(one)
        for _ in range(3):
            with urllib.request.urlopen(address, timeout=20) as page:
                assert page.status == 200 and b"On the bench" in page.read()
        for one in begun:
            one.close()


def test_a_file_that_two_write_at_once_is_whole_and_neither_fails(tmp_path):
    place, texts = tmp_path / "power", [bytes([letter]) * 4000 for letter in b"ab"]
    with ThreadPoolExecutor(2) as both:
        for done in [both.submit(folders.written, place, texts[i % 2]) for i in range(60)]:
            done.result()
    assert place.read_bytes() in texts and [path.name for path in tmp_path.iterdir()] == ["power"]


def test_an_empty_bench_is_not_called_a_backup(tmp_path):
    home, to = tmp_path / "home", tmp_path / "bench.zip"
    opened = "from idlebench.commands.opening import migrated; migrated()"
    subprocess.run([sys.executable, "-c", opened], env={**os.environ, "IDLEBENCH_HOME": str(home)}, check=True)
    said = refused(run(home, "backup", str(to)))
    assert "an empty bench" in said and "nothing to back up" in said and not to.exists()
    with closing(sqlite3.connect(home / "bench.sqlite3")) as db:
        db.execute("UPDATE shelf_catalogueitem SET stock = 1 WHERE id = (SELECT min(id) FROM shelf_catalogueitem)")
        db.commit()
    run(home, "backup", str(to)).check_returncode()
    assert backups.looked_at(to).counts["jobs_job"] == 0, "pieces on the shelf alone are worth a backup"
