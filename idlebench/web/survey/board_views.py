"""Nets and board profiles, in and out."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.profile import write_profile
from idlebench.core.refusal import BadInput
from idlebench.core.text.nets import Nets
from idlebench.core.wording import many

from ..records.models import Board
from ..ui.flash_messages import say
from . import profiles, services
from .views import SHOWN, page


@require_POST
def nets(request: HttpRequest, pk: int) -> HttpResponse:
    """A netlist in."""
    board = Board.objects.select_related("unit").get(pk=pk)
    file = request.FILES.get("file")
    try:
        if file is None:
            raise BadInput("", "a netlist", "Choose one first.", field="file")
        result = services.load_nets(board, file.read(), good_rows="good" in request.POST)
    except BadInput as error:
        return page(request, pk, 422, load_complaint=error)
    if isinstance(result, Nets):
        shown, rows = result.problems[:SHOWN], {"rows": len(result.nodes)}
        return page(request, pk, 422, problems=shown, more=max(0, len(result.problems) - SHOWN), loaded=rows)
    return say(request, reverse("survey", args=[pk]), ", ".join(result))


def profile(request: HttpRequest, pk: int) -> HttpResponse:
    """The profile of a board: fetched as a file, or saved, taken in and applied."""
    board = Board.objects.select_related("unit").get(pk=pk)
    if request.method != "POST":
        found = profiles.profile_for(board) or profiles.profile_of(board)
        name = "".join(c if c.isalnum() or c in "-_" else "-" for c in f"profile-{board.name}")
        return HttpResponse(
            write_profile(found),
            content_type="application/json; charset=utf-8",
            headers={"Content-Disposition": f'attachment; filename="{name}.json"'},
        )
    try:
        said = _profile_step(request, board)
    except BadInput as error:
        return page(request, pk, 422, profile_complaint=error)
    return say(request, reverse("survey", args=[pk]), said)


def _profile_step(request: HttpRequest, board: Board) -> str:
    did = request.POST.get("do", "")
    if did == "save":
        profiles.save_profile(board)
        return f"Saved as the profile of {board.name}"
    if did == "apply":
        return f"{many(profiles.apply_profile(board), 'part')} listed from the profile: check each part"
    file = request.FILES.get("file")
    if did != "take" or file is None:
        raise BadInput(did, "save, apply, or a profile file to import", "Choose a file first.", field="profile")
    profiles.take_profile(board, file.read())
    return f"Profile of {board.name} imported"
