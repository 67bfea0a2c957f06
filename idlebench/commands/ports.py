"""A port of this computer, as it is typed."""

from __future__ import annotations

import argparse

#: The last port there is.
LAST = 65_535


def a_port(text: str) -> int:
    """A port to listen on.

    Raises:
        argparse.ArgumentTypeError: it is no whole number from 1 to 65535.
    """
    return _within(text, 1)


def a_port_or_none(text: str) -> int:
    """The same; 0 is any that is free.

    Raises:
        argparse.ArgumentTypeError: it is no whole number from 0 to 65535.
    """
    return _within(text, 0)


def _within(text: str, low: int) -> int:
    if not (text.isascii() and text.isdigit() and len(text) <= 5 and low <= int(text) <= LAST):
        raise argparse.ArgumentTypeError(f"read “{text[:60]}”, expected a whole number from {low} to {LAST}")
    return int(text)
