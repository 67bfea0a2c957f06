from django.urls import path, register_converter

from . import removing, views


class Kind:
    """A word for what can be removed."""

    regex = "|".join(removing.KINDS)

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


register_converter(Kind, "kind")
urlpatterns = [
    path("demo/", views.demo, name="demo"),
    path("remove/<kind:kind>/<int:pk>/", views.remove, name="remove"),
    path("removed/", views.removed, name="removed"),
    path("removed/<int:pk>/back/", views.bring_back, name="bring_back"),
]
