"""The pages of Suspects."""

from __future__ import annotations

from dataclasses import replace
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.draw.picture_signs import Face, faces
from idlebench.core.faults.hypotheses import PRIORS
from idlebench.core.faults.signs import GROUPS, signs_in
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.simulate.readings import COLD, read_asked
from idlebench.core.simulate.state import State
from idlebench.instruments import HOUSE

from ..unit.assuming import with_assumed
from ..unit.expecting import bench_of, known_of
from ..unit.parts import BoardState
from ..unit.state import UnitState, unit_state
from . import clue_keeping, faulting
from .metered import clue_read
from .suspects import look, look_without


def suspects(request: HttpRequest, pk: int) -> HttpResponse:
    """Which parts explain what was read and seen: of the record, kept on this page, and in the address."""
    return _page(request, unit_state(pk), request.GET)


def _page(request: HttpRequest, state: UnitState, asked: object, status: int = 200, **extra: object) -> HttpResponse:
    made = _supplies(state)
    board = next((b for b in made if str(b.row.pk) == asked.get("board", "")), next(iter(made), None))
    seen, typed = asked.get("seen", "")[:4000], asked.get("read", "")[:4000]
    case = faulting.Case(state, board)
    context: dict[str, object] = {
        "state": state, "stage": "", "on_suspects": True, "board": board, "supplies": made, "seen": seen, "read": typed,
        "groups": _groups(), "stripes": faces()["stripes"],
        "causes": case.in_hand, "settled": [c for c in case.causes if c.outcome],
        "stand_in": state.job.meter == HOUSE, "as_told": list(signs_in(state.row.symptoms)), **extra,
    }  # fmt: skip
    try:
        context |= look(case, seen, typed) if board is not None else look_without(case, seen)
    except BadInput as error:
        context["complaint"], status = extra.get("complaint") or error, 422
        context["ticked"] = {one.row.text for one in case.clues if not one.void}
    if "typed_signs" in extra:
        context["ticked"] = set(extra["typed_ticks"])
    context["rest"] = _rest(context.get("ticked", set()))
    context["settles"] = next((c for c in case.in_hand if not c.shut), None)
    context["leads"] = _main_act(context)
    return render(request, "proving/suspects.html", context, status=status)


def _supplies(state: UnitState) -> list[BoardState]:
    """The boards whose supply has lines: typed, or assumed of what is listed. Those that are typed come first."""
    made = [board for b in state.boards if b.row.supply and (board := with_assumed(state, b)).supply]
    return sorted(made, key=lambda board: board.assumed is not None)


def _main_act(shown: dict[str, object]) -> str:
    """What is filled on the page: a cause that can be confirmed, the next measurement, or the signs that are still to be told."""
    if shown["settles"] is not None:
        return "confirm"
    following = shown.get("next")
    if following:
        return "" if following[0].shut else "weigh"
    return "" if shown.get("rows") else "signs"


def _groups() -> list[tuple[str, list[tuple[str, Face | None]]]]:
    """The signs as they are ticked, those of a picture with their drawing."""
    drawn = faces()
    return [(title, [(word, drawn.get(word)) for word in words]) for title, words in GROUPS]


def _rest(ticked: set[str]) -> str:
    """Signs that are typed and not ticked: of a rail, a part, or stripes."""
    known = {word for _, words in GROUPS for word in words}
    return "\n".join(sorted(word for word in ticked if word not in known))


def _back(pk: int, board: str, place: str = "") -> HttpResponse:
    query = f"?{urlencode({'board': board})}" if board else ""
    return redirect(f"{reverse('suspects', args=[pk])}{query}{place}")


def _number(text: str) -> int | None:
    return int(text) if text.isdecimal() and len(text) < 16 else None


def _refused(request: HttpRequest, pk: int, error: BadInput | Blocked, **typed: object) -> HttpResponse:
    """The page with the complaint, and what was typed still in its fields."""
    said, status = error, 422
    if isinstance(error, Blocked):
        said, status = f"{error.title}. {' '.join(str(one) for one in error.reasons)}", 409
    asked = {"board": request.POST.get("board", "")}
    return _page(request, unit_state(pk), asked, status, complaint=said, **typed)


@require_POST
def tell(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep signs that are ticked and typed, and readings that are typed."""
    board = request.POST.get("board", "")
    try:
        words = (*request.POST.getlist("sign"), *request.POST.get("seen", "")[:4000].replace(";", "\n").splitlines())
        lines = request.POST.get("read", "")[:4000].splitlines()
        clue_keeping.tell(pk, _number(board), words, lines, bool(request.POST.get("as_found")))
    except (BadInput, Blocked) as error:
        asked = request.POST
        typed = {f"typed_{name}": asked.get(key, "")[:4000] for name, key in (("signs", "seen"), ("read", "read"))}
        return _refused(request, pk, error, **typed, typed_ticks=asked.getlist("sign"))
    return _back(pk, board)


@require_POST
def answer(request: HttpRequest, pk: int) -> HttpResponse:
    """The answer to a measurement that the page asked for: typed, or by the stand-in."""
    board, point = request.POST.get("board", ""), request.POST.get("point", "")[:80]
    try:
        if request.POST.get("by") == "meter":
            state = unit_state(pk)
            own = next((b for b in _supplies(state) if str(b.row.pk) == board), None)
            if own is None or not own.supply:
                raise BadInput(board, "a supply whose lines are typed", "Load the page again.", field="board")
            (asked,) = read_asked(point, bench_of(known_of(state, own)))
            if reasons := clue_keeping.may_read(state, own, asked):
                raise Blocked(f"{point} cannot be read now", reasons)
            live = clue_keeping.live_state(state, own, state.live_step or "")
            setting = State(frequency=live.frequency, load="none") if asked.what in COLD else live
            if asked.what == "lowest":
                setting = replace(setting, step="all")
            value = clue_read(state, own, asked, setting)
            clue_keeping.keep_reading(
                pk, own.row.pk, f"{point} {'OL' if value is None else f'{value:.5g}'}", simulated=True
            )
        else:
            clue_keeping.keep_reading(pk, _number(board) or 0, f"{point} {request.POST.get('value', '').strip()[:60]}")
    except (BadInput, Blocked) as error:
        typed = request.POST.get("value", "")[:60]
        return _refused(request, pk, error, wrong_point=point, typed_value=typed)
    return _back(pk, board, "#suspects")


@require_POST
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    clue_keeping.drop(pk, _number(request.POST.get("clue", "")) or 0)
    return _back(pk, request.POST.get("board", ""))


@require_POST
def take_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a suspect on as it stands now."""
    state, asked = unit_state(pk), request.POST
    board = next((b for b in _supplies(state) if str(b.row.pk) == asked.get("board", "")), None)
    case = faulting.Case(state, board)
    told = look(case, asked.get("seen", "")[:4000], "") if board else look_without(case, asked.get("seen", "")[:4000])
    one = next((r.suspect for r in told.get("rows", ()) if r.suspect.words == asked.get("suspect", "")), None)
    if one is None:
        raise BadInput(asked.get("suspect", "")[:80], "a suspect as it is now", "Load the page again.", field="suspect")
    several = zip(
        one.ref.split(" + "), one.failure.split(" + "), one.place.split(" + ") if one.place else [""] * 9, strict=False
    )
    of_model = all(place in PRIORS or not place for place in one.place.split(" + ")) and board is not None
    faulting.take_on(
        pk,
        board.row.pk if board else None,
        [(*each, one.share) for each in several],
        told["failing"] if of_model else (),
    )
    return _back(pk, asked.get("board", ""), "#in-hand")


@require_POST
def settle(request: HttpRequest, pk: int) -> HttpResponse:
    """Confirm that it was this, or rule it out."""
    board, words = request.POST.get("board", ""), request.POST.get("words", "")
    does = faulting.confirm if request.POST.get("what") == "confirm" else faulting.rule_out
    try:
        does(pk, _number(request.POST.get("cause", "")) or 0, words)
    except (BadInput, Blocked) as error:
        cause = request.POST.get("cause", "")
        return _refused(request, pk, error, typed_cause=_number(cause), typed_words=words[:400])
    return _back(pk, board, "#in-hand")
