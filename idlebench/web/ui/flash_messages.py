"""Words that the next page says, by django.contrib.messages."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponseRedirect
from django.shortcuts import redirect
from django.utils.http import urlencode


def say(
    request: HttpRequest, url: str, words: str, *, level: int = messages.SUCCESS, **query: object
) -> HttpResponseRedirect:
    """On to a page that says some words at its top."""
    messages.add_message(request, level, words)
    return redirect(f"{url}?{urlencode(query)}" if query else url)
