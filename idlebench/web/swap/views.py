"""Swap: one place at a time."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.parts import polarity_mark

from ..records.models import CatalogueItem
from ..unit.picture import board_picture
from ..unit.state import board_state, place_on
from . import services


def swap(request: HttpRequest, pk: int) -> HttpResponse:
    """The place in hand: what comes out, what goes in, which way round."""
    state, board = board_state(pk)
    asked = board.find(request.GET.get("place", ""))
    part = asked if asked and asked.taken else next((p for p in board.to_swap if p.swap is None), None)
    row = CatalogueItem.objects.filter(part=part.choice.item).first() if part else None
    item = row.to_core() if row else None
    context = {
        "state": state,
        "board": board,
        "stage": "swap",
        "part": part,
        "item": item,
        **board_picture(board, part, part.core.side if part else "parts", "place"),
        "done": sum(p.swap is not None for p in board.to_swap),
        "old_mark": polarity_mark(part.core.kind, part.core.mounting, part.core.bipolar) if part else None,
        "new_mark": polarity_mark(item.kind, item.mounting, item.bipolar) if item else None,
        "last": next(
            (p for p in sorted((p for p in board.parts if p.swap), key=lambda p: p.swap.pk, reverse=True)), None
        ),
    }
    return render(request, "swap/swap.html", context)


@require_POST
def done(request: HttpRequest, pk: int) -> HttpResponse:
    state, board, part = place_on(pk, request.POST.get("place", ""))
    services.swapped(board, part, state.session is not None, request.POST.get("note", "").strip())
    return redirect("swap", pk)


@require_POST
def back(request: HttpRequest, pk: int) -> HttpResponse:
    _, board, part = place_on(pk, request.POST.get("place", ""))
    services.take_back(board, part)
    return redirect(f"{reverse('swap', args=[pk])}?place={part.ref}")
