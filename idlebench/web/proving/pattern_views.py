"""Test pictures for a monitor, on black and over the whole screen."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from idlebench.core.draw.picture_signs import PATTERNS, pattern


def patterns(request: HttpRequest) -> HttpResponse:
    """A test picture; the next by its number."""
    name = request.GET.get("show", "")
    shown = pattern(name if name in PATTERNS else "crosshatch")
    return render(request, "proving/pattern.html", {"pattern": shown, "patterns": PATTERNS})
