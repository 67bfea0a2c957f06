"""Choose and Gather."""

from __future__ import annotations

import json
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.combine import pairs
from idlebench.core.choose.misses import nearest_miss
from idlebench.core.choose.need import Need
from idlebench.core.choose.rank import FAILS, Candidate
from idlebench.core.draw.bars import bars
from idlebench.core.draw.side_view import lineup, side_view
from idlebench.core.refusal import BadInput
from idlebench.core.wording import many

from ..records.models import Board, CatalogueItem
from ..ui.flash_messages import say
from ..unit.fits import ranking_for
from ..unit.parts import BoardState, PartState
from ..unit.state import UnitState, board_state
from ..unit.stock import columns
from ..unit.supply import branch_of
from . import predicting, services, supplying

#: Most candidates beside each other.
COMPARED = 3


def _place(board: BoardState, ref: str) -> PartState | None:
    """The place asked for, else the first open one, else the first."""
    found = board.find(ref) if ref else None
    places = board.places
    return found or next((p for p in places if p.choice is None), None) or next(iter(places), None)


def choose(request: HttpRequest, pk: int) -> HttpResponse:
    """Places, the need, ranked candidates with their drawings and reasons."""
    state, board = board_state(pk)
    part = _place(board, request.GET.get("place", ""))
    context = {
        "state": state,
        "board": board,
        "stage": "choose",
        "part": part,
        "policy": state.policy,
        "open_here": sum(p.choice is None for p in board.places),
        "settled": sum(p.choice is not None for p in board.places),
        "other_open": next(
            (b for b in state.boards if b is not board and any(p.choice is None for p in b.places)), None
        ),
        "all_settled": all(p.choice is not None for b in state.boards for p in b.places),
    }
    context["open_only"] = "open" in request.GET
    if part:
        context |= _candidates(state, part) | _neighbours(board, part)
        context["in_supply"] = branch_of(board, part.ref) is not None
        wanted = request.GET.getlist("with") or (["1", "2", "3"] if "compare" in request.GET else [])
        context |= _compared(context["need"], context["cards"], wanted)
        context["why"] = _why(context["cards"], request.GET.get("why", ""))
        context["leads"] = _main_act(part, context)
    return render(request, "choose/choose.html", context)


def needles(request: HttpRequest, pk: int) -> HttpResponse:
    """What the supply of a place will do with each candidate: asked for by the page once it stands."""
    state, board = board_state(pk)
    part = _place(board, request.GET.get("place", ""))
    context: dict[str, object] = {"state": state, "board": board, "part": part}
    if part:
        ranking = ranking_for(state, part)
        context |= _circuit(state, board, part, ranking.best, [c.part for c in ranking.candidates])
    return render(request, "choose/needles.html", context)


def _main_act(part: PartState, shown: dict[str, object]) -> str:
    """What is filled on the page: to take the first part, or on to the next place, the next board, or gathering."""
    if part.to_fill and part.choice is None and shown["best"] is not None and not part.swap:
        return "take"
    if shown["all_settled"]:
        return "gather"
    return "other" if not shown["open_here"] and shown["other_open"] else "next"


def _candidates(state: UnitState, part: PartState) -> dict[str, object]:
    ranking = ranking_for(state, part)
    need = ranking.need
    tallest = max((c.part.height for c in ranking.candidates), default=0.0)
    cards = [
        {
            "n": i,
            "c": c,
            "view": side_view(need, c.part, tallest),
            "bars": bars(c),
            "good": c.status < FAILS,
            "life_url": _life_url(need, c),
        }
        for i, c in enumerate(ranking.candidates, 1)
    ]
    found = {"ranking": ranking, "need": need, "cards": cards, "working": need.working(), "best": ranking.best}
    return found if ranking.fitting else {**found, "pairs": pairs(need, columns()), "miss": nearest_miss(ranking)}


def _why(cards: list[dict], number: str) -> str:
    """What refuses the candidate of that number, in words."""
    card = next((card for card in cards if str(card["n"]) == number and not card["good"]), None)
    if card is None:
        return ""
    reasons = [r.text for r in card["c"].reasons if r.status == FAILS]
    return f"{card['c'].part.part} does not fit: {'; '.join(reasons)}."


def _circuit(
    state: UnitState, board: BoardState, part: PartState, best: Candidate | None, shown: list[Capacitor]
) -> dict[str, object]:
    """What the part that is taken, or the first, changes in the supply of its place; and what each that is shown would."""
    row = CatalogueItem.objects.filter(part=part.choice.item).first() if part.taken else None
    looked_at = row.to_core() if row else best.part if best and not part.choice else None
    found = supplying.change_by(state, board, part.ref, looked_at)
    if found is None:
        return {"change": None, "looked_at": looked_at}
    rows, offered = predicting.predicted(found), predicting.of_place(state, board, part.ref)
    moved = [] if part.swap else predicting.moves(state, board, part.ref, rows, shown)
    return {
        "change": found,
        "looked_at": looked_at,
        "predicted": rows,
        "moves": moved,
        "moves_text": json.dumps(moved),
        "offers": offered,
    }


def _compared(need: Need, cards: list[dict], wanted: list[str]) -> dict[str, object]:
    """Up to three candidates beside each other, by their numbers."""
    picked = [card for card in cards if str(card["n"]) in wanted][:COMPARED]
    if not picked:
        return {}
    return {"lineup": lineup(need, [card["c"].part for card in picked]), "compared": picked}


def _life_url(need: Need, candidate: Candidate) -> str:
    """The life reckoning with this candidate's numbers in its address."""
    rating = next((m.value for m in candidate.margins if m.rule == "ripple"), None)
    part = candidate.part
    inputs = {
        "life": part.life,
        "rated_temperature": part.temperature,
        "ambient": need.ambient,
        "ripple": need.ripple,
        "rated_ripple": rating,
    }
    typed = {name: f"{value:.6g}" for name, value in inputs.items() if value is not None}
    return f"{reverse('reckoning', args=['life'])}?{urlencode(typed)}"


def _neighbours(board: BoardState, part: PartState) -> dict[str, str]:
    refs = [p.ref for p in board.places]
    at = refs.index(part.ref) if part.ref in refs else -1
    url = reverse("choose", args=[board.row.pk])
    return {
        "next_url": f"{url}?place={refs[(at + 1) % len(refs)]}" if refs else url,
        "previous_url": f"{url}?place={refs[(at - 1) % len(refs)]}" if refs else url,
    }


def _after(board: BoardState, ref: str) -> HttpResponse:
    """On to the next open place after this one."""
    places = board.places
    refs = [p.ref for p in places]
    at = refs.index(ref) if ref in refs else -1
    later = [*places[at + 1 :], *places[: max(at, 0)]]
    following = next((p.ref for p in later if p.choice is None), ref)
    return redirect(f"{reverse('choose', args=[board.row.pk])}?place={following}")


@require_POST
def take(request: HttpRequest, pk: int) -> HttpResponse:
    ref = request.POST.get("place", "")
    services.take(pk, ref, request.POST.get("item", ""), request.POST.get("seen", ""))
    return _after(board_state(pk)[1], ref)


@require_POST
def take_pair(request: HttpRequest, pk: int) -> HttpResponse:
    """Parts for several places that cure a rail together."""
    columns_ = [request.POST.getlist(name) for name in ("ref", "item", "seen")]
    if len({len(column) for column in columns_}) != 1:
        raise BadInput("", "a part and what was seen for each place", "Check the page again.", field="ref")
    services.take_together(pk, list(zip(*columns_, strict=True)))
    if request.POST.get("back") == "supply":
        return redirect("supply", pk)
    return _after(board_state(pk)[1], request.POST.get("place", ""))


@require_POST
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    ref = request.POST.get("place", "")
    services.leave_in(pk, ref, request.POST.get("seen", ""))
    return _after(board_state(pk)[1], ref)


@require_POST
def leave_out(request: HttpRequest, pk: int) -> HttpResponse:
    ref = request.POST.get("place", "")
    services.leave_out(pk, ref, request.POST.get("seen", ""))
    return _after(board_state(pk)[1], ref)


@require_POST
def take_all(request: HttpRequest, pk: int) -> HttpResponse:
    settled = services.take_all(pk)
    return say(
        request, reverse("choose", args=[pk]), f"{many(settled, 'place')} decided, the doubtful places are left to you"
    )


@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    ref = services.undo(Board.objects.select_related("unit").get(pk=pk))
    return say(request, reverse("choose", args=[pk]), f"{ref} taken back", place=ref)
