"""Who sits at this machine, and what only they may do."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from ipaddress import ip_address

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

View = Callable[..., HttpResponse]
#: Headers of a request that was handed on.
HANDED_ON = ("HTTP_X_FORWARDED_FOR", "HTTP_X_REAL_IP", "HTTP_FORWARDED", "HTTP_VIA")


def from_here(request: HttpRequest) -> bool:
    """Whether a request comes from this machine itself, and not by way of a program on it that hands on what others send."""
    if any(name in request.META for name in HANDED_ON):
        return False
    try:
        return ip_address(request.META.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False


def this_machine_only(view: View) -> View:
    """A view for who sits at this machine."""

    @wraps(view)
    def run(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        if not from_here(request):
            why = "This is done on the workshop's own machine only: pairing, restoring, and naming instruments."
            return render(request, "ui/shut_out.html", {"why": why}, status=403)
        return view(request, *args, **kwargs)

    return run
