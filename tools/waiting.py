"""Measures how long somebody else waits for the write lock while long work goes on: 20 000 rows, a photo, a backup, a bundle."""

from __future__ import annotations

import io
import sqlite3
import threading
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from asked import asked

#: Rows of the table, and the longest that anybody may wait, ms.
ROWS, MOST = 20_000, 200


def longest_wait(database: str, work: Callable[[], object]) -> tuple[float, float]:
    """The longest that another writer waited for the lock while some work was done, and how long the work took; both s."""
    done, waits, ready = threading.Event(), [0.0], threading.Event()

    def other() -> None:
        with closing(sqlite3.connect(database, timeout=60, isolation_level=None)) as db:
            ready.set()
            while not done.is_set():
                start = time.perf_counter()
                db.execute("BEGIN IMMEDIATE")
                waits.append(time.perf_counter() - start)
                db.execute("ROLLBACK")
                done.wait(0.004)

    thread = threading.Thread(target=other)
    thread.start()
    ready.wait()
    start = time.perf_counter()
    try:
        work()
    finally:
        taken = time.perf_counter() - start
        done.set()
        thread.join()
    return max(waits), taken


def table() -> bytes:
    """A catalogue of many rows."""
    lines = ["part,series,kind,value,volts,mounting,diameter,height,pitch,price"]
    lines += [
        f"T{i},LONG,wet,{(10, 22, 47, 100)[i % 4]}u,25,radial,6.3,11,2.5,{0.05 + i % 40 / 100:.2f}" for i in range(ROWS)
    ]
    return "\n".join(lines).encode()


def waiting(home: Path) -> None:
    """What each piece of long work lets others wait."""
    import tempfile

    from django.db import connection
    from PIL import Image

    from idlebench.web.keep import backups, coming, leaving
    from idlebench.web.photos.services import take_photo
    from idlebench.web.records.models import Job, Unit
    from idlebench.web.shelf.services import load_csv

    database = str(connection.settings_dict["NAME"])
    job, unit = Job.objects.first(), Unit.objects.get(name="B")
    picture = io.BytesIO()
    Image.effect_noise((4000, 3000), 60).convert("RGB").save(picture, "JPEG", quality=80)
    with tempfile.TemporaryDirectory() as work:
        bundle = Path(work) / "job.zip"
        pieces = {
            f"a table of {ROWS} rows": lambda: load_csv(table(), good_rows=False),
            "the same table again": lambda: load_csv(table(), good_rows=False),
            "a photo of 12 megapixels": lambda: take_photo(unit, picture.getvalue(), "a.jpg"),
            "a job that leaves": lambda: leaving.export(job.pk, bundle),
            "a job that comes": lambda: coming.take_in(bundle),
            "a backup": lambda: backups.make(Path(work) / "backup.zip"),
        }
        for name, piece in pieces.items():
            waited, taken = longest_wait(database, piece)
            asked(f"{name} takes {taken:.1f} s, and another writer waits", waited * 1000, MOST, "ms")


if __name__ == "__main__":
    from with_demo import demo_home

    with demo_home() as home:
        waiting(home)
