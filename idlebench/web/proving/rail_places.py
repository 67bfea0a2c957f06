"""What stands beside the rail in hand: where its leads go, drawn on the board, and what was read of it over time."""

from __future__ import annotations

from dataclasses import dataclass

from idlebench.core.board.roles import is_mains_place
from idlebench.core.draw.history import History, Session, history
from idlebench.core.prove.leads import GROUND, Leads
from idlebench.core.prove.record import FUSE, MEND, PART, SWAP, SWAP_BACK
from idlebench.core.text.rails_and_chips import rail_volts

from ..records.models import PowerSession
from ..unit.parts import BoardState, PartState
from ..unit.picture import board_picture
from ..unit.state import UnitState
from .rails import RailRow

#: Work that a rail may move by.
WORK = (SWAP, SWAP_BACK, PART, MEND, FUSE)
#: Roles of parts that stand on a rail, not before what makes it; and how near to the rail's volts is what they see.
ON_RAIL, NEAR = ("converter_output", "regulator_output", "decoupling"), 0.15


@dataclass(frozen=True, kw_only=True)
class Beside:
    """rail: its name. leads: where they go. where, picture: the board drawn with the place lit, None and {} where none is known."""

    rail: str
    leads: Leads
    where: BoardState | None
    picture: dict[str, object]
    history: History | None


def beside(state: UnitState, rail: RailRow) -> Beside:
    """What stands beside a rail."""
    check = rail.volts.row.check
    board = next((b for b in state.boards if b.row.name == check.board), None)
    store = store_on(board, check.nominal) if board else None
    leads = Leads(GROUND, rail.name)
    picture: dict[str, object] = {}
    if board is not None and store is not None:
        minus = (check.nominal or 0.0) < 0
        ends = f"{store.ref} plus", f"{store.ref} minus"
        leads = Leads(f"{GROUND}, {ends[0] if minus else ends[1]}", f"{rail.name}, {ends[1] if minus else ends[0]}")
        picture = board_picture(board, store, store.core.side)
    return Beside(
        rail=rail.name, leads=leads, where=board if picture else None, picture=picture, history=_history(state, rail)
    )


def store_on(board: BoardState, volts: float | None) -> PartState | None:
    """The largest polar store of a rail that has a place on the board: across it the rail is read with two short leads.

    Never one before a regulator, on the mains side, or one that sees other volts than the rail's: there the rail is not.
    """
    before = {ref for branch in board.supply for ref in branch.stores}

    def on_it(part: PartState) -> bool:
        core = part.core
        if core.x is None or not core.polar or part.is_out or part.ref in before or not volts or not core.rail:
            return False
        if is_mains_place(core.role, core.safety) or core.role not in ON_RAIL or rail_volts(core.rail) != volts:
            return False
        return core.rail_volts is None or abs(abs(core.rail_volts) - abs(volts)) <= NEAR * abs(volts)

    return max(filter(on_it, board.parts), key=lambda p: p.core.value, default=None)


def _history(state: UnitState, rail: RailRow) -> History | None:
    check = rail.volts.row.check
    keys = {
        c.key
        for step in state.proof.steps
        for c in step.checks
        if c.rail == rail.name and c.aspect == "volts" and c.live and c.kind == "dc_volts"
    }
    read = [(r.at.timestamp(), r.value) for r in state.readings if r.key in keys and r.value is not None]
    if len(read) < 2 or check.low is None or check.high is None:
        return None
    sessions = [
        Session(began.timestamp(), ended.timestamp() if ended else None, title)
        for began, ended, title in PowerSession.objects.filter(unit=state.row.pk).values_list("began", "ended", "title")
    ]
    events = [(event.at, event.words) for _, event in state.recorded if event.kind in WORK]
    return history(read, sessions, events, check.low, check.high, state.now.timestamp())
