"""What a typed line was understood as, told while it is typed."""

from __future__ import annotations

from dataclasses import dataclass

from ..board.odd_values import odd_value
from ..board.parts import Fitted
from ..board.quickline import QuickLine
from ..board.roles import ROLES
from ..text.quantity import show
from ..wording import on_screen
from . import ageing


@dataclass(frozen=True)
class ReadingPiece:
    """A piece of the live reading: words, and whether it is plain, good or bad news."""

    text: str
    tone: str = "plain"


def live_reading(line: QuickLine, before: Fitted | None, meter_frequency: float = 120.0) -> list[ReadingPiece]:
    """What a line was understood as, piece by piece, for the row under it."""
    part = line.part(before)
    said = [ReadingPiece(show(part.value, "F"))]
    if part.volts:
        said.append(ReadingPiece(show(part.volts, "V")))
    if part.temperature:
        said.append(ReadingPiece(show(part.temperature, "°C")))
    said.append(
        ReadingPiece(
            f"{'bipolar ' if part.bipolar else ''}{on_screen(part.kind)}, {part.mounting}{', ' + part.safety if part.safety else ''}"
        )
    )
    if part.diameter and part.height:
        said.append(ReadingPiece(f"ø{part.diameter:g} × {part.height:g} mm"))
    if part.pitch:
        said.append(ReadingPiece(f"pitch {part.pitch:g} mm"))
    if part.esr is not None:
        said.append(_esr_said(part, meter_frequency))
    if part.capacitance is not None:
        said.append(ReadingPiece(f"{show(part.capacitance, 'F')} measured"))
    if part.leakage is not None:
        said.append(ReadingPiece(f"leaks {show(part.leakage, 'A')}"))
    if part.looks:
        said.append(ReadingPiece(f"looks {part.looks}", "plain" if part.looks == "sound" else "bad"))
    title = ROLES[part.role].title
    told = f" (“{line.words}”)" if line.words else ""
    said.append(
        ReadingPiece(
            f"{title}{told}" if part.role == "unknown" else f"role: {title}{told}",
            "doubt" if part.role == "unknown" else "plain",
        )
    )
    if line.has_value and not line.sure and (odd := odd_value(part.value, part.kind)):
        said.append(ReadingPiece(f"{odd}: if it is right, add the word sure", "bad"))
    if line.rest:
        said.append(ReadingPiece(f"not understood, saved as a note: {' '.join(line.rest)}", "doubt"))
    return said


def _esr_said(part: Fitted, meter_frequency: float) -> ReadingPiece:
    frequency = part.esr_frequency or meter_frequency
    if part.esr_text == "OL":
        return ReadingPiece("ESR OL: open", "bad")
    text = f"ESR {show(part.esr, 'Ω')} at {show(frequency, 'Hz')}"
    if part.kind != "wet" or not part.volts:
        return ReadingPiece(text)
    limit = ageing.new_esr(part.value, part.volts, frequency)
    return ReadingPiece(
        f"{text}, a new part of this size is at most {show(limit, 'Ω')}", "bad" if part.esr > limit else "plain"
    )
