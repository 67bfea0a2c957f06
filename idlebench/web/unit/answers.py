"""Answers that a page of rounds sends: read as they come, and each judged once, in the page's own order."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import timedelta

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone

from idlebench.core.refusal import BadInput, Blocked

from ..records.models import Event, RoundAnswer

#: Answers in one request, and bytes of it, at most: more than a board has parts to look at.
MOST, MOST_BYTES = 400, 400_000
#: An answer that is what the page's meter shows.
METER = "meter"
#: How long what became of an answer is kept; answers that are older are asked again.
KEPT = timedelta(days=2)


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One answer of a page. key: the page's own. check: what it answers. typed: yes, no, beeps, meter or a reading. of: what that was like
    when it was shown. age: s since it was given. seen: the last event that the page had been told of then. note: what was seen, where it
    was not as it should be. left: volts left across a part, as typed. in_circuit: whether the part was measured in its board."""

    key: str
    check: str
    typed: str
    of: str
    age: float
    seen: int
    note: str = ""
    left: str = ""
    in_circuit: bool = False


@dataclass(frozen=True)
class Outcome:
    """What became of an answer. told: what the page is told, None where the answer was refused. stop: why the round stops there, None
    where it goes on."""

    told: dict[str, object] | None
    stop: dict[str, str] | None = None


def stopped(check: str, why: str, opens: str = "") -> dict[str, str]:
    """Why a round stops at a check."""
    return {"check": check, "why": why, "opens": opens}


def read_answers(request: HttpRequest) -> tuple[str, list[Answer]]:
    """What a page sends: its own name, and its answers in order.

    Raises:
        BadInput: it is no such message.
    """
    try:
        told = json.loads(request.body) if len(request.body) <= MOST_BYTES else None
        play, found = str(told["play"]), [_answer(one) for one in list(told["answers"])]
    except (KeyError, TypeError, ValueError, AttributeError):
        raise BadInput("", "answers of a round", "Load the round again.", field="answers") from None
    if not all(8 <= len(name) <= 40 for name in (play, *(one.key for one in found))) or len(found) > MOST:
        raise BadInput(
            "", f"up to {MOST} answers, each with a key of its own", "Load the round again.", field="answers"
        )
    if any(not math.isfinite(one.age) or one.age < 0 for one in found):
        raise BadInput("", "how old each answer is, s", "Load the round again.", field="age")
    return play, found


def _answer(one: dict[str, object]) -> Answer:
    return Answer(
        key=str(one["key"]), check=str(one["check"]), typed=str(one["typed"])[:120], of=str(one["of"]), age=float(one["age"]),
        seen=int(one["seen"]), note=str(one.get("note", ""))[:200].strip(), left=str(one.get("left", ""))[:40],
        in_circuit=bool(one.get("in_circuit")),
    )  # fmt: skip


def judged_once(
    unit: int, play: str, answers: Iterable[Answer], judge: Callable[[Answer, set[int]], Outcome]
) -> tuple[list[dict[str, object]], dict[str, str] | None]:
    """Judge the answers of a page in its own order, each once; the first that is refused stops the rest.

    Args:
        unit: its key.
        play: the page's own name.
        answers: in the order in which they were given.
        judge: judges one, with the events of the page's own earlier answers; what it refuses it has not written.

    Returns:
        What the page is told of each that was judged, and what stopped the round, None where nothing did.
    """
    told: list[dict[str, object]] = []
    own = set(RoundAnswer.objects.filter(unit=unit, play=play).values_list("event", flat=True))
    RoundAnswer.objects.filter(unit=unit, at__lt=timezone.now() - KEPT).delete()
    for one in answers:
        kept = RoundAnswer.objects.filter(unit=unit, key=one.key).first()
        if kept is not None:
            told.append(kept.told)
            continue
        try:
            with transaction.atomic():
                outcome = judge(one, own)
        except BadInput as error:
            outcome = Outcome(None, stopped(one.check, error.plain))
        except Blocked as error:
            outcome = Outcome(None, stopped(one.check, error.reasons[0].text, error.reasons[0].opens))
        if outcome.told is not None:
            event = Event.objects.filter(unit=unit).order_by("-pk").values_list("pk", flat=True).first() or 0
            own.add(event)
            kept = RoundAnswer(
                unit_id=unit,
                key=one.key,
                play=play,
                event=event,
                told={"key": one.key, **outcome.told},
                at=timezone.now(),
            )
            kept.save()
            told.append(kept.told)
        if outcome.stop is not None:
            return told, outcome.stop
    return told, None
