"""A bench of its own for the tests, and the ways a test fills it."""

from __future__ import annotations

import fcntl
import gc
import os
import shutil
import subprocess
import sys
import tempfile

# in memory where there is room: a disk that is slow to say "written" is not what the tests are about
if os.access("/dev/shm", os.W_OK) and shutil.disk_usage("/dev/shm").free > 2e9:
    tempfile.tempdir = "/dev/shm"

os.environ["IDLEBENCH_HOME"] = tempfile.mkdtemp(prefix="idlebench-tests-")
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from hypothesis import settings

from tests import snapshots
from tests.snapshots import remembered

# what is thrown away is looked for less often: a page makes some thousand objects, and nearly all of them go by themselves
gc.set_threshold(50_000, 50, 100)

settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")

LINES = """
C1 2200u 16V 16x25 p7.5 bulk rail +5V worst 16 ripple 0.5 at 30,30 looks leaking
C2 100u 16V 6.3x11 p2.5 decoupling rail +5V at 60,30 esr 6.8
C3 100n 63V film 7.2x6.5 p5 filter at 90,30 sound
""".strip()
#: The whole first look of a machine with mains inside.
LOOKED = ("plug", "battery", "shake", "opened", "smell", "parts", "repairs", "fuse", "chassis", "supply")
RAILS = "+5 V 2 A min 0.5 A"
CHIPS = "U1 processor 40x14 at 60,60 gnd 20 +5V 40 clock 18"


#: What takes longest begins first, so that no core waits for it at the end: parts of names of tests, in order.
FIRST = (
    "installed/", "test_a_monitor_from_intake", "test_two_hidden_faults", "test_the_whole_way_by_keyboard", "test_every_view", "browser/",
    "test_a_unit_that_matters_more", "test_torture", "test_keeping", "test_an_older_bench", "test_gates_machine", "test_growth", "test_markup",
    "test_device_that_looks", "test_monitors", "test_junk", "test_handing_over", "test_upgrades", "web/", "instruments/",
)  # fmt: skip
#: Files whose tests share something that is made for all of them: they are run by one worker.
TOGETHER = ("test_wheel", "test_keeping", "test_torture", "core/test_suspects", "core/test_photo")

#: Tests of the core that together take four fifths of its time: make quick leaves them to make test.
LONG = {
    "test_any_text.py": (
        "test_any_form_is_a_policy_or_says_which_field",
        "test_any_text_is_taken_or_refused_with_words",
        "test_what_is_taken_reads_back_the_same",
    ),
    "test_arithmetic.py": ("test_a_zero_is_reckoned_or_refused_clearly",),
    "test_buy.py": (
        "test_no_plan_found_by_trying_everything_is_cheaper",
        "test_quantities_written_one_by_one_or_as_a_span_cost_the_same",
        "test_tens_of_thousands_of_pieces_are_planned_without_tables_of_them",
        "test_the_bound_of_a_choice_of_parcels_is_below_every_plan_with_them",
        "test_what_every_plan_keeps_to",
    ),
    "test_choose.py": (
        "test_raising_volts_never_refuses_for_volts",
        "test_ranking_and_single_judging_agree",
    ),
    "test_circuits.py": (
        "test_another_integrator_finds_the_same",
        "test_it_settles_over_its_whole_range_and_charge_is_kept",
        "test_the_inverse_problem_gives_back_the_label",
    ),
    "test_cli.py": ("test_no_database_and_no_django_are_touched",),
    "test_cold_in_full.py": ("test_every_check_is_kept_and_no_order_moves_the_leads_less",),
    "test_cure.py": ("test_a_cure_is_found_wherever_there_is_one",),
    "test_docstrings.py": (
        "test_the_examples_hold",
        "test_there_are_examples_to_hold",
    ),
    "test_figures.py": ("test_the_interval_is_that_of_a_library",),
    "test_gates_machine.py": ("TestBench",),
    "test_kinds.py": ("test_no_fewer_kinds_do_it",),
    "test_learned.py": ("test_never_longer_than_a_pause_and_in_any_order",),
    "test_linear_text.py": ("test_it_takes_no_longer_than_its_text_is_long",),
    "test_long_text.py": ("test_a_megabyte",),
    "test_mends.py": ("test_any_end_is_read_or_refused",),
    "test_other_rules.py": ("test_many_places_at_once_rank_as_each_alone",),
    "test_practice.py": (
        "test_an_unsafe_way_through_each_is_caught",
        "test_any_order_of_moves_keeps_its_promises",
        "test_each_machine_is_cured_by_its_own_advice",
    ),
    "test_schedule.py": ("test_what_every_plan_keeps_to",),
    "test_second_reading.py": (
        "test_the_surveys_meet_every_rule_and_every_role",
        "test_two_readings_of_the_rules_refuse_the_same",
    ),
    "test_simulated_bench.py": (
        "test_a_lamp_that_is_too_small_is_told_before_it_is_tried",
        "test_a_part_that_failed_is_among_the_two_that_would_explain_the_reading",
        "test_many_at_once_are_what_each_is_alone",
        "test_no_supply_gives_more_than_its_winding_or_what_is_not_a_number",
        "test_of_many_draws_behind_a_lamp_few_are_settled_and_the_rest_told_by_them",
        "test_what_a_check_should_read_and_what_is_not_explained",
        "test_what_befalls_a_switching_supply",
    ),
    "test_sized.py": ("test_all_of_it_is_inside_and_to_scale",),
    "test_true_state.py": ("test_no_hand_to_what_is_charged_and_no_power_on_what_is_wet_or_open",),
    "test_survey_core.py": ("test_nets_written_read_back_the_same",),
    "test_suspects.py": ("test_hidden_faults_are_found_by_what_is_asked_for",),
    "test_tables.py": (
        "test_frictionless_finds_the_tables_as_described",
        "test_the_catalogue_is_large_and_believable",
        "test_what_is_written_reads_back_the_same",
    ),
    "test_tasks.py": ("test_every_unit_can_be_planned",),
}


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The plan of a run on several cores: the longest first, small ones of a file in one go."""

    def rank(item: pytest.Item) -> int:
        return next((i for i, name in enumerate(FIRST) if name in item.nodeid), len(FIRST))

    for item in items:
        if item.nodeid.split("::")[1].split("[")[0] in LONG.get(item.path.name, ()):
            item.add_marker(pytest.mark.long)
    items.sort(key=rank)
    for number, item in enumerate(items):
        file = item.nodeid.split("::")[0]
        if any(name in file for name in TOGETHER):
            item.add_marker(pytest.mark.xdist_group(file))
        elif "browser/" not in file and rank(item) >= FIRST.index("web/"):
            # a worker asks for its next group over a pipe: a thousand small tests are not asked for one by one
            item.add_marker(pytest.mark.xdist_group(f"{file} {number // 8}"))


def pytest_unconfigure():
    """The bench of the tests goes with them."""
    shutil.rmtree(os.environ["IDLEBENCH_HOME"], ignore_errors=True)


@pytest.fixture(scope="session")
def of_all(tmp_path_factory):
    """A folder that all workers of this run share."""
    own = tmp_path_factory.getbasetemp()
    return own.parent if "PYTEST_XDIST_WORKER" in os.environ else own


@contextmanager
def made_once(folder: Path, name: str) -> Iterator[Path]:
    """A place that one worker fills while the others wait."""
    with (folder / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield folder / name


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker, of_all):
    """The house catalogue lies on the shelf of every test: it is loaded once for all workers."""
    from idlebench.web.keep.demo import FOLDER
    from idlebench.web.shelf.services import ensure_house_catalogue, stock_up

    snapshots.kept = kept = snapshots.Snapshots(of_all / "snapshots")
    with django_db_blocker.unblock(), made_once(of_all, "snapshots"):
        if not kept.has(snapshots.BASE):
            ensure_house_catalogue()
            stock_up((FOLDER / "shelf.csv").read_bytes())
            kept.keep(snapshots.BASE)


@pytest.fixture
def _django_db_helper(django_db_setup, django_db_blocker, settings, tmp_path):
    """In place of pytest-django's own: a test begins from the snapshot of the catalogue, and commits what it writes, as the program does.

    Nothing is taken back after a test: the next one begins from a snapshot too. Its photos lie in a folder of its own.
    """
    settings.PHOTOS = tmp_path / "photos"
    with django_db_blocker.unblock():
        snapshots.kept.lay_down(snapshots.BASE)
        yield


@pytest.fixture
def shelf(db):
    """The house catalogue, on the shelf."""
    from idlebench.web.records.models import CatalogueItem

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
def demo_home(of_all):
    """A bench with the demo on it, made by the command that people give; once for all workers. It is copied, and never changed."""
    with made_once(of_all, "demo") as home:
        if not home.exists():
            making = home.with_name("demo-making")
            env = {**os.environ, "IDLEBENCH_HOME": str(making)}
            subprocess.run(
                [sys.executable, "-m", "idlebench.cli", "demo"], env=env, check=True, capture_output=True, text=True
            )
            making.rename(home)
    return home


@pytest.fixture
def demo(db, demo_home):
    """The demo on the bench."""
    snapshots.kept.lay_down_bench(demo_home, "demo")
