"""One file to install: the wheel in an environment of its own, without Node, compiler, clone or network, used as a new user would."""

import json
import socket
import subprocess
import zipfile
from pathlib import Path

import pytest

from idlebench import __version__

ROOT = Path(__file__).resolve().parents[2]
WALK = Path(__file__).with_name("walk.py")
#: One page at least of each room, and of each stage of a unit: addresses with their numbers as 1.
VIEWS = (
    "/", "/calendar/", "/gather/", "/procedures/", "/shelf/", "/reckoner/", "/practice/", "/ledger/", "/ledger/figures/", "/devices/", "/backups/",
    "/licences/", "/job/new/", "/policies/", "/unit/1/intake/", "/board/1/survey/", "/board/1/choose/", "/unit/1/gather/", "/board/1/swap/",
    "/unit/1/cold/", "/unit/1/power/", "/unit/1/handover/", "/unit/1/handover.html", "/unit/1/owner.html", "/unit/1/suspects/",
    "/unit/1/procedures/", "/unit/1/dismantling/", "/job/1/triage/",
)  # fmt: skip


@pytest.fixture(scope="module")
def wheel() -> Path:
    found = sorted((ROOT / "dist").glob(f"idlebench-{__version__}-*.whl"))
    assert len(found) == 1, "make dist builds the wheel of this version"
    return found[0]


def test_all_that_is_no_python_lies_in_the_wheel_and_nothing_of_tests(wheel):
    with zipfile.ZipFile(wheel) as file:
        names = set(file.namelist())
    for folder in ("web", "catalogue", "core", "instruments", "demo"):
        for path in (ROOT / "idlebench" / folder).rglob("*"):
            name = f"idlebench/{path.relative_to(ROOT / 'idlebench')}"
            # what a stylesheet is built of, the script that the demo was made by and the pages of rooms stay behind
            left = path.is_dir() or "__pycache__" in name or "/styles/" in name or name == "idlebench/demo/make.py"
            left = left or path.name == "README.md"
            assert left or name in names, f"{name} is not in the wheel"
    assert not [n for n in names if n.startswith(("tests", "tools"))]
    terms = [n for n in names if ".dist-info/licenses/" in n]
    assert len(terms) == 7, "a licence for each font and script that goes along"


def _hashed(line: str) -> bool:
    return ",sha256=" in line


def test_the_wheel_is_installed_and_every_main_view_opens_without_a_network(wheel, tmp_path):
    python = ROOT / ".stamps/new-user/bin/python"
    [there] = (ROOT / ".stamps/new-user").glob("lib/*/site-packages/idlebench-*.dist-info/RECORD")
    with zipfile.ZipFile(wheel) as file:
        files = file.read(f"idlebench-{__version__}.dist-info/RECORD").decode().splitlines()
    assert set(filter(_hashed, files)) <= set(there.read_text(encoding="utf-8").splitlines()), (
        "make set-up installs this wheel"
    )
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = str(free.getsockname()[1])
    alone = ["unshare", "--net", "--map-root-user"]
    (tmp_path / "home").mkdir()
    done = subprocess.run(
        [*alone, python, "-I", WALK, tmp_path / "home", port], capture_output=True, text=True, check=False, cwd=tmp_path
    )
    assert done.returncode == 0, done.stderr[-2000:]
    told = json.loads(done.stdout.splitlines()[-1])
    assert told["outside"] is False and told["version"] == f"Idle Bench {__version__}"
    assert "Loaded job 1" in told["demo"] and "Idle Bench is on" in told["says"] and told["first"] == 200
    assert told["wrong"] == [] and told["files"] >= 6
    assert set(VIEWS) <= set(told["kinds"]), sorted(set(VIEWS) - set(told["kinds"]))
    assert told["stopped"] == 0 and "Traceback" not in told["after"]
