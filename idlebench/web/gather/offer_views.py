"""A supplier's own price list: its columns matched to ours, looked at, then taken."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from idlebench.core.board.column_map import read_foreign
from idlebench.core.plan.foreign_offers import CALLED, COUNTS_FROM, EXAMPLE, PRICES, quantity_in
from idlebench.core.plan.list_words import COMMA, POINT
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import decode
from idlebench.core.wording import many

from ..records.models import ColumnMap, Supplier
from ..ui.flash_messages import say
from . import terms

#: Rows that cannot be read shown at once.
SHOWN = 40


def price_list(request: HttpRequest) -> HttpResponse:
    """A supplier's own price list."""
    context: dict[str, object] = {
        "room": "gather", "maps": dict.fromkeys(ColumnMap.objects.values_list("name", flat=True)), "suppliers": Supplier.objects.all(),
        "example": read_foreign(EXAMPLE),
    }  # fmt: skip
    if request.method != "POST":
        return render(request, "gather/price_list.html", context)
    typed, file = request.POST.dict(), request.FILES.get("file")
    data = file.read() if file else typed.get("table", "").encode()
    context["supplier"] = supplier = typed.get("supplier", "").strip()[:60]
    try:
        if not data.strip():
            raise BadInput("", "a table", "Choose a file first.", field="file")
        if terms.is_ours(data):
            return _taken(request, terms.load_offers(data))
        done = _looked(request, context, typed, data, supplier)
    except BadInput as error:
        done, context["complaint"] = None, error
    if done is not None:
        return done
    looked = context.get("preview")
    wrong = "complaint" in context or "refused" in context or (isinstance(looked, terms.Preview) and looked.wrong)
    return render(request, "gather/price_list.html", context, status=422 if wrong else 200)


def offers_csv(request: HttpRequest) -> HttpResponse:
    """All offers as a table."""
    return HttpResponse(
        terms.written_offers(), content_type="text/csv; charset=utf-8", headers={"Content-Disposition": 'attachment; filename="offers.csv"'}
    )  # fmt: skip


def _looked(
    request: HttpRequest, context: dict[str, object], typed: dict[str, str], data: bytes, supplier: str
) -> HttpResponse | None:
    """Fill in what a look at the list shows; where to go on when it was taken."""
    named = {name.removeprefix("map_"): value for name, value in typed.items() if name.startswith("map_")}
    written = terms.Written(
        typed.get("style", "") if typed.get("style") in (COMMA, POINT) else "", typed.get("rate", "").strip()
    )
    looked = terms.preview(data, named, supplier, typed.get("kept", ""), written)
    name = typed.get("name", "").strip() or typed.get("kept", "") or supplier
    chosen = looked.columns
    context |= {
        "preview": looked, "table": decode(data), "name": name, "written": written,
        "rows": [(ours, called, ours == "part", chosen.get(ours, "")) for ours, called in CALLED.items()],
        "prices": [
            (n, one, chosen.get(one, ""), at, chosen.get(at, ""), quantity_in(chosen.get(one, "")))
            for n, (one, at) in enumerate(zip(PRICES, COUNTS_FROM, strict=True), 1)
        ],
        "unread": looked.problems[:SHOWN], "unread_more": max(0, len(looked.problems) - SHOWN),
    }  # fmt: skip
    if "take" not in typed and "good" not in typed:
        return None
    name = typed.get("name", "").strip()
    loaded = terms.load_foreign(data, named, supplier, name, good_rows="good" in typed, written=written)
    if loaded.problems and "good" not in typed:
        context["refused"] = loaded
        return None
    return _taken(request, (loaded.offers, loaded.fresh), len(loaded.problems))


def _taken(request: HttpRequest, loaded: tuple[int, list[str]], left: int = 0) -> HttpResponse:
    count, fresh = loaded
    new = f". Type the terms of {', '.join(fresh)}" if fresh else ""
    out = f", {many(left, 'row')} left out" if left else ""
    return say(request, reverse("gather_shop"), f"{many(count, 'offer')} imported{out}{new}"[:900])
