"""What every page's shell needs."""

from __future__ import annotations

from django.http import HttpRequest


def shell(request: HttpRequest) -> dict[str, object]:
    """The live session, if any unit has power, and the theme."""
    from ..records.models import PowerSession

    live = PowerSession.objects.filter(ended=None).select_related("unit__job").first()
    return {"live": live, "theme": "dark" if request.COOKIES.get("theme") == "dark" else "light"}
