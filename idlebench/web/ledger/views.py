"""Hand-over and the ledger."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.prove import gates
from idlebench.core.refusal import BadInput

from ..records.models import Entry
from ..ui.tasks import Made, Task, begin
from ..unit.state import UnitState, unit_state
from . import services
from .sheets import sheet


def ledger(request: HttpRequest) -> HttpResponse:
    """Everything that was done, newest first."""
    page = Paginator(Entry.objects.select_related("unit__job"), 100).get_page(request.GET.get("page"))
    return render(request, "ledger/ledger.html", {"page": page, "room": "ledger"})


def _told(state: UnitState) -> dict[str, object]:
    """What a sheet is made of."""
    gate = () if state.row.handed_over else gates.hand_over(state.closing)
    return {"state": state, "sheet": sheet(state), "gate": gate}


def handover(request: HttpRequest, pk: int) -> HttpResponse:
    """What is handed over, and what is still open."""
    if request.method == "POST":
        services.hand_over(pk)
        return redirect("handover", pk)
    return _handover(request, pk)


def _handover(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    context = {**_told(unit_state(pk)), "stage": "handover", **extra}
    return render(request, "ledger/handover.html", context, status=status)


@require_POST
def reopen(request: HttpRequest, pk: int) -> HttpResponse:
    """Open a handed-over unit again, with a reason."""
    try:
        services.reopen(pk, request.POST.get("reason", ""))
    except BadInput as error:
        return _handover(request, pk, 422, complaint=error, reason=request.POST.get("reason", ""))
    return redirect("handover", pk)


def sheet_html(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheet on its own, to print."""
    return render(request, "ledger/sheet.html", _told(unit_state(pk)))


def sheet_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheet as PDF: posted, it is made beside the pages, told and stopped; asked for, it is made at once."""
    from .pdf import to_pdf

    state = unit_state(pk)
    name = "handover-unit-" + "".join(c if c.isalnum() else "-" for c in state.row.name) + ".pdf"
    html = render_to_string("ledger/sheet.html", _told(state))
    if request.method == "POST":

        def work(task: Task) -> str:
            task.made = Made(name, "application/pdf", to_pdf(html, task.step))
            return f"The sheet of unit {state.row.name} is made, {len(task.made.data) / 1000:.0f} kB."

        return redirect("task", begin("The sheet as PDF", reverse("handover", args=[pk]), work).key)
    return HttpResponse(
        to_pdf(html), content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'}
    )
