"""Pages for when the bench itself is unwell: full, read-only, damaged. They ask nothing of the database."""

from __future__ import annotations

import errno

from django.db import DatabaseError, OperationalError
from django.http import HttpResponse
from django.template.loader import render_to_string

_NOTHING = "Nothing of yours was written."
_LEFT = "Its database cannot be read any more, and was left as it is."
_BACK = "Stop Idle Bench, keep a copy of its folder, then restore the last backup with idlebench restore."
#: What the database says, and what that is for people: status, title, why, mend.
_SAID = (
    ("disk is full", 507, "The disk is full", _NOTHING, "Make room on the disk that holds the bench, then send it again."),
    ("readonly", 507, "The bench can only be read", _NOTHING, "Its folder or disk is read-only. Correct that, then send it again."),
    ("unable to open", 503, "The bench cannot be opened", "Its database cannot be opened just now.",
     "Check that its folder is still there."),
    ("malformed", 503, "The bench is damaged", _LEFT, _BACK),
    ("not a database", 503, "The bench is damaged", _LEFT, _BACK),
    ("disk I/O error", 503, "The disk does not answer", _NOTHING, "Check the disk that holds the bench, then send it again."),
)  # fmt: skip
_ERRNO = {
    errno.ENOSPC: "disk is full", errno.EDQUOT: "disk is full", errno.EROFS: "readonly", errno.EACCES: "readonly",
    errno.EPERM: "readonly", errno.EIO: "disk I/O error",
}  # fmt: skip


def storage_error(status: int, title: str, why: str, mend: str) -> HttpResponse:
    """A page that needs no database."""
    text = render_to_string("ui/unwell.html", {"title": title, "why": why, "mend": mend})
    return HttpResponse(text, status=status, headers={"Retry-After": "5"} if status == 503 else {})


def told_of(error: BaseException) -> HttpResponse | None:
    """The page for an error of the disk or the database; None where it is none of those that people can mend."""
    if isinstance(error, OSError):
        said = _ERRNO.get(error.errno or 0, "")
    elif isinstance(error, DatabaseError):
        said = str(error)
    else:
        return None
    found = next((rest for words, *rest in _SAID if words in said), None)
    return storage_error(*found) if found else None


def is_locked(error: BaseException) -> bool:
    """Whether somebody else is writing."""
    return isinstance(error, OperationalError) and "locked" in str(error)
