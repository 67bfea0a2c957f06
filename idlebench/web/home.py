"""The folder of a bench: its database, photos, backups and secret. Looked at before anything is opened, and held by one server.

Nothing here needs the settings: a folder that cannot be used is told in one line before they are read.
"""

from __future__ import annotations

import fcntl
import os
import sqlite3
from contextlib import closing, suppress
from pathlib import Path
from shutil import rmtree
from threading import get_ident
from types import TracebackType
from typing import Self

from idlebench.core.refusal import BadInput

#: What lies in the folder.
DATABASE, PHOTOS, BACKUPS, SECRET, LOCK = "bench.sqlite3", "photos", "backups", "secret", "lock"
#: The end of a file's name while it is being written; one that is found at the start was never finished.
HALF = ".part"
#: How a SQLite file begins.
_MAGIC = b"SQLite format 3\x00"


def place() -> Path:
    """The folder in use: IDLEBENCH_HOME, or ~/.idlebench."""
    return Path(os.environ.get("IDLEBENCH_HOME") or Path.home() / ".idlebench").expanduser()


def prepare(home: Path, *, look: bool = True) -> None:
    """Make the folder usable, or say why it is not. Nothing in it is changed but who may read it.

    Args:
        look: whether its database is looked at; who brings a backup back does not need it whole.

    Raises:
        BadInput: it cannot be written, or its database is not one, is empty beside photos, or is damaged.
    """
    os.umask(0o077)
    try:
        home.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise _unusable(home, error.strerror or "it cannot be made") from None
    if not home.is_dir():
        raise _unusable(home, "it is a file")
    _can_be_written(home)
    tighten(home)
    if look:
        check_database(home / DATABASE)


def _unusable(home: Path, why: str) -> BadInput:
    return BadInput(
        why,
        f"a folder that can be written at {home}",
        "Change its permissions or make room, or name another folder with IDLEBENCH_HOME. Nothing was changed.",
        field="bench",
    )


def _can_be_written(home: Path) -> None:
    probe = home / f"probe{HALF}"
    try:
        with probe.open("wb") as file:
            file.write(bytes(4096))
            os.fsync(file.fileno())
    except OSError as error:
        raise _unusable(home, error.strerror or "it cannot be written") from None
    finally:
        with suppress(OSError):
            probe.unlink(missing_ok=True)


def tighten(home: Path) -> None:
    """The folder and all below it is its owner's alone: 0700, files 0600."""
    for folder, _, files in os.walk(home):
        for path, mode in [(Path(folder), 0o700), *((Path(folder) / name, 0o600) for name in files)]:
            try:
                if path.stat().st_mode & 0o077:
                    path.chmod(mode)
            except OSError:
                continue  # gone meanwhile, or another owner's: what can be tightened is


def check_database(path: Path) -> None:
    """Refuse a database that is none, is damaged, or is empty or gone while the bench's photos lie beside it.

    Raises:
        BadInput: what is wrong, and what to do.
    """
    home = path.parent
    size = path.stat().st_size if path.exists() else 0
    photos = sum(1 for _ in (home / PHOTOS).glob("*.jpg")) if (home / PHOTOS).is_dir() else 0
    if not size and photos:
        state = "an empty database (0 bytes)" if path.exists() else "no database"
        raise BadInput(
            f"{state} next to {photos} photo files",
            f"a complete bench in {home}",
            f"Restore the last backup: {way_back(home)}. No empty bench is made over it.",
            field="bench",
        )
    if not size:
        return
    with path.open("rb") as file:
        if file.read(16) != _MAGIC:
            raise _damaged(path, "it is not a database")
    try:
        with closing(sqlite3.connect(path)) as db:
            found = db.execute("PRAGMA quick_check(1)").fetchone()[0]
    except sqlite3.DatabaseError as error:
        raise _damaged(path, str(error)) from None
    if found != "ok":
        raise _damaged(path, found.splitlines()[0][:100])


def way_back(home: Path) -> str:
    """The command that brings the last backup back, in words."""
    found = sorted((home / BACKUPS).glob("*.zip"), key=lambda p: p.stat().st_mtime) if (home / BACKUPS).is_dir() else []
    return f"idlebench restore {found[-1] if found else 'FILE'} --replace"


def _damaged(path: Path, why: str) -> BadInput:
    return BadInput(
        why[:58],
        f"the database of a bench in {path}",
        f"It was left as it is. Keep a copy of the folder, then restore the last backup: {way_back(path.parent)}.",
        field="bench",
    )


def sweep_halves(home: Path) -> int:
    """Let go what was never finished: files that a failed or cut-off write left half written. How many."""
    count = 0
    for folder in (home, home / PHOTOS, home / BACKUPS):
        for path in folder.glob(f"*{HALF}") if folder.is_dir() else ():
            if path.is_dir():
                rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)
            count += 1
    return count


def written(path: Path, data: bytes) -> None:
    """Write a file whole or not at all: when this returns it is on the disk, name and all.

    Raises:
        OSError: no room, or no right to; nothing of it stays.
    """
    # a half of its own: of two that write the same file at once, the second must not lose its half to the first
    half = path.with_name(f"{path.name}-{os.getpid()}-{get_ident()}{HALF}")
    try:
        with half.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        half.replace(path)
    except BaseException:
        half.unlink(missing_ok=True)
        raise
    synced(path.parent)


def synced(folder: Path) -> None:
    """Names in a folder are on the disk."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


class HomeLock:
    """The folder held by one server; a second one is told who has it. Let go when the process ends, however it ends."""

    def __init__(self, home: Path, says: str = "") -> None:
        """Hold it.

        Raises:
            BadInput: another server holds it.
        """
        self._file = (home / LOCK).open("a+")
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._file.seek(0)
            who = self._file.read(200).strip() or "another Idle Bench"
            self._file.close()
            raise BadInput(
                f"a bench that {who} has open",
                f"one that no other server has open in {home}",
                "Use that server, stop it first, or name another folder with IDLEBENCH_HOME.",
                field="bench",
            ) from None
        self._file.truncate(0)
        self._file.write(says)
        self._file.flush()

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Let it go."""
        self._file.truncate(0)
        self._file.close()


def copied(database: Path, to: Path) -> Path:
    """A whole copy of a database that may be in use, written whole or not at all."""
    to.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    half = to.with_name(to.name + HALF)
    try:
        with closing(sqlite3.connect(database)) as source, closing(sqlite3.connect(half)) as copy:
            source.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
        with half.open("rb+") as file:
            os.fsync(file.fileno())
        half.replace(to)
    finally:
        half.unlink(missing_ok=True)
    synced(to.parent)
    return to
