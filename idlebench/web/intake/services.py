"""Taking jobs in and describing their units and boards. Each service is one transaction."""

from __future__ import annotations

from collections.abc import Mapping

from django.db import transaction

from idlebench.core.board.devices import read_device
from idlebench.core.board.first_look import TRAITS, Look
from idlebench.core.board.zones import read_zone
from idlebench.core.choose.supply_model import read_model
from idlebench.core.judge.verdict import SCHOOLS
from idlebench.core.prove import WAYS, gates
from idlebench.core.refusal import BadInput, GateShut
from idlebench.core.text.quantity import read
from idlebench.core.text.rails_and_chips import chip_line, read_chip, read_rail
from idlebench.instruments import meter_address

from ..records.models import Board, Job, Unit
from ..unit.door import inside, opened, opened_all
from ..unit.log import log
from ..unit.policies import all_policies
from ..unit.state import UnitState


def words(typed: Mapping[str, str], name: str, title: str, longest: int, *, required: bool = False) -> str:
    """A text field, held to its length."""
    text = str(typed.get(name, "")).strip()
    if required and not text:
        raise BadInput("", title, "", name)
    if len(text) > longest:
        raise BadInput(text, f"at most {longest} characters", "", name)
    return text


def option(typed: Mapping[str, str], name: str, allowed: Mapping[str, object] | tuple[str, ...], default: str) -> str:
    """One of some words."""
    text = str(typed.get(name) or default)
    if text not in allowed:
        raise BadInput(text, f"one of {', '.join(allowed)}", "", name)
    return text


def number(typed: Mapping[str, str], name: str, unit: str, **bounds: float) -> float | None:
    """A value, or None where the field is empty."""
    text = str(typed.get(name) or "").strip()
    return read(text, unit, field=name, **bounds) if text else None


def whole(typed: Mapping[str, str], name: str, low: int, high: int) -> int | None:
    value = number(typed, name, "", low=low, high=high)
    if value is not None and value != int(value):
        raise BadInput(str(typed[name]), "a whole number", "", name)
    return None if value is None else int(value)


def _or(value: float | None, default: float) -> float:
    """The value, nought included, or the default where nothing was typed."""
    return default if value is None else value


def job_facts(typed: Mapping[str, str]) -> dict[str, object]:
    """The fields of a job as typed.

    Raises:
        BadInput: naming the field.
    """
    return {
        "name": words(typed, "name", "a name for the job", 120, required=True),
        "owner": words(typed, "owner", "an owner", 120),
        "machine": words(typed, "machine", "the kind of machine", 120, required=True),
        "made": whole(typed, "made", 1900, 2100),
        "policy": option(typed, "policy", all_policies(), "renew"),
        "school": option(typed, "school", SCHOOLS, "strict"),
        "way": option(typed, "way", WAYS, "lamp"),
        "mains_volts": number(typed, "mains_volts", "V", low=90, high=260) or 230.0,
        "mains_frequency": number(typed, "mains_frequency", "Hz", low=16, high=400) or 50.0,
        "meter_frequency": number(typed, "meter_frequency", "Hz", low=20, high=1e6) or 120.0,
        "hour_rate": _or(number(typed, "hour_rate", "", low=0, high=10_000), 20.0),
        "traits": _traits(typed),
        "meter": meter_address(typed["meter"]) if words(typed, "meter", "an address", 120) else "",
    }


def _traits(typed: Mapping[str, str]) -> list[str]:
    """What the machine has: a box each in a form, or one word a line."""
    listed = str(typed.get("traits") or "").split()
    for name in listed:
        if name not in TRAITS:
            raise BadInput(name, f"some of {', '.join(TRAITS)}", "", "traits")
    return [name for name in TRAITS if name in listed or typed.get(f"has_{name}")]


@transaction.atomic
def take_in_job(typed: Mapping[str, str]) -> Job:
    """Log a job with its units, named in a comma-separated list."""
    job = Job.objects.create(**job_facts(typed))
    names = [n.strip() for n in words(typed, "units", "names", 200).split(",") if n.strip()] or ["A"]
    if len(names) != len(set(names)) or len(names) > 24 or any(len(n) > 40 for n in names):
        raise BadInput(", ".join(names), "up to 24 different short names, such as A, B, C", "", "units")
    for name in names:
        log(Unit.objects.create(job=job, name=name), "intake", f"Taken in: {job.machine}, unit {name}.")
    return job


def change_job(job: Job, typed: Mapping[str, str]) -> None:
    """Change a job's facts and ways of working; its units' records say so where it changes what was proven.

    Raises:
        BadInput: naming the field. GateShut: a unit of it has power, and the mains or the way up would change under it.
    """
    facts = job_facts(typed)
    with opened_all(list(job.units.values_list("pk", flat=True)), "The job cannot be changed", closed_too=True):
        job.refresh_from_db()
        for name, value in facts.items():
            setattr(job, name, value)
        job.save()


@transaction.atomic
def add_unit(job: Job, typed: Mapping[str, str]) -> Unit:
    """Take another unit of the same kind into a job."""
    name = words(typed, "name", "a short name, such as D", 40, required=True)
    if job.units.filter(name=name).exists():
        raise BadInput(name, "a name this job does not have yet", "", "name")
    unit = Unit.objects.create(job=job, name=name)
    log(unit, "intake", f"Taken in: {job.machine}, unit {name}.")
    return unit


@inside("Nothing of it can be changed")
def describe_unit(unit: Unit, typed: Mapping[str, str]) -> None:
    """Serial number, symptoms as told, what is missing, found or mended before, date codes."""
    unit.serial = words(typed, "serial", "a serial number", 60)
    unit.symptoms = words(typed, "symptoms", "symptoms", 2000)
    unit.missing = words(typed, "missing", "missing parts", 2000)
    unit.found = words(typed, "found", "what was found", 2000)
    unit.repairs = words(typed, "repairs", "earlier repairs", 2000)
    unit.dates = words(typed, "dates", "date codes", 2000)
    unit.save()
    log(unit, "intake", "Described.")


def tick_look(unit: Unit, key: str) -> None:
    """Tick a first look, or take the tick back.

    Raises:
        BadInput: no such look. GateShut: a leaking battery is still in, or the unit has power.
    """
    with opened(unit.pk, "The first look is closed") as door:
        state = door.state
        look = _look(state, key)
        reasons = gates.idle(state.proof) or gates.tick(state.proof, key)
        if reasons:
            raise GateShut(f"{look.text}: not yet", reasons)
        row = state.row
        row.first_look = [k for k in row.first_look if k != key] if key in row.first_look else [*row.first_look, key]
        row.look_skipped = {k: why for k, why in row.look_skipped.items() if k != key}
        row.save(update_fields=["first_look", "look_skipped"])
        log(row, "intake", f"First look, {look.text}: {'done' if key in row.first_look else 'tick taken back'}.")


def skip_look(unit: Unit, key: str, reason: str) -> None:
    """Skip a look with a reason, which stands on the sheet. One that can hurt somebody is never skipped.

    Raises:
        BadInput: no such look, or no reason. GateShut: it can hurt somebody.
    """
    with opened(unit.pk, "The first look is closed") as door:
        state = door.state
        look = _look(state, key)
        reasons = gates.skip(state.proof, key)
        if reasons:
            raise GateShut(f"{look.text} is not skipped", reasons)
        gates.needs_words(reason)
        row = state.row
        row.first_look = [k for k in row.first_look if k != key]
        row.look_skipped = {**row.look_skipped, key: reason.strip()}
        row.save(update_fields=["first_look", "look_skipped"])
        log(row, "intake", f"First look, {look.text}: skipped. {reason.strip()}")


def _look(state: UnitState, key: str) -> Look:
    found = next((look for look in state.first_look if look.key == key), None)
    if found is None:
        raise BadInput(key, f"one of {', '.join(look.key for look in state.first_look)}", "", "look")
    return found


def board_facts(typed: Mapping[str, str]) -> dict[str, object]:
    """The fields of a board as typed; rails and chips are read, so that what is stored can be read again."""
    rails = _lines(typed, "rails", lambda line: read_rail(line).as_line(), lambda line: read_rail(line).name)
    chips = _lines(typed, "chips", lambda line: chip_line(read_chip(line)), lambda line: read_chip(line).ref)
    zones = _lines(typed, "zones", lambda line: read_zone(line).as_line(), lambda line: read_zone(line).as_line())
    others = _lines(typed, "others", lambda line: read_device(line).as_line(), lambda line: read_device(line).ref)
    return {
        "name": words(typed, "name", "the board's name, such as MB-80", 60, required=True),
        "title": words(typed, "title", "what it is", 80),
        "supply": option(typed, "supply", ("", Board.LINEAR, Board.SWITCHING), ""),
        "width": number(typed, "width", "mm", low=10, high=1000) or 200.0,
        "height": number(typed, "height", "mm", low=10, high=1000) or 140.0,
        "expected": whole(typed, "expected", 0, 2000),
        "fuse": words(typed, "fuse", "the fuse's marking", 60),
        "source_volts": number(typed, "source_volts", "V", above=0, high=1000),
        "source_va": number(typed, "source_va", "", above=0, high=5000),
        "rails": rails,
        "chips": chips,
        "zones": zones,
        "others": others,
        "supply_model": _supply(typed),
    }


def _supply(typed: Mapping[str, str]) -> str:
    """The lines of the supply, read so that what is stored can be read again."""
    text = "\n".join(line.strip() for line in str(typed.get("supply_model") or "").splitlines() if line.strip())
    read_model(text)
    return text


def _lines(typed: Mapping[str, str], name: str, canonical, key) -> str:
    """Typed lines in their canonical form, each once; the line number is in the complaint."""
    seen, out = {}, []
    for i, line in enumerate(str(typed.get(name) or "").splitlines(), 1):
        if not line.strip():
            continue
        try:
            out.append(canonical(line))
            if key(line) in seen:
                raise BadInput(line, f"each once; {key(line)} stands in line {seen[key(line)]} already")
            seen[key(line)] = i
        except BadInput as error:
            raise error.within(f"{name}, line {i}") from None
    return "\n".join(out)


@inside("Nothing of it can be changed")
def add_board(unit: Unit, typed: Mapping[str, str]) -> Board:
    """Add a board to a unit."""
    facts = board_facts(typed)
    if unit.boards.filter(name=facts["name"]).exists():
        raise BadInput(str(facts["name"]), "a name this unit does not have yet", "", "name")
    board = Board.objects.create(unit=unit, **facts)
    log(unit, "intake", f"Board {board.name} listed.")
    return board


@inside("Nothing of it can be changed")
def change_board(board: Board, typed: Mapping[str, str]) -> None:
    """Change a board's facts."""
    facts = board_facts(typed)
    if board.unit.boards.exclude(pk=board.pk).filter(name=facts["name"]).exists():
        raise BadInput(str(facts["name"]), "a name this unit does not have yet", "", "name")
    for name, value in facts.items():
        setattr(board, name, value)
    board.save()
    log(board.unit, "intake", f"Board {board.name} described.")
