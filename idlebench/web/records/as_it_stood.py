"""Many reads of the bench as it stood at one moment, without keeping anybody from writing."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection


@contextmanager
def as_it_stood() -> Iterator[None]:
    """Reads inside see one state. Django's own transactions take the write lock at once here; this one takes none."""
    if connection.in_atomic_block:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("BEGIN DEFERRED")
        try:
            yield
        finally:
            cursor.execute("ROLLBACK")
