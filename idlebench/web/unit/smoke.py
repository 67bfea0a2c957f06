"""A smoke test as it stands: the step, what it should draw, and the symptoms that it may cure."""

from __future__ import annotations

from dataclasses import dataclass

from idlebench.core.prove import PowerStep, interlocks
from idlebench.core.prove.low_voltage import SMOKE_STEP, smoke_step
from idlebench.core.refusal import BadInput, Block
from idlebench.core.simulate.expected import Band, foreseen
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.state import State
from idlebench.core.text.quantity import show

from ..records.models import PowerSession
from .expecting import bench_of, known_of
from .state import UnitState


@dataclass(frozen=True, kw_only=True)
class SmokeView:
    """A smoke test for its page: the step, why it is blocked, A expected in words, what it may cure; the session while it has power."""

    step: PowerStep
    reasons: tuple[Block, ...]
    expected: str
    symptoms: tuple[str, ...]
    asked: int
    session: PowerSession | None


def smoke_view(state: UnitState) -> SmokeView | None:
    """A smoke test as it stands; None where the unit's power-up method has none."""
    step = smoke_step(state.proof.steps, state.proof.way)
    if step is None:
        return None
    session = PowerSession.objects.filter(ended=None, unit=state.row, step=SMOKE_STEP).first()
    limit = next((check.high for check in step.checks if check.kind == "amps" and check.high), 0.0)
    band = expected_amps(state)
    words = f"{show(band.low, 'A', 2)} to {show(band.high, 'A', 2)}" if band else f"at most {show(limit, 'A', 2)}"
    return SmokeView(
        step=step,
        reasons=() if session else interlocks.smoke(state.proof),
        expected=words,
        symptoms=tuple(line.strip() for line in state.row.symptoms.splitlines() if line.strip())[:6],
        asked=state.last_event,
        session=session,
    )


def expected_amps(state: UnitState) -> Band | None:
    """A that the machine draws of its source by its supply's lines; None where they do not tell."""
    for board in state.boards:
        if not board.row.supply or not board.supply:
            continue
        try:
            bench = bench_of(known_of(state, board))
        except BadInput:
            continue
        if bench.outside:
            on = State(volts=state.job.mains_volts, frequency=state.job.mains_frequency, load="board")
            (band,), _ = foreseen(bench, on, [Asked(point="mains", what="amps", typed="mains")])
            return band
    return None
