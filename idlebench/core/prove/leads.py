"""Where a meter's two leads go for a check, and the order of checks in which they move least."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from .checks import BoardFacts, Check
from .facts import DISCHARGED, INSIDE, MAINS_READ

GROUND = "ground"


@dataclass(frozen=True)
class Leads:
    """Where the leads go: words for the black and for the red one. at: of the one that is on a part, mm; None where not known."""

    black: str
    red: str
    at: tuple[float, float] | None = None


_PIN = re.compile(r"([A-Z]{1,4}\d{0,5}[A-Z]?) pin (\S+) to (.+)")
#: The diode from emitter to collector blocks where red is on the collector.
_TRANSISTOR = re.compile(r"(.+), collector to emitter")
REF = re.compile(r"\b[A-Z]{1,4}\d{1,5}[A-Z]?\b")


def places_of(board: BoardFacts) -> dict[str, tuple[float, float]]:
    """Where the parts, chips and devices of a board are, mm, by reference."""
    found = [(p.ref, p.x, p.y) for p in board.parts] + [(c.ref, c.x, c.y) for c in board.chips]
    found += [(d.ref, d.x, d.y) for d in board.devices]
    return {ref: (x, y) for ref, x, y in found if x is not None and y is not None}


def leads_of(check: Check, places: Mapping[str, tuple[float, float]] | None = None) -> Leads | None:
    """Where the leads go for a check; None where it is looked at, or read by a meter of its own.

    >>> leads_of(Check(key='k', step='cold', kind='continuity', point='U5 pin 16 to +5 V', ask=''))
    Leads(black='+5 V', red='U5 pin 16', at=None)
    """
    if check.seen or check.live or check.fact == MAINS_READ:
        return None
    places = places or {}
    if hit := _PIN.fullmatch(check.point):
        return Leads(hit[3], f"{hit[1]} pin {hit[2]}", places.get(hit[1]))
    if check.rail and check.point.startswith(GROUND):
        return Leads(check.rail, GROUND)
    if check.rail and "dummy" not in check.key:
        return Leads(GROUND, check.rail)
    ref = next(iter(REF.findall(check.point)), "")
    if check.fact == DISCHARGED:
        return Leads(f"{ref} minus", f"{ref} plus", places.get(ref))
    if hit := _TRANSISTOR.fullmatch(check.point):
        return Leads(f"{hit[1]} emitter", f"{hit[1]} collector", places.get(hit[1]))
    one, to, other = check.point.partition(" to ")
    if to and not ref:
        return Leads(other.split(",")[0], one)
    return Leads(f"{ref or check.point}, one end", f"{ref or check.point}, the other end", places.get(ref))


def by_leads(checks: Sequence[Check], boards: Iterable[BoardFacts]) -> tuple[Check, ...]:
    """The checks in an order in which the leads move least; every check once.

    Stores are emptied first, what is looked at comes next, then what is read, board by board: while one lead stays on ground, or
    on a rail, the other goes from place to place by the shortest way. What is looked at last stays last.
    """
    known = {board.name: (number, places_of(board)) for number, board in enumerate(boards)}

    def stage(check: Check) -> int:
        if check.fact == DISCHARGED:
            return 0
        if check.fact == INSIDE:
            return 4
        return 1 if check.seen else 3 if check.fact == MAINS_READ else 2

    read: dict[tuple[int, str], list[Check]] = {}
    rest: list[tuple[int, Check]] = []
    for check in checks:
        number, places = known.get(check.board, (len(known), {}))
        leads = leads_of(check, places) if stage(check) == 2 else None
        if leads is None:
            rest.append((stage(check), check))
        else:
            read.setdefault((number, _stays(leads)), []).append(check)
    ordered = [check for when, check in rest if when < 2]
    for key in sorted(read, key=lambda key: (key[0], _when(key[1]), key[1])):
        places = known.get(read[key][0].board, (0, {}))[1]
        ordered += _shortest(read[key], places)
    return (*ordered, *(check for when, check in rest if when == 3), *(check for when, check in rest if when == 4))


def _stays(leads: Leads) -> str:
    """What one lead stays on while the other moves: ground with either colour, a rail, else the thing itself."""
    if leads.black == GROUND:
        return GROUND
    if leads.red == GROUND:
        return f"red on {GROUND}"
    return leads.black if leads.black[:1] in "+−" else ""


def _when(stays: str) -> int:
    """Things with both leads of their own first: plug, fuse, windings; then ground, rail by rail, and the leads changed over."""
    return {"": 0, GROUND: 1, f"red on {GROUND}": 3}.get(stays, 2)


def _shortest(checks: Sequence[Check], places: Mapping[str, tuple[float, float]]) -> list[Check]:
    """From each place to the nearest that is left; those without a place first, as they came."""
    where = {check.key: leads.at if (leads := leads_of(check, places)) else None for check in checks}
    ordered = [check for check in checks if where[check.key] is None]
    left = [check for check in checks if where[check.key] is not None]
    at = (0.0, 0.0)
    while left:
        here = at
        nearest = min(left, key=lambda check: math.dist(here, where[check.key] or here))
        left.remove(nearest)
        ordered.append(nearest)
        at = where[nearest.key] or at
    return ordered


def moves(checks: Iterable[Check], boards: Iterable[BoardFacts]) -> int:
    """How many times a lead is put somewhere else over a run of checks."""
    places = {ref: at for board in boards for ref, at in places_of(board).items()}
    count, black, red = 0, "", ""
    for check in checks:
        if leads := leads_of(check, places):
            ends = (f"{check.board} {leads.black}", f"{check.board} {leads.red}")
            count += (ends[0] != black) + (ends[1] != red)
            black, red = ends
    return count
