"""Typed zones on a board: heat, room above, daughter boards. They tell a place its temperature and its height.

``heat 70 heatsink at 40,30 60x20``, ``drive 22 at 150,60 90x50``, ``daughter 12 MB-81 at 60,40 50x30 hides C12,C13``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than
from ..text.quantity import read, show
from .parts import Fitted

#: What a zone is called: whether its number is a temperature (else a height), and the words for it.
KINDS = {
    "heat": "heat source",
    "lid": "lid above",
    "drive": "drive above",
    "shield": "shield above",
    "room": "room above",
    "daughter": "daughter board above",
}
_SIZE = re.compile(r"(\d+(?:[.,]\d+)?)[x×](\d+(?:[.,]\d+)?)", re.I)


@dataclass(frozen=True, kw_only=True)
class Zone:
    """A rectangle on the parts side of a board.

    Attributes:
        kind: a key of KINDS. x, y: its middle, mm from the board's upper left corner. width, height: mm.
        temperature: °C inside it (heat). room: mm free above the board inside it (all others).
        label: what it is. hides: references of the parts under it.
    """

    kind: str
    x: float
    y: float
    width: float
    height: float
    temperature: float | None = None
    room: float | None = None
    label: str = ""
    hides: tuple[str, ...] = ()

    def holds(self, x: float | None, y: float | None) -> bool:
        """Whether a point lies in it, edges included."""
        if x is None or y is None:
            return False
        return abs(x - self.x) <= self.width / 2 and abs(y - self.y) <= self.height / 2

    @property
    def left(self) -> float:
        return self.x - self.width / 2

    @property
    def top(self) -> float:
        return self.y - self.height / 2

    @property
    def number(self) -> str:
        """Its temperature or its room, with the unit."""
        return show(self.temperature, "°C") if self.kind == "heat" else show(self.room, "mm")

    @property
    def title(self) -> str:
        """What it is, in words."""
        return f"{self.label or KINDS[self.kind]}, {self.number}"

    def as_line(self) -> str:
        """The zone as it is typed."""
        number = self.temperature if self.kind == "heat" else self.room
        bits = [self.kind, f"{number:g}", self.label, f"at {self.x:g},{self.y:g}", f"{self.width:g}x{self.height:g}"]
        if self.hides:
            bits.append(f"hides {','.join(self.hides)}")
        return " ".join(filter(None, bits))


def is_zone(text: str) -> bool:
    """Whether a typed line is a zone's."""
    return text.split(maxsplit=1)[:1] != [] and text.split(maxsplit=1)[0].lower() in KINDS


def read_zone(text: str) -> Zone:
    """Read a zone as typed.

    Args:
        text: as it was typed.

    Returns:
        The zone, mm and °C.

    Raises:
        BadInput: no place, no size, or a number out of its range.

    >>> z = read_zone('heat 70 heatsink of VR1 at 40,30 60x20')
    >>> z.temperature, z.label, z.holds(69, 25), z.holds(71, 25)
    (70.0, 'heatsink of VR1', True, False)
    """
    words = no_longer_than(text, 1000, "zone").strip().split()
    if not words or words[0].lower() not in KINDS:
        raise BadInput(text, f"{', '.join(KINDS)} first, such as heat 70 at 40,30 60x20", field="zone")
    kind, queue = words[0].lower(), words[1:]
    number: float | None = None
    place: tuple[float, float] | None = None
    size: tuple[float, float] | None = None
    label: list[str] = []
    hides: tuple[str, ...] = ()
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low in ("at", "hides") and not queue:
            raise BadInput(word, f"something after “{low}”", field="zone")
        if low == "at":
            x, _, y = queue.pop(0).partition(",")
            place = (
                read(x, "mm", field="at", low=0, high=2000),
                read(y or (queue.pop(0) if queue else ""), "mm", field="at", low=0, high=2000),
            )
        elif low == "hides":
            hides = _refs(queue.pop(0))
        elif hit := _SIZE.fullmatch(word):
            size = (float(hit[1].replace(",", ".")), float(hit[2].replace(",", ".")))
        elif number is None:
            number = _number(kind, word)
        elif low not in ("mm", "°c", "c"):
            label.append(word)
    if number is None:
        wanted = "a temperature, such as heat 70" if kind == "heat" else f"a height in mm, such as {kind} 22"
        raise BadInput(text, wanted, field="zone")
    if place is None or size is None:
        # a place without its “at” was taken for words
        spot = re.search(r"(?<!\S)\d[\d.]*,\d[\d.]*(?!\S)", text) if place is None else None
        if spot is not None:
            raise BadInput(spot[0], f"at before its middle: at {spot[0]}", field="zone", instead=(f"at {spot[0]}",))
        raise BadInput(
            text, "its middle and size in mm, such as at 40,30 60x20", "Or draw it on the board.", field="zone"
        )
    if not all(1 <= s <= 2000 for s in size):
        raise BadInput(f"{size[0]:g}x{size[1]:g}", "a size of 1 to 2000 mm", field="zone")
    if hides and kind != "daughter":
        raise BadInput(text, "“hides” on a daughter board only", field="zone")
    heat = kind == "heat"
    return Zone(
        kind=kind,
        x=place[0],
        y=place[1],
        width=size[0],
        height=size[1],
        temperature=number if heat else None,
        room=None if heat else number,
        label=" ".join(label)[:60],
        hides=hides,
    )


def _number(kind: str, word: str) -> float:
    if kind == "heat":
        return read(word, "°C", field="temperature", low=-20, high=200)
    return read(word, "mm", field="height", above=0, high=500)


def _refs(text: str) -> tuple[str, ...]:
    refs = tuple(text.upper().split(","))
    if not all(re.fullmatch(r"[A-Z]{1,4}\d{1,5}[A-Z]?", ref) for ref in refs):
        raise BadInput(text, "references such as C12,C13", field="hides")
    return refs


@dataclass(frozen=True)
class ZonedPart:
    """What the zones tell a place: the part with temperature and room filled in, and the words for where they came from."""

    part: Fitted
    said: tuple[str, ...]


def tell(part: Fitted, zones: Iterable[Zone]) -> ZonedPart:
    """Fill in a place's temperature and room from the zones it stands in. What was typed for the place itself wins.

    >>> drive = read_zone('drive 22 at 50,50 40x40')
    >>> tell(Fitted(ref='C1', value=1e-5, x=40, y=60), [drive]).part.room_height
    22.0
    """
    here = [z for z in zones if z.holds(part.x, part.y) and part.side != "solder"]
    hottest = max((z for z in here if z.temperature is not None), key=lambda z: z.temperature or 0, default=None)
    lowest = min((z for z in here if z.room is not None), key=lambda z: z.room or 0, default=None)
    changes: dict[str, float | None] = {}
    said = []
    if hottest and part.ambient is None:
        changes["ambient"] = hottest.temperature
        said.append(f"{hottest.number} from {hottest.label or KINDS[hottest.kind]}")
    if lowest and part.room_height is None:
        changes["room_height"] = lowest.room
        said.append(f"{lowest.number} high, under {lowest.label or KINDS[lowest.kind]}")
    return ZonedPart(part.with_(**changes) if changes else part, tuple(said))


def lowest_over(zones: Iterable[Zone], x: float, y: float) -> Zone | None:
    """What leaves the least height over a place on the parts side, mm from the upper left corner; None where nothing is said of it.

    >>> lowest_over([read_zone('lid 18 at 50,50 40x40')], 40, 60).room
    18.0
    """
    over = [zone for zone in zones if zone.room is not None and zone.holds(x, y)]
    return min(over, key=lambda zone: zone.room or 0.0, default=None)


def hidden(zones: Sequence[Zone], listed: Iterable[str]) -> tuple[str, ...]:
    """What daughter boards are said to hide and the survey does not list yet, one line for each board."""
    refs = set(listed)
    found = []
    for zone in zones:
        left = [ref for ref in zone.hides if ref not in refs]
        if left:
            found.append(f"{zone.label or 'A daughter board'} hides {', '.join(left)}, not listed yet")
    return tuple(found)
