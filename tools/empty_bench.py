"""Makes the empty bench that a new one is a copy of; does nothing where the one that fits is there."""

from __future__ import annotations

import os
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        os.environ["IDLEBENCH_HOME"] = folder
        from idlebench.commands.opening import migrated
        from idlebench.web.records.empty import HERE, fitting

        wanted = fitting()
        if wanted.exists():
            return
        migrated()
        half = wanted.with_suffix(".part")
        half.unlink(missing_ok=True)
        with closing(sqlite3.connect(Path(folder) / "bench.sqlite3")) as db:
            db.execute("VACUUM INTO ?", (str(half),))
        for old in HERE.glob("empty-*.sqlite3"):
            old.unlink()
        half.replace(wanted)


if __name__ == "__main__":
    main()
