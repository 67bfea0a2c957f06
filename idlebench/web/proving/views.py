"""Cold checks and First power."""

from __future__ import annotations

import re
from urllib.parse import urlencode

from django.core import signing
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core import prove
from idlebench.core.faults.ripple import ripple_suspects
from idlebench.core.prove import interlocks
from idlebench.core.prove.facts import DISCHARGED, INSIDE, JOINED
from idlebench.core.prove.leads import by_leads
from idlebench.core.prove.low_voltage import to_buy, why_not_low
from idlebench.core.prove.minute import minute_of
from idlebench.core.prove.rounds import in_words
from idlebench.core.refusal import BadInput, Blocked

from ..unit.expecting import at_highest, expecting, power_reasons
from ..unit.state import UnitState, unit_state
from ..unit.times import pace
from . import confirmations, services
from . import metered as by_meter
from .check_rows import CheckRow, row_of
from .lead_places import where
from .rail_places import beside
from .rails import Aspect, RailRow, rail_rows


def cold_page(request: HttpRequest, state: UnitState, status: int = 200, **extra: object) -> HttpResponse:
    # with what of the dismantling log is off, to be counted
    step = state.closing.steps[0]
    wanted = state.proof.open_checks(step)
    rows = [row_of(state, check) for check in by_leads(step.checks, state.proof.boards)]
    groups = [(title, [r for r in rows if test(r.check)]) for title, test in COLD_GROUPS]
    open_ = [row for row in rows if row.check in wanted and not row.shut]
    hand = _cold_in_hand(rows, open_, request.GET, str(extra.get("bad_key", "")))
    context = {
        "state": state,
        "stage": "cold",
        "unlisted": state.unlisted,
        # what is in hand stands above, large; below only where it failed, with its way out
        "groups": [(t, [r for r in g if r is not hand or r.state == "failed"], len(g)) for t, g in groups if g],
        "step": step,
        "hand": hand,
        "following": [row for row in open_ if row is not hand][:FOLLOWING],
        "failed": next((row for row in rows if row.state == "failed"), None),
        "by_meter": hand.check if hand and not hand.shut and by_meter.may_read(state, hand.check) else None,
        "done": len(step.checks) - len(wanted),
        "minutes": in_words(pace().minutes(wanted)) if wanted else "",
        "left_out": state.proof.left_out_of([step]),
        "total": len(step.checks),
        "last": next((row for row in rows if row.check.key == request.GET.get("last", "")), None),
        **(where(state, hand.check) if hand else {}),
        **extra,
    }
    return render(request, "proving/cold.html", context, status=status)


#: Checks that are named beside the one in hand, where nothing is drawn of it.
FOLLOWING = 6


def _cold_in_hand(rows: list[CheckRow], open_: list[CheckRow], asked: QueryDict, bad_key: str) -> CheckRow | None:
    """The check that is done now: the one that could not be read, the one asked for by its key or its part, or the next."""
    wrong = next((row for row in rows if row.check.key == bad_key), None)
    named = next((row for row in rows if row.check.key == asked.get("check", "")), None)
    part = asked.get("part", "")
    of_part = next((row for row in open_ if part and re.search(rf"\b{re.escape(part)}\b", row.check.point)), None)
    return wrong or named or of_part or next(iter(open_), None)


COLD_GROUPS = (
    ("Capacitors discharged, logged first", lambda c: c.fact == DISCHARGED),
    ("Visual checks", lambda c: c.fact not in (DISCHARGED, INSIDE) and c.seen),
    ("Mains side, windings and rails", lambda c: c.fact != DISCHARGED and not c.seen and c.fact != JOINED),
    ("Pins of the chips", lambda c: c.fact == JOINED),
    ("Last, before the lid goes on", lambda c: c.fact == INSIDE),
)


def cold(request: HttpRequest, pk: int) -> HttpResponse:
    """All checks without power."""
    return cold_page(request, unit_state(pk))


def _power(request: HttpRequest, state: UnitState, status: int = 200, **extra: object) -> HttpResponse:
    proof = state.proof
    up = proof.steps[1:]
    step = _shown(proof, request.GET.get("step", "") or str(extra.pop("step", "")))
    context = {"state": state, "stage": "power", "step": step, "way": [_way_row(proof, s, step) for s in up], **extra}
    context |= _short_way(state)
    if step:
        should = expecting(state, step)
        rails = rail_rows(state, step, should)
        shown = {one.row.check.key for rail in rails for one in rail.aspects}
        in_hand = _in_hand(proof, rails, request.GET.get("rail", ""), extra.get("bad_key", ""))
        items = [row_of(state, c) for c in step.checks if c.key not in shown]
        here = [*items, *(one.row for rail in rails for one in rail.aspects)]
        following = up[up.index(step) + 1] if proof.step_done(step) and step is not up[-1] else None
        context |= {
            "rails": rails,
            "in_hand": in_hand,
            "missing": should.missing if rails else "",
            "outlook": should.outlook,
            "minute": minute_of(step),
            "beside": beside(state, in_hand) if in_hand else None,
            "by_meter": _by_meter(state, in_hand) or _by_source(state, items),
            "items": items,
            "next_item": next((r for r in items if not proof.done(r.check) and not r.shut and not r.aside), None),
            "gate": power_reasons(state, step.key) if step.live else interlocks.step(proof, step.key),
            "before": [row_of(state, c) for c in _before(proof)] if not proof.live else [],
            "is_live": proof.live == step.key,
            "following": following,
            "asking": request.GET.get("ask") == step.key and step.live and not power_reasons(state, step.key),
            "asked": state.last_event,
            "highest": at_highest(state) if step.key.startswith(("feed", "full")) else (),
            "failed": [r for r in here if r.state == "failed"] if proof.live == step.key else [],
            "suspects": _suspects(state, rails),
            "left_out": proof.left_out_of([step]),
            "cautions": _cautions(proof),
        }
        context["leads"] = _main_act(context, state)
        context["lead"] = context["next_item"] if context["leads"] == "check" else next(iter(context["before"]), None)
    return render(request, "proving/power.html", context, status=status)


def _short_way(state: UnitState) -> dict[str, object]:
    """What is to be said of the short way up: why it is not open, or that it is; and which adapter to buy."""
    boards = state.proof.boards
    fed = any(board.supply and board.adapter for board in boards)
    refused = why_not_low(boards) if fed or state.job.way == "low" else ()
    buy = [text for board in boards if (text := to_buy(board, board.rails))]
    return {
        "short_refused": refused if state.job.way == "low" else (),
        "short_open": fed and not refused and state.job.way != "low",
        "to_buy": buy,
    }


def _main_act(shown: dict[str, object], state: UnitState) -> str:
    """The one act that a page of the way up leads to: what is filled on it. Power is never what `next` does."""
    proof, step, gate = state.proof, shown["step"], shown["gate"]
    if shown["asking"]:
        return "answer"
    if shown["failed"]:
        return "idle"
    if shown["following"]:
        return "next"
    item = shown["next_item"]
    if item and not item.check.live and not shown["is_live"]:
        # what is put on or plugged for this step, before the look inside that closes the case
        return "check"
    if shown["before"]:
        return "before"
    if shown["is_live"] or not step.live:
        rail = shown["in_hand"]
        open_rail = rail and not all(proof.done(one.row.check) for one in rail.aspects)
        if shown["next_item"] and not open_rail:
            return "check"
        if shown["is_live"] and rail and not proof.step_done(step):
            return "log"
    elif not gate and not proof.step_done(step):
        return "power"
    if proof.proven and (shown["is_live"] or not gate):
        return "handover"
    # while it only has to be waited, or to be made idle first, nothing is filled: make idle is at hand
    return "" if proof.live else _act_elsewhere(proof, step, state)


def _act_elsewhere(proof: prove.Proof, step: prove.PowerStep, state: UnitState) -> str:
    """Where a shut step leads: to the cold checks, to the step that is in hand, or to the stage that waits."""
    current = proof.current
    if current is not None and current.key == "cold":
        return "cold"
    if current is not None and current is not step:
        return "step"
    return "stage" if state.waits_for and state.waits_for.key != "power" else ""


def _shown(proof: prove.Proof, asked: str) -> prove.PowerStep | None:
    """The step a page shows: the one asked for, the one that has power, the first that is not done, or the last."""
    up = proof.steps[1:]
    if not up:
        return None
    in_hand = next((step for step in up if not proof.step_done(step)), up[-1])
    return next(found for found in (proof.step(asked), proof.step(proof.live), in_hand) if found in up)


def _before(proof: prove.Proof) -> list[prove.Check]:
    """What is asked each time before power: stores empty, nothing left inside; shown once the rest is done."""
    again = [c for c in proof.open_checks(proof.steps[0]) if c.fact in (DISCHARGED, INSIDE)]
    return again if len(again) == len(proof.open_checks(proof.steps[0])) else []


def _cautions(proof: prove.Proof) -> tuple[str, ...]:
    return tuple(dict.fromkeys(c.caution for c in proof.discharges if c.caution and not proof.done(c)))


def _way_row(proof: prove.Proof, step: prove.PowerStep, here: prove.PowerStep | None) -> dict[str, object]:
    failed = any(proof.status_of(c).failed for c in step.checks)
    word = "passed" if proof.step_done(step) else "failed" if failed else "not yet"
    return {
        "step": step,
        "state": word,
        "here": step is here,
        "live": proof.live == step.key,
        "open": not interlocks.step(proof, step.key),
    }


def _in_hand(proof: prove.Proof, rails: list[RailRow], asked: str, bad_key: object) -> RailRow | None:
    """The rail that is read now: the one asked for, the one whose reading could not be read, or the first that is not done."""

    def open_(rail: RailRow) -> bool:
        return not all(proof.done(one.row.check) for one in rail.aspects)

    wrong = next((r for r in rails if any(one.row.check.key == bad_key for one in r.aspects)), None)
    named = next((r for r in rails if r.name == asked), None)
    return wrong or named or next((r for r in rails if open_(r)), next(iter(rails), None))


def _by_meter(state: UnitState, rail: RailRow | None) -> prove.Check | None:
    """The check of the rail in hand that the meter reads next."""
    open_ = [one.row.check for one in rail.aspects if not state.proof.done(one.row.check)] if rail else []
    return next((check for check in open_ if by_meter.may_read(state, check)), None)


def _by_source(state: UnitState, items: list[CheckRow]) -> prove.Check | None:
    """What of the other checks an instrument reads next: amps by the bench supply, a monitor's readings by the stand-in."""
    open_ = [row.check for row in items if not row.check.seen and not row.shut and not state.proof.done(row.check)]
    return next((check for check in open_ if by_meter.may_read(state, check)), None)


def _suspects(state: UnitState, rails: list[RailRow]) -> list[tuple[str, Aspect, list[tuple[int, str]]]]:
    """For each rail with a failed reading: the kept parts on it, the likeliest first."""
    found = []
    for rail in rails:
        by = {one.name: one for one in rail.failed}
        bad = next((by[name] for name in ("ripple", "lowest", "volts") if name in by), None)
        if bad is None:
            continue
        refs = []
        for board in state.boards:
            kept = frozenset(p.ref for p in board.parts if not p.swap)
            refs += [(board.row.pk, ref) for ref in ripple_suspects([p.core for p in board.parts], rail.name, kept)[:3]]
        found.append((rail.name, bad, refs))
    return found


def power(request: HttpRequest, pk: int) -> HttpResponse:
    """The way up, step by step."""
    return _power(request, unit_state(pk))


@require_POST
def power_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Put power on, once the question on the page was answered; who was not asked yet is asked."""
    step, asked = request.POST.get("step", ""), request.POST.get("asked", "")
    if not re.fullmatch(r"[0-9]{1,15}", asked):
        reasons = power_reasons(unit_state(pk), step)
        if reasons:
            raise Blocked("Power: shut", reasons)
        return redirect(f"{reverse('power', args=[pk])}?{urlencode({'step': step, 'ask': step})}")
    services.power_on(pk, step, int(asked))
    return redirect(f"{reverse('power', args=[pk])}?{urlencode({'step': step})}")


@require_POST
def idle(request: HttpRequest) -> HttpResponse:
    """Make the unit idle whose power the page tells of; from any page."""
    session = request.POST.get("session", "")
    unit = services.make_idle(int(session) if session.isascii() and session.isdigit() and len(session) < 18 else None)
    return redirect("power", unit) if unit else redirect("bench")


@require_POST
def reading(request: HttpRequest, pk: int) -> HttpResponse:
    """The readings of a page, all or none; the first that cannot be read is said beside its field, and the form comes back filled."""
    step, complaint, bad_key = "cold", None, ""
    typed = {k.removeprefix("r:"): text for k, text in request.POST.items() if k.startswith("r:") and text.strip()}
    if not typed:
        complaint = BadInput("", "a reading in one of the fields", field="reading")
    else:
        try:
            step = services.take_readings(pk, typed)[-1].step
        except BadInput as error:
            complaint, bad_key = error, error.field
    if complaint:
        state = unit_state(pk)
        if check := state.proof.check(bad_key):
            step, bad_key = check.step, check.key
    back = request.POST.get("back", "")
    if complaint and re.fullmatch(r"[0-9]{1,15}", back):
        # typed on Swap, it is told on Swap; the words are signed, so that no address can put others there
        told = {"key": bad_key, "why": complaint.plain, "typed": request.POST.get(f"r:{bad_key}", "")[:60]}
        return redirect(f"{reverse('swap', args=[int(back)])}?{urlencode({'not': signing.dumps(told, salt='swap')})}")
    if complaint:
        extra = {"complaint": complaint, "bad_key": bad_key, "typed": request.POST.dict()}
        step = request.POST.get("step", step)
        on_power = step != "cold" or request.POST.get("back") == "power"
        return _power(request, state, 422, step=step, **extra) if on_power else cold_page(request, state, 422, **extra)
    if re.fullmatch(r"[0-9]{1,15}", back):
        return redirect("swap", int(back))
    if back != "power" and step == "cold":
        return _on_cold(pk, list(typed)[-1])
    step = request.POST.get("step", step)
    return redirect(f"{reverse('power', args=[pk])}?{urlencode({'step': step})}")


def _on_cold(pk: int, key: str) -> HttpResponse:
    """On to the next cold check; what was just read is said, and heard where sound is on."""
    return redirect(f"{reverse('cold', args=[pk])}?{urlencode({'last': key})}#next")


@require_POST
def metered(request: HttpRequest, pk: int) -> HttpResponse:
    """A reading by the job's meter; one that does not answer is said, and nothing else changes."""
    key = request.POST.get("check", "")
    try:
        taken = by_meter.take(pk, key, by_scope=request.POST.get("by") == "scope")
    except BadInput as error:
        state = unit_state(pk)
        check = state.proof.check(key)
        extra = {"complaint": error, "bad_key": check.key if check else ""}
        if check is not None and check.step != "cold":
            return _power(request, state, 422, step=request.POST.get("step", check.step), **extra)
        return cold_page(request, state, 422, **extra)
    if taken.step == "cold":
        return _on_cold(pk, key)
    return redirect(f"{reverse('power', args=[pk])}?{urlencode({'step': request.POST.get('step', taken.step)})}")


@require_POST
def override(request: HttpRequest, pk: int) -> HttpResponse:
    state = unit_state(pk)
    key = request.POST.get("check", "")
    check = state.proof.check(key)
    try:
        services.override(pk, key, request.POST.get("reason", ""))
    except BadInput as error:
        if check is None or check.step == "cold":
            return cold_page(request, state, 422, complaint=error, bad_key=key)
        return _power(request, state, 422, step=check.step, complaint=error, bad_key=key)
    return redirect("cold" if check.step == "cold" else "power", pk)


@require_POST
def store_written_off(request: HttpRequest, pk: int) -> HttpResponse:
    """A store that is no longer listed is not in the machine."""
    row, reason = request.POST.get("row", ""), request.POST.get("reason", "")
    try:
        confirmations.write_off_store(pk, row, reason)
    except BadInput as error:
        return cold_page(request, unit_state(pk), 422, complaint=error, bad_key=f"store {row}", typed=reason)
    return redirect("cold", pk)


@require_POST
def imported_confirmed(request: HttpRequest, pk: int) -> HttpResponse:
    """Imported readings are confirmed by name."""
    by, reason = request.POST.get("by", ""), request.POST.get("reason", "")
    try:
        confirmations.confirm_imported(pk, by, reason)
    except BadInput as error:
        typed = {"by": by, "reason": reason}
        return cold_page(request, unit_state(pk), 422, complaint=error, bad_key="imported", typed=typed)
    return redirect("cold", pk)
