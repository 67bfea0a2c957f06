from django.urls import path

from ..ui.lazy import LazyViews

board_views = LazyViews("idlebench.web.survey.board_views")
device_views = LazyViews("idlebench.web.survey.device_views")
round_views = LazyViews("idlebench.web.survey.round_views")
found_views = LazyViews("idlebench.web.survey.found_views")
run_views = LazyViews("idlebench.web.survey.run_views")
views = LazyViews("idlebench.web.survey.views")

urlpatterns = [
    path("board/<int:pk>/survey/", views.survey, name="survey"),
    path("board/<int:pk>/survey/read/", views.read, name="survey_read"),
    path("board/<int:pk>/survey/paste/", views.paste, name="survey_paste"),
    path("board/<int:pk>/survey/load/", views.load, name="survey_load"),
    path("board/<int:pk>/survey/undo/", views.undo, name="survey_undo"),
    path("board/<int:pk>/survey.csv", views.csv_out, name="survey_csv"),
    path("board/<int:pk>/survey/drop/", views.drop, name="survey_drop"),
    path("board/<int:pk>/survey/nets/", board_views.nets, name="survey_nets"),
    path("board/<int:pk>/device/<str:ref>/place/", device_views.place, name="device_place"),
    path("board/<int:pk>/battery/", views.battery, name="battery_out"),
    path("board/<int:pk>/profile/", board_views.profile, name="profile"),
    path("board/<int:pk>/measure/", run_views.measure, name="measure"),
    path("board/<int:pk>/measure/round/", round_views.measure_round, name="measure_round"),
    path("board/<int:pk>/measure/answers/", round_views.measure_answers, name="measure_answers"),
    path("board/<int:pk>/found/", found_views.found, name="found"),
    path("board/<int:pk>/found/look/", found_views.look, name="found_look"),
    path("board/<int:pk>/found/take/", found_views.take, name="found_take"),
    path("board/<int:pk>/found/alike/", found_views.alike, name="found_alike"),
    path("board/<int:pk>/found/aside/", found_views.aside, name="found_aside"),
    path("part/<int:pk>/verdict/", views.override, name="part_verdict"),
    path("part/<int:pk>/copy/", views.copy, name="part_copy"),
    path("part/<int:pk>/give/", views.give, name="part_give"),
    path("part/<int:pk>/place/", views.place, name="part_place"),
    path("part/<int:pk>/turn/", views.turn, name="part_turn"),
    path("part/<int:pk>/look/", views.look, name="part_look"),
    path("part/<int:pk>/reform/", run_views.reform, name="reform"),
]
