"""A moment in which nobody else is served: while a backup takes the place of the bench."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.http import HttpRequest, HttpResponse

from .storage_errors import storage_error

#: How long requests that are under way are waited for, s.
PATIENCE = 20.0
_changed = threading.Condition()
_state = {"inside": 0, "alone": False}
_mine = threading.local()


@contextmanager
def alone() -> Iterator[None]:
    """Run with no request being answered but one's own; those that come meanwhile are told to come again."""
    with _changed:
        _state["alone"] = True
        _changed.wait_for(lambda: _state["inside"] <= getattr(_mine, "inside", 0), PATIENCE)
    try:
        yield
    finally:
        with _changed:
            _state["alone"] = False


class QuietMiddleware:
    """Counts who is inside, and lets nobody in while somebody must be alone."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        with _changed:
            shut = _state["alone"]
            if not shut:
                _state["inside"] += 1
        if shut:
            return storage_error(
                503,
                "One moment",
                "A backup is being restored.",
                "Nothing of yours was written: send it again in a moment.",
            )
        _mine.inside = 1
        try:
            return self.get_response(request)
        finally:
            _mine.inside = 0
            with _changed:
                _state["inside"] -= 1
                _changed.notify_all()
