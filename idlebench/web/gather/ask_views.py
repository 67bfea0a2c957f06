"""What to ask for: a shopping list of kinds, and parts that were found; and a kit that arrived, held against the survey."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import decode
from idlebench.core.wording import listed

from ..ui.flash_messages import say
from ..unit.state import unit_state
from . import asking, counting


def ask(request: HttpRequest, pk: int) -> HttpResponse:
    """The fewest kinds that serve a unit's places; posted, a part that was found for some of them."""
    if request.method != "POST":
        return _page(request, pk)
    line, names = request.POST.get("found", ""), [n for n in request.POST.get("for", "").split(", ") if n][:200]
    try:
        came = asking.take_found(pk, line, names)
    except BadInput as error:
        return _page(request, pk, 422, complaint=error, typed=line, typed_for=request.POST.get("for", ""))
    no = f". Not for {'. '.join(came.refused)}" if came.refused else ""
    return say(request, reverse("gather_ask", args=[pk]), f"{came.name} chosen for {listed(came.taken)}{no}"[:900])


def _page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    state, kinds = asking.kinds_of(pk)
    places = sum(kind.pieces for kind in kinds.kinds)
    at = asking.wanted(state)
    alone = [(name, at[name][0].row.pk, at[name][1].ref) for name in kinds.alone if name in at]
    context = {
        "alone": alone,
        "state": state,
        "kinds": kinds,
        "places": places,
        "stage": "gather",
        **extra,
    }
    return render(request, "gather/ask.html", context, status=status)


def ask_text(request: HttpRequest, pk: int) -> HttpResponse:
    """The list as plain text, to print or to copy."""
    state, kinds = asking.kinds_of(pk)
    head = f"What to ask for: {state.job.machine}, unit {state.row.name}\n{'=' * 40}\n\n"
    alone = f"\n\nNo generic size fits {', '.join(kinds.alone)}.\n" if kinds.alone else "\n"
    return HttpResponse(head + kinds.as_text() + alone, content_type="text/plain; charset=utf-8")


def kit(request: HttpRequest, pk: int) -> HttpResponse:
    """A kit held against a unit's places; posted with ``take``, it is put on the shelf and taken."""
    state = unit_state(pk)
    context: dict[str, object] = {"state": state, "stage": "gather"}
    if request.method == "POST":
        text = request.POST.get("kit", "")
        try:
            if file := request.FILES.get("file"):
                text = decode(file.read())
            if "take" in request.POST:
                kit = counting.take_kit(pk, text, request.POST.get("seen", ""))
                return say(request, reverse("gather_kit", args=[pk]), f"The kit is counted in: {kit.words}"[:900])
            context |= {"kit": counting.held(state, text), "typed": text}
        except BadInput as error:
            context |= {"complaint": error, "typed": text}
            return render(request, "gather/kit.html", context, status=422)
    return render(request, "gather/kit.html", context)
