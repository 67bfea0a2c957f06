"""What a supply will do with a part before it is taken: its limited figures as gauges, and the parts that cure a failing rail."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from idlebench.core.board.parts import Capacitor
from idlebench.core.choose.cure import Cure, cure
from idlebench.core.choose.supply_figures import BranchState, Figure
from idlebench.core.choose.supply_model import Branch
from idlebench.core.draw.gauge import Gauge, of_figure
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

from ..unit.fits import ranking_for
from ..unit.parts import BoardState
from ..unit.state import UnitState
from ..unit.supply import branch_of, chosen_parts, measured
from . import supplying

#: How many of the parts that go into a place are looked through for a cure.
LOOKED_THROUGH = 400


@dataclass(frozen=True)
class Predicted:
    """A figure of a supply that has a limit, as a gauge with its words."""

    figure: Figure
    gauge: Gauge

    @property
    def state(self) -> str:
        """The word its tag tells: passed or failed."""
        return "failed" if self.figure.bad else "passed"

    @property
    def before(self) -> str:
        return show(self.figure.before, self.figure.unit)

    @property
    def after(self) -> str:
        return show(self.figure.after, self.figure.unit)

    @property
    def limit(self) -> str:
        word = "at least" if self.figure.at_least else "of"
        return f"{word} {show(self.figure.limit or 0.0, self.figure.unit)}"


@dataclass(frozen=True)
class Offer:
    """A cure in words: what the places need, what is offered, and each place with its part as the page saw it."""

    cure: Cure
    needs: str
    says: str
    wanted: tuple[tuple[str, str, str], ...]

    @property
    def button(self) -> str:
        return "Use the pair" if len(self.wanted) == 2 else f"Use {'these' if len(self.wanted) > 2 else 'it'}"


def predicted(found: BranchState) -> list[Predicted]:
    """The figures of a supply that have a limit, those that miss it first."""
    limited = [f for f in found.figures if f.limit is not None]
    return [
        Predicted(f, of_figure(f.before, f.after, f.limit or 0.0, f.at_least, f.unit))
        for f in sorted(limited, key=lambda f: not f.bad)
    ]


def moves(state: UnitState, board: BoardState, ref: str, rows: Sequence[Predicted], parts: Sequence[Capacitor]) -> list:
    """For each part that may go into a place: where the needles of the rows would stand, in the rows' order, for the page to move."""
    names = [row.figure.name for row in rows]
    found = []
    for part in parts:
        change = supplying.change_by(state, board, ref, part)
        by = {one.figure.name: one for one in predicted(change)} if change else {}
        found.append(
            [
                {"at": by[n].gauge.needle, "after": by[n].after, "state": by[n].state, "words": by[n].gauge.words}
                if n in by
                else None
                for n in names
            ]
        )
    return found


def offers(state: UnitState, board: BoardState, branch: Branch | None) -> list[Offer]:
    """For each rail of a branch that misses its limit with what is taken: the parts that would cure it."""
    if branch is None or branch.converter is None:
        return []
    chosen, cores = chosen_parts(board), measured(state, board)
    try:
        bad = {f.name for f in supplying.reckoned(state, board, branch, chosen).troubles}
    except BadInput:
        return []
    found = []
    for rail in branch.converter.rails:
        if f"Ripple on {rail.name}" not in bad:
            continue
        places = [p for ref in rail.stores if (p := board.find(ref)) and not p.swap]
        options = {p.ref: [c.part for c in ranking_for(state, p, LOOKED_THROUGH, 0).candidates] for p in places}
        standing = {ref: chosen[ref] for ref in rail.stores if ref in chosen and not options.get(ref)}
        one = cure(branch.converter, rail, cores, standing, options)
        if one is not None:
            found.append(_offer(board, one))
    return found


def _offer(board: BoardState, one: Cure) -> Offer:
    beside = f" in parallel with {' + '.join(one.standing)}" if one.standing else ""
    refs = " + ".join(one.places)
    many = len(one.places) > 1
    needs = (
        f"All capacitors of {one.rail} need {show(one.most, 'Ω')} or less together"
        if one.most > 0
        else f"No ESR is low enough for {one.rail}"
    )
    kinds = sorted({part.part for part in one.nearest.values()})
    what = f"{len(one.places)} × {kinds[0]}" if many and len(kinds) == 1 else " and ".join(kinds)
    if one.takes:
        says = f"{refs}{beside}: {what} gives {show(one.esr, 'Ω')} and {show(one.ripple, 'V')}"
    else:
        says = (
            f"Nothing in the catalogue is low enough for {refs}{beside}. The nearest, {what}, gives "
            f"{show(one.ripple, 'V')}"
        )
        if one.standing:
            says += f"; {' + '.join(one.standing)} is soldered in; take its swap back to choose it again"
    wanted = tuple((ref, part.part, board.find(ref).settled_as) for ref, part in one.takes.items())
    return Offer(one, needs, says, wanted)


def of_place(state: UnitState, board: BoardState, ref: str) -> list[Offer]:
    """The cures of the supply that a place belongs to."""
    return offers(state, board, branch_of(board, ref))
