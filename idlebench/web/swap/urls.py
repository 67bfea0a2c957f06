from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.swap.views")

urlpatterns = [
    path("board/<int:pk>/swap/", views.swap, name="swap"),
    path("board/<int:pk>/swap/done/", views.done, name="swap_done"),
    path("board/<int:pk>/swap/back/", views.back, name="swap_back"),
    path("board/<int:pk>/salvage/", views.salvage, name="salvage"),
    path("board/<int:pk>/mend/", views.mend, name="mend"),
    path("board/<int:pk>/modification/back/", views.modification_back, name="modification_back"),
    path("board/<int:pk>/mend/back/", views.mend_back, name="mend_back"),
]
