"""Hand-over and the ledger."""

from __future__ import annotations

import re
from datetime import date

from django.core.paginator import Paginator
from django.db.models import Q
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_POST

from idlebench.core.faults.fifths import Fifth
from idlebench.core.faults.figures import BY
from idlebench.core.faults.trial_record import CASES, TRIALS
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Entry
from ..ui.tasks import Made, Task, begin
from ..unit.photo_pairs import photo_pairs
from ..unit.state import UnitState, unit_state
from . import figures as shop_figures
from . import known_faults, pango, services, workshop
from .narrative import head_photo, photos_of, story
from .owner_summary import plain_words
from .sheets import rail_proofs, sheet


def ledger(request: HttpRequest) -> HttpResponse:
    """Everything that was done, newest first."""
    words, kind = request.GET.get("q", "").strip()[:80], request.GET.get("kind", "")[:16]
    found = Entry.objects.select_related("unit__job")
    for word in words.split():
        asked = (
            Q(text__icontains=word)
            | Q(unit__name__iexact=word)
            | Q(unit__job__name__icontains=word)
            | Q(kind__iexact=word)
        )
        if re.fullmatch(r"\d{4}-\d\d-\d\d", word):
            asked |= Q(at__date=word) if _is_day(word) else Q(pk=None)
        found = found.filter(asked)
    if kind:
        found = found.filter(kind=kind)
    page = Paginator(found, 100).get_page(request.GET.get("page"))
    kinds = Entry.objects.order_by("kind").values_list("kind", flat=True).distinct()
    context = {
        "page": page,
        "room": "ledger",
        "q": words,
        "kind": kind,
        "kinds": kinds,
        "address": urlencode({"q": words, "kind": kind}) + "&",
    }
    return render(request, "ledger/ledger.html", context)


def _is_day(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def figures(request: HttpRequest) -> HttpResponse:
    """The shop's own figures."""
    told = shop_figures.figures()
    tables = [(name, title, told.failures[name]) for name, title in BY.items()]
    scale = max((max(u.cost, u.worth or 0.0) for u in told.units), default=1.0) or 1.0
    units = [
        (u, round(100 * u.cost / scale, 1), round(100 * u.worth / scale, 1) if u.worth else None) for u in told.units
    ]
    longest = max((one.minutes for _, one in told.minutes), default=1.0) or 1.0
    minutes = [(kind, one, round(100 * one.minutes / longest, 1)) for kind, one in told.minutes]
    suspects = [
        (trial, own, _drawn(trial), _drawn(own) if own.said else None)
        for trial, own in zip(TRIALS, told.suspects, strict=True)
    ]
    context = {
        "room": "ledger",
        "told": told,
        "tables": tables,
        "units": units,
        "minutes": minutes,
        "suspects": suspects,
    }
    return render(request, "ledger/figures.html", context | {"trial_cases": CASES})


def _drawn(one: Fifth) -> tuple[float, float, float, float]:
    """Of a fifth what is drawn, in per cent: between what the true share lies, what was right, what was said."""
    low, high = one.between
    return tuple(round(100 * share, 1) for share in (low, high, one.share_right, one.mean))


def figures_csv(request: HttpRequest, name: str) -> HttpResponse:
    """One of the tables of figures, for a spreadsheet."""
    if name not in shop_figures.FILES:
        raise Http404(name)
    return HttpResponse(
        shop_figures.as_csv(name), content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}.csv"'},
    )  # fmt: skip


def _told(state: UnitState, whole: bool = True) -> dict[str, object]:
    """What a sheet is made of. whole: with all that the next restorer wants."""
    gate = () if state.row.handed_over else interlocks.hand_over(state.closing)
    told = sheet(state, whole)
    return {"state": state, "sheet": told, "story": story(state, told, whole, not gate), "gate": gate, "whole": whole}


def handover(request: HttpRequest, pk: int) -> HttpResponse:
    """What is handed over, and what is still open."""
    if request.method == "POST":
        try:
            services.hand_over(pk, hours=request.POST.get("hours", ""))
        except BadInput as error:
            return _handover(request, pk, 422, hours_complaint=error, hours=request.POST.get("hours", ""))
        return redirect("handover", pk)
    return _handover(request, pk)


def _handover(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    # photos, waves and drawings are for the sheet
    told = _told(unit_state(pk), whole=False)
    context = {
        **told,
        "stage": "handover",
        "proofs": rail_proofs(told["sheet"].rails),
        "hours": f"{told['state'].row.hours_a_day:g}",
        "no_pdf": pango.missing(),
        "known_faults": told["sheet"].known_faults,
        "can_accept": known_faults.can_be_accepted(told["state"]),
        **extra,
    }
    return render(request, "ledger/handover.html", context, status=status)


@require_POST
def known_fault(request: HttpRequest, pk: int) -> HttpResponse:
    """A fault that the owner accepts."""
    typed = {name: request.POST.get(name, "") for name in ("fault", "accepted_by")}
    try:
        known_faults.accept_fault(pk, typed["fault"], typed["accepted_by"], request.POST.get("check", "")[:120])
    except BadInput as error:
        return _handover(request, pk, 422, fault_complaint=error, fault_typed=typed)
    return redirect(f"{reverse('handover', args=[pk])}#known-faults")


@require_POST
def known_fault_back(request: HttpRequest, pk: int) -> HttpResponse:
    known_faults.take_back(pk, _number(request.POST.get("fault", "")))
    return redirect("handover", pk)


@require_POST
def known_fault_follow(request: HttpRequest, pk: int) -> HttpResponse:
    """A job of its own for a known fault."""
    made = known_faults.follow_up(pk, _number(request.POST.get("fault", "")))
    return redirect("intake", made.pk)


def _number(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 16 else 0


@require_POST
def reopen(request: HttpRequest, pk: int) -> HttpResponse:
    """Open a handed-over unit again, with a reason."""
    try:
        services.reopen(pk, request.POST.get("reason", ""))
    except BadInput as error:
        return _handover(request, pk, 422, complaint=error, reason=request.POST.get("reason", ""))
    return redirect("handover", pk)


#: The two sheets: their template, and what their files are called.
SHEETS = {"all": ("ledger/sheet.html", "handover"), "owner": ("ledger/owner.html", "owner")}


def _of_sheet(state: UnitState, which: str) -> dict[str, object]:
    """What one of the two sheets is made of."""
    told = _told(state) if which == "all" else {**_told(state, whole=False), "plain": plain_words(state)}
    shop = workshop.workshop() if which == "owner" else None
    cost = workshop.cost_of(state) if shop and shop.costs else None
    photos = photos_of(state)
    pair = next(iter(photo_pairs(state, photos)), None) if which == "owner" else None
    return {**told, "shop": shop, "cost": cost, "pair": pair, "head_photo": None if pair else head_photo(photos)}


def sheet_html(request: HttpRequest, pk: int, which: str = "all") -> HttpResponse:
    """A sheet on its own, to print."""
    template, _ = SHEETS[which]
    state = unit_state(pk)
    return render(request, template, _of_sheet(state, which))


def sheet_pdf(request: HttpRequest, pk: int, which: str = "all") -> HttpResponse:
    """A sheet as PDF: posted, it is made beside the pages, told and stopped; asked for, it is made at once."""
    if reason := pango.missing():
        raise Blocked("No PDF here", (reason,))
    from .pdf import to_pdf

    template, named = SHEETS[which]
    state = unit_state(pk)
    told = _of_sheet(state, which)
    name = f"{named}-unit-" + "".join(c if c.isalnum() else "-" for c in state.row.name) + ".pdf"
    html = render_to_string(template, told)
    photos = (*told["story"].before, *told["story"].after)
    head = [told["head_photo"]] if told["head_photo"] else []
    head += [told["pair"].before, told["pair"].after] if told["pair"] else []
    pictures = {reverse("picture_small", args=[photo.pk]): photo.small for photo in (*photos, *head)}
    pictures |= {reverse("workshop_logo"): bytes(told["shop"].logo)} if told["shop"] and told["shop"].logo else {}
    if request.method == "POST":

        def work(task: Task) -> str:
            task.made = Made(name, "application/pdf", to_pdf(html, task.step, pictures))
            return f"The sheet of unit {state.row.name} is made, {len(task.made.data) / 1000:.0f} kB."

        return redirect("task", begin("The sheet as PDF", reverse("handover", args=[pk]), work).key)
    return HttpResponse(
        to_pdf(html, pictures=pictures),
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="{name}"'},
    )
