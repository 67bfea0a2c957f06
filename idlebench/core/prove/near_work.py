"""Whether work on a board was near what a check reads: the same rail or net, a neighbour within 3 mm, the nearest chip.

Source: workshop practice, because a slip of the iron or a drop of solder reaches what is next to it, and a part that was changed
reaches what is on its rail. What nobody knows the place or the rail of is near everything.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from ..board.devices import is_plug
from ..board.parts import Fitted
from ..text.rails_and_chips import Chip, rail_volts
from .checks import BoardFacts, Check
from .record import Event

#: Two outlines closer than this are neighbours, mm.
NEAR = 3.0
#: Radius of a part whose size nobody typed, mm.
RADIUS = 5.0
#: Rails above this guard a person, V. Source: IEC 62368-1:2018, 5.2.1.
PERSON_VOLTS = 60.0

_CHIP = re.compile(r"cold\.pin\.|up\.life\.")
_RAIL = re.compile(r"cold\.(?:rail|back)\.")
_PIN = re.compile(r"(\S+) pin (\S+)")


@dataclass(frozen=True)
class Subject:
    """What a check reads that work elsewhere leaves alone: a rail, or a pin of a chip. chip: its reference, "" for a rail."""

    rail: str = ""
    chip: str = ""
    pin: str = ""


def subject_of(check: Check) -> Subject | None:
    """The rail or the chip's pin that a check reads; None for every other check, which work anywhere on the board may have changed.

    A rail above 60 V is none either: it guards a person.

    >>> subject_of(Check(key='cold.pin.b1.u5.16', step='cold', kind='continuity', point='U5 pin 16 to +5 V', ask=''))
    Subject(rail='', chip='U5', pin='16')
    """
    if _RAIL.match(check.key) and check.rail:
        return Subject(rail=check.rail) if abs(rail_volts(check.rail) or math.inf) <= PERSON_VOLTS else None
    hit = _PIN.match(check.point) if _CHIP.match(check.key) else None
    return Subject(chip=hit[1], pin=hit[2]) if hit and not check.safety else None


@dataclass(frozen=True, kw_only=True)
class _Around:
    """What lies around a part that was worked on: volts of the rails there, the chips that are near, the chip at its rail's far end.

    None stands for what nobody knows, and is near everything.
    """

    rails: frozenset[float | None]
    chips: frozenset[str] | None
    far: str = ""
    volts: float | None = None


class Near:
    """Whether work on a unit was near what a check reads. What lies around each place is found once.

    boards: of the unit, as they are now.
    """

    def __init__(self, boards: Sequence[BoardFacts]) -> None:
        self._by_id = {board.id: board for board in boards}
        named = Counter(board.name for board in boards)
        self._by_name = {board.name: board for board in boards if named[board.name] == 1}
        self._around: dict[tuple[str, str], _Around | None] = {}

    def any(self, check: Check, work: Iterable[Event]) -> bool:
        """Whether any of the work was near what a check reads.

        Args:
            check: one with a subject.
            work: swaps, swaps taken back and repairs.

        Returns:
            Whether it was; True where nobody can say.
        """
        subject = subject_of(check)
        if subject is None:
            return True
        own = self._by_name.get(check.board)
        return any(own is None or self._one(subject, own, event) for event in work)

    def _one(self, subject: Subject, own: BoardFacts, event: Event) -> bool:
        key = (event.board, event.row)
        if key not in self._around:
            self._around[key] = _around(self._by_id.get(event.board), event.row)
        around = self._around[key]
        if around is None:
            # a board that is out, a repair, a part that is no capacitor or has no place: it may have been anywhere
            return True
        if subject.rail:
            return None in around.rails or rail_volts(subject.rail) in around.rails
        if own is not self._by_id[event.board]:
            return False
        if is_plug(subject.chip) or around.chips is None or subject.chip in around.chips:
            # whoever worked on the board pulled its connectors
            return True
        chip = next((one for one in own.chips if one.pins and one.ref == subject.chip), None)
        if chip is None:
            return True
        pin = next((pin for pin in chip.pins if pin.number == subject.pin), None)
        far = chip.ref == around.far and pin is not None and pin.is_ == "supply"
        return far and rail_volts(pin.rail) == around.volts


def _around(board: BoardFacts | None, row: str) -> _Around | None:
    """What lies around the place of a row; None where nobody can say."""
    part = next((p for p in board.parts if board.rows.get(p.ref) == row), None) if board else None
    if board is None or part is None or part.x is None or part.y is None:
        return None
    rails = frozenset(rail_volts(rail) for one in (part, *_neighbours(board, part)) for rail in _rails_of(one))
    told = [chip for chip in board.chips if chip.pins]
    if any(one.x is None for one in told) or not part.rail:
        return _Around(rails=rails, chips=None)
    gaps = {chip.ref: _to_chip(part, chip) for chip in told}
    chips = {ref for ref, gap in gaps.items() if gap <= NEAR} | set(board.joined.get(part.ref, ()))
    # of chips that are equally near each is the nearest
    chips |= {ref for ref, gap in gaps.items() if gap == min(gaps.values())}
    volts = rail_volts(part.rail)
    on_rail = [c.ref for c in told if any(rail_volts(pin.rail) == volts for pin in c.pins if pin.is_ == "supply")]
    far = max(on_rail, key=lambda ref: (gaps[ref], ref), default="")
    return _Around(rails=rails, chips=frozenset(chips), far=far, volts=volts)


def _rails_of(thing: object) -> Iterator[str]:
    """The rails a neighbour is on; "" where nobody knows one."""
    if isinstance(thing, Chip):
        supplies = [pin.rail for pin in thing.pins if pin.is_ == "supply"]
        yield from supplies or ("",)
    else:
        yield getattr(thing, "rail", "") or ""


def _neighbours(board: BoardFacts, part: Fitted) -> list[object]:
    """What lies within 3 mm of a part's outline or is on one signal net with it, and all that has no place."""
    joined, found = board.joined.get(part.ref, frozenset()), list[object]()
    for other in board.parts:
        if other is not part and (_gap(part, other) <= NEAR or other.ref in joined):
            found.append(other)
    found += [chip for chip in board.chips if _to_chip(part, chip) <= NEAR or chip.ref in joined]
    return found + [device for device in board.devices if device.what not in _OFF_BOARD and _gap(part, device) <= NEAR]


#: Devices that do not lie on the board beside other parts.
_OFF_BOARD = ("adapter", "transformer", "winding")


def _radius(thing: object) -> float:
    across = getattr(thing, "diameter", None) or getattr(thing, "across", None)
    return across / 2 if across else RADIUS


def _gap(one: Fitted, other: object) -> float:
    """mm between two outlines; 0 where one has no place."""
    x, y = getattr(other, "x", None), getattr(other, "y", None)
    if x is None or y is None:
        return 0.0
    return math.dist((one.x, one.y), (x, y)) - _radius(one) - _radius(other)


def _to_chip(part: Fitted, chip: Chip) -> float:
    """mm from a part's outline to a chip's; 0 where the chip has no place."""
    if chip.x is None or chip.y is None:
        return 0.0
    # it may lie along the board or across it
    half = max(chip.width, chip.height) / 2
    aside = max(abs(part.x - chip.x) - half, 0.0), max(abs(part.y - chip.y) - half, 0.0)
    return math.hypot(*aside) - _radius(part)
