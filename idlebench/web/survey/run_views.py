"""A measuring run, and a guided reforming run."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from idlebench.core.judge.device_limits import sound_readings
from idlebench.core.judge.measure import must_be_read_empty, stored
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.wording import many
from idlebench.instruments import HOUSE

from ..records.models import Part
from ..ui.flash_messages import say
from ..unit.parts import BoardState
from ..unit.picture import board_picture
from ..unit.state import UnitState, board_state
from . import device_measuring, measuring, reforming


def measure(request: HttpRequest, pk: int) -> HttpResponse:
    """A measuring run: one place lit, a reading, its verdict, the next."""
    state, board = board_state(pk)
    ref, complaint, reasons = request.GET.get("part", ""), None, ()
    typed, pasted = request.POST.dict(), None
    if request.method == "POST":
        run, ref = measuring.run_of(board, request.POST.get("part", "")), request.POST.get("part", "")
        try:
            if "tester" in typed:
                pasted = device_measuring.take_tester(state, board, typed["tester"], good_rows="good" in typed)
                if not pasted.left:
                    said = f"{many(len(pasted.taken), 'part')} read" + (
                        f"; not used: {'; '.join(pasted.unused)}" if pasted.unused else ""
                    )
                    return say(request, reverse("measure", args=[pk]), said)
                state, board = board_state(pk)
            else:
                return _one_read(run, state, board, typed)
        except BadInput as error:
            complaint = error
        except Blocked as error:
            reasons = error.reasons
    run = measuring.run_of(board, ref)
    last = next((place for place in run.places if place.ref == request.GET.get("last", "")), None)
    part, device = (run.lit.part, run.lit.device) if run.lit else (None, None)
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "run": run,
        "last": last,
        "last_said": last.verdict.of_reading if last else "",
        "complaint": complaint,
        "reasons": reasons,
        "typed": typed,
        "pasted": pasted,
        "in_circuit": "in_circuit" in typed if request.method == "POST" else "out" not in request.GET,
        "asks_left": part is not None and must_be_read_empty(part.core),
        "holds": stored(part.core) if part else 0.0,
        "limits": sound_readings(device.device) if device else (),
        "asks_meter": state.job.meter not in ("", HOUSE),
        "example": device_measuring.example_of(device) if device else "",
        "next_ref": run.beside(1),
        "previous_ref": run.beside(-1),
        **board_picture(board, part, run.lit.side if run.lit else "parts", device=device, devices=True),
    }
    wrong = complaint or (pasted and pasted.left)
    return render(request, "survey/measure.html", context, status=422 if wrong else 409 if reasons else 200)


def _one_read(run: measuring.Run, state: UnitState, board: BoardState, typed: dict[str, str]) -> HttpResponse:
    """A reading of the place that is lit; then the next place."""
    place = next((one for one in run.places if one.ref == typed.get("part", "")), None)
    if place is None:
        raise BadInput(typed.get("part", ""), f"an old part of {board.row.name}", field="part")
    in_circuit = "in_circuit" in typed
    if place.part:
        measuring.take(state, board, place.part, typed.get("reading", ""), typed.get("left", ""), in_circuit)
    else:
        device_measuring.take_device(state, board, place.device, typed.get("reading", ""), lifted=not in_circuit)
    query = {"part": run.after(place.ref) or place.ref, "last": place.ref} | ({} if in_circuit else {"out": 1})
    return redirect(f"{reverse('measure', args=[board.row.pk])}?{urlencode(query)}")


def reform(request: HttpRequest, pk: int) -> HttpResponse:
    """A guided reforming run."""
    part = Part.objects.select_related("board__unit").get(pk=pk)
    complaint, typed, across = None, "", ""
    if request.method == "POST":
        did, typed, across = (request.POST.get(name, "") for name in ("do", "typed", "across"))
        try:
            _reform_step(part, did, typed, across, warm="warm" in request.POST)
            return redirect("reform", pk)
        except BadInput as error:
            complaint = error
    state, board = board_state(part.board_id)
    run = reforming.open_run(part)
    found = reforming.state_of(run) if run else None
    runs = part.reforming.exclude(discharged=None)
    here = board.find(part.ref)
    # what a run can never be begun for is said before anything is typed; what only waits is said when it is begun
    never = (
        () if run else tuple(r for r in interlocks.reform(state.proof, here.core, False) if r.rule in ("kind", "looks"))
    )
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "part": here,
        "never": never,
        "found": found,
        "ahead": reforming.steps_of(part),
        "resistors": reforming.resistors_of(part),
        "across": across,
        "runs": runs,
        "complaint": complaint,
        "typed": typed,
    }
    return render(request, "survey/reform.html", context, status=422 if complaint else 200)


def _reform_step(part: Part, did: str, typed: str, across: str, *, warm: bool) -> None:
    run = reforming.open_run(part)
    if did == "begin":
        reforming.begin(part, typed)
    elif run is None:
        raise BadInput(did, "a run that is open", "Begin one first.", field="run")
    elif did == "current":
        reforming.take_current(run, typed, across, warm=warm)
    elif did == "stop":
        reforming.stop(run)
    elif did == "discharge":
        reforming.discharge(run, typed)
    else:
        raise BadInput(did, "begin, current, stop or discharge", field="do")
