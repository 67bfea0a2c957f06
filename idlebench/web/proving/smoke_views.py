"""A smoke test between two swaps: source in with its limit, amps against what is expected, seen and heard, off."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.refusal import BadInput

from ..records.models import Board
from ..ui.flash_messages import say
from ..unit.smoke import expected_amps
from ..unit.state import unit_state
from . import metered, services


@require_POST
def smoke_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Its source is in, with the limit that the page said."""
    asked = request.POST.get("asked", "")
    services.smoke_on(pk, int(asked) if asked.isascii() and asked.isdigit() and len(asked) < 18 else -1)
    return _back(request, pk, "The source is in. Look, listen, read the amps; then log what came of it.")


@require_POST
def smoke_off(request: HttpRequest, pk: int) -> HttpResponse:
    """What came of it, and that it is off."""
    post, session = request.POST, request.POST.get("session", "")
    amps = post.get("amps", "").strip()
    try:
        told = services.smoke_off(
            pk, int(session) if session.isascii() and session.isdigit() and len(session) < 18 else -1,
            amps or metered.source_amps(), post.get("seen", ""), post.get("symptom", ""), expected_amps(unit_state(pk)),
        )  # fmt: skip
    except BadInput as error:
        return _back(request, pk, str(error))
    return _back(request, pk, f"Logged, and off: {told.words}.")


def _back(request: HttpRequest, pk: int, words: str) -> HttpResponse:
    board = request.POST.get("back", "")
    if board.isascii() and board.isdigit() and len(board) < 16:
        row = get_object_or_404(Board, pk=int(board), unit=pk)
        return say(request, reverse("swap", args=[row.pk]), words)
    return say(request, reverse("power", args=[pk]), words)
