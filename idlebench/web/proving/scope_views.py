"""Ripple by a scope: its capture looked at, told apart by spectrum, and logged."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from idlebench.core.draw.plots import plot
from idlebench.core.prove import interlocks, scope
from idlebench.core.refusal import BadInput, Blocked
from idlebench.instruments import HOUSE

from ..unit.state import unit_state
from . import metered


def capture(request: HttpRequest, pk: int) -> HttpResponse:
    """A capture of a rail: a file of a scope, or the stand-in's. Nothing is kept but what is logged of it."""
    state = unit_state(pk)
    key = (request.POST if request.method == "POST" else request.GET).get("check", "")
    check = state.proof.check(key)
    if check is None or check.aspect != "ripple":
        if request.method == "GET":
            return redirect("power", pk)
        raise BadInput(key, "the ripple of a rail", "Open it from First power.", field="check")
    context: dict[str, object] = {
        "state": state, "stage": "power", "check": check, "stand_in": state.job.meter == HOUSE and metered.may_read(state, check),
        "scope": metered.scope_named(),
    }  # fmt: skip
    status = 200
    if reasons := interlocks.scope(state.proof):
        raise Blocked("A scope cannot read it yet", reasons)
    if request.method == "POST":
        try:
            file = request.FILES.get("file")
            by_stand_in = "stand-in" in request.POST
            if not by_stand_in and "scope" not in request.POST and file is None:
                raise BadInput("", "the file that the scope saved", "Choose the file first.", field="file")
            by_scope = "scope" in request.POST and not by_stand_in
            if by_scope:
                found = metered.captured(check.rail)
            else:
                found = metered.traced(state, check) if by_stand_in else scope.read_capture(file.read())
            ripple = scope.ripple_of(found, state.job.mains_frequency)
            time, volts = scope.drawn(found)
            context |= {
                "ripple": ripple, "by_stand_in": by_stand_in, "columns": found.columns,
                "typed": f"{ripple.whole:.6g} pp", "passes": check.passes(ripple.whole), "points": len(found.time),
                "plot": plot([("read", "new", list(time), list(volts))], units=("s", "V"), title=check.rail, height=260.0),
            }  # fmt: skip
        except BadInput as error:
            context["complaint"], status = error, 422
    return render(request, "proving/scope.html", context, status=status)
