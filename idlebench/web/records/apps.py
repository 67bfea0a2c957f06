"""The tables' own set-up."""

from __future__ import annotations

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class RecordsConfig(AppConfig):
    """The ground floor: after any change of tables its triggers are there again."""

    name = "idlebench.web.records"

    def ready(self) -> None:
        from .tally import install

        post_migrate.connect(lambda using, **_: install(using), sender=self, weak=False, dispatch_uid="tally triggers")
