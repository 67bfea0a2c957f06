"""A bench of its own for the tests, and the ways a test fills it."""

from __future__ import annotations

import os
import tempfile

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
RAILS = "+5 V 2 A min 0.5 A"
CHIPS = "U1 processor 40x14 at 60,60 gnd 20 +5V 40 clock 18"


@pytest.fixture(autouse=True)
def own_photos(settings, tmp_path):
    """Photos of a test lie in a folder of its own."""
    settings.PHOTOS = tmp_path / "photos"


@pytest.fixture
def shelf(db):
    """The house catalogue, on the shelf."""
    from idlebench.web.shelf.services import ensure_house_catalogue

    return ensure_house_catalogue()


@pytest.fixture
def unit(shelf):
    """One unit with a supply and a mainboard in one: three parts, one rail, one chip."""
    from idlebench.web.intake import services

    job = services.take_in_job({"name": "Lamp room clock", "machine": "Tide clock", "made": "1984", "units": "A"})
    unit = job.units.get()
    services.add_board(
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
    services.add_board(unit, {"name": "MB-80", "width": "120", "height": "80", "expected": "0", "chips": CHIPS})
    return unit


@pytest.fixture
def surveyed(unit):
    """The unit with its three parts listed; its supply board."""
    from idlebench.web.survey.services import paste

    board = unit.boards.get(name="PS-1")
    assert paste(board, LINES, good_rows=False).added == 3
    return board


@pytest.fixture
def demo(shelf):
    """The demo, loaded as a person's own job is."""
    from idlebench.web.keep.demo import load_demo

    load_demo()
