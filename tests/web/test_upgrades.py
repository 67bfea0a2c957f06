"""Benches of earlier versions open: their tables are brought up to date, and every row is kept with all it said."""

import gzip
import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import pytest

from idlebench import __version__
from idlebench.core.board.parts import as_mounted
from idlebench.web.records.empty import fitting

ROOT = Path(__file__).resolve().parents[2]
HOMES = sorted((ROOT / "tests/data/homes").glob("*.sqlite3.gz"))
#: What Django keeps for itself, and what is reckoned anew from the rest.
NOT_OURS = ("find_", "sqlite_", "django_", "auth_", "records_judged", "records_summary", "records_seriestally")


def rows(place: Path) -> dict[str, dict[object, dict[str, object]]]:
    """All that stands on a bench: by table and key, by column."""
    found = {}
    with closing(sqlite3.connect(place)) as db:
        db.row_factory = sqlite3.Row
        tables = [n for (n,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        for table in (n for n in tables if not n.startswith(NOT_OURS)):
            key = next(c["name"] for c in db.execute(f'PRAGMA table_info("{table}")') if c["pk"])
            found[table] = {row[key]: dict(row) for row in db.execute(f'SELECT * FROM "{table}"')}
    return found


def columns(place: Path) -> dict[str, set[tuple[str, str, int, int]]]:
    """The columns of our tables: name, type, whether it must be filled, whether it is the key."""
    with closing(sqlite3.connect(place)) as db:
        tables = [n for (n,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {
            table: {
                (name, kind, must, key) for _, name, kind, must, _, key in db.execute(f'PRAGMA table_info("{table}")')
            }
            for table in tables
            if not table.startswith("sqlite_")
        }


def mounted(row: dict[str, object]) -> str:
    """How a part stands, by its one name."""
    return as_mounted(row["mounting"], row["kind"], row.get("diameter"), row.get("height"))


@pytest.mark.parametrize("kept", HOMES, ids=[home.name.split(".sqlite3")[0] for home in HOMES])
def test_an_earlier_bench_opens_and_every_row_is_kept(tmp_path, kept):
    place = tmp_path / "bench.sqlite3"
    place.write_bytes(gzip.decompress(kept.read_bytes()))
    before = rows(place)
    env = {**os.environ, "IDLEBENCH_HOME": str(tmp_path)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    command = [sys.executable, "-m", "idlebench.cli", "backup", str(tmp_path / "after.zip")]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False, cwd=ROOT)
    assert done.returncode == 0, done.stderr[-2000:]
    assert columns(place) == columns(fitting()), "by whichever steps, the tables come out alike"
    after = rows(place)
    assert sum(map(len, before.values())) > 500 and set(before) <= set(after)
    for table, old in before.items():
        assert set(old) <= set(after[table]), f"rows of {table} are gone"
        for key, row in old.items():
            now = after[table][key]
            changed = {c: (v, now[c]) for c, v in row.items() if c in now and now[c] != v}
            if "mounting" in changed and now["mounting"] == mounted(row):
                changed.pop("mounting")  # the same, by its one name
            assert not changed, f"{table} {key}: {changed}"
            assert set(row) <= set(now), f"columns of {table} are gone: {set(row) - set(now)}"


def test_each_release_has_a_bench_of_its_own_kept():
    """The first three were kept by the number of their last change of tables; from 0.2.0 on by the release."""
    text = (ROOT / "CHANGELOG.md").read_text(encoding="utf-8")
    released = [line.split()[1] for line in text.splitlines() if line.startswith("## ")]
    assert released[0] == __version__, "the newest release in CHANGELOG.md is the version of the program"
    kept = {home.name.split(".sqlite3")[0] for home in HOMES}
    assert {"0001", "0020", "0033"} <= kept
    assert set(released) - {"0.1.0", __version__} <= kept, "tools/old_home.py keeps a bench of a release"
