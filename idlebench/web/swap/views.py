"""Swap: one place at a time."""

from __future__ import annotations

import re
from dataclasses import dataclass
from urllib.parse import urlencode

from django.contrib import messages
from django.core import signing
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.mends import EXAMPLE, reflow
from idlebench.core.board.modifications import troubles
from idlebench.core.board.parts import SIDES
from idlebench.core.prove import Check, CheckStatus, interlocks
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import Bag
from ..ui.flash_messages import say
from ..unit.parts import BoardState, DeviceState, PartState
from ..unit.picture import board_picture
from ..unit.rows import board_id, mend_id
from ..unit.smoke import smoke_view
from ..unit.state import UnitState, board_state
from ..unit.times import learned_times
from . import services
from .in_hand import SwapLine, device_in_hand, lines, part_in_hand


def swap(request: HttpRequest, pk: int) -> HttpResponse:
    """The place in hand: what comes out, what goes in, which way round."""
    return _page(request, pk)


def _page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    state, board = board_state(pk)
    listed = lines(board, services.in_order(board))
    part, device = _asked(board, request.GET.get("place", ""))
    if part is None and device is None:
        part, device = _asked(board, next((line.ref for line in listed if not line.done), ""))
    side = request.GET.get("side") or (part.core.side if part else "parts")
    picture = board_picture(board, part, side if side in SIDES else "parts", "place")
    scene, mirror = picture["scene"], picture["mirror"]
    place = (
        part_in_hand(state, board, part, scene, mirror)
        if part
        else device_in_hand(state, board, device, scene, mirror)
        if device
        else None
    )
    context = {
        "state": state,
        "board": board,
        "stage": "swap",
        "place": place,
        "here": place.ref if place else "",
        "lines": listed,
        "done": sum(line.done for line in listed),
        "rest": [d for d in board.devices if not d.choice and not d.swap],
        "steps": _steps(listed, place.ref if place else ""),
        "joints": (joints := _joints(board)),
        "next_joint": next((ref for ref, _, done in joints if not done), ""),
        "mends": _mends(state, board),
        "modifications": [
            {"row": m.row, "core": m.core, "troubles": troubles(m.core, board.zones)} for m in board.work.modifications
        ],
        **picture,
        "last": _last(board),
        "pocket": _pocket(board, place.ref if place else ""),
        "yours": _yours(part.core.mounting if part else device.device.what if device else ""),
        "shut": (*interlocks.closed(state.proof), *interlocks.touch(state.proof, board_id(pk))),
        "charged": _charged(state, pk),
        "not_taken": _not_taken(request.GET.get("not", "")),
        "mend_example": EXAMPLE,
        "smoke": smoke_view(state),
        **extra,
    }
    return render(request, "swap/swap.html", context, status=status)


def _asked(board: BoardState, ref: str) -> tuple[PartState | None, DeviceState | None]:
    """The place of a reference: a capacitor that is to be swapped, or a part that is none."""
    part = board.find(ref)
    if part is not None:
        return (part if part.taken or part.left_out else None), None
    return None, board.find_device(ref)


def _pocket(board: BoardState, ref: str) -> int:
    """The pocket of the board's bag that holds a place's part, 0 where none does."""
    row = Bag.objects.filter(board=board.row.pk).first() if ref else None
    return next((p.number for p in row.to_core() if ref in p.refs), 0) if row else 0


def _yours(kind: str) -> str:
    """How long such a place takes in this shop, in words; "" where it is not known yet."""
    found = learned_times().get(kind) if kind else None
    return found.words if found else ""


def _steps(listed: list[SwapLine], here: str) -> list[tuple[str, str, str]]:
    """The places before and after the one in hand: key, reference, words."""
    refs = [line.ref for line in listed]
    if here not in refs or len(refs) < 2:
        return []
    at = refs.index(here)
    back, on = refs[at - 1], refs[(at + 1) % len(refs)]
    return [("K", back, f"The place before, {back}"), ("J", on, f"The next place, {on}")]


@dataclass(frozen=True, kw_only=True)
class MendLine:
    """A mend for its list: its words, and the check it asks, with what stands of it."""

    pk: int
    title: str
    net: str
    check: Check | None
    standing: CheckStatus | None


def _mends(state: UnitState, board: BoardState) -> list[MendLine]:
    """The mends of a board, each with its check."""
    found = []
    for mend in board.work.mends:
        check = state.proof.check(f"cold.mend.{mend_id(mend.row.pk)}")
        found.append(
            MendLine(
                pk=mend.row.pk,
                title=mend.core.title,
                net=mend.row.net,
                check=check,
                standing=state.proof.status_of(check) if check else None,
            )
        )
    return found


def _joints(board: BoardState) -> list[tuple[str, str, bool]]:
    """Joints to make new while the iron is hot: reference, why, and whether it was done."""
    done = {m.core.a.ref for m in board.work.mends if m.core.damage == "joint"}
    offered = reflow([p.core for p in board.parts], [d.device for d in board.devices], board.chips)
    return [(ref, why, ref in done) for ref, why in offered]


def _last(board: BoardState) -> str:
    """The place that was swapped last, "" for none."""
    swaps = [(p.swap.at, p.ref) for p in board.parts if p.swap] + [(d.swap.at, d.ref) for d in board.devices if d.swap]
    return max(swaps)[1] if swaps else ""


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
        if interlocks.charged(proof, [check]) and (proof.record.ever_powered or board_id(pk) in check.boards)
    ]


@require_POST
def done(request: HttpRequest, pk: int) -> HttpResponse:
    """A place is swapped; one that is no capacitor tells what it is beside it."""
    ref, note = request.POST.get("place", ""), request.POST.get("note", "").strip()
    if "device" not in request.POST:
        services.swapped(pk, ref, note)
        return redirect("swap", pk)
    try:
        services.device_swapped(
            pk, ref, request.POST.get("typed", ""), request.POST.get("read_out", ""), note, request.POST.get("tab", "")
        )
    except BadInput as error:
        return _page(request, pk, 422, typed=request.POST.dict(), complaint=error)
    return redirect("swap", pk)


@require_POST
def back(request: HttpRequest, pk: int) -> HttpResponse:
    ref = request.POST.get("place", "")
    _, board = board_state(pk)
    device = board.find(ref) is None and board.find_device(ref) is not None
    told = services.device_back(pk, ref) if device else services.take_back(pk, ref)
    to = reverse("swap", args=[pk])
    return (
        say(request, to, f"{told}.", level=messages.WARNING, place=ref)
        if told
        else redirect(f"{to}?{urlencode({'place': ref})}")
    )


@require_POST
def mend(request: HttpRequest, pk: int) -> HttpResponse:
    """A mend logged; one that cannot be read is said at its field."""
    try:
        told = services.mend(pk, request.POST.get("mend", ""))
    except BadInput as error:
        return _page(request, pk, 422, mend_typed=request.POST.get("mend", ""), mend_complaint=error)
    return (
        say(request, reverse("swap", args=[pk]), f"{told}.", level=messages.WARNING) if told else redirect("swap", pk)
    )


@require_POST
def mend_back(request: HttpRequest, pk: int) -> HttpResponse:
    text = request.POST.get("mend", "")
    services.mend_back(pk, int(text) if re.fullmatch(r"[0-9]{1,15}", text) else 0)
    return redirect("swap", pk)


@require_POST
def modification_back(request: HttpRequest, pk: int) -> HttpResponse:
    text = request.POST.get("mod", "")
    services.modification_back(pk, int(text) if re.fullmatch(r"[0-9]{1,15}", text) else 0)
    return redirect("swap", pk)


@require_POST
def salvage(request: HttpRequest, pk: int) -> HttpResponse:
    """A part of a donor to the shelf; what cannot be read is said on the survey's page of the part."""
    ref = request.POST.get("place", "")
    back = f"{reverse('survey', args=[pk])}"
    try:
        name = services.salvage(pk, ref, request.POST.get("measured", ""))
    except BadInput as error:
        raise Blocked(f"{ref} cannot go to the Shelf", (Block("measured", error.plain),)) from None
    return say(request, back, f"{ref} is on the Shelf as {name}", part=ref)
