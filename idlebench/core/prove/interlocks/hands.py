"""Interlocks of a hand in the machine: nobody touches what may be charged.

Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from ...board.parts import Fitted
from ...circuit.discharge import SAFE_TO_HANDLE
from ...refusal import Block
from ...text.quantity import show
from ..checks import Check
from ..facts import DISCHARGED
from ..proof import Proof
from .common import Reasons, capitalised, closed, idle, needs_words
from .parts import third_fuse


def charged(proof: Proof, checks: Iterable[Check]) -> Reasons:
    """Stores among these checks that are not known to be empty now. A piece that came in since the last power holds nothing
    yet, so it stops no hand; it is read before power all the same."""
    reasons = []
    for check in checks:
        if check.fact == DISCHARGED and not proof.done(check) and not proof.record.new_since_power(check.rows):
            stood = proof.status_of(check)
            why = f" ({stood.void})" if stood.void else ""
            if stood.failed:
                why = f": {show(stood.value, 'V')} was read" if not check.seen else ": it was not done"
            # a tube's board stands in its words
            where = "" if check.seen else f" on {check.board}"
            opens = (
                "Discharge and log it first." if check.seen else f"Log under {show(SAFE_TO_HANDLE, 'V')} there first."
            )
            reasons.append(
                Block("charged", f"{capitalised(check.point)}{where} is not logged as discharged{why}.", opens)
            )
    return tuple(reasons)


def touch(proof: Proof, board: str) -> Reasons:
    """Hands on a board, by its row: it is idle and its stores are empty; after power, those of the whole unit."""
    return (*idle(proof), *charged(proof, _near(proof, board)), *on_reforming_volts(proof))


def _near(proof: Proof, board: str) -> list[Check]:
    """The discharges of what a hand on a board may meet: its own stores and every tube; once it had power, all of the unit."""
    return [c for c in proof.discharges if proof.record.ever_powered or board in c.boards or c.kept_by]


def inside(proof: Proof) -> Reasons:
    """Hands anywhere in the machine: it is idle, and the stores of every board are empty."""
    return (*idle(proof), *charged(proof, proof.discharges), *on_reforming_volts(proof))


def tube(proof: Proof) -> Reasons:
    """A picture tube that is not known to be empty: it holds its charge for years, and throws whoever reaches past it."""
    return charged(proof, [c for c in proof.discharges if c.kept_by])


#: Words of a step of taking apart that has a hand at the tube.
AT_TUBE = re.compile(r"\b(?:anode|neck|tube|yoke|coil|braid|cap of)s?\b", re.I)


def take_off(proof: Proof, what: str) -> Reasons:
    """A step of taking apart: what is at the tube comes off once the tube is empty."""
    return tube(proof) if AT_TUBE.search(what) else ()


def on_reforming_volts(proof: Proof) -> Reasons:
    return tuple(
        Block("reforming", f"{name} is on volts for reforming.", "Finish or stop the run and log its discharge.")
        for name in proof.reforming
    )


def swap(proof: Proof, board: str, ref: str, chosen: bool, swapped: bool) -> Reasons:
    """A part out and another in."""
    reasons = list(closed(proof))
    if swapped:
        reasons.append(Block("done", f"{ref} is swapped already."))
    elif not chosen:
        reasons.append(Block("choice", f"No part is chosen for {ref}.", "Choose a part first."))
    return (*reasons, *touch(proof, board))


def chosen_before(ref: str, item: str, reasons: Sequence[str]) -> Reasons:
    """What was chosen for a place that has been described anew since, and does not go in there now.

    Args:
        ref: its reference.
        item: what goes in.
        reasons: why it does not, as the place is now; none where it does.

    Returns:
        Each reason against it, none where the choice counts.
    """
    return tuple(
        Block("chosen before", f"{item} does not fit {ref} any more: {reason}.", "Choose again.") for reason in reasons
    )


def outdated(ref: str, corrected: str) -> Reasons:
    """A place that was corrected since it was chosen for: it is chosen for again, and that is said before the iron is hot."""
    return (Block("chosen before", f"{ref} was chosen for other facts: {corrected}.", "Choose again."),)


#: What goes in only by a choice that the rules have judged; the rest is logged by the words that are on it.
BY_CHOICE = ("regulator", "fuse", "battery")


def swap_device(proof: Proof, board: str, ref: str, what: str, chosen: bool, swapped: bool, blown: int = 0) -> Reasons:
    """A part that is no capacitor out and another in. blown: fuses of the place since a cause was last logged."""
    reasons = swap(proof, board, ref, chosen or what not in BY_CHOICE, swapped)
    return (*reasons, *third_fuse(ref, blown)) if what == "fuse" else reasons


def mend(proof: Proof, board: str) -> Reasons:
    """A wire, a pad, a joint made new."""
    return (*closed(proof), *touch(proof, board))


def drying(proof: Proof) -> Reasons:
    """No power on what is wet."""
    return tuple(Block("wet", f"{words}.", "Let it dry: water stays longest under parts.") for words in proof.wet)


def reform(proof: Proof, part: Fitted, running: bool) -> Reasons:
    """Volts on an old store, through a resistor: the unit idle, and a part worth it."""
    reasons = [*closed(proof), *idle(proof)]
    if part.kind != "wet" or not part.volts:
        reasons.append(
            Block(
                "kind",
                "Only an electrolytic with known volts can be reformed.",
                "If the volts are missing, type them at Survey.",
            )
        )
    if part.looks in ("burst", "leaking", "bulging", "missing", "cracked"):
        reasons.append(Block("looks", f"{part.ref} is {part.looks}. Replace it; only a sound part is reformed."))
    if running:
        reasons.append(Block("open", "A run is already open.", "Log its discharge first."))
    return tuple(reasons)


def measure(proof: Proof, board: str, row: str, before: Block | None) -> Reasons:
    """A meter on an old part: the stores beside it are empty as for any hand.

    Args:
        proof: what counts of the unit's readings.
        board: the board's name.
        row: the row, where there is one.
        before: why its own store may still be charged, from judge.measure; what was read across it there stands for its
            discharge.

    Returns:
        Each reason against it, none where a meter may touch it.
    """
    near = [c for c in _near(proof, board) if not c.key.endswith(f".{row}")]
    return (
        *closed(proof),
        *idle(proof),
        *charged(proof, near),
        *on_reforming_volts(proof),
        *((before,) if before else ()),
    )


def moving(proofs: Iterable[Proof], boards: Iterable[str]) -> Reasons:
    """A part or board between units: none of them has power or is handed over, and where hands go the stores are empty.

    Args:
        proofs: of the units.
        boards: rows of the boards that hands are on, in whichever unit they stand.

    Returns:
        Each reason against it, none where it may move.
    """
    near = frozenset(boards)
    reasons = [reason for proof in proofs for reason in (*idle(proof), *closed(proof))]
    for proof in proofs:
        for row in sorted(near & {board.id for board in proof.boards}):
            reasons += touch(proof, row)
    return tuple(dict.fromkeys(reasons))


def removing(proofs: Iterable[Proof]) -> Reasons:
    """A unit or job off the bench, with all it knows of itself: nothing of it has power or stands on volts."""
    return tuple(reason for proof in proofs for reason in (*idle(proof), *on_reforming_volts(proof)))


def board_out(proof: Proof, board: str) -> Reasons:
    """A board out of its unit and off the list: it is lifted by hand, and whoever lifts the next thing counts on what it held."""
    return tuple(dict.fromkeys((*removing([proof]), *touch(proof, board))))


def part_off(proof: Proof, row: str) -> Reasons:
    """A part off the list: a store is known to be empty first. row: of the part."""
    own = [check for check in proof.discharges if check.key.endswith(f".{row}")]
    return (*removing([proof]), *charged(proof, own))


def write_off_store(proof: Proof, row: str, reason: str) -> Reasons:
    """A store that is on the list no more is asked for no more: somebody says why.

    Args:
        proof: what counts of the unit's readings.
        row: the row, where there is one.
        reason: why.

    Returns:
        Each reason against it, none where it may be written off.

    Raises:
        BadInput: no reason in words.
    """
    reasons = [*closed(proof), *idle(proof)]
    if not any(store.row == row for store in proof.unlisted):
        reasons.append(Block("no capacitor", "No capacitor off the list is asked for there.", "Load the page again."))
    needs_words(reason)
    return tuple(reasons)


def touch_for(proof: Proof, check: Check) -> Reasons:
    """Stores that must be empty before a check is read by hand."""
    boards = check.boards or frozenset(b.id for b in proof.boards)
    near = [c for c in proof.discharges if proof.record.ever_powered or (c.boards & boards) or c.kept_by]
    return (*charged(proof, near), *on_reforming_volts(proof))
