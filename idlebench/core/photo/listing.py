"""From proposals to parts: which stand on the list already, which look alike, in which order they are named, and how much room each has.

Source: a part that is listed stands within its own radius of where it is seen; how near two sizes and two sleeves' colours are that are
called alike was tried on made-up boards.
"""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Iterable, Sequence

from ..board.parts import ROOM_FROM_PHOTO, Fitted
from ..board.quickline import as_line
from ..refusal import BadInput
from ..text.marking import MarkingReading, read_marking
from .likeness import same_top
from .printed import gap, split
from .proposals import Found

#: A part's own place is this far from where it is seen at most: a share of its size, and mm.
OFF_SHARE, OFF_LEAST = 0.45, 1.6
#: Alike: tops that differ by no more than this share, sleeves by no more than this (L*a*b*), sides of boxes by this share.
TOPS, COLOURS, SIDES_ALIKE = 0.06, 14.0, 0.08
#: Parts whose middles are this near in height, as a share of the larger, stand in one row.
ONE_ROW = 0.6
#: A place is given a largest diameter where a neighbour is this near, mm; what is further off leaves room enough.
NEIGHBOUR = 30.0
#: What is kept free of a room that only a photo told, mm: edges are seen that well.
MARGIN = 0.6


def size_of(found: Found) -> float:
    """The larger side of what was found, mm."""
    return max(found.diameter or 0.0, found.width or 0.0, found.height or 0.0)


def listed_at(found: Found, places: Iterable[tuple[str, float | None, float | None]]) -> str:
    """The reference that is listed where something was found, "" where none is.

    Args:
        found: what was found.
        places: references with x and y, mm; None where a part has no place yet.

    Returns:
        The nearest that stands near enough to be it.
    """
    near = [
        (math.hypot(x - found.x, y - found.y), x, y, ref) for ref, x, y in places if x is not None and y is not None
    ]
    distance, x, y, ref = min(near, default=(math.inf, 0.0, 0.0, ""))
    if distance <= OFF_LEAST:
        return ref
    # nothing else stands where a part is: a place inside of its outline is its own
    on_it = distance <= OFF_SHARE * (found.diameter or 0.0) if found.kind == "can" else gap(found, x, y) < 0
    return ref if on_it else ""


def alike(one: Found, other: Found) -> bool:
    """Whether two look alike: the same size and colour, and for cans the same top, however it is turned.

    >>> can = Found(x=0, y=0, kind="can", share=1, diameter=8, seen=8.2, colour=(30, 0, 0))
    >>> alike(can, Found(x=9, y=0, kind="can", share=1, diameter=8, seen=8.4, colour=(33, 2, 0)))
    True
    """
    if one.kind != other.kind:
        return False
    if one.kind == "can":
        same_size = abs((one.seen or 0.0) - (other.seen or 0.0)) <= TOPS * max(one.seen or 0.0, other.seen or 0.0)
        same_sleeve = math.dist(one.colour, other.colour) <= COLOURS
        return one.diameter == other.diameter and same_size and same_sleeve and same_top(one.vent, other.vent)
    sides = ((one.width, other.width), (one.height, other.height))
    if math.dist(one.colour, other.colour) > COLOURS:
        return False
    return all(abs((a or 0.0) - (b or 0.0)) <= SIDES_ALIKE * max(a or 0.0, b or 0.0) + 0.2 for a, b in sides)


def in_rows(found: Sequence[Found]) -> list[Found]:
    """As a page is read: row by row from above, each from the left."""
    left = sorted(found, key=lambda one: one.y)
    rows: list[list[Found]] = []
    for one in left:
        last = rows[-1] if rows else []
        if last and one.y - last[0].y <= ONE_ROW * max(size_of(one), size_of(last[0])):
            last.append(one)
        else:
            rows.append([one])
    return [one for row in rows for one in sorted(row, key=lambda part: part.x)]


def named(after: str, found: Sequence[Found], taken: Collection[str]) -> list[str]:
    """References for parts that look like one: what was read beside each, else the next numbers that are free.

    Args:
        after: the reference of the one that was typed.
        found: those that look like it, in the order they are named.
        taken: references that are listed.

    Returns:
        A reference for each.

    >>> can = Found(x=0, y=0, kind="can", share=1)
    >>> named("C8", [can, can], {"C8", "C9"})
    ['C10', 'C11']
    """
    split = re.fullmatch(r"([A-Z]+)(\d+)", after)
    used, said = {*taken, after, *(one.ref for one in found if one.ref)}, []
    letters, number = (split[1], int(split[2])) if split else (f"{after}_", 0)
    for one in found:
        if one.ref and one.ref not in taken and one.ref != after and one.ref not in said:
            said.append(one.ref)
            continue
        number += 1
        while f"{letters}{number}" in used:
            number += 1
        used.add(f"{letters}{number}")
        said.append(f"{letters}{number}")
    return said


def in_spans(refs: Sequence[str]) -> str:
    """References in few words: three and more that count on as one span.

    >>> in_spans(["C9", "C10", "C11", "C20", "C22", "C23"])
    'C9 to C11, C20, C22 and C23'
    """
    runs: list[list[str]] = []
    for ref in refs:
        before = split(runs[-1][-1]) if runs else ("", 0)
        if (before[0], before[1] + 1) == split(ref):
            runs[-1].append(ref)
        else:
            runs.append([ref])
    said: list[str] = []
    for run in runs:
        said += [f"{run[0]} to {run[-1]}"] if len(run) > 2 else run
    return " and ".join(filter(None, (", ".join(said[:-1]), *said[-1:])))


def marked(found: Found) -> MarkingReading | None:
    """What is printed on it, as the marking of a capacitor; None where it is none, or can be read two ways.

    >>> print(marked(Found(x=0, y=0, kind="box", share=1, ref="C3", text="104K")).text)
    100 nF ±10 %
    """
    if not found.text or (found.ref and split(found.ref)[0] != "C"):
        return None
    try:
        marking = read_marking(found.text, "wet" if found.kind == "can" else "film")
    except BadInput:
        return None
    return None if marking.doubtful else marking.best


def offered_line(found: Found) -> str:
    """What was read beside it and on it as a line to be corrected: "" where nothing was.

    >>> offered_line(Found(x=0, y=0, kind="can", share=1, ref="C22", text="100uF 16V"))
    'C22 100u 16V'
    """
    marking = marked(found)
    if marking is None:
        return found.ref or ""
    part = Fitted(
        ref=found.ref or "?",
        value=float(f"{marking.capacitance:.4g}"),
        volts=marking.volts or marking.ac_volts,
        kind="wet" if found.kind == "can" else "film",
        safety=marking.safety,
    )
    return as_line(part).removeprefix("? ")


def room_of(one: Found, others: Iterable[tuple[str, Found]]) -> tuple[float, str] | None:
    """The largest diameter that a place takes before it meets a neighbour.

    Args:
        one: what stands there.
        others: all else that was found, each with how it is called.

    Returns:
        The diameter in mm and the neighbour, or None where nothing stands near.
    """
    near = [(2 * gap(other, one.x, one.y), name) for name, other in others if other is not one]
    room, name = min(near, default=(math.inf, ""))
    return (round(room, 1), name) if 0 < room <= NEIGHBOUR else None


def from_photo(found: Found, fitted: Fitted, changes: Collection[str], room: tuple[float, str] | None = None) -> Fitted:
    """A typed part with what the photo tells of it: its place, its diameter, the side its stripe is on, and its room.

    Args:
        found: the proposal.
        fitted: as it was typed, or as it is listed without a place.
        changes: what was typed; that stands.
        room: the largest diameter before it meets a neighbour, mm, and the neighbour; said in its note to be from a photo.

    Returns:
        The part.
    """
    told: dict[str, object] = {}
    if "x" not in changes:
        told |= {"x": round(found.x, 1), "y": round(found.y, 1), "side": "parts"}
    if found.kind == "can" and found.diameter and fitted.diameter is None:
        told["diameter"] = found.diameter
    if "angle" not in changes:
        # the stripe is the minus side, and parts stand along a board's sides
        turn = found.stripe if found.kind == "can" else found.angle
        if turn is not None:
            told["angle"] = 90.0 * round(turn / 90) % 360
    if room and fitted.room_diameter is None and room[0] - MARGIN > (found.diameter or math.inf):
        across = round(room[0] - MARGIN, 1)
        told |= {
            "room_diameter": across,
            "note": "; ".join(filter(None, (fitted.note, f"{ROOM_FROM_PHOTO} to {room[1]}"))),
        }
    return fitted.with_(**told)
