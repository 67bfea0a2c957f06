"""Cold checks and First power."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core import prove
from idlebench.core.draw.gauge import Gauge, gauge
from idlebench.core.refusal import BadInput, Shut

from ..records.models import PowerSession, Reading
from ..unit.state import UnitState, unit_state
from . import services

CLOSED = (Shut("closed", "The unit is handed over.", "Take in a new job to power it again."),)


@dataclass(frozen=True)
class Row:
    """A check on the page: its reading if it has one, its state as a word, and why it is shut."""

    check: prove.Check
    reading: Reading | None
    state: str
    shut: tuple[Shut, ...]


def row_of(state: UnitState, check: prove.Check) -> Row:
    reading = state.latest.get(check.key)
    if reading is None:
        word = "not yet"
    elif reading.overridden and not check.safety:
        word = "look twice"
    else:
        word = "passed" if reading.passed else "failed"
    shut = prove.reading_gate(state.progress.steps, state.record, check, state.live_step)
    return Row(check, reading, word, shut)


@dataclass(frozen=True)
class RailRow:
    """A rail on the page: its gauge, its volts, ripple and lowest."""

    name: str
    volts: Row
    ripple: Row | None
    lowest: Row | None
    gauge: Gauge
    state: str


def rail_rows(state: UnitState, step: prove.Step) -> list[RailRow]:
    """The rails of a step with their gauges."""
    rows: list[RailRow] = []
    for name in dict.fromkeys(c.rail for c in step.checks if c.rail and c.aspect):
        by = {c.aspect: row_of(state, c) for c in step.checks if c.rail == name and c.aspect}
        volts = by.get("volts")
        if volts is None or volts.check.low is None or volts.check.high is None or volts.check.nominal is None:
            continue
        value = volts.reading.value if volts.reading else None
        states = [row.state for row in by.values()]
        worst = next((word for word in ("failed", "not yet", "look twice", "passed") if word in states), "not yet")
        drawn = gauge(volts.check.nominal, volts.check.low, volts.check.high, value)
        rows.append(RailRow(name, volts, by.get("ripple"), by.get("lowest"), drawn, worst))
    return rows


def _cold(request: HttpRequest, state: UnitState, status: int = 200, **extra: object) -> HttpResponse:
    step = state.progress.steps[0]
    rows = [row_of(state, check) for check in step.checks]
    groups = [(title, [r for r in rows if test(r.check)]) for title, test in COLD_GROUPS]
    following = next((r for r in rows if not prove.done(r.check, state.record) and not r.shut), None)
    context = {
        "state": state,
        "stage": "cold",
        "groups": [(t, g) for t, g in groups if g],
        "step": step,
        "following": following,
        "done": sum(prove.done(c, state.record) for c in step.checks),
        "total": len(step.checks),
        **extra,
    }
    return render(request, "proving/cold.html", context, status=status)


COLD_GROUPS = (
    ("Stores discharged, logged first", lambda c: c.aspect == "discharge"),
    ("Looked at", lambda c: c.aspect != "discharge" and c.seen),
    ("Fuses and rails", lambda c: c.aspect != "discharge" and not c.seen and not c.key.startswith("cold.pin")),
    ("Pins of the chips", lambda c: c.key.startswith("cold.pin")),
)


def cold(request: HttpRequest, pk: int) -> HttpResponse:
    """All checks without power."""
    return _cold(request, unit_state(pk))


def _power(request: HttpRequest, state: UnitState, status: int = 200, **extra: object) -> HttpResponse:
    progress = state.progress
    current = progress.current
    asked = progress.step(request.GET.get("step", "") or str(extra.pop("step", ""))) or (
        progress.step(state.live_step) if state.live_step else None
    )
    up = progress.steps[1:]
    step = (
        asked
        if asked in up
        else (current if current in up else (up[-1] if up and current is None else (up[0] if up else None)))
    )
    context = {"state": state, "stage": "power", "step": step, "way": [_way_row(state, s, step) for s in up], **extra}
    if step:
        following = next((s for s in up[up.index(step) + 1 :]), None) if prove.step_done(step, state.record) else None
        rails = rail_rows(state, step)
        shown = {c.key for r in rails for c in [r.volts.check, *(x.check for x in (r.ripple, r.lowest) if x)]}
        items = [row_of(state, c) for c in step.checks if c.key not in shown]
        context |= {
            "rails": rails,
            "items": items,
            "next_item": next((r for r in items if not prove.done(r.check, state.record) and not r.shut), None),
            "gate": prove.power_gate(progress.steps, state.record, step.key, state.live_step)
            + CLOSED[: bool(state.row.handed_over)],
            "begin": prove.step_gate(progress.steps, state.record, step.key),
            "is_live": state.live_step == step.key,
            "following": following,
            "following_gate": prove.power_gate(progress.steps, state.record, following.key, state.live_step)
            if following and following.live
            else (),
            "suspects": _suspects(state, rails),
        }
    return render(request, "proving/power.html", context, status=status)


def _way_row(state: UnitState, step: prove.Step, here: prove.Step | None) -> dict[str, object]:
    passed = prove.step_done(step, state.record)
    failed = any((_s := state.record.get(c.key)) and not prove.done(c, state.record) for c in step.checks)
    word = "passed" if passed else "failed" if failed else "not yet"
    shut = prove.step_gate(state.progress.steps, state.record, step.key)
    return {"step": step, "state": word, "here": step is here, "live": state.live_step == step.key, "open": not shut}


def _suspects(state: UnitState, rails: list[RailRow]) -> list[tuple[str, str, list[tuple[int, str]]]]:
    """For each rail with a failed ripple: the kept parts on it, the likeliest first."""
    found = []
    for rail in rails:
        bad = next((r for r in (rail.ripple, rail.lowest, rail.volts) if r and r.state == "failed"), None)
        if bad is None:
            continue
        refs = []
        for board in state.boards:
            kept = frozenset(p.ref for p in board.parts if not p.swap)
            refs += [
                (board.row.pk, ref) for ref in prove.ripple_suspects([p.core for p in board.parts], rail.name, kept)[:3]
            ]
        found.append((rail.name, bad, refs))
    return found


def power(request: HttpRequest, pk: int) -> HttpResponse:
    """The way up, step by step."""
    return _power(request, unit_state(pk))


@require_POST
def power_on(request: HttpRequest, pk: int) -> HttpResponse:
    step = request.POST.get("step", "")
    services.power_on(unit_state(pk), step)
    return redirect(f"{reverse('power', args=[pk])}?step={step}")


@require_POST
def idle(request: HttpRequest) -> HttpResponse:
    """Make the live unit idle; from any page."""
    session = PowerSession.objects.filter(ended=None).select_related("unit").first()
    if session is None:
        return redirect("bench")
    services.make_idle(session)
    return redirect("power", session.unit_id)


@require_POST
def reading(request: HttpRequest, pk: int) -> HttpResponse:
    """One or several readings of a page; the first that cannot be read is said beside its field."""
    state = unit_state(pk)
    step, complaint, bad_key = "cold", None, ""
    keys = [k.removeprefix("r:") for k in request.POST if k.startswith("r:") and request.POST[k].strip()]
    if not keys:
        keys, complaint = [], BadInput("", "a reading in one of the fields", "", "reading")
    for key in keys:
        check = state.progress.check(key)
        step = check.step if check else step
        try:
            services.take_reading(state, key, request.POST[f"r:{key}"])
        except BadInput as error:
            complaint, bad_key = error, key
            break
        state = unit_state(pk)
    if complaint:
        extra = {"complaint": complaint, "bad_key": bad_key, "typed": request.POST.dict()}
        step = request.POST.get("step", step)
        return (
            _cold(request, state, 422, **extra) if step == "cold" else _power(request, state, 422, step=step, **extra)
        )
    if step == "cold":
        return redirect(f"{reverse('cold', args=[pk])}#next")
    return redirect(f"{reverse('power', args=[pk])}?step={step}")


@require_POST
def override(request: HttpRequest, pk: int) -> HttpResponse:
    state = unit_state(pk)
    key = request.POST.get("check", "")
    check = state.progress.check(key)
    try:
        services.override(state, key, request.POST.get("reason", ""))
    except BadInput as error:
        if check is None or check.step == "cold":
            return _cold(request, state, 422, complaint=error, bad_key=key)
        return _power(request, state, 422, step=check.step, complaint=error, bad_key=key)
    return redirect("cold" if check.step == "cold" else "power", pk)
