"""Checks that a person adds to a board: continuity of a trace, isolation after a burn, a joint, a socket."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.own_checks import check_ends, read_own_check
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Board
from ..ui.flash_messages import say
from ..unit.door import in_unit_transaction
from ..unit.log import log
from ..unit.state import board_state, unit_state

#: Most of one board.
MOST = 100


@in_unit_transaction("No check can be added now")
def add(row: Board, text: str) -> str:
    """Add a check to a board; what it should read, in words.

    Raises:
        BadInput: it cannot be read, is there already, or names a part that is not listed. Blocked: the unit is handed over.
    """
    if reasons := interlocks.closed(unit_state(row.unit_id).proof):
        raise Blocked("No check can be added now", reasons)
    check = read_own_check(text)
    _, board = board_state(row.pk)
    listed = {p.ref for p in board.parts} | {d.ref for d in board.others} | {c.ref for c in board.chips}
    check_ends(check, listed, row.name)
    lines = row.own_checks.splitlines()
    if check.as_line() in lines:
        raise BadInput(text, f"a check that {row.name} does not have yet", field="check")
    if len(lines) >= MOST:
        raise BadInput(
            f"{len(lines)} checks", f"at most {MOST} of your own on a board", "Remove one first.", field="check"
        )
    row.own_checks = "\n".join([*lines, check.as_line()])
    row.save(update_fields=["own_checks"])
    log(row.unit, "check", f"{row.name}: check added, {check.as_line()}.")
    return f"{check.point}, {check.limit}"


@in_unit_transaction("No check can be removed now")
def drop(row: Board, line: str) -> None:
    """Take a check of one's own off a board; its readings stay in the log.

    Raises:
        BadInput: it is not there. Blocked: the unit is handed over.
    """
    if reasons := interlocks.closed(unit_state(row.unit_id).proof):
        raise Blocked("No check can be removed now", reasons)
    lines = row.own_checks.splitlines()
    if line not in lines:
        raise BadInput(line, f"a check of {row.name}", "It was removed already.", field="check")
    lines.remove(line)
    row.own_checks = "\n".join(lines)
    row.save(update_fields=["own_checks"])
    log(row.unit, "check", f"{row.name}: check removed, {line}.")


@require_POST
def own_check(request: HttpRequest, pk: int) -> HttpResponse:
    """A check added to a board, or removed; back to Cold checks."""
    from .views import cold_page

    row = Board.objects.select_related("unit").get(pk=pk)
    typed = request.POST.get("check", "")
    try:
        if "drop" in request.POST:
            drop(row, typed)
            return say(request, reverse("cold", args=[row.unit_id]), f"Removed: {typed}")
        said = add(row, typed)
    except BadInput as error:
        return cold_page(request, unit_state(row.unit_id), 422, own_typed=typed, own_board=row.pk, own_complaint=error)
    return say(request, reverse("cold", args=[row.unit_id]), f"Added on {row.name}: {said}")
