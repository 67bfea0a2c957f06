"""Refusals on their way out: bad input becomes 422, a shut gate 409, each with its words on a page."""

from __future__ import annotations

from collections.abc import Callable

from django.core.exceptions import ObjectDoesNotExist, RequestDataTooBig, TooManyFieldsSent
from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from idlebench.core.refusal import BadInput, GateShut, Shut


class RefusalMiddleware:
    """Shows refusals that no view has shown beside its field."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            return self.get_response(request)
        except (RequestDataTooBig, TooManyFieldsSent):
            return self._too_big(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, GateShut):
            return render(request, "ui/shut.html", {"title": error.title, "reasons": error.reasons}, status=409)
        if isinstance(error, BadInput):
            return render(request, "ui/refused.html", {"complaint": error}, status=422)
        if isinstance(error, OperationalError) and "locked" in str(error):
            busy = Shut(
                "busy",
                "Somebody else is writing to this bench just now.",
                "Nothing of yours was written: send it again.",
            )
            return render(request, "ui/shut.html", {"title": "Not written", "reasons": (busy,)}, status=409)
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
            "file",
        )
        return render(request, "ui/refused.html", {"complaint": complaint}, status=413)
