"""Clues as they are told: signs and readings, kept with what they were read of."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from idlebench.core.faults.clues import ClueReading
from idlebench.core.faults.outcome import voided
from idlebench.core.faults.signs import read_signs
from idlebench.core.faults.stripe import WHOLE, NetConnection, ways
from idlebench.core.prove import interlocks
from idlebench.core.prove.expect import state_at
from idlebench.core.prove.record import HANDS
from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.simulate.readings import COLD, UNITS, Asked, read_asked
from idlebench.core.simulate.state import ALL, State
from idlebench.core.simulate.supply import Bench
from idlebench.core.text.quantity import read, show
from idlebench.instruments import HOUSE

from ..records.models import Clue
from ..unit.assuming import board_with_lines
from ..unit.door import note, unit_of_board, unit_transaction
from ..unit.expecting import bench_of, known_of, setting_of
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.rows import board_id
from ..unit.state import UnitState

#: Most signs and readings that are kept of a unit at a time.
MOST = 60


#: Words for a reading off the scale.
OVER = ("ol", "open", "inf", "∞")


@dataclass(frozen=True)
class ClueStatus:
    """A clue, and why it counts no more: what was changed since, "" while it counts."""

    row: Clue
    void: str


def clues_of(state: UnitState, board: BoardState | None) -> list[ClueStatus]:
    """Signs and readings of a supply that were not taken back, and those of the whole unit."""
    here = Q(board=None) | Q(board=board.row.pk if board else None)
    rows = Clue.objects.filter(here, unit=state.row.pk, dropped=None).exclude(kind=Clue.NET)
    record = state.proof.record
    return [
        ClueStatus(row, _void(row, board, voided(record, row.at.timestamp(), _where(row), row.text.startswith("fuse gone")), state))
        for row in rows
    ]  # fmt: skip


def _where(row: Clue) -> str:
    return board_id(row.board_id) if row.board_id else ""


def _void(row: Clue, board: BoardState | None, changed: str, state: UnitState) -> str:
    if row.simulated and not state.proof.simulated:
        return "it was read on the simulated bench, not on this machine"
    return changed


def reading_of(text: str, bench: Bench, live: State, cold: bool | None = None) -> ClueReading:
    """A reading as typed: a point, what was read there, the number, such as ``C1 ripple 1.2``.

    Args:
        live: the bench under power. cold: whether it was read with everything off; by what was read where None.

    Raises:
        BadInput: it cannot be read.
    """
    words = text.rsplit(maxsplit=1)
    if len(words) < 2:
        raise BadInput(text, "a point, what was read there, and the number, such as C1 ripple 1.2", field="read")
    (asked,) = read_asked(words[0].rstrip(":"), bench)
    over = words[1].lower() in OVER
    value = None if over else read(words[1], UNITS[asked.what], field="read", low=-1e6, high=1e12)
    off = State(frequency=live.frequency, load="none")
    # the least of a rail is read while its loads step
    live = replace(live, step=ALL) if asked.what == "lowest" else live
    return ClueReading(off if (asked.what in COLD if cold is None else cold) else live, asked, value)


def live_state(state: UnitState, board: BoardState, step: str = "") -> State:
    """The bench under power at a step, else at full mains."""
    how = setting_of(state, board)
    found = state_at(step or "full", how.way, how.mains, how.frequency, how.lamp)
    return found or State(volts=how.mains, frequency=how.frequency)


def keep_signs(unit: int, board: int | None, signs: Iterable[str], as_found: bool = False) -> list[Clue]:
    """Keep signs that were seen; those that are kept already are not kept twice, those that are not ticked any more go.

    Raises:
        BadInput: one that cannot be read, or two that cannot both be; nothing is kept then.
    """
    wanted = list(dict.fromkeys(" ".join(one.split()) for one in signs if one.strip()))
    with unit_transaction(unit, "No symptom can be saved now") as door:
        state = door.state
        own = board_of(state, board)
        bench = bench_of(known_of(state, own)) if own and own.supply else None
        text = {sign.words for sign in read_signs("\n".join(wanted), bench)}
        standing = [one.row for one in clues_of(state, own) if one.row.kind == Clue.SIGN and not one.void]
        gone = [row for row in standing if row.text not in text]
        Clue.objects.filter(pk__in=[row.pk for row in gone]).update(dropped=timezone.now())
        new = [one for one in sorted(text) if one not in {row.text for row in standing}]
        made = [_kept(state, own, Clue.SIGN, one, as_found=as_found) for one in new]
        if made or gone:
            said = [f"seen: {', '.join(new)}"] if new else []
            said += [f"taken back: {', '.join(row.text for row in gone)}"] if gone else []
            log(state.row, "suspects", f"{'; '.join(said)}.")
        return made


def keep_reading(unit: int, board: int, text: str, simulated: bool = False, as_found: bool = False) -> Clue:
    """Keep a reading that tells suspects apart. as_found: it is told of the time before the unit came here, so nothing is read now.

    Raises:
        BadInput: it cannot be read. Blocked: it may not be read now.
    """
    with unit_transaction(unit, "Nothing can be read now") as door:
        state = door.state
        own = board_of(state, board)
        if own is None or not own.supply:
            raise BadInput(text, "a supply whose lines are typed", "Type them at Intake.", field="read")
        one = reading_of(text, bench_of(known_of(state, own)), live_state(state, own, state.live_step or ""))
        if as_found:
            made = _kept(state, own, Clue.READING, text, as_found=True)
            log(state.row, "suspects", f"{own.row.name}, as found: {one.words}.")
            return made
        if reasons := may_read(state, own, one.asked):
            raise Blocked(f"{one.asked.typed} cannot be read now", reasons)
        simulated = simulated or state.job.meter == HOUSE
        made = _kept(state, own, Clue.READING, text, simulated)
        if one.asked.what in COLD:
            note(
                state.row, HANDS, timezone.now(), board=board_id(own.row.pk), words=f"{own.row.name}: {one.words}"[:300]
            )
        log(
            state.row, "suspects", f"{own.row.name}: {one.words}{', read on the simulated bench' if simulated else ''}."
        )
        return made


def may_read(state: UnitState, board: BoardState, asked: Asked) -> tuple[Block, ...]:
    """Why a point may not be read now."""
    primary = {ref for b in board.supply if not b.volts for ref in b.stores} | {"l-n"}
    cold = asked.what in COLD
    on_rail = asked.point[:1] in "+−" or asked.point in ("lamp", "gnd") or (asked.point in _secondary(board))
    return interlocks.clue(
        state.proof, board_id(board.row.pk), cold, not cold and (asked.point in primary or not on_rail)
    )


def _secondary(board: BoardState) -> set[str]:
    """References behind the isolation: stores behind a transformer, and those of a converter's rails."""
    found = {ref for b in board.supply if b.volts for ref in b.stores}
    return found | {ref for b in board.supply if b.converter for rail in b.converter.rails for ref in rail.stores}


def _kept(
    state: UnitState, board: BoardState | None, kind: str, text: str, simulated: bool = False, as_found: bool = False
) -> Clue:
    if Clue.objects.filter(unit=state.row.pk, dropped=None).count() >= MOST:
        raise BadInput(
            text, f"at most {MOST} signs and readings", "Take some back that do not count any more.", field="read"
        )
    return Clue.objects.create(
        unit=state.row, board=board.row if board else None, kind=kind, text=text[:200], step=state.live_step or "",
        simulated=simulated, as_found=as_found, at=timezone.now(),
    )  # fmt: skip


def keep_way(board: int, way: NetConnection, typed: str) -> Clue:
    """Keep what a net's copper read from one pin to another, everything off and discharged.

    Raises:
        BadInput: no ohms, or a way that is none of the board's. Blocked: the unit has power, or a store may be charged.
    """
    with unit_transaction(unit_of_board(board), "Nothing can be read now") as door:
        found, typed = door.board(board), typed.strip()[:40]
        if way not in ways(way.net, found.nets):
            raise BadInput(
                way.words,
                f"a way of a net of {found.row.name}",
                "The nets may have changed: load the page again.",
                field="net",
            )
        ohms = math.inf if typed.lower() in OVER else read(typed, "Ω", field="ohms", low=0, high=1e12)
        if reasons := interlocks.clue(door.state.proof, board_id(board), cold=True, primary=False):
            raise Blocked(f"{way.words} cannot be read now", reasons)
        shown = "OL" if math.isinf(ohms) else show(ohms, "Ω")
        made = _kept(door.state, found, Clue.NET, f"{way.words} {shown}")
        note(
            door.state.row,
            HANDS,
            timezone.now(),
            board=board_id(board),
            words=f"{found.row.name}, {way.words} measured"[:300],
        )
        log(
            door.state.row,
            "suspects",
            f"{found.row.name}, {way.words}: {shown}, {'whole' if ohms <= WHOLE else 'open'}.",
        )
        return made


def tell(unit: int, board: int | None, signs: Iterable[str], lines: Iterable[str], as_found: bool = False) -> None:
    """Keep signs and further readings, a line each; all of it or nothing. as_found: told of the time before the unit came here.

    Raises:
        BadInput: naming the line. Blocked: one may not be read now.
    """
    with transaction.atomic():
        keep_signs(unit, board, signs, as_found)
        for number, line in enumerate(filter(str.strip, lines), 1):
            try:
                keep_reading(unit, board or 0, line.strip(), as_found=as_found)
            except BadInput as error:
                raise error.within(f"line {number}") from None


def drop(unit: int, clue: int) -> None:
    """Take a sign or reading back that was kept by mistake; it stays in the log."""
    with unit_transaction(unit, "Nothing can be taken back now") as door:
        row = Clue.objects.filter(pk=clue, unit=unit, dropped=None).first()
        if row is None:
            raise Blocked("It is not there", (Block("clue", "It was taken back already.", "Load the page again."),))
        row.dropped = timezone.now()
        row.save(update_fields=["dropped"])
        log(door.state.row, "suspects", f"taken back: {row.text}.")


def board_of(state: UnitState, pk: int | None) -> BoardState | None:
    return board_with_lines(state, pk)
