"""What tests begin from: made once by the services themselves, kept as snapshots of the database by the chain of ways that made them.

Most tests begin where others did: a unit on the bench, its parts listed, everything swapped, proven up to a step. The services go
such a way the first time. After that the database that they left is copied back by SQLite's own backup, all times moved by what has
passed since. Which snapshot fits is known without reading the database: a test begins from a snapshot with a name, and SQLite says
each statement that was run since, so the name and the statements together are what the bench was made of.
"""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import sqlite3
import uuid
from collections.abc import Callable
from contextlib import closing
from datetime import datetime, timedelta
from functools import cache, wraps
from pathlib import Path

import time_machine
from django.apps import apps
from django.conf import settings
from django.db import connection, models
from django.utils import timezone

#: The first snapshot of a session: the tables with the house catalogue on the shelf.
BASE = "base"
#: Tables whose rows keep their times unless a way has written them: they are thousands, and most are never written.
SHELF = ("shelf_catalogueitem", "records_shelfdevice")
#: How a time stands in a statement, and how exactly two times must agree to be the same way, s.
TIME = re.compile(r"'(\d{4}-\d\d-\d\d \d\d:\d\d:\d\d(?:\.\d+)?)'")
SAME = 10.0
#: What a statement begins with that leaves the database as it is.
READS = ("SELECT", "PRAGMA", "EXPLAIN", "--")


class Snapshots:
    """The snapshots of a session, shared by all workers, and what the database of this worker was made of.

    folder: one folder a snapshot: the database, what is to be known of it, and its photos.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.folder.mkdir(exist_ok=True)
        self.name = ""
        self._said: list[str] = []
        self._on: sqlite3.Connection | None = None
        self._others = 0

    # What the bench was made of

    def made_of(self) -> str:
        """The name of what stands on the bench; "" where it cannot be known: another connection wrote, or this one was closed."""
        db = connection.connection
        if not self.name or db is not self._on or connection.in_atomic_block or self._written_by_others(db):
            return ""
        now = timezone.now().replace(tzinfo=None)
        writes = [_without_times(said, now) for said in self._said if not said.lstrip().upper().startswith(READS)]
        return _digest(self.name, *writes) if writes else self.name

    def _written_by_others(self, db: sqlite3.Connection) -> bool:
        return db.execute("PRAGMA data_version").fetchone()[0] != self._others

    def _follow(self, name: str) -> None:
        """From here on the bench is what has this name, and whatever is said to SQLite next."""
        connection.ensure_connection()
        self.name, self._on, self._said = name, connection.connection, []
        self._on.set_trace_callback(self._said.append)
        self._others = self._on.execute("PRAGMA data_version").fetchone()[0]

    # Snapshots

    def has(self, name: str) -> bool:
        """Whether there is a snapshot of that name."""
        return (self.folder / name).exists()

    def keep(self, name: str) -> None:
        """Keep the database and the photos as they stand."""
        making = self.folder / f"{name}.{uuid.uuid4().hex}"
        making.mkdir()
        with closing(sqlite3.connect(making / "bench.sqlite3")) as kept:
            connection.connection.backup(kept)
            times = [(table, column) for table, column in _times() if _any(kept, table, column)]
        if Path(settings.PHOTOS).exists():
            shutil.copytree(settings.PHOTOS, making / "photos")
        (making / "told.json").write_text(json.dumps({"at": timezone.now().isoformat(), "times": times}))
        try:
            making.rename(self.folder / name)
        except OSError:
            # another worker has gone the same way meanwhile
            shutil.rmtree(making)
        self._follow(name)

    def lay_down(self, name: str) -> None:
        """Make the database the cause when this snapshot was kept, the times of its rows moved to now."""
        kept = self.folder / name
        told = json.loads((kept / "told.json").read_text())
        self._copy(kept / "bench.sqlite3")
        if name != BASE:
            self._move(told["times"], timezone.now() - datetime.fromisoformat(told["at"]))
        if (kept / "photos").exists():
            shutil.rmtree(settings.PHOTOS, ignore_errors=True)
            shutil.copytree(kept / "photos", settings.PHOTOS)
        self._follow(name)

    def lay_down_bench(self, home: Path, name: str) -> None:
        """Make the database and the photos those of a bench's folder, as they stand there."""
        self._copy(home / "bench.sqlite3")
        shutil.copytree(home / "photos", settings.PHOTOS, dirs_exist_ok=True)
        self._follow(name)

    def _copy(self, file: Path) -> None:
        connection.ensure_connection()
        connection.connection.set_trace_callback(None)
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as kept:
            kept.backup(connection.connection, sleep=0.002)

    def _move(self, times: list[list[str]], by: timedelta) -> None:
        db = connection.connection
        db.create_function("later", 1, lambda text: _later(text, by), deterministic=True)
        since = json.loads((self.folder / BASE / "told.json").read_text())["at"].replace("T", " ")[:26]
        db.execute("BEGIN IMMEDIATE")
        for table, column in times:
            only = (f"{column} > ?", (since,)) if table in SHELF else (f"{column} IS NOT NULL", ())
            db.execute(f'UPDATE "{table}" SET {column} = later({column}) WHERE {only[0]}', only[1])
        db.execute("COMMIT")


def _digest(*words: str) -> str:
    return hashlib.sha256("\x00".join(words).encode("utf-8", "backslashreplace")).hexdigest()[:32]


def _without_times(said: str, now: datetime) -> str:
    """A statement with its times as so long before now."""

    def ago(hit: re.Match[str]) -> str:
        try:
            return f"'{round((datetime.fromisoformat(hit[1]) - now).total_seconds() / SAME)} from now'"
        except ValueError:
            return hit[0]

    return TIME.sub(ago, said)


@cache
def _times() -> tuple[tuple[str, str], ...]:
    """Every column that holds a time, with its table."""
    found = apps.get_app_config("records").get_models()
    return tuple(
        (model._meta.db_table, f'"{field.column}"')
        for model in found
        for field in model._meta.concrete_fields
        if isinstance(field, models.DateTimeField)
    )


def _any(db: sqlite3.Connection, table: str, column: str) -> bool:
    return bool(db.execute(f'SELECT EXISTS (SELECT 1 FROM "{table}" WHERE {column} IS NOT NULL)').fetchone()[0])


def _later(text: str, by: timedelta) -> str:
    return (datetime.fromisoformat(text) + by).strftime("%Y-%m-%d %H:%M:%S.%f")


#: The snapshots of this session: set by tests/conftest.py before the first test with a database.
kept: Snapshots | None = None


def remembered(way: Callable[..., None]) -> Callable[..., None]:
    """A way that tests go again and again: from the same bench, with the same words, what it left the first time is laid down again.

    It may give nothing back, and take only rows and plain values.
    """

    @wraps(way)
    def go(*args: object) -> None:
        before = kept.made_of()
        if not before or _clock_is_set():
            way(*args)
            return
        words = (repr((type(a).__name__, a.pk)) if isinstance(a, models.Model) else repr(a) for a in args)
        name = _digest(before, way.__module__, way.__qualname__, *words)
        if kept.has(name):
            kept.lay_down(name)
            return
        way(*args)
        if kept.made_of():
            kept.keep(name)

    return go


def _clock_is_set() -> bool:
    """Whether a test has its own time: what is made in it must not be moved to another's."""
    return time_machine.escape_hatch.is_travelling()
