"""Writing the dismantling log and reading it backwards."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from idlebench.core.board import dismantle
from idlebench.core.prove import interlocks
from idlebench.core.prove.record import HANDS
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import DismantleStep, Unit
from ..unit.door import in_unit_transaction, note
from ..unit.log import log
from ..unit.state import unit_state


@dataclass(frozen=True)
class DismantlingLine:
    """A step with its row and its number in the order it was taken apart."""

    number: int
    row: DismantleStep
    step: dismantle.DismantlingStep


def lines(unit: Unit) -> list[DismantlingLine]:
    """The log in the order it was written."""
    return [
        DismantlingLine(i, row, row.to_core()) for i, row in enumerate(unit.dismantling.prefetch_related("photos"), 1)
    ]


def told(found: list[DismantlingLine]) -> list[tuple[dismantle.DismantlingStep, bool]]:
    """Steps with whether they are back, as the core counts them."""
    return [(line.step, line.row.back is not None) for line in found]


@in_unit_transaction("The dismantling log is closed")
def take_off(unit: Unit, text: str) -> DismantleStep:
    """Log a step.

    Raises:
        BadInput: it cannot be read. Blocked: it is at a picture tube that is not known to be empty.
    """
    step = dismantle.read_step(text)
    if reasons := interlocks.take_off(unit_state(unit.pk).proof, step.what):
        raise Blocked(f"{step.what} cannot come off yet", reasons)
    row = DismantleStep.objects.create(unit=unit, text=" ".join(text.split()))
    note(unit, HANDS, timezone.now(), words=f"{step.what} taken off"[:300])
    log(unit, "dismantle", f"Off: {step.what}.")
    return row


@in_unit_transaction("The dismantling log is closed")
def put_back(row: DismantleStep) -> None:
    """Tick a step as back, or take the tick back. What came off last goes back first.

    Raises:
        Blocked: something that came off later is not back yet, or is on top of it.
    """
    unit = row.unit
    after = [other for other in unit.dismantling.all() if other.pk > row.pk]
    if row.back is None:
        waiting = [other.to_core().what for other in after if other.back is None]
        if waiting:
            raise Blocked(
                f"{row.to_core().what} cannot go back yet",
                (
                    Block(
                        "order", f"Off after it and not back: {', '.join(reversed(waiting))}.", "Put those back first."
                    ),
                ),
            )
        row.back = timezone.now()
    else:
        before = [other.to_core().what for other in unit.dismantling.all() if other.pk < row.pk and other.back]
        if before:
            on_top = ", ".join(before)
            raise Blocked(
                f"{row.to_core().what} is covered",
                (Block("order", f"Back on top of it: {on_top}.", "Take those off first."),),
            )
        row.back = None
    row.save(update_fields=["back"])
    log(unit, "dismantle", f"{'Back' if row.back else 'Off again'}: {row.to_core().what}.")


@in_unit_transaction("The dismantling log is closed")
def strike(row: DismantleStep) -> None:
    """Take the last step out of the log: it was written by mistake.

    Raises:
        BadInput: it is not the last one.
    """
    if row.unit.dismantling.order_by("-id").first() != row:
        raise BadInput(row.to_core().what, "the last step of the log", "Delete the later steps first.", field="step")
    log(row.unit, "dismantle", f"Deleted from the log: {row.to_core().what}.")
    row.delete()
