from django.urls import path, register_converter

from ..ui.lazy import LazyViews
from . import removing

views = LazyViews("idlebench.web.keep.views")
workshop_views = LazyViews("idlebench.web.keep.workshop_views")


class Kind:
    """A word for what can be removed."""

    regex = "|".join(removing.KINDS)

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


class BackupName:
    """The name of a backup in the bench's own folder: a plain file name, nothing that climbs."""

    regex = r"[A-Za-z0-9][A-Za-z0-9-]{0,80}\.zip"

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


register_converter(BackupName, "backup")
register_converter(Kind, "kind")
urlpatterns = [
    path("workshop/", workshop_views.page, name="workshop"),
    path("workshop/logo.jpg", workshop_views.logo, name="workshop_logo"),
    path("backups/", views.backups, name="backups"),
    path("backups/make/", views.make_backup, name="make_backup"),
    path("backups/restore/", views.restore, name="restore"),
    path("backups/<backup:name>", views.backup_file, name="backup_file"),
    path("job/<int:pk>/bundle/", views.bundle, name="bundle"),
    path("job/come/", views.come, name="come"),
    path("demo/", views.demo, name="demo"),
    path("remove/<kind:kind>/<int:pk>/", views.remove, name="remove"),
    path("removed/", views.removed, name="removed"),
    path("removed/<int:pk>/back/", views.bring_back, name="bring_back"),
]
