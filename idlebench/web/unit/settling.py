"""Taking a part for a place, whoever asks for it: judged against the place as it stands, inside the unit's door."""

from __future__ import annotations

from django.utils import timezone

from idlebench.core.choose.rank import FAILS, Candidate, judge_parts
from idlebench.core.choose.salvage import may_be_taken
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import CatalogueItem, Choice
from .fits import need_for, ranking_for
from .log import log
from .parts import BoardState, PartState
from .state import UnitState


def take(state: UnitState, found: BoardState, part: PartState, name: str, seen: str = "") -> Choice:
    still_open(part, name, seen)
    row = CatalogueItem.objects.filter(part=name).first()
    if row is None:
        raise BadInput(name, "a part of the catalogue", "Choose one from the list.", field="item")
    candidate = judge_parts(need_for(state, part), [row.to_core()])[0]
    if candidate.status == FAILS:
        reasons = tuple(Block(r.rule, f"{r.text}.") for r in candidate.reasons if r.status == FAILS)
        raise Blocked(f"{name} does not fit {part.ref}", reasons)
    first = ranking_for(state, part, fits=1, refused=0).best
    return settle(found, part, candidate, by_hand=first is None or first.part.part != name)


def still_open(part: PartState, wanted: str, seen: str) -> None:
    """Refuse what was done already by another click or another page.

    Raises:
        Blocked: it says how the place is settled now.
    """
    if part.swap:
        raise Blocked(
            f"{part.ref} is swapped",
            (Block("swapped", f"{part.swap.item} is soldered in.", "Take the swap back first."),),
        )
    if part.mains_question:
        raise Blocked(f"{part.ref} cannot be decided", interlocks.mains_asked(part.mains_question))
    now = part.settled_as
    if now == wanted or (seen and seen != now):
        raise Blocked(f"{part.ref} was decided meanwhile", interlocks.settled(part.ref, now))


def settle(board: BoardState, part: PartState, candidate: Candidate, by_hand: bool = False) -> Choice:
    """Write down what was taken, with its reasons as they stand.

    Raises:
        Blocked: it is a used part, and its reading is too old.

    Args:
        by_hand: a person took another part than the first: no buying plan takes a third.
    """
    read = CatalogueItem.objects.filter(part=candidate.part.part).values_list("used_read", flat=True).first()
    days = (timezone.now() - read).total_seconds() / 86400 if read else None
    if shut := may_be_taken(days):
        raise Blocked(f"{candidate.part.part} is not used for {part.ref}", shut)
    reasons = [r.text for r in candidate.reasons]
    if read:
        reasons.append(
            f"{candidate.part.note}, read {timezone.localtime(read):%-d %b %Y}; its life is counted from half"
        )
    choice = getattr(part.row, "choice", None) or Choice(part=part.row)
    choice.outdated = ""
    choice.action, choice.item, choice.verdict, choice.reasons = (
        Choice.TAKE,
        candidate.part.part,
        candidate.verdict,
        reasons,
    )
    choice.by_hand = by_hand
    choice.save()
    log(board.row.unit, "choose", f"{board.row.name} {part.ref}: {choice.item}, {choice.verdict}. {'; '.join(reasons)}")
    return choice
