"""A board's supply reckoned with what is chosen for it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from idlebench.catalogue import house_devices
from idlebench.core.board.parts import Capacitor
from idlebench.core.choose import fuses
from idlebench.core.choose.fuses import Fuse, FuseNeed
from idlebench.core.choose.supply_figures import BranchState
from idlebench.core.choose.supply_model import Branch, reckon
from idlebench.core.draw.plots import Plot, Strip, strip, waves
from idlebench.core.refusal import BadInput

from ..unit.parts import BoardState
from ..unit.state import UnitState
from ..unit.stock import fuses as known_fuses
from ..unit.supply import branch_of, chosen_parts, measured


@dataclass(frozen=True, kw_only=True)
class BranchView:
    """A branch for its screen: the state, or why it cannot be reckoned; the strip and the waveforms."""

    branch: Branch
    state: BranchState | None
    wrong: BadInput | None
    strip: Strip
    plots: tuple[Plot, ...] = ()


def melting_of(board: BoardState) -> float | None:
    """The melting I²t of the fuse that is taken, or of the first generic one that fits the marking."""
    fuse = next((o for o in board.others if o.what == "fuse"), None)
    if fuse is None or not fuse.current:
        return None
    taken = board.work.choices.get(fuse.ref)
    if taken:
        return next((f.melting for f in known_fuses() if f.part == taken.item), None)
    return generic_melting(fuses.fuse_need(fuse, primary=True))


@lru_cache(maxsize=256)
def generic_melting(need: FuseNeed) -> float | None:
    """The melting I²t of the first generic fuse that fits, A²s; remembered, for a page asks it for every candidate."""
    first = next(iter(fuses.rank_fuses(need, house_devices("fuse"), fits=1, refused=0)), None)
    return first.part.melting if first and isinstance(first.part, Fuse) else None


def reckoned(
    state: UnitState,
    board: BoardState,
    branch: Branch,
    new: dict[str, Capacitor],
    already: dict[str, Capacitor] | None = None,
) -> BranchState:
    """A branch of a board with some new parts in it; already: those that stand there before.

    Raises:
        BadInput: it cannot work; it says what would.
    """
    cores = measured(state, board)
    melting = melting_of(board) if branch.fuse or not branch.volts else None
    return reckon(branch, cores, state.mains, new, melting, already)


def branches(state: UnitState, board: BoardState) -> list[BranchView]:
    """Every branch of a board's supply for its screen."""
    new, views = chosen_parts(board), []
    for branch in board.supply:
        try:
            found = reckoned(state, board, branch, new)
            views.append(
                BranchView(
                    branch=branch,
                    state=found,
                    wrong=None,
                    strip=strip(branch, found),
                    plots=() if branch.direct else waves(found),
                )
            )
        except BadInput as error:
            views.append(BranchView(branch=branch, state=None, wrong=error, strip=strip(branch, None)))
    return views


def change_by(state: UnitState, board: BoardState, ref: str, part: Capacitor | None) -> BranchState | None:
    """What a part would change in the supply of its place; None where the place is in none, or it cannot be reckoned."""
    branch = branch_of(board, ref)
    if branch is None:
        return None
    new = chosen_parts(board, part, ref)
    others = {name: item for name, item in new.items() if name != ref}
    try:
        return reckoned(state, board, branch, new, others)
    except BadInput:
        return None
