"""The empty bench that a new one is a copy of: its tables as all their changes made them, and the house catalogue on its shelf.

It is made at set-up by tools/empty_bench.py, and goes along in the package. Nothing rests on it: where there is none that fits this
version, a new bench is made by the changes themselves.
"""

from __future__ import annotations

import os
import shutil
import zlib
from contextlib import suppress
from pathlib import Path

from idlebench.catalogue import PATH as CATALOGUE

from ..home import DATABASE, HALF, synced

HERE = Path(__file__).resolve().parent


def fitting() -> Path:
    """Where the empty bench of this version lies, whether it is there or not. Its name tells what tables and catalogue it was made of."""
    found = 0
    # triggers are no migration, and belong to a new bench all the same
    for file in (
        *sorted((HERE / "migrations").glob("0*.py")),
        HERE / "revisions.py",
        HERE / "tally.py",
        HERE / "search_index.py",
        CATALOGUE,
    ):
        found = zlib.crc32(file.name.encode() + file.read_bytes(), found)
    return HERE / f"empty-{found:08x}.sqlite3"


def begin(home: Path) -> bool:
    """Lay the empty bench into a folder that has no database yet; whether it was done. What hinders it is told by who opens the bench."""
    database, empty = home / DATABASE, fitting()
    if database.exists() or not empty.exists():
        return False
    half = database.with_name(f"{DATABASE}-{os.getpid()}{HALF}")
    with suppress(OSError):
        try:
            shutil.copyfile(empty, half)
            with half.open("rb+") as file:
                os.fsync(file.fileno())
            # a link, for whoever comes second must not replace what the first one has opened
            os.link(half, database)
            synced(home)
            return True
        finally:
            half.unlink(missing_ok=True)
    return False
