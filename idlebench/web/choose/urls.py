from django.urls import path

from ..ui.lazy import LazyViews

policy_views = LazyViews("idlebench.web.choose.policy_views")
supply_views = LazyViews("idlebench.web.choose.supply_views")
views = LazyViews("idlebench.web.choose.views")

urlpatterns = [
    path("board/<int:pk>/choose/", views.choose, name="choose"),
    path("board/<int:pk>/choose/needles/", views.needles, name="choose_needles"),
    path("board/<int:pk>/choose/take/", views.take, name="choose_take"),
    path("board/<int:pk>/choose/pair/", views.take_pair, name="choose_pair"),
    path("board/<int:pk>/choose/keep/", views.keep, name="choose_keep"),
    path("board/<int:pk>/choose/out/", views.leave_out, name="choose_out"),
    path("board/<int:pk>/choose/all/", views.take_all, name="choose_all"),
    path("board/<int:pk>/choose/undo/", views.undo, name="choose_undo"),
    path("board/<int:pk>/supply/", supply_views.supply, name="supply"),
    path("board/<int:pk>/supply/take/", supply_views.take_other, name="other_take"),
    path("board/<int:pk>/supply/back/", supply_views.untake_other, name="other_back"),
    path("board/<int:pk>/supply/fuse/", supply_views.fuse, name="fuse"),
    path("policies/", policy_views.policy_list, name="policies"),
    path("policies/<slug:name>/", policy_views.policy_list, name="policy"),
    path("policies/<slug:name>/drop/", policy_views.drop, name="policy_drop"),
    path("board/<int:pk>/policies/", policy_views.compare, name="compare_policies"),
]
