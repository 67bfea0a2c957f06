"""The practice room: machines that cannot be harmed, and what becomes of them."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_POST

from idlebench.core.draw.board import Drawn, board_scene
from idlebench.core.practice.machine_parts import PracticeStep
from idlebench.core.practice.machines import KINDS, machine
from idlebench.core.practice.play import Run
from idlebench.core.refusal import BadInput

from ..records.models import PracticeRun
from . import services

#: Finished and open machines that are listed.
LISTED = 30


def room(request: HttpRequest, complaint: BadInput | None = None, seed: str = "") -> HttpResponse:
    """Every kind of machine, those in hand, and how those that are done went."""
    rows = [(sat.row, sat.run) for sat in services.latest(LISTED)]
    kinds = [(key, title, machine(key, "1")) for key, (title, _) in KINDS.items()]
    context = {
        "room": "practice", "kinds": kinds, "open": [r for r in rows if not r[0].ended], "done": [r for r in rows if r[0].ended],
        "complaint": complaint, "seed": seed or str(PracticeRun.objects.count() + 1),
    }  # fmt: skip
    return render(request, "practice/room.html", context, status=422 if complaint else 200)


@require_POST
def begin(request: HttpRequest) -> HttpResponse:
    """A new machine of a kind."""
    seed = request.POST.get("seed", "")
    try:
        kind, guided = request.POST.get("kind", ""), False
        if "guided" in request.POST:
            kind, guided = next(iter(KINDS)), True
        return redirect("practice_machine", services.begin(kind, seed, guided).pk)
    except BadInput as error:
        return room(request, error, seed)


def sitting(request: HttpRequest, pk: int, complaint: BadInput | None = None, typed: str = "") -> HttpResponse:
    """One machine: its board, what can be done, what was done."""
    get_object_or_404(PracticeRun, pk=pk)
    sat = services.sit(pk)
    run, made = sat.run, sat.run.machine
    here = request.GET.get("place", "").upper() or request.POST.get("place", "").upper()
    here = here if here in run.places else ""
    scene = board_scene(made.board[0], made.board[1], made.parts)
    context = {
        "room": "practice", "row": sat.row, "run": run, "machine": made, "here": here, "scene": scene, "after": len(run.said),
        "board": {"row": made.title, "parts": made.parts}, "side": "parts",
        "drawn": mark_safe("".join(_part(d, run, d.ref == here) for d in scene.parts)),
        "rails": [(rail.name, rail.name.replace(" ", "")) for rail in made.rails], "candidates": services.candidates(run, here),
        "part": made.part(here), "is_joint": here in made.joints or here == "FB", "last": run.said[-1] if run.said else None,
        "before": list(reversed(run.said[:-1])), "complaint": complaint, "typed": typed, "powers": ADAPTER_POWERS if made.low else POWERS,
        "step": services.shown_step(run), "in_reach": _in_reach(services.shown_step(run)),
    }  # fmt: skip
    return render(request, "practice/machine.html", context, status=422 if complaint else 200)


#: How power is put on: the move, its words, its key.
POWERS = (
    ("power lamp none", "Lamp, nothing plugged in", "1"), ("power lamp dummy", "Lamp, dummy loads", "2"),
    ("power full dummy", "Full mains, dummy loads", "3"), ("power full board", "Full mains, its boards", "4"),
)  # fmt: skip


#: The same for a machine on an adapter.
ADAPTER_POWERS = (
    ("power full none", "Adapter in, nothing plugged in", "1"), ("power full dummy", "Adapter in, dummy loads", "2"),
    ("power full board", "Adapter in, its boards", "3"),
)  # fmt: skip


def _in_reach(step: PracticeStep | None) -> str:
    """What the button of the next step says."""
    return f"Do this step: {step.move}" if step else ""


def _part(drawn: Drawn, run: Run, chosen: bool) -> SafeString:
    """A part of the board as a link to it."""
    facts = {"d": drawn, "sign": "dab" if drawn.ref in run.fitted else "", "kept": False, "selected": chosen}
    state = ", new" if drawn.ref in run.fitted else ", burst" if drawn.ref in run.burst else ""
    body = render_to_string("ui/part_svg.html", facts).strip()
    return mark_safe(
        f'<a href="?place={drawn.ref}" class="{"v-replace" if drawn.ref in run.burst else "v-keep"}" '
        f'transform="translate({drawn.x:g} {drawn.y:g})" aria-label="{drawn.ref}{state}"{" data-selected" if chosen else ""}>'
        f'{body}<text y="{drawn.label_y:g}">{drawn.ref}</text></a>'
    )


@require_POST
def move(request: HttpRequest, pk: int) -> HttpResponse:
    """Do one thing to it."""
    get_object_or_404(PracticeRun, pk=pk)
    typed = request.POST.get("move", "")
    try:
        services.do(pk, typed, request.POST.get("after", ""))
    except BadInput as error:
        return sitting(request, pk, error, typed)
    place = request.POST.get("place", "")
    return redirect(reverse("practice_machine", args=[pk]) + (f"?place={place}" if place.isalnum() else ""))


@require_POST
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a machine away."""
    get_object_or_404(PracticeRun, pk=pk)
    services.drop(pk)
    return redirect("practice")
