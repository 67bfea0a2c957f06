"""Which version of the tables a bench has."""

from __future__ import annotations

from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.migrations.loader import MigrationLoader


def newer_than_ours(connection: BaseDatabaseWrapper) -> list[str]:
    """Changes of our tables that a bench has been through and this version does not know, in order; none for one of today."""
    loader = MigrationLoader(connection)
    ours = {app for app, _ in loader.disk_migrations}
    replaced = {key for one in loader.disk_migrations.values() for key in one.replaces}
    known = {*loader.disk_migrations, *replaced}
    return sorted(
        f"{app} {name}" for app, name in loader.applied_migrations if app in ours and (app, name) not in known
    )


def is_bench(connection: BaseDatabaseWrapper) -> bool:
    """Whether a database is one of ours at all."""
    return any(app == "records" for app, _ in MigrationLoader(connection).applied_migrations)
