from django.urls import path

from . import views

urlpatterns = [
    path("", views.room, name="practice"),
    path("begin/", views.begin, name="practice_begin"),
    path("<int:pk>/", views.sitting, name="practice_machine"),
    path("<int:pk>/do/", views.move, name="practice_move"),
    path("<int:pk>/away/", views.drop, name="practice_drop"),
]
