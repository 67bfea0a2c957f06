"""A bench opened: its tables brought up to date, with a copy kept before they change."""

from __future__ import annotations

import os
from pathlib import Path

from ..core.refusal import BadInput


def django_ready(*, look: bool = True) -> None:
    from ..web import home

    home.prepare(home.place(), look=look)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "idlebench.web.settings")
    import django

    django.setup()


def there_already() -> None:
    """Refuse a home that has no bench: only serve, demo, import and restore make one.

    Raises:
        BadInput: it says where one was looked for, and how to have one; or that its database is gone from beside its photos.
    """
    from ..web import home

    folder = home.place()
    home.check_database(folder / home.DATABASE)
    if not (folder / home.DATABASE).is_file():
        raise BadInput(
            "no bench",
            f"the bench in {folder}",
            "Name another folder with IDLEBENCH_HOME, or make one with idlebench serve, demo, import or restore.",
            field="bench",
        )


def migrated() -> None:
    """Open the bench in use, its tables brought up to date; a copy of it is kept before they are changed."""
    django_ready()
    from django.core.management import call_command

    from ..web import home
    from ..web.records import empty

    empty.begin(home.place())

    _refuse_half_old()
    _refuse_newer()
    if _copy_before_change():
        call_command("migrate", verbosity=0, interactive=False)
    from idlebench.web.keep.removing import sweep
    from idlebench.web.shelf.services import ensure_house_catalogue, sweep_staged
    from idlebench.web.unit.series import rejudge

    ensure_house_catalogue()
    sweep_staged()
    rejudge()
    sweep()


def _refuse_half_old() -> None:
    """Refuse a bench whose tables are of a version before the last one that kept them in separate rooms.

    Raises:
        BadInput: it says how to open it.
    """
    from django.db import connection
    from django.db.migrations.loader import MigrationLoader
    from django.db.migrations.recorder import MigrationRecorder

    replaced = set(MigrationLoader(None).get_migration("records", "0001_initial").replaces)
    applied = set(MigrationRecorder(connection).applied_migrations())
    if replaced & applied and not replaced <= applied:
        raise BadInput(
            str(connection.settings_dict["NAME"]),
            "a bench that was opened by version 0.1 at its last state",
            "Open it once with that version, then with this one. Nothing of it was changed.",
            field="bench",
        )


def _refuse_newer() -> None:
    """Refuse a bench whose tables are of a version that is newer than this one.

    Raises:
        BadInput: it says what to do.
    """
    from django.db import connection

    from ..web.records.versions import newer_than_ours

    unknown = newer_than_ours(connection)
    if unknown:
        raise BadInput(
            f"tables of a newer Idle Bench ({unknown[-1]})",
            f"a bench of this version or an older one in {connection.settings_dict['NAME']}",
            "Start the newer version again. Nothing of it was changed.",
            field="bench",
        )


def _copy_before_change() -> bool:
    """Whether the tables are to change; a copy of a bench is kept before they do."""
    from datetime import datetime

    from django.conf import settings
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    from ..web import home

    executor = MigrationExecutor(connection)
    plan = executor.migration_plan(executor.loader.graph.leaf_nodes())
    if plan and executor.loader.applied_migrations:
        name = f"before-{plan[-1][0].name}-{datetime.now():%Y-%m-%d-%H%M%S}.sqlite3"
        connection.close()
        home.copied(Path(connection.settings_dict["NAME"]), settings.BACKUPS / name)
    return bool(plan)
