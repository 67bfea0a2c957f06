"""A bench in memory to try rows on: what is judged there is judged as on the bench, and nobody waits for it."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from django.db import connection, connections, models

_ALIAS: ContextVar[str | None] = ContextVar("trial", default=None)


class TrialRouter:
    """Sends every read and write of who is on trial to the bench in memory."""

    def db_for_read(self, model: type[models.Model], **hints: object) -> str | None:
        return _ALIAS.get()

    def db_for_write(self, model: type[models.Model], **hints: object) -> str | None:
        return _ALIAS.get()

    def allow_relation(self, one: models.Model, other: models.Model, **hints: object) -> bool | None:
        return True if _ALIAS.get() else None


@contextmanager
def scratch_database() -> Iterator[None]:
    """An empty bench with the tables and triggers of the one in use; gone afterwards."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%' "
            # nobody looks for anything in it, and what an index makes for itself cannot be made by hand
            "AND name NOT GLOB 'find_*' "
            "ORDER BY CASE type WHEN 'table' THEN 0 ELSE 1 END"
        )
        schema = [sql for (sql,) in cursor.fetchall()]
    alias = f"trial-{secrets.token_hex(6)}"
    connections.databases[alias] = {**connections.databases["default"], "NAME": ":memory:", "OPTIONS": {}}
    token = _ALIAS.set(alias)
    try:
        connections[alias].connect()
        with connections[alias].cursor() as cursor:
            for sql in schema:
                cursor.execute(sql)
        yield
    finally:
        _ALIAS.reset(token)
        connections[alias].close()
        del connections[alias]
        del connections.databases[alias]
