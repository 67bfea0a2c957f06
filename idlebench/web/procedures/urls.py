from django.urls import path, re_path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.procedures.views")

urlpatterns = [
    path("procedures/", views.procedures, name="procedures"),
    path("procedures/new/", views.new, name="procedure_new"),
    path("procedures/<slug:name>/", views.procedure, name="procedure"),
    path("procedures/<slug:name>/file/", views.as_file, name="procedure_file"),
    path("procedures/<slug:name>/drop/", views.drop, name="procedure_drop"),
    path("unit/<int:pk>/procedures/", views.of_unit, name="unit_procedures"),
    path("unit/<int:pk>/procedures/add/", views.add, name="procedure_add"),
    path("unit/<int:pk>/procedures/<int:proc>/", views.run, name="unit_procedure"),
    re_path(
        r"^unit/(?P<pk>\d+)/procedures/(?P<proc>\d+)/(?P<what>done|several|skip|failed|back|again|limit|off)/$",
        views.act,
        name="procedure_act",
    ),
]
