from django.urls import path

from ..ui.lazy import LazyViews

part_views = LazyViews("idlebench.web.shelf.part_views")
views = LazyViews("idlebench.web.shelf.views")

urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("own/", views.own, name="shelf_own"),
    path("load/", views.load, name="shelf_load"),
    path("part/<path:name>/", part_views.part, name="shelf_part"),
    path("foreign/", views.foreign, name="foreign"),
    path("catalogue.csv", views.csv_out, name="shelf_csv"),
]
