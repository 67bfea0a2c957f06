"""What several interlocks ask: whether a unit may be changed at all, and small words.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

from collections.abc import Sequence

from ...refusal import BadInput, Block
from ...wording import many
from ..proof import Proof

Reasons = tuple[Block, ...]


def closed(proof: Proof) -> Reasons:
    """A handed-over unit takes nothing but a reopening."""
    if not proof.handed_over:
        return ()
    return (Block("closed", f"Unit {proof.name} is handed over.", "Reopen it at Hand-over, with a reason."),)


def idle(proof: Proof) -> Reasons:
    """Nothing is done inside a unit that has power."""
    return (Block("live", f"Unit {proof.name} has power.", "Make idle first."),) if proof.live else ()


def other_bench(proof: Proof) -> Reasons:
    """Whether a unit is tried on the simulated bench is not changed while it has power: a reading has to be of what is live."""
    if not proof.live:
        return ()
    return (Block("bench", f"Unit {proof.name} has power, on the bench it was switched on.", "Make idle first."),)


def needs_words(reason: str) -> None:
    """A reason stands on the sheet for ever, so it says something.

    Args:
        reason: why.

    Raises:
        BadInput: too short or too long.
    """
    if len(reason.strip()) < 8:
        raise BadInput(
            reason, "a reason in a few words", "The reason is printed on the hand-over sheet.", field="reason"
        )
    if len(reason) > 500:
        raise BadInput(reason, "at most 500 characters", field="reason")


def some_of(points: Sequence[str]) -> str:
    return points[0] if len(points) == 1 else f"{points[0]} and {len(points) - 1} more"


def capitalised(text: str) -> str:
    return text[:1].upper() + text[1:]


def in_minutes(seconds: float) -> str:
    minutes, rest = divmod(max(0, round(seconds)), 60)
    return f"{many(minutes, 'minute')} {rest} s" if minutes else f"{rest} s"
