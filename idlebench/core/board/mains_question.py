"""Parts that may stand across the mains, and were listed without saying so: it is asked before anything is chosen for them.

Source: the sizes and volts of X and Y capacitors of IEC 60384-14:2013, 2.2, and of the plain film and ceramic parts that were fitted
there before it.
"""

from __future__ import annotations

from ..text.quantity import show
from ..wording import on_screen
from .parts import Fitted

#: F and V of what may stand there; its kinds.
LEAST, MOST, FROM_VOLTS = 1e-9, 2.2e-6, 250.0
KINDS = ("film", "ceramic", "paper")
#: What a part's note says once it was asked and stands on neither side.
NEITHER = "not on the mains"
#: The answers: what is typed after the reference, and what the button says.
ANSWERS = (
    ("role mains_x", "Across line and neutral"),
    ("role mains_y", "Line to earth"),
    (f"note {NEITHER}", "Neither"),
)


def mains_question(part: Fitted, mains: bool) -> str:
    """What is asked about a part that may stand across the mains, "" where it cannot or was answered.

    Args:
        part: with the role that its supply's or monitor's lines tell it.
        mains: whether mains come onto its board.

    Returns:
        The question; "" where none is needed.

    >>> mains_question(Fitted(ref='C3', value=47e-9, volts=630.0, kind='film'), True)
    'Does C3, 47 nF 630 V film, connect line and neutral, line and earth, or neither?'
    >>> mains_question(Fitted(ref='C3', value=47e-9, volts=63.0, kind='film'), True)
    ''
    >>> mains_question(Fitted(ref='C3', value=47e-9, volts=630.0, kind='film', role='filter'), True)
    ''
    """
    if not mains or part.role != "unknown" or part.safety or NEITHER in part.note:
        return ""
    if (
        part.kind not in KINDS
        or not LEAST * 0.999 <= part.value <= MOST * 1.001
        or (part.volts or FROM_VOLTS) < FROM_VOLTS
    ):
        return ""
    marked = (
        f"{show(part.value, 'F')} {show(part.volts, 'V')}"
        if part.volts
        else f"{show(part.value, 'F')}, volts not known,"
    )
    return f"Does {part.ref}, {marked} {on_screen(part.kind)}, connect line and neutral, line and earth, or neither?"
