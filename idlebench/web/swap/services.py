"""Swapping parts, one place at a time, and mends. Each is one transaction, behind the gates of core."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from django.utils import timezone

from idlebench.core.board.mends import EXAMPLE, check_mend, is_mend, read_mend, too_thin
from idlebench.core.board.mends import Mend as CoreMend
from idlebench.core.board.modifications import is_modification, read_modification, troubles
from idlebench.core.board.parts import LEFT_OUT
from idlebench.core.board.quickline import read_line
from idlebench.core.board.soldering import swap_order
from idlebench.core.choose.rank import FAILS, judge_parts
from idlebench.core.choose.salvage import may_come_out, used
from idlebench.core.prove import interlocks
from idlebench.core.prove.changed_facts import facts_of, insulated, tab_reading
from idlebench.core.prove.cold_rails import fed_rails
from idlebench.core.prove.record import FUSE, HANDS, MEND, SWAP, SWAP_BACK
from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.simulate.truth import changed

from ..records.models import CAPACITOR_FIELDS, CatalogueItem, DeviceSwap, Mend, Modification, ShelfDevice, Swap
from ..unit.device_needs import KINDS
from ..unit.door import Open, note, unit_of_board, unit_transaction
from ..unit.fits import need_for
from ..unit.log import log
from ..unit.parts import BoardState, DeviceState, PartState
from ..unit.rows import board_id, device_id, mend_id, modification_id, part_id
from ..unit.series import save_part
from ..unit.state import UnitState
from ..unit.stock import device_of, what_of
from ..unit.work import open_blown

#: What of a linear supply is on its mains side; of a switching one anything may be.
MAINS_THINGS = ("fuse", "transformer", "varistor", "thermistor", "bleeder", "arrester")


#: Said where nobody noted whether a piece came off the shelf for a swap that is taken back.
COUNT_THE_SHELF = " It was not recorded whether this swap took a piece from stock: count the Shelf."


def swapped(board: int, ref: str, text: str = "") -> Swap:
    """Log that the new part is in; one comes off the shelf where any lies there.

    Raises:
        Blocked: the unit has power, a store is not known to be empty, nothing was chosen, or it is done.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be swapped") as door:
        return _swapped(door, board, ref, text)


def swapped_all(board: int, wanted: Sequence[tuple[str, str]]) -> None:
    """Log many swaps of a board, each with its note, as a plan says; all of them or none."""
    with unit_transaction(unit_of_board(board), "The swaps cannot be imported") as door:
        for ref, text in dict(wanted).items():
            _swapped(door, board, ref, text)


def _swapped(door: Open, board: int, ref: str, text: str) -> Swap:
    found, part = door.place(board, ref)
    if part.outdated:
        raise Blocked(f"{part.ref} cannot be swapped", interlocks.outdated(part.ref, part.outdated))
    reasons = interlocks.swap(
        door.state.proof, board_id(board), part.ref, part.taken or part.left_out, part.swap is not None
    )
    if reasons:
        raise Blocked(f"{part.ref} cannot be swapped", reasons)
    door.out(part_id(part.pk), "the old part came out, read empty before")
    if part.left_out:
        old = part.core
        swap = Swap.objects.create(
            part=part.row, item=LEFT_OUT, value=old.value, kind=old.kind, mounting=old.mounting, note=text[:300]
        )
        log(found.row.unit, "swap", f"{found.row.name} {part.ref}: out, and left out for the test.")
        _true_no_more(found, part.ref)
        return swap
    item = CatalogueItem.objects.filter(part=part.choice.item).first()
    if item is None:
        raise BadInput(
            part.choice.item, "a part of the catalogue", "It is not in stock any more: choose again.", field="item"
        )
    judged = judge_parts(need_for(door.state, part), [item.to_core()])[0]
    if judged.status == FAILS:
        # the place was described anew since it was chosen
        why = [r.text for r in judged.reasons if r.status == FAILS]
        raise Blocked(f"{part.ref} cannot be swapped", interlocks.chosen_before(part.ref, item.part, why))
    facts = {name: getattr(item, name) for name in ("value", "kind", "mounting", "bipolar", "safety")}
    text = "; ".join(filter(None, [item.note if item.used_read else "", text]))
    swap = Swap.objects.create(part=part.row, item=item.part, note=text[:300], took=bool(item.stock), **facts)
    if item.stock:
        item.stock -= 1
        item.save(update_fields=["stock", "changed"])
    log(found.row.unit, "swap", f"{found.row.name} {part.ref}: {swap.item} in{', ' + text if text else ''}.")
    _true_no_more(found, part.ref)
    return swap


def _true_no_more(found: BoardState, words: str, back: bool = False, mend: bool = False) -> None:
    """On the simulated bench: what befell a part goes with it, and comes back with it."""
    if found.row.truth:
        found.row.truth = changed(found.row.truth, words, back, mend)
        found.row.save(update_fields=["truth"])


def device_swapped(
    board: int, ref: str, typed: str = "", read_out: str = "", text: str = "", tab: str = ""
) -> DeviceSwap:
    """Log that a part which is no capacitor is changed: what was chosen for it, or what was typed.

    Args:
        typed: what is written on the new part, where none was chosen. read_out: what the old one measured, in words. text: a note.
        tab: what was read from an insulated tab to its heatsink before the legs were soldered, Ω.

    Raises:
        Blocked: nothing was chosen where the rules judge it, the unit has power, a store may be charged, two fuses blew.
        BadInput: no such part, nothing typed, or a tab that is not insulated.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be swapped") as door:
        found = door.board(board)
        place = found.find_device(ref)
        if place is None:
            raise BadInput(ref, f"a part of {found.row.name}", field="place")
        device = place.device
        if corrected := found.work.outdated.get(device.ref):
            raise Blocked(f"{device.ref} cannot be swapped", interlocks.outdated(device.ref, corrected))
        blown = open_blown(found.row, device.ref) if device.what == "fuse" else 0
        reasons = interlocks.swap_device(
            door.state.proof, board_id(board), device.ref, device.what, bool(place.choice), bool(place.swap), blown
        )
        if device.what == "varistor":
            reasons += interlocks.new_varistor(device.ref, typed, door.state.job.mains_volts)
        if device.what == "resistor" and not place.choice:
            reasons += interlocks.new_fusible(device.ref, device.note, typed)
        if reasons:
            raise Blocked(f"{device.ref} cannot be swapped", reasons)
        item, facts = (
            (place.choice.item, _facts(door.state, found, place, place.choice.item))
            if place.choice
            else (_typed(typed), {})
        )
        if insulated(device.what, str(facts.get("tab", "")), found.row.supply):
            facts = {**facts, "tab_read": tab_reading(tab)}
        swap = DeviceSwap.objects.create(
            board=found.row, ref=device.ref, what=device.what, was=f"{device.marked} {device.note}".strip()[:300],
            item=item, facts=facts, read_out=read_out[:120], note=text[:300], took=_count(item, -1),
        )  # fmt: skip
        _told(door, found, swap, SWAP, f"{device.ref}: {item} in", text)
        _true_no_more(found, device.ref)
        return swap


def _facts(state: UnitState, found: BoardState, place: DeviceState, item: str) -> dict[str, object]:
    """What the checks rest on, from the part as the Shelf knows it now.

    Raises:
        BadInput: the Shelf does not know it any more. Blocked: it does not go into the place as that is now.
    """
    part = device_of(item)
    if part is None:
        raise BadInput(item, "a part of the catalogue", "It is not on the Shelf any more: choose again.", field="item")
    kind = KINDS[place.device.what]
    judged = kind.judge(kind.need(state, found, place.device), part)
    if judged.status == FAILS:
        why = [r.text for r in judged.reasons if r.status == FAILS]
        raise Blocked(f"{place.ref} cannot be swapped", interlocks.chosen_before(place.ref, item, why))
    return facts_of(what_of(part), part)


def _typed(text: str) -> str:
    text = " ".join(text.split())
    if not 2 <= len(text) <= 60:
        raise BadInput(text, "what is written on the new part, 2 to 60 characters", field="typed")
    return text


def _count(item: str, pieces: int) -> bool:
    """Take a piece off the shelf where one lies there, or put it back; whether that was done."""
    row = ShelfDevice.objects.filter(part=item).first()
    if row is None or row.stock + pieces < 0:
        return False
    row.stock += pieces
    row.save(update_fields=["stock"])
    return True


def _told(door: Open, found: BoardState, swap: DeviceSwap, kind: str, words: str, text: str = "") -> None:
    """Write a swap, or its being taken back, into the record and the log."""
    row, board = device_id(swap.pk), board_id(found.row.pk)
    mains = bool(found.row.supply) and (found.row.supply == "switching" or swap.what in MAINS_THINGS)
    now, said = timezone.now(), f"{found.row.name} {words}"
    note(door.state.row, kind, now, row=row, board=board, mains=mains, words=said)
    if swap.what == "fuse":
        note(door.state.row, FUSE, now, row=board, board=board, mains=True, words=said)
    log(door.state.row, "swap", f"{said}{', ' + text if text else ''}.")


def device_back(board: int, ref: str) -> str:
    """Take the swap of a part which is no capacitor back: it was logged by mistake; what is to be said of its piece.

    Raises:
        Blocked: nothing is logged, or the unit has power.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be taken back") as door:
        found = door.board(board)
        reasons = interlocks.idle(door.state.proof)
        if reasons:
            raise Blocked(f"{ref} cannot be taken back", reasons)
        swap = found.row.device_swaps.filter(ref=ref.upper()).first()
        if swap is None:
            raise Blocked(f"{ref} is not swapped", (Block("swap", f"Nothing is logged for {ref}."),))
        counted = COUNT_THE_SHELF if swap.took is None and ShelfDevice.objects.filter(part=swap.item).exists() else ""
        if swap.took:
            _count(swap.item, 1)
        _told(door, found, swap, SWAP_BACK, f"{swap.ref}: swap taken back", counted.strip(" ."))
        swap.delete()
        _true_no_more(found, swap.ref, back=True)
        return counted.strip()


def salvage(board: int, ref: str, typed: str) -> str:
    """Take a part of a donor to the shelf as used: out of its board, measured; its name on the shelf.

    Args:
        typed: as measured out of circuit, such as cap 98u esr 0.3.

    Raises:
        BadInput: the reading cannot be read. Blocked: such a part is not used again, or hands may not go there now.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot go to the Shelf") as door:
        found, part = door.place(board, ref)
        read_ = read_line(f"{part.ref} {typed}").changes
        if not typed.strip() or not {"capacitance"} <= read_.keys() <= {"capacitance", "esr"}:
            raise BadInput(typed, "what it measures out of circuit, such as cap 98u esr 0.3", field="measured")
        value, esr = read_["capacitance"], read_.get("esr")
        reasons = [*interlocks.mend(door.state.proof, board_id(board)), *may_come_out(part.core, value, esr)]
        if part.swap or part.choice:
            reasons.append(Block("settled", f"{part.ref} is decided: {part.settled_as}.", "Take that back first."))
        if reasons:
            raise Blocked(f"{part.ref} cannot go to the Shelf", tuple(reasons))
        door.out(part_id(part.pk), "it went to the Shelf, read empty before")
        unit = door.state.row
        name = f"USED-{unit.job_id}{unit.name}-{found.row.name}-{part.ref}".replace(" ", "")[:60]
        if CatalogueItem.objects.filter(part=name).exists():
            raise BadInput(name, "a part that is not on the Shelf yet", "It came out before.", field="measured")
        where = f"unit {unit.name} of job {unit.job_id}, {found.row.name} {part.ref}"
        made = used(part.core, name, value, esr, where)
        facts = {field: getattr(made, field) for field in CAPACITOR_FIELDS}
        CatalogueItem.objects.create(**facts, used_read=timezone.now())
        part.row.take(part.row.to_core().with_(looks="missing", capacitance=value, esr=esr, in_circuit=False))
        save_part(part.row)
        words = f"{found.row.name} {part.ref} out, to the Shelf"
        note(unit, HANDS, timezone.now(), board=board_id(found.row.pk), words=words)
        log(unit, "swap", f"{found.row.name} {part.ref}: out, and to the Shelf as {name}.")
        return name


def in_order(board: BoardState) -> list[PartState]:
    """The places of a board to swap, in the order that is easiest for the hands; what is done stands last."""
    parts = {part.ref: part for part in board.to_swap}

    def lies_here(ref: str) -> bool:
        return parts[ref].left_out or (ref in board.chosen and board.chosen[ref].stock > 0)

    ordered = swap_order([part.core for part in parts.values()], lies_here)
    return sorted((parts[ref] for ref in ordered), key=lambda part: part.swap is not None)


def take_back(board: int, ref: str) -> str:
    """Take a swap back: it was logged by mistake. The piece that it took lies on the shelf again; what is to be said of it.

    Raises:
        Blocked: nothing is logged, or the unit has power.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be taken back") as door:
        found, part = door.place(board, ref)
        if not part.swap:
            raise Blocked(f"{part.ref} is not swapped", (Block("swap", f"Nothing is logged for {part.ref}."),))
        swap, counted = part.swap, ""
        item = CatalogueItem.objects.filter(part=swap.item).first()
        if item and swap.took:
            item.stock += 1
            item.save(update_fields=["stock", "changed"])
        elif item and swap.took is None:
            counted = COUNT_THE_SHELF
        Swap.objects.filter(pk=swap.pk).delete()
        _true_no_more(found, part.ref, back=True)
        log(found.row.unit, "swap", f"{found.row.name} {part.ref}: swap taken back.{counted}")
        return counted.strip()


def mend(board: int, text: str) -> str:
    """Log a mend on a board: a joint made new, a wire, a pad. What it may have changed is asked again.

    One that tells its damage and its ends is kept as such, drawn, and asked for by a cold check; any other is kept in its words.
    What is said of it, "" for nothing.

    Raises:
        BadInput: nothing said, an end that is not on the board, or two nets that must not meet. Blocked: the unit has power, or
            a store is not known to be empty.
    """
    text = " ".join(text.split())
    if len(text) < 4 or len(text) > 300:
        raise BadInput(
            text, f"the repair, such as {EXAMPLE}, or in a few words", "At most 300 characters.", field="mend"
        )
    with unit_transaction(unit_of_board(board), "No repair can be logged now") as door:
        found = door.board(board)
        reasons = interlocks.mend(door.state.proof, board_id(board))
        if reasons:
            raise Blocked("No repair can be logged now", reasons)
        row, said, told = board_id(board), text, ""
        if is_modification(text):
            core = read_modification(text)
            made = Modification.objects.create(board=found.row, line=core.as_line()[:300])
            row, said, told = modification_id(made.pk), core.title, " ".join(troubles(core, found.zones))
        elif is_mend(text):
            kept, told = _kept(found, read_mend(text), door.state)
            row, said = mend_id(kept.pk), kept.to_core().title
        note(door.state.row, MEND, timezone.now(), row=row, board=board_id(board), words=f"{found.row.name}: {said}")
        if not is_modification(text):
            _true_no_more(found, said, mend=True)
        log(found.row.unit, "mend", f"{found.row.name}: {said}.")
        return told


def _kept(found: BoardState, core: CoreMend, state: UnitState) -> tuple[Mend, str]:
    """A mend kept, once it is held against what is known of its board; and what is said of its wire."""
    nets = found.nets
    parts = [p.core for p in found.parts]
    net = check_mend(core, parts, found.chips, [d.device for d in found.devices], nets)
    for end in (core.a, core.b):
        if end is not None and end.x is not None and (end.x > found.row.width or end.y > found.row.height):
            size = f"{found.row.width:g} × {found.row.height:g} mm"
            raise BadInput(end.words, f"a point on {found.row.name}, which is {size}", field="mend")
    row = Mend.objects.create(board=found.row, line=core.as_line(), net=net)
    return row, too_thin(core, net, found.rails or fed_rails(state.facts))


def modification_back(board: int, pk: int) -> None:
    """Log that a modification was put back, or typed by mistake; what it may have changed is asked again.

    Raises:
        Blocked: it is not there, or the unit has power.
    """
    _back(Modification, board, pk, "modification", "put back", modification_id)


def mend_back(board: int, pk: int) -> None:
    """Take a mend back that was logged by mistake, or came off; what it may have changed is asked again.

    Raises:
        Blocked: it is not there, or the unit has power.
    """
    _back(Mend, board, pk, "repair", "repair taken back", mend_id)


def _back(
    model: type[Mend | Modification], board: int, pk: int, what: str, done: str, row_id: Callable[[int], str]
) -> None:
    with unit_transaction(unit_of_board(board), f"The {what} cannot be taken back") as door:
        found = door.board(board)
        row = model.objects.filter(board=found.row, pk=pk).first()
        if row is None:
            raise Blocked(f"The {what} is not there", (Block("mend", "It was taken back already."),))
        if reasons := interlocks.mend(door.state.proof, board_id(board)):
            raise Blocked(f"The {what} cannot be taken back", reasons)
        words = f"{found.row.name}: {done}, {row.line}"
        note(door.state.row, MEND, timezone.now(), row=row_id(row.pk), board=board_id(board), words=words[:300])
        log(found.row.unit, "mend", f"{words}.")
        row.delete()
