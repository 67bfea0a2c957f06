"""Beginning a practice machine, doing things to it, and what it asks next. Nothing of it touches a job, the Shelf or a figure."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from django.db import transaction
from django.utils import timezone

from idlebench.catalogue import house_columns
from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.rank import Candidate, rank
from idlebench.core.practice.machine_parts import PracticeStep
from idlebench.core.practice.machines import machine
from idlebench.core.practice.play import MOST, MoveResult, Run
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import PracticeRun

#: Candidates shown for a place: that fit, that do not.
FIT, REFUSED = 2, 2


@cache
def _by_name() -> dict[str, Capacitor]:
    return {part.part: part for part in house_columns().parts}


def find(name: str) -> Capacitor | None:
    """A part of the house catalogue."""
    return _by_name().get(name)


@dataclass(frozen=True)
class Sat:
    """A practice machine with its row."""

    row: PracticeRun
    run: Run


def begin(kind: str, seed: str, guided: bool = False) -> PracticeRun:
    """A new machine. guided: each step is shown before it is done, with its reason.

    Raises:
        BadInput: no such kind, or a seed that cannot be.
    """
    made = machine(kind, seed)
    kept = Run(machine=made, find=find, guided=True).as_json() if guided else {}
    return PracticeRun.objects.create(kind=made.kind, seed=made.seed, began=timezone.now(), kept=kept)


def sit(pk: int) -> Sat:
    """A practice machine as it stands.

    Raises:
        PracticeRun.DoesNotExist: there is none, or none that this version can make.
    """
    row = PracticeRun.objects.get(pk=pk)
    found = _made(row)
    if found is None:
        raise PracticeRun.DoesNotExist(f"practice machine {pk} is of another version")
    return found


def _made(row: PracticeRun) -> Sat | None:
    """A row with its machine; None where another version of the app kept it otherwise."""
    try:
        return Sat(row, Run.of(machine(row.kind, row.seed), find, row.kept))
    except (BadInput, KeyError, TypeError, ValueError):
        return None


def latest(count: int) -> list[Sat]:
    """The last machines that were taken in hand, as far as this version knows them."""
    return [sat for row in PracticeRun.objects.all()[:count] if (sat := _made(row)) is not None]


def do(pk: int, move: str, after: str) -> MoveResult:
    """Do one thing to a machine, all of it or nothing.

    Args:
        after: how many moves whoever does it has seen.

    Raises:
        BadInput: a move that cannot be. Blocked: somebody else has done something since.
    """
    with transaction.atomic():
        sat = _in_hand(pk, after)
        if len(sat.run.said) >= 2 * MOST:
            raise BadInput(
                move[:40], f"at most {2 * MOST} moves and hints", "Begin again with the same seed.", field="move"
            )
        if move.strip().lower() == "hint":
            step = sat.run.hint()
            said = MoveResult(
                "hint",
                f"{step.move}: {step.why}"
                if step
                else "No step of the reference solution is left: name the cause, and finish.",
            )
            sat.run.said.append(said)
        else:
            said = sat.run.move(_chosen(sat.run, move))
        sat.row.kept = sat.run.as_json()
        if sat.run.done:
            sat.row.ended = timezone.now()
        sat.row.save(update_fields=["kept", "ended"])
        return said


def _in_hand(pk: int, after: str) -> Sat:
    sat = sit(pk)
    if after != str(len(sat.run.said)):
        raise Blocked(
            "The machine has changed since you saw it",
            (
                Block(
                    "seen",
                    "Somebody did something to it since this page was loaded.",
                    "Load the page again, and see what was done.",
                ),
            ),
        )
    return sat


def _chosen(run: Run, move: str) -> str:
    """A move with “best” for a part put in full."""
    words = move.split()
    if len(words) == 3 and words[0].lower() == "swap" and words[2].lower() == "best":
        best = next((c for c in candidates(run, words[1].upper()) if c.verdict != "fails"), None)
        if best is None:
            raise BadInput(move, "a place for which the catalogue has a part", field="move")
        return f"swap {words[1]} with {best.part.part}"
    return move


def shown_step(run: Run) -> PracticeStep | None:
    """The next step where it is shown: in a guided run each, else the one that was asked for and is not done yet."""
    return run.advice() if not run.done and (run.guided or run.hinted == len(run.moves)) else None


def candidates(run: Run, ref: str) -> tuple[Candidate, ...]:
    """What the house catalogue has for a place: some that fit, and some that do not, the best first."""
    part = run.machine.part(ref)
    if part is None:
        return ()
    return rank(need_of(part, Mains()), house_columns(), fits=FIT, refused=REFUSED).candidates


def drop(pk: int) -> None:
    """Put a machine away."""
    PracticeRun.objects.filter(pk=pk).delete()
