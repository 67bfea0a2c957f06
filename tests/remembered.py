"""What tests begin from: made once a session by the services themselves, and laid down again as rows.

Most tests begin where others did: a unit taken in, its parts listed, everything swapped, proven up to a step. The services are gone
through the first time, from each bench that such a way begins on; after that the rows they had written are written again, all times
moved by what has passed since.
"""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache, wraps
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.db import connection, models, transaction
from django.utils import timezone

Rows = dict[str, dict[object, tuple]]
#: Counted by the database itself from the parts, and laid down last for that.
TALLY = "records_seriestally"
SEQUENCES = "sqlite_sequence"
SHELF = ("shelf_catalogueitem", "records_shelfdevice")
FORM = "%Y-%m-%d %H:%M:%S"


@dataclass(frozen=True)
class Table:
    """A table of the bench: its columns, which of them is its key, and which hold a time."""

    columns: tuple[str, ...]
    key: int
    times: tuple[int, ...]

    @classmethod
    def of(cls, model: type[models.Model]) -> Table:
        fields = model._meta.concrete_fields
        times = tuple(i for i, f in enumerate(fields) if isinstance(f, models.DateTimeField))
        return cls(tuple(f'"{f.column}"' for f in fields), fields.index(model._meta.pk), times)

    @property
    def all(self) -> str:
        return ", ".join(self.columns)

    def held(self, row: tuple) -> tuple:
        """What a row holds but for times."""
        return tuple(value for i, value in enumerate(row) if i not in self.times)


@cache
def tables() -> dict[str, Table]:
    """The tables of a bench."""
    return {model._meta.db_table: Table.of(model) for model in apps.get_app_config("records").get_models()}


def rows_of(cursor: object, names: Iterable[str]) -> Rows:
    """All rows of some tables, by table and key."""
    found = {name: cursor.execute(f"SELECT {tables()[name].all} FROM {name}").fetchall() for name in names}
    return {name: {row[tables()[name].key]: row for row in rows} for name, rows in found.items()}


def lay_down(rows: Rows) -> None:
    """Write rows as they stood, in place of those of the same key."""
    with transaction.atomic(), connection.cursor() as cursor:
        for name, found in rows.items():
            _delete(cursor, name, found)
        for name, found in rows.items():
            _insert(cursor, name, list(found.values()))


def _delete(cursor: object, name: str, keys: Iterable[object]) -> None:
    key = tables()[name].columns[tables()[name].key]
    cursor.executemany(f"DELETE FROM {name} WHERE {key} = %s", [(k,) for k in keys])


def _insert(cursor: object, name: str, found: list[tuple]) -> None:
    if found:
        marks = ", ".join(["%s"] * len(found[0]))
        cursor.executemany(f"INSERT INTO {name} ({tables()[name].all}) VALUES ({marks})", found)


def _all_rows() -> Rows:
    """All that stands on the bench, and the numbers that rows get next."""
    with connection.cursor() as cursor:
        found = rows_of(cursor, tables())
        found[SEQUENCES] = dict.fromkeys(cursor.execute(f"SELECT name, seq FROM {SEQUENCES}").fetchall(), ())
    return found


def _moved(row: tuple, times: tuple[int, ...], by: timedelta) -> tuple:
    """A row with its times later by so much."""
    found = list(row)
    for i in times:
        if found[i] is not None:
            at = datetime.fromisoformat(str(found[i])) + by
            found[i] = at.strftime(f"{FORM}.%f")
    return tuple(found)


@dataclass(frozen=True)
class _Made:
    """What a way changed: rows that went and rows that came, by table; the tallies and sequences after it; its pictures; and when."""

    gone: dict[str, list]
    came: dict[str, list[tuple]]
    last: Rows
    pictures: Path | None
    at: datetime


def _difference(before: Rows, after: Rows, at: datetime) -> _Made:
    gone, came = {}, {}
    for table in tables():
        if table == TALLY:
            continue
        was, is_now = before[table], after[table]
        gone[table] = [key for key, row in was.items() if is_now.get(key) != row]
        came[table] = [row for key, row in is_now.items() if was.get(key) != row]
    pictures = None
    if Path(settings.PHOTOS).exists():
        pictures = Path(tempfile.mkdtemp(prefix="remembered-")) / "photos"
        shutil.copytree(settings.PHOTOS, pictures)
    return _Made(gone, came, {name: after[name] for name in (TALLY, SEQUENCES)}, pictures, at)


def _again(made: _Made) -> None:
    """Write what a way had written."""
    by = timezone.now() - made.at
    with transaction.atomic(), connection.cursor() as cursor:
        for name, keys in made.gone.items():
            _delete(cursor, name, keys)
        for name, came in made.came.items():
            _insert(cursor, name, [_moved(row, tables()[name].times, by) for row in came])
        cursor.execute(f"DELETE FROM {TALLY}")
        _insert(cursor, TALLY, list(made.last[TALLY].values()))
        cursor.execute(f"DELETE FROM {SEQUENCES}")
        cursor.executemany(f"INSERT INTO {SEQUENCES} (name, seq) VALUES (%s, %s)", list(made.last[SEQUENCES]))
    if made.pictures:
        shutil.copytree(made.pictures, settings.PHOTOS, dirs_exist_ok=True)


_REMEMBERED: dict[object, _Made] = {}


def _told(before: Rows) -> tuple[int, ...]:
    """What a bench is told by: all it holds but the times, and its pictures are in its rows by name."""
    found = []
    for name, table in tables().items():
        rows = before[name].values()
        found.append(hash(tuple(map(table.held, rows) if table.times else rows)))
    return tuple(found)


def remembered(way: Callable[..., None]) -> Callable[..., None]:
    """A way that tests go again and again: from the same bench, with the same words, what it wrote the first time is written again.

    It may give nothing back, and take only rows and plain values.
    """

    @wraps(way)
    def go(*args: object) -> None:
        before = _all_rows()
        words = tuple(repr((type(a).__name__, a.pk)) if isinstance(a, models.Model) else repr(a) for a in args)
        key = (way.__module__, way.__qualname__, words, _told(before))
        if key in _REMEMBERED:
            _again(_REMEMBERED[key])
            return
        way(*args)
        # its end, so that nothing of it lies ahead
        _REMEMBERED[key] = _difference(before, _all_rows(), timezone.now())

    return go
