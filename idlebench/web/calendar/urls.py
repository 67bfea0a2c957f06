from django.urls import path

from ..ui.lazy import LazyViews

views = LazyViews("idlebench.web.calendar.views")

urlpatterns = [
    path("calendar/", views.calendar, name="calendar"),
    path("calendar/plan/", views.plan, name="calendar_plan"),
    path("calendar/weigh/<int:pk>/", views.weigh, name="calendar_weigh"),
    path("calendar/hours/", views.hours, name="calendar_hours"),
    path("calendar.ics", views.ics, name="calendar_ics"),
]
