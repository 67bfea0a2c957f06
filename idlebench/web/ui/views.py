"""Pages that belong to no room: find, errors."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path

from django.contrib.staticfiles import finders
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.safestring import mark_safe

from idlebench import __version__
from idlebench.catalogue.glossary import PAGES, TERMS, term_for
from idlebench.core.calculators import REGISTRY
from idlebench.core.text.quantity import show

from ..records.models import Board, CatalogueItem, Part, ShelfDevice, Unit
from .tasks import task_of


def find(request: HttpRequest) -> HttpResponse:
    """Find a part, a job, a reckoning, a catalogue part."""
    text = request.GET.get("q", "").strip()[:60]
    found = _found(text) if text else []
    template = "ui/found.html" if request.htmx else "ui/find.html"
    return render(request, template, {"q": text, "found": found})


def _found(text: str) -> list[tuple[str, str, str]]:
    """(what it is, words, address), at most a dozen of each."""
    low = text.lower()
    found = [
        ("calculator", r.title, reverse("reckoning", args=[r.name]))
        for r in REGISTRY.values()
        if low in f"{r.name} {r.title} {r.about}".lower()
    ]
    # references are kept in capitals: a range of them is read off the index, however many parts the shop has
    refs = Part.objects.filter(ref__gte=text.upper(), ref__lt=text.upper() + "\uffff").order_by("ref", "pk")
    few = refs.select_related("board__unit__job")[:12]
    # of one reference that of a unit that is worked on comes first
    for part in sorted(few, key=lambda p: (p.ref, p.board.unit.handed_over is not None)):
        where = f"unit {part.board.unit.name}, {part.board.name}"
        found.append(
            (
                "part",
                f"{part.ref} {show(part.value, 'F')}, {where}",
                f"{reverse('survey', args=[part.board_id])}?part={part.ref}",
            )
        )
    # other parts are lines of their board
    for board in Board.objects.filter(others__icontains=text).select_related("unit__job").order_by("-pk")[:40]:
        where = f"unit {board.unit.name}, {board.name}"
        for line in board.others.splitlines():
            if low in line.lower() and len([f for f in found if f[0] == "part"]) < 24:
                ref = line.split()[0]
                found.append(("part", f"{line[:60]}, {where}", f"{reverse('survey', args=[board.pk])}?part={ref}"))
    terms = [term_for(text)] if term_for(text) else [t for t in TERMS if low in t.title.lower() and len(low) > 2]
    found += [("term", f"{term.title}: {term.meaning}", f"{reverse('glossary')}#{term.key}") for term in terms[:4]]
    for page in _guide() if len(low) > 2 else ():
        if low in page["text"].lower():
            found.append(("guide", page["title"], reverse("guide_page", args=[page["name"]])))
    for unit in Unit.objects.filter(job__name__icontains=text).select_related("job")[:12]:
        found.append(("unit", f"{unit.job.name}, unit {unit.name}", reverse("unit", args=[unit.pk])))
    for item in CatalogueItem.objects.filter(part__icontains=text)[:8]:
        found.append(("catalogue", f"{item.part}", f"{reverse('shelf')}?q={item.part}"))
    for device in ShelfDevice.objects.filter(part__icontains=text)[:8]:
        found.append((device.what, device.part, f"{reverse('shelf')}?q={device.part}"))
    return found


@cache
def _guide() -> tuple[dict[str, str], ...]:
    """The pages of the guide as they were built: name, title, body, and text to search; empty where nothing was built."""
    built = finders.find("build/guide/pages.json")
    return tuple(json.loads(Path(built).read_text(encoding="utf-8"))) if built else ()


def guide(request: HttpRequest, name: str = "index") -> HttpResponse:
    """A page of the guide."""
    page = next((page for page in _guide() if page["name"] == name), None)
    if page is None:
        raise Http404
    return render(request, "ui/guide.html", {"page": page, "pages": _guide(), "body": mark_safe(page["body"])})


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
