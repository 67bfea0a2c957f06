"""Procedures: the list of them, on a unit, step by step. Each act is one transaction, behind the gates of core."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from idlebench.catalogue import house_procedures
from idlebench.core.prove import interlocks, read_reading
from idlebench.core.prove.procedure_form import edited
from idlebench.core.prove.procedure_sides import again, in_sides, read_sides
from idlebench.core.prove.procedures import Procedure, check_of, read_limit, with_limit
from idlebench.core.prove.record import MEND, READ
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records import steady
from ..records.models import Board, ProcedureStep, Reading, ShopProcedure, UnitProcedure
from ..unit.bench_power import dries_at
from ..unit.door import Open, note, unit_transaction
from ..unit.log import log
from ..unit.rows import board_id, procedure_id
from ..unit.state import UnitState

#: Procedures that a unit may have at once.
MOST = 40


def all_procedures() -> dict[str, Procedure]:
    """Every procedure by name: those that ship, and the shop's own, which stand before them."""
    own = {row.name: row.to_core() for row in ShopProcedure.objects.all()}
    return dict(sorted({**house_procedures(), **own}.items()))


def named(name: str) -> Procedure:
    """A procedure by its name.

    Raises:
        ShopProcedure.DoesNotExist: there is none.
    """
    row = ShopProcedure.objects.filter(name=name).first()
    if row is not None:
        return row.to_core()
    if name in house_procedures():
        return house_procedures()[name]
    raise ShopProcedure.DoesNotExist


@transaction.atomic
def keep(procedure: Procedure) -> Procedure:
    """Keep a procedure as the shop's own, under its name; its revision is never less than that of the one before it."""
    if procedure.name == "new":
        raise BadInput(procedure.name, "another name", "That name belongs to a supplied procedure.", field="title")
    before = ShopProcedure.objects.filter(name=procedure.name).first()
    ShopProcedure.objects.update_or_create(name=procedure.name, defaults={"data": procedure.as_data()})
    if before is None and ShopProcedure.objects.count() > 500:
        raise BadInput(procedure.title, "at most 500 procedures of the shop's own", "Delete one first.", field="title")
    return procedure


@transaction.atomic
def edit(name: str, title: str, about: str, rows: Iterable[Mapping[str, str]]) -> Procedure:
    """Change a procedure by its form; what ships stays as it is, and the shop's own stands before it.

    Raises:
        BadInput: a step or field that cannot be taken.
    """
    return keep(edited(named(name), title, about, rows))


@transaction.atomic
def drop(name: str) -> bool:
    """Drop the shop's own procedure of that name; whether one that ships is left."""
    ShopProcedure.objects.get(name=name).delete()
    return name in house_procedures()


def add(unit: int, name: str, board: int | None = None, sides: str = "") -> UnitProcedure:
    """Add a procedure to a unit, as it is now; its steps for each side in as many sides as are typed.

    Raises:
        Blocked: the unit is handed over. BadInput: no such board, sides that cannot be, or more than a unit has.
    """
    procedure = in_sides(named(name), read_sides(sides))
    with unit_transaction(unit, "Nothing can be added now") as door:
        row = door.state.row
        on = Board.objects.filter(pk=board, unit=unit).first() if board else None
        if board and on is None:
            raise BadInput(str(board), "a board of this unit", field="board")
        if row.procedures.filter(ended=None).count() >= MOST:
            raise BadInput(procedure.title, f"at most {MOST} procedures at once", "Finish one first.", field="name")
        made = UnitProcedure.objects.create(unit=row, board=on, title=procedure.title, data=procedure.as_data())
        where = f" on {on.name}" if on else ""
        log(row, "procedure", f"{procedure.title}{where}: added, revision {procedure.revision}.")
        return made


@dataclass(frozen=True)
class ProcedureStatus:
    """A procedure on its unit: the steps that are settled, by number, and the one in hand, 0 where all are."""

    row: UnitProcedure
    core: Procedure
    steps: dict[int, ProcedureStep]

    @property
    def settled(self) -> set[int]:
        """Steps that are done or skipped."""
        return {n for n, step in self.steps.items() if step.state != ProcedureStep.FAILED}

    @property
    def here(self) -> int:
        return next((n for n in range(1, len(self.core.steps) + 1) if n not in self.settled), 0)

    def unmet(self, number: int) -> list[int]:
        """Steps before one that are not settled."""
        return [n for n in self.core.steps[number - 1].after if n not in self.settled]

    def waits(self, number: int) -> datetime | None:
        """When the last wait before a step is over, None where none runs."""
        before = [self.steps[n] for n in self.core.steps[number - 1].after if n in self.steps]
        ends = [dries_at(step.free_at, step.boot, step.free_steady) for step in before if step.free_at is not None]
        return max((at for at in ends if at is not None), default=None)


def status_of(row: UnitProcedure) -> ProcedureStatus:
    """A procedure as it stands."""
    return ProcedureStatus(row, row.to_core(), {step.number: step for step in row.steps.all()})


def shut(state: UnitState, stands: ProcedureStatus, number: int) -> tuple[Block, ...]:
    """Why a step cannot be settled now."""
    until = stands.waits(number)
    return interlocks.procedure_step(
        state.proof, stands.core.opens, number, stands.unmet(number),
        f"{timezone.localtime(until):%H:%M on %-d %b}" if until else "", number in stands.settled,
    )  # fmt: skip


def _open(door: Open, pk: int, number: int) -> ProcedureStatus:
    """The step of a procedure, once every gate is open.

    Raises:
        Blocked: it is not this step's turn, or hands may not go there now. BadInput: no such step.
    """
    row = door.state.row.procedures.filter(pk=pk).first()
    if row is None:
        raise Blocked("The procedure is not there", (Block("gone", "It was removed.", "Load the page again."),))
    stands = status_of(row)
    if not 1 <= number <= len(stands.core.steps):
        raise BadInput(str(number), f"a step from 1 to {len(stands.core.steps)}", field="step")
    if reasons := shut(door.state, stands, number):
        raise Blocked(f"Step {number} cannot be done now", reasons)
    return stands


def done(unit: int, pk: int, number: int, typed: str = "") -> ProcedureStep:
    """A step is done; one with a check takes its reading, which goes into the record.

    Raises:
        Blocked: not its turn, or hands may not go there now. BadInput: the reading cannot be read, or none was given.
    """
    with unit_transaction(unit, "The step cannot be done now") as door:
        stands = _open(door, pk, number)
        step = stands.core.steps[number - 1]
        kind = step.check.kind if step.check else ""
        if shut_ := interlocks.works(door.state.proof, stands.core.of, stands.core.opens, kind):
            raise Blocked(f"Step {number} cannot be done now", shut_)
        check = check_of(stands.core, number, procedure_id(pk))
        passed = True
        if check is not None:
            if not typed.strip():
                raise BadInput(
                    "", "yes or no" if check.seen else f"a reading in {check.unit}", step.check.words, field="reading"
                )
            value = read_reading(check, typed)
            passed = check.passes(value)
            reading = Reading.objects.create(
                unit=door.state.row, key=check.key, step="procedure", point=check.point[:120], ask=check.ask[:300],
                typed=typed.strip()[:60], value=value if math.isfinite(value) else None, symbol=check.unit,
                limits=check.limits, passed=passed, at=timezone.now(),
            )  # fmt: skip
            was = {**check.evidence, **door.state.read_on}
            note(door.state.row, READ, timezone.now(), reading=reading, key=check.key, value=value, was=was)
        state = ProcedureStep.DONE if passed else ProcedureStep.FAILED
        told = typed.strip() if check else ""
        return _settled(door, stands, number, state, "" if passed else f"{told} is not {step.check.words}", told)


def in_one_go(stands: ProcedureStatus) -> tuple[int, ...]:
    """Steps from the one in hand on that can be told done together: none takes a reading, and none waits for another's wait."""
    found = []
    for number in range(stands.here or len(stands.core.steps) + 1, len(stands.core.steps) + 1):
        step = stands.core.steps[number - 1]
        waiting = any(n in found and stands.core.steps[n - 1].wait for n in step.after)
        if step.check is not None or waiting or number in stands.settled:
            break
        found.append(number)
    return tuple(found)


def done_upto(unit: int, pk: int, number: int) -> int:
    """Steps from the one in hand up to one are done, all or none of them; how many.

    Raises:
        Blocked: one of them cannot be now. BadInput: one takes a reading, or waits for the wait of another, or is done.
    """
    with transaction.atomic():
        row = UnitProcedure.objects.get(pk=pk, unit=unit)
        together = in_one_go(status_of(row))
        if number not in together:
            last = f"{together[0]} to {together[-1]}" if together else "none"
            raise BadInput(
                str(number),
                f"a step without a reading and without a wait before it: {last}",
                "Do the other steps one by one.",
                field="upto",
            )
        steps = [n for n in together if n <= number]
        for step in steps:
            done(unit, pk, step)
    return len(steps)


def skip(unit: int, pk: int, number: int, reason: str) -> ProcedureStep:
    """A step is skipped, with a reason that stands on the sheet.

    Raises:
        Blocked: not its turn, or something dries in it. BadInput: no reason in words.
    """
    interlocks.needs_words(reason)
    with unit_transaction(unit, "The step cannot be done now") as door:
        stands = _open(door, pk, number)
        if shut_ := interlocks.skip_step(number, stands.core.steps[number - 1].dries):
            raise Blocked(f"Step {number} cannot be skipped", shut_)
        return _settled(door, stands, number, ProcedureStep.SKIPPED, reason.strip())


def failed(unit: int, pk: int, number: int, reason: str) -> ProcedureStep:
    """A step failed: what comes after it waits until it is done.

    Raises:
        Blocked: not its turn. BadInput: no reason in words.
    """
    interlocks.needs_words(reason)
    with unit_transaction(unit, "The step cannot be done now") as door:
        stands = _open(door, pk, number)
        return _settled(door, stands, number, ProcedureStep.FAILED, reason.strip())


def _settled(
    door: Open, stands: ProcedureStatus, number: int, state: str, reason: str = "", typed: str = ""
) -> ProcedureStep:
    """Write what came of a step, begin its wait, and end the procedure with its last."""
    row, step, now = stands.row, stands.core.steps[number - 1], timezone.now()
    free = now + timedelta(minutes=step.wait) if step.wait and state == ProcedureStep.DONE else None
    made, _ = ProcedureStep.objects.update_or_create(
        procedure=row, number=number,
        defaults={
            "state": state, "reason": reason[:500], "typed": typed[:60], "at": now, "free_at": free,
            "boot": steady.boot(), "free_steady": steady.at(free) if free else None,
        },
    )  # fmt: skip
    row.waits_until = free
    if free is not None and step.dries:
        # what dries already, by whichever clock, is not dry any sooner
        free = max(filter(None, (row.dries_until, free, dries_at(row.dries_until, row.boot, row.dries_steady))))
        row.dries_until, row.boot, row.dries_steady = free, steady.boot(), steady.at(free)
    left = set(range(1, len(stands.core.steps) + 1)) - stands.settled - {number}
    row.ended = now if not left and state != ProcedureStep.FAILED else None
    row.soaked = _soaked(stands.core, {**{n: s.state for n, s in stands.steps.items()}, number: state}, row.soaked)
    row.save(update_fields=["waits_until", "dries_until", "boot", "dries_steady", "ended", "soaked"])
    board = board_id(row.board_id) if row.board_id else ""
    words = f"{row.title}, step {number} {state}"
    if stands.core.opens and state != ProcedureStep.SKIPPED:
        # hands were inside, whatever came of it
        note(door.state.row, MEND, now, row=procedure_id(row.pk), board=board, words=words)
    log(door.state.row, "procedure", f"{words}: {step.text[:120]}{'. ' + reason if reason else ''}.")
    return made


def _soaked(core: Procedure, states: Mapping[int, str], wet: bool) -> bool:
    """Whether something is wet, and a step of it in which that dries is not done. wet: whether it was wet before: to take a step
    back makes nothing dry. A step that failed may have wetted it as well."""
    begun = wet or any(state != ProcedureStep.SKIPPED for state in states.values())
    to_dry = (n for n, step in enumerate(core.steps, 1) if step.dries)
    return begun and any(states.get(n) != ProcedureStep.DONE for n in to_dry)


def back(unit: int, pk: int) -> int:
    """Take the last step back that was settled; its number.

    What dries goes on drying: water does not know that a step was logged by mistake.

    Raises:
        Blocked: none is settled.
    """
    with unit_transaction(unit, "Nothing can be taken back now") as door:
        row = door.state.row.procedures.filter(pk=pk).first()
        last = row.steps.order_by("at", "id").last() if row else None
        if last is None:
            raise Blocked("Nothing to take back", (Block("none", "No step is done yet."),))
        number = last.number
        last.delete()
        row.ended, row.waits_until = None, None
        row.soaked = _soaked(row.to_core(), dict(row.steps.values_list("number", "state")), row.soaked)
        row.save(update_fields=["ended", "waits_until", "soaked"])
        log(door.state.row, "procedure", f"{row.title}, step {number}: taken back.")
        return number


def limit(unit: int, pk: int, number: int, typed: str) -> None:
    """Another limit for a step, on this very machine: keyboards have their own, and nothing else.

    Raises:
        BadInput: it cannot be read, is of another kind, or the procedure is none for a keyboard. Blocked: the unit is handed over.
    """
    with unit_transaction(unit, "The limit cannot be changed now") as door:
        row = door.state.row.procedures.get(pk=pk)
        core = row.to_core()
        before = core.steps[number - 1].check if 1 <= number <= len(core.steps) else None
        if before is None:
            raise BadInput(str(number), "a step with a check", field="step")
        if core.of != "keyboard":
            raise BadInput(
                typed, f"{before.words}, as it stands", "Only keyboards have limits of their own.", field="limit"
            )
        new = read_limit(typed)
        if new is None or new.kind != before.kind:
            raise BadInput(typed, f"a limit such as {before.words}", "The kind of check stays.", field="limit")
        row.data = with_limit(core, number, new).as_data()
        row.save(update_fields=["data"])
        log(door.state.row, "procedure", f"{row.title}, step {number}: {before.words} became {new.words}.")


def once_more(unit: int, pk: int, number: int) -> int:
    """The steps of a side once more, after that side; the number of the first of them.

    Raises:
        BadInput: a step that is for no side. Blocked: the procedure is not there, the side is not done, or a later step is begun.
    """
    with unit_transaction(unit, "No side can be added now") as door:
        row = door.state.row.procedures.filter(pk=pk).first()
        if row is None:
            raise Blocked("The procedure is not there", (Block("gone", "It was removed.", "Load the page again."),))
        stands = status_of(row)
        core, first = again(stands.core, number)
        if any(n not in stands.settled for n in range(1, first)) or any(n >= first for n in stands.steps):
            raise Blocked(
                "No side can be added here",
                (Block("side", "Only the side that was done last is done again.", "Finish it first."),),
            )
        row.data = core.as_data()
        row.ended = None
        row.save(update_fields=["data", "ended"])
        log(door.state.row, "procedure", f"{row.title}: {core.steps[first - 1].side} once more.")
        return first


def take_off(unit: int, pk: int) -> None:
    """Take a procedure off a unit that has no step settled yet.

    Raises:
        Blocked: some of it was done: it stays, as what was done to the machine.
    """
    with unit_transaction(unit, "It cannot be removed now") as door:
        row = door.state.row.procedures.filter(pk=pk).first()
        if row is None:
            return
        if row.steps.exists() or row.dries_until is not None or row.soaked:
            why = Block("begun", f"{row.title} was begun.", "Skip the open steps, with a reason.")
            raise Blocked("It stays", (why,))
        log(door.state.row, "procedure", f"{row.title}: removed.")
        row.delete()
