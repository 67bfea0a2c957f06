"""A bench of its own for the tests, and the ways a test fills it."""

from __future__ import annotations

import os
import shutil
import tempfile

# in memory where there is room: a disk that is slow to say "written" is not what the tests are about
if os.access("/dev/shm", os.W_OK) and shutil.disk_usage("/dev/shm").free > 2e9:
    tempfile.tempdir = "/dev/shm"

os.environ["IDLEBENCH_HOME"] = tempfile.mkdtemp(prefix="idlebench-tests-")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

import pytest
from hypothesis import settings

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
        return _rows_of(["shelf_catalogueitem", "records_shelfdevice"])


def _rows_of(tables):
    """All rows of some tables, as they stand."""
    from django.db import connection

    with connection.cursor() as cursor:
        return {table: cursor.execute(f"SELECT * FROM {table}").fetchall() for table in tables}


def _written(rows):
    """Rows of tables written back, as they stood."""
    from django.db import connection, transaction

    with transaction.atomic(), connection.cursor() as cursor:
        for table, found in rows.items():
            if found:
                cursor.executemany(
                    f"INSERT OR REPLACE INTO {table} VALUES ({', '.join(['%s'] * len(found[0]))})", found
                )


@pytest.fixture
def shelf(db, django_db_setup):
    """The house catalogue, on the shelf; anew where a test with a live server has emptied it."""
    from idlebench.web.records.models import CatalogueItem

    if not CatalogueItem.objects.exists():
        _written(django_db_setup)
    return CatalogueItem.objects.count()


@pytest.fixture
def unit(shelf):
    """One unit with a supply and a mainboard in one: three parts, one rail, one chip."""
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
    return unit


@pytest.fixture
def surveyed(unit):
    """The unit with its three parts listed; its supply board."""
    from idlebench.web.survey.services import paste

    board = unit.boards.get(name="PS-1")
    assert paste(board, LINES, good_rows=False).added == 3
    return board


@pytest.fixture(scope="session")
def demo_rows(django_db_setup, django_db_blocker, tmp_path_factory):
    """The demo, loaded once a session as a person's own job is, and taken back: its rows by table, and its pictures."""
    from django.apps import apps
    from django.db import transaction
    from django.test import override_settings

    from idlebench.web.keep.demo import load_demo

    pictures = tmp_path_factory.mktemp("demo") / "photos"
    tables = [
        m._meta.db_table
        for m in apps.get_app_config("records").get_models()
        # the shelf lies there already, and the database counts the series itself
        if m.__name__ not in ("CatalogueItem", "ShelfDevice", "SeriesTally")
    ]
    shelf = ["shelf_catalogueitem", "records_shelfdevice"]
    with django_db_blocker.unblock(), override_settings(PHOTOS=pictures), transaction.atomic():
        load_demo()
        rows = _rows_of(tables)
        # of the shelf only what the demo's orders and kit have changed
        changed = {table: list(set(after) - set(django_db_setup[table])) for table, after in _rows_of(shelf).items()}
        transaction.set_rollback(True)
    return rows, pictures, changed


@pytest.fixture
def demo(shelf, demo_rows, settings):
    """The demo on the bench."""
    rows, pictures, changed = demo_rows
    shutil.copytree(pictures, settings.PHOTOS)
    _written(rows)
    _written(changed)
