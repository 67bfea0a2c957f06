"""Hand-over and the ledger."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import urlsplit

from django.contrib.staticfiles import finders
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

from ..jobs.state import unit_state
from . import services
from .models import Entry


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


class LocalFiles(URLFetcher):
    """Fetches only what the app itself ships, styles and fonts, from its own files."""

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:
        name = urlsplit(url).path.removeprefix("/static/")
        path = finders.find(name)
        if not path:
            raise ValueError(f"not served here: {url}")
        kind = {".css": "text/css", ".woff2": "font/woff2"}.get(Path(path).suffix, "application/octet-stream")
        return URLFetcherResponse(url, Path(path).read_bytes(), {"Content-Type": kind})


def sheet_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The sheet as PDF."""
    state = unit_state(pk)
    context = {"state": state, "sheet": services.sheet(state), "gate": services.hand_over_gate(state)}
    html = render_to_string("ledger/sheet.html", context)
    pdf = HTML(string=html, base_url="http://127.0.0.1/", url_fetcher=LocalFiles()).write_pdf()
    name = "".join(c if c.isalnum() else "-" for c in f"unit-{state.row.name}")
    return HttpResponse(
        pdf, content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="handover-{name}.pdf"'}
    )
