"""The door of the house: who comes from this machine walks in, every other device must be paired, and one that looks writes nothing."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from ..records.devices import ACTING
from ..records.models import Device
from ..ui.local_only import from_here
from . import services

_READS = ("GET", "HEAD", "OPTIONS")


class DoorMiddleware:
    """Stands after Django's sessions and logins. Sets request.device, None for this machine."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.device = None
        if from_here(request):
            return self._as("", request)
        if request.path == reverse("pair"):
            return self.get_response(request)
        device = services.device_of(request.user)
        if device is None:
            if request.method in _READS:
                return redirect("pair")
            why = "This device is not paired with the workshop's machine, or its pairing has ended."
            return render(request, "ui/shut_out.html", {"why": why, "pair": True}, status=403)
        request.device = device
        if device.may != Device.WORK and request.method not in _READS:
            why = f"{device.name} may only read. The workshop's machine can allow it to write, under Devices."
            return render(request, "ui/shut_out.html", {"why": why}, status=403)
        return self._as(device.name, request)

    def _as(self, name: str, request: HttpRequest) -> HttpResponse:
        token = ACTING.set(name)
        try:
            return self.get_response(request)
        finally:
            ACTING.reset(token)
