"""The map for newcomers is true: files it names are there, long ones have their reason, each room's page is of today."""

import re
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "tools"))
import rooms  # noqa: E402

TEXT = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8")
#: Lines of a file above which it is listed with a reason.
LONG = 400


def test_every_file_that_it_names_is_there():
    named = set(re.findall(r"`((?:core|web|catalogue|instruments|demo|tests|tools|docs|idlebench)/[\w./-]+)`", TEXT))
    missing = [name for name in sorted(named) if not any((base / name).exists() for base in (ROOT, ROOT / "idlebench"))]
    assert len(named) > 60 and not missing


def test_a_long_file_has_its_reason():
    reasons = dict(re.findall(r"^- `([\w./]+)`: (.+)$", TEXT.split("## Files over 400 lines")[1], re.MULTILINE))
    files = [path for path in ROOT.glob("idlebench/**/*.py") if "migrations" not in path.parts]
    files += [*ROOT.glob("tools/*.py")]
    long = {
        path.relative_to(ROOT).as_posix() for path in files if len(path.read_text(encoding="utf-8").splitlines()) > LONG
    }
    assert long == set(reasons), "list it in CONTRIBUTING.md with a reason, or make it shorter"


def test_the_pages_of_rooms_are_of_today():
    assert rooms.out_of_date() == [], "make rooms"
    assert len(rooms.rooms()) > 30
