"""Survey: the board to scale, the quick line, tables in and out."""

from __future__ import annotations

import re
from collections.abc import Callable

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.device_lines import doubts
from idlebench.core.board.devices import read_device
from idlebench.core.board.likely_roles import likely_roles
from idlebench.core.board.listing import is_device
from idlebench.core.board.mains_question import ANSWERS
from idlebench.core.board.odd_values import doubt_of
from idlebench.core.board.parts import SIDES
from idlebench.core.board.profile import difference
from idlebench.core.board.quickline import QuickLine, as_line, read_line, sections
from idlebench.core.board.roles import nearest_roles
from idlebench.core.board.tables import write_survey
from idlebench.core.judge.evidence import ESR_CRITERIA
from idlebench.core.judge.live_reading import ReadingPiece, live_reading
from idlebench.core.refusal import BadInput, in_its_place, put_right
from idlebench.core.text.dates import JudgedDate, hold
from idlebench.core.text.quantity import read as read_quantity
from idlebench.core.text.stored import read_lines
from idlebench.core.wording import many

from ..records.models import Board, Part
from ..ui.flash_messages import say
from ..unit.parts import BoardState, PartState
from ..unit.picture import board_picture, heat_of, part_rows
from ..unit.state import UnitState, board_state
from ..unit.verdicts import verdict_of
from . import moving, services, undoing
from .device_views import device_panel, listed_devices, told_of
from .profiles import profile_for
from .typed import add_typed, battery_out, drop_typed, field_of, in_full, read_typed

#: Verdicts in the order they are counted.
VERDICTS = ("sound", "doubtful", "replace", "not seen")
#: How many rows of a table's problems are shown.
SHOWN = 30

#: Parts in the list beside the picture at once.
ON_A_PAGE = 200


def _side(request: HttpRequest) -> str:
    side = request.GET.get("side", "")
    return side if side in SIDES else "parts"


#: Words that complete a typed line of a part: what it looks like, what was read, what it does.
LINE_WORDS = ("sound", "bulging", "leaking", "esr", "cap", "reservoir", "decoupling", "filter", "coupling")


def _line_words(board: BoardState) -> list[str]:
    """Words to complete a line with: those that every board knows, and the rails of the unit that the board's parts name."""
    rails = dict.fromkeys(p.core.rail for p in board.parts if p.core.rail)
    return [*LINE_WORDS, *(f"rail {name}" for name in list(rails)[:4])]


def page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    """The Survey page with what else there is to say."""
    state, board = board_state(pk)
    ref = str(extra.pop("ref", None) or request.GET.get("part", ""))
    selected, device = board.find(ref), board.find_device(ref)
    side, tray = _side(request), _tray(board, selected)
    profile, photos = profile_for(board.row), list(board.row.photos.filter(removed=None))
    context = {
        "state": state,
        "board": board,
        "line_words": _line_words(board),
        "stage": "survey",
        **board_picture(board, selected, side, waiting=tray["waiting_next"], device=device, devices=True),
        **device_panel(board, device, "correct" in request.GET),
        **(heat_of(board) if "heat" in request.GET else {}),
        **_listed(request, board, selected, side),
        **_neighbours(board, ref.upper()),
        "asked_mains": [p for p in board.parts if p.mains_question],
        "mains_answers": ANSWERS,
        "odd": [(p.ref, text) for p in board.parts if (text := doubt_of(p.core))],
        "tally": [(name, board.tally(name)) for name in VERDICTS],
        "typing": "typing" in request.GET or "typed" in extra,
        "typed": request.GET.get("typed", "")[:400] or (f"{device.ref} " if device and device.device.x is None else ""),
        "zone_lines": list(zip(board.zones, _readable(board, board.row.zones), strict=True)),
        **tray,
        "profile": profile,
        "differs": difference(profile, [p.core for p in board.parts]) if profile else None,
        "pins": [p for p in photos if p.x is not None],
        **(_about(selected, board, state) if selected else {}),
        "verdict_names": VERDICTS[:3],
        "correct": as_line(selected.row.to_core()) if selected and "correct" in request.GET else "",
        "photos": [p for p in photos if (selected and p.part_id == selected.pk) or (device and p.ref == device.ref)],
        "copy_to": request.GET.get("copy_to", "")[:40],
        **extra,
    }
    return render(request, "survey/survey.html", context, status=status)


def _listed(request: HttpRequest, board: BoardState, selected: PartState | None, side: str) -> dict[str, object]:
    """A page of the list of parts: the one asked for, or the one that the selected part stands on."""
    pages = Paginator(board.parts, ON_A_PAGE)
    at = board.parts.index(selected) // ON_A_PAGE + 1 if selected else 1
    page = pages.get_page(request.GET.get("rows") or at)
    return {"part_rows": part_rows(page.object_list, selected, side), "part_page": page}


def _readable(board: BoardState, text: str) -> list[str]:
    """The stored lines that could be read, as they are stored."""
    unread = {one.line for one in board.unread}
    return [line for line in text.splitlines() if line.strip() and line.strip() not in unread]


def _tray(board: BoardState, selected: PartState | None) -> dict[str, object]:
    """What waits in the tray, and which of it is next once the selected one has its place."""
    unplaced = [p.ref for p in board.parts if p.core.x is None or p.core.y is None]
    others = [ref for ref in unplaced if selected is None or ref != selected.ref]
    return {"unplaced": unplaced, "waiting_next": others[0] if others else ""}


def _about(selected: PartState, board: BoardState, state: UnitState) -> dict[str, object]:
    """What the panel of a selected part shows beside its verdict."""
    schools = {
        name: verdict_of(selected.row, selected.core, state.job, state.counts, name).name for name in ESR_CRITERIA
    }
    boards = Board.objects.filter(unit__job=state.job, name=selected.board.name, unit__handed_over=None)
    return {
        "schools": schools if len(set(schools.values())) > 1 else {},
        "givers": boards.exclude(unit=state.row).select_related("unit"),
        "dated": _dated(selected.core.date, state.job.made),
        "likely": likely_roles(
            selected.row.to_core(), [p.core for p in board.parts], board.others, board.chips, board.row.supply
        ),
    }


def _dated(code: str, made: int | None) -> JudgedDate | None:
    try:
        return hold(code, made) if code.strip() else None
    except BadInput:
        return None


def _neighbours(board: BoardState, ref: str) -> dict[str, str]:
    """The references before and after the selected one."""
    refs = [*(p.ref for p in board.parts), *(d.ref for d in listed_devices(board))]
    if not refs:
        return {}
    at = refs.index(ref) if ref in refs else -1
    return {"next_ref": refs[(at + 1) % len(refs)], "previous_ref": refs[at - 1] if at >= 0 else refs[-1]}


def survey(request: HttpRequest, pk: int) -> HttpResponse:
    """The board and its parts; a posted line is added."""
    if request.method != "POST":
        return page(request, pk)
    typed, change = request.POST.get("line", ""), "change" in request.POST
    try:
        board = Board.objects.select_related("unit").get(pk=pk)
        if field_of(in_full(board, typed)):
            said = add_typed(board, typed, change, "whole" in request.POST)
            if change and "on_panel" in request.POST:
                return redirect(f"{reverse('survey', args=[pk])}?part={typed.split()[0].upper()}")
            return say(request, reverse("survey", args=[pk]), f"Listed: {said}", typing=1)
        part = services.add_line(board, typed, change=change, seen=request.POST.get("seen", ""))
    except BadInput as error:
        if change and not is_device(typed):
            return page(
                request, pk, 422, ref=typed.split()[0] if typed.split() else "", noted=typed, note_complaint=error
            )
        fixes = put_right(typed, error)[:3]
        return page(request, pk, 422, typed=typed, complaint=error, exists=_listed_ref(pk, typed), fixes=fixes)
    if "swapping" in request.POST:
        return redirect(f"{reverse('swap', args=[pk])}?place={part.ref}")
    going_on = "" if "change" in request.POST else "&typing=1"
    return redirect(f"{reverse('survey', args=[pk])}?part={part.ref}{going_on}")


def _listed_ref(board: int, typed: str) -> str:
    """The part that a refused line speaks of, where it is listed already: the line corrects it by one button."""
    ref = typed.split()[0].upper() if typed.split() else ""
    if Part.objects.filter(board=board, ref=ref).exists():
        return ref
    others = Board.objects.values_list("others", flat=True).get(pk=board)
    return ref if any(line.split()[:1] == [ref] for line in others.splitlines()) else ""


def read(request: HttpRequest, pk: int) -> HttpResponse:
    """The live reading of a line under it."""
    board = Board.objects.select_related("unit__job").get(pk=pk)
    context: dict[str, object] = {}
    try:
        typed = in_full(board, request.GET.get("line", "").strip())
        if field_of(typed):
            context = {"ref": typed.split()[0], "said": [ReadingPiece(read_typed(typed)), *_asked(typed)]}
        elif parts := sections(typed):
            told = [
                said for one in parts for said in live_reading(read_line(one), None, board.unit.job.meter_frequency)
            ]
            context = {"ref": f"{typed.split()[0].upper()}, {len(parts)} sections", "said": told}
        elif typed:
            line = read_line(typed)
            before = services.find_before(board, line)
            context = {
                "ref": line.ref,
                "said": live_reading(line, before.to_core() if before else None, board.unit.job.meter_frequency),
                "fixes": _nearest(typed, line),
            }
    except BadInput as error:
        context = {"complaint": error, "fixes": put_right(request.GET.get("line", ""), error)[:3]}
    return render(request, "survey/reading.html", context)


def _nearest(typed: str, line: QuickLine) -> tuple[str, ...]:
    """The line with the nearest words of a role in place of words that were not understood."""
    rest = " ".join(line.rest)
    return () if "role" in line.changes else in_its_place(typed, rest, nearest_roles(rest))


def _asked(typed: str) -> list[ReadingPiece]:
    """What is asked about a part that is no capacitor."""
    if not is_device(typed):
        return []
    part = read_device(typed)
    kept = (
        [ReadingPiece(f"not understood, saved as a note: {part.note}", "doubt")]
        if part.note and part.note not in part.marked
        else []
    )
    return [*kept, *told_of(part), *(ReadingPiece(text, "doubt") for text in doubts(part))]


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
        said = f"{many(result.added, 'line')} taken." if result.added else ""
        return page(request, pk, 422, pasted=kept, left=result.left[:SHOWN], said=said)
    return say(request, reverse("survey", args=[pk]), f"{many(result.added, 'line')} taken")


@require_POST
def load(request: HttpRequest, pk: int) -> HttpResponse:
    """A survey table in."""
    board = Board.objects.select_related("unit").get(pk=pk)
    file = request.FILES.get("file")
    try:
        if file is None:
            raise BadInput("", "a CSV file", "Choose one first.", field="file")
        result = services.load_csv(board, file.read(), good_rows="good" in request.POST)
    except BadInput as error:
        return page(request, pk, 422, load_complaint=error)
    if result.problems:
        return page(
            request, pk, 422, problems=result.problems[:SHOWN], more=max(0, len(result.problems) - SHOWN), loaded=result
        )
    return say(
        request,
        reverse("survey", args=[pk]),
        f"{many(result.added, 'part')} added, {result.changed} brought up to date",
    )


def csv_out(request: HttpRequest, pk: int) -> HttpResponse:
    """The survey as a table."""
    board = Board.objects.select_related("unit").get(pk=pk)
    others, _ = read_lines(board.others, "others", read_device)
    text = write_survey([p.to_core() for p in board.parts.all()], others)
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
    """A part put on its place, from dragging, a click or the arrow keys. Answers with the part's version."""
    part = _part(pk)
    try:
        x = read_quantity(request.POST.get("x", ""), "mm", field="x", low=-2000, high=2000)
        y = read_quantity(request.POST.get("y", ""), "mm", field="y", low=-2000, high=2000)
        side, seen = request.POST.get("side", "parts"), request.POST.get("seen", "")
        services.place(part, x, y, side=side, seen=seen)
    except BadInput as error:
        if request.htmx:
            return HttpResponse(str(error), status=422, content_type="text/plain; charset=utf-8")
        raise
    return HttpResponse(str(part.version), content_type="text/plain") if request.htmx else _back(part)


def _told(request: HttpRequest, part: Part, work: Callable[[], object], **extra: object) -> HttpResponse:
    """Do something to a part and go back to it; a refusal is told beside it."""
    try:
        work()
    except BadInput as error:
        return page(request, part.board_id, 422, ref=part.ref, note_complaint=error, **extra)
    return _back(part)


@require_POST
def turn(request: HttpRequest, pk: int) -> HttpResponse:
    part = _part(pk)
    return _told(request, part, lambda: services.turn(part, request.POST.get("seen", "")))


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    part = _part(pk)
    return _told(
        request, part, lambda: services.look(part, request.POST.get("looks", ""), request.POST.get("seen", ""))
    )


@require_POST
def override(request: HttpRequest, pk: int) -> HttpResponse:
    """A verdict by hand."""
    part, typed = _part(pk), request.POST
    return _told(
        request,
        part,
        lambda: services.override(part, typed.get("verdict", ""), typed.get("reason", ""), typed.get("seen", "")),
        reason=typed.get("reason", ""),
    )


@require_POST
def copy(request: HttpRequest, pk: int) -> HttpResponse:
    """Copies of a part along a row."""
    part = _part(pk)
    typed = f"{request.POST.get('more', '')} to {request.POST.get('to', '')}"
    return _told(request, part, lambda: services.copy(part, typed), copy_to=request.POST.get("to", ""))


@require_POST
def give(request: HttpRequest, pk: int) -> HttpResponse:
    """A part moved to another unit's board."""
    part = _part(pk)
    text = request.POST.get("to", "")
    to = (
        Board.objects.select_related("unit").filter(pk=int(text)).first()
        if re.fullmatch(r"[0-9]{1,15}", text)
        else None
    )

    def work() -> None:
        if to is None:
            raise BadInput(text, "a board of another unit", field="to")
        moving.move_part(part, to, request.POST.get("seen", ""))

    return _told(request, part, work)


@require_POST
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    """A zone, a chip or another part taken off the board; its line waits in the box."""
    board = Board.objects.select_related("unit").get(pk=pk)
    line = request.POST.get("line", "")
    drop_typed(board, line)
    words = "Taken off the list. Its line is in the box: Enter adds it again"
    return say(request, reverse("survey", args=[pk]), words, typed=line, typing=1)


@require_POST
def battery(request: HttpRequest, pk: int) -> HttpResponse:
    """A leaking battery is out."""
    board = Board.objects.select_related("unit").get(pk=pk)
    battery_out(board, request.POST.get("ref", ""))
    return redirect("intake", board.unit_id)


@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    said = undoing.undo(Board.objects.select_related("unit").get(pk=pk))
    return say(request, reverse("survey", args=[pk]), said)
