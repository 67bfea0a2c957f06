"""All addresses, a room each."""

from django.urls import include, path

handler404 = "idlebench.web.ui.views.not_found"
handler500 = "idlebench.web.ui.views.broken"

urlpatterns = [
    path("", include("idlebench.web.intake.urls")),
    path("", include("idlebench.web.survey.urls")),
    path("", include("idlebench.web.choose.urls")),
    path("", include("idlebench.web.calendar.urls")),
    path("", include("idlebench.web.procedures.urls")),
    path("", include("idlebench.web.gather.urls")),
    path("", include("idlebench.web.swap.urls")),
    path("", include("idlebench.web.proving.urls")),
    path("", include("idlebench.web.ledger.urls")),
    path("", include("idlebench.web.photos.urls")),
    path("shelf/", include("idlebench.web.shelf.urls")),
    path("reckoner/", include("idlebench.web.reckon.urls")),
    path("practice/", include("idlebench.web.practice.urls")),
    path("", include("idlebench.web.keep.urls")),
    path("", include("idlebench.web.devices.urls")),
    path("", include("idlebench.web.ui.urls")),
]
