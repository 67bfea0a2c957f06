"""Files that are written whole, and go again if what they belong to fails."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path

from .. import home

_written: ContextVar[list[Path] | None] = ContextVar("written", default=None)


@contextmanager
def kept_or_gone() -> Iterator[None]:
    """Files kept inside are removed again when it ends with an exception; put it round the transaction."""
    outer, mine = _written.get(), []
    token = _written.set(mine)
    try:
        yield
    except BaseException:
        for path in mine:
            path.unlink(missing_ok=True)
        raise
    else:
        if outer is not None:
            outer.extend(mine)
    finally:
        _written.reset(token)


def keep(path: Path, data: bytes) -> None:
    """Write a file whole or not at all; it is on the disk before the row that speaks of it is."""
    mine = _written.get()
    if mine is not None:
        mine.append(path)
    home.written(path, data)
