from django.urls import path

from ..ui.lazy import LazyViews

own_checks = LazyViews("idlebench.web.proving.own_checks")
pattern_views = LazyViews("idlebench.web.proving.pattern_views")
smoke_views = LazyViews("idlebench.web.proving.smoke_views")
round_views = LazyViews("idlebench.web.proving.round_views")
scope_views = LazyViews("idlebench.web.proving.scope_views")
stripes = LazyViews("idlebench.web.proving.stripes")
suspect_views = LazyViews("idlebench.web.proving.suspect_views")
views = LazyViews("idlebench.web.proving.views")

urlpatterns = [
    path("unit/<int:pk>/cold/", views.cold, name="cold"),
    path("unit/<int:pk>/power/", views.power, name="power"),
    path("unit/<int:pk>/power/on/", views.power_on, name="power_on"),
    path("unit/<int:pk>/round/", round_views.round_page, name="round"),
    path("unit/<int:pk>/round/meter/", round_views.meter, name="round_meter"),
    path("unit/<int:pk>/round/answers/", round_views.answers, name="round_answers"),
    path("unit/<int:pk>/reading/", views.reading, name="reading"),
    path("unit/<int:pk>/scope/", scope_views.capture, name="scope"),
    path("unit/<int:pk>/metered/", views.metered, name="metered"),
    path("unit/<int:pk>/suspects/", suspect_views.suspects, name="suspects"),
    path("unit/<int:pk>/suspects/tell/", suspect_views.tell, name="suspects_tell"),
    path("unit/<int:pk>/suspects/read/", suspect_views.answer, name="suspects_read"),
    path("unit/<int:pk>/suspects/drop/", suspect_views.drop, name="suspects_drop"),
    path("unit/<int:pk>/suspects/take/", suspect_views.take_on, name="suspects_take"),
    path("unit/<int:pk>/suspects/settle/", suspect_views.settle, name="suspects_settle"),
    path("board/<int:pk>/own-check/", own_checks.own_check, name="own_check"),
    path("pattern/", pattern_views.patterns, name="pattern"),
    path("board/<int:pk>/stripes/", stripes.stripes, name="stripes"),
    path("board/<int:pk>/stripes/read/", stripes.read_way, name="stripes_read"),
    path("unit/<int:pk>/store/", views.store_written_off, name="store_written_off"),
    path("unit/<int:pk>/confirm-imported/", views.imported_confirmed, name="imported_confirmed"),
    path("unit/<int:pk>/override/", views.override, name="override"),
    path("unit/<int:pk>/smoke/on/", smoke_views.smoke_on, name="smoke_on"),
    path("unit/<int:pk>/smoke/off/", smoke_views.smoke_off, name="smoke_off"),
    path("idle/", views.idle, name="idle"),
]
