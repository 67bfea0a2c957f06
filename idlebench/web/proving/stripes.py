"""The stripe finder: a stripe of the picture, its data line, the nets that carry it, each way of them end to end, and the mend."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.board.mends import Mend, read_end
from idlebench.core.faults.outcome import voided
from idlebench.core.faults.stripe import WHOLE, NetConnection, data_nets, offset_of, stripe, ways
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import read

from ..records.models import Clue
from ..unit.parts import BoardState
from ..unit.picture import board_picture
from ..unit.rows import board_id
from ..unit.state import UnitState, board_state
from . import clue_keeping

#: A photo is this wide for its marks.
MEASURE = 1000
#: What is kept of a page in its address.
ASKED = ("width", "order", "offset", "photo", "left", "right", "at", "across")
#: What stands in the fields before anything is typed.
USUAL = {"width": "8", "order": "msb", "offset": "", "across": "640"}


@dataclass(frozen=True)
class Tested:
    """A way with what it read. shown: "" where nobody read it; mend: the line that mends it, "" where it is whole."""

    way: NetConnection
    shown: str
    state: str
    mend: str


def stripes(request: HttpRequest, pk: int) -> HttpResponse:
    """The stripe finder of a board."""
    state, board = board_state(pk)
    return _page(request, state, board, request.GET)


def _page(
    request: HttpRequest, state: UnitState, board: BoardState, asked: QueryDict, status: int = 200, **extra: object
) -> HttpResponse:
    photos = list(state.row.photos.filter(removed=None))
    photo = next((p for p in photos if str(p.pk) == asked.get("photo", "")), None)
    context: dict[str, object] = {
        "state": state, "board": board, "stage": "", "on_suspects": True, "photos": photos, "photo": photo,
        "tall": MEASURE * photo.height / photo.width if photo else 0, "measure": MEASURE, "widths": ("4", "8", "16", "32", "64"),
        "marks": [(name, title, asked.get(name, usual)) for name, title, usual in _marks()],
        "typed": {key: asked.get(key, usual) for key, usual in USUAL.items()},
        "kept": [(key, asked[key]) for key in ASKED if key in asked], **extra,
    }  # fmt: skip
    try:
        if photo is not None and "at" in asked:
            offset = offset_of(*(_number(asked, key) for key in ("left", "right", "at")), int(_number(asked, "across")))
            context["counted"] = offset
        else:
            offset = int(_number(asked, "offset")) if asked.get("offset", "").strip() else None
        if offset is not None:
            context |= _found(state, board, int(_number(asked, "width", "8")), asked.get("order", "msb"), offset)
    except BadInput as error:
        context["complaint"], status = extra.get("complaint") or error, 422
    return render(request, "proving/stripes.html", context, status=status)


def _marks() -> tuple[tuple[str, str, str], ...]:
    return (
        ("left", "left edge of the picture", "100"),
        ("at", "the stripe", "500"),
        ("right", "right edge of the picture", "900"),
    )


def _number(asked: QueryDict, key: str, usual: str = "") -> float:
    value = read(asked.get(key, usual), "", field=key, low=0, high=100_000)
    if key in ("across", "width", "offset") and value != int(value):
        raise BadInput(asked[key], "a whole number", field=key)
    return value


def _found(state: UnitState, board: BoardState, width: int, order: str, offset: int) -> dict[str, object]:
    """The data line of a stripe, the ways of its nets, and where they run."""
    working = stripe(width, order, offset)
    bit = int(working.values["bit"])
    names = data_nets(bit, board.nets)
    last = _last(state, board)
    tested = [_tested(way, last.get(way.words, "")) for name in names for way in ways(name, board.nets)]
    joins = [Mend(damage="trace", a=read_end(one.way.a), b=read_end(one.way.b), note=one.way.net) for one in tested]
    picture = {"where": board, **board_picture(board, joins=joins)} if joins else {}
    return {
        "working": working,
        "bit": bit,
        "names": names,
        "tested": tested,
        "picture": picture,
        "following": next((one for one in tested if not one.shown), None),
        "open": [one for one in tested if one.mend],
    }


def _last(state: UnitState, board: BoardState) -> dict[str, str]:
    """What each way read last, while nothing was changed on the board since."""
    record, found = state.proof.record, {}
    for row in Clue.objects.filter(board=board.row.pk, kind=Clue.NET, dropped=None):
        # OL is one word, a number and its unit are two
        words, *shown = row.text.rsplit(maxsplit=1 if row.text.endswith(" OL") else 2)
        if not voided(record, row.at.timestamp(), board_id(board.row.pk)):
            found[words] = " ".join(shown)
    return found


def _tested(way: NetConnection, shown: str) -> Tested:
    if not shown:
        return Tested(way, "", "not yet", "")
    ohms = math.inf if shown == "OL" else read(shown, "Ω", field="ohms", low=0, high=1e12)
    whole = ohms <= WHOLE
    return Tested(way, shown, "passed" if whole else "failed", "" if whole else way.mend(ohms))


@require_POST
def read_way(request: HttpRequest, pk: int) -> HttpResponse:
    """What a way read."""
    asked = QueryDict(mutable=True)
    asked.update({key: request.POST[key] for key in ASKED if key in request.POST})
    named = re.fullmatch(r"(.{1,40}): (\S{1,12} \S{1,8}) to (\S{1,12} \S{1,8})", request.POST.get("way", ""))
    try:
        if named is None:
            raise BadInput(request.POST.get("way", "")[:80], "a way of a net", "Load the page again.", field="way")
        clue_keeping.keep_way(pk, NetConnection(*named.groups()), request.POST.get("ohms", ""))
    except BadInput as error:
        state, board = board_state(pk)
        return _page(request, state, board, asked, 422, complaint=error)
    return redirect(f"{reverse('stripes', args=[pk])}?{urlencode(asked.dict())}#ways")
