"""Survey: the board to scale, the quick line, tables in and out."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.geometry import board_scene
from idlebench.core.quantity import read as read_quantity
from idlebench.core.quickline import live_reading, read_line
from idlebench.core.refusal import BadInput
from idlebench.core.tables import write_survey

from ..jobs.models import Board
from ..jobs.state import BoardState, PartState, board_state
from . import reforming, services
from .models import Part

#: How many rows of a table's problems are shown.
SHOWN = 30


def page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    """The Survey page with what else there is to say."""
    state, board = board_state(pk)
    selected = board.find(str(extra.pop("ref", None) or request.GET.get("part", "")))
    by_ref = {p.ref: p for p in board.parts}
    scene = board_scene(board.row.width, board.row.height, [p.core for p in board.parts], board.chips)
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "selected": selected,
        "scene": scene,
        "drawn": [(d, by_ref[d.ref]) for d in scene.parts],
        **_neighbours(board, selected),
        "tally": [(name, board.tally(name)) for name in ("sound", "doubtful", "replace", "not seen")],
        "typing": "typing" in request.GET or "typed" in extra,
        **extra,
    }
    return render(request, "survey/survey.html", context, status=status)


def _neighbours(board: BoardState, selected: PartState | None) -> dict[str, str]:
    """The references before and after the selected one."""
    refs = [p.ref for p in board.parts]
    if not refs:
        return {}
    at = refs.index(selected.ref) if selected else -1
    return {"next_ref": refs[(at + 1) % len(refs)], "previous_ref": refs[at - 1] if selected else refs[-1]}


def survey(request: HttpRequest, pk: int) -> HttpResponse:
    """The board and its parts; a posted line is added."""
    if request.method != "POST":
        return page(request, pk, said=request.GET.get("said", ""))
    typed = request.POST.get("line", "")
    try:
        board = Board.objects.select_related("unit").get(pk=pk)
        part = services.add_line(board, typed, change="change" in request.POST)
    except BadInput as error:
        return page(request, pk, 422, typed=typed, complaint=error)
    if "swapping" in request.POST:
        return redirect(f"{reverse('swap', args=[pk])}?place={part.ref}")
    going_on = "" if "change" in request.POST else "&typing=1#line"
    return redirect(f"{reverse('survey', args=[pk])}?part={part.ref}{going_on}")


def read(request: HttpRequest, pk: int) -> HttpResponse:
    """The live reading of a line under it."""
    board = Board.objects.select_related("unit__job").get(pk=pk)
    context: dict[str, object] = {}
    try:
        if request.GET.get("line", "").strip():
            line = read_line(request.GET["line"])
            before = services.find_before(board, line)
            context = {
                "ref": line.ref,
                "said": live_reading(line, before.to_core() if before else None, board.unit.job.meter_frequency),
            }
    except BadInput as error:
        context = {"complaint": error}
    return render(request, "survey/reading.html", context)


@require_POST
def paste(request: HttpRequest, pk: int) -> HttpResponse:
    """Many lines at once; those that cannot be read stay in the box with their reasons."""
    board = Board.objects.select_related("unit").get(pk=pk)
    typed = request.POST.get("lines", "")
    try:
        result = services.paste(board, typed, good_rows="good" in request.POST)
    except BadInput as error:
        return page(request, pk, 422, pasted=typed, paste_complaint=error)
    if result.left:
        kept = "\n".join(line for _, line, _ in result.left) if result.added else typed
        said = f"{result.added} lines taken." if result.added else ""
        return page(request, pk, 422, pasted=kept, left=result.left[:SHOWN], said=said)
    return redirect(f"{reverse('survey', args=[pk])}?said={result.added}+lines+taken")


@require_POST
def load(request: HttpRequest, pk: int) -> HttpResponse:
    """A survey table in."""
    board = Board.objects.select_related("unit").get(pk=pk)
    file = request.FILES.get("file")
    try:
        if file is None:
            raise BadInput("", "a CSV file", "Choose one first.", "file")
        result = services.load_csv(board, file.read(), good_rows="good" in request.POST)
    except BadInput as error:
        return page(request, pk, 422, load_complaint=error)
    if result.problems:
        return page(
            request, pk, 422, problems=result.problems[:SHOWN], more=max(0, len(result.problems) - SHOWN), loaded=result
        )
    return redirect(
        f"{reverse('survey', args=[pk])}?said={result.added}+parts+added,+{result.changed}+brought+up+to+date"
    )


def csv_out(request: HttpRequest, pk: int) -> HttpResponse:
    """The survey as a table."""
    board = Board.objects.select_related("unit").get(pk=pk)
    text = write_survey(p.to_core() for p in board.parts.all())
    name = "".join(c if c.isalnum() or c in "-_" else "-" for c in f"survey-{board.unit.name}-{board.name}")
    return HttpResponse(
        text,
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}.csv"'},
    )


def _part(pk: int) -> Part:
    return Part.objects.select_related("board__unit").get(pk=pk)


def _back(part: Part) -> HttpResponse:
    return redirect(f"{reverse('survey', args=[part.board_id])}?part={part.ref}")


@require_POST
def place(request: HttpRequest, pk: int) -> HttpResponse:
    """A part put on its place, from dragging or the arrow keys."""
    part = _part(pk)
    x = read_quantity(request.POST.get("x", ""), "mm", field="x", low=-2000, high=2000)
    y = read_quantity(request.POST.get("y", ""), "mm", field="y", low=-2000, high=2000)
    services.place(part, x, y)
    return HttpResponse(status=204) if request.htmx else _back(part)


@require_POST
def turn(request: HttpRequest, pk: int) -> HttpResponse:
    part = _part(pk)
    services.turn(part)
    return _back(part)


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    part = _part(pk)
    services.look(part, request.POST.get("looks", ""))
    return _back(part)


def reform(request: HttpRequest, pk: int) -> HttpResponse:
    """A guided reforming run."""
    part = _part(pk)
    complaint, typed = None, ""
    if request.method == "POST":
        did, typed = request.POST.get("do", ""), request.POST.get("typed", "")
        try:
            _reform_step(part, did, typed, warm="warm" in request.POST)
            return redirect("reform", pk)
        except BadInput as error:
            complaint = error
    state, board = board_state(part.board_id)
    run = reforming.open_run(part)
    found = reforming.state_of(run) if run else None
    runs = part.reforming.exclude(discharged=None)
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "part": board.find(part.ref),
        "found": found,
        "runs": runs,
        "complaint": complaint,
        "typed": typed,
    }
    return render(request, "survey/reform.html", context, status=422 if complaint else 200)


def _reform_step(part: Part, did: str, typed: str, *, warm: bool) -> None:
    run = reforming.open_run(part)
    if did == "begin":
        reforming.begin(part, typed)
    elif run is None:
        raise BadInput(did, "a run that is open", "Begin one first.", "run")
    elif did == "current":
        reforming.take_current(run, typed, warm=warm)
    elif did == "stop":
        reforming.stop(run)
    elif did == "discharge":
        reforming.discharge(run, typed)
    else:
        raise BadInput(did, "begin, current, stop or discharge", "", "do")


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    part = _part(pk)
    services.remove(part)
    return redirect(f"{reverse('survey', args=[part.board_id])}?said={part.ref}+taken+off+the+list.+U+brings+it+back")


@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    said = services.undo(Board.objects.select_related("unit").get(pk=pk))
    return redirect(f"{reverse('survey', args=[pk])}?said={said}")
