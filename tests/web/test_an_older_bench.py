"""A bench from before the record and before the tables moved opens: nothing is lost, and what must be asked is asked again."""

import gzip
import json
import os
import sqlite3
import subprocess
from pathlib import Path

from idlebench.catalogue import house_columns
from idlebench.web.shelf.services import JOINED

ROOT = Path(__file__).resolve().parents[2]
KEPT = Path(__file__).parents[1] / "data" / "bench-of-november.sqlite3.gz"
#: Run by a program of its own, as a bench is opened: brings the tables up to date and tells what stands there then.
TELL = """
import json, django
from idlebench.commands.opening import migrated
migrated()
from django.test import Client
from idlebench.core.prove import interlocks
from idlebench.web.proving import services
from idlebench.web.records.models import *
from idlebench.web.unit.state import unit_state
from idlebench.web.ledger.services import reopen
from idlebench.web.ledger.sheets import sheet
a, b = (unit_state(Unit.objects.get(name=n).pk) for n in "AB")
told = {
    "parts": Part.objects.count(), "readings": Reading.objects.count(), "swaps": Swap.objects.count(),
    "log": Entry.objects.count(), "shelf": CatalogueItem.objects.count(), "history": Part.history.count(),
    "events": Event.objects.filter(reading__isnull=False).count(), "handed": a.row.handed_over is not None,
    "proven": a.proof.proven, "rails": len(sheet(a).rails), "shut": [r.rule for r in interlocks.power(a.proof, "full")][:1],
    "b": [r.rule for r in interlocks.power(b.proof, "limited")],
}
reopen(a.row.pk, "a look after the move")
a = unit_state(a.row.pk)
fuse = a.proof.check("cold.fuse.ps-1")
told |= {"again": a.proof.status_of(fuse).void, "was": a.reading_of(fuse).typed, "open": len(a.proof.open_checks(a.proof.steps[0]))}
services.take_reading(a.row.pk, a.proof.discharges[0].key, "0.3")
client = Client(SERVER_NAME="127.0.0.1")
told["pages"] = [client.get(f"/unit/{a.row.pk}/{page}/").status_code for page in ("intake", "cold", "power", "handover", "gather")]
print(json.dumps(told))
"""


def opened(home: Path, code: str) -> subprocess.CompletedProcess:
    env = {**os.environ, "IDLEBENCH_HOME": str(home), "DJANGO_SETTINGS_MODULE": "idlebench.web.settings"}
    python = str(ROOT / ".venv/bin/python")
    return subprocess.run([python, "-c", code], env=env, capture_output=True, text=True, check=False, cwd=ROOT)


def kept(home: Path) -> Path:
    home.mkdir()
    place = home / "bench.sqlite3"
    place.write_bytes(gzip.decompress(KEPT.read_bytes()))
    return place


def shapes(place: Path) -> dict[str, set[tuple]]:
    """Columns of every table of the bench: name, type, whether it may be empty."""
    with sqlite3.connect(place) as db:
        names = [n for (n,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'") if "auth" not in n]
        return {n: {tuple(c[1:4]) for c in db.execute(f"PRAGMA table_info({n})")} for n in names}


def test_the_bench_of_november_opens_and_asks_again(tmp_path):
    place = kept(tmp_path / "old")
    with sqlite3.connect(place) as db:
        before = {t: db.execute(f"SELECT COUNT(*) FROM {t}").fetchone()[0] for t in ("survey_part", "proving_reading", "swap_swap", "ledger_entry", "shelf_catalogueitem", "survey_historicalpart")}  # fmt: skip
    done = opened(tmp_path / "old", TELL)
    assert done.returncode == 0, done.stderr[-2000:]
    told = json.loads(done.stdout)
    # a series that joined the generic sizes since is on the shelf too
    before["shelf_catalogueitem"] += sum(part.series in JOINED for part in house_columns().parts)
    assert [told[n] for n in ("parts", "readings", "swaps", "log", "shelf", "history")] == list(before.values())
    assert told["events"] == before["proving_reading"] == 119
    assert told["handed"] and told["proven"] and told["rails"] == 15, "the cause handed over with stands"
    assert told["shut"] == ["closed"] and "missing" in told["b"]
    assert (
        told["again"] == "the unit was reopened after it: a look after the move"
        and told["was"] == "0.17"
        and told["open"] == 94
    )
    assert told["pages"] == [200] * 5
    opened(tmp_path / "new", "from idlebench.commands.opening import migrated; migrated()")
    assert shapes(place) == shapes(tmp_path / "new" / "bench.sqlite3"), "the same tables as a new bench has"


def test_a_bench_that_is_older_still_is_told_so_and_left_alone(tmp_path):
    place = kept(tmp_path / "older")
    with sqlite3.connect(place) as db:
        db.execute("DELETE FROM django_migrations WHERE app = 'jobs' AND name = '0005_supply_model'")
        was = list(db.iterdump())
    env = {**os.environ, "IDLEBENCH_HOME": str(place.parent)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    refused = subprocess.run(
        [str(ROOT / ".venv/bin/idlebench"), "demo"], env=env, capture_output=True, text=True, check=False
    )
    assert refused.returncode == 2 and "Nothing of it was changed" in refused.stderr
    with sqlite3.connect(place) as db:
        assert "Traceback" not in refused.stderr and list(db.iterdump()) == was
