"""A part's own page: its figures, stock, offers, where it waits and is in; all corrected here."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from idlebench.core.board.parts import polarity_mark
from idlebench.core.draw.board import shape_of
from idlebench.core.draw.plots import life_plot, ripple_plot
from idlebench.core.draw.side_view import sized
from idlebench.core.refusal import BadInput

from ..records.models import CatalogueItem
from ..ui.flash_messages import say
from ..unit.stock import device_of, marked, what_of
from . import part_record, services


def part(request: HttpRequest, name: str) -> HttpResponse:
    """One part of the Shelf; posted, what is known of it is corrected."""
    row = CatalogueItem.objects.filter(part=name).first()
    device = None if row else device_of(name)
    if row is None and device is None:
        raise Http404(name)
    context: dict[str, object] = {"name": name, "row": row, "room": "shelf"}
    if request.method == "POST":
        try:
            return say(request, reverse("shelf_part", args=[name]), _done(request, name, row))
        except BadInput as error:
            context |= {"complaint": error, "typed": request.POST, "at": request.POST.get("do", "")}
    known = part_record.record_of(name)
    context |= {"known": known, "filled": _filled(request, known)}
    context |= (
        _figures(row) if row else {"device": device, "what": what_of(device), "marked": marked(device), "item": device}
    )
    return render(
        request,
        "shelf/part.html" if row else "shelf/device.html",
        context,
        status=422 if "complaint" in context else 200,
    )


def _done(request: HttpRequest, name: str, row: CatalogueItem | None) -> str:
    """Do what was posted; what was done, in words."""
    typed = request.POST.dict()
    match typed.get("do", ""):
        case "stock":
            return part_record.correct(name, typed)
        case "offer":
            made = part_record.save_offer(name, typed)
            return f"Offer of {made.supplier.name} saved"
        case "delete":
            return f"Offer of {part_record.delete_offer(name, typed.get('offer', ''))} deleted"
    if row is None:
        raise BadInput(typed.get("do", ""), "stock, offer or delete", "Load the page again.", field="do")
    services.read_again(row, typed.get("measured", ""))
    return f"{name} was read again"


def _filled(request: HttpRequest, known: part_record.PartRecord) -> dict[str, object]:
    """What the form of an offer holds: as it was typed, or the offer that is corrected."""
    if request.POST.get("do") == "offer":
        return request.POST.dict()
    at = next((one for one in known.offers if str(one.pk) == request.GET.get("offer", "")), None)
    return {**vars(at), "offer": at.pk, "lead_days": f"{at.lead_days:g}"} if at else {}


def _figures(row: CatalogueItem) -> dict[str, object]:
    item = row.to_core()
    return {
        "item": item,
        "plots": [plot for plot in (ripple_plot(item), life_plot(item)) if plot],
        "mark": polarity_mark(item.kind, item.mounting, item.bipolar),
        "shape": shape_of(item),
        "view": sized(item),
    }
