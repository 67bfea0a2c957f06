"""Guiding a reforming run: readings in, advice out, closed by a logged discharge."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from idlebench.core.circuit.discharge import SAFE_TO_HANDLE
from idlebench.core.draw.plots import Plot, reform_plot
from idlebench.core.judge import reform
from idlebench.core.prove import interlocks
from idlebench.core.prove.clock import Moment, lasted
from idlebench.core.prove.record import REFORM
from idlebench.core.refusal import Block, Blocked
from idlebench.core.text.calculation import Calculation
from idlebench.core.text.quantity import read, show

from ..records import steady
from ..records.models import Event, Part, ReformReading, ReformRun
from ..unit.door import in_unit_transaction, note
from ..unit.log import log
from ..unit.rows import board_id, part_id
from ..unit.series import save_part
from ..unit.state import unit_state


@dataclass(frozen=True, kw_only=True)
class RunState:
    """A run as it stands now."""

    run: ReformRun
    plan: Calculation
    readings: list[reform.CurrentReading]
    advice: reform.Advice
    curve: Plot | None

    @property
    def over(self) -> bool:
        """Whether no more current is read: it is done or stopped, and only the discharge is left."""
        return bool(self.run.outcome)

    @property
    def steps(self) -> list[tuple[float, float, int]]:
        """Each step's volts, its limit in A, and its number."""
        return steps_of(self.run.part)


def steps_of(part: Part) -> list[tuple[float, float, int]]:
    """What a run of a part goes through: each step's volts, its limit in A, and its number; nothing where its volts are not known."""
    if not part.volts:
        return []
    return [
        (share * part.volts, reform.limit_at(part.value, share * part.volts), i) for i, share in enumerate(reform.STEPS)
    ]


@dataclass(frozen=True, kw_only=True)
class Resistors:
    """What a run of a part goes through: the least and the largest resistor, Ω, one of a usual size between them, and the watts that
    a short takes from that one at rated volts. limited: whether its source must limit the current as well."""

    least: float
    most: float
    usual: float
    watts: float
    limited: bool


#: Resistors that lie in every drawer, Ω.
USUAL = (100.0, 150.0, 220.0, 330.0, 470.0, 680.0, 1e3, 1.5e3, 2.2e3, 3.3e3, 4.7e3, 6.8e3, 10e3)


def resistors_of(part: Part) -> Resistors | None:
    """The series resistors that a part asks for; None where its volts are not known."""
    if not part.volts:
        return None
    most = reform.largest(part.value, part.volts)
    usual = max(size for size in USUAL if size <= most)
    return Resistors(
        least=reform.RESISTANCE[0],
        most=most,
        usual=usual,
        watts=part.volts**2 / usual,
        limited=usual < reform.LIMITED_UNDER,
    )


def open_run(part: Part) -> ReformRun | None:
    return part.reforming.filter(discharged=None).order_by("-id").first()


def state_of(run: ReformRun) -> RunState:
    """Where a run stands."""
    part = run.part
    readings = [r.to_core() for r in run.readings.all()]
    minutes = _minutes(run)
    advice = reform.advise(part.value, part.volts, readings, minutes, run.resistance)
    return RunState(
        run=run,
        plan=reform.reform(part.value, part.volts, run.resistance),
        readings=readings,
        advice=advice,
        curve=reform_plot(part.value, part.volts, readings),
    )


def _minutes(run: ReformRun) -> float:
    """How long a run has lasted at least, minutes: by the wall clock or the steady clock, whichever says less."""
    began = Event.objects.filter(kind=REFORM, row=part_id(run.part_id), at=run.began).order_by("-pk").first()
    since = (
        Moment(run.began.timestamp(), began.boot, steady.as_seconds(began.steady))
        if began
        else Moment(run.began.timestamp())
    )
    return max(0.0, lasted(since, steady.moment(timezone.now()))) / 60


@in_unit_transaction("Nothing is reformed now")
def begin(part: Part, typed: str) -> ReformRun:
    """Begin a run with a series resistor as typed.

    Raises:
        BadInput: a resistor outside the range. Blocked: not a part that is reformed.
    """
    unit = part.board.unit
    reasons = interlocks.reform(unit_state(unit.pk).proof, part.to_core(), open_run(part) is not None)
    if reasons:
        raise Blocked(f"{part.ref} cannot be reformed", reasons)
    resistance = read(typed, "Ω", field="resistance")
    reform.reform(part.value, part.volts, resistance)
    reform.check_resistance(part.value, part.volts, resistance)
    now = timezone.now()
    run = ReformRun.objects.create(part=part, resistance=resistance, began=now)
    note(unit, REFORM, now, row=part_id(part.pk), board=board_id(part.board_id), words=f"{part.board.name} {part.ref}")
    log(unit, "reform", f"{part.board.name} {part.ref}: reforming through {show(resistance, 'Ω')}.")
    return run


@in_unit_transaction("Nothing is reformed now")
def take_current(run: ReformRun, typed: str, across: str = "", *, warm: bool = False) -> RunState:
    """Log a current and the volts across the part; the step goes on by itself when the advice says so.

    Raises:
        BadInput: it cannot be read. Blocked: the run is over.
    """
    before = state_of(run)
    if before.over:
        raise Blocked("The run is over", (Block("over", before.advice.text, "Log the discharge."),))
    current = read(typed, "A", field="current", low=0, high=10)
    volts = read(across, "V", field="across", low=0, high=1e4) if across.strip() else None
    reform.possible(run.part.value, run.part.volts, run.resistance, before.advice.step, current, volts)
    minutes = _minutes(run)
    facts = {"minutes": minutes, "current": current, "warm": warm, "volts": volts}
    ReformReading.objects.create(run=run, step=before.advice.step, **facts)
    after = state_of(run)
    if after.advice.kind in (reform.DONE, reform.STOP):
        run.outcome = after.advice.kind
        run.save(update_fields=["outcome"])
        log(run.part.board.unit, "reform", f"{run.part.board.name} {run.part.ref}: {after.advice.text}")
    return after


@in_unit_transaction("Nothing is reformed now")
def stop(run: ReformRun) -> None:
    """Stop a run by hand; it counts as neither reformed nor condemned."""
    if not run.outcome:
        run.outcome = "left"
        run.save(update_fields=["outcome"])
        log(run.part.board.unit, "reform", f"{run.part.board.name} {run.part.ref}: run stopped early.")


@in_unit_transaction("Nothing is reformed now")
def discharge(run: ReformRun, typed: str) -> None:
    """Close a run with the volts left on the store; what was learned goes onto the part.

    Raises:
        BadInput: not volts. Blocked: the run is not over, or the store is not empty.
    """
    if not run.outcome:
        raise Blocked("The run is not over", (Block("open", "Volts are still on.", "Finish or stop it first."),))
    volts = read(typed, "V", field="volts", low=-1000, high=1000)
    if abs(volts) > SAFE_TO_HANDLE:
        raise Blocked(
            "Still charged",
            (
                Block(
                    "charged",
                    f"{show(volts, 'V')} is left, it must be under {show(SAFE_TO_HANDLE, 'V')}.",
                    "Wait and measure again.",
                ),
            ),
        )
    run.discharged = volts
    run.save(update_fields=["discharged"])
    last = run.readings.order_by("-id").first()
    part = run.part
    if last and run.outcome in (reform.DONE, reform.STOP):
        part.leakage = last.current
        part.reformed = run.outcome == reform.DONE
        if run.outcome == reform.STOP:
            part.note = "; ".join(filter(None, [part.note, "reforming stopped"]))[:1000]
        save_part(part)
    log(part.board.unit, "reform", f"{part.board.name} {part.ref}: discharged to {show(volts, 'V')}.")


__all__ = ["RunState", "begin", "discharge", "open_run", "state_of", "stop", "take_current"]
