"""What a unit's supplies should read on their way up: the model of each with the parts that stand in it now; remembered."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from idlebench.core import prove
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.choose.need import Mains
from idlebench.core.judge.measure import read_with
from idlebench.core.prove import interlocks
from idlebench.core.prove.checks import Check
from idlebench.core.prove.expect import Ahead, Expected, Outlook, ahead, words_of
from idlebench.core.prove.highest import HIGHEST, HighRail, over_volts
from idlebench.core.refusal import BadInput, Block
from idlebench.core.simulate.supply import Bench, read_fuse
from idlebench.core.text.rails_and_chips import Rail

from .parts import BoardState
from .rows import board_id
from .state import UnitState


@dataclass(frozen=True, kw_only=True)
class Known:
    """All that a supply's model is made from: what is the same gives the same bench."""

    lines: str
    parts: tuple[Fitted, ...]
    new: tuple[tuple[str, Capacitor], ...]
    fuse: str
    mains: Mains
    rails: tuple[Rail, ...]


@dataclass(frozen=True, kw_only=True)
class Setting:
    """How a step is gone: the way, V of the mains as read or nominal, Hz, W of the lamp, whether the mains were read."""

    way: str
    mains: float
    frequency: float
    lamp: float
    read: bool


@lru_cache(maxsize=64)
def bench_of(known: Known) -> Bench:
    """The supply on the simulated bench.

    Raises:
        BadInput: its lines or its survey leave something out.
    """
    return Bench.of(known.lines, known.parts, known.fuse, known.mains, known.rails, dict(known.new))


@lru_cache(maxsize=256)
def _ahead(known: Known, step: str, checks: tuple[Check, ...], how: Setting) -> Ahead:
    try:
        return ahead(bench_of(known), step, checks, how.way, how.mains, how.frequency, how.lamp, how.read)
    except BadInput:
        # without a model only the limit is shown
        return Ahead({}, Outlook())


@lru_cache(maxsize=512)
def _explained(known: Known, step: str, checks: tuple[Check, ...], how: Setting, key: str, value: float) -> str:
    return words_of(_ahead(known, step, checks, how).readings[key].explained_by(value))


@dataclass(frozen=True)
class Expecting:
    """What the rail checks of a step should read, and what the step should look like. missing: what to type to have it, "" where
    nothing is.
    """

    of: dict[str, Expected]
    outlook: Outlook
    missing: str
    _from: dict[str, tuple[Known, str, tuple[Check, ...], Setting]]

    def why(self, check: Check, value: float) -> str:
        """Which parts would explain a reading that is not what is expected; "" where nothing is expected."""
        return _explained(*self._from[check.key], check.key, value) if check.key in self.of else ""


def expecting(state: UnitState, step: prove.PowerStep) -> Expecting:
    """What a step of the way up should read."""
    supplies = [board for board in state.boards if board.row.supply and board.rails]
    found: dict[str, Expected] = {}
    sources: dict[str, tuple[Known, str, tuple[Check, ...], Setting]] = {}
    seen, without = Outlook(), []
    own = _own(step, supplies)
    for board in supplies:
        checks = tuple(c for c in step.checks if c.aspect and _of(c, board, supplies))
        if not checks and board is not own:
            continue
        if not board.supply:
            without += [board.row.name] if checks else []
            continue
        asked = known_of(state, board), step.key, checks, setting_of(state, board)
        one = _ahead(*asked)
        found |= one.readings
        sources |= dict.fromkeys(one.readings, asked)
        seen = one.outlook if board is own else seen
    missing = (
        f"What {', '.join(without)} should read is not known: type its supply's lines at Intake, such as "
        "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A."
        if without
        else ""
    )
    return Expecting(found, seen, missing, sources)


def _own(step: prove.PowerStep, supplies: list[BoardState]) -> BoardState | None:
    """The supply that a step brings up alone."""
    marked = [b for b in supplies if step.key.endswith(f".{board_id(b.row.pk)}")]
    return next(iter(marked or supplies), None)


def setting_of(state: UnitState, board: BoardState) -> Setting:
    """How the way up of a supply is gone."""
    measured = state.proof.measured
    facts = next((b for b in state.facts if b.id == board_id(board.row.pk)), None)
    va = prove.transformer_va(facts) if facts is not None else 0.0
    lamp = float(prove.lamp_watts(board.rails, board.row.supply, va))
    # a switching supply is never brought up on a variable transformer
    way = "lamp" if board.row.supply != "linear" and state.job.way == "variable" else state.job.way
    return Setting(
        way=way,
        mains=measured or state.job.mains_volts,
        frequency=state.job.mains_frequency,
        lamp=lamp,
        read=measured is not None,
    )


def _of(check: Check, board: BoardState, supplies: list[BoardState]) -> bool:
    """Whether a rail check is of this supply: where two make a rail of one name, the later one's checks are marked."""
    tail = f".{board_id(board.row.pk)}"
    if any(check.key.endswith(f".{board_id(other.row.pk)}") for other in supplies):
        return check.key.endswith(tail)
    return next((other for other in supplies if any(r.name == check.rail for r in other.rails)), None) is board


def known_of(state: UnitState, board: BoardState) -> Known:
    """What a board's supply is made of now: what was swapped in, and the rest as it was read."""
    swapped = {p.ref: p.swap.item for p in board.parts if p.swap and not p.is_out}
    rows = state.fitted
    new = tuple((ref, rows[item]) for ref, item in sorted(swapped.items()) if item in rows)
    frequency = state.job.meter_frequency
    parts = tuple(read_with(p.standing, frequency) for p in board.parts if not p.is_out)
    return Known(
        lines=board.lines,
        parts=parts,
        new=new,
        fuse=_readable(board.row.fuse),
        mains=state.mains,
        rails=board.rails,
    )


def _readable(fuse: str) -> str:
    """A fuse's marking where a rating can be read in it; what cannot leaves the fuse out, not the supply."""
    try:
        read_fuse(fuse)
    except BadInput:
        return ""
    return fuse


def at_highest(state: UnitState) -> tuple[HighRail, ...]:
    """What rails that were read at full mains would stand at on the highest, by their supplies' models; none where that is read itself."""
    proof, found = state.proof, []
    supplies = [board for board in state.boards if board.row.supply and board.rails]
    for step in proof.steps:
        if step.key.split(".")[0] != "full" or proof.step(step.key.replace("full", "high", 1)) is not None:
            continue
        for board in supplies:
            checks = tuple(c for c in step.checks if c.aspect == "volts" and _of(c, board, supplies))
            if not checks:
                continue
            how = setting_of(state, board)
            highest = replace(how, mains=HIGHEST * state.job.mains_volts, read=True)
            now, then = (_ahead(known_of(state, board), step.key, checks, one).readings for one in (how, highest))
            for check in checks:
                stood = proof.status_of(check)
                rail = next((r for r in board.rails if r.name == check.rail), None)
                if rail is None or stood.value is None or check.key not in then or not now[check.key].band.middle:
                    continue
                high = stood.value * then[check.key].band.middle / now[check.key].band.middle
                found.append(HighRail(rail, stood.value, high, highest.mains))
    return tuple(found)


def power_reasons(state: UnitState, key: str) -> tuple[Block, ...]:
    """Why power may not be put on at a step; before a board is connected, what its rails would be on the highest mains as well."""
    reasons = interlocks.power(state.proof, key)
    if not key.startswith("feed"):
        return reasons
    rails = [rail for board in state.boards if board.row.supply for rail in board.rails]
    return (*reasons, *over_volts(at_highest(state), rails))
