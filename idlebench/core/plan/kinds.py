"""What to ask for where there is no table of parts: the fewest kinds of part that serve all places, each as a window.

A kind is one that can be made: some generic size serves all of its places without a doubt. Fewest kinds is a minimum set cover,
solved exactly.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..board.parts import Capacitor
from ..choose.columns import Columns
from ..choose.need import Need
from ..choose.rank import FITS, Ranking, rank_many, status_of
from ..text.quantity import show, show_range
from ..wording import on_screen
from .solve import Model

#: How long may be looked, s, and how many of a place's parts are thought of.
SECONDS, THOUGHT_OF = 3.0, 400
#: What a place's next part is worse by when as few kinds do it: never as much as one kind more.
WORSE = 1e-4


@dataclass(frozen=True)
class Kind:
    """A kind of part to ask for. example: a generic size that is one. places: what it serves, by reference, with what each asks."""

    example: Capacitor
    places: Mapping[str, Need]

    @property
    def pieces(self) -> int:
        return len(self.places)

    @property
    def typed_like(self) -> str:
        """A part that would do, as it is typed in one line: `100uF 25V 6.3x11 p2.5 105C`."""
        one = self.example
        return (
            f"{show(one.value, 'F').replace(' ', '')} {one.volts:g}V {one.diameter:g}x{one.height:g} "
            f"p{one.pitch:g} {one.temperature:g}C"
        )

    @cached_property
    def must(self) -> tuple[str, ...]:
        """What may not vary, in words: what every one of its places asks, the strictest each time."""
        needs, example = list(self.places.values()), self.example
        low, high = max(n.value_low for n in needs), min(n.value_high for n in needs)
        said = [f"{show_range(low, high, 'F')}, {show(example.value, 'F')} is made"]
        ac = max((n.ac_volts or 0.0 for n in needs), default=0.0)
        if ac:
            said.append(
                f"class {' or '.join(dict.fromkeys(c for n in needs for c in n.role.safety))}, {show(ac, 'V')}~ or more"
            )
        else:
            said.append(f"{show(max(n.volts for n in needs), 'V')} or more")
        hot = max(n.temperature for n in needs)
        if hot:
            said.append(f"{show(hot, '°C')} or more")
        ripple = max(needs, key=lambda n: n.ripple)
        if ripple.ripple:
            said.append(f"ripple {show(ripple.ripple, 'A')} or more at {show(ripple.ripple_frequency, 'Hz')}")
        if top := min((n.esr_high for n in needs if n.esr_high), default=None):
            said.append(f"ESR {show(top, 'Ω')} or less at 100 kHz")
        if least := max((n.esr_low for n in needs if n.esr_low), default=None):
            said.append(f"but not under {show(least, 'Ω')}")
        if any(n.bipolar for n in needs):
            said.append("bipolar")
        said.append(f"{example.mounting}, {_size(needs)}")
        pitches = sorted({n.pitch for n in needs if n.pitch})
        if pitches:
            stiff = example.kind == "film" or example.mounting in ("snap", "screw", "chassis")
            formed = ": stiff leads cannot be formed" if stiff else ", or leads that can be formed to it"
            said.append(f"pitch {' or '.join(f'{p:g}' for p in pitches)} mm{formed}")
        return tuple(said)

    @cached_property
    def may(self) -> tuple[str, ...]:
        """What may vary, in words."""
        kinds = {n.kind for n in self.places.values()}
        said = ["maker and series", "more volts, where it is no larger"]
        if self.example.kind not in kinds:
            said.append(
                f"kind: {on_screen(self.example.kind)} in place of {' or '.join(map(on_screen, sorted(kinds)))}"
            )
        return tuple(said)


def _size(needs: Sequence[Need]) -> str:
    wide = min((n.diameter for n in needs if n.diameter is not None), default=None)
    high = min((n.height for n in needs if n.height is not None), default=None)
    if wide is None and high is None:
        return "of any size"
    return " and ".join(
        words for words, size in ((f"at most {wide or 0:g} mm wide", wide), (f"at most {high or 0:g} mm high", high)) if size is not None
    )  # fmt: skip


@dataclass(frozen=True)
class Kinds:
    """What to ask for. alone: places that no generic size serves, by reference. bound: fewer kinds than that cannot do it."""

    kinds: tuple[Kind, ...]
    alone: tuple[str, ...]
    bound: int

    @property
    def proved(self) -> bool:
        """Whether fewer kinds cannot serve all places."""
        return len(self.kinds) <= self.bound

    def as_text(self) -> str:
        """The list to print or to copy, a kind a paragraph."""
        blocks = [
            f"{kind.pieces} × {show(kind.example.value, 'F')} {show(kind.example.volts, 'V')} {on_screen(kind.example.kind)}\n"
            f"   must be: {'; '.join(kind.must)}\n"
            f"   may vary: {'; '.join(kind.may)}\n"
            f"   for {', '.join(kind.places)}"
            for kind in self.kinds
        ]
        return "\n\n".join(blocks)


def fewest(needs: Mapping[str, Need], columns: Columns, seconds: float = SECONDS) -> Kinds:
    """The fewest kinds that serve all places.

    Args:
        needs: what each place asks, by reference.
        columns: generic sizes, from which the kinds are taken.
        seconds: s.

    Returns:
        The kinds with their places, and what none serves.
    """
    refs = list(needs)
    served = [_rows(ranking) for ranking in rank_many([needs[ref] for ref in refs], columns, fits=1, refused=0)]
    alone = tuple(ref for ref, rows in zip(refs, served, strict=True) if not len(rows))
    # parts that serve the same places are one kind: the one that stands higher in their rankings speaks for it
    places: dict[int, list[int]] = defaultdict(list)
    standing: dict[int, int] = defaultdict(int)
    for i, rows in enumerate(served):
        for at, row in enumerate(rows.tolist()):
            places[row].append(i)
            standing[row] += at
    best: dict[tuple[int, ...], int] = {}
    for row, members in places.items():
        key = tuple(members)
        if key not in best or standing[row] < standing[best[key]]:
            best[key] = row
    chosen, bound = _cover(best, standing, [i for i, rows in enumerate(served) if len(rows)], seconds)
    position = {(i, row): at for i, rows in enumerate(served) for at, row in enumerate(rows.tolist())}
    kinds: dict[int, dict[str, Need]] = {row: {} for row in chosen}
    for i, ref in enumerate(refs):
        rows = [row for row in chosen if (i, row) in position]
        if rows:
            kinds[min(rows, key=lambda row: position[i, row])][ref] = needs[ref]
    found = [Kind(columns.part(row), members) for row, members in kinds.items() if members]
    return Kinds(tuple(sorted(found, key=lambda k: (k.example.value, k.example.volts))), alone, bound)


def _rows(ranking: Ranking) -> np.ndarray:
    """The rows that go in without a doubt, best first; where there is none, those to be looked at twice."""
    rows = ranking.rows[:THOUGHT_OF]
    if not len(rows):
        return rows
    sure = rows[status_of(ranking.need, ranking.columns.take(rows)) == FITS]
    return sure if len(sure) else rows


def _cover(
    best: Mapping[tuple[int, ...], int], standing: Mapping[int, int], wanted: Sequence[int], seconds: float
) -> tuple[list[int], int]:
    """The fewest rows of which each place has one, and what fewer cannot be than."""
    if not wanted:
        return [], 0
    model = Model()
    most = max(standing.values()) + 1
    picked = {row: model.whole(1, 1 + WORSE * standing[row] / most) for row in best.values()}
    for i in wanted:
        model.at_least({picked[row]: 1.0 for key, row in best.items() if i in key}, 1.0)
    solved = model.solve(seconds)
    if solved.values is None:
        # one after the other, the one that serves most first: always possible
        chosen, left = [], set(wanted)
        while left:
            key = max(best, key=lambda key: len(left & set(key)))
            chosen.append(best[key])
            left -= set(key)
        return chosen, 1
    chosen = [row for row, variable in picked.items() if solved.values[variable] > 0.5]
    # what a place's lower part is worse by never adds up to a kind
    return chosen, max(1, math.ceil(solved.bound - WORSE * len(wanted) - 1e-6))
