"""Parts that are no capacitors on Survey: their rows, their panel, and their place on the board."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from idlebench.core.board.device_lines import doubts
from idlebench.core.board.device_readings import QUANTITIES
from idlebench.core.board.devices import Device
from idlebench.core.judge.device_limits import sound_readings
from idlebench.core.judge.device_verdict import judge_device
from idlebench.core.judge.live_reading import ReadingPiece
from idlebench.core.judge.verdict import DOUBTFUL, REPLACE
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read

from ..records.models import Board
from ..unit.parts import BoardState, DeviceState
from ..unit.picture import device_rows
from .typed import add_typed


def listed_devices(board: BoardState) -> tuple[DeviceState, ...]:
    """The parts of a board that are no capacitors and no chips, with windings, in the order they are listed."""
    states = {d.ref: d for d in board.devices}
    return tuple(states.get(one.ref) or DeviceState(one) for one in board.others)


def device_panel(board: BoardState, device: DeviceState | None, correcting: bool) -> dict[str, object]:
    """What the Survey page shows of such parts: their rows, and the panel of the one in hand."""
    here = listed_devices(board)
    context: dict[str, object] = {"device_rows": device_rows(here, device), "device_count": len(here)}
    if device is None:
        return context
    part = device.device
    limits = [(QUANTITIES[one.what].title, one.text, one.why) for one in sound_readings(part)]
    return {
        **context,
        "device": device,
        "limits": limits,
        "asked_of": doubts(part),
        "device_line": next((line for line in board.row.others.splitlines() if line.split()[:1] == [part.ref]), ""),
        "device_correct": correcting,
    }


def told_of(part: Device) -> list[ReadingPiece]:
    """What a line told of what was measured and seen, with how it is judged, for the row under it."""
    if not part.reads and part.looks in ("", "sound"):
        return []
    verdict = judge_device(part)
    tone = "bad" if verdict.name in (REPLACE, DOUBTFUL) else "plain"
    return [ReadingPiece(f"{verdict.shown}: {verdict.leading}" if verdict.leading else verdict.shown, tone)]


@require_POST
def place(request: HttpRequest, pk: int, ref: str) -> HttpResponse:
    """Such a part put on its place, from dragging; answers with nothing to keep, for its line has no version."""
    board = Board.objects.select_related("unit").get(pk=pk)
    try:
        x = read(request.POST.get("x", ""), "mm", field="x", low=-2000, high=2000)
        y = read(request.POST.get("y", ""), "mm", field="y", low=-2000, high=2000)
        if request.POST.get("side") == "solder":
            # the picture is seen from the other side
            x = board.width - x
        if not any(line.split()[:1] == [ref.upper()] for line in board.others.splitlines()):
            raise BadInput(ref, f"a part that is listed on {board.name}", field="ref")
        add_typed(board, f"{ref.upper()} at {x:.5g},{y:.5g}")
    except BadInput as error:
        return HttpResponse(str(error), status=422, content_type="text/plain; charset=utf-8")
    return HttpResponse("", content_type="text/plain")
