"""What is no capacitor chosen: regulators and fuses ranked, taken, and blown fuses logged."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.utils import timezone

from idlebench.core.board.devices import Device, read_device
from idlebench.core.choose import regulators_and_fuses as rules
from idlebench.core.choose.regulators_and_fuses import Fuse, FuseNeed, Judged, RegulatorNeed
from idlebench.core.choose.supply_model import HIGH, LOW, BranchState, Store, reckon, settle, supply_of
from idlebench.core.circuit.supply import Settled
from idlebench.core.draw.plots import Plot, fuse_plot
from idlebench.core.prove import gates
from idlebench.core.prove.record import FUSE
from idlebench.core.refusal import BadInput, GateShut, Shut
from idlebench.core.text.stored import read_lines

from ..records.models import Board, DeviceChoice, FuseBlown
from ..unit.door import inside, note, opened, unit_of_board
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.rows import board_id
from ..unit.state import UnitState
from ..unit.stock import fuses, regulators
from .supplying import chosen_parts, measured


@dataclass(frozen=True)
class DeviceView:
    """A regulator or fuse for its screen: ranked parts, what is taken, the pulse on a fuse's curve, and how often it blew."""

    other: Device
    judged: list[Judged]
    taken: DeviceChoice | None
    plot: Plot | None = None
    blown: int = 0
    shut: Shut | None = None
    wrong: str = ""

    @property
    def pins(self) -> tuple[str, ...]:
        """The old part's pins in order."""
        return self.other.pins[:3]

    @property
    def tab(self) -> str:
        """What the old part's tab is joined to."""
        return self.other.pins[3] if self.other.pins else ""


def others(state: UnitState, board: BoardState) -> list[DeviceView]:
    """Every regulator and fuse of a board, ranked."""
    taken = {c.ref: c for c in board.row.device_choices.all()}
    views = []
    for other in board.others:
        if other.what == "regulator":
            views.append(_regulator_view(state, board, other, taken.get(other.ref)))
        elif other.what == "fuse":
            views.append(_fuse_view(state, board, other, taken.get(other.ref)))
    return views


def regulator_need(state: UnitState, board: BoardState, other: Device) -> RegulatorNeed:
    """What a regulator's place asks, from the branch that feeds it.

    Raises:
        BadInput: its volts are not known, or no branch of the supply speaks of it.
    """
    branch = next((b for b in board.supply if b.regulator and b.regulator.ref == other.ref), None)
    if branch is None:
        raise BadInput(
            other.ref,
            "a line of the supply that ends in it",
            f"Write it at Intake: … regulator {other.ref} 5V 1A.",
            "supply",
        )
    fed, new = branch.regulator, chosen_parts(board)
    cores = measured(state, board)
    found = reckon(branch, cores, state.mains, new)
    low, high = (_at(found, percent) for percent in (LOW, HIGH))
    place = next((z.room for z in board.zones if z.room and z.holds(other.x, other.y)), None)
    return RegulatorNeed(
        other, fed.volts, fed.current, low.v_min, high.v_avg, high.supply.unloaded, fed.theta_sa, fed.ambient, place, policy=state.policy
    )  # fmt: skip


def _at(found: BranchState, percent: float) -> Settled:
    """A branch with what is in it now, on mains that stray."""
    supply = found.after.supply.at(percent)
    return settle(replace(supply, load=found.after.supply.load))


def _regulator_view(state: UnitState, board: BoardState, other: Device, taken: DeviceChoice | None) -> DeviceView:
    try:
        need = regulator_need(state, board, other)
    except BadInput as error:
        return DeviceView(other, [], taken, wrong=str(error))
    return DeviceView(other, rules.rank_regulators(need, regulators(), 4, 2), taken)


def place_of_fuse(state: UnitState, board: BoardState, other: Device) -> tuple[FuseNeed, float]:
    """What a fuse's place asks, and the peak of its switch-on pulse, A.

    Raises:
        BadInput: no rating is marked.
    """
    primary = next((b for b in board.supply if not b.volts or b.fuse), None)
    branch = primary or next(iter(board.supply), None)
    pulse = peak = 0.0
    if primary is not None:
        cores = measured(state, board)
        found = reckon(primary, cores, state.mains, chosen_parts(board))
        pulse = next((f.after for f in found.figures if f.name.startswith("Inrush")), 0.0)
        high = supply_of(primary, _store_of(found), state.mains, HIGH)
        peak = high.peak / (high.source_resistance + high.store_esr)
    worked_out = (
        rules.worked_out_rating(branch.converter, branch.va, state.job.mains_volts)
        if branch and not other.current
        else 0.0
    )
    return rules.fuse_need(
        other, primary=bool(board.row.supply), pulse=pulse, worked_out=worked_out, charges=bool(board.supply)
    ), peak


def _store_of(found: BranchState) -> Store:
    supply = found.after.supply
    return Store(supply.store, supply.store_esr, supply.store_esr, "")


def _fuse_view(state: UnitState, board: BoardState, other: Device, taken: DeviceChoice | None) -> DeviceView:
    try:
        need, peak = place_of_fuse(state, board, other)
    except BadInput as error:
        return DeviceView(other, [], taken, wrong=str(error))
    judged = rules.rank_fuses(need, fuses(), 4, 2)
    shown = next((j.part for j in judged if taken and j.part.part == taken.item), judged[0].part if judged else None)
    curve = fuse_plot(shown, need.pulse, peak) if isinstance(shown, Fuse) else None
    return DeviceView(
        other, judged, taken, curve, len(open_blown(board.row, other.ref)), third_fuse(board.row, other.ref)
    )


def open_blown(board: Board, ref: str) -> list[FuseBlown]:
    """Blown fuses of a place since a cause was last logged."""
    found: list[FuseBlown] = []
    for blown in board.blown.filter(ref=ref):
        found = [] if blown.cause else [*found, blown]
    return found


def third_fuse(board: Board, ref: str) -> Shut | None:
    """Why no further fuse is fitted yet, or None."""
    return next(iter(gates.third_fuse(ref, len(open_blown(board, ref)))), None)


def take_other(board: int, ref: str, name: str) -> DeviceChoice:
    """Take a regulator or fuse for its place.

    Raises:
        BadInput: no such part or place. GateShut: it fails there, or two fuses blew and no cause is logged.
    """
    with opened(unit_of_board(board), f"{ref} cannot be settled") as door:
        return _taken(door.state, door.board(board), ref, name)


def _taken(state: UnitState, board: BoardState, ref: str, name: str) -> DeviceChoice:
    device = next((o for o in board.others if o.ref == ref and o.what in ("regulator", "fuse")), None)
    if device is None:
        raise BadInput(ref, f"a regulator or fuse of {board.row.name}", "", "ref")
    pool = {p.part: p for p in (regulators() if device.what == "regulator" else fuses())}
    if name not in pool:
        raise BadInput(name, f"a {device.title} of the catalogue", "", "item")
    if device.what == "regulator":
        judged = rules.judge_regulator(regulator_need(state, board, device), pool[name])
    else:
        if reasons := gates.third_fuse(ref, len(open_blown(board.row, ref))):
            raise GateShut(f"No fuse goes into {ref} yet", reasons)
        judged = rules.judge_fuse(place_of_fuse(state, board, device)[0], pool[name])
    if judged.status == rules.FAILS:
        reasons = tuple(Shut(r.rule, f"{r.text}.") for r in judged.reasons if r.status == rules.FAILS)
        raise GateShut(f"{name} does not go into {ref}", reasons)
    texts = [r.text for r in judged.reasons]
    choice, _ = DeviceChoice.objects.update_or_create(
        board=board.row, ref=ref, defaults={"item": name, "verdict": judged.verdict, "reasons": texts}
    )
    log(board.row.unit, "choose", f"{board.row.name} {ref}: {name}, {judged.verdict}. {'; '.join(texts)}")
    return choice


@inside("The supply cannot be changed")
def untake_other(board: Board, ref: str) -> None:
    """Take a choice back."""
    board.device_choices.filter(ref=ref).delete()
    log(board.unit, "choose", f"{board.name} {ref}: choice taken back.")


@inside("The supply cannot be changed")
def blew(board: Board, ref: str) -> None:
    """Log that a fuse blew.

    Raises:
        BadInput: not a fuse of this board.
    """
    if not any(o.ref == ref and o.what == "fuse" for o in read_lines(board.others, "others", read_device)[0]):
        raise BadInput(ref, f"a fuse of {board.name}", "", "ref")
    now, row = timezone.now(), board_id(board.pk)
    FuseBlown.objects.create(board=board, ref=ref, at=now)
    note(board.unit, FUSE, now, row=row, board=row, words=f"{board.name} {ref} blew", mains=True)
    log(board.unit, "fuse", f"{board.name} {ref} blew.")


@inside("The supply cannot be changed")
def cause_found(board: Board, ref: str, cause: str) -> None:
    """Log why the fuses of a place blew.

    Raises:
        BadInput: none blew, or no cause in words.
    """
    waiting = open_blown(board, ref)
    if not waiting:
        raise BadInput(ref, "a fuse that blew", "", "ref")
    if len(cause.split()) < 2 or len(cause) > 300:
        raise BadInput(
            cause, "the cause in a few words, at most 300 characters", "Such as: bridge D1 shorted.", "cause"
        )
    waiting[-1].cause = cause.strip()
    waiting[-1].save()
    log(board.unit, "fuse", f"{board.name} {ref}: cause found, {cause.strip()}.")
