"""Pages that belong to no room: find, errors."""

from __future__ import annotations

import json
from pathlib import Path

from django.contrib.staticfiles import finders
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.safestring import mark_safe

from idlebench import __version__
from idlebench.catalogue.glossary import PAGES, TERMS

from . import finding
from .finding import guide_pages
from .tasks import task_of


def find(request: HttpRequest) -> HttpResponse:
    """Find anything on the bench, and any page, term, calculator and procedure."""
    text = request.GET.get("q", "").strip()[:60]
    found, instead = finding.find(text)
    template = "ui/found.html" if request.htmx else "ui/find.html"
    return render(request, template, {"q": text, "found": found, "instead": instead})


def guide(request: HttpRequest, name: str = "index") -> HttpResponse:
    """A page of the guide."""
    page = next((page for page in guide_pages() if page["name"] == name), None)
    if page is None:
        raise Http404
    return render(request, "ui/guide.html", {"page": page, "pages": guide_pages(), "body": mark_safe(page["body"])})


def glossary(request: HttpRequest) -> HttpResponse:
    """The terms of the field, each in a sentence, and the rooms that use them."""
    rows = [(term, [(page, PAGES[page]) for page in term.used]) for term in TERMS]
    return render(request, "ui/glossary.html", {"terms": rows})


def licences(request: HttpRequest) -> HttpResponse:
    """Fonts and scripts of others that come along, each with its licence."""
    folder = Path(finders.find("build/licences/licences.json")).parent
    listed = json.loads((folder / "licences.json").read_text(encoding="utf-8"))
    texts = [{**one, "text": (folder / one["file"]).read_text(encoding="utf-8")} for one in listed]
    return render(request, "ui/licences.html", {"room": "keep", "listed": texts, "version": __version__})


def task(request: HttpRequest, key: str) -> HttpResponse:
    """How far long work is; posted, it is stopped."""
    found = task_of(key)
    if found is None:
        return not_found(request)
    if request.method == "POST":
        found.stop()
        return redirect("task", key)
    return render(request, "ui/task.html", {"task": found})


def task_file(request: HttpRequest, key: str) -> HttpResponse:
    """The file that long work made."""
    found = task_of(key)
    if found is None or found.made is None:
        return not_found(request)
    made = found.made
    return HttpResponse(
        made.data, content_type=made.kind, headers={"Content-Disposition": f'inline; filename="{made.name}"'}
    )


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return render(request, "ui/missing.html", status=404)


def stale(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A form from another session, or sent by no page of ours: nothing is taken from it."""
    return render(request, "ui/stale.html", status=403)


def broken(request: HttpRequest) -> HttpResponse:
    return render(request, "ui/broken.html", status=500)
