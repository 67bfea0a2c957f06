"""What is no capacitor chosen: regulators, fuses, cells and diodes ranked, taken, and blown fuses logged."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from idlebench.core.board.devices import Device, read_device
from idlebench.core.choose import regulators_and_fuses as rules
from idlebench.core.choose.fuses import Fuse
from idlebench.core.choose.regulators_and_fuses import Judged
from idlebench.core.circuit.packages import PACKAGES, Package
from idlebench.core.draw.plots import Plot, fuse_plot
from idlebench.core.prove import interlocks
from idlebench.core.prove.record import FUSE
from idlebench.core.refusal import BadInput, Block, Blocked
from idlebench.core.text.stored import read_lines

from ..records.models import Board, Clue, DeviceChoice, FuseBlown
from ..unit.device_needs import KINDS, place_of_fuse
from ..unit.door import in_unit_transaction, note, unit_of_board, unit_transaction
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.rows import board_id
from ..unit.state import UnitState
from ..unit.stock import devices, what_of
from ..unit.work import all_blown, open_blown


@dataclass(frozen=True, kw_only=True)
class DeviceView:
    """A part that is no capacitor for its screen: ranked parts, what is taken, the pulse on a fuse's curve, and how often it blew."""

    other: Device
    judged: list[Judged]
    taken: DeviceChoice | None
    plot: Plot | None = None
    blown: int = 0
    shut: Block | None = None
    wrong: BadInput | None = None

    @property
    def best(self) -> Any:
        """The first that goes in, None where none does."""
        return next((j.part for j in self.judged if j.status != rules.FAILS), None)

    @property
    def pins(self) -> tuple[str, ...]:
        """The old part's pins in order."""
        return self.other.pins[:3]

    @property
    def tab(self) -> str:
        """What the old part's tab is joined to."""
        return self.other.pins[3] if self.other.pins else ""

    @property
    def package(self) -> Package | None:
        """The old part's package."""
        return PACKAGES.get(self.other.package)


#: Kinds that are listed whatever is known of them; of the rest those that are to be replaced.
ALWAYS = ("regulator", "fuse", "battery", "diode")


def others(state: UnitState, board: BoardState) -> list[DeviceView]:
    """Every regulator, fuse, battery and diode of a board, ranked."""
    taken = board.work.choices
    states = {d.ref: d for d in board.devices}
    here = [
        o for o in board.others if o.what in ALWAYS or (o.what in KINDS and o.ref in states and states[o.ref].to_swap)
    ]
    pool = devices() if here else ()
    blown = all_blown(board.row) if any(other.what == "fuse" for other in here) else {}
    return [
        _view(state, board, other, taken.get(other.ref), [d for d in pool if what_of(d) == other.what], blown)
        for other in here
    ]


def _view(
    state: UnitState,
    board: BoardState,
    other: Device,
    taken: DeviceChoice | None,
    pool: Sequence[Any],
    blown: Mapping[str, int],
) -> DeviceView:
    kind = KINDS[other.what]
    try:
        need = kind.need(state, board, other)
    except BadInput as error:
        return DeviceView(other=other, judged=[], taken=taken, wrong=error)
    judged = kind.rank(need, pool, 4, 2)
    if other.what != "fuse":
        return DeviceView(other=other, judged=judged, taken=taken)
    shown = next((j.part for j in judged if taken and j.part.part == taken.item), judged[0].part if judged else None)
    curve = None
    if board.row.supply and isinstance(shown, Fuse):
        curve = fuse_plot(shown, need.pulse, place_of_fuse(state, board, other)[1])
    count = blown.get(other.ref, 0)
    return DeviceView(
        other=other,
        judged=judged,
        taken=taken,
        plot=curve,
        blown=count,
        shut=next(iter(interlocks.third_fuse(other.ref, count)), None),
    )


def take_other(board: int, ref: str, name: str) -> DeviceChoice:
    """Take a regulator, fuse, cell or diode for its place.

    Raises:
        BadInput: no such part or place. Blocked: it fails there, or two fuses blew and no cause is logged.
    """
    with unit_transaction(unit_of_board(board), f"{ref} cannot be decided") as door:
        return _taken(door.state, door.board(board), ref, name)


def _taken(state: UnitState, board: BoardState, ref: str, name: str) -> DeviceChoice:
    device = next((o for o in board.others if o.ref == ref and o.what in KINDS), None)
    if device is None:
        raise BadInput(ref, f"a part of {board.row.name} that is chosen by its limits", field="ref")
    part = next((p for p in devices(device.what) if p.part == name), None)
    if part is None:
        raise BadInput(name, f"a {device.title} of the catalogue", field="item")
    if swapped := board.work.swaps.get(ref):
        raise Blocked(
            f"{ref} is swapped", (Block("swapped", f"{swapped.item} is fitted.", "Take the swap back first."),)
        )
    if device.what == "fuse" and (reasons := interlocks.third_fuse(ref, open_blown(board.row, ref))):
        raise Blocked(f"No fuse may be fitted in {ref} yet", reasons)
    kind = KINDS[device.what]
    judged = kind.judge(kind.need(state, board, device), part)
    if judged.status == rules.FAILS:
        reasons = tuple(Block(r.rule, f"{r.text}.") for r in judged.reasons if r.status == rules.FAILS)
        raise Blocked(f"{name} does not fit {ref}", reasons)
    texts = [r.text for r in judged.reasons]
    choice, _ = DeviceChoice.objects.update_or_create(
        board=board.row, ref=ref, defaults={"item": name, "verdict": judged.verdict, "reasons": texts}
    )
    log(board.row.unit, "choose", f"{board.row.name} {ref}: {name}, {judged.verdict}. {'; '.join(texts)}")
    return choice


@in_unit_transaction("The supply cannot be changed")
def untake_other(board: Board, ref: str) -> None:
    """Take a choice back."""
    board.device_choices.filter(ref=ref).delete()
    log(board.unit, "choose", f"{board.name} {ref}: choice taken back.")


@in_unit_transaction("The supply cannot be changed")
def blew(board: Board, ref: str) -> None:
    """Log that a fuse blew; the place is empty again.

    Raises:
        BadInput: not a fuse of this board.
    """
    if not any(o.ref == ref and o.what == "fuse" for o in read_lines(board.others, "others", read_device)[0]):
        raise BadInput(ref, f"a fuse of {board.name}", field="ref")
    now, row = timezone.now(), board_id(board.pk)
    again = " again" if open_blown(board, ref) else ""
    FuseBlown.objects.create(board=board, ref=ref, at=now)
    Clue.objects.create(unit=board.unit, board=board, kind=Clue.SIGN, text=f"fuse gone{again}", at=now)
    board.device_swaps.filter(ref=ref).delete()
    note(board.unit, FUSE, now, row=row, board=row, words=f"{board.name} {ref} blew", mains=True)
    log(board.unit, "fuse", f"{board.name} {ref} blew.")


@in_unit_transaction("The supply cannot be changed")
def cause_found(board: Board, ref: str, cause: str) -> None:
    """Log why the fuses of a place blew.

    Raises:
        BadInput: none blew, or no cause in words.
    """
    if not open_blown(board, ref):
        raise BadInput(ref, "a fuse that blew", field="ref")
    if len(cause.split()) < 2 or len(cause) > 300:
        raise BadInput(
            cause, "the cause in a few words, at most 300 characters", "Such as: bridge D1 shorted.", field="cause"
        )
    last = board.blown.filter(ref=ref).order_by("id").last()
    last.cause = cause.strip()
    last.save()
    log(board.unit, "fuse", f"{board.name} {ref}: cause found, {cause.strip()}.")
