"""A check on a page of the proof."""

from __future__ import annotations

from dataclasses import dataclass

from idlebench.core import prove
from idlebench.core.prove import interlocks
from idlebench.core.refusal import Block

from ..records.models import Reading
from ..unit.state import UnitState


@dataclass(frozen=True, kw_only=True)
class CheckRow:
    """A check on the page: its reading if it has one, its state as a word, why the reading counts no more, why it is shut, and why the
    rounds of its unit do not ask it."""

    check: prove.Check
    reading: Reading | None
    state: str
    void: str
    shut: tuple[Block, ...]
    aside: str = ""

    @property
    def shows(self) -> tuple[object, ...]:
        """All that its row on a page shows of it."""
        one = self.reading
        read = (one.pk, one.typed, one.value, one.overridden, one.reason, one.device) if one is not None else ()
        return self.check, read, self.state, self.void, self.shut, self.aside


def row_of(state: UnitState, check: prove.Check) -> CheckRow:
    """A check with what was read of it and what counts of that."""
    stood = state.proof.status_of(check)
    return CheckRow(
        check=check,
        reading=state.reading_of(check),
        state=stood.word,
        void=stood.void,
        shut=interlocks.reading(state.proof, check),
        aside=state.proof.left_out.get(check.key, ""),
    )
