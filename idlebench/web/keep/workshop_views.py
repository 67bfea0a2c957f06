"""The workshop's own page."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from idlebench.core.refusal import BadInput

from ..ui.flash_messages import say
from . import workshop


def page(request: HttpRequest) -> HttpResponse:
    """What stands in the head of a sheet for an owner; posted, it is kept."""
    row = workshop.workshop()
    context: dict[str, object] = {
        "room": "ledger",
        "shop": row,
        "typed": {name: getattr(row, name) for name in (*workshop.FIELDS, "costs")},
    }
    if request.method == "POST":
        file = request.FILES.get("logo")
        try:
            workshop.keep(request.POST.dict(), file.read() if file else None, file.name if file else "")
        except BadInput as error:
            context |= {"complaint": error, "typed": request.POST}
            return render(request, "keep/workshop.html", _with_fields(context), status=422)
        return say(request, reverse("workshop"), "Workshop details saved")
    return render(request, "keep/workshop.html", _with_fields(context))


def _with_fields(context: dict[str, object]) -> dict[str, object]:
    typed = context["typed"]
    rows = [(name, called, most, typed.get(name, "")) for name, (called, most) in workshop.FIELDS.items()]
    return {**context, "fields": rows}


def logo(request: HttpRequest) -> HttpResponse:
    """The workshop's logo."""
    data = bytes(workshop.workshop().logo)
    if not data:
        raise Http404("no logo")
    return HttpResponse(data, content_type="image/jpeg")
