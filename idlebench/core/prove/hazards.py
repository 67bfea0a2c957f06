"""Stores that the record knows and no list does any more: taken off the list, described anew, or gone with a stage's lines.

A charge stays where it is whatever is typed about it. So a store that was asked for stays asked, after each time under power again,
until somebody says, with a reason, that it is in the machine no more.
Source: IEC 62368-1:2018, table 4, for stored charge; workshop practice, because what was never read is charged.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Iterable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from ..circuit.discharge import DANGEROUS
from ..text.quantity import show
from .checks import BoardFacts, Store, stores_of
from .monitor_cold import TUBE
from .record import UNLISTED, WRITTEN_OFF, Event

Unit = TypeVar("Unit")


@dataclass(frozen=True, kw_only=True)
class Unlisted:
    """What a store was when it went off the list.

    Attributes:
        row, board: of the part, and of the board it stands on; of a tube both are the board's. name, on: as people call part and board.
        farads, volts: its value, and the most it may hold. tube: whether it is a picture tube. part: what was fitted there, "" for the old.
    """

    row: str
    board: str
    name: str
    on: str
    farads: float
    volts: float
    tube: bool = False
    part: str = ""

    def event(self, at: float) -> Event:
        """The event that keeps it asked."""
        was = {
            "name": self.name,
            "on": self.on,
            "farads": repr(self.farads),
            "volts": repr(self.volts),
            "part": self.part,
        }
        words = f"{self.name} on {self.on} may hold {show(self.volts, 'V')} and is no longer listed"
        return Event(
            kind=UNLISTED,
            at=at,
            row=self.row,
            board=self.board,
            words=words,
            was={**was, **({"tube": "yes"} if self.tube else {})},
        )

    @classmethod
    def of(cls, event: Event) -> Unlisted:
        """The store that such an event speaks of. ValueError or KeyError where it speaks of none."""
        was = event.was or {}
        return cls(
            row=event.row,
            board=event.board,
            name=was["name"],
            on=was["on"],
            farads=float(was["farads"]),
            volts=float(was["volts"]),
            tube="tube" in was,
            part=was.get("part", ""),
        )


def stores_here(boards: Iterable[BoardFacts], rails: float = 0.0) -> dict[str, Unlisted]:
    """Every store that a unit asks to be emptied, by its row; a tube by its board's. rails: as for stores_of."""
    found: dict[str, Unlisted] = {}
    for board in boards:
        if board.monitor is not None:
            found[board.id] = Unlisted(
                row=board.id,
                board=board.id,
                name="picture tube",
                on=board.name,
                farads=TUBE,
                volts=board.monitor.anode,
                tube=True,
            )
        for store in stores_of(board, rails):
            found[store.row] = _of_store(store, board)
    return found


def _of_store(store: Store, board: BoardFacts) -> Unlisted:
    return Unlisted(
        row=store.row,
        board=board.id,
        name=store.ref,
        on=board.name,
        farads=store.value,
        volts=store.volts,
        part=store.fitted,
    )


@dataclass(frozen=True)
class Listed:
    """What a unit lists: rows of its parts and boards, and the stores among them, by row."""

    rows: Container[str]
    stores: Mapping[str, Unlisted]


def newly_unlisted(
    before: Mapping[Unit, Listed],
    after: Mapping[Unit, Listed],
    at: float,
    out: Callable[[Unlisted], str] = lambda store: "",
) -> dict[Unit, list[Event]]:
    """Stores that were asked for and are no more, as events of the unit in which their part stands now, else of the one in which it stood.

    Where the part stands on the list still, it was described anew: under 60 V that is how a survey goes on, a rail learned after
    the marking, and what it holds hurts nobody.

    Args:
        before: what stood or was read before, None for nothing.
        after: what comes or stands afterwards.
        at: s, on the record's clock.
        out: why a store left for good, "" where nobody said so: a gate asked that it was empty.

    Returns:
        Events by unit.
    """
    found: dict[Unit, list[Event]] = {}
    for unit, listed in before.items():
        for row, store in listed.stores.items():
            home = next((other for other, now in after.items() if row in now.rows), unit)
            if row in after[home].stores or (store.volts <= DANGEROUS and row in after[home].rows):
                continue
            events = found.setdefault(home, [])
            events.append(store.event(at))
            if why := out(store):
                events.append(written_off(store, at, why))
    return found


def written_off(store: Unlisted, at: float, why: str) -> Event:
    """The event by which a store is asked for no more: it is in the machine no longer, or never was."""
    return Event(
        kind=WRITTEN_OFF, at=at, row=store.row, board=store.board, words=f"{store.name} on {store.on}: {why}"[:300]
    )
