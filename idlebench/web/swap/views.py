"""Swap: one place at a time."""

from __future__ import annotations

from urllib.parse import urlencode

from django.core import signing
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.parts import polarity_mark
from idlebench.core.board.soldering import way_in, way_out
from idlebench.core.prove import Check, gates
from idlebench.core.refusal import BadInput

from ..records.models import CatalogueItem
from ..unit.picture import board_picture
from ..unit.rows import board_id
from ..unit.state import UnitState, board_state
from . import services


def swap(request: HttpRequest, pk: int) -> HttpResponse:
    """The place in hand: what comes out, what goes in, which way round."""
    return _page(request, pk)


def _page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    state, board = board_state(pk)
    asked = board.find(request.GET.get("place", ""))
    ordered = services.in_order(board)
    part = asked if asked and (asked.taken or asked.left_out) else next((p for p in ordered if p.swap is None), None)
    row = CatalogueItem.objects.filter(part=part.choice.item).first() if part else None
    item = row.to_core() if row else None
    context = {
        "state": state,
        "board": board,
        "stage": "swap",
        "part": part,
        "ordered": ordered,
        "item": item,
        "way": (way := way_out(part.core)) if part else None,
        "celsius": way.celsius(state.job.made) if part else 0,
        "into": way_in(part.core, item) if part and item else (),
        **board_picture(board, part, part.core.side if part else "parts", "place"),
        "done": sum(p.swap is not None for p in board.to_swap),
        "old_mark": polarity_mark(part.core.kind, part.core.mounting, part.core.bipolar) if part else None,
        "new_mark": polarity_mark(item.kind, item.mounting, item.bipolar) if item else None,
        "last": next(
            (p for p in sorted((p for p in board.parts if p.swap), key=lambda p: p.swap.pk, reverse=True)), None
        ),
        "shut": (*gates.closed(state.proof), *gates.touch(state.proof, board_id(pk))),
        "charged": _charged(state, pk),
        "not_taken": _not_taken(request.GET.get("not", "")),
        **extra,
    }
    return render(request, "swap/swap.html", context, status=status)


def _not_taken(text: str) -> dict[str, str]:
    """A reading typed here that could not be read, as the app itself said it; nothing where the words are not ours."""
    try:
        return signing.loads(text, salt="swap", max_age=600) if text else {}
    except signing.BadSignature:
        return {}


def _charged(state: UnitState, pk: int) -> list[Check]:
    """Stores whose discharge is logged before a hand goes to this board."""
    proof = state.proof
    return [
        check
        for check in proof.discharges
        if not proof.done(check) and (proof.record.ever_powered or board_id(pk) in check.boards)
    ]


@require_POST
def done(request: HttpRequest, pk: int) -> HttpResponse:
    services.swapped(pk, request.POST.get("place", ""), request.POST.get("note", "").strip())
    return redirect("swap", pk)


@require_POST
def back(request: HttpRequest, pk: int) -> HttpResponse:
    ref = request.POST.get("place", "")
    services.take_back(pk, ref)
    return redirect(f"{reverse('swap', args=[pk])}?{urlencode({'place': ref})}")


@require_POST
def mend(request: HttpRequest, pk: int) -> HttpResponse:
    """A mend logged; one that cannot be read is said at its field."""
    try:
        services.mend(pk, request.POST.get("mend", ""))
    except BadInput as error:
        return _page(request, pk, 422, mend_typed=request.POST.get("mend", ""), mend_complaint=error)
    return redirect("swap", pk)
