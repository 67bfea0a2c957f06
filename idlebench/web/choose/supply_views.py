"""The supply of a board: its strip, its waves, what the chosen parts change in it, its regulators and fuses."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_POST

from idlebench.core.refusal import BadInput

from ..records.models import Board
from ..unit.state import board_state
from . import devices, predicting, supplying


def supply(request: HttpRequest, pk: int, complaint: BadInput | None = None) -> HttpResponse:
    """Every branch of a board's supply, and its regulators and fuses."""
    state, board = board_state(pk)
    others = devices.others(state, board)
    waits = next((o for o in others if not o.taken and not o.shut and o.best), None)
    context = {
        "state": state,
        "board": board,
        "stage": "choose",
        "branches": (views := supplying.branches(state, board)),
        "predicted": [row for v in views if v.state for row in predicting.predicted(v.state)],
        "offers": [offer for v in views for offer in predicting.offers(state, board, v.branch)],
        "others": others,
        "next_ref": waits.other.ref if waits else "",
        "next_part": waits.best.part if waits else "",
        "complaint": complaint,
    }
    return render(request, "choose/supply.html", context, status=422 if complaint else 200)


@require_POST
def take_other(request: HttpRequest, pk: int) -> HttpResponse:
    devices.take_other(pk, request.POST.get("ref", ""), request.POST.get("item", ""))
    return redirect("supply", pk)


@require_POST
def untake_other(request: HttpRequest, pk: int) -> HttpResponse:
    devices.untake_other(Board.objects.select_related("unit").get(pk=pk), request.POST.get("ref", ""))
    return redirect("supply", pk)


@require_POST
def fuse(request: HttpRequest, pk: int) -> HttpResponse:
    """A fuse that blew, or the cause that was found."""
    board = Board.objects.select_related("unit").get(pk=pk)
    ref = request.POST.get("ref", "")
    try:
        if "cause" in request.POST:
            devices.cause_found(board, ref, request.POST["cause"])
        else:
            devices.blew(board, ref)
            if board.supply and board.supply_model:
                # what blew it is looked for before another one is fitted
                return redirect(f"{reverse('suspects', args=[board.unit_id])}?{urlencode({'board': pk})}")
    except BadInput as error:
        return supply(request, pk, error)
    return redirect("supply", pk)
