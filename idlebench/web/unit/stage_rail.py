"""The stages of a unit: eight stations, each with its address and what is left there."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Protocol

from django.urls import reverse

from idlebench.core.board.first_look import FirstLookItem
from idlebench.core.prove import Proof
from idlebench.core.wording import many

from ..records.models import Unit
from .parts import BoardState, PartState


class Staged(Protocol):
    """What the stages are told from: a unit's row, its boards and parts, its first look and its readings."""

    row: Unit
    boards: tuple[BoardState, ...]
    looked: int

    @property
    def parts(self) -> Sequence[PartState]:
        """All parts of its boards."""

    @property
    def first_look(self) -> Sequence[FirstLookItem]:
        """What is looked at before any plug."""

    @property
    def proof(self) -> Proof:
        """What counts of its readings."""


@dataclass(frozen=True, kw_only=True)
class Stage:
    """A stage: its address, what is left there in words ("7 left", "done"), and whether nothing is."""

    key: str
    title: str
    url: str
    left: str
    done: bool


def stages_of(state: Staged) -> list[Stage]:
    """The eight stations with what is left at each."""
    places = [p for p in state.parts if p.to_fill]
    settled = sum(p.choice is not None for p in places)
    taken = [p for p in state.parts if p.taken]
    to_swap = [p for b in state.boards for p in (*b.to_swap, *b.devices_to_swap)]
    swapped = sum(p.swap is not None for p in to_swap)
    survey_done = bool(state.boards) and all(b.complete for b in state.boards)
    proof = state.proof
    cold = proof.steps[0]
    cold_done = sum(proof.done(c) or not proof.wanted(c) for c in cold.checks)
    up = proof.steps[1:]
    up_done = sum(proof.step_done(s) for s in up)
    expected = [b.row.expected for b in state.boards]
    to_list = sum(expected) - len(state.parts) if expected and None not in expected else 0
    unit, first = state.row.pk, state.boards[0].row.pk if state.boards else 0

    def on_board(name: str, wanted: Iterable[BoardState]) -> str:
        board = next(iter(wanted), None)
        return reverse(name, args=[board.row.pk if board else first]) if first else reverse("intake", args=[unit])

    handed = state.row.handed_over is not None
    return [
        Stage(
            key="intake",
            title="Intake",
            url=reverse("intake", args=[unit]),
            left=_left(len(state.first_look) - state.looked),
            done=state.looked == len(state.first_look),
        ),
        Stage(
            key="survey",
            title="Survey",
            url=on_board("survey", (b for b in state.boards if not b.complete)),
            left="done" if survey_done else _left(to_list) if to_list else f"{len(state.parts)} listed",
            done=survey_done,
        ),
        Stage(
            key="choose",
            title="Choose",
            url=on_board("choose", (b for b in state.boards if any(p.choice is None for p in b.places))),
            left=_left(len(places) - settled) if places else "",
            done=bool(places) and settled == len(places),
        ),
        Stage(
            key="gather",
            title="Gather",
            url=reverse("gather", args=[unit]),
            left=_kinds(taken),
            done=bool(taken) and all(p.swap for p in taken),
        ),
        Stage(
            key="swap",
            title="Swap",
            url=on_board(
                "swap", (b for b in state.boards if any(p.swap is None for p in (*b.to_swap, *b.devices_to_swap)))
            ),
            left=_left(len(to_swap) - swapped) if to_swap else "",
            done=bool(to_swap) and swapped == len(to_swap),
        ),
        Stage(
            key="cold",
            title="Cold checks",
            # what is left is played as rounds; what is done is read as a list
            url=reverse("cold", args=[unit])
            if cold_done == len(cold.checks)
            else f"{reverse('round', args=[unit])}?step=cold",
            left=_left(len(cold.checks) - cold_done),
            done=cold_done == len(cold.checks),
        ),
        Stage(
            key="power",
            title="First power",
            url=f"{reverse('round', args=[unit])}?step={proof.live}" if proof.live else reverse("power", args=[unit]),
            left=_left(len(up) - up_done) if up else "no rails",
            done=bool(up) and up_done == len(up),
        ),
        Stage(
            key="handover",
            title="Hand-over",
            url=reverse("handover", args=[unit]),
            left="done" if handed else "",
            done=handed,
        ),
    ]


def _left(number: int) -> str:
    """What is left, the same words everywhere."""
    return f"{number} left" if number > 0 else "done"


def _kinds(taken: Sequence[PartState]) -> str:
    """Kinds of parts that are still to be swapped in; "" before any is taken."""
    kinds = len({p.choice.item for p in taken if not p.swap})
    return many(kinds, "kind") if kinds else "done" if taken else ""
