"""Words that the next page says: signed, so that no address can put others into this program's mouth."""

from __future__ import annotations

from django.core import signing
from django.http import HttpRequest, HttpResponseRedirect
from django.shortcuts import redirect
from django.utils.http import urlencode

#: How long they are said after they were put into an address, s.
FRESH = 600
_SALT = "said"


def say(url: str, words: str, **query: object) -> HttpResponseRedirect:
    """On to a page that says some words at its top."""
    return redirect(f"{url}?{urlencode({**query, 'said': signing.dumps(words, salt=_SALT)})}")


def said(request: HttpRequest) -> str:
    """The words that a page was told to say, "" where nobody of ours told it."""
    try:
        return str(signing.loads(request.GET.get("said", ""), salt=_SALT, max_age=FRESH))
    except signing.BadSignature:
        return ""
