from django.urls import path

from . import views

urlpatterns = [
    path("board/<int:pk>/survey/", views.survey, name="survey"),
    path("board/<int:pk>/survey/read/", views.read, name="survey_read"),
    path("board/<int:pk>/survey/paste/", views.paste, name="survey_paste"),
    path("board/<int:pk>/survey/load/", views.load, name="survey_load"),
    path("board/<int:pk>/survey/undo/", views.undo, name="survey_undo"),
    path("board/<int:pk>/survey.csv", views.csv_out, name="survey_csv"),
    path("part/<int:pk>/place/", views.place, name="part_place"),
    path("part/<int:pk>/turn/", views.turn, name="part_turn"),
    path("part/<int:pk>/look/", views.look, name="part_look"),
    path("part/<int:pk>/reform/", views.reform, name="reform"),
    path("part/<int:pk>/remove/", views.remove, name="part_remove"),
]
