"""Keeps a bench as a small file for the test of upgrades: python tools/old_home.py HOME NAME writes tests/data/homes/NAME.sqlite3.gz.

Made once for each release, from a bench with the demo that the released version has made. Of the catalogue's thousands of rows every
twentieth stays.
"""

from __future__ import annotations

import gzip
import sqlite3
import sys
import tempfile
from contextlib import closing
from pathlib import Path

OUT = Path(__file__).resolve().parents[1] / "tests/data/homes"


def main(home: str, name: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        small = Path(folder) / "bench.sqlite3"
        with closing(sqlite3.connect(Path(home) / "bench.sqlite3")) as db:
            db.execute("VACUUM INTO ?", (str(small),))
        with closing(sqlite3.connect(small, isolation_level=None)) as db:
            db.execute("DELETE FROM shelf_catalogueitem WHERE id % 20 <> 0")
            db.execute("VACUUM")
        OUT.mkdir(parents=True, exist_ok=True)
        (OUT / f"{name}.sqlite3.gz").write_bytes(gzip.compress(small.read_bytes(), 9, mtime=0))


if __name__ == "__main__":
    main(*sys.argv[1:])
