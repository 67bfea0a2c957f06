"""Rounds of checks: what a page plays, and the answers that it sends, each judged once in the page's own order."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from django.urls import reverse

from idlebench.core import prove
from idlebench.core.prove import interlocks, rounds
from idlebench.core.prove.facts import DISCHARGED, POLARITY
from idlebench.core.prove.leads import REF, by_leads, leads_of, places_of
from idlebench.core.prove.meter_watch import lifted_passes
from idlebench.core.prove.rounds import Answered, Pace
from idlebench.core.wording import many

from ..unit.answers import METER, Answer, Outcome, judged_once, stopped
from ..unit.door import unit_transaction
from ..unit.log import log
from ..unit.photo_seen import second_looks
from ..unit.state import UnitState
from ..unit.times import pace
from . import services, watching
from .check_rows import row_of


def shown_as(check: prove.Check) -> str:
    """What a check was like when a page showed it, in a few letters: with another, its answer is of something else."""
    said = json.dumps([check.kind, check.ask, check.low, check.high, sorted(check.evidence.items())])
    return hashlib.sha256(said.encode()).hexdigest()[:12]


def take_answers(
    unit: int, play: str, answers: Iterable[Answer]
) -> tuple[list[dict[str, object]], dict[str, str] | None]:
    """Judge the answers of a page to the checks of a unit; as judged_once."""
    with unit_transaction(unit, "Nothing can be read now") as door:
        return judged_once(unit, play, answers, lambda one, own: _judged(door.state, one, play, own))


def _judged(state: UnitState, one: Answer, play: str, own: set[int]) -> Outcome:
    """What became of an answer; a bad discharge stops the round, a bad look does not."""
    check = state.proof.check(one.check)
    if check is None:
        return Outcome(None, stopped(one.check, "This check is no longer asked.", "Go on with the next."))
    since = [event for key, event in state.recorded if key > one.seen and key not in own]
    answered = Answered(
        age=one.age, same=one.of == shown_as(check), since=tuple((event, event.tells) for event in since)
    )
    if why := rounds.asked_again(check, answered):
        return Outcome(None, stopped(check.key, f"{check.point} is asked again: {why}.", "Answer it again."))
    typed, mark = watching.stood_still(state, play, check) if one.typed == METER else (one.typed, "")
    reading = services.taken(state, check.key, typed, mark)
    if not reading.passed and one.note:
        log(state.row, "reading", f"{check.point}: {one.note}")
    told = {"check": check.key, "typed": reading.typed, "state": "passed" if reading.passed else "failed"}
    if reading.passed or not (check.fact == DISCHARGED or check.off_now):
        return Outcome(told)
    opens = "Off now: switch it off at the mains." if check.off_now else "Discharge it, then read it again."
    return Outcome(told, stopped(check.key, f"{check.point}: {reading.typed}, limit {check.limits}.", opens))


@dataclass(frozen=True, kw_only=True)
class Played:
    """A step as a page plays it: its rounds with the checks that are asked of it, what is left out, and how long it takes."""

    step: prove.PowerStep
    rounds: Sequence[rounds.Round]
    left_out: Sequence[tuple[str, list[str]]]
    left: Sequence[prove.Check]
    full: Sequence[prove.Check]
    pace: Pace

    @property
    def minutes(self) -> str:
        """How long what is left takes, in words."""
        return rounds.in_words(self.pace.minutes(self.left))

    @property
    def told(self) -> str:
        """What this round and a full one ask, with their times; "" where nothing is left out."""
        if len(self.full) == len(self.left):
            return ""
        whole = rounds.in_words(self.pace.minutes(self.full))
        return (
            f"{many(len(self.left), 'check')}, {self.minutes}; a full round: {many(len(self.full), 'check')}, {whole}"
        )


def played(state: UnitState, key: str, proof: prove.Proof | None = None) -> Played:
    """A step of a unit as a round plays it.

    Args:
        state: of the unit.
        key: of the step, "" for the one that has power or is next.
        proof: of the unit where it is another than the state's own.
    """
    proof = proof or state.proof
    in_hand = proof.step(key) or proof.step(proof.live) or proof.current or proof.steps[0]
    step = proof.step(in_hand.key) or proof.steps[0]
    asked = [c for c in step.checks if proof.done(c) or proof.status_of(c).failed or proof.wanted(c)]
    asked = [c for c in asked if not (c.optional and proof.status_of(c).event is None)]
    ordered = by_leads(asked, proof.boards) if step.key == "cold" else asked
    return Played(
        step=step,
        rounds=rounds.rounds_of(step, ordered, "case open" if proof.apart else ""),
        left_out=proof.left_out_of([step]),
        left=[c for c in asked if not proof.done(c)],
        full=[c for c in step.checks if (c in asked and not proof.done(c)) or c.key in proof.left_out],
        pace=pace(),
    )


def items_of(state: UnitState, what: Played) -> list[dict[str, object]]:
    """The checks of a step as its page needs them, in the order in which they are played."""
    boards = {board.row.name: board for board in state.boards}
    seen = _seen_in_photos(state)
    places = {board.name: places_of(board) for board in state.facts}
    found = []
    for one in what.rounds:
        for check in one.checks:
            row, board = row_of(state, check), boards.get(check.board)
            leads = leads_of(check, places.get(check.board))
            ref = next(iter(REF.findall(check.point)), "")
            by = "look" if check.seen else "tone" if rounds.by_tone(check) else "number"
            found.append(
                {
                    "key": check.key, "round": one.key, "title": one.title, "point": check.point, "board": check.board,
                    "ask": check.ask, "caution": _caution(check, seen.get((check.board, ref), "")),
                    "why": check.why, "by": by, "unit": check.unit,
                    "limits": "" if check.seen else check.limits, "of": shown_as(check), "live": check.live,
                    "state": row.state, "void": row.void, "typed": row.reading.typed if row.reading else "",
                    "black": leads.black if leads else "", "red": leads.red if leads else "",
                    "ref": ref if board is not None else "", "side": _side(board, ref), "polarity": check.fact == POLARITY,
                    "guards": "" if check.live else rounds.SAID[rounds.guards(check)],
                    "air": lifted_passes(check),
                    "swap": f"{reverse('swap', args=[board.row.pk])}?part={ref}" if board is not None and check.fact == POLARITY else "",
                }
            )  # fmt: skip
    return found


def _seen_in_photos(state: UnitState) -> dict[tuple[str, str], str]:
    """What photos that were taken after the swaps ask to look at, by board and reference."""
    told: dict[tuple[str, str], str] = {}
    for board in state.boards:
        for look in second_looks(board):
            name = board.row.name, look.ref
            told[name] = " ".join(filter(None, (told.get(name, ""), look.text)))
    return told


def _caution(check: prove.Check, photo: str) -> str:
    """The caution of a check; at a part whose polarity is looked at with what a photo shows there. It passes nothing."""
    return f"{check.caution} In the photo: {photo}".strip() if photo and check.fact == POLARITY else check.caution


def _side(board: object, ref: str) -> str:
    part = board.find(ref) if board is not None and ref else None
    return part.core.side if part is not None else "parts"


def states_of(state: UnitState, what: Played) -> dict[str, list[str]]:
    """How each check of a step stands: its state and why an older reading counts no more, by key."""
    proof = state.proof
    return {
        check.key: [proof.status_of(check).word, proof.status_of(check).void]
        for one in what.rounds
        for check in one.checks
    }


def gate_of(state: UnitState, what: Played) -> list[Mapping[str, str]]:
    """Why nothing of a step can be answered now; empty where something can."""
    proof = state.proof
    reasons: list[Mapping[str, str]] = []
    for check in what.left:
        found = interlocks.reading(proof, check)
        if not found:
            return []
        reasons = reasons or [{"text": one.text, "opens": one.opens} for one in found[:2]]
    return reasons
