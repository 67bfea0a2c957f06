from django.urls import path

from . import views

urlpatterns = [path("", views.reckoner, name="reckoner"), path("<slug:name>/", views.reckoning, name="reckoning")]
