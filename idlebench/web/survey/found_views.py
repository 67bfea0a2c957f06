"""Parts found in the photo under a board: one in hand after the other, listed or set aside."""

from __future__ import annotations

import re
from dataclasses import replace

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.zones import lowest_over
from idlebench.core.photo.listing import in_spans, named, size_of
from idlebench.core.refusal import BadInput
from idlebench.core.wording import many

from ..records.models import Board, Underlay
from ..ui.flash_messages import say
from ..ui.tasks import begin
from ..unit.parts import BoardState
from ..unit.photo_seen import second_looks
from ..unit.state import board_state
from . import photo_finding as finding
from .profiles import profile_for

#: Room round a part in its own picture, times its size, and the least of it, mm.
AROUND, LEAST = 1.1, 5.0


def _number(text: str) -> int | None:
    return int(text) if re.fullmatch(r"[0-9]{1,5}", text) else None


def _underlay(board: Board) -> Underlay:
    found = board.underlays.select_related("board").filter(side="parts").first()
    if found is None:
        raise BadInput(
            board.name, "a photo squared up under its parts side", "Place one under the board.", field="photo"
        )
    return found


def page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    """The photo with what was found in it."""
    state, board = board_state(pk)
    underlay = board.row.underlays.filter(side="parts").first()
    found = finding.findings(board, underlay) if underlay else None
    context = {"state": state, "board": board, "stage": "survey", "underlay": underlay, "found": found, **extra}
    context |= {"looks": second_looks(board), "to_look_at": finding.to_look_at(board)}
    if found:
        context |= _in_hand(request, board, found, str(extra.get("like", "") or request.GET.get("like", "")))
    return render(request, "survey/found.html", context, status=status)


def _in_hand(request: HttpRequest, board: BoardState, found: finding.Findings, like: str) -> dict[str, object]:
    """The one in hand, its picture's window, what looks like the one that was listed last, and what is counted."""
    asked = _number(request.POST.get("at", "") or request.GET.get("at", ""))
    known = {one.number for one in found.proposals}
    number = asked if asked in known else next((one.number for one in found.open), None)
    profile = profile_for(board.row)
    listed = {one.listed for one in found.proposals}
    told: dict[str, object] = {
        "cans": sum(one.found.kind == "can" and not one.away for one in found.proposals),
        "boxes": sum(one.found.kind == "box" and not one.away for one in found.proposals),
        "unseen": [p.ref for p in profile.parts if p.x is not None and p.ref not in listed] if profile else [],
    }
    last = next((one for one in found.proposals if one.listed == like), None) if like else None
    told["shown"] = found.proposals
    if last and (others := found.like(last.number)):
        names = named(like, [one.found for one in others], {part.ref for part in board.parts})
        told |= {"last": last, "others": others, "others_named": in_spans(names)}
        called = {other.number: name for other, name in zip(others, names, strict=True)}
        told["shown"] = [replace(one, called=called.get(one.number, "")) for one in found.proposals]
    if number is None:
        return told
    one = found.of(number)
    reach = max(LEAST, AROUND * size_of(one.found))
    x, y = one.found.top
    return told | {
        "one": one,
        "window": f"{x - reach:.2f} {y - 0.8 * reach:.2f} {2 * reach:.2f} {1.6 * reach:.2f}",
        "following": found.beside(number, 1),
        "before": found.beside(number, -1),
        "room": found.room(number),
        "lid": None if one.found.kind == "box" else lowest_over(board.zones, one.found.x, one.found.y),
        "typed": request.POST.get("line") or one.offered,
    }


def found(request: HttpRequest, pk: int) -> HttpResponse:
    """The page."""
    return page(request, pk)


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Look for parts in the photo: long work."""
    _, board = board_state(pk)
    name = board.row.name
    try:
        if not finding.to_look_at(board):
            _underlay(board.row)
    except BadInput as error:
        return page(request, pk, 422, complaint=error)
    steps = iter(range(1, 100))

    def work(task) -> str:
        count = finding.find(board, lambda words: task.step(words, next(steps), 7))
        return f"{many(count, 'thing')} found in the photo of {name}. None is a part before you say so."

    return redirect("task", begin(f"Parts in the photo of {name}", reverse("found", args=[pk]), work).key)


def _next(pk: int, seen: finding.Findings, number: int, more: str = "") -> str:
    """The page with the next one in hand once this one is done; without one where it was the last."""
    following = seen.beside(number, 1)
    at = f"at={following}" if following != number else ""
    return f"{reverse('found', args=[pk])}?{'&'.join(filter(None, (at, more)))}"


@require_POST
def take(request: HttpRequest, pk: int) -> HttpResponse:
    """The one in hand listed as it was typed."""
    _, board = board_state(pk)
    try:
        seen = finding.findings(board, _underlay(board.row))
        one = (seen.of(_number(request.POST.get("at", "")) or 0)) if seen else None
        if one is None:
            raise BadInput(board.row.name, "parts found in its photo", "Find them first.", field="photo")
        if one.listed:
            raise BadInput(one.listed, "something that is not listed yet", "It is on the list already.", field="line")
        ref, unknown = finding.take(board.row, request.POST.get("line", ""), one.found, seen.room(one.number))
    except BadInput as error:
        return page(request, pk, 422, complaint=error)
    on = _next(pk, seen, one.number, f"like={ref}")
    if unknown:
        return say(request, on, f"{ref} is listed. Not understood, saved as a note: {unknown}")
    return redirect(on)


@require_POST
def alike(request: HttpRequest, pk: int) -> HttpResponse:
    """All that look like the one that was listed last, listed as it is."""
    _, board = board_state(pk)
    like = request.POST.get("like", "")[:12]
    try:
        seen = finding.findings(board, _underlay(board.row))
        last = next((one for one in seen.proposals if one.listed and one.listed == like), None) if seen else None
        if seen is None or last is None:
            raise BadInput(like, "a part that is listed where it was found", field="line")
        refs = finding.take_alike(
            board.row, like, [(one.found, seen.room(one.number)) for one in seen.like(last.number)]
        )
    except BadInput as error:
        return page(request, pk, 422, complaint=error)
    return say(request, reverse("found", args=[pk]), f"{many(len(refs), 'part')} listed like {like}: {', '.join(refs)}")


@require_POST
def aside(request: HttpRequest, pk: int) -> HttpResponse:
    """Something found is no part, or may be one after all."""
    _, board = board_state(pk)
    number = _number(request.POST.get("at", ""))
    try:
        underlay = _underlay(board.row)
        seen = finding.findings(board, underlay)
        if seen is None or number is None:
            raise BadInput(request.POST.get("at", "")[:20], "something that was found in this photo", field="at")
        seen.of(number)
        finding.set_aside(underlay, number, "back" not in request.POST)
    except BadInput as error:
        return page(request, pk, 422, complaint=error)
    back = "back" in request.POST
    return redirect(f"{reverse('found', args=[pk])}?at={number}" if back else _next(pk, seen, number))
