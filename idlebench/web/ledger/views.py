"""Hand-over and the ledger."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string

from ..records.models import Entry
from ..unit.state import unit_state
from . import services


def ledger(request: HttpRequest) -> HttpResponse:
    """Everything that was done, newest first."""
    page = Paginator(Entry.objects.select_related("unit__job"), 100).get_page(request.GET.get("page"))
    return render(request, "ledger/ledger.html", {"page": page, "room": "ledger"})


def handover(request: HttpRequest, pk: int) -> HttpResponse:
    """What is handed over, and what is still open."""
    state = unit_state(pk)
    if request.method == "POST":
        services.hand_over(state)
        return redirect("handover", pk)
    context = {
        "state": state,
        "stage": "handover",
        "sheet": services.sheet(state),
        "gate": services.hand_over_gate(state),
    }
    return render(request, "ledger/handover.html", context)


def sheet_html(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheet on its own, to print."""
    state = unit_state(pk)
    return render(
        request,
        "ledger/sheet.html",
        {"state": state, "sheet": services.sheet(state), "gate": services.hand_over_gate(state)},
    )


def sheet_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheet as PDF."""
    from .pdf import to_pdf

    state = unit_state(pk)
    context = {"state": state, "sheet": services.sheet(state), "gate": services.hand_over_gate(state)}
    pdf = to_pdf(render_to_string("ledger/sheet.html", context))
    name = "".join(c if c.isalnum() else "-" for c in f"unit-{state.row.name}")
    return HttpResponse(
        pdf, content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="handover-{name}.pdf"'}
    )
