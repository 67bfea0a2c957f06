"""Whether this machine can draw PDF: Pango is a library of the system, and no Python package brings it."""

from __future__ import annotations

import ctypes
from functools import cache

from idlebench.core.refusal import Block

#: The libraries without which no PDF is drawn, each under the names it has on Linux, macOS and Windows.
LIBRARIES = (
    ("libpango-1.0.so.0", "libpango-1.0.dylib", "libpango-1.0-0.dll"),
    ("libpangoft2-1.0.so.0", "libpangoft2-1.0.dylib", "libpangoft2-1.0-0.dll"),
)
#: What installs them on Debian.
INSTALL = "apt-get install libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"


@cache
def missing() -> Block | None:
    """Why no PDF can be drawn here and what to install; None where it can."""
    if all(_there(names) for names in LIBRARIES):
        return None
    return Block(
        "pdf",
        "PDF needs Pango, a library that is not installed on this computer.",
        f"Install Pango (on Debian: {INSTALL}) and start Idle Bench again, or print the sheet from the browser.",
    )


def _there(names: tuple[str, ...]) -> bool:
    for name in names:
        try:
            ctypes.CDLL(name)
        except OSError:
            continue
        return True
    return False
