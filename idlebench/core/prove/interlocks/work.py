"""Interlocks of procedures and of suspects.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

from collections.abc import Sequence

from ...refusal import Block
from ..proof import Proof
from .common import Reasons, closed
from .hands import inside, touch


def clue(proof: Proof, board: str, cold: bool, primary: bool) -> Reasons:
    """A reading that tells suspects apart: cold with everything off and discharged, else under power and behind the isolation.

    Args:
        proof: what counts of the unit's readings.
        board: the row it is read on.
        cold: whether it is read with everything off.
        primary: whether the point is on the mains side.

    Returns:
        Each reason against it, none where it may be read now.
    """
    if cold:
        return (*closed(proof), *touch(proof, board))
    if not proof.live:
        return (
            *closed(proof),
            Block("power", "The unit has no power, and this is read under power.", "Power it on at First power."),
        )
    if primary:
        return (
            Block(
                "primary",
                "That point is on the mains side.",
                "Make idle, unplug, discharge: cold, more can be read there.",
            ),
        )
    return closed(proof)


def cause(name: str, worked: bool, failing: str, passed: bool, other: bool) -> Reasons:
    """A suspect is the cause once it was worked on and what failed passes since.

    Args:
        name: its name.
        worked: whether it was swapped or mended since it was taken on.
        failing: a check that fails still, "" for none.
        passed: whether one of its rails was read since and passed.
        other: it is no part of a supply, so no check of a rail tells it.

    Returns:
        Each reason against it, none where it may be named.
    """
    if not worked:
        return (
            Block(
                "work", f"Nothing was done to {name} since it was started.", "Swap or repair it, and log that on Swap."
            ),
        )
    if failing:
        return (Block("fails", f"{failing} still fails.", "The cause is another part, or one more part."),)
    if not passed and not other:
        return (
            Block(
                "passed",
                f"No rail it makes was read and passed since the work on {name}.",
                "Go through the power-up steps, and read that rail.",
            ),
        )
    return ()


def procedure_step(proof: Proof, opens: bool, number: int, unmet: Sequence[int], waits: str, settled: bool) -> Reasons:
    """A step of a procedure is done, skipped or failed.

    Args:
        proof: what counts of the unit's readings.
        opens: whether hands go inside: then whatever board it is on, the stores of all boards are within reach.
        number: which one, counted from 1.
        unmet: steps before it that are open.
        waits: when the wait before it is over, in words, "" where none runs.
        settled: whether it is done already.

    Returns:
        Each reason against it, none where it may be done.
    """
    reasons = list(closed(proof))
    if settled:
        reasons.append(Block("done", f"Step {number} is done already.", "Load the page again."))
    if unmet:
        reasons.append(
            Block("after", f"Step {number} comes after step {', '.join(map(str, unmet))}.", "Do those steps first.")
        )
    if waits:
        reasons.append(
            Block("wait", f"The wait before step {number} runs until {waits}.", "Nothing shortens the wait.")
        )
    if opens:
        reasons += inside(proof)
    return tuple(reasons)


def works(proof: Proof, of: str, opens: bool, kind: str) -> Reasons:
    """A step of a procedure says that a whole machine works. of, opens: of the procedure. kind: of the step's check."""
    if (of, opens, kind) != ("unit", False, "function") or proof.record.ever_powered:
        return ()
    return (
        Block(
            "unpowered",
            f"Unit {proof.name} never had power on this bench: no function of it can be tested yet.",
            "Prove it on First power, then test. If it was tested elsewhere, skip the step and give that as "
            "the reason.",
        ),
    )


def skip_step(number: int, dries: bool) -> Reasons:
    """A wait in which something dries is not skipped: no reason makes it dry."""
    return (Block("wet", f"Step {number} is the drying.", "Do it and wait for it."),) if dries else ()
