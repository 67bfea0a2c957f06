"""The gathering list of a unit."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from idlebench.core.board.parts import Capacitor
from idlebench.core.text.quantity import show

from ..records.models import CatalogueItem, DeviceChoice
from ..unit.state import UnitState
from ..unit.stock import devices, marked, what_of
from ..unit.wanted import shares


@dataclass(frozen=True, kw_only=True)
class GatherLine:
    """A line of the gathering list: how many are needed, lie here for this unit and are to be bought, whole packs, and the price.

    coming: pieces on their way for it. elsewhere: pieces that lie here for other units.
    """

    item: Capacitor | None
    name: str
    refs: str
    needed: int
    stock: int
    short: int
    buy: int
    price: float
    coming: int = 0
    elsewhere: int = 0


@dataclass(frozen=True, kw_only=True)
class DeviceLine:
    """A regulator, fuse or battery on the list: what it is, for which places, needed, on the shelf, to buy, and the price."""

    name: str
    what: str
    marked: str
    refs: str
    needed: int
    stock: int
    buy: int
    price: float
    verdict: str = ""


def device_lines(state: UnitState) -> list[DeviceLine]:
    """What is no capacitor and was taken, and batteries that came out and for which none is taken yet."""
    taken: dict[str, list[DeviceChoice]] = {}
    for board in state.boards:
        for d in board.devices:
            if d.choice and not d.swap:
                taken.setdefault(d.choice.item, []).append(d.choice)
    places = {(c.board_id, c.ref) for choices in taken.values() for c in choices}
    known = {d.part: d for d in devices()} if taken else {}
    mine = shares(state.row.pk, {n: known[n].stock if n in known else 0 for n in taken}) if taken else {}
    lines = []
    for name, choices in taken.items():
        device = known.get(name)
        refs = "; ".join(f"{c.board.name}: {c.ref}" for c in choices)
        stock, later = mine.get(name, (0, 0))
        buy = max(0, len(choices) - stock - later)
        what = what_of(device) if device else "part"
        price = round(buy * device.price, 2) if device else 0.0
        lines.append(
            DeviceLine(
                name=name,
                what=what,
                marked=marked(device),
                refs=refs,
                needed=len(choices),
                stock=stock,
                buy=buy,
                price=price,
                verdict=choices[0].verdict,
            )
        )
    for board in state.boards:
        for d in board.others:
            swapped = any(one.ref == d.ref and one.swap for one in board.devices)
            if d.what == "battery" and d.looks == "missing" and not swapped and (board.row.pk, d.ref) not in places:
                said = show(d.volts, "V") if d.volts else "volts not read"
                lines.append(
                    DeviceLine(
                        name=f"battery for {d.ref}",
                        what="battery",
                        marked=said,
                        refs=f"{board.row.name}: {d.ref}",
                        needed=1,
                        stock=0,
                        buy=1,
                        price=0.0,
                    )
                )
    return lines


def gathering(state: UnitState) -> list[GatherLine]:
    """What the unit's open places need, sorted by value; parts swapped already are not asked for again.

    A piece that lies here or comes for another unit is not counted for this one.
    """
    wanted = [(p.choice.item, b.row.name, p.ref) for b in state.boards for p in b.parts if p.taken and not p.swap]
    counts = Counter(name for name, _, _ in wanted)
    items = {row.part: row.to_core() for row in CatalogueItem.objects.filter(part__in=counts)}
    mine = shares(state.row.pk, {name: items[name].stock if name in items else 0 for name in counts}) if counts else {}
    lines = []
    for name, needed in counts.items():
        item = items.get(name)
        stock, later = mine.get(name, (0, 0))
        short = max(0, needed - stock - later)
        buy = -(-short // item.pack) * item.pack if item else short
        boards = dict.fromkeys(board for n, board, _ in wanted if n == name)
        refs = "; ".join(f"{b}: {' '.join(ref for n, board, ref in wanted if (n, board) == (name, b))}" for b in boards)
        price = round(buy * item.price, 2) if item else 0.0
        elsewhere = max(0, (item.stock if item else 0) - stock) if short else 0
        lines.append(
            GatherLine(
                item=item,
                name=name,
                refs=refs,
                needed=needed,
                stock=stock,
                short=short,
                buy=buy,
                price=price,
                coming=later,
                elsewhere=elsewhere,
            )
        )
    return sorted(lines, key=lambda line: (line.item.value if line.item else 0, line.name))
