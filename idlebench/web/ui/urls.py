from django.conf import settings
from django.urls import path
from django.views.generic import RedirectView

from .lazy import LazyViews

views = LazyViews("idlebench.web.ui.views")

urlpatterns = [
    path("find/", views.find, name="find"),
    path("guide/", views.guide, name="guide"),
    path("guide/<slug:name>/", views.guide, name="guide_page"),
    path("glossary/", views.glossary, name="glossary"),
    path("licences/", views.licences, name="licences"),
    path("task/<str:key>/", views.task, name="task"),
    path("task/<str:key>/file/", views.task_file, name="task_file"),
    path("favicon.ico", RedirectView.as_view(url=f"{settings.STATIC_URL}ui/icon.svg"), name="favicon"),
]
