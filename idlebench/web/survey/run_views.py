"""A measuring run, and a guided reforming run."""

from __future__ import annotations

from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from idlebench.core.judge.measure import must_be_read_empty, stored
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Part
from ..unit.picture import board_picture
from ..unit.state import board_state
from . import measuring, reforming


def measure(request: HttpRequest, pk: int) -> HttpResponse:
    """A measuring run: one place lit, a reading, its verdict, the next."""
    state, board = board_state(pk)
    ref, complaint, reasons = request.GET.get("part", ""), None, ()
    if request.method == "POST":
        part = board.find(request.POST.get("part", ""))
        try:
            if part is None or part.swap:
                raise BadInput(request.POST.get("part", ""), f"an old part of {board.row.name}", field="part")
            typed = request.POST
            measuring.take(state, board, part, typed.get("reading", ""), typed.get("left", ""), "in_circuit" in typed)
            query = {"part": measuring.after(board, part.ref) or part.ref, "last": part.ref}
            query |= {} if "in_circuit" in typed else {"out": 1}
            return redirect(f"{reverse('measure', args=[pk])}?{urlencode(query)}")
        except BadInput as error:
            complaint = error
        except Blocked as error:
            reasons = error.reasons
        ref = part.ref if part else ""
    run = measuring.run_of(board, ref)
    refs = [p.ref for p in run.parts]
    at = refs.index(run.lit.ref) if run.lit else 0
    last = board.find(request.GET.get("last", ""))
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "run": run,
        "last": last,
        "last_said": last.verdict.of_reading if last else "",
        "complaint": complaint,
        "reasons": reasons,
        "typed": request.POST.dict(),
        "in_circuit": "in_circuit" in request.POST if request.method == "POST" else "out" not in request.GET,
        "asks_left": run.lit is not None and must_be_read_empty(run.lit.core),
        "holds": stored(run.lit.core) if run.lit else 0.0,
        **({"next_ref": refs[(at + 1) % len(refs)], "previous_ref": refs[at - 1]} if refs else {}),
        **board_picture(board, run.lit, run.lit.core.side if run.lit else "parts"),
    }
    return render(request, "survey/measure.html", context, status=422 if complaint else 409 if reasons else 200)


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
