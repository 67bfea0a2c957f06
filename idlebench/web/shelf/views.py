"""The Shelf: the catalogue with find, tables in and out."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.db.models import Count, Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.refusal import BadInput
from idlebench.core.tables import read_value, write_catalogue

from . import services
from .models import CatalogueItem

SHOWN = 30


def found(text: str) -> QuerySet[CatalogueItem]:
    """Items for words like ``100u 16V LZ``: values and volts are understood, the rest is looked for in names."""
    items = CatalogueItem.objects.all()
    for word in text.split()[:8]:
        low = word.lower()
        if low.endswith("v") and low[:-1].replace(".", "", 1).isdigit():
            items = items.filter(volts=float(low[:-1]))
            continue
        by_name = (
            Q(part__icontains=word) | Q(series__icontains=word) | Q(kind=low) | Q(mounting=low) | Q(safety=word.upper())
        )
        value = _value(word)
        items = items.filter(by_name | Q(value__range=(value * 0.999, value * 1.001)) if value else by_name)
    return items


def _value(word: str) -> float | None:
    """The word as a value, where it is one with a prefix."""
    if not word[-1:].isalpha() and not any(c in word for c in "unpµ"):
        return None
    try:
        return read_value(word, "wet")
    except BadInput:
        return None


def _page(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    q = request.GET.get("q", "")[:80]
    items = found(q)
    page = Paginator(items, 40).get_page(request.GET.get("page"))
    series = CatalogueItem.objects.values("series").annotate(n=Count("id")).order_by("series")
    context = {
        "page": page,
        "q": q,
        "series": list(series),
        "room": "shelf",
        "said": request.GET.get("said", ""),
        **extra,
    }
    return render(request, "shelf/rows.html" if request.htmx else "shelf/shelf.html", context, status=status)


def shelf(request: HttpRequest) -> HttpResponse:
    return _page(request)


@require_POST
def load(request: HttpRequest) -> HttpResponse:
    """A catalogue table in."""
    file = request.FILES.get("file")
    try:
        if file is None:
            raise BadInput("", "a CSV file", "Choose one first.", "file")
        result = services.load_csv(file.read(), good_rows="good" in request.POST)
    except BadInput as error:
        return _page(request, 422, complaint=error)
    if result.problems:
        return _page(
            request, 422, problems=result.problems[:SHOWN], more=max(0, len(result.problems) - SHOWN), loaded=result
        )
    return redirect(f"{reverse('shelf')}?said={result.added}+parts+added,+{result.changed}+brought+up+to+date")


def csv_out(request: HttpRequest) -> HttpResponse:
    """The whole catalogue as a table."""
    text = write_catalogue(item.to_core() for item in CatalogueItem.objects.all())
    return HttpResponse(
        text,
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="catalogue.csv"'},
    )
