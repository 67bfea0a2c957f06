"""Every gate: why something may not be done now. Each answers with reasons, none when it is open, and every service asks here.

Nobody may touch what may be charged, put power on what is not proven so far, or close a unit with something left. A reason
names itself, its numbers, and what would open it.
Source: rules of the workshop; IEC 62368-1:2018, table 4, for stored charge; local codes come first.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from ..board.devices import first_out
from ..board.parts import Fitted, classes_of
from ..board.roles import effective_role, is_mains_place, role, wrong_class
from ..circuit.discharge import SAFE_TO_HANDLE
from ..refusal import BadInput, Block
from ..text.quantity import show
from ..wording import many
from .checks import BoardFacts, Check, PowerStep
from .clock import lasted, set_back
from .facts import CLIPPED, DISCHARGED, INSIDE, MAINS_READ
from .proof import Proof
from .record import Event

#: After this many blown fuses in a place the next waits for a cause.
BLOWN_MOST = 2
#: Looks of a mains part with which no power goes on.
BAD_LOOKS = ("burst", "leaking", "missing", "cracked", "bulging")

Reasons = tuple[Block, ...]


# Of the unit as a whole


def closed(proof: Proof) -> Reasons:
    """A handed-over unit takes nothing but a reopening."""
    if not proof.handed_over:
        return ()
    return (Block("closed", f"Unit {proof.name} is handed over.", "Reopen it at Hand-over, with a reason."),)


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
        meant: the unit whose power the page tells of, "" where it tells of none. live: the unit that has power. again: whether both are
            the same unit, which was made idle and switched on again since.
    """
    if again:
        said = f"Unit {live} was switched on again since this page was loaded."
    elif meant:
        said = f"Unit {live} has power, not unit {meant} whose page this is."
    else:
        said = f"Unit {live} has power, and this page does not say which unit it means."
    return (Block("other", said, f"Switch unit {live} off at the mains. Then load its page and make it idle there."),)


def idle(proof: Proof) -> Reasons:
    """Nothing is done inside a unit that has power."""
    return (Block("live", f"Unit {proof.name} has power.", "Make idle first."),) if proof.live else ()


def other_bench(proof: Proof) -> Reasons:
    """Whether a unit is tried on the simulated bench is not changed while it has power: a reading has to be of what is live."""
    if not proof.live:
        return ()
    return (Block("bench", f"Unit {proof.name} has power, on the bench it was switched on.", "Make idle first."),)


def reopening(proof: Proof, reason: str) -> Reasons:
    """Only a closed unit is reopened.

    Raises:
        BadInput: no reason in words.
    """
    if not proof.handed_over:
        return (Block("open", f"Unit {proof.name} is not handed over."),)
    needs_words(reason)
    return ()


def needs_words(reason: str) -> None:
    """A reason stands on the sheet for ever, so it says something.

    Raises:
        BadInput: too short or too long.
    """
    if len(reason.strip()) < 8:
        raise BadInput(reason, "a reason in a few words", "The reason is printed on the hand-over sheet.", "reason")
    if len(reason) > 500:
        raise BadInput(reason, "at most 500 characters", "", "reason")


# Touching


def charged(proof: Proof, checks: Iterable[Check]) -> Reasons:
    """Stores among these checks that are not known to be empty now. A piece that came in since the last power holds nothing
    yet, so it stops no hand; it is read before power all the same."""
    reasons = []
    for check in checks:
        if check.fact == DISCHARGED and not proof.done(check) and not proof.record.new_since_power(check.rows):
            stood = proof.standing(check)
            why = f" ({stood.void})" if stood.void else ""
            if stood.failed:
                why = f": {show(stood.value, 'V')} was read" if not check.seen else ": it was not done"
            # a tube's board stands in its words
            where = "" if check.seen else f" on {check.board}"
            opens = (
                "Discharge and log it first." if check.seen else f"Log under {show(SAFE_TO_HANDLE, 'V')} there first."
            )
            reasons.append(Block("charged", f"{_upper(check.point)}{where} is not logged as discharged{why}.", opens))
    return tuple(reasons)


def touch(proof: Proof, board: str) -> Reasons:
    """Hands on a board, by its row: it is idle and its stores are empty; after power, those of the whole unit."""
    return (*idle(proof), *charged(proof, _near(proof, board)), *_reforming(proof))


def _near(proof: Proof, board: str) -> list[Check]:
    """The discharges of what a hand on a board may meet: its own stores and every tube; once it had power, all of the unit."""
    return [c for c in proof.discharges if proof.record.ever_powered or board in c.boards or c.kept_by]


def inside(proof: Proof) -> Reasons:
    """Hands anywhere in the machine: it is idle, and the stores of every board are empty."""
    return (*idle(proof), *charged(proof, proof.discharges), *_reforming(proof))


def tube(proof: Proof) -> Reasons:
    """A picture tube that is not known to be empty: it holds its charge for years, and throws whoever reaches past it."""
    return charged(proof, [c for c in proof.discharges if c.kept_by])


#: Words of a step of taking apart that has a hand at the tube.
AT_TUBE = re.compile(r"\b(?:anode|neck|tube|yoke|coil|braid|cap of)s?\b", re.I)


def take_off(proof: Proof, what: str) -> Reasons:
    """A step of taking apart: what is at the tube comes off once the tube is empty."""
    return tube(proof) if AT_TUBE.search(what) else ()


def _reforming(proof: Proof) -> Reasons:
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
        reasons: why it does not, as the place is now; none where it does.
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


def clue(proof: Proof, board: str, cold: bool, primary: bool) -> Reasons:
    """A reading that tells suspects apart: cold with everything off and discharged, else under power and behind the isolation.

    Args:
        board: the row it is read on. cold: whether it is read with everything off. primary: whether the point is on the mains side.
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
        worked: whether it was swapped or mended since it was taken on. failing: a check that fails still, "" for none. passed:
            whether one of its rails was read since and passed. other: it is no part of a supply, so no check of a rail tells it.
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


def drying(proof: Proof) -> Reasons:
    """No power on what is wet."""
    return tuple(Block("wet", f"{words}.", "Let it dry: water stays longest under parts.") for words in proof.wet)


def procedure_step(proof: Proof, opens: bool, number: int, unmet: Sequence[int], waits: str, settled: bool) -> Reasons:
    """A step of a procedure is done, skipped or failed.

    Args:
        opens: whether hands go inside: then whatever board it is on, the stores of all boards are within reach. unmet: steps before
            it that are open. waits: when the wait before it is over, in words, "" where none runs. settled: whether it is done already.
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
        board, row: of the part. before: why its own store may still be charged, from judge.measure; what was read across it there
            stands for its discharge.
    """
    near = [c for c in _near(proof, board) if not c.key.endswith(f".{row}")]
    return (*closed(proof), *idle(proof), *charged(proof, near), *_reforming(proof), *((before,) if before else ()))


def moving(proofs: Iterable[Proof], boards: Iterable[str]) -> Reasons:
    """A part or board between units: none of them has power or is handed over, and where hands go the stores are empty.

    Args:
        proofs: of the units. boards: rows of the boards that hands are on, in whichever unit they stand.
    """
    near = frozenset(boards)
    reasons = [reason for proof in proofs for reason in (*idle(proof), *closed(proof))]
    for proof in proofs:
        for row in sorted(near & {board.id for board in proof.boards}):
            reasons += touch(proof, row)
    return tuple(dict.fromkeys(reasons))


def removing(proofs: Iterable[Proof]) -> Reasons:
    """A unit or job off the bench, with all it knows of itself: nothing of it has power or stands on volts."""
    return tuple(reason for proof in proofs for reason in (*idle(proof), *_reforming(proof)))


def board_out(proof: Proof, board: str) -> Reasons:
    """A board out of its unit and off the list: it is lifted by hand, and whoever lifts the next thing counts on what it held."""
    return tuple(dict.fromkeys((*removing([proof]), *touch(proof, board))))


def part_off(proof: Proof, row: str) -> Reasons:
    """A part off the list: a store is known to be empty first. row: of the part."""
    own = [check for check in proof.discharges if check.key.endswith(f".{row}")]
    return (*removing([proof]), *charged(proof, own))


def write_off_store(proof: Proof, row: str, reason: str) -> Reasons:
    """A store that is on the list no more is asked for no more: somebody says why.

    Raises:
        BadInput: no reason in words.
    """
    reasons = [*closed(proof), *idle(proof)]
    if not any(store.row == row for store in proof.unlisted):
        reasons.append(Block("no capacitor", "No capacitor off the list is asked for there.", "Load the page again."))
    needs_words(reason)
    return tuple(reasons)


# Parts


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


def _of_class(part: Fitted, piece: str) -> bool:
    """Whether a fitted piece of a safety class may stand in a place; anything may where it is no mains place."""
    if not is_mains_place(part.role, part.safety):
        return True
    return bool(set(classes_of(piece)) & set(role(effective_role(part.role, part.safety)).safety))


# The first look


def first_look(proof: Proof) -> Reasons:
    """The looks that can hurt somebody are ticked; nothing skips them."""
    return tuple(
        Block("first look", f"First look: {look.text}.", "Confirm it at Intake once it is done.")
        for look in proof.looks
        if look.hurts and look.key not in proof.looked
    )


def rest_of_first_look(proof: Proof) -> Reasons:
    """The other looks are ticked, or skipped with a reason."""
    left = [
        look
        for look in proof.looks
        if not look.hurts and look.key not in proof.looked and look.key not in proof.skipped
    ]
    if not left:
        return ()
    named = ", ".join(look.text for look in left)
    return (
        Block("first look", f"First look, {len(left)} left: {named}.", "Confirm them, or skip each with a reason."),
    )


def tick(proof: Proof, key: str) -> Reasons:
    """A look is ticked once it is so: the battery's only when none leaks."""
    return batteries(proof.boards) if key == "battery" and key not in proof.looked else ()


def skip(proof: Proof, key: str) -> Reasons:
    """A look that can hurt somebody is not skipped."""
    look = next((look for look in proof.looks if look.key == key), None)
    if look is None or not look.hurts:
        return ()
    return (Block("first look", f"“{look.text}” cannot be skipped: {look.why}", "Do it, then confirm it."),)


# Readings and power


def open_items(proof: Proof, step: PowerStep, for_step: str = "", but: tuple[str, ...] = ()) -> Reasons:
    """What of a step is missing, failed or no longer true; many alike are counted, not listed. but: facts left out."""
    reasons, missing, void = [], [], {}
    for check in (c for c in proof.open_checks(step, for_step) if c.fact not in but):
        stood = proof.standing(check)
        if stood.failed:
            value = "not as it should be" if check.seen or stood.value is None else show(stood.value, check.unit)
            reasons.append(Block("failed", f"{_upper(check.point)}: {value}, limit {check.limits}."))
        elif stood.event is not None:
            void.setdefault(stood.void or "it was overridden", []).append(check.point)
        else:
            missing.append(check.point)
    for why, points in void.items():
        reasons.append(Block("void", f"{_upper(_some(points))}: asked again, {why}.", "Read it again."))
    if missing:
        reasons.append(Block("missing", f"{step.title}: {len(missing)} not done ({_some(missing)})."))
    return tuple(reasons)


def _some(points: Sequence[str]) -> str:
    return points[0] if len(points) == 1 else f"{points[0]} and {len(points) - 1} more"


def _upper(text: str) -> str:
    return text[:1].upper() + text[1:]


def step(proof: Proof, key: str, but: tuple[str, ...] = ()) -> Reasons:
    """Why a step may not be begun yet: every step before it is done. but: facts that are not asked for it."""
    reasons: list[Block] = []
    for earlier in proof.steps:
        if earlier.key == key:
            return tuple(reasons)
        reasons += open_items(proof, earlier, key, but)
    return (Block("unknown", f"There is no step “{key}” among this unit's power-up steps."),)


def power(proof: Proof, key: str) -> Reasons:
    """Why power may not be put on at a step."""
    reasons = [*closed(proof), *first_look(proof), *batteries(proof.boards), *mains_parts(proof.boards)]
    reasons += (*unread(proof.boards), *_reforming(proof), *drying(proof), *blown_again(proof), *off_now(proof))
    if proof.live_elsewhere:
        reasons.append(
            Block(
                "other",
                f"Unit {proof.live_elsewhere} has power.",
                "Only one unit may be live at a time: make it idle first.",
            )
        )
    reasons += (*untuned(proof, key), *step(proof, key))
    asked = proof.step(key)
    if asked is None:
        return tuple(reasons)
    if not asked.live:
        reasons.append(Block("cold", f"“{asked.title}” is done without power."))
    before = PowerStep(asked.key, asked.title, "", tuple(c for c in asked.checks if not c.live))
    reasons += open_items(proof, before, key)
    if proof.live == key:
        reasons.append(Block("live", "Power is on at this step already."))
    elif proof.live and asked.rewire:
        reasons.append(
            Block(
                "live", "The unit has power, and something is plugged for this step.", "Make idle and discharge first."
            )
        )
    return tuple(reasons)


def answered(now: int, asked: int) -> Reasons:
    """A question about power is answered on what was there when it was asked. now, asked: the last event then and now."""
    if now == asked:
        return ()
    return (Block("asked", "Something was logged since you were asked.", "Look at the page again, then answer."),)


def reading(proof: Proof, check: Check) -> Reasons:
    """Why a reading of a check cannot be taken now."""
    reasons = [*closed(proof)]
    if not check.live and proof.live:
        reasons.append(Block("live", "The unit has power, and this check is made without power.", "Make idle first."))
    reasons += _after(proof, check)
    if check.fact != DISCHARGED:
        # with hands inside, nobody can say yet that nothing is left there
        reasons += step(proof, check.step, but=() if check.live else (INSIDE,))
    if check.live:
        reasons += _under_power(proof, check)
    elif (
        check.fact not in (DISCHARGED, MAINS_READ) and not proof.live and (not check.seen or proof.record.ever_powered)
    ):
        reasons += [r for r in touch_for(proof, check) if r not in reasons]
    return tuple(reasons)


def _after(proof: Proof, check: Check) -> Reasons:
    """What comes so long after another check waits for that, by the clock."""
    if not check.after:
        return ()
    key, seconds = check.after
    before = proof.check(key)
    stood = proof.standing(before) if before is not None else None
    if stood is None or not stood.passed or stood.event is None:
        name = before.point if before is not None else key
        return (Block("after", f"It comes after: {name}.", "Do and log that first."),)
    left = seconds - lasted(stood.event.moment, proof.moment)
    if left > 0:
        return (Block("wait", f"Charge creeps back: wait {_clock(left)} more.", "Nothing shortens the wait."),)
    return ()


def scope(proof: Proof) -> Reasons:
    """No scope on a hot chassis before its isolation is seen: its earth is joined to the mains."""
    hot = [c for c in proof.steps[0].checks if c.key.startswith("cold.hot.") and not proof.standing(c).passed]
    return tuple(
        Block(
            "hot chassis",
            f"{c.board} has a hot chassis, and its isolation is not checked.",
            "The scope's earth would short the mains: an isolation transformer first, logged at Cold checks.",
        )
        for c in hot
    )


#: Steps in which a line stage has power.
LINE_STAGE = ("mrise.", "mpart.", "mline.", "mshut.", "mfield.", "mpict.", "msoak.")


def untuned(proof: Proof, step: str) -> Reasons:
    """No line stage gets power with another tuning part than the sheet's, for pulse, tube volts and X-rays go with it; nor with its
    anode still clipped to the braid."""
    if not step.startswith(LINE_STAGE):
        return ()
    clips = (c for s in proof.steps for c in s.checks if c.fact == CLIPPED and proof.standing(c).passed)
    on = tuple(
        Block(
            "clip",
            f"A lead still joins the anode of {c.board} to its braid.",
            "Take it off, and answer that check with no.",
        )
        for c in clips
    )
    return on + tuple(
        Block(
            "tuning",
            f"{board.name}: {words}.",
            "Fit the part given in the service sheet: same value, same kind, pulse-rated.",
        )
        for board in proof.boards
        for words in board.untuned
    )


def off_now(proof: Proof) -> Reasons:
    """What failed in a way that hurts: nothing goes on before the machine is off."""
    if not proof.live:
        return ()
    step = proof.step(proof.live)
    failed = [c for c in (step.checks if step else ()) if c.off_now and proof.standing(c).failed]
    return tuple(
        Block("off now", f"{_upper(c.point)} failed.", "Off now: switch it off at the mains, then make idle.")
        for c in failed
    )


def touch_for(proof: Proof, check: Check) -> Reasons:
    """Stores that must be empty before a check is read by hand."""
    boards = check.boards or frozenset(b.id for b in proof.boards)
    near = [c for c in proof.discharges if proof.record.ever_powered or (c.boards & boards) or c.kept_by]
    return (*charged(proof, near), *_reforming(proof))


def _under_power(proof: Proof, check: Check) -> Reasons:
    if not proof.live:
        return (Block("idle", "The unit is idle: a reading now means nothing.", "Put power on at this step first."),)
    if reasons := off_now(proof):
        return reasons
    if proof.live != check.step:
        return (Block("step", "Power is on at another step.", "Go on to this step first."),)
    held = proof.held(check.step) or 0.0
    left = check.hold * 60 - held
    if left > 0 and proof.power is not None and (back := set_back(proof.power.moment, proof.moment)):
        said = f"The clock was set back by {_clock(back)} after power-on, so the time under power is unknown."
        return (Block("clock", said, "Make idle, then begin this step again."),)
    if left > 0:
        text = f"Power has been on for {_clock(held)} of {check.hold:g} minute{'s' * (check.hold != 1)}."
        return (Block("hold", text, f"Answer it in {_clock(left)}."),)
    return ()


def _clock(seconds: float) -> str:
    minutes, rest = divmod(max(0, round(seconds)), 60)
    return f"{many(minutes, 'minute')} {rest} s" if minutes else f"{rest} s"


def override(proof: Proof, check: Check) -> Reasons:
    """Only where no one can be hurt, and only where it could be read."""
    if check.safety:
        return (Block("safety", "It could hurt someone.", "Repair it and measure again."),)
    return reading(proof, check)


def hand_over(proof: Proof) -> Reasons:
    """Idle, looked over, together again, every place settled, every step proven."""
    reasons = [*closed(proof), *idle(proof), *first_look(proof), *rest_of_first_look(proof), *batteries(proof.boards)]
    reasons += (*mains_parts(proof.boards), *varistors(proof.boards), *left_out(proof.boards), *unread(proof.boards))
    reasons += [Block("apart", f"{text}.", "Mark it on the dismantling log.") for text in proof.apart]
    reasons += (*_reforming(proof), *drying(proof))
    if proof.unsettled:
        shown, count = ", ".join(proof.unsettled[:8]), len(proof.unsettled)
        dots = " …" if count > 8 else ""
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


__all__ = [
    "BLOWN_MOST",
    "answered",
    "batteries",
    "blown_again",
    "board_out",
    "cause",
    "change",
    "charged",
    "chosen_before",
    "closed",
    "clue",
    "drying",
    "first_look",
    "hand_over",
    "idle",
    "inside",
    "leave_in",
    "leave_out",
    "left_out",
    "mains_asked",
    "mains_parts",
    "make_idle",
    "measure",
    "mend",
    "moving",
    "needs_words",
    "new_varistor",
    "open_items",
    "outdated",
    "override",
    "part_off",
    "power",
    "procedure_step",
    "reading",
    "reform",
    "removing",
    "reopening",
    "rest_of_first_look",
    "scope",
    "settled",
    "skip",
    "skip_step",
    "step",
    "swap",
    "swap_device",
    "take_off",
    "third_fuse",
    "tick",
    "touch",
    "tube",
    "unread",
    "untuned",
    "varistors",
    "works",
    "write_off_store",
]  # fmt: skip
