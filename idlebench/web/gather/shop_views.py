"""Gather for the whole shop: the plan, orders, what comes, who waits."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping

from django.db.models import Count
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from idlebench.core.plan.buy import AIMS
from idlebench.core.plan.orders import SHELF
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import disarmed
from idlebench.core.text.quantity import read
from idlebench.core.wording import listed, many

from ..records.kept_plans import AimPlan
from ..records.models import GatherStep, OfferOut, Order, Part, SupplierOffer
from ..ui.flash_messages import say
from ..ui.tasks import Task, begin
from ..unit.fits import ranking_for
from ..unit.state import unit_state
from ..unit.wanted import Stock, places, waiting
from . import ordering, planning, terms

#: Orders, waiting parts and stand-ins shown at once.
ORDERS, WAITING, STAND_INS = 20, 60, 5
#: What each aim is called.
TITLES = {"cost": "Least cost", "parcels": "Fewest parcels", "soonest": "Here soonest"}


def shop(request: HttpRequest) -> HttpResponse:
    """What is to be bought for all jobs, what is on its way, and who waits."""
    return _page(request)


def _page(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    wanted = places()
    plan = planning.newest()
    stock = planning.stock_for(wanted, plan.kept if plan else None)
    current = plan is not None and plan.stamp == planning.stamp(wanted, stock)
    aim = request.GET.get("aim", "")
    if plan is not None and aim not in AIMS:
        aim = plan.kept.chosen or "cost"
    kept = plan.kept if plan else None
    found = kept.aims[aim] if kept else None
    lines = waiting(wanted, stock)
    orders = list(Order.objects.order_by("closed", "-id").prefetch_related("lines")[: 2 * ORDERS])
    without = [line for line in lines if line.without]
    out = list(OfferOut.objects.all())
    not_coming = {one.part for one in out}
    ordered, chosen = (kept.ordered, kept.chosen) if kept else ((), "")
    left = found.next_parcel(ordered) if current and found else None
    parcel = left.supplier if left and chosen in ("", aim) else ""
    coming = [line for order in orders if not order.closed for line in order.lines.all() if line.open]
    context = {
        "room": "gather", "plan": plan, "kept": kept, "current": current, "aim": aim, "found": found,
        "aims": _aims(kept.aims, aim) if kept else [],
        "saved": found.saved if found else None,
        "to_pay": found.goods + found.postage if found else 0.0,
        # what a plan of now still buys is looked after
        "covered": left is not None,
        # what will not come stays in sight until something stands in for it
        "short": [line for line in without if line.part in not_coming] if left else without[:WAITING],
        "out": out,
        "gap": 100 * (found.gap or 0) if found else 0,
        "ordered": ordered, "chosen": chosen,
        # the parcel to be ordered next, else what comes next, else a plan
        "parcel": parcel, "coming": coming[0] if coming and current and not parcel else None,
        "here": [p for p in found.places if p.source == SHELF] if found else [],
        "orders": [order for order in orders if not order.closed],
        "given": GatherStep.objects.exists(),
        "past": [order for order in orders if order.closed],
        "wanted": len(wanted), "jobs": len({p.job for p in wanted}), "without": without,
        "without_more": 0 if left else max(0, len(without) - WAITING), "later": [line for line in lines if line.later][:WAITING],
        "suppliers": _suppliers(stock, found),
        "typed": terms.terms_typed(request.GET.get("terms", "")),
        **extra,
    }  # fmt: skip
    return render(request, "gather/shop.html", context, status=status)


def _aims(found: Mapping[str, AimPlan], chosen: str) -> list[dict[str, object]]:
    """The plans beside each other: what each costs, and how much more than the cheapest."""
    least = found["cost"].total
    return [
        {
            "aim": aim, "title": TITLES[aim], "total": found[aim].total, "more": round(found[aim].total - least, 2),
            "unpriced": len(found[aim].unpriced), "parcels": len(found[aim].orders), "days": found[aim].days, "here": aim == chosen,
        }
        for aim in AIMS
    ]  # fmt: skip


def _suppliers(stock: Stock, found: AimPlan | None) -> list[dict[str, object]]:
    """All suppliers with their terms; those of the plan whose terms nobody has said, too."""
    named = [order.supplier for order in found.orders] if found else []
    counts = dict(SupplierOffer.objects.order_by().values_list("supplier__name").annotate(Count("pk")))
    told = [{"name": name, "row": stock.terms[name], "offers": counts.get(name, 0)} for name in sorted(stock.said)]
    return told + [{"name": name, "row": None} for name in dict.fromkeys(named) if name not in stock.said]


@require_POST
def plan(request: HttpRequest) -> HttpResponse:
    """Plan anew, beside the pages."""
    spares = "spares" in request.POST

    def work(task: Task) -> str:
        made = planning.make(spares, task.step)
        return planning.told(made.kept)

    return redirect("task", begin("A buying plan", reverse("gather_shop"), work).key)


@require_POST
def order(request: HttpRequest) -> HttpResponse:
    """Order a parcel of the plan."""
    made = ordering.order(request.POST.get("supplier", ""), request.POST.get("aim", ""))
    return say(request, reverse("gather_shop"), f"Ordered from {made.supplier}: {many(made.lines.count(), 'line')}")


@require_POST
def arrived(request: HttpRequest) -> HttpResponse:
    """Count pieces of an order in."""
    try:
        pieces = read(request.POST.get("pieces", ""), "", field="pieces", low=1, high=100_000)
        if pieces != int(pieces):
            raise BadInput(request.POST.get("pieces", ""), "whole pieces", field="pieces")
        row = ordering.arrived(_number(request.POST.get("line", "")), int(pieces))
    except BadInput as error:
        return _page(request, 422, complaint=error, complaint_line=request.POST.get("line", ""))
    left = f", {row.open} still on order" if row.open else ""
    return say(request, reverse("gather_shop"), f"{pieces:g} of {row.part} counted in{left}")


@require_POST
def no_more(request: HttpRequest) -> HttpResponse:
    """Say that no more of a line will come."""
    row = ordering.no_more(_number(request.POST.get("line", "")))
    return say(
        request, reverse("gather_shop"), f"No more of {row.part} is expected: {row.arrived} of {row.quantity} received"
    )


@require_POST
def put_back(request: HttpRequest) -> HttpResponse:
    """Let an offer count again that was taken out."""
    row = ordering.put_back(_number(request.POST.get("offer", "")))
    return say(
        request,
        reverse("gather_shop"),
        f"{row.part} from {row.supplier} can be ordered again. Plan again to use the offer",
    )


@require_POST
def give(request: HttpRequest) -> HttpResponse:
    """Let a unit come first for a part."""
    part = request.POST.get("part", "")
    lost = ordering.give(part, _number(request.POST.get("unit", "")))
    return say(
        request, reverse("gather_shop"), f"{part} is given to the other unit. Without a part now: {listed(lost)}"[:900]
    )


@require_POST
def undo(request: HttpRequest) -> HttpResponse:
    """Take the last step back."""
    return say(request, reverse("gather_shop"), ordering.take_back())


def instead(request: HttpRequest, pk: int) -> HttpResponse:
    """What lies here and could stand in for a place, ranked; posted, one of them is taken."""
    if request.method == "POST":
        name = request.POST.get("item", "")
        ordering.stand_in(pk, name)
        return say(request, reverse("gather_shop"), f"{name} is used instead")
    part = Part.objects.select_related("board").filter(pk=pk).first()
    if part is None:
        raise BadInput(str(pk), "a place that waits for a part", "Load the page again.", field="place")
    state = unit_state(part.board.unit_id)
    place = state.board(part.board_id).find(part.ref)
    good = [c for c in ranking_for(state, place, fits=200, refused=0).candidates if c.part.stock]
    free = ordering.free_pieces([c.part.part for c in good])
    found = [(c, free[c.part.part]) for c in good if free[c.part.part]][:STAND_INS]
    return render(request, "gather/instead.html", {"place": place, "part": part, "found": found, "room": "gather"})


@require_POST
def supplier(request: HttpRequest) -> HttpResponse:
    """Say a supplier's terms."""
    try:
        row = terms.say_terms(request.POST)
    except BadInput as error:
        return _page(request, 422, terms_complaint=error, typed=request.POST)
    return say(request, reverse("gather_shop"), f"Terms of {row.name} saved: plan again to use them")


@require_POST
def supplier_delete(request: HttpRequest) -> HttpResponse:
    """Delete a supplier with its terms and offers."""
    name = request.POST.get("supplier", "")
    offers = terms.delete_terms(name)
    return say(request, reverse("gather_shop"), f"Supplier {name} deleted, with {many(offers, 'offer')}")


def plan_text(request: HttpRequest) -> HttpResponse:
    """A parcel, or all of them, as lines to paste into a mail or a basket: part, quantity."""
    plan, _ = planning.latest()
    found = plan.kept.aims.get(request.GET.get("aim", "cost")) if plan else None
    only = request.GET.get("supplier", "")
    parcels = [parcel for parcel in found.orders if only in ("", parcel.supplier)] if found else []
    told = ["\n".join(f"{line.part}, {line.quantity}" for line in parcel.lines) for parcel in parcels]
    if not only:
        told = [f"From {parcel.supplier}\n{lines}" for parcel, lines in zip(parcels, told, strict=True)]
    return HttpResponse("\n\n".join(told) + "\n", content_type="text/plain; charset=utf-8")


def plan_csv(request: HttpRequest) -> HttpResponse:
    """The plan as a table, by supplier."""
    plan, _ = planning.latest()
    aim = request.GET.get("aim", "cost")
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["supplier", "part", "quantity", "price", "cost", "places"])
    found = plan.kept.aims.get(aim) if plan else None
    for parcel in found.orders if found else ():
        for line in parcel.lines:
            places = [
                f"job {p.job}: {p.ref}" for p in found.places if (p.part, p.source) == (line.part, parcel.supplier)
            ]
            cells = (
                parcel.supplier,
                line.part,
                line.quantity,
                "" if line.price is None else f"{line.price:.4f}",
                "" if line.cost is None else f"{line.cost:.2f}",
                "; ".join(places),
            )
            writer.writerow([disarmed(cell) if isinstance(cell, str) else cell for cell in cells])
    return HttpResponse(
        out.getvalue(), content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="buy-{aim if aim in AIMS else "cost"}.csv"'},
    )  # fmt: skip


def _number(text: str) -> int:
    """The number of a row, as a form carries it.

    Raises:
        BadInput: it is none.
    """
    if not text.isascii() or not text.isdigit() or len(text) > 15:
        raise BadInput(text, "a line of an order", "Load the page again.", field="line")
    return int(text)
