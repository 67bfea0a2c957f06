"""Faults that stay, accepted by the owner: they stand on the sheet, and a later job may be made of each."""

from __future__ import annotations

from django.db import transaction
from django.forms.models import model_to_dict
from django.utils import timezone

from idlebench.core.prove import Check, interlocks
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.models import Job, KnownFault, Unit
from ..unit.accepting import accept, withdraw
from ..unit.door import unit_transaction
from ..unit.log import log
from ..unit.state import UnitState

#: What a follow-up job takes over of the job before it.
_JOB = (
    "name",
    "machine",
    "made",
    "owner",
    "mains_volts",
    "mains_frequency",
    "way",
    "meter_frequency",
    "traits",
    "earth_limit",
)
#: Most known faults of a unit.
MOST = 20


def can_be_accepted(state: UnitState) -> list[Check]:
    """The checks that failed and guard nobody: what an owner may accept."""
    return [
        check for step in state.proof.steps for check in step.checks if not interlocks.known_fault(state.proof, check)
    ]


def accept_fault(unit: int, text: str, owner: str, key: str = "") -> KnownFault:
    """Log a fault that the owner accepts; a check that failed by it is accepted with it.

    Args:
        unit: its key.
        text: the fault, in words.
        owner: who accepts it.
        key: of the check that failed, "" where none tells it.

    Raises:
        BadInput: no words, nobody who accepts it, or no such check. Blocked: it guards a person, it did not fail, the unit has power, or
            it is handed over.
    """
    text, owner = " ".join(text.split()), " ".join(owner.split())
    if len(text) < 4 or len(text) > 300:
        raise BadInput(text, "the fault in a few words, at most 300 characters", "Such as: F7 key dead.", field="fault")
    if len(owner) < 2 or len(owner) > 80:
        raise BadInput(
            owner, "who accepts it, by name", "The owner, or whoever speaks for the owner.", field="accepted_by"
        )
    with unit_transaction(unit, "No fault can be accepted now") as door:
        state = door.state
        if state.row.known_faults.count() >= MOST:
            raise BadInput(text, f"at most {MOST} known faults", "Take some back.", field="fault")
        if key:
            check = state.proof.check(key)
            if check is None:
                raise BadInput(key[:60], "a check of this unit", "Load the page again.", field="check")
            if reasons := interlocks.known_fault(state.proof, check):
                raise Blocked(f"{check.point} cannot be accepted", reasons)
            accept(state, check, _reason(owner, text))
        elif reasons := (*interlocks.closed(state.proof), *interlocks.idle(state.proof)):
            raise Blocked("No fault can be accepted now", reasons)
        made = KnownFault.objects.create(unit=state.row, text=text, owner=owner, key=key, at=state.now)
        log(state.row, "hand-over", _reason(owner, text))
        return made


def _reason(owner: str, text: str) -> str:
    return f"Known fault, accepted by {owner}: {text}"


def take_back(unit: int, fault: int) -> None:
    """Take a known fault back; the check that was accepted with it has failed again.

    Raises:
        Blocked: it is not there, or the unit has power or is handed over.
    """
    with unit_transaction(unit, "The fault cannot be taken back") as door:
        row, proof = _fault(unit, fault), door.state.proof
        if reasons := (*interlocks.closed(proof), *interlocks.idle(proof)):
            raise Blocked("The fault cannot be taken back", reasons)
        if row.key and (check := proof.check(row.key)) is not None:
            withdraw(door.state, check, _reason(row.owner, row.text))
        log(door.state.row, "hand-over", f"Known fault taken back: {row.text}")
        row.delete()


def follow_up(unit: int, fault: int) -> Unit:
    """A job of its own for a known fault: the same machine and owner, with the fault as its symptom; once.

    Raises:
        Blocked: there is no such fault, or its job is made already.
    """
    with transaction.atomic():
        old = Unit.objects.select_related("job").get(pk=unit)
        row = _fault(unit, fault)
        if row.follow_up_id:
            raise Blocked(
                "The job is made already",
                (Block("job", f"It is job {row.follow_up.number}.", "Open it on the Bench."),),
            )
        facts = {name: value for name, value in model_to_dict(old.job).items() if name in _JOB}
        job = Job.objects.create(**facts)
        made = Unit.objects.create(
            job=job,
            name=old.name,
            serial=old.serial,
            symptoms=row.text,
            repairs=f"Job {old.job.number}, {timezone.localdate():%-d %b %Y}",
        )
        row.follow_up = job
        row.save(update_fields=["follow_up"])
        log(made, "intake", f"New job: {job.machine}, unit {made.name}. It follows job {old.job.number}: {row.text}")
        log(old, "hand-over", f"Job {job.number} follows for: {row.text}")
        return made


def _fault(unit: int, fault: int) -> KnownFault:
    row = KnownFault.objects.filter(pk=fault, unit=unit).select_related("follow_up").first()
    if row is None:
        raise Blocked("The fault is not there", (Block("fault", "It was taken back already.", "Load the page again."),))
    return row
