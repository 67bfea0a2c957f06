from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.practice.views")

urlpatterns = [
    path("", views.room, name="practice"),
    path("begin/", views.begin, name="practice_begin"),
    path("<int:pk>/", views.sitting, name="practice_machine"),
    path("<int:pk>/do/", views.move, name="practice_move"),
    path("<int:pk>/away/", views.drop, name="practice_drop"),
]
