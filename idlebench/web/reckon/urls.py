from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.reckon.views")

urlpatterns = [path("", views.reckoner, name="reckoner"), path("<slug:name>/", views.reckoning, name="reckoning")]
