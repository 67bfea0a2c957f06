"""Interlocks of parts: what must be replaced, answered or found out before power.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from ...board.device_lines import first_out
from ...board.parts import Fitted, classes_of
from ...board.roles import effective_role, is_mains_place, role, wrong_class
from ...refusal import Block
from ..checks import BoardFacts
from ..proof import Proof
from .common import Reasons

#: After this many blown fuses in a place the next waits for a cause.
BLOWN_MOST = 2

#: Looks of a mains part with which no power goes on.
BAD_LOOKS = ("burst", "leaking", "missing", "cracked", "bulging")


def settled(ref: str, item: str) -> Reasons:
    """A place that somebody settled meanwhile, in this way or while the page was open."""
    return (
        Block(
            "settled",
            f"{ref} is decided already: {item}.",
            "Check the place again, and choose anew if it should be another part.",
        ),
    )


def mains_asked(question: str) -> Reasons:
    """Nothing is settled for a part that may stand across the mains before somebody says where: an X part is no stand-in for a Y."""
    return (Block("mains place", question, "Answer it in Survey first."),)


def leave_in(part: Fitted, condemned: bool, why: str) -> Reasons:
    """A mains part judged bad, or a tube tuning part of another value, stays in no machine."""
    tunes = role(part.role).pulse
    if not condemned or not (tunes or is_mains_place(part.role, part.safety)):
        return ()
    return (
        Block("safety", f"A {'tube tuning' if tunes else 'mains'} part judged bad must not stay in a machine: {why}."),
    )


def leave_out(part: Fitted) -> Reasons:
    """Only a filter part on the mains is left out, and only for a test: the machine runs without it, and disturbs others."""
    if is_mains_place(part.role, part.safety):
        return ()
    return (
        Block(
            "no filter", f"{part.ref} is not a filter part on the mains.", "Choose a part for it, or keep the old part."
        ),
    )


def unread(boards: Iterable[BoardFacts]) -> Reasons:
    """No power while a line of a board cannot be read: what it would ask to be checked is not known."""
    return tuple(
        Block("unread", f"A line of {board.name} cannot be read ({line[:80]}).", "Correct it at Intake.")
        for board in boards
        for line in board.unread
    )


def left_out(boards: Iterable[BoardFacts]) -> Reasons:
    """A unit with a filter part left out is unfinished: it may be tested, and is never handed over."""
    return tuple(
        Block("left out", f"{ref} on {board.name}, a mains filter part, is left out for the test.", "Fit a part first.")
        for board in boards
        for ref in board.left_out
    )


def third_fuse(ref: str, blown: int) -> Reasons:
    """After two blown fuses the third waits for a cause. blown: since a cause was last logged."""
    if blown < BLOWN_MOST:
        return ()
    return (
        Block(
            "blown",
            f"{blown} fuses of {ref} blew, and no cause is logged.",
            "Find and log the cause before a new fuse is fitted.",
        ),
    )


def blown_again(proof: Proof) -> Reasons:
    """After the second blown fuse of a place no power goes on before its cause is known: the third would blow as well."""
    return tuple(
        Block(
            "blown",
            f"{count} fuses of {place} blew, and no cause is logged.",
            "Find the cause under Suspects, and log it with the fuse.",
        )
        for place, count in proof.blown.items()
        if count >= BLOWN_MOST
    )


def batteries(boards: Iterable[BoardFacts]) -> Reasons:
    """A leaking battery comes out before anything else."""
    return tuple(
        Block("battery", f"{battery.ref} on {board.name} leaks.", "Take it out and log that at Intake.")
        for board in boards
        for battery in first_out(board.devices)
    )


def mains_parts(boards: Iterable[BoardFacts]) -> Reasons:
    """No power on a mains part that is burst, leaking or missing, on a part there that is not of its class, nor on a board that
    nobody has listed."""
    reasons = []
    for board in boards:
        for part in board.parts:
            if is_mains_place(part.role, part.safety) and part.looks in BAD_LOOKS:
                reasons.append(
                    Block("mains part", f"{part.ref} on {board.name}, a mains part, is {part.looks}.", "Swap it first.")
                )
            if (
                part.ref not in board.swapped
                and (wrong := wrong_class(part.role, part.safety))
                and part.looks != "missing"
            ):
                text = f"{part.ref} on {board.name}, a mains part, has {wrong}."
                reasons.append(
                    Block(
                        "mains part",
                        text,
                        "Swap it for one of that class. If it is marked with one, type it in Survey.",
                    )
                )
            piece = board.classes.get(part.ref)
            if piece is not None and not _of_class(part, piece):
                wanted = " or ".join(role(effective_role(part.role, part.safety)).safety)
                fitted = board.fitted[part.ref].split(" #")[0]
                text = f"{part.ref} on {board.name} is a mains place, and {fitted} has no such class."
                reasons.append(Block("mains part", text, f"Swap it for one of class {wanted}."))
        if not board.parts and board.expected != 0:
            reasons.append(
                Block(
                    "not listed", f"No part of {board.name} is listed.", "Survey it, or type at Intake that it has 0."
                )
            )
    return tuple(reasons)


#: A varistor's continuous AC volts are at least so many times the mains: mains may stray by a tenth (IEC 60038:2009, table 1).
VARISTOR_OVER = 1.1


def varistors(boards: Iterable[BoardFacts]) -> Reasons:
    """No hand-over with a varistor as old as the machine: each surge wears it, no meter shows it, and it fails by fire.

    Source: workshop practice, because metal oxide varistors age with every surge and end as a short.
    """
    return tuple(
        Block("varistor", f"{d.ref} on {board.name} is a varistor as old as the machine.", f"Replace {d.ref} on Swap.")
        for board in boards
        for d in board.devices
        if d.what == "varistor" and d.ref not in {one.ref for one in board.changed}
    )


def new_varistor(ref: str, typed: str, mains: float) -> Reasons:
    """A new varistor stands at least 1.1 times the mains for good, as its marking says."""
    least = VARISTOR_OVER * mains
    found = re.search(r"(?i)(?<![\d.])(\d{2,4})\s?(?:v\s?~|v\s?ac|~)", typed)
    if found is None:
        return (
            Block("volts", f"“{typed}” does not say the continuous AC volts of the new {ref}.",
                 "Type its marking with them, such as 14 mm 275V~."),
        )  # fmt: skip
    if float(found[1]) < least - 1e-9:
        return (
            Block("volts", f"{ref}: {found[1]} V~ is under {least:.0f} V~, 1.1 times the {mains:g} V mains.",
                 "Fit one for higher AC volts: with less it heats up, and fails by fire."),
        )  # fmt: skip
    return ()


def new_fusible(ref: str, note: str, typed: str) -> Reasons:
    """A fusible resistor is the fuse of its branch: what goes in says that it is one.

    Args:
        ref: its reference.
        note: the old part's words.
        typed: what is written on the new part.

    Returns:
        The reason against it, none where it is one or none stood there.
    """
    if "fusible" not in note.lower().split() or "fusible" in typed.lower().split():
        return ()
    return (
        Block("fusible", f"{ref} is a fusible resistor, the fuse of its branch, and “{typed}” does not say that it is one.",
             "Choose it by its limits, or type its marking with the word fusible."),
    )  # fmt: skip


def _of_class(part: Fitted, piece: str) -> bool:
    """Whether a fitted piece of a safety class may stand in a place; anything may where it is no mains place."""
    if not is_mains_place(part.role, part.safety):
        return True
    return bool(set(classes_of(piece)) & set(role(effective_role(part.role, part.safety)).safety))
