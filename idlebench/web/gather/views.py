"""Gather: the list, as a page and as a table; pieces counted in."""

from __future__ import annotations

import csv
import io

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import disarmed
from idlebench.core.text.quantity import read, show

from ..records.models import Bag
from ..ui.codes import code_for
from ..unit.state import board_state, unit_state
from ..unit.stock import count_in
from . import bags, services


def gather(request: HttpRequest, pk: int) -> HttpResponse:
    """What the open places need: on the shelf, and to buy."""
    state = unit_state(pk)
    lines, devices = services.gathering(state), services.device_lines(state)
    context = {
        "state": state,
        "stage": "gather",
        "lines": lines,
        "to_buy": sorted(
            (line for line in lines if line.buy), key=lambda line: line.item.supplier if line.item else ""
        ),
        "lying": [line for line in lines if not line.buy],
        "devices": devices,
        "kinds": len(lines) + len(devices),
        "total": sum(line.price for line in (*lines, *devices)),
        "unpriced": sum(line.buy > 0 and not line.price for line in (*lines, *devices)),
        "pieces": sum(line.needed for line in (*lines, *devices)),
        "short": sum(line.buy > 0 for line in (*lines, *devices)),
    }
    return render(request, "gather/gather.html", context)


def gather_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The gathering list as a table."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["part", "value", "volts", "needed", "on_shelf", "buy", "price", "supplier", "places"])
    state = unit_state(pk)
    rows = []
    for line in services.gathering(state):
        item = line.item
        value, volts, supplier = (show(item.value, "F"), item.rated, item.supplier) if item else ("", "", "")
        rows.append([line.name, value, volts, line.needed, line.stock, line.buy, _cost(line), supplier, line.refs])
    for line in services.device_lines(state):
        rows.append([line.name, line.marked, "", line.needed, line.stock, line.buy, _cost(line), "", line.refs])
    for row in rows:
        cells = (f"{cell:.2f}" if isinstance(cell, float) else cell for cell in row)
        writer.writerow([disarmed(cell) if isinstance(cell, str) else cell for cell in cells])
    return HttpResponse(
        out.getvalue(),
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="gather.csv"'},
    )


def _cost(line: services.GatherLine | services.DeviceLine) -> float | str:
    """What a line costs, €; empty where nobody says a price."""
    return "" if line.buy and not line.price else line.price


@require_POST
def arrived(request: HttpRequest, pk: int) -> HttpResponse:
    """Count pieces that came onto the shelf."""
    pieces = read(request.POST.get("pieces", ""), "", field="pieces", low=1, high=10_000)
    count_in(request.POST.get("part", ""), int(pieces))
    return redirect("gather", pk)


def bag(request: HttpRequest, pk: int, complaint: BadInput | None = None) -> HttpResponse:
    """The bag of a board: its label, and what of it is checked off; or what would go into it."""
    state, board = board_state(pk)
    row = Bag.objects.filter(board=pk).first()
    contents = row.to_core() if row else ()
    lines, lacking = bags.against(board, contents)
    context = {
        "state": state, "board": board, "stage": "gather", "bag": row, "pockets": contents, "lacking": lacking,
        "left": sum(not line.done for line in lines), "odd": [line.odd for line in lines if line.odd],
        "done": {line.ref for line in lines if line.done}, "ready": bags.ready(pk), "complaint": complaint,
        "code": code_for(request.build_absolute_uri(reverse("bag", args=[pk]))),
    }  # fmt: skip
    return render(request, "gather/bag.html", context, status=422 if complaint else 200)


@require_POST
def bag_it(request: HttpRequest, pk: int) -> HttpResponse:
    try:
        bags.bag(pk)
    except BadInput as error:
        return bag(request, pk, error)
    return redirect("bag", pk)
