"""Rounds of checks: what a page plays, and the answers that it sends, each judged once in the page's own order."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta
from itertools import pairwise

from django.urls import reverse
from django.utils import timezone

from idlebench.core import prove
from idlebench.core.prove import interlocks, rounds
from idlebench.core.prove.facts import DISCHARGED, POLARITY
from idlebench.core.prove.leads import REF, by_leads, leads_of, places_of
from idlebench.core.prove.meter_watch import lifted_passes
from idlebench.core.prove.rounds import Answered, Pace
from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Reading, RoundAnswer
from ..unit.door import unit_transaction
from ..unit.log import log
from ..unit.state import UnitState
from . import services, watching
from .check_rows import row_of

#: Answers in one request at most: more than a board has parts to look at.
MOST = 400
#: An answer that is what the page's meter stood still at.
METER = "meter"
#: How long what became of an answer is kept.
KEPT = timedelta(days=2)
#: Readings whose times tell the shop's own pace.
PACED = 600


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One answer of a page. key: the page's own. check: of the check. typed: yes, no, beeps or a reading. of: what the check was when it
    was shown, as `shown_as` says it. age: s since it was given. seen: the last event that the page had been told of then. note: what was
    seen, where it was not as it should be."""

    key: str
    check: str
    typed: str
    of: str
    age: float
    seen: int
    note: str = ""


def read_answers(told: object) -> tuple[str, list[Answer]]:
    """What a page sends: its own name, and its answers in order.

    Raises:
        BadInput: it is no such message.
    """
    try:
        play, some = str(told["play"]), list(told["answers"])
        found = [
            Answer(
                key=str(one["key"]), check=str(one["check"]), typed=str(one["typed"]), of=str(one["of"]),
                age=float(one["age"]), seen=int(one["seen"]), note=str(one.get("note", ""))[:200].strip(),
            )
            for one in some
        ]  # fmt: skip
    except (KeyError, TypeError, ValueError, AttributeError):
        raise BadInput("", "answers of a round", "Load the round again.", field="answers") from None
    names = [play, *(one.key for one in found)]
    if not all(8 <= len(name) <= 40 for name in names) or len(found) > MOST:
        raise BadInput(
            "", f"up to {MOST} answers, each with a key of its own", "Load the round again.", field="answers"
        )
    if any(not math.isfinite(one.age) or one.age < 0 for one in found):
        raise BadInput("", "how old each answer is, s", "Load the round again.", field="age")
    return play, found


def shown_as(check: prove.Check) -> str:
    """What a check was like when a page showed it, in a few letters: with another, its answer is of something else."""
    said = json.dumps([check.kind, check.ask, check.low, check.high, sorted(check.evidence.items())])
    return hashlib.sha256(said.encode()).hexdigest()[:12]


def take_answers(unit: int, play: str, answers: Iterable[Answer]) -> tuple[list[dict], dict | None]:
    """Judge the answers of a page in its own order, each once; the first that is refused stops the rest.

    Args:
        unit: its key.
        play: the page's own name.
        answers: in the order in which they were given.

    Returns:
        What became of each that was judged, and what stopped the round, None where nothing did.
    """
    told: list[dict] = []
    with unit_transaction(unit, "Nothing can be read now") as door:
        state, own = door.state, _own_events(unit, play)
        RoundAnswer.objects.filter(unit=unit, at__lt=timezone.now() - KEPT).delete()
        for one in answers:
            kept = RoundAnswer.objects.filter(unit=unit, key=one.key).first()
            if kept is not None:
                told.append(kept.told)
                continue
            outcome, stop = _judged(state, one, play, own)
            if outcome is not None:
                told.append(outcome)
                event = state.last_event
                own.add(event)
                RoundAnswer.objects.create(
                    unit_id=unit, key=one.key, play=play, event=event, told=outcome, at=state.now
                )
            if stop is not None:
                return told, stop
    return told, None


def _own_events(unit: int, play: str) -> set[int]:
    return set(RoundAnswer.objects.filter(unit=unit, play=play).values_list("event", flat=True))


def _judged(state: UnitState, one: Answer, play: str, own: set[int]) -> tuple[dict | None, dict | None]:
    """What became of an answer, None where it was refused; and why the round stops at it, None where it goes on."""
    check = state.proof.check(one.check)
    if check is None:
        return None, _stop(one.check, "This check is no longer asked.", "Go on with the next.")
    since = [event for key, event in state.recorded if key > one.seen and key not in own]
    answered = Answered(
        age=one.age, same=one.of == shown_as(check), since=tuple((event, event.tells) for event in since)
    )
    if why := rounds.asked_again(check, answered):
        return None, _stop(check.key, f"{check.point} is asked again: {why}.", "Answer it again.")
    try:
        typed, mark = watching.stood_still(state, play, check) if one.typed == METER else (one.typed, "")
        reading = services.taken(state, check.key, typed, mark)
    except BadInput as error:
        return None, _stop(check.key, error.plain, "")
    except Blocked as error:
        first = error.reasons[0]
        return None, _stop(check.key, first.text, first.opens)
    if not reading.passed and one.note:
        log(state.row, "reading", f"{check.point}: {one.note}")
    outcome = {
        "key": one.key,
        "check": check.key,
        "typed": reading.typed,
        "state": "passed" if reading.passed else "failed",
    }
    if reading.passed or not (check.fact == DISCHARGED or check.off_now):
        return outcome, None
    hurts = "Off now: switch it off at the mains." if check.off_now else "Discharge it, then read it again."
    return outcome, _stop(check.key, f"{check.point}: {reading.typed}, limit {check.limits}.", hurts)


def _stop(check: str, why: str, opens: str) -> dict[str, str]:
    return {"check": check, "why": why, "opens": opens}


@dataclass(frozen=True, kw_only=True)
class Played:
    """A step as a page plays it: its rounds with the checks that are asked of it, what is left out, and how long it takes."""

    step: prove.PowerStep
    rounds: Sequence[rounds.Round]
    left_out: Sequence[tuple[str, list[str]]]
    left: Sequence[prove.Check]
    pace: Pace

    @property
    def minutes(self) -> str:
        """How long what is left takes, in words."""
        return rounds.in_words(self.pace.minutes(self.left))


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
        rounds=rounds.rounds_of(step, ordered),
        left_out=proof.left_out_of([step]),
        left=[c for c in asked if not proof.done(c)],
        pace=pace(),
    )


def pace() -> Pace:
    """The shop's own pace, from the times of its last readings."""
    gaps: dict[str, list[float]] = {}
    rows = list(Reading.objects.order_by("-pk").values_list("unit", "at", "typed", "overridden")[:PACED])
    for (unit, at, typed, accepted), (before_unit, before, _, _) in pairwise(rows):
        if unit == before_unit and not accepted:
            gaps.setdefault(rounds.kind_of_answer(typed), []).append((at - before).total_seconds())
    return rounds.pace_of(gaps)


def items_of(state: UnitState, what: Played) -> list[dict[str, object]]:
    """The checks of a step as its page needs them, in the order in which they are played."""
    boards = {board.row.name: board for board in state.boards}
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
                    "ask": check.ask, "caution": check.caution, "why": check.why, "by": by, "unit": check.unit,
                    "limits": "" if check.seen else check.limits, "of": shown_as(check), "live": check.live,
                    "state": row.state, "void": row.void, "typed": row.reading.typed if row.reading else "",
                    "black": leads.black if leads else "", "red": leads.red if leads else "",
                    "ref": ref if board is not None else "", "side": _side(board, ref), "polarity": check.fact == POLARITY,
                    "person": rounds.guards(check) == rounds.PERSON,
                    "air": lifted_passes(check),
                    "swap": f"{reverse('swap', args=[board.row.pk])}?part={ref}" if board is not None and check.fact == POLARITY else "",
                }
            )  # fmt: skip
    return found


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
