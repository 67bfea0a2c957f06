"""The Shelf: the catalogue with find, tables in and out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from django.core.paginator import Paginator
from django.db.models import Count, Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.column_map import EXAMPLE, read_foreign
from idlebench.core.board.parts import KINDS, MOUNTINGS, SAFETY_CLASSES
from idlebench.core.board.tables import CATALOGUE, read_value, write_catalogue
from idlebench.core.choose.cells_and_diodes import CHEMISTRIES, DIODE_KINDS, Battery, Diode
from idlebench.core.choose.device_tables import TABLES
from idlebench.core.choose.fuses import Fuse
from idlebench.core.choose.regulators_and_fuses import Regulator
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import decode
from idlebench.core.text.quantity import read, show
from idlebench.core.wording import many

from ..records.models import CatalogueItem, ColumnMap
from ..ui.flash_messages import say
from ..ui.tasks import Task, begin
from ..unit.stock import Device, add_own, devices, marked, what_of
from . import services

SHOWN = 30
#: From this size a table is taken in beside the pages, bytes: some three thousand rows.
LONG = 300_000


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


#: Filters of the Shelf: name in the address → its column.
FILTERS = {"kind": "kind", "mounting": "mounting", "safety": "safety", "series": "series"}


def filtered(items: QuerySet[CatalogueItem], query: Mapping[str, str]) -> QuerySet[CatalogueItem]:
    """Items that pass the filters of an address; what a filter cannot read is left out of it."""
    for name, column in FILTERS.items():
        if query.get(name):
            items = items.filter(**{column: query[name][:20]})
    for name, test in (("volts", "volts__gte"), ("wide", "diameter__lte"), ("high", "height__lte")):
        if text := query.get(name, "").strip():
            try:
                items = items.filter(**{test: read(text, "V" if name == "volts" else "mm", low=0, high=1e6)})
            except BadInput:
                continue
    return items.filter(stock__gt=0) if "here" in query else items


def _address(request: HttpRequest) -> str:
    """The query of this page without its page number and what was said once, ready for one behind it."""
    query = request.GET.copy()
    for once in ("page", "said"):
        query.pop(once, None)
    return f"{query.urlencode()}&" if query else ""


def _page(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    q = request.GET.get("q", "")[:80]
    items = filtered(found(q), request.GET.dict())
    page = Paginator(items, 40).get_page(request.GET.get("page"))
    devices = device_rows(q)
    series = CatalogueItem.objects.values("series").annotate(n=Count("id")).order_by("series")
    context = {
        "page": page,
        "devices": devices[:SHOWN],
        "more_devices": len(devices) if len(devices) > SHOWN else 0,
        "q": q,
        "series": list(series),
        "filters": request.GET.dict(),
        "address": _address(request),
        "kinds": KINDS,
        "mountings": MOUNTINGS,
        "classes": SAFETY_CLASSES,
        "room": "shelf",
        **extra,
    }
    return render(request, "shelf/rows.html" if request.htmx else "shelf/shelf.html", context, status=status)


def shelf(request: HttpRequest) -> HttpResponse:
    return _page(request)


@dataclass(frozen=True, kw_only=True)
class DeviceRow:
    """A part that is no capacitor as the Shelf shows it."""

    part: str
    what: str
    marked: str
    details: str
    price: float
    stock: int


def device_rows(query: str) -> list[DeviceRow]:
    """Parts that are no capacitors whose name, family or rating a person's words tell; none where nothing is looked for."""
    wanted = query.lower().replace(" ", "")
    if not wanted:
        return []
    rows = [
        DeviceRow(part=d.part, what=what_of(d), marked=_rated(d), details=_details(d), price=d.price, stock=d.stock)
        for d in devices()
    ]
    return [
        row for row in rows if wanted in f"{row.part} {row.what} {row.marked} {row.details}".lower().replace(" ", "")
    ]


def _rated(device: Device) -> str:
    if isinstance(device, Fuse):
        return f"{device.characteristic} {show(device.rating, 'A')} {show(device.volts_ac, 'V')}"
    return marked(device)


def _details(device: Device) -> str:
    if isinstance(device, Fuse):
        return f"{device.size} mm, {device.mounting}, breaks {show(device.breaking, 'A')}"
    if isinstance(device, Regulator):
        return f"{device.series or device.type}, {show(device.v_in_max, 'V')} in at most"
    if isinstance(device, Battery):
        return CHEMISTRIES[device.chemistry].title
    if not isinstance(device, Diode):
        return device.series
    quick = f", recovers in {show(device.recovery, 's')}" if device.recovery else ""
    return f"{DIODE_KINDS[device.kind]}, {device.mounting}{quick}"


@require_POST
def own(request: HttpRequest) -> HttpResponse:
    """One part of one's own, from a typed line."""
    typed = request.POST.get("line", "")
    try:
        name = add_own(read_own(typed))
    except BadInput as error:
        return _page(request, 422, own_typed=typed[:400], own_complaint=error)
    return say(request, reverse("shelf"), f"{name} is on the Shelf", q=name)


@require_POST
def load(request: HttpRequest) -> HttpResponse:
    """A catalogue table in."""
    file = request.FILES.get("file")
    try:
        if file is None:
            raise BadInput("", "a CSV file", "Choose one first.", field="file")
        what, good = request.POST.get("what", "capacitor"), "good" in request.POST
        if what in TABLES:
            result = services.load_devices(file.read(), what, good_rows=good)
        else:
            data = file.read()
            if len(data) > LONG:
                task = begin("A table for the Shelf", reverse("shelf"), lambda task: _loaded(task, data, good))
                return redirect("task", task.key)
            result = services.load_csv(data, good_rows=good)
    except BadInput as error:
        return _page(request, 422, complaint=error)
    if result.problems:
        return _page(
            request, 422, problems=result.problems[:SHOWN], more=max(0, len(result.problems) - SHOWN), loaded=result
        )
    return say(request, reverse("shelf"), f"{many(result.added, 'part')} added, {result.changed} brought up to date")


def _loaded(task: Task, data: bytes, good: bool) -> str:
    """A long table taken in; what came of it, in words."""
    return _came(services.load_csv(data, good_rows=good, tell=task.step), good)


def _came(result: services.Loaded, good: bool) -> str:
    if result.problems and not good:
        told = "; ".join(map(str, result.problems[:3]))
        raise BadInput(
            f"{len(result.problems)} rows",
            "a table in which every row can be read",
            f"{told}. Nothing was imported.",
            field="file",
        )
    left = f", {many(len(result.problems), 'row')} left out" if result.problems else ""
    return f"{many(result.added, 'part')} added, {result.changed} brought up to date{left}."


def csv_out(request: HttpRequest) -> HttpResponse:
    """The whole catalogue as a table."""
    text = write_catalogue(item.to_core() for item in CatalogueItem.objects.all())
    return HttpResponse(
        text,
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="catalogue.csv"'},
    )


def foreign(request: HttpRequest) -> HttpResponse:
    """A supplier's own export: its columns matched to ours, looked at before it is taken."""
    context: dict[str, object] = {
        "maps": ColumnMap.objects.filter(what=ColumnMap.PARTS),
        "room": "shelf",
        "ours": CATALOGUE,
        "example": read_foreign(EXAMPLE),
    }
    status = 200
    if request.method == "POST":
        try:
            context |= _foreign(request)
        except BadInput as error:
            context["complaint"], status = error, 422
        if "redirect" in context:
            return redirect(str(context["redirect"]))
        looked = context.get("preview")
        if looked is not None and looked.wrong is not None:
            status = 422
        if context.get("problems") or "complaint" in context:
            status = 422
    return render(request, "shelf/foreign.html", context, status=status)


def _foreign(request: HttpRequest) -> dict[str, object]:
    """What a posted export gives: a preview, or where to go on when it was taken."""
    typed, file = request.POST.dict(), request.FILES.get("file")
    data = file.read() if file else typed.get("table", "").encode()
    if not data.strip():
        raise BadInput("", "a table", "Choose a file first.", field="file")
    named = {name.removeprefix("map_"): value for name, value in typed.items() if name.startswith("map_")}
    looked = services.preview(data, named, typed.get("kept", ""))
    shown = {
        "preview": looked,
        "table": decode(data),
        "name": typed.get("name", "") or typed.get("kept", ""),
        "rows": [(c, looked.columns.get(c.name, "")) for c in CATALOGUE],
    }
    if "take" not in typed and "good" not in typed:
        return shown
    name, good = typed.get("name", "").strip(), "good" in typed
    if len(data) > LONG and looked.wrong is None and 2 <= len(name) <= 60:
        task = begin(
            "A supplier's export",
            reverse("shelf"),
            lambda task: _came(services.load_foreign(data, named, name, good_rows=good, tell=task.step), good),
        )
        return {"redirect": reverse("task", args=[task.key])}
    try:
        loaded = services.load_foreign(data, named, typed.get("name", "").strip(), good_rows="good" in typed)
    except BadInput as error:
        return {**shown, "complaint": error}
    if loaded.problems and "good" not in typed:
        problems, more = loaded.problems[:SHOWN], max(0, len(loaded.problems) - SHOWN)
        return {**shown, "problems": problems, "more": more, "loaded": loaded}
    return {
        "redirect": say(
            request, reverse("shelf"), f"{many(loaded.added, 'part')} added, {loaded.changed} brought up to date"
        ).url
    }
