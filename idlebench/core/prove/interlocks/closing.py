"""The interlock of hand-over: nothing is left open.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

from ...refusal import Block
from ...wording import many
from ..checks import Check
from ..proof import Proof
from .common import Reasons, closed, idle
from .hands import drying, on_reforming_volts
from .live import first_look, open_items, rest_of_first_look
from .parts import batteries, left_out, mains_parts, unread, varistors


def known_fault(proof: Proof, check: Check) -> Reasons:
    """Why a check cannot be accepted as a known fault: it guards a person, it did not fail, or the unit is not idle and open."""
    if check.safety:
        return (Block("safety", "It could hurt someone.", "Repair it and measure again."),)
    if not proof.status_of(check).failed:
        return (Block("fault", f"{check.point} did not fail.", "Only what failed is accepted."),)
    return (*closed(proof), *idle(proof))


def hand_over(proof: Proof) -> Reasons:
    """Idle, looked over, together again, every place settled, every step proven."""
    reasons = [*closed(proof), *idle(proof), *first_look(proof), *rest_of_first_look(proof), *batteries(proof.boards)]
    reasons += (*mains_parts(proof.boards), *varistors(proof.boards), *left_out(proof.boards), *unread(proof.boards))
    reasons += [Block("apart", f"{text}.", "Mark it on the dismantling log.") for text in proof.apart]
    reasons += (*on_reforming_volts(proof), *drying(proof))
    if proof.unsettled:
        shown, count = ", ".join(proof.unsettled[:8]), len(proof.unsettled)
        dots = " and others" if count > 8 else ""
        verb = "is" if count == 1 else "are"
        reasons.append(Block("unsettled", f"{many(count, 'place')} {verb} neither swapped nor kept: {shown}{dots}."))
    if proof.of_the_bench:
        reasons.append(
            Block(
                "simulated", f"{many(proof.of_the_bench, 'reading')} of it {'were' if proof.of_the_bench != 1 else 'was'} "
                             "taken on the simulated bench.",
                "Take the simulated meter off at Intake, and measure the machine itself.",
            )
        )  # fmt: skip
    for each in proof.steps:
        reasons += open_items(proof, each)
    if len(proof.steps) > 1:
        reasons += [
            Block("no rails", f"{board.name} is a supply, and no rail of it is listed.", "Type them at Intake.")
            for board in proof.boards
            if board.supply and not board.rails
        ]
    if len(proof.steps) < 2:
        reasons.append(
            Block("no rails", "No supply with rails is entered, so nothing could be proven.", "Type them at Intake.")
        )
    return tuple(reasons)
