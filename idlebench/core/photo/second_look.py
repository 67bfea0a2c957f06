"""A second look: a photo taken after the swaps against what should stand there now. It lists what to look at and passes no check.

Source: worked here from the list itself: a part that is seen stands inside of its outline, a size is another when it is none of the two
that the top's width allows, and a stripe is on the other side when it is nearer to that.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .listing import listed_at
from .proposals import Found

#: Sizes differ when the one is larger than the other by this share.
ANOTHER = 0.14
#: A stripe is off when it is this far from where it should be, degrees.
OFF = 60.0
#: What is not listed is told of from this share of being a part on.
CERTAIN = 0.7
SIDES = ("right", "below", "left", "above")


@dataclass(frozen=True, kw_only=True)
class Stands:
    """What should stand at a place now: its reference and place in mm, the diameter of what is fitted now (mm), where its minus side
    points (degrees clockwise from the right; None where it does not matter), and whether the place was left empty on purpose."""

    ref: str
    x: float
    y: float
    diameter: float | None = None
    angle: float | None = None
    empty: bool = False


@dataclass(frozen=True, kw_only=True)
class Look:
    """One thing to look at. ref: of the place, "" where nothing is listed. what: missing, size, stripe, there, lying or joined."""

    ref: str
    what: str
    text: str


def side_of(angle: float) -> str:
    """The side that a direction points to.

    >>> side_of(92), side_of(-10)
    ('below', 'right')
    """
    return SIDES[round(angle / 90) % 4]


def second_look(
    stands: Sequence[Stands], found: Sequence[Found], others: Sequence[tuple[str, float, float]] = ()
) -> list[Look]:
    """What differs between a photo and what should stand on the board now.

    Args:
        stands: capacitors with a place on the side that the photo shows.
        found: what was found in the photo.
        others: references and places, mm, of all else that is listed on it.

    Returns:
        What to look at, in the order of the list, then what lies where nothing is listed.
    """
    at: dict[str, Found] = {}
    places = [(one.ref, one.x, one.y) for one in stands]
    lying = []
    for one in sorted(found, key=lambda f: -f.share):
        ref = listed_at(one, places)
        if ref:
            at.setdefault(ref, one)
        elif one.share >= CERTAIN and one.kind == "can" and not listed_at(one, others):
            lying.append(one)
    looks = []
    for one in stands:
        looks += _differs(one, at.get(one.ref))
    looks += [
        Look(
            ref="",
            what="lying",
            text=f"Something round, ø{one.diameter:g} mm, at {one.x:.0f},{one.y:.0f} mm, where nothing is listed: does it lie there?",
        )
        for one in lying
    ]
    return looks


def bridge_looks(joined: Sequence[tuple[str, str]]) -> list[Look]:
    """What to look at where solder seems to join two joints, each named by its part and its sign.

    >>> bridge_looks([("C4 plus", "C4 minus")])[0].text
    "Solder seems to join C4 plus and C4 minus on the solder side: a bridge, or the board's own copper?"
    """
    return [
        Look(
            ref=one.split()[0],
            what="joined",
            text=f"Solder seems to join {one} and {other} on the solder side: a bridge, or the board's own copper?",
        )
        for one, other in joined
    ]


def _differs(stands: Stands, found: Found | None) -> list[Look]:
    """What differs at one place."""
    ref = stands.ref
    if stands.empty:
        text = f"Something stands at {ref}, which was left out."
        return [Look(ref=ref, what="there", text=text)] if found else []
    if found is None:
        return [Look(ref=ref, what="missing", text=f"{ref} is not seen at its place: missing, or hidden?")]
    looks = []
    sizes = [size for size in (found.diameter, found.other) if size]
    if stands.diameter and sizes and all(_another(stands.diameter, size) for size in sizes):
        text = f"{ref} looks ø{found.diameter:g} mm; what should stand there is ø{stands.diameter:g} mm."
        looks.append(Look(ref=ref, what="size", text=text))
    if stands.angle is not None and found.stripe is not None:
        off = abs((found.stripe - stands.angle + 180) % 360 - 180)
        if off > OFF:
            text = f"{ref} has its stripe {_where(found.stripe)}; its minus side belongs {_where(stands.angle)}."
            looks.append(Look(ref=ref, what="stripe", text=text))
    return looks


def _where(angle: float) -> str:
    side = side_of(angle)
    return f"on the {side}" if side in ("right", "left") else side


def _another(one: float, other: float) -> bool:
    return max(one, other) / min(one, other) > 1 + ANOTHER
