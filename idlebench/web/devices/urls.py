from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.devices.views")

urlpatterns = [
    path("devices/", views.devices, name="devices"),
    path("devices/code/", views.make_code, name="make_code"),
    path("devices/<int:pk>/", views.change, name="device"),
    path("instruments/", views.instrument, name="instruments"),
    path("instruments/<int:pk>/", views.one_instrument, name="instrument"),
    path("pair/", views.pair, name="pair"),
]
