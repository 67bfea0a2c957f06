"""Orders: a parcel of the plan becomes one, what comes is counted in against it, and the last step is taken back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict, replace

from django.db import transaction
from django.utils import timezone

from idlebench.core.plan.orders import SHELF
from idlebench.core.refusal import BadInput, Block, Blocked

from ..records.kept_plans import PlaceBehind, PlannedPlace
from ..records.models import FirstClaim, GatherStep, OfferOut, Order, OrderLine, Part
from ..unit import settling
from ..unit.door import unit_transaction
from ..unit.log import log
from ..unit.stock import count_in
from ..unit.wanted import places, stock_of, waiting
from .planning import latest, refuse_old, stamp, stock_for


def order(supplier: str, aim: str) -> Order:
    """Order one parcel of the plan. Places for which the plan takes another part than the one that is settled are settled anew.

    Raises:
        BadInput: no such parcel, or the plan is of before. Blocked: it is ordered already, or a unit takes no change.
    """
    with transaction.atomic():
        plan = refuse_old(*latest())
        kept = plan.kept
        found = kept.aims.get(aim)
        parcel = found.parcel(supplier) if found else None
        if parcel is None:
            raise BadInput(supplier, "a parcel of the plan", "Plan again.", field="supplier")
        # parcels of one plan belong together: one of another aim would buy some places twice
        chosen = kept.chosen or aim
        if supplier in kept.ordered or chosen != aim:
            text = (
                f"The parcel from {supplier} is ordered." if chosen == aim else "Parcels of another plan are ordered."
            )
            raise Blocked("It is not ordered again", (Block("ordered", text, "Plan again for what is still needed."),))
        made = Order.objects.create(
            supplier=supplier, at=timezone.now(), postage=parcel.postage, lead_days=parcel.lead_days
        )
        for line in parcel.lines:
            OrderLine.objects.create(order=made, part=line.part, quantity=line.quantity, price=line.price)
        settled = _settle_as_planned(kept.where, found.places, (supplier, SHELF))
        GatherStep.objects.create(kind=GatherStep.ORDERED, order=made, at=made.at, settled=settled)
        plan.keep(replace(kept, ordered=(*kept.ordered, supplier), chosen=aim))
        wanted = places()
        plan.stamp = stamp(wanted, stock_for(wanted, plan.kept))
        plan.save()
    return made


def _settle_as_planned(
    where: Mapping[str, PlaceBehind], planned: Iterable[PlannedPlace], sources: tuple[str, ...]
) -> list[dict]:
    """Settle places to the part that the plan takes for them, where it is another; what was settled anew, to take it back."""
    changes = []
    for one in planned:
        at = where.get(f"{one.job} {one.ref}")
        if at and at.part and one.source in sources and one.part != at.item:
            changes.append({**asdict(at), "was": at.item, "now": one.part})
    return _settled(changes, "was", "now")


def _settled(changes: list[dict], before: str, after: str) -> list[dict]:
    """Settle places to another part, each only if it is still settled as it was and by no hand; those that were."""
    by_unit: dict[int, list[dict]] = {}
    for change in changes:
        by_unit.setdefault(change["unit"], []).append(change)
    done = []
    for unit, mine in by_unit.items():
        with unit_transaction(unit, "The places cannot be decided") as door:
            for change in mine:
                row = Part.objects.filter(
                    pk=change["part"], swap=None, choice__item=change[before], choice__by_hand=False
                ).first()
                if row is None:
                    continue
                found, place = door.place(change["board"], change["ref"])
                choice = settling.take(door.state, found, place, change[after])
                choice.by_hand = False
                choice.save()
                done.append(change)
    return done


def arrived(line: int, pieces: int) -> OrderLine:
    """Count pieces of an order in; they lie on the shelf then.

    Raises:
        BadInput: no such line, or more than were ordered and have not come.
    """
    with transaction.atomic():
        row = _line(line)
        if not 1 <= pieces <= row.open:
            raise BadInput(
                str(pieces), f"1 to {row.open} pieces" if row.open else "nothing: all of it is counted in",
                f"{row.quantity} of {row.part} were ordered, {row.arrived} were received. Count in any more on "
                "the Shelf.",
                field="pieces",
            )  # fmt: skip
        count_in(row.part, pieces)
        row.arrived += pieces
        row.save()
        GatherStep.objects.create(kind=GatherStep.ARRIVED, order=row.order, line=row, pieces=pieces, at=timezone.now())
        _close(row.order)
    return row


def no_more(line: int) -> OrderLine:
    """Say that no more of a line will come; its places wait again, and nothing of it is planned from there until it is put back.

    Raises:
        BadInput: no such line, or all of it has come.
    """
    with transaction.atomic():
        row = _line(line)
        if not row.open:
            raise BadInput(row.part, "a line that is still on order", field="line")
        row.short = True
        row.save()
        step = GatherStep.objects.create(kind=GatherStep.SHORT, order=row.order, line=row, at=timezone.now())
        OfferOut.objects.get_or_create(part=row.part, supplier=row.order.supplier, defaults={"at": step.at})
        _close(row.order)
    return row


def put_back(pk: int) -> OfferOut:
    """Let a supplier's offer of a part count again.

    Raises:
        BadInput: it counts.
    """
    with transaction.atomic():
        row = OfferOut.objects.filter(pk=pk).first()
        if row is None:
            raise BadInput(str(pk), "an offer that was taken out", "Load the page again.", field="offer")
        OfferOut.objects.filter(pk=row.pk).delete()
    return row


def _line(pk: int) -> OrderLine:
    row = OrderLine.objects.select_related("order").filter(pk=pk).first()
    if row is None:
        raise BadInput(str(pk), "a line of an order", "Load the page again.", field="line")
    return row


def _close(order: Order) -> None:
    order.closed = all(not line.open for line in order.lines.all())
    order.save(update_fields=["closed"])


def take_back() -> str:
    """Take the last step back: an order, pieces counted in, that no more will come, or a part given; what it was, in words.

    Raises:
        BadInput: there is none; or of the pieces counted in some are soldered in by now.
    """
    with transaction.atomic():
        step = GatherStep.objects.select_related("order", "line", "claim").first()
        if step is None:
            raise BadInput("", "a step to take back", "Nothing was ordered or counted in yet.", field="undo")
        order, line = step.order, step.line
        if step.kind == GatherStep.GIVEN:
            said = f"{step.claim.part} goes back to the unit it was for."
            step.claim.delete()
            return said
        if step.kind == GatherStep.ORDERED:
            said = f"The order from {order.supplier} is taken back."
            _settled(step.settled, "now", "was")
            plan, _ = latest()
            if plan is not None and order.supplier in plan.kept.ordered:
                left = tuple(name for name in plan.kept.ordered if name != order.supplier)
                plan.keep(replace(plan.kept, ordered=left, chosen=plan.kept.chosen if left else ""))
                plan.save()
            order.delete()
            return said
        if step.kind == GatherStep.ARRIVED:
            count_in(line.part, -step.pieces)
            line.arrived -= step.pieces
            said = f"{step.pieces} of {line.part} are taken off the shelf again."
        else:
            line.short = False
            if (
                not OrderLine.objects.filter(part=line.part, order__supplier=order.supplier, short=True)
                .exclude(pk=line.pk)
                .exists()
            ):
                OfferOut.objects.filter(part=line.part, supplier=order.supplier).delete()
            said = f"{line.part} is on order again."
        line.save()
        step.delete()
        _close(order)
    return said


def give(part: str, unit: int) -> list[str]:
    """Let a unit come first for the pieces of a part; which places go without one then, by their names.

    Raises:
        BadInput: no place of that unit goes without this part, or there is none to give.
    """
    with transaction.atomic():
        before = next((w for w in waiting(places()) if w.part == part), None)
        if before is None or unit not in {p.unit for p in before.may_get}:
            raise BadInput(part, "a part that this unit lacks, and of which another unit has a piece", field="part")
        claim = FirstClaim.objects.create(part=part, unit_id=unit)
        GatherStep.objects.create(kind=GatherStep.GIVEN, claim=claim, at=timezone.now())
        after = next(w for w in waiting(places()) if w.part == part)
        lost = {p.pk: p for p in after.without}
        return [f"job {p.job}, {p.name}" for pk, p in lost.items() if pk not in {q.pk for q in before.without}]


def stand_in(part: int, name: str) -> None:
    """Take another part that lies here for a place whose own does not come.

    Raises:
        BadInput: no such place, or none of that part is free. Blocked: it does not go in, or the place was settled meanwhile.
    """
    row = Part.objects.select_related("board__unit").filter(pk=part).first()
    if row is None:
        raise BadInput(str(part), "a place that waits for a part", "Load the page again.", field="place")
    with unit_transaction(row.board.unit_id, f"{row.ref} cannot be decided") as door:
        free = free_pieces([name]).get(name, 0)
        if free < 1:
            raise BadInput(name, "a part in free stock", field="item")
        found, place = door.place(row.board_id, row.ref)
        choice = settling.take(door.state, found, place, name)
        choice.by_hand = True
        choice.save()
        log(row.board.unit, "gather", f"{row.board.name} {row.ref}: {name} is used instead.")


def free_pieces(names: list[str]) -> dict[str, int]:
    """Pieces of some parts that lie here and that no place waits for."""
    wanted = places()
    stock = stock_of(names)
    asked = {name: sum(p.item == name for p in wanted) for name in names}
    return {name: max(0, stock.here.get(name, 0) - asked[name]) for name in names}
