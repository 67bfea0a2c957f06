"""Bench and Intake."""

from __future__ import annotations

import re

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from idlebench.core.board import dismantle
from idlebench.core.board.first_look import BURNS, TRAITS
from idlebench.core.draw.bars import cost_bar, cost_scale
from idlebench.core.faults.signs import signs_in
from idlebench.core.judge.evidence import SCHOOLS
from idlebench.core.judge.triage import helped_by
from idlebench.core.prove import WAYS
from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import dated

from ..records.models import Board, CalendarPlan, DismantleStep, Entry, Job, Unit
from ..unit.picture import boards_to_one_scale
from ..unit.policies import all_policies
from ..unit.state import UnitState, states_of, unit_state
from ..unit.summary import summaries
from . import dismantling as log_book
from . import forms, services
from . import labels as printing
from . import triage as weighing
from .replacing import donors_for

WAYS_OF_WORKING = {
    "schools": SCHOOLS.values(),
    "ways": WAYS.items(),
    "supplies": Board.SUPPLIES,
    "traits": TRAITS.items(),
}


#: Units, or finished jobs, on a page; and units beside each other.
ON_A_PAGE, SIDE_BY_SIDE = 24, 8


def bench(request: HttpRequest) -> HttpResponse:
    """Units that are worked on and what each waits for, a page of them; jobs that are finished fold away."""
    page = Paginator(services.open_units(), ON_A_PAGE).get_page(request.GET.get("page"))
    done = Paginator(services.finished_jobs(), ON_A_PAGE).get_page(request.GET.get("done"))
    found = summaries(page.object_list)
    units = [(unit, found[unit.pk]) for unit in page.object_list if unit.pk in found]
    context = {
        "units": units,
        "first": next(((u, one) for u, one in units if not u.handed_over and one.waits_for), None),
        "jobs": list(dict.fromkeys(unit.job for unit, _ in units)),
        "page": page,
        "done": done,
        "show_done": "done" in request.GET,
        "agenda": CalendarPlan.objects.order_by("-id").first(),
        "lately": Entry.objects.select_related("unit__job")[:8],
        "room": "bench",
    }
    return render(request, "intake/bench.html", context)


def new_job(request: HttpRequest) -> HttpResponse:
    """Take a job in."""
    typed, complaint = (
        {"units": "A", "mains_volts": "230", "mains_frequency": "50", "meter_frequency": "120", "hour_rate": "20"},
        None,
    )
    if request.method == "POST":
        typed = request.POST.dict()
        try:
            job = services.take_in_job(*forms.new_job(typed))
            return redirect("intake", job.units.first().pk)
        except BadInput as error:
            complaint = error
    return render(
        request,
        "intake/new.html",
        {
            "typed": typed,
            "complaint": complaint,
            "chosen": _traits_typed(typed) if complaint else ["supply"],
            **WAYS_OF_WORKING,
            "policies": all_policies().values(),
        },
        status=422 if complaint else 200,
    )


def unit(request: HttpRequest, pk: int) -> HttpResponse:
    """To the stage that the unit waits at."""
    state = unit_state(pk)
    return redirect((state.waits_for or state.stages[-1]).url)


def _typed_of(row: object, names: tuple[str, ...]) -> dict[str, str]:
    values = {name: getattr(row, name) for name in names}
    return {
        name: "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
        for name, value in values.items()
    }


JOB_FIELDS = (
    "name",
    "owner",
    "machine",
    "made",
    "policy",
    "school",
    "way",
    "mains_volts",
    "earth_limit",
    "mains_frequency",
    "meter_frequency",
    "hour_rate",
    "meter",
)
BOARD_FIELDS = (
    "name",
    "title",
    "supply",
    "width",
    "height",
    "expected",
    "fuse",
    "source_volts",
    "source_va",
    "rails",
    "chips",
    "zones",
    "others",
    "supply_model",
    "monitor_model",
    "truth",
)
#: Boards that are drawn on the page at most.
DRAWN = 4
UNIT_FIELDS = ("serial", "symptoms", "missing", "found", "repairs", "dates", "burn")


def intake_page(
    request: HttpRequest, pk: int, *, form: str = "", typed: dict | None = None, complaint: BadInput | None = None
) -> HttpResponse:
    """The Intake page; with a complaint, the form it came from shows what was typed."""
    state = unit_state(pk)
    refused, donors = form.removeprefix("board"), donors_for(state.boards, state.row)
    boards = [
        (
            b,
            typed if refused == str(b.row.pk) else _typed_of(b.row, BOARD_FIELDS),
            form in (f"board{b.row.pk}", b.replace_key, b.donor_key),
            complaint if form == f"board{b.row.pk}" else None,
            donors[b.row.pk],
        )
        for b in state.boards
    ]
    context = {
        "state": state,
        "stage": "intake",
        "boards": boards,
        "drawings": boards_to_one_scale([b for b in state.boards if b.parts][:DRAWN]),
        "looks": [
            (look, look.key in state.row.first_look, state.row.look_skipped.get(look.key, ""))
            for look in state.first_look
        ],
        **_in_hand(state),
        "skipping": form.removeprefix("skip ") if form.startswith("skip ") else "",
        "form": form,
        "complaint": complaint,
        **{f"{name}_complaint": complaint if form == name else None for name in ("unit", "job", "new")},
        "hints": forms.HINTS,
        "burns": BURNS if "tube" in state.traits else {},
        "told_signs": signs_in(state.row.symptoms),
        "unit_typed": typed if form == "unit" else _typed_of(state.row, UNIT_FIELDS),
        "job_typed": typed if form == "job" else _typed_of(state.job, JOB_FIELDS),
        "chosen": _traits_typed(typed) if form == "job" else state.job.traits,
        "dated": dated(state.row.dates, state.job.made),
        "photo_count": state.row.photos.filter(removed=None).count(),
        "replace_typed": typed if form.startswith(("replace", "donor")) else {},
        "new_unit_name": typed["name"] if form == "unit_new" and typed else "",
        "board_typed": typed if form == "new" else {"width": "200", "height": "140"},
        **WAYS_OF_WORKING,
        "policies": all_policies().values(),
    }
    return render(request, "intake/intake.html", context, status=422 if complaint else 200)


def _in_hand(state: UnitState) -> dict[str, object]:
    """The look that is next, with its number where a key has it, and how many are left."""
    left = [look for look in state.first_look if look.key not in {*state.row.first_look, *state.row.look_skipped}]
    at = state.first_look.index(left[0]) + 1 if left else 0
    return {"in_hand": left[0] if left else None, "in_hand_number": at if 0 < at < 10 else "", "looks_left": len(left)}


def _traits_typed(typed: dict | None) -> list[str]:
    return [name for name in TRAITS if typed and typed.get(f"has_{name}")]


def intake(request: HttpRequest, pk: int) -> HttpResponse:
    """Job, unit, boards, first look, symptoms, what is missing."""
    if request.method != "POST":
        return intake_page(request, pk)
    try:
        services.describe_unit(Unit.objects.get(pk=pk), forms.unit_facts(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, pk, form="unit", typed=request.POST.dict(), complaint=error)
    return redirect("intake", pk)


def _posted_unit(request: HttpRequest, job: Job) -> Unit:
    """The unit of the job that a form speaks of, by its key or, of a job with many, by its name."""
    text, name = request.POST.get("unit", ""), request.POST.get("named", "").strip()
    unit = job.units.filter(pk=int(text)).first() if re.fullmatch(r"[0-9]{1,15}", text) else None
    unit = unit or (job.units.filter(name=name).first() if name and not text else None)
    if unit is None:
        raise BadInput(text or name, "a unit of this job", field="unit")
    return unit


@require_POST
def new_unit(request: HttpRequest, pk: int) -> HttpResponse:
    """Take another unit into a job."""
    job = Job.objects.get(pk=pk)
    from_unit = _posted_unit(request, job)
    try:
        unit = services.add_unit(job, forms.unit_name(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, from_unit.pk, form="unit_new", typed=request.POST.dict(), complaint=error)
    return redirect("intake", unit.pk)


def dismantling(request: HttpRequest, pk: int) -> HttpResponse:
    """The dismantling log, and backwards the way back."""
    state = unit_state(pk)
    typed, complaint = "", None
    if request.method == "POST":
        typed = request.POST.get("step", "")
        try:
            log_book.take_off(state.row, typed)
            return redirect("dismantling", pk)
        except BadInput as error:
            complaint = error
    found = log_book.lines(state.row)
    told = log_book.told(found)
    waiting = [line for line in reversed(found) if line.row.back is None]
    # once something went back the page goes on that way, until the switch says otherwise
    way = request.GET.get("way") or ("back" if any(line.row.back for line in found) else "apart")
    context = {
        "way": way,
        "state": state,
        "stage": "intake",
        "lines": found,
        "backwards": list(reversed(found)),
        "next_back": waiting[0] if waiting else None,
        "open": dismantle.still_open(told),
        "tray": dismantle.tray(told),
        "look_alikes": dismantle.look_alikes([line.step for line in found]),
        "at_tube": dismantle.tube_steps_left([line.step for line in found]) if "tube" in state.traits else (),
        "typed": typed,
        "complaint": complaint,
    }
    return render(request, "intake/dismantling.html", context, status=422 if complaint else 200)


@require_POST
def put_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Tick a step as back."""
    row = DismantleStep.objects.select_related("unit").get(pk=pk)
    log_book.put_back(row)
    return redirect("dismantling", row.unit_id)


@require_POST
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike the last step."""
    row = DismantleStep.objects.select_related("unit").get(pk=pk)
    log_book.strike(row)
    return redirect("dismantling", row.unit_id)


def _triage(
    request: HttpRequest,
    pk: int,
    complaint: BadInput | None = None,
    bad_unit: int = 0,
    times_complaint: BadInput | None = None,
) -> HttpResponse:
    job = Job.objects.get(pk=pk)
    weighed = weighing.weigh(job)
    helped = helped_by([e for _, _, e in weighed])
    at = next((i // ON_A_PAGE + 1 for i, (unit, _, _) in enumerate(weighed) if unit.pk == bad_unit), None)
    page = Paginator(weighed, ON_A_PAGE).get_page(at or request.GET.get("page"))
    context = {
        "job": job,
        "scale": (scale := cost_scale(e for _, _, e in weighed)),
        "rows": [
            (unit, e, cost_bar(e, scale), helped.get(unit.name, ""), one.boards) for unit, one, e in page.object_list
        ],
        "page": page,
        "others": [unit for unit, _, _ in weighed],
        "room": "bench",
        "complaint": complaint,
        "bad_unit": bad_unit,
        "times_complaint": times_complaint,
        "times": weighing.times_shown(),
        "typed": request.POST.dict(),
    }
    complaint = complaint or times_complaint
    return render(request, "intake/triage.html", context, status=422 if complaint else 200)


def triage(request: HttpRequest, pk: int) -> HttpResponse:
    """What each unit of a job would take, against what it is worth."""
    return _triage(request, pk)


@require_POST
def worth(request: HttpRequest, pk: int) -> HttpResponse:
    """Say what a unit is worth."""
    unit = Unit.objects.get(pk=pk)
    try:
        weighing.value(unit, **forms.worth_facts(request.POST.dict()))
    except BadInput as error:
        return _triage(request, unit.job_id, error, pk)
    return redirect("triage", unit.job_id)


@require_POST
def times(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the shop's own times."""
    Job.objects.get(pk=pk)
    try:
        weighing.keep_times(forms.own_minutes(request.POST.dict()))
    except BadInput as error:
        return _triage(request, pk, times_complaint=error)
    return redirect("triage", pk)


def side_by_side(request: HttpRequest, pk: int) -> HttpResponse:
    """The units of a job beside each other, row by row."""
    job = Job.objects.get(pk=pk)
    page = Paginator(job.units.values_list("pk", flat=True), SIDE_BY_SIDE).get_page(request.GET.get("page"))
    states = states_of(page.object_list)
    kinds = list(dict.fromkeys(b.row.name for s in states for b in s.boards))
    boards = [(name, [next((b for b in s.boards if b.row.name == name), None) for s in states]) for name in kinds]
    dates = [dated(s.row.dates, job.made) for s in states]
    context = {"job": job, "states": states, "boards": boards, "dates": dates, "page": page, "room": "bench"}
    return render(request, "intake/side_by_side.html", context)


def labels(request: HttpRequest, pk: int) -> HttpResponse:
    """Labels to print: one for each unit and board, with a code that opens it."""
    job = Job.objects.get(pk=pk)
    states = states_of(job.units.values_list("pk", flat=True))
    address = request.build_absolute_uri("/").rstrip("/")
    context = {
        "job": job,
        "labels": printing.labels(job, states, address),
        "here_only": request.get_host().startswith(("127.", "localhost")),
        "room": "bench",
    }
    return render(request, "intake/labels.html", context)


def open_board(request: HttpRequest, pk: int) -> HttpResponse:
    """The short address on a board's label."""
    return redirect("survey", Board.objects.get(pk=pk).pk)


@require_POST
def move_board(request: HttpRequest, pk: int) -> HttpResponse:
    """Move a board to another unit."""
    board = Board.objects.select_related("unit__job").get(pk=pk)
    weighing.move_board(board, _posted_unit(request, board.unit.job))
    return redirect("triage", board.unit.job_id)


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Tick a first look."""
    services.tick_look(Unit.objects.get(pk=pk), request.POST.get("key", ""))
    return redirect("intake", pk)


@require_POST
def skip_look(request: HttpRequest, pk: int) -> HttpResponse:
    """Skip a first look, with a reason."""
    key = request.POST.get("key", "")
    try:
        services.skip_look(Unit.objects.get(pk=pk), key, request.POST.get("reason", ""))
    except BadInput as error:
        return intake_page(request, pk, form=f"skip {key}", typed=request.POST.dict(), complaint=error)
    return redirect("intake", pk)


@require_POST
def new_board(request: HttpRequest, pk: int) -> HttpResponse:
    """List a board."""
    try:
        services.add_board(Unit.objects.get(pk=pk), forms.board_facts(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, pk, form="new", typed=request.POST.dict(), complaint=error)
    return redirect("intake", pk)


@require_POST
def board_facts(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a board's facts."""
    board = Board.objects.select_related("unit").get(pk=pk)
    try:
        services.change_board(board, forms.board_facts(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, board.unit_id, form=f"board{pk}", typed=request.POST.dict(), complaint=error)
    return redirect("intake", board.unit_id)


@require_POST
def job_facts(request: HttpRequest, pk: int) -> HttpResponse:
    """Change a job's facts and ways of working."""
    job = Job.objects.get(pk=pk)
    unit_pk = _posted_unit(request, job).pk
    try:
        services.change_job(job, forms.job_facts(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, unit_pk, form="job", typed=request.POST.dict(), complaint=error)
    return redirect("intake", unit_pk)
