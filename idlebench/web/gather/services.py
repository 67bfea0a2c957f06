"""The gathering list of a unit."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from idlebench.core.board.parts import Capacitor

from ..records.models import CatalogueItem, DeviceChoice
from ..unit.state import UnitState


@dataclass(frozen=True)
class Line:
    """A line of the gathering list: how many are needed, on the shelf and to be bought, whole packs, and the price."""

    item: Capacitor | None
    name: str
    refs: str
    needed: int
    stock: int
    short: int
    buy: int
    price: float


def other_parts(state: UnitState) -> list[DeviceChoice]:
    """Regulators and fuses taken for a unit's boards."""
    return list(DeviceChoice.objects.filter(board__unit=state.row).select_related("board"))


def gathering(state: UnitState) -> list[Line]:
    """What the unit's open places need, sorted by value; parts swapped already are not asked for again."""
    wanted = [(p.choice.item, b.row.name, p.ref) for b in state.boards for p in b.parts if p.taken and not p.swap]
    counts = Counter(name for name, _, _ in wanted)
    items = {row.part: row.to_core() for row in CatalogueItem.objects.filter(part__in=counts)}
    lines = []
    for name, needed in counts.items():
        item = items.get(name)
        stock = item.stock if item else 0
        short = max(0, needed - stock)
        buy = -(-short // item.pack) * item.pack if item else short
        boards = dict.fromkeys(board for n, board, _ in wanted if n == name)
        refs = "; ".join(f"{b}: {' '.join(ref for n, board, ref in wanted if (n, board) == (name, b))}" for b in boards)
        lines.append(Line(item, name, refs, needed, stock, short, buy, round(buy * item.price, 2) if item else 0.0))
    return sorted(lines, key=lambda line: (line.item.value if line.item else 0, line.name))
