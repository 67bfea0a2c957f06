from django.urls import path

from ..ui.lazy import LazyViews

dismantling_views = LazyViews("idlebench.web.intake.dismantling_views")
replace_views = LazyViews("idlebench.web.intake.replace_views")
triage_views = LazyViews("idlebench.web.intake.triage_views")
views = LazyViews("idlebench.web.intake.views")

urlpatterns = [
    path("", views.bench, name="bench"),
    path("job/new/", views.new_job, name="new_job"),
    path("job/<int:pk>/", views.job_facts, name="job"),
    path("job/<int:pk>/unit/", views.new_unit, name="new_unit"),
    path("job/<int:pk>/triage/", triage_views.triage, name="triage"),
    path("job/<int:pk>/times/", triage_views.times, name="times"),
    path("job/<int:pk>/side-by-side/", triage_views.side_by_side, name="side_by_side"),
    path("job/<int:pk>/labels/", triage_views.labels, name="labels"),
    path("unit/<int:pk>/decide/", triage_views.decide, name="decide"),
    path("board/<int:pk>/donor/", replace_views.donor_board, name="donor_board"),
    path("board/<int:pk>/replace/", replace_views.replace_board, name="replace_board"),
    path("board/<int:pk>/back/", replace_views.board_back, name="board_back"),
    path("b/<int:pk>/", triage_views.open_board, name="open_board"),
    path("unit/<int:pk>/worth/", triage_views.worth, name="worth"),
    path("board/<int:pk>/move/", triage_views.move_board, name="move_board"),
    path("unit/<int:pk>/", views.unit, name="unit"),
    path("unit/<int:pk>/intake/", views.intake, name="intake"),
    path("unit/<int:pk>/dismantling/", dismantling_views.dismantling, name="dismantling"),
    path("dismantling/<int:pk>/back/", dismantling_views.put_back, name="put_back"),
    path("dismantling/<int:pk>/strike/", dismantling_views.strike, name="strike"),
    path("unit/<int:pk>/look/", views.look, name="look"),
    path("unit/<int:pk>/look/skip/", views.skip_look, name="skip_look"),
    path("unit/<int:pk>/board/", views.new_board, name="new_board"),
    path("board/<int:pk>/facts/", views.board_facts, name="board_facts"),
]
