"""A bench of its own for the tests, and the ways a test fills it."""

from __future__ import annotations

import fcntl
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from contextlib import closing

# in memory where there is room: a disk that is slow to say "written" is not what the tests are about
if os.access("/dev/shm", os.W_OK) and shutil.disk_usage("/dev/shm").free > 2e9:
    tempfile.tempdir = "/dev/shm"

os.environ["IDLEBENCH_HOME"] = tempfile.mkdtemp(prefix="idlebench-tests-")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

import pytest
from django.db import connection
from hypothesis import settings

from tests.remembered import SHELF, TALLY, lay_down, remembered, rows_of, tables

settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")

LINES = """
C1 2200u 16V 16x25 p7.5 bulk rail +5V worst 16 ripple 0.5 at 30,30 looks leaking
C2 100u 16V 6.3x11 p2.5 decoupling rail +5V at 60,30 esr 6.8
C3 100n 63V film 7.2x6.5 p5 filter at 90,30 sound
""".strip()
#: The whole first look of a machine with mains inside.
LOOKED = ("plug", "battery", "shake", "opened", "smell", "parts", "repairs", "fuse", "supply")
RAILS = "+5 V 2 A min 0.5 A"
CHIPS = "U1 processor 40x14 at 60,60 gnd 20 +5V 40 clock 18"


def pytest_unconfigure():
    """The bench of the tests goes with them."""
    shutil.rmtree(os.environ["IDLEBENCH_HOME"], ignore_errors=True)


@pytest.fixture(autouse=True)
def own_photos(settings, tmp_path):
    """Photos of a test lie in a folder of its own."""
    settings.PHOTOS = tmp_path / "photos"


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker):
    """The house catalogue lies on the shelf of every test: it is loaded once a session."""
    from idlebench.web.keep.demo import FOLDER
    from idlebench.web.shelf.services import ensure_house_catalogue, stock_up

    with django_db_blocker.unblock():
        ensure_house_catalogue()
        stock_up((FOLDER / "shelf.csv").read_bytes())
        return rows_of(connection.cursor(), SHELF)


@pytest.fixture
def shelf(db, django_db_setup):
    """The house catalogue, on the shelf; anew where a test with a live server has emptied it."""
    from idlebench.web.records.models import CatalogueItem

    if not CatalogueItem.objects.exists():
        lay_down(django_db_setup)
    return CatalogueItem.objects.count()


@pytest.fixture
def unit(shelf):
    """One unit with a supply and a mainboard in one: three parts, one rail, one chip."""
    from idlebench.web.records.models import Unit

    _taken_in()
    return Unit.objects.latest("pk")


@remembered
def _taken_in():
    from tests import typed

    # looked over already; tests of the first look take it back
    job = typed.take_in_job({"name": "Lamp room clock", "machine": "Tide clock", "made": "1984", "units": "A"})
    unit = job.units.get()
    unit.first_look = list(LOOKED)
    unit.save()
    typed.add_board(
        unit,
        {
            "name": "PS-1",
            "supply": "switching",
            "width": "120",
            "height": "80",
            "expected": "3",
            "fuse": "T 1 A 250 V",
            "rails": RAILS,
        },
    )
    typed.add_board(unit, {"name": "MB-80", "width": "120", "height": "80", "expected": "0", "chips": CHIPS})


@pytest.fixture
def surveyed(unit):
    """The unit with its three parts listed; its supply board."""
    board = unit.boards.get(name="PS-1")
    _listed(board)
    return board


@remembered
def _listed(board):
    from idlebench.web.survey.services import paste

    assert paste(board, LINES, good_rows=False).added == 3


@pytest.fixture(scope="session")
def demo_home(tmp_path_factory):
    """A bench with the demo on it, made by the command that people give; once for all workers. It is copied, and never changed."""
    own = tmp_path_factory.getbasetemp()
    home = (own.parent if "PYTEST_XDIST_WORKER" in os.environ else own) / "demo-of-all" / "home"
    home.parent.mkdir(exist_ok=True)
    with (home.parent / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not home.exists():
            making = home.with_name("making")
            env = {**os.environ, "IDLEBENCH_HOME": str(making)}
            subprocess.run(
                [sys.executable, "-m", "idlebench.cli", "demo"], env=env, check=True, capture_output=True, text=True
            )
            making.rename(home)
    return home


@pytest.fixture(scope="session")
def demo_rows(django_db_setup, demo_home):
    """The rows of the demo, of the shelf only what its orders and its kit have changed; and its pictures."""
    kinds = sqlite3.PARSE_DECLTYPES | sqlite3.PARSE_COLNAMES
    # the shelf lies there already, and the database counts the series itself
    with closing(sqlite3.connect(demo_home / "bench.sqlite3", detect_types=kinds)) as db:
        found = rows_of(db.cursor(), [name for name in tables() if name not in (*SHELF, TALLY)])
        for name, rows in rows_of(db.cursor(), SHELF).items():
            there = {tables()[name].held(row) for row in django_db_setup[name].values()}
            found[name] = {key: row for key, row in rows.items() if tables()[name].held(row) not in there}
    return found, demo_home / "photos"


@pytest.fixture
def demo(shelf, demo_rows, settings):
    """The demo on the bench."""
    rows, pictures = demo_rows
    shutil.copytree(pictures, settings.PHOTOS)
    lay_down(rows)
