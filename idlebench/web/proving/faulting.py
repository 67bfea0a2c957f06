"""Signs and further readings of a unit, suspects that are taken on, and what it turned out to be. Each write goes through the unit's
door; every gate is asked of core before anything is written."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from idlebench.core.faults.clues import ClueReading
from idlebench.core.faults.outcome import Shop, Traits, Turned, causes_of, traits_of, voided, worked_on
from idlebench.core.faults.signs import read_signs
from idlebench.core.faults.stripe import WHOLE, NetConnection, ways
from idlebench.core.prove import interlocks
from idlebench.core.prove.expect import state_at
from idlebench.core.prove.record import HANDS
from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.simulate.readings import COLD, UNITS, Asked, read_asked
from idlebench.core.simulate.state import ALL, State
from idlebench.core.simulate.supply import Bench
from idlebench.core.text.dates import year_of
from idlebench.core.text.quantity import read, show
from idlebench.instruments import HOUSE

from ..records.models import Cause, Clue
from ..unit.door import note, unit_of_board, unit_transaction
from ..unit.expecting import bench_of, known_of, setting_of
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.rows import board_id, part_id
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


def keep_signs(unit: int, board: int | None, signs: Iterable[str]) -> list[Clue]:
    """Keep signs that were seen; those that are kept already are not kept twice, those that are not ticked any more go.

    Raises:
        BadInput: one that cannot be read, or two that cannot both be; nothing is kept then.
    """
    wanted = list(dict.fromkeys(" ".join(one.split()) for one in signs if one.strip()))
    with unit_transaction(unit, "No symptom can be saved now") as door:
        state = door.state
        own = _board(state, board)
        bench = bench_of(known_of(state, own)) if own and own.supply else None
        text = {sign.words for sign in read_signs("\n".join(wanted), bench)}
        standing = [one.row for one in clues_of(state, own) if one.row.kind == Clue.SIGN and not one.void]
        gone = [row for row in standing if row.text not in text]
        Clue.objects.filter(pk__in=[row.pk for row in gone]).update(dropped=timezone.now())
        new = [one for one in sorted(text) if one not in {row.text for row in standing}]
        made = [_kept(state, own, Clue.SIGN, one) for one in new]
        if made or gone:
            said = [f"seen: {', '.join(new)}"] if new else []
            said += [f"taken back: {', '.join(row.text for row in gone)}"] if gone else []
            log(state.row, "suspects", f"{'; '.join(said)}.")
        return made


def keep_reading(unit: int, board: int, text: str, simulated: bool = False) -> Clue:
    """Keep a reading that tells suspects apart.

    Raises:
        BadInput: it cannot be read. Blocked: it may not be read now.
    """
    with unit_transaction(unit, "Nothing can be read now") as door:
        state = door.state
        own = _board(state, board)
        if own is None or not own.supply:
            raise BadInput(text, "a supply whose lines are typed", "Type them at Intake.", field="read")
        one = reading_of(text, bench_of(known_of(state, own)), live_state(state, own, state.live_step or ""))
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


def _kept(state: UnitState, board: BoardState | None, kind: str, text: str, simulated: bool = False) -> Clue:
    if Clue.objects.filter(unit=state.row.pk, dropped=None).count() >= MOST:
        raise BadInput(
            text, f"at most {MOST} signs and readings", "Take some back that do not count any more.", field="read"
        )
    return Clue.objects.create(
        unit=state.row, board=board.row if board else None, kind=kind, text=text[:200], step=state.live_step or "",
        simulated=simulated, at=timezone.now(),
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


def tell(unit: int, board: int | None, signs: Iterable[str], lines: Iterable[str]) -> None:
    """Keep signs and further readings, a line each; all of it or nothing.

    Raises:
        BadInput: naming the line. Blocked: one may not be read now.
    """
    with transaction.atomic():
        keep_signs(unit, board, signs)
        for number, line in enumerate(filter(str.strip, lines), 1):
            try:
                keep_reading(unit, board or 0, line.strip())
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


# What it turned out to be


def _traits(part: object, year: int, made: int | None) -> Traits:
    return traits_of(part, year, year_of(part.date, made) or made)


def take_on(
    unit: int, board: int | None, suspects: Sequence[tuple[str, str, str, float]], rails: Sequence[str]
) -> list[Cause]:
    """Take suspects on: what comes of them is kept with the unit.

    Args:
        suspects: reference, failure, place and share of each. rails: those whose readings failed.

    Raises:
        Blocked: one is taken on already.
    """
    with unit_transaction(unit, "No suspect can be started now") as door:
        state, made = door.state, []
        own = _board(state, board)
        for ref, failure, place, share in suspects:
            where, bare = _home(state, own, ref)
            open_ = Cause.objects.filter(
                unit=unit, board=where.row if where else None, ref=bare, failure=failure, outcome=Cause.OPEN
            )
            if open_.exists():
                raise Blocked(
                    f"{ref} is started already", (Block("open", "It is in hand above.", "Confirm it, or rule it out."),)
                )
            part = where.find(bare) if where else None
            traits = _traits(part.core, timezone.localdate().year, state.job.made) if part else Traits()
            made.append(
                Cause.objects.create(
                    unit=state.row, board=where.row if where else None, ref=bare[:80], failure=failure[:80], place=place[:80],
                    share=share, rails="; ".join(rails)[:200], simulated=state.proof.simulated, at=timezone.now(),
                    role=traits.role, series=traits.series, age=traits.age, heat=traits.heat,
                )
            )  # fmt: skip
        log(state.row, "suspects", f"suspected: {', '.join(map(str, made))}.")
        return made


def _home(state: UnitState, own: BoardState | None, ref: str) -> tuple[BoardState | None, str]:
    """The board a suspect is on, and its reference there: ``MB-80 U3`` is on MB-80."""
    for board in state.boards:
        if ref.startswith(f"{board.row.name} "):
            return board, ref.removeprefix(f"{board.row.name} ")
    return own, ref


@dataclass(frozen=True, kw_only=True)
class InHand:
    """A suspect that was taken on. turned: what was done to it since. shut: why it cannot be confirmed yet."""

    row: Cause
    turned: Turned
    shut: tuple[Block, ...]
    part: object | None
    board: BoardState | None

    @property
    def other(self) -> bool:
        """Whether no rail tells it: it is confirmed in words."""
        return not self.row.rails


@dataclass
class Case:
    """What is kept of a unit's faults, read once: of one supply, or of the whole unit where no supply has lines."""

    state: UnitState
    board: BoardState | None

    @cached_property
    def clues(self) -> list[ClueStatus]:
        """Signs and further readings that were not taken back."""
        return clues_of(self.state, self.board)

    @cached_property
    def causes(self) -> list[Cause]:
        """Suspects of the unit that were taken on, with what came of them."""
        return [row for row in self._rows if row.unit_id == self.state.row.pk]

    @cached_property
    def _rows(self) -> list[Cause]:
        """Those of the unit, and what was confirmed in the whole shop. What was found on the simulated bench counts for no machine."""
        shop = Q(outcome=Cause.CONFIRMED, simulated=self.state.proof.simulated)
        return list(Cause.objects.filter(Q(unit=self.state.row.pk) | shop))

    @cached_property
    def shop(self) -> Shop:
        """The shop's own causes, and what is known of the supply's parts."""
        here = [
            row for row in self._rows if row.outcome == Cause.CONFIRMED and row.simulated == self.state.proof.simulated
        ]
        causes = causes_of((c.place, c.failure, c.role, c.series, c.age, c.heat) for c in here)
        year, made = timezone.localdate().year, self.state.job.made
        return Shop(
            causes, tuple((p.ref, _traits(p.core, year, made)) for p in (self.board.parts if self.board else ()))
        )

    @property
    def open(self) -> list[Cause]:
        """Those that are neither confirmed nor ruled out."""
        return [row for row in self.causes if row.outcome == Cause.OPEN]

    @cached_property
    def in_hand(self) -> list[InHand]:
        """The same with what came of them so far."""
        return [_in_hand(self.state, row) for row in self.open]


def _in_hand(state: UnitState, row: Cause) -> InHand:
    board = next((b for b in state.boards if b.row.pk == row.board_id), None)
    part = board.find(row.ref) if board else None
    turned = worked_on(
        state.proof.record,
        row.at.timestamp(),
        part_id(part.pk) if part else "",
        board_id(row.board_id) if row.board_id else "",
        row.ref,
    )
    rails = {rail for rail in row.rails.split("; ") if rail}
    failing, passed = "", False
    for step in state.proof.steps:
        for check in step.checks:
            if check.rail not in rails or not check.aspect or not check.live:
                continue
            stood = state.proof.status_of(check)
            if stood.failed:
                failing = failing or f"{check.rail} {check.aspect}"
            passed |= stood.passed and stood.event is not None and stood.event.at >= turned.at
    shut = interlocks.cause(f"{row.ref}", bool(turned.worked), failing, passed, not rails)
    return InHand(row=row, turned=turned, shut=shut, part=part, board=board)


def confirm(unit: int, cause: int, words: str) -> Cause:
    """Confirm that it was this.

    Raises:
        Blocked: it was not worked on, or what failed was not read and passed since. BadInput: no rail tells it, and no words either.
    """
    with unit_transaction(unit, "Nothing is confirmed now") as door:
        row = _open(unit, cause)
        found = _in_hand(door.state, row)
        if found.shut:
            raise Blocked(f"{row} is not confirmed", found.shut)
        if found.other and len(words.split()) < 2:
            raise BadInput(
                words, "what works now, in a few words", "Type what works again, such as: sound is back.", field="words"
            )
        return _settled(door.state, row, Cause.CONFIRMED, words or f"{found.turned.worked}; its rails passed since")


def rule_out(unit: int, cause: int, words: str) -> Cause:
    """Rule a suspect out, with what told it.

    Raises:
        BadInput: no reason.
    """
    with unit_transaction(unit, "Nothing is ruled out now") as door:
        row = _open(unit, cause)
        if len(words.split()) < 2:
            raise BadInput(
                words, "the evidence against it, in a few words", "Such as: ESR 0.05 Ω out of circuit.", field="words"
            )
        return _settled(door.state, row, Cause.RULED_OUT, words)


def _open(unit: int, cause: int) -> Cause:
    row = Cause.objects.filter(pk=cause, unit=unit, outcome=Cause.OPEN).first()
    if row is None:
        raise Blocked(
            "It is decided", (Block("settled", "It was confirmed or ruled out already.", "Load the page again."),)
        )
    return row


def _settled(state: UnitState, row: Cause, outcome: str, words: str) -> Cause:
    words = " ".join(words.split())
    if len(words) > 300:
        raise BadInput(words, "at most 300 characters", field="words")
    row.outcome, row.words, row.settled = outcome, words, timezone.now()
    row.save(update_fields=["outcome", "words", "settled"])
    log(state.row, "suspects", f"{row} {outcome}: {words}.")
    return row


def _board(state: UnitState, pk: int | None) -> BoardState | None:
    return next((board for board in state.boards if board.row.pk == pk), None)
