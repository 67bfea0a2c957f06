"""Taking jobs in and describing their units and boards. Each service is one transaction."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Case, Count, Exists, FloatField, Max, OuterRef, Q, QuerySet, Value, When

from idlebench.core.board.first_look import FirstLookItem
from idlebench.core.prove import interlocks
from idlebench.core.refusal import BadInput, Blocked
from idlebench.instruments import HOUSE

from ..records.models import Board, Job, PowerSession, ShopHours, Unit
from ..unit.door import in_unit_transaction, opened_all, unit_transaction
from ..unit.log import log
from ..unit.state import UnitState
from .forms import Facts


def open_units() -> QuerySet[Unit]:
    """The units of every job in which something is left to do, the most urgent first.

    What has power, what matters more, the oldest job; what is handed over already comes last.
    """
    left = Unit.objects.filter(job=OuterRef("job"), handed_over=None)
    hours = ShopHours.objects.first()
    weighed = [When(pk=int(pk), then=Value(float(weight))) for pk, weight in (hours.weights if hours else {}).items()]
    weight = Case(*weighed, default=Value(1.0), output_field=FloatField())
    live = Exists(PowerSession.objects.filter(unit=OuterRef("pk"), ended=None))
    return (
        Unit.objects.filter(Exists(left))
        .annotate(live=live, weight=weight, over=Q(handed_over__isnull=False))
        .select_related("job")
        .order_by("over", "-live", "-weight", "job_id", "name", "pk")
    )


def finished_jobs() -> QuerySet[Job]:
    """Jobs of which every unit is handed over, the latest first; `units_done` of each, and when the last was."""
    left = Unit.objects.filter(job=OuterRef("pk"), handed_over=None)
    return (
        Job.objects.filter(~Exists(left))
        .annotate(units_done=Count("units"), last_done=Max("units__handed_over"))
        .order_by("-last_done", "-pk")
        .prefetch_related("units")
    )


@transaction.atomic
def take_in_job(facts: Facts, names: Sequence[str]) -> Job:
    """Log a job with its units, by their names."""
    job = Job.objects.create(**facts)
    for name in names:
        log(Unit.objects.create(job=job, name=name), "intake", f"New job: {job.machine}, unit {name}.")
    return job


def change_job(job: Job, facts: Facts) -> None:
    """Change a job's facts and ways of working; its units' records say so where it changes what was proven.

    Raises:
        Blocked: a unit of it has power, and the mains, the way up or the bench it is tried on would change under it.
    """
    title = "The job cannot be changed"
    with opened_all(list(job.units.values_list("pk", flat=True)), title, closed_too=True) as units:
        job.refresh_from_db()
        other = (job.meter == HOUSE) != (facts.get("meter", job.meter) == HOUSE)
        reasons = [reason for unit in units for reason in interlocks.other_bench(unit.state.proof)] if other else []
        if reasons:
            raise Blocked(title, tuple(reasons))
        for name, value in facts.items():
            setattr(job, name, value)
        job.save()


@transaction.atomic
def add_unit(job: Job, name: str) -> Unit:
    """Take another unit of the same kind into a job."""
    if job.units.filter(name=name).exists():
        raise BadInput(name, "a name this job does not have yet", field="name")
    unit = Unit.objects.create(job=job, name=name)
    log(unit, "intake", f"New unit: {job.machine}, unit {name}.")
    return unit


@in_unit_transaction("The unit cannot be changed")
def describe_unit(unit: Unit, facts: Facts) -> None:
    """Serial number, symptoms as told, what is missing, found or mended before, date codes."""
    for name, value in facts.items():
        setattr(unit, name, value)
    unit.save()
    log(unit, "intake", "Described.")


def tick_look(unit: Unit, key: str) -> None:
    """Tick a first look, or take the tick back.

    Raises:
        BadInput: no such look. Blocked: a leaking battery is still in, or the unit has power.
    """
    with unit_transaction(unit.pk, "The first look is closed") as door:
        state = door.state
        look = _look(state, key)
        reasons = interlocks.idle(state.proof) or interlocks.tick(state.proof, key)
        if reasons:
            raise Blocked(f"{look.text}: not yet", reasons)
        row = state.row
        row.first_look = [k for k in row.first_look if k != key] if key in row.first_look else [*row.first_look, key]
        row.look_skipped = {k: why for k, why in row.look_skipped.items() if k != key}
        row.save(update_fields=["first_look", "look_skipped"])
        log(row, "intake", f"First look, {look.text}: {'done' if key in row.first_look else 'taken back'}.")


def skip_look(unit: Unit, key: str, reason: str) -> None:
    """Skip a look with a reason, which stands on the sheet. One that can hurt somebody is never skipped.

    Raises:
        BadInput: no such look, or no reason. Blocked: it can hurt somebody.
    """
    with unit_transaction(unit.pk, "The first look is closed") as door:
        state = door.state
        look = _look(state, key)
        reasons = interlocks.skip(state.proof, key)
        if reasons:
            raise Blocked(f"{look.text} cannot be skipped", reasons)
        interlocks.needs_words(reason)
        row = state.row
        row.first_look = [k for k in row.first_look if k != key]
        row.look_skipped = {**row.look_skipped, key: reason.strip()}
        row.save(update_fields=["first_look", "look_skipped"])
        log(row, "intake", f"First look, {look.text}: skipped. {reason.strip()}")


def _look(state: UnitState, key: str) -> FirstLookItem:
    found = next((look for look in state.first_look if look.key == key), None)
    if found is None:
        raise BadInput(key, f"one of {', '.join(look.key for look in state.first_look)}", field="look")
    return found


@in_unit_transaction("The unit cannot be changed")
def add_board(unit: Unit, facts: Facts) -> Board:
    """Add a board to a unit."""
    if unit.boards.filter(name=facts["name"]).exists():
        raise BadInput(str(facts["name"]), "a name this unit does not have yet", field="name")
    board = Board.objects.create(unit=unit, **facts)
    log(unit, "intake", f"Board {board.name} listed.")
    return board


@in_unit_transaction("The unit cannot be changed")
def change_board(board: Board, facts: Facts) -> None:
    """Change a board's facts."""
    if board.unit.boards.exclude(pk=board.pk).filter(name=facts["name"]).exists():
        raise BadInput(str(facts["name"]), "a name this unit does not have yet", field="name")
    for name, value in facts.items():
        setattr(board, name, value)
    board.save()
    log(board.unit, "intake", f"Board {board.name} described.")
