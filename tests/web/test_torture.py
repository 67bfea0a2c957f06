"""Hard ground in short: what make torture does by the hundred and the thousand, a few times each, on a bench that is really served."""

import random
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "tools"))

import torture


@pytest.fixture
def bench(demo_home, tmp_path):
    """A bench with the demo."""
    shutil.copytree(demo_home, tmp_path / "home")
    return tmp_path / "home"


@pytest.fixture(scope="module")
def running(demo_home, tmp_path_factory):
    """A bench with the demo, and the port it is served at."""
    home, port = tmp_path_factory.mktemp("torture") / "home", torture.free_port()
    shutil.copytree(demo_home, home)
    with torture.served(home, port):
        yield home, port


def test_killed_under_writes_nothing_acknowledged_is_lost_or_doubled(tmp_path):
    assert torture.kills(tmp_path / "home", 4, random.Random(11)) == []


def test_hostile_requests_are_answered_and_never_by_a_500(running):
    home, port = running
    assert torture.hostile(home, 230, random.Random(12), port) == []


def test_two_requests_at_one_moment_find_no_way_round_a_gate(running):
    home, port = running
    assert torture.pairs(home, 16, random.Random(13), port) == []


def test_a_full_disk_is_told_and_nothing_is_half_written(bench):
    wrong = torture.full_disk(bench, random.Random(14))
    if wrong and wrong[0].startswith("left out"):
        pytest.skip(wrong[0])
    assert wrong == []


def test_three_requests_at_one_moment(running):
    home, port = running
    assert torture.triples(home, 12, random.Random(15), port, every=9) == []


def test_a_part_that_dies_of_its_own_is_told_and_the_others_go_on(monkeypatch, capsys):
    monkeypatch.setattr(sys, "argv", ["torture", "--short", "kills", "full"])
    monkeypatch.setattr(torture, "run", lambda *args: subprocess.CompletedProcess(args, 0))
    monkeypatch.setattr(torture, "kills", lambda *args: 1 / 0)
    monkeypatch.setattr(torture.shutil, "copytree", lambda *args: None)
    monkeypatch.setattr(torture, "full_disk", lambda *args: [])
    assert torture.main() == 1
    told = capsys.readouterr().out
    assert "ZeroDivisionError" in told and "DOES NOT HOLD" in told and told.count("holds") == 1
