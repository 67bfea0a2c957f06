from django.urls import path

from . import views

urlpatterns = [
    path("board/<int:pk>/choose/", views.choose, name="choose"),
    path("board/<int:pk>/choose/take/", views.take, name="choose_take"),
    path("board/<int:pk>/choose/keep/", views.keep, name="choose_keep"),
    path("board/<int:pk>/choose/all/", views.take_all, name="choose_all"),
    path("board/<int:pk>/choose/undo/", views.undo, name="choose_undo"),
    path("unit/<int:pk>/gather/", views.gather, name="gather"),
    path("unit/<int:pk>/gather.csv", views.gather_csv, name="gather_csv"),
    path("unit/<int:pk>/gather/arrived/", views.arrived, name="arrived"),
]
