"""Views that are loaded when somebody first asks for one of them: the first page must not wait for what all others need."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module

from django.http import HttpRequest, HttpResponse

_all: list[str] = []


class LazyViews:
    """The views of a module, by their names, for a list of addresses."""

    def __init__(self, module: str) -> None:
        self._module = module
        _all.append(module)

    def __getattr__(self, name: str) -> Callable[..., HttpResponse]:
        def view(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
            return self.named(name)(request, *args, **kwargs)

        view.__qualname__ = view.__name__ = name
        view.__module__ = self._module
        return view

    def named(self, name: str) -> Callable[..., HttpResponse]:
        """The view itself; its module is loaded with it.

        Raises:
            AttributeError: there is none of that name.
        """
        return getattr(import_module(self._module), name)


def load_all() -> None:
    """Load what has not been asked for yet, so that no page waits for it."""
    for module in _all:
        import_module(module)
