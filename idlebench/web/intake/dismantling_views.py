"""The pages of the dismantling log."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from idlebench.core.board import dismantle
from idlebench.core.refusal import BadInput

from ..records.models import DismantleStep
from ..unit.state import unit_state
from . import dismantling as log_book


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
