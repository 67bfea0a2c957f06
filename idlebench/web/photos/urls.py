from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.photos.views")

urlpatterns = [
    path("unit/<int:pk>/photos/", views.photos, name="photos"),
    path("photo/<int:pk>/", views.change, name="photo"),
    path("photo/<int:pk>/remove/", views.remove, name="photo_remove"),
    path("photo/<int:pk>.jpg", views.picture, name="picture"),
    path("photo/<int:pk>.small.jpg", views.small, name="picture_small"),
    path("board/<int:pk>/square/", views.square, name="square"),
    path("board/<int:pk>/under.jpg", views.flat, name="underlay"),
    path("board/<int:pk>/under/remove/", views.take_away, name="underlay_remove"),
]
