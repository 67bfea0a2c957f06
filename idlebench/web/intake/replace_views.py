"""A whole board replaced, and put back."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.refusal import BadInput

from ..records.models import Board
from ..ui.flash_messages import say
from . import forms, replacing
from .views import intake_page


@require_POST
def replace_board(request: HttpRequest, pk: int) -> HttpResponse:
    """A modern unit in the place of a supply board."""
    board, typed = Board.objects.select_related("unit").get(pk=pk), request.POST.dict()
    try:
        facts, rails, wires = forms.replacement(typed)
        new, told = replacing.replace_board(pk, facts, rails, wires, typed.get("keeps", ""))
    except BadInput as error:
        return intake_page(request, board.unit_id, form=f"replace{pk}", typed=typed, complaint=error)
    words = f"{new.name} replaces {board.name}. {'. '.join(told)}".strip()
    return say(request, reverse("intake", args=[board.unit_id]), words)


@require_POST
def donor_board(request: HttpRequest, pk: int) -> HttpResponse:
    """A board of another unit in the place of this one."""
    board, typed = Board.objects.select_related("unit").get(pk=pk), request.POST.dict()
    try:
        new, told = replacing.from_donor(pk, *forms.donor(typed), typed.get("keeps", ""))
    except BadInput as error:
        return intake_page(request, board.unit_id, form=f"donor{pk}", typed=typed, complaint=error)
    words = f"{new.name} replaces {board.name}, its checks are asked here. {'. '.join(told)}".strip()
    return say(request, reverse("intake", args=[board.unit_id]), words)


@require_POST
def board_back(request: HttpRequest, pk: int) -> HttpResponse:
    """A replaced board comes back."""
    row, words = replacing.bring_back(pk)
    return say(request, reverse("intake", args=[row.unit_id]), f"{row.name} is back in its place. {words}".strip())
