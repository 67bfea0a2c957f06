"""Taking the demo in."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from .demo import load_demo


@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Load the demo onto an empty bench."""
    load_demo()
    return redirect("bench")
