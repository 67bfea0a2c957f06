"""Devices: pairing a phone, what it may do, ending it, and the instruments of this bench."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_POST

from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.text.quantity import read
from idlebench.instruments import KINDS, SWITCHED

from ..records.models import Device, Instrument, WrongCode
from ..ui.codes import code_for
from ..ui.flash_messages import say
from ..ui.local_only import from_here, this_machine_only
from . import services


def _page(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    here = from_here(request)
    context = {
        "devices": Device.objects.filter(ended=None),
        "ended": Device.objects.exclude(ended=None)[:12],
        "wrong": WrongCode.objects.all()[:8] if here else (),
        "instruments": [(row, KINDS[row.kind]) for row in Instrument.objects.all()],
        "kinds": KINDS.items(),
        "address": _address(request),
        "here": here,
        "room": "devices",
        **extra,
    }
    return render(request, "devices/devices.html", context, status=status)


def _address(request: HttpRequest) -> str:
    """How a phone reaches this machine, "" where it is not served to others."""
    return f"http://{settings.ADDRESS}:{request.get_port()}" if settings.ADDRESS else ""


def devices(request: HttpRequest) -> HttpResponse:
    """What is paired, and the instruments."""
    return _page(request)


@require_POST
@this_machine_only
def make_code(request: HttpRequest) -> HttpResponse:
    """Show a code to pair one device."""
    try:
        code = services.make_code(request.POST.get("may", Device.LOOK))
    except BadInput as error:
        return _page(request, 422, complaint=error)
    address = _address(request)
    drawn = code_for(f"{address}{reverse('pair')}?{urlencode({'t': code.token})}") if address else ""
    shown = f"{code.digits[:3]} {code.digits[3:]}"
    response = _page(request, code=shown, drawn=drawn, gives=code.row.may, until=code.row.made + services.GOOD_FOR)
    response["Cache-Control"] = "no-store"
    return response


def pair(request: HttpRequest) -> HttpResponse:
    """On the phone: a name and the code."""
    typed = {"code": services.digits_of(request.GET.get("t", "")), "name": ""}
    drawn, complaint, status = bool(typed["code"]), None, 200
    if request.method == "POST":
        typed = {"code": request.POST.get("code", "")[:20], "name": request.POST.get("name", "")[:60]}
        drawn = request.POST.get("drawn") == "1"
        try:
            services.pair(request, typed["code"], typed["name"])
            return redirect("bench")
        except BadInput as error:
            complaint, status = error.plain, 422
            drawn = drawn and error.field == "name"
        except Blocked as error:
            complaint, status = " ".join(map(str, error.reasons)), 429
    context = {"typed": typed, "drawn": drawn, "complaint": complaint, "here": from_here(request)}
    response = render(request, "devices/pair.html", context, status=status)
    response["Cache-Control"] = "no-store"
    return response


@require_POST
@this_machine_only
def change(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a device look or work, or end it."""
    device = Device.objects.get(pk=pk, ended=None)
    did = request.POST.get("do", "")
    try:
        if did == "end":
            services.end(device)
        else:
            services.allow(device, did)
    except BadInput as error:
        return _page(request, 422, complaint=error)
    return redirect("devices")


@require_POST
@this_machine_only
def instrument(request: HttpRequest) -> HttpResponse:
    """Hold another instrument."""
    typed = request.POST.dict()
    try:
        services.add_instrument(typed.get("name", ""), typed.get("address", ""), typed.get("kind", "") or "meter")
    except BadInput as error:
        return _page(request, 422, instrument_complaint=error, typed=typed)
    return redirect("devices")


def one_instrument(request: HttpRequest, pk: int) -> HttpResponse:
    """An instrument's own page: it is tried, set, switched off, taken off."""
    return _change_instrument(request, pk) if request.method == "POST" else _instrument_page(request, pk)


def _instrument_page(request: HttpRequest, pk: int, status: int = 200, **extra: object) -> HttpResponse:
    row = Instrument.objects.get(pk=pk)
    context = {
        "row": row, "kind": KINDS[row.kind], "switched": row.kind in SWITCHED, "used": USED[row.kind], "here": from_here(request),
        "room": "devices", **extra,
    }  # fmt: skip
    return render(request, "devices/instrument.html", context, status=status)


@this_machine_only
def _change_instrument(request: HttpRequest, pk: int) -> HttpResponse:
    row, did, typed = Instrument.objects.get(pk=pk), request.POST.get("do", ""), request.POST.dict()
    if did == "drop":
        services.drop_instrument(row)
        return redirect("devices")
    try:
        if did == "set":
            said = services.set_source(
                row, read(typed.get("volts", ""), "V", field="volts"), read(typed.get("limit", ""), "A", field="limit")
            )
        else:
            said = services.switch_off(row) if did == "off" else services.look_at(row)
    except BadInput as error:
        return _instrument_page(request, pk, 422, complaint=error, typed=typed)
    return say(request, reverse("instrument", args=[pk]), f"{row.name}: {said}")


_OF_A_JOB = "for jobs that use it as their meter: type its address at Intake, under Job and working methods."
#: What each kind is used for, in words.
USED = {
    "meter": f"Volts, ohms and degrees on Cold checks and First power, {_OF_A_JOB}",
    "lcr": f"Capacitance and ESR at Measure, {_OF_A_JOB}",
    "source": "Amps of a board alone, or of a supply in its adapter's place, on First power.",
    "ac": "Set before a linear supply is brought up in steps. It does not isolate.",
    "load": "Set to a rail's amps where a dummy load is asked for.",
    "scope": "Ripple of a rail, from First power, split into mains and switching ripple.",
}
