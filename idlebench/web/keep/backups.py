"""Backups of the whole bench: one file, written whole or not at all, proven by opening and counting it; and the way back.

A backup is a zip of the database as it stood at one moment, every photo it speaks of, and a page that says what is inside.
"""

from __future__ import annotations

import json
import logging
import os
import secrets
import shutil
import sqlite3
import tempfile
import threading
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path, PurePosixPath

from django.conf import settings
from django.core.management import call_command
from django.db import connections
from django.utils import timezone

from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.wording import many

from .. import home
from ..records import search_index
from ..records.models import Job
from ..records.versions import is_bench, newer_than_ours
from ..ui.exclusive_mode import alone
from ..unit.power_note import older_copy
from ..unit.series import rejudge
from ..unit.stock import forget
from .at_rest import must_be_at_rest
from .untouched import untouched

FORMAT, VERSION = "idlebench-backup", 1
PAGE, DATABASE, PHOTOS = "backup.json", home.DATABASE, "photos"
#: The most that is unpacked of a backup, bytes, and the most files.
LARGEST, FILES = 20_000_000_000, 200_000
#: Room that is left on the disk beside a backup, as a multiple of what it needs.
ROOM = 1.2
#: Tables that are not brought back: who may reach one bench says nothing of another, and the rest is reckoned anew.
LEFT_OUT = (
    "records_device",
    "records_pairingcode",
    "records_wrongcode",
    "django_session",
    "auth_user",
    "records_summary",
    "records_unitcounts",
    "records_failurecount",
)
#: Tables whose rows are told to people.
COUNTED = {
    "jobs_job": "job",
    "jobs_unit": "unit",
    "survey_part": "part",
    "proving_reading": "reading",
    "photos_photo": "photo",
}
log = logging.getLogger("idlebench")
_making = threading.Lock()


@dataclass(frozen=True)
class Backup:
    """A backup that was opened and counted. counts: rows by table."""

    path: Path
    made: datetime
    counts: dict[str, int]
    photos: int

    @property
    def size(self) -> int:
        return self.path.stat().st_size

    @property
    def told(self) -> str:
        """What is inside, in words."""
        return ", ".join(many(self.counts.get(table, 0), word) for table, word in COUNTED.items())


def live() -> Path:
    """The database in use."""
    return Path(connections["default"].settings_dict["NAME"])


def make(to: Path) -> Backup:
    """Write a backup of the bench in use; others go on working meanwhile.

    Raises:
        BadInput: the file is there already, there is no room, or nothing of anybody's is on the bench.
    """
    to = Path(to)
    if to.exists():
        raise BadInput(str(to), "a file that is not there yet", "Backups are never written over.", field="file")
    if not to.parent.is_dir():
        raise BadInput(str(to.parent), "a folder that is there", field="file")
    if untouched():
        raise BadInput(
            "an empty bench",
            "a job, a price, a part on the shelf or anything else of your own",
            "There is nothing to back up yet.",
            field="bench",
        )
    half = to.with_name(to.name + home.HALF)
    with _making, tempfile.TemporaryDirectory(dir=settings.HOME, prefix="making", suffix=home.HALF) as work:
        try:
            database = home.copied(live(), Path(work) / DATABASE)
            photos = [settings.PHOTOS / name for name in sorted(photo_files(database))]
            _has_room(to.parent, database.stat().st_size + sum(p.stat().st_size for p in photos if p.exists()))
            _write(half, database, [p for p in photos if p.exists()])
            found = _opened(half, Path(work))
            os.replace(half, to)
            home.synced(to.parent)
        except OSError as error:
            raise BadInput(
                f"{to} ({error.strerror or error})", "a disk with room for it", "Nothing was saved.", field="file"
            ) from None
        finally:
            half.unlink(missing_ok=True)
    return Backup(to, found.made, found.counts, found.photos)


def _has_room(folder: Path, size: int) -> None:
    free = shutil.disk_usage(folder).free
    if free < size * ROOM:
        raise BadInput(
            f"{free / 1e6:.0f} MB free in {folder}",
            f"{size * ROOM / 1e6:.0f} MB for a backup",
            "Make room.",
            field="file",
        )


def _write(to: Path, database: Path, photos: Iterable[Path]) -> None:
    files = list(photos)
    with closing(sqlite3.connect(database)) as db:
        counts = _counts(db)
    told = {
        "format": FORMAT,
        "version": VERSION,
        "made": timezone.now().isoformat(),
        "counts": counts,
        "photos": len(files),
    }
    with to.open("wb") as out:
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bundle:
            bundle.writestr(PAGE, json.dumps(told, indent=1, ensure_ascii=False))
            bundle.write(database, DATABASE)
            for path in files:
                bundle.write(path, f"{PHOTOS}/{path.name}", zipfile.ZIP_STORED)
        out.flush()
        os.fsync(out.fileno())


def _counts(db: sqlite3.Connection) -> dict[str, int]:
    """Rows of every table but the index's. The names come from the database itself."""
    names = [
        n
        for (n,) in db.execute(
            "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT GLOB 'find_*'"
        )
    ]
    return {n: db.execute(f'SELECT COUNT(*) FROM "{n}"').fetchone()[0] for n in sorted(names)}


def photo_files(database: Path) -> set[str]:
    """Every file that a database speaks of, those of what was removed and can be brought back among them."""
    with closing(sqlite3.connect(database)) as db:
        files = {name for (name,) in db.execute("SELECT file FROM photos_photo UNION SELECT file FROM photos_underlay")}
        for (rows,) in db.execute("SELECT rows FROM records_removed WHERE what <> 'part'"):
            files |= {f["fields"]["file"] for f in json.loads(rows)["rows"] if "file" in f["fields"]}
    plain = {name for name in files if name and PurePosixPath(name).name == name}
    return plain | {name.replace(".jpg", ".small.jpg") for name in plain}


@contextmanager
def _as_backup(path: Path) -> Iterator[zipfile.ZipFile]:
    """A backup's zip, its list of files looked at.

    Raises:
        BadInput: no backup, cut short, or made to do harm.
    """
    try:
        with zipfile.ZipFile(path) as bundle:
            infos = bundle.infolist()
            names = [info.filename for info in infos]
            wrong = next((n for n in names if not _plain(n)), None)
            if wrong is not None or len(names) != len(set(names)) or len(names) > FILES:
                raise _no_backup(
                    path, f"a file in it is called {str(wrong or names[0])[:60]!r}" if wrong else "too many files"
                )
            if sum(info.file_size for info in infos) > LARGEST:
                raise _no_backup(path, f"over {LARGEST / 1e9:.0f} GB unpacked")
            yield bundle
    except FileNotFoundError:
        raise BadInput(str(path), "a backup", "There is no such file.", field="file") from None
    except BadInput:
        raise
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError, ValueError, OSError, KeyError) as error:
        raise _no_backup(path, str(error)[:80] or type(error).__name__) from None
    except (sqlite3.DatabaseError, RecursionError, OverflowError, AttributeError, TypeError) as error:
        raise _no_backup(path, str(error)[:80] or type(error).__name__) from None
    except zlib.error:
        raise _no_backup(path, "damaged") from None


def _plain(name: str) -> bool:
    """Whether a file belongs into a backup by its name."""
    if name in (PAGE, DATABASE):
        return True
    folder, _, file = name.partition("/")
    return folder == PHOTOS and file.endswith(".jpg") and file.replace(".", "").isalnum() and file.isascii()


def _no_backup(path: Path, why: str) -> BadInput:
    return BadInput(
        why[:58], f"a backup that was made by Idle Bench in {path.name}", "Nothing was changed.", field="file"
    )


def _opened(path: Path, work: Path) -> Backup:
    """Open a backup and count what is in it; its database is left in a folder of work as “opened.sqlite3”.

    Raises:
        BadInput: it is none, or not whole.
    """
    with _as_backup(path) as bundle:
        told = json.loads(bundle.read(PAGE))
        if not isinstance(told, dict) or told.get("format") != FORMAT:
            raise _no_backup(path, "its page names another format")
        if not isinstance(told.get("version"), int) or told["version"] > VERSION:
            raise BadInput(
                f"a backup of version {str(told.get('version'))[:20]}", f"version {VERSION} or older",
                "Restore it with the newer Idle Bench that made it.", field="file",
            )  # fmt: skip
        counts, photos = dict(told["counts"]), int(told["photos"])
        broken = bundle.testzip()
        names = {n.removeprefix(f"{PHOTOS}/") for n in bundle.namelist() if n.startswith(f"{PHOTOS}/")}
        if broken is not None or len(names) != photos:
            raise _no_backup(path, f"{broken or 'photos'} not complete")
        database = work / "opened.sqlite3"
        with bundle.open(DATABASE) as source, database.open("wb") as out:
            shutil.copyfileobj(source, out)
        with closing(sqlite3.connect(database)) as db:
            if db.execute("PRAGMA integrity_check(1)").fetchone()[0] != "ok" or _counts(db) != counts:
                raise _no_backup(path, "its database is not complete")
        return Backup(path, datetime.fromisoformat(told["made"]), counts, photos)


def looked_at(path: Path) -> Backup:
    """A backup, opened and counted.

    Raises:
        BadInput: it is none, or not whole.
    """
    with tempfile.TemporaryDirectory(dir=settings.HOME, prefix="looking", suffix=home.HALF) as work:
        return _opened(Path(path), Path(work))


def restore(path: Path, *, replace: bool = False) -> tuple[Backup, Path | None]:
    """Bring a backup back in place of the bench in use; what it replaces is kept as a backup of its own, or as the file it was.

    Devices are to be paired anew.

    Raises:
        BadInput: no backup, or one of a newer version; nothing was changed. Blocked: there are jobs here, and replace is not said;
            or one of them has power.
    """
    path = Path(path)
    with tempfile.TemporaryDirectory(dir=settings.HOME, prefix="restoring", suffix=home.HALF) as work:
        found = _opened(path, Path(work))
        database = Path(work) / "opened.sqlite3"
        _brought_forward(database, path)
        with alone():
            whole = _is_whole()
            if whole and Job.objects.exists() and not replace:
                raise Blocked(
                    "Not restored",
                    (Block("in use", "There are jobs on this bench.",
                        "Confirm that they are to be replaced; they are saved as a backup."),),
                )  # fmt: skip
            if whole:
                must_be_at_rest("Not restored")
            kept = _kept_before(whole)
            _photos_in(path)
            connections["default"].close()
            with (
                closing(sqlite3.connect(database)) as source,
                closing(sqlite3.connect(live())) as here,
            ):
                here.execute("PRAGMA synchronous=FULL")
                source.backup(here)
            forget()
    rejudge()
    return found, kept


def _is_whole() -> bool:
    """Whether the database in use can be opened."""
    try:
        home.check_database(live())
    except BadInput:
        return False
    return live().exists() and live().stat().st_size > 0


def _kept_before(whole: bool) -> Path | None:
    """What a restore replaces, kept: as a backup, or as the damaged files they are."""
    stamp = f"{datetime.now():%Y-%m-%d-%H%M%S}"
    if whole:
        return make(free_name(settings.BACKUPS / f"before-restore-{stamp}.zip")).path
    connections["default"].close()
    kept = None
    for end in ("", "-wal", "-shm"):
        here = live().with_name(live().name + end)
        if here.exists():
            kept = settings.BACKUPS / f"damaged-{stamp}.sqlite3{end}"
            kept.parent.mkdir(exist_ok=True, mode=0o700)
            here.replace(kept)
    return kept


def free_name(path: Path) -> Path:
    """A name that no file has yet."""
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    found, number = path, 1
    while found.exists():
        number += 1
        found = path.with_name(f"{path.stem}-{number}{path.suffix}")
    return found


def _photos_in(path: Path) -> None:
    """The photos of a backup beside those that are here. A photo's file never changes, so one of that name is the same."""
    settings.PHOTOS.mkdir(exist_ok=True, mode=0o700)
    with _as_backup(path) as bundle:
        for name in bundle.namelist():
            to = settings.PHOTOS / name.removeprefix(f"{PHOTOS}/")
            if name.startswith(f"{PHOTOS}/") and not to.exists():
                home.written(to, bundle.read(name))


def _brought_forward(database: Path, path: Path) -> None:
    """Bring a backup's tables up to this version's, on the copy. Logins and devices of the bench it came from stay behind.

    Raises:
        BadInput: it is of a newer version, or no bench at all.
    """
    alias = f"incoming-{secrets.token_hex(6)}"
    connections.databases[alias] = {**connections.databases["default"], "NAME": database}
    try:
        connections[alias].connect()
        if not is_bench(connections[alias]):
            raise _no_backup(path, "its database is not a bench")
        if newer := newer_than_ours(connections[alias]):
            raise BadInput(
                f"tables of a newer Idle Bench ({newer[-1]})", "a backup of this version or an older one",
                "Restore it with that version.", field="file",
            )  # fmt: skip
        call_command("migrate", database=alias, verbosity=0, interactive=False)
        with connections[alias].cursor() as cursor:
            for table in LEFT_OUT:
                cursor.execute(f"DELETE FROM {table}")
        search_index.rebuild(alias)
        older_copy("a backup was restored", alias)
        with connections[alias].cursor() as cursor:
            cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    finally:
        connections[alias].close()
        del connections[alias]
        del connections.databases[alias]
