"""Interlocks of the record: what may be changed, made idle and reopened.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

from collections.abc import Sequence

from ...refusal import Block
from ..proof import Proof
from ..record import Event
from .common import Reasons, needs_words


def change(proof: Proof, events: Sequence[Event]) -> Reasons:
    """What is being changed stands under power: the reading that comes next would be of something else."""
    if not proof.live or not events:
        return ()
    return (
        Block(
            "live",
            f"Unit {proof.name} has power.",
            f"Make idle first: {events[0].words} would change the unit under power.",
        ),
    )


def make_idle(meant: str, live: str, again: bool) -> Reasons:
    """Who says that the power is off says of which unit, and of which time: a page left open on another device means another.

    Args:
        meant: the unit whose power the page tells of, "" where it tells of none.
        live: the unit that has power.
        again: whether both are the same unit, which was made idle and switched on again since.

    Returns:
        Each reason against it, none where it may be said.
    """
    if again:
        said = f"Unit {live} was switched on again since this page was loaded."
    elif meant:
        said = f"Unit {live} has power, not unit {meant} whose page this is."
    else:
        said = f"Unit {live} has power, and this page does not say which unit it means."
    return (Block("other", said, f"Switch unit {live} off at the mains. Then load its page and make it idle there."),)


def reopening(proof: Proof, reason: str) -> Reasons:
    """Only a closed unit is reopened.

    Args:
        proof: what counts of the unit's readings.
        reason: why.

    Returns:
        Each reason against it, none where it may be reopened.

    Raises:
        BadInput: no reason in words.
    """
    if not proof.handed_over:
        return (Block("open", f"Unit {proof.name} is not handed over."),)
    needs_words(reason)
    return ()
