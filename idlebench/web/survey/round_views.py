"""A measuring run as a round: place after place, a number and the next, nothing waits for a page."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from idlebench.core.judge.measure import must_be_read_empty, stored
from idlebench.core.prove.rounds import Pace, in_words
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.text.quantity import show
from idlebench.instruments import LcrReading

from ..records.models import Board
from ..unit.answers import METER, Answer, Outcome, judged_once, read_answers, stopped
from ..unit.parts import BoardState
from ..unit.picture import board_picture
from ..unit.state import board_state
from . import device_measuring, measuring


def measure_round(request: HttpRequest, pk: int) -> HttpResponse:
    """The places of a board that a meter can tell something of, in the order of the leads."""
    state, board = board_state(pk)
    places = measuring.run_of(board).places
    sides = dict.fromkeys(place.side for place in places)
    items = [_item(board.row.name, place) for place in places]
    pace = Pace()
    left = sum(not place.read for place in places)
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "minutes": in_words(left * (pace.probe + pace.number) / 60) if left else "",
        "total": len(places),
        "rounds": [{"key": "measure", "title": "Measure", "checks": places}] if places else [],
        "drawings": [{"board": board, "of": board.row.name, **board_picture(board, side=side, devices=True)} for side in sides],
        "facts": {
            "items": items, "seen": state.last_event, "live": False, "meter": [], "measuring": True,
            "asks_meter": bool(state.job.meter), "begin": request.GET.get("check") or request.GET.get("part", ""),
        },
    }  # fmt: skip
    return render(request, "survey/measure_round.html", context)


def _item(board: str, place: measuring.RunPlace) -> dict[str, object]:
    part, device = place.part, place.device
    core = part.core if part else None
    holds = stored(core) if core is not None and must_be_read_empty(core) else 0.0
    what = (
        device.device.marked
        if device
        else f"{show(core.value, 'F')}" + (f" {show(core.volts, 'V')}" if core.volts else "")
    )
    asked = (
        f"What the meter shows, such as {device_measuring.example_of(device)}"
        if device
        else "ESR, and the capacitance after it: 6.8, or 6.8 71u. OL is a reading"
    )
    return {
        "key": place.ref, "round": "measure", "title": "Measure", "point": place.ref, "board": board, "side": place.side,
        "ref": place.ref, "ask": f"{what}. {asked}.", "by": "number", "unit": "", "limits": "", "of": _of(place), "live": False,
        "caution": f"It can hold {show(holds, 'J')}. Discharge it through a resistor and read the volts left first." if holds else "",
        "holds": bool(holds), "guards": "", "state": "passed" if place.read else "not yet", "void": "",
        "black": "", "red": "", "polarity": False,
        "typed": f"{place.text}, {place.verdict.shown}" if place.read else "", "swap": "", "air": False,
    }  # fmt: skip


def _of(place: measuring.RunPlace) -> str:
    """What a place is, for an answer to be of: another part there takes another reading."""
    if place.part is None:
        return place.device.device.marked[:60]
    core = place.part.core
    return f"{core.value:g} {core.volts} {core.kind} {core.mounting}"


@require_POST
def measure_answers(request: HttpRequest, pk: int) -> JsonResponse:
    """Judge the readings that a page sends, each once."""
    told, stop = [], None
    try:
        play, some = read_answers(request)
        unit = Board.objects.get(pk=pk).unit_id
        by_meter = _metered(pk, some)
        told, stop = judged_once(unit, play, some, lambda one, own: _judged(pk, one, by_meter))
    except BadInput as error:
        return JsonResponse({"told": [], "stop": stopped("", error.plain)}, status=422)
    except Blocked as error:
        stop = stopped("", error.reasons[0].text, error.reasons[0].opens)
    state, board = board_state(pk)
    places = measuring.run_of(board).places
    left = sum(not place.read for place in places)
    pace = Pace()
    return JsonResponse(
        {
            "told": told, "stop": stop, "seen": state.last_event, "left": left, "live": state.live_step or "",
            "states": {place.ref: ["passed" if place.read else "not yet", ""] for place in places},
            "of": {place.ref: _of(place) for place in places},
            "minutes": in_words(left * (pace.probe + pace.number) / 60) if left else "",
        }
    )  # fmt: skip


def _metered(pk: int, some: list[Answer]) -> dict[str, LcrReading]:
    """What the meter shows for the answers that ask it, by their key: asked before anything is locked."""
    found = {}
    for one in some:
        if one.typed == METER:
            state, board = board_state(pk)
            place = _place(board, one.check)
            if place.part is not None:
                found[one.key] = measuring.from_meter(state, board, place.part, one.left, one.in_circuit)
    return found


def _place(board: BoardState, ref: str) -> measuring.RunPlace:
    place = next((one for one in measuring.run_of(board).places if one.ref == ref), None)
    if place is None:
        raise BadInput(ref, f"an old part of {board.row.name}", field="part")
    return place


def _judged(pk: int, one: Answer, by_meter: dict[str, LcrReading]) -> Outcome:
    state, board = board_state(pk)
    place = _place(board, one.check)
    if one.of != _of(place):
        return Outcome(
            None,
            stopped(one.check, f"{one.check} is asked again: it was changed since it was shown.", "Measure it again."),
        )
    typed = "" if one.typed == METER else one.typed
    if place.part is not None:
        if not typed and one.key not in by_meter:
            raise BadInput("", "a reading", "Measure it again.", field="reading")
        measuring.take(state, board, place.part, typed, one.left, one.in_circuit, by_meter.get(one.key))
    else:
        device_measuring.take_device(state, board, place.device, typed, lifted=not one.in_circuit)
    now = _place(board_state(pk)[1], one.check)
    words = f"{one.check}: {now.text}, {'in' if now.in_circuit else 'out of'} circuit: {now.verdict.shown}."
    return Outcome({"check": one.check, "typed": f"{now.text}, {now.verdict.shown}", "state": "passed", "words": words})
