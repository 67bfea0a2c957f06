"""What a unit consists of, and the events that tell how it came to differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..board.parts import LEFT_OUT
from .record import BOARD, MOVED, PART, SWAP, SWAP_BACK, Event

#: What of a part the record follows; the rest (notes, readings, places on the picture) changes nothing that was proven.
PART_FACTS = ("value", "volts", "kind", "mounting", "bipolar", "safety", "role", "rail", "rail_volts", "looks")


#: What of a board it follows, and as what of the board a change counts.
BOARD_FACTS = {
    "rails": "rails", "chips": "chips", "fuse": "fuse", "fuses": "fuse", "supply": "supply", "source_volts": "supply",
    "source_va": "supply", "supply_model": "supply", "devices": "supply", "wiring": "supply",
    "monitor_model": "supply",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Thing:
    """A part or a board as the record follows it. facts: by the names above; fitted: what was swapped in, "" for the old part."""

    row: str
    board: str
    name: str
    facts: Mapping[str, object]
    fitted: str = ""
    mains: bool = False

    @property
    def is_board(self) -> bool:
        return self.row == self.board


def changes(before: Mapping[str, Thing], after: Mapping[str, Thing], at: float) -> tuple[Event, ...]:
    """What happened between two looks at a unit, as events: parts listed, edited, swapped, boards described or moved."""
    events: list[Event] = []
    for row in dict.fromkeys((*before, *after)):
        old, new = before.get(row), after.get(row)
        thing = new or old
        if old is None or new is None:
            if thing.is_board:
                words = f"{thing.name} {'added' if old is None else 'removed'}"
                events.append(Event(kind=MOVED, at=at, row=row, board=row, words=words, mains=True))
            elif thing.board in before and thing.board in after:
                words = f"{thing.name} {'listed' if old is None else 'taken off the list'}"
                events.append(Event(kind=PART, at=at, row=row, board=thing.board, words=words, mains=thing.mains))
            continue
        events += _of_board(old, new, at) if thing.is_board else _of_part(old, new, at)
    return tuple(events)


def _of_board(old: Thing, new: Thing, at: float) -> list[Event]:
    whats = dict.fromkeys(
        what
        for name, what in BOARD_FACTS.items()
        if old.facts.get(name) != new.facts.get(name) and not (name == "devices" and _only_listed(old, new))
    )
    words = {"rails": "its rails", "chips": "its chips", "fuse": "its fuse", "supply": "its supply or devices"}
    return [
        Event(kind=BOARD, at=at, row=new.row, board=new.row, what=what, words=f"{new.name}, {words[what]}")
        for what in whats
    ]


def _only_listed(old: Thing, new: Thing) -> bool:
    """Whether devices were only written down that stood there all along: nothing was touched."""
    return set(old.facts.get("devices") or ()) <= set(new.facts.get("devices") or ())


def _of_part(old: Thing, new: Thing, at: float) -> list[Event]:
    events, mains = [], old.mains or new.mains
    if old.fitted != new.fitted:
        piece = new.fitted.split(" #")[0]
        said = "taken out, and left out for a test" if piece == LEFT_OUT else f"{piece} in"
        kind, words = (SWAP, f"{new.name}: {said}") if new.fitted else (SWAP_BACK, f"{new.name}: swap taken back")
        events.append(Event(kind=kind, at=at, row=new.row, board=new.board, words=words, mains=mains))
    if old.facts != new.facts or old.board != new.board:
        changed = [n.replace("_", " ") for n in PART_FACTS if old.facts.get(n) != new.facts.get(n)]
        events.append(
            Event(
                kind=PART, at=at, row=new.row, board=new.board, words=f"{new.name}: {', '.join(changed)}", mains=mains
            )
        )
    return events
