"""Refusals on their way out: bad input becomes 422, a shut gate 409, each with its words on a page."""

from __future__ import annotations

import re
from collections.abc import Callable
from urllib.parse import urlsplit

from django.core.exceptions import ObjectDoesNotExist, RequestDataTooBig, TooManyFieldsSent
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from idlebench.core.refusal import BadInput, Block, Blocked

from .storage_errors import is_locked, told_of


def _back(request: HttpRequest) -> str:
    """The page of this app that the request came from, else the page of what it was about; "" where neither is known."""
    came = urlsplit(request.headers.get("Referer", ""))
    if came.netloc == request.get_host() and came.path.startswith("/") and came.path != request.path:
        return came.path + (f"?{came.query}" if came.query else "")
    return _its_page(request)


def _its_page(request: HttpRequest) -> str:
    """The page of the unit or board that an address speaks of, "" where it speaks of none."""
    hit = re.match(r"/(unit|board)/([0-9]{1,15})/", request.path)
    if hit is None:
        return ""
    return reverse("unit" if hit[1] == "unit" else "survey", args=[int(hit[2])])


class RefusalMiddleware:
    """Shows refusals that no view has shown beside its field."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            response = self.get_response(request)
            if response.status_code == 405 and request.method in ("GET", "HEAD"):
                page = render(request, "ui/only_posted.html", {"way_back": _its_page(request)}, status=405)
                page["Allow"] = response.get("Allow", "POST")
                return page
            return response
        except (RequestDataTooBig, TooManyFieldsSent):
            return self._too_big(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, Blocked):
            return render(
                request,
                "ui/shut.html",
                {"title": error.title, "reasons": error.reasons, "way_back": _back(request)},
                status=409,
            )
        if isinstance(error, BadInput):
            return render(request, "ui/refused.html", {"complaint": error, "way_back": _back(request)}, status=422)
        if (page := told_of(error)) is not None:
            return page
        if is_locked(error):
            busy = Block(
                "busy",
                "Somebody else is writing to this bench just now.",
                "Nothing of yours was written: send it again.",
            )
            return render(
                request,
                "ui/shut.html",
                {"title": "Not written", "reasons": (busy,), "way_back": _back(request)},
                status=409,
            )
        if isinstance(error, ObjectDoesNotExist):
            return render(request, "ui/missing.html", status=404)
        if isinstance(error, (RequestDataTooBig, TooManyFieldsSent)):
            return self._too_big(request)
        return None

    @staticmethod
    def _too_big(request: HttpRequest) -> HttpResponse:
        complaint = BadInput(
            "more than 12 MB",
            "at most 8 MB in a file and 1000 fields in a form",
            "Split the table and send the parts.",
            field="file",
        )
        return render(request, "ui/refused.html", {"complaint": complaint}, status=413)


class HeadMiddleware:
    """Answers HEAD with the headers alone: the server in front sends what it is given, and a body after them would be taken for
    the beginning of the next answer on that connection."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if request.method == "HEAD":
            if response.streaming:
                response.streaming_content = []
            else:
                response.headers.setdefault("Content-Length", str(len(response.content)))
                response.content = b""
        return response
