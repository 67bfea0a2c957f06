from django.urls import path

from . import views

urlpatterns = [
    path("unit/<int:pk>/gather/", views.gather, name="gather"),
    path("unit/<int:pk>/gather.csv", views.gather_csv, name="gather_csv"),
    path("unit/<int:pk>/gather/arrived/", views.arrived, name="arrived"),
]
