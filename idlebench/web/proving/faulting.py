"""Signs and further readings of a unit, suspects that are taken on, and what it turned out to be. Each write goes through the unit's
door; every gate is asked of core before anything is written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from django.db.models import Q
from django.utils import timezone

from idlebench.core.faults.outcome import Shop, Traits, Turned, causes_of, traits_of, worked_on
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.text.dates import year_of

from ..records.models import Cause
from ..unit.door import unit_transaction
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.rows import board_id, part_id
from ..unit.state import UnitState
from .clue_keeping import ClueStatus, board_of, clues_of

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
        own = board_of(state, board)
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
