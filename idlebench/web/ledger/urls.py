from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.ledger.views")

urlpatterns = [
    path("ledger/", views.ledger, name="ledger"),
    path("ledger/figures/", views.figures, name="figures"),
    path("ledger/figures/<slug:name>.csv", views.figures_csv, name="figures_csv"),
    path("unit/<int:pk>/handover/", views.handover, name="handover"),
    path("unit/<int:pk>/known-fault/", views.known_fault, name="known_fault"),
    path("unit/<int:pk>/known-fault/back/", views.known_fault_back, name="known_fault_back"),
    path("unit/<int:pk>/known-fault/follow/", views.known_fault_follow, name="known_fault_follow"),
    path("unit/<int:pk>/reopen/", views.reopen, name="reopen"),
    path("unit/<int:pk>/handover.html", views.sheet_html, name="sheet"),
    path("unit/<int:pk>/handover.pdf", views.sheet_pdf, name="sheet_pdf"),
    path("unit/<int:pk>/owner.html", views.sheet_html, {"which": "owner"}, name="owner_sheet"),
    path("unit/<int:pk>/owner.pdf", views.sheet_pdf, {"which": "owner"}, name="owner_pdf"),
]
