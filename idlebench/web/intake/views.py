"""Bench and Intake."""

from __future__ import annotations

import re

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from idlebench.core.board.first_look import BURNS, TRAITS
from idlebench.core.faults.signs import signs_in
from idlebench.core.judge.evidence import ESR_CRITERIA
from idlebench.core.prove import WAYS
from idlebench.core.prove.rounds import DEPTHS
from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import dated

from ..records.models import Board, CalendarPlan, Entry, Job, Unit
from ..unit.picture import boards_to_one_scale
from ..unit.policies import all_policies
from ..unit.state import UnitState, unit_state
from ..unit.summary import summaries
from . import forms, services
from .replacing import donors_for

WAYS_OF_WORKING = {
    "schools": ESR_CRITERIA.values(),
    "ways": WAYS.items(),
    "depths": DEPTHS.items(),
    "supplies": Board.SUPPLIES,
    "traits": TRAITS.items(),
}


#: Units, or finished jobs, on a page.
ON_A_PAGE = 24


#: Tasks that can be done at once, as the Bench lists them.
CAN = 5


def bench(request: HttpRequest) -> HttpResponse:
    """Units that are worked on and what each waits for, a page of them; jobs that are finished fold away."""
    page = Paginator(services.open_units(), ON_A_PAGE).get_page(request.GET.get("page"))
    done = Paginator(services.finished_jobs(), ON_A_PAGE).get_page(request.GET.get("done"))
    found = summaries(page.object_list)
    units = [(unit, found[unit.pk]) for unit in page.object_list if unit.pk in found]
    agenda = CalendarPlan.objects.order_by("-id").first()
    now = [task for task in agenda.kept.tasks if task.now] if agenda else []
    context = {
        "units": units,
        "first": next(
            ((u, one) for u, one in units if not u.handed_over and one.waits_for and u.decision != "donor"), None
        ),
        "jobs": list(dict.fromkeys(unit.job for unit, _ in units)),
        "page": page,
        "done": done,
        "show_done": "done" in request.GET,
        "can": now[:CAN],
        "more": max(0, len(now) - CAN),
        "planned": bool(agenda and agenda.kept.tasks),
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
    "rounds",
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
    "serial",
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
    return {
        "in_hand": left[0] if left else None,
        "in_hand_number": str(at % 10) if 0 < at <= 10 else "",
        "looks_left": len(left),
    }


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


def posted_unit(request: HttpRequest, job: Job) -> Unit:
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
    from_unit = posted_unit(request, job)
    try:
        unit = services.add_unit(job, forms.unit_name(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, from_unit.pk, form="unit_new", typed=request.POST.dict(), complaint=error)
    return redirect("intake", unit.pk)


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
    unit_pk = posted_unit(request, job).pk
    try:
        services.change_job(job, forms.job_facts(request.POST.dict()))
    except BadInput as error:
        return intake_page(request, unit_pk, form="job", typed=request.POST.dict(), complaint=error)
    return redirect("intake", unit_pk)
