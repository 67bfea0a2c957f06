"""Drawings of Choose, each made once for what it shows."""

from __future__ import annotations

from functools import lru_cache

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe

from idlebench.core.draw.side_view import SideView

register = template.Library()


@register.simple_tag
@lru_cache(maxsize=1024)
def side_drawing(view: SideView, verdict: str, lid: float | None) -> SafeString:
    """A candidate in its place from the side. lid: room above the board, mm."""
    return mark_safe(render_to_string("choose/side.html", {"view": view, "verdict": verdict, "lid": lid}))
