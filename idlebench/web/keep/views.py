"""Taking the demo in; removing what was put down by mistake, and bringing it back."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.wording import many

from ..records.models import Removed
from . import removing
from .demo import load_demo


@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Load the demo onto an empty bench."""
    load_demo()
    return redirect("bench")


def remove(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Asked once: what goes, and that it is kept for thirty days; posted, it goes."""
    row = removing.KINDS[kind].objects.get(pk=pk)
    if request.method == "POST":
        kept = removing.remove(kind, pk)
        return redirect(f"{reverse('removed')}?{urlencode({'last': kept.pk})}")
    counts: dict[str, int] = {}
    for one in removing.rows_of(row):
        name = str(one._meta.verbose_name_plural)
        counts[name] = counts.get(name, 0) + 1
    shown = [many(counts[name], word) for name, word in COUNTED if counts.get(name) and name != f"{kind}s"]
    context = {"kind": kind, "row": row, "title": removing.title_of(row), "counts": shown, "room": "bench"}
    return render(request, "keep/remove.html", context)


#: What people count of what goes, by the plural names of the rows.
COUNTED = (
    ("units", "unit"), ("boards", "board"), ("parts", "part"), ("choices", "choice"), ("swaps", "swap"),
    ("readings", "reading"), ("photos", "photo"), ("entries", "line"),
)  # fmt: skip


def removed(request: HttpRequest) -> HttpResponse:
    """What was removed in the last thirty days."""
    removing.sweep()
    rows = [(row, row.at + removing.KEPT) for row in Removed.objects.all()]
    return render(request, "keep/removed.html", {"rows": rows, "last": request.GET.get("last", ""), "room": "bench"})


@require_POST
def bring_back(request: HttpRequest, pk: int) -> HttpResponse:
    return redirect(removing.bring_back(pk))
