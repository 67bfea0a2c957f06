"""Photos of a unit, and squaring one up under a board."""

from __future__ import annotations

from pathlib import Path

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.parts import SIDES
from idlebench.core.board.square_up import corner_marks
from idlebench.core.refusal import BadInput

from ..records.models import Board, Photo, Unit
from ..ui.flash_messages import say
from ..unit.photo_pairs import photo_pairs
from ..unit.state import board_state, unit_state
from . import forms, services
from .pictures import MOST_BYTES

#: Most photos of one upload.
MOST = 20


def _page(request: HttpRequest, pk: int, **extra: object) -> HttpResponse:
    state = unit_state(pk)
    found = list(state.row.photos.select_related("unit", "board", "part__board", "step"))
    context = {
        "state": state,
        "stage": "intake",
        "photos": [p for p in found if not p.removed],
        "pairs": photo_pairs(state, [p for p in found if not p.removed]),
        "away": [p for p in found if p.removed],
        "steps": state.row.dismantling.all(),
        "typed": request.POST.dict(),
        **extra,
    }
    return render(request, "photos/photos.html", context, status=422 if extra.get("complaint") else 200)


def photos(request: HttpRequest, pk: int) -> HttpResponse:
    """The photos of a unit; posted ones are taken in."""
    if request.method != "POST":
        return _page(request, pk)
    unit = Unit.objects.get(pk=pk)
    files = request.FILES.getlist("photo")
    try:
        if not files:
            raise BadInput("", "a photo", "Choose one, or drop it on the page.", field="photo")
        if len(files) > MOST:
            raise BadInput(f"{len(files)} photos", f"at most {MOST} at once", field="photo")
        said, about = [], forms.read_photo(unit, request.POST.dict())
        for file in files:
            _, left_out = services.take_photo(unit, file.read(MOST_BYTES + 1), file.name or "", *about)
            said += left_out
    except BadInput as error:
        return _page(request, pk, complaint=error)
    text = f"{len(files)} taken" + (f", without {', '.join(dict.fromkeys(said))}" if said else "")
    back = request.POST.get("back", "")
    if back.startswith("/board/"):
        return redirect(back)
    if back == "dismantling":
        return redirect("dismantling", pk)
    return say(request, reverse("photos", args=[pk]), text)


@require_POST
def change(request: HttpRequest, pk: int) -> HttpResponse:
    photo = Photo.objects.select_related("unit").get(pk=pk)
    try:
        services.change_photo(photo, *forms.read_photo(photo.unit, request.POST.dict()))
    except BadInput as error:
        return _page(request, photo.unit_id, complaint=error)
    return redirect("photos", photo.unit_id)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    photo = Photo.objects.select_related("unit", "board", "part__board", "step").get(pk=pk)
    services.remove(photo)
    return redirect("photos", photo.unit_id)


def _jpeg(path: Path) -> FileResponse:
    try:
        return FileResponse(
            path.open("rb"), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=600"}
        )
    except FileNotFoundError:
        raise Http404 from None


def picture(request: HttpRequest, pk: int) -> HttpResponse:
    return _jpeg(Photo.objects.get(pk=pk).path)


def small(request: HttpRequest, pk: int) -> HttpResponse:
    return _jpeg(Photo.objects.get(pk=pk).small)


def _side(request: HttpRequest) -> str:
    side = request.POST.get("side") or request.GET.get("side") or "parts"
    if side not in SIDES:
        raise BadInput(side, f"one of {', '.join(SIDES)}", field="side")
    return side


def flat(request: HttpRequest, pk: int) -> HttpResponse:
    """The squared-up photo of a side."""
    return _jpeg(Board.objects.get(pk=pk).underlays.get(side=_side(request)).path)


@require_POST
def take_away(request: HttpRequest, pk: int) -> HttpResponse:
    side = _side(request)
    services.take_away(Board.objects.get(pk=pk).underlays.select_related("board__unit").get(side=side))
    return redirect(f"{reverse('survey', args=[pk])}?side={side}")


def square(request: HttpRequest, pk: int) -> HttpResponse:
    """Mark four points in a photo, and the same on the board."""
    state, board = board_state(pk)
    side = _side(request)
    choice = state.row.photos.filter(removed=None)
    old = board.row.underlays.filter(side=side).first()
    wanted = request.POST.get("photo") or request.GET.get("photo") or ""
    photo = (
        choice.filter(pk=int(wanted)).first() if wanted.isascii() and wanted.isdecimal() and len(wanted) < 16 else None
    )
    photo = photo or (old.photo if old else None) or choice.filter(board=board.row).first() or choice.first()
    width, height = board.row.width, board.row.height
    typed, complaint = {}, None
    if request.method == "POST":
        typed = request.POST.dict()
        try:
            if photo is None:
                raise BadInput("", "a photo of this unit", "Import a photo first.", field="photo")
            services.lay_under(
                board.row,
                side,
                photo,
                forms.read_points(typed.get("pixels", "")),
                forms.read_points(typed.get("millimetres", "")),
            )
            return say(request, reverse("survey", args=[pk]), "Photo squared up", side=side)
        except BadInput as error:
            complaint = error
    same = old is not None and photo is not None and old.photo_id == photo.pk
    context = {
        "state": state,
        "board": board,
        "stage": "survey",
        "side": side,
        "photo": photo,
        "choice": choice,
        "complaint": complaint,
        "board_underlay": old,
        **corner_marks(photo.width if photo else 0),
        "pixels": typed.get("pixels") or _points(old.pixels if same else _corners(photo)),
        "millimetres": typed.get("millimetres")
        or _points(old.millimetres if same else [(0, 0), (width, 0), (width, height), (0, height)]),
    }
    return render(request, "photos/square.html", context, status=422 if complaint else 200)


def _corners(photo: Photo | None) -> list[tuple[float, float]]:
    """Where the four handles wait before they are moved: a tenth inside the photo."""
    if photo is None:
        return []
    left, top, right, bottom = photo.width * 0.1, photo.height * 0.1, photo.width * 0.9, photo.height * 0.9
    return [(left, top), (right, top), (right, bottom), (left, bottom)]


def _points(points: list) -> str:
    return " ".join(f"{x:.5g},{y:.5g}" for x, y in points)
