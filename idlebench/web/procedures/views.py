"""Procedures: the list of them, their editor, and a procedure on a unit, step by step."""

from __future__ import annotations

import re

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from idlebench.core.faults.signs import signs_in
from idlebench.core.prove.procedure_form import lasting, time_words
from idlebench.core.prove.procedures import OF, check_of, order, procedure_from, read_procedure, slug
from idlebench.core.refusal import BadInput

from ..records.models import ShopProcedure, UnitProcedure
from ..ui.flash_messages import say
from ..unit.rows import procedure_id
from ..unit.state import unit_state
from . import services

FIELDS = ("text", "minutes", "wait", "after", "occupies", "needs", "caution", "check", "dries")


def procedures(request: HttpRequest) -> HttpResponse:
    """All procedures, and a new one or one from a file."""
    return _listed(request)


def _listed(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    own = set(ShopProcedure.objects.values_list("name", flat=True))
    rows = [(p, lasting(p.minutes), lasting(p.longest), p.name in own) for p in services.all_procedures().values()]
    context = {"rows": rows, "of": OF, "room": "procedures", **extra}
    return render(request, "procedures/list.html", context, status=status)


@require_POST
def new(request: HttpRequest) -> HttpResponse:
    """A procedure from its title, with one step to begin with; or from a file."""
    file = request.FILES.get("file")
    try:
        if file is not None:
            made = services.keep(read_procedure(file.read()))
        else:
            title = request.POST.get("title", "")
            name = slug(title)
            if name in services.all_procedures():
                raise BadInput(
                    title,
                    "a title that no other procedure has",
                    "Change that procedure, or use another title.",
                    field="title",
                )
            of = request.POST.get("of", "board")
            step = {"text": request.POST.get("step", "")}
            head = {"format": "idlebench-procedure", "version": 1, "name": name, "title": title, "of": of}
            made = services.keep(procedure_from({**head, "steps": [step]}))
    except BadInput as error:
        return _listed(request, 422, complaint=error, typed=request.POST.dict())
    return redirect("procedure", made.name)


def procedure(request: HttpRequest, name: str) -> HttpResponse:
    """A procedure, and the form in which it is changed."""
    core = services.named(name)
    context: dict[str, object] = {"room": "procedures", "status": 200}
    rows = [_row(step, number) for number, step in enumerate(core.steps, 1)]
    if request.method == "POST":
        rows = _typed(request)
        try:
            kept = services.edit(name, request.POST.get("title", ""), request.POST.get("about", ""), rows)
            return say(
                request, reverse("procedure", args=[kept.name]), f"{kept.title}: saved, revision {kept.revision}"
            )
        except BadInput as error:
            context |= {"complaint": error, "status": 422, "typed": request.POST.dict()}
    context |= {
        "p": core, "rows": [*rows, {"after": ""}], "own": ShopProcedure.objects.filter(name=name).exists(),
        "hands": lasting(core.minutes), "longest": lasting(core.longest), "order": order(core.steps),
    }  # fmt: skip
    return render(request, "procedures/edit.html", context, status=int(str(context["status"])))


def _row(step: object, number: int) -> dict[str, str]:
    """A step as its row of the form has it."""
    same = step.after == ((number - 1,) if number > 1 else ())
    return {
        "text": step.text, "minutes": time_words(step.minutes) if step.minutes else "", "wait": time_words(step.wait) if step.wait else "",
        "after": "" if same else ", ".join(map(str, step.after)) or "none", "occupies": step.occupies, "needs": step.needs,
        "caution": step.caution, "check": step.check.words if step.check else "", "dries": "on" if step.dries else "",
    }  # fmt: skip


def _typed(request: HttpRequest) -> list[dict[str, str]]:
    """The rows of the form, at most as many as a procedure has steps."""
    count = sum(1 for name in request.POST if re.fullmatch(r"text-\d{1,3}", name))
    return [{f: request.POST.get(f"{f}-{i}", "") for f in FIELDS} for i in range(min(count, 120))]


def as_file(request: HttpRequest, name: str) -> HttpResponse:
    """A procedure as its file."""
    core = services.named(name)
    return HttpResponse(
        core.as_text(),
        content_type="application/json; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{core.name}.json"'},
    )


@require_POST
def drop(request: HttpRequest, name: str) -> HttpResponse:
    """The shop's own dropped; the one that ships comes back."""
    left = services.drop(name)
    words = "The supplied version is back" if left else "Dropped"
    return say(request, reverse("procedures"), words)


def of_unit(request: HttpRequest, pk: int, complaint: BadInput | None = None) -> HttpResponse:
    """What is on a unit, and what can be added."""
    state = unit_state(pk)
    now = timezone.now()
    rows = []
    for row in UnitProcedure.objects.filter(unit=pk).select_related("board").prefetch_related("steps"):
        stands = services.status_of(row)
        waits = row.waits_until if row.waits_until and row.waits_until > now else None
        rows.append((row, stands, len(stands.core.steps) - len(stands.settled), waits))
    context = {
        "state": state, "stage": "", "on_procedures": True, "rows": rows, "complaint": complaint,
        "offered": [
            (p, lasting(p.minutes), lasting(p.longest), any(step.each for step in p.steps)) for p in services.all_procedures().values()
        ],
    }  # fmt: skip
    return render(request, "procedures/unit.html", context, status=422 if complaint else 200)


@require_POST
def add(request: HttpRequest, pk: int) -> HttpResponse:
    board = request.POST.get("board", "")
    try:
        on = int(board) if re.fullmatch(r"\d{1,15}", board) else None
        made = services.add(pk, request.POST.get("name", ""), on, request.POST.get("sides", "")[:400])
    except BadInput as error:
        return of_unit(request, pk, error)
    return redirect("unit_procedure", pk, made.pk)


def run(request: HttpRequest, pk: int, proc: int) -> HttpResponse:
    """The step in hand, large."""
    return _run(request, pk, proc)


def _run(request: HttpRequest, pk: int, proc: int, status: int = 200, **extra: object) -> HttpResponse:
    state = unit_state(pk)
    row = UnitProcedure.objects.select_related("board").get(pk=proc, unit=pk)
    stands = services.status_of(row)
    number = stands.here
    step = stands.core.steps[number - 1] if number else None
    lines = [
        {
            "number": n, "step": one, "came": stands.steps.get(n), "minutes": time_words(one.minutes) if one.minutes else "",
            "wait": time_words(one.wait) if one.wait else "",
        }
        for n, one in enumerate(stands.core.steps, 1)
    ]  # fmt: skip
    before = stands.core.steps[(number or len(stands.core.steps) + 1) - 2] if number != 1 else None
    done_side = before.side if before is not None and (step is None or step.side != before.side) else ""
    came = stands.steps.get(number)
    told = signs_in(f"{came.reason} {step.text}") if came is not None and step is not None and came.reason else ()
    context = {
        "state": state, "stage": "", "on_procedures": True, "row": row, "p": stands.core, "number": number, "step": step,
        "done_side": done_side, "side_step": (number or len(stands.core.steps) + 1) - 1, "signs": told,
        "lines": lines, "together": services.in_one_go(stands) if number else (),
        "check": check_of(stands.core, number, procedure_id(proc)) if number else None,
        "waits": stands.waits(number) if number else None, "came": came,
        "time": time_words(step.minutes) if step and step.minutes else "", "wait": time_words(step.wait) if step and step.wait else "",
        "shut": services.shut(state, stands, number) if number else (), "settled": len(stands.settled), **extra,
    }  # fmt: skip
    return render(request, "procedures/run.html", context, status=status)


@require_POST
def act(request: HttpRequest, pk: int, proc: int, what: str) -> HttpResponse:
    """A step done, skipped, failed, taken back, or given another limit."""
    text = request.POST.get("step", "")
    number = int(text) if re.fullmatch(r"\d{1,3}", text) else 0
    reason = request.POST.get("reason", "")
    try:
        if what == "done":
            services.done(pk, proc, number, request.POST.get("reading", ""))
        elif what == "several":
            upto = request.POST.get("upto", "")
            services.done_upto(pk, proc, int(upto) if re.fullmatch(r"\d{1,3}", upto) else 0)
        elif what == "skip":
            services.skip(pk, proc, number, reason)
        elif what == "failed":
            services.failed(pk, proc, number, reason)
        elif what == "limit":
            services.limit(pk, proc, number, request.POST.get("limit", ""))
        elif what == "again":
            services.once_more(pk, proc, number)
        elif what == "back":
            services.back(pk, proc)
        else:
            services.take_off(pk, proc)
            return redirect("unit_procedures", pk)
    except BadInput as error:
        return _run(request, pk, proc, 422, complaint=error, complained=what, typed=request.POST.dict())
    return redirect("unit_procedure", pk, proc)
