"""The stage spine: eight stations, each with its address and what is left there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from django.urls import reverse

from idlebench.core.wording import many

from .parts import BoardState

if TYPE_CHECKING:
    from .state import UnitState


@dataclass(frozen=True)
class Stage:
    """A station on the spine: its address, what is left, and its state: done, open or here."""

    key: str
    title: str
    url: str
    left: str
    done: bool


def stages_of(state: UnitState) -> list[Stage]:
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
    total = f" of {sum(expected)}" if expected and None not in expected else ""
    unit, first = state.row.pk, state.boards[0].row.pk if state.boards else 0

    def on_board(name: str, wanted: Iterable[BoardState]) -> str:
        board = next(iter(wanted), None)
        return reverse(name, args=[board.row.pk if board else first]) if first else reverse("intake", args=[unit])

    handed = state.row.handed_over is not None
    return [
        Stage(
            "intake",
            "Intake",
            reverse("intake", args=[unit]),
            f"{state.looked} of {len(state.first_look)}",
            state.looked == len(state.first_look),
        ),
        Stage(
            "survey",
            "Survey",
            on_board("survey", (b for b in state.boards if not b.complete)),
            f"{len(state.parts)}{total}",
            survey_done,
        ),
        Stage(
            "choose",
            "Choose",
            on_board("choose", (b for b in state.boards if any(p.choice is None for p in b.places))),
            f"{settled} of {len(places)}",
            bool(places) and settled == len(places),
        ),
        Stage(
            "gather",
            "Gather",
            reverse("gather", args=[unit]),
            many(len({p.choice.item for p in taken if not p.swap}), "kind"),
            bool(taken) and all(p.swap for p in taken),
        ),
        Stage(
            "swap",
            "Swap",
            on_board(
                "swap", (b for b in state.boards if any(p.swap is None for p in (*b.to_swap, *b.devices_to_swap)))
            ),
            f"{swapped} of {len(to_swap)}",
            bool(to_swap) and swapped == len(to_swap),
        ),
        Stage(
            "cold",
            "Cold checks",
            reverse("cold", args=[unit]),
            f"{cold_done} of {len(cold.checks)}",
            cold_done == len(cold.checks),
        ),
        Stage(
            "power",
            "First power",
            reverse("power", args=[unit]),
            f"{up_done} of {len(up)}" if up else "no rails",
            bool(up) and up_done == len(up),
        ),
        Stage("handover", "Hand-over", reverse("handover", args=[unit]), "done" if handed else "", handed),
    ]
