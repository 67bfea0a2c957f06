"""The tables' own set-up."""

from __future__ import annotations

from django.apps import AppConfig
from django.db.models.signals import post_migrate, pre_migrate


class RecordsConfig(AppConfig):
    """The ground floor: after any change of tables its triggers are there again."""

    name = "idlebench.web.records"

    def ready(self) -> None:
        from . import revisions, search_index, tally

        pre_migrate.connect(
            lambda using, **_: revisions.take_away(using), sender=self, weak=False, dispatch_uid="no revisions"
        )
        pre_migrate.connect(
            lambda using, **_: search_index.take_away(using), sender=self, weak=False, dispatch_uid="no index"
        )
        for name, module in (("tally", tally), ("revision", revisions), ("find", search_index)):
            post_migrate.connect(_installer(module), sender=self, weak=False, dispatch_uid=f"{name} triggers")


def _installer(module: object):
    return lambda using, **_: module.install(using)
