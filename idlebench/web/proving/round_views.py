"""A step played as rounds: its page, the answers that the page sends, and what the meter shows meanwhile."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from idlebench.core.draw.chip_outline import outline
from idlebench.core.prove.near_work import subject_of
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import PowerSession
from ..unit.answers import read_answers, stopped
from ..unit.picture import board_picture
from ..unit.state import UnitState, unit_state
from . import metered, rounds, watching


def round_page(request: HttpRequest, pk: int) -> HttpResponse:
    """The rounds of a step: the one that is asked for, that has power, or that is next."""
    state = unit_state(pk)
    what = rounds.played(state, request.GET.get("step", ""), state.closing)
    items = rounds.items_of(state, what)
    context = {
        "state": state,
        "stage": "cold" if what.step.key == "cold" else "power",
        "what": what,
        "total": len(items),
        "drawings": _drawings(state, items),
        "outlines": _outlines(state, what),
        "gate": rounds.gate_of(state, what) if what.left else [],
        "facts": {
            "items": items, "seen": state.last_event, "live": what.step.live,
            "meter": _meter(state, what), "on": state.live_step or "",
            "off_now": _off_now(pk), "begin": request.GET.get("check", ""),
        },
    }  # fmt: skip
    return render(request, "proving/round.html", context)


def _meter(state: UnitState, what: rounds.Played) -> list[str]:
    """The checks that the job's meter may answer, by key."""
    checks = (c for one in what.rounds for c in one.checks)
    return [c.key for c in checks if c.kind != "amps" and metered.may_read(state, c)]


def _off_now(pk: int) -> str:
    """Why a unit is to be switched off now, "" where it is not."""
    return PowerSession.objects.filter(ended=None, unit=pk).values_list("off_now", flat=True).first() or ""


def _drawings(state: UnitState, items: list[dict[str, object]]) -> list[dict[str, object]]:
    """The boards on which something of the rounds lies, each side once."""
    wanted = dict.fromkeys((str(one["board"]), str(one["side"])) for one in items if one["ref"])
    boards = {board.row.name: board for board in state.boards}
    return [{"board": boards[name], "of": name, **board_picture(boards[name], side=side)} for name, side in wanted]


def _outlines(state: UnitState, what: rounds.Played) -> list[tuple[str, object]]:
    """The chips whose pins are read, each pin lit once, by the check's key."""
    chips = {(board.row.name, chip.ref): chip for board in state.boards for chip in board.chips}
    found = []
    for check in (c for one in what.rounds for c in one.checks):
        subject = subject_of(check)
        chip = chips.get((check.board, subject.chip)) if subject and subject.chip else None
        drawn = outline(chip, subject.pin) if chip is not None else None
        if drawn is not None:
            found.append((check.key, drawn))
    return found


@require_POST
def answers(request: HttpRequest, pk: int) -> JsonResponse:
    """Judge what a page sends; what became of it, and how every check of the step stands now."""
    told, stop = [], None
    try:
        play, some = read_answers(request)
        told, stop = rounds.take_answers(pk, play, some)
    except BadInput as error:
        return JsonResponse({"told": [], "stop": stopped("", error.plain)}, status=422)
    except Blocked as error:
        stop = stopped("", error.reasons[0].text, error.reasons[0].opens)
    return JsonResponse(_after(request, pk, told, stop))


def _after(request: HttpRequest, pk: int, told: list[dict], stop: dict | None) -> dict[str, object]:
    state = unit_state(pk)
    what = rounds.played(state, request.GET.get("step", ""), state.closing)
    return {
        "told": told,
        "stop": stop,
        "seen": state.last_event,
        "states": rounds.states_of(state, what),
        "of": {c.key: rounds.shown_as(c) for one in what.rounds for c in one.checks},
        "left": len(what.left),
        "minutes": what.minutes if what.left else "",
        "live": state.live_step or "",
        "off_now": _off_now(pk),
    }


@require_POST
def meter(request: HttpRequest, pk: int) -> JsonResponse:
    """What the job's meter shows at a check now; asked again and again by a page that is being played."""
    play, key = request.POST.get("play", "")[:40], request.POST.get("check", "")
    try:
        return JsonResponse(watching.look(pk, play, key, leads="leads" in request.POST))
    except BadInput as error:
        return JsonResponse({"why": error.plain}, status=422)
    except Blocked as error:
        return JsonResponse({"why": f"{error.reasons[0].text} {error.reasons[0].opens}"}, status=409)
