"""Jobs, units, boards and parts removed whole, kept for thirty days, and brought back as they were.

The rows go out of their tables into one text, so that no page has to look past what is removed. Photos stay on the disk until
the thirty days are over.
"""

from __future__ import annotations

import json
from datetime import timedelta

from django.apps import apps
from django.core import serializers
from django.db import IntegrityError, models, transaction
from django.db.models.deletion import Collector
from django.utils import timezone

from idlebench.core.prove import interlocks
from idlebench.core.prove.record import RESTORED
from idlebench.core.refusal import Block, Blocked
from idlebench.core.wording import many

from ..records.models import Board, Job, Part, Photo, Removed, Unit
from ..unit.door import note, unit_transaction
from ..unit.log import log
from ..unit.rows import board_id, part_id
from ..unit.state import unit_state

#: How long what was removed is kept.
KEPT = timedelta(days=30)
KINDS: dict[str, type[models.Model]] = {"job": Job, "unit": Unit, "board": Board, "part": Part}


def title_of(row: Job | Unit | Board | Part) -> str:
    """A job, unit, board or part in a few words."""
    if isinstance(row, Part):
        return f"{row.ref} on {row.board.name} of unit {row.board.unit.name}, job {row.board.unit.job.number}"
    if isinstance(row, Job):
        return f"Job {row.number}, {row.name}"
    if isinstance(row, Unit):
        return f"Unit {row.name} of job {row.job.number}, {row.job.name}"
    return f"Board {row.name} of unit {row.unit.name}, job {row.unit.job.number}"


def _collected(row: models.Model) -> Collector:
    collector = Collector(using="default", origin=row)
    collector.collect([row])
    return collector


def rows_of(row: models.Model) -> list[models.Model]:
    """A row and everything that goes with it, what others point to first."""
    collector = _collected(row)
    found: dict[type[models.Model], list[models.Model]] = {m: list(rows) for m, rows in collector.data.items()}
    for rows in collector.fast_deletes:
        found.setdefault(rows.model, []).extend(rows)
    ordered = [m for m in KINDS.values() if m in found]
    ordered += [m for m in found if m not in ordered]
    return [one for model in ordered for one in found[model]]


def remove(kind: str, pk: int) -> Removed:
    """Remove a job, unit, board or part.

    Raises:
        Blocked: it has power, or stands on volts; a board or part of a unit that is handed over, or that may be charged; a part
            that is swapped.
    """
    if kind == "part":
        return _remove_part(pk)
    if kind == "board":
        unit = Board.objects.values_list("unit_id", flat=True).get(pk=pk)
        with unit_transaction(unit, "The board cannot be deleted") as door:
            board = Board.objects.select_related("unit__job").get(pk=pk)
            if reasons := interlocks.board_out(door.state.proof, board_id(pk)):
                raise Blocked(f"{board.name} cannot be deleted", reasons)
            kept = _put_away(kind, board)
            log(door.state.row, "removed", f"{board.name} deleted, with {many(kept.count, 'row')}. Kept for 30 days.")
            return kept
    with transaction.atomic():
        row = KINDS[kind].objects.get(pk=pk)
        units = [row] if isinstance(row, Unit) else list(row.units.all())
        if reasons := interlocks.removing(unit_state(unit.pk).proof for unit in units):
            raise Blocked(f"{title_of(row)} cannot be deleted", reasons)
        return _put_away(kind, row)


def _remove_part(pk: int) -> Removed:
    unit = Part.objects.values_list("board__unit_id", flat=True).get(pk=pk)
    with unit_transaction(unit, "The part cannot be deleted") as door:
        part = Part.objects.select_related("board__unit__job").get(pk=pk)
        reasons = list(interlocks.part_off(door.state.proof, part_id(pk)))
        if hasattr(part, "swap"):
            reasons.append(Block("swapped", f"{part.swap.item} is soldered in there.", "Take the swap back first."))
        if reasons:
            raise Blocked(f"{part.ref} cannot be deleted", tuple(reasons))
        kept = _put_away("part", part)
        log(door.state.row, "removed", f"{part.board.name} {part.ref} deleted. Kept for 30 days.")
        return kept


def _links(row: models.Model) -> list[list[object]]:
    """What stays, and only loses its pointer to what goes: model, key, field, and where it pointed."""
    return [
        [one._meta.label, one.pk, field.attname, getattr(one, field.attname)]
        for (field, _), groups in _collected(row).field_updates.items()
        for group in groups
        for one in group
    ]


def _as_text(value: object) -> str:
    """Times to the microsecond; the usual encoder drops three figures."""
    return value.isoformat() if hasattr(value, "isoformat") else str(value)


def _rows(kept: Removed) -> list[models.Model]:
    """The rows that were put away, not saved."""
    return [one.object for one in serializers.deserialize("python", json.loads(kept.rows)["rows"])]


def _put_away(kind: str, row: Job | Unit | Board | Part) -> Removed:
    rows, started = rows_of(row), timezone.now()
    text = json.dumps({"rows": serializers.serialize("python", rows), "links": _links(row)}, default=_as_text)
    kept = Removed.objects.create(what=kind, title=title_of(row)[:200], rows=text, count=len(rows), at=started)
    keys = {type(one): [r.pk for r in rows if type(r) is type(one)] for one in rows}
    row.delete()
    for model, pks in keys.items():
        if hasattr(model, "history"):
            # going away whole is no change of its own that an undo could meet later
            model.history.filter(history_type="-", history_date__gte=started, id__in=pks).delete()
    return kept


def bring_back(pk: int) -> str:
    """Bring back what was removed, once; where it leads.

    Raises:
        Blocked: what it belongs to is not there, or its name or place is taken by now.
    """
    with transaction.atomic():
        kept = Removed.objects.select_for_update().get(pk=pk)
        facts = json.loads(kept.rows)["rows"][0]["fields"]
        if kept.what == "unit" and not Job.objects.filter(pk=facts["job"]).exists():
            raise Blocked(
                f"{kept.title} cannot come back", (Block("gone", "Its job is deleted.", "Bring the job back first."),)
            )
        if kept.what == "part":
            return _part_back(kept, facts["board"])
        if kept.what == "board":
            if not Unit.objects.filter(pk=facts["unit"]).exists():
                raise Blocked(
                    f"{kept.title} cannot come back",
                    (Block("gone", "Its unit is deleted.", "Bring the unit back first."),),
                )
            with unit_transaction(facts["unit"], "The board cannot come back") as door:
                _restore(kept)
                log(door.state.row, "removed", f"{kept.title} brought back.")
                return f"/unit/{facts['unit']}/intake/"
        rows = _restore(kept)
        units = [row for row in rows if isinstance(row, Unit)]
        for one in units:
            # while it was away nobody asked whether it had power or a hand inside
            note(one, RESTORED, timezone.now(), words="it was deleted, and brought back")
        Unit.objects.filter(pk__in=[one.pk for one in units]).update(turn=models.F("turn") + 1)
        unit = units[0] if units else None
        if unit is not None:
            log(unit, "removed", f"{kept.title} brought back.")
        return f"/unit/{unit.pk}/intake/" if unit else "/"


def _part_back(kept: Removed, board: int) -> str:
    unit = Board.objects.filter(pk=board).values_list("unit_id", flat=True).first()
    if unit is None:
        raise Blocked(
            f"{kept.title} cannot come back", (Block("gone", "Its board is deleted.", "Bring the board back first."),)
        )
    with unit_transaction(unit, "The part cannot come back") as door:
        _restore(kept)
        log(door.state.row, "removed", f"{kept.title} brought back.")
    return f"/board/{board}/survey/"


def _restore(kept: Removed) -> list[models.Model]:
    found = []
    try:
        with transaction.atomic():
            rows = _rows(kept)
            came = {(type(one), one.pk) for one in rows}
            for one in rows:
                _let_go_of_what_is_gone(one, came)
                # as it was: no version counted on, no history of its own
                one.save_base(raw=True)
                found.append(one)
            for label, pk, field, value in json.loads(kept.rows)["links"]:
                apps.get_model(label).objects.filter(pk=pk, **{f"{field}__isnull": True}).update(**{field: value})
    except IntegrityError:
        taken = Block("taken", "Another one has that name now.", "Rename or delete that one first.")
        raise Blocked(f"{kept.title} cannot come back", (taken,)) from None
    kept.delete()
    return found


def _let_go_of_what_is_gone(row: models.Model, came: set[tuple[type[models.Model], int]]) -> None:
    """Point nowhere where it pointed to something that was removed meanwhile, and may."""
    for field in row._meta.concrete_fields:
        key = getattr(row, field.attname)
        if not field.is_relation or not field.null or key is None or (field.related_model, key) in came:
            continue
        if not field.related_model._base_manager.filter(pk=key).exists():
            setattr(row, field.attname, None)


@transaction.atomic
def sweep() -> int:
    """Let go what was removed over thirty days ago, and its photos; how many."""
    old = list(Removed.objects.filter(at__lt=timezone.now() - KEPT))
    for kept in old:
        for one in _rows(kept):
            if isinstance(one, Photo):
                for place in (one.path, one.small):
                    transaction.on_commit(lambda place=place: place.unlink(missing_ok=True))
        kept.delete()
    return len(old)


__all__ = ["KEPT", "KINDS", "bring_back", "remove", "rows_of", "sweep", "title_of"]
