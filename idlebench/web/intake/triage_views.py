"""The pages on which the units of a job are weighed against each other."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from idlebench.core.draw.bars import cost_bar, cost_scale
from idlebench.core.judge.triage import helped_by
from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import dated

from ..records.models import Board, Job, Unit
from ..unit.state import states_of
from ..unit.times import own_times
from . import forms
from . import labels as printing
from . import triage as weighing
from .views import ON_A_PAGE, posted_unit

#: Units beside each other.
SIDE_BY_SIDE = 8


def _triage(
    request: HttpRequest,
    pk: int,
    complaint: BadInput | None = None,
    bad_unit: int = 0,
    times_complaint: BadInput | None = None,
) -> HttpResponse:
    job = Job.objects.get(pk=pk)
    times = own_times()
    weighed = weighing.weigh(job, times)
    helped = helped_by([e for _, _, e in weighed])
    at = next((i // ON_A_PAGE + 1 for i, (unit, _, _) in enumerate(weighed) if unit.pk == bad_unit), None)
    page = Paginator(weighed, ON_A_PAGE).get_page(at or request.GET.get("page"))
    context = {
        "job": job,
        "scale": (scale := cost_scale(e for _, _, e in weighed)),
        "rows": [
            (unit, e, cost_bar(e, scale), helped.get(unit.name, ""), one.boards) for unit, one, e in page.object_list
        ],
        "page": page,
        "others": [unit for unit, _, _ in weighed],
        "decisions": list(weighing.DECISIONS),
        "numbers": weighing.numbered([unit for unit, _, _ in weighed]),
        "room": "bench",
        "complaint": complaint,
        "bad_unit": bad_unit,
        "times_complaint": times_complaint,
        "times": weighing.times_shown(times),
        "typed": request.POST.dict(),
    }
    complaint = complaint or times_complaint
    return render(request, "intake/triage.html", context, status=422 if complaint else 200)


def triage(request: HttpRequest, pk: int) -> HttpResponse:
    """What each unit of a job would take, against what it is worth."""
    return _triage(request, pk)


@require_POST
def worth(request: HttpRequest, pk: int) -> HttpResponse:
    """Say what a unit is worth."""
    unit = Unit.objects.get(pk=pk)
    try:
        weighing.value(unit, **forms.worth_facts(request.POST.dict()))
    except BadInput as error:
        return _triage(request, unit.job_id, error, pk)
    return redirect("triage", unit.job_id)


@require_POST
def decide(request: HttpRequest, pk: int) -> HttpResponse:
    """Say by hand what becomes of a unit."""
    unit = Unit.objects.get(pk=pk)
    try:
        weighing.decide(unit, request.POST.get("decision", "")[:8], request.POST.get("why", "")[:400])
    except BadInput as error:
        return _triage(request, unit.job_id, error, pk)
    return redirect("triage", unit.job_id)


@require_POST
def times(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the shop's own times."""
    Job.objects.get(pk=pk)
    try:
        weighing.keep_times(forms.own_minutes(request.POST.dict()))
    except BadInput as error:
        return _triage(request, pk, times_complaint=error)
    return redirect("triage", pk)


def side_by_side(request: HttpRequest, pk: int) -> HttpResponse:
    """The units of a job beside each other, row by row."""
    job = Job.objects.get(pk=pk)
    page = Paginator(job.units.values_list("pk", flat=True), SIDE_BY_SIDE).get_page(request.GET.get("page"))
    states = states_of(page.object_list)
    kinds = list(dict.fromkeys(b.row.name for s in states for b in s.boards))
    boards = [(name, [next((b for b in s.boards if b.row.name == name), None) for s in states]) for name in kinds]
    dates = [dated(s.row.dates, job.made) for s in states]
    numbers = weighing.numbered(job.units.all())
    context = {
        "job": job, "states": states, "boards": boards, "dates": dates, "page": page, "room": "bench", "numbers": numbers
    }  # fmt: skip
    return render(request, "intake/side_by_side.html", context)


def labels(request: HttpRequest, pk: int) -> HttpResponse:
    """Labels to print: one for each unit and board, with a code that opens it."""
    job = Job.objects.get(pk=pk)
    states = states_of(job.units.values_list("pk", flat=True))
    address = request.build_absolute_uri("/").rstrip("/")
    context = {
        "job": job,
        "labels": printing.labels(job, states, address),
        "here_only": request.get_host().startswith(("127.", "localhost")),
        "room": "bench",
    }
    return render(request, "intake/labels.html", context)


def open_board(request: HttpRequest, pk: int) -> HttpResponse:
    """The short address on a board's label."""
    return redirect("survey", Board.objects.get(pk=pk).pk)


@require_POST
def move_board(request: HttpRequest, pk: int) -> HttpResponse:
    """Move a board to another unit."""
    board = Board.objects.select_related("unit__job").get(pk=pk)
    weighing.move_board(board, posted_unit(request, board.unit.job))
    return redirect("triage", board.unit.job_id)
