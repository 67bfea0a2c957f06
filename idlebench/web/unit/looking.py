"""A unit's parts and boards as the record follows them, and the stores among them: looked at before and after each change.

Plain values, for every service looks twice; what they amount to is reckoned once for the same values.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

from idlebench.core.board.devices import Device, read_device
from idlebench.core.board.monitor_lines import Monitor
from idlebench.core.board.monitor_places import MonitorPlace, stages_told, tell_monitor
from idlebench.core.board.parts import FITTED_FIELDS, LEFT_OUT, Fitted
from idlebench.core.board.roles import is_mains_place
from idlebench.core.board.zones import read_zone, tell
from idlebench.core.choose.need import Mains
from idlebench.core.choose.supply_model import tell_supply
from idlebench.core.judge.measure import read_with
from idlebench.core.prove import BoardFacts, Thing, interlocks, windings_of
from idlebench.core.prove.hazards import Listed, Unlisted, stores_here
from idlebench.core.prove.outside import feeding_rails, with_source
from idlebench.core.prove.things import BOARD_FACTS, PART_FACTS
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show
from idlebench.core.text.rails_and_chips import read_rail
from idlebench.core.text.stored import read_lines

from ..records.models import Board, Part, Unit
from ..records.prepared import Prepared
from .kept import monitor_lines, supply_facts, supply_lines
from .rows import board_id, fitted_id, part_id

#: The job's settings that what was proven rests on, and then those that stores are reckoned from.
_SETTINGS = ("job__mains_volts", "job__mains_frequency", "job__way", "job__meter_frequency")
_BOARD = ("pk", "name", "others", *(name for name in BOARD_FACTS if name not in ("fuses", "devices")), "zones")
_SWAP = ("value", "kind", "mounting", "bipolar")
_PART = ("pk", "board_id", "swap__pk", "swap__item", *(f"swap__{name}" for name in _SWAP), *FITTED_FIELDS)

#: What a choice rests on; looks, readings, dates, notes and places on the picture change none.
CHOICE_FACTS = (
    "value", "volts", "kind", "mounting", "bipolar", "safety", "role", "rail", "rail_volts", "temperature", "diameter", "height", "pitch",
    "room_diameter", "room_height", "ripple", "frequency", "ambient",
)  # fmt: skip
_UNITS = {
    "value": "F", "volts": "V", "rail_volts": "V", "temperature": "°C", "diameter": "mm", "height": "mm", "pitch": "mm",
    "room_diameter": "mm", "room_height": "mm", "ripple": "A", "frequency": "Hz", "ambient": "°C",
}  # fmt: skip

Row = tuple[object, ...]


def corrected(before: UnitSnapshot, after: UnitSnapshot) -> dict[int, str]:
    """What was corrected of the parts of a unit that a choice rests on, in words, by the part's key."""
    was, now = before.asked_of, after.asked_of
    found = {}
    for pk in was.keys() & now.keys():
        if was[pk] != now[pk]:
            told = [
                f"{n.replace('_', ' ')} was {_said(n, was[pk][n])}, is {_said(n, now[pk][n])}"
                for n in CHOICE_FACTS
                if was[pk][n] != now[pk][n]
            ]
            found[pk] = "; ".join(told)[:300]
    return found


def described_anew(before: UnitSnapshot, after: UnitSnapshot) -> dict[tuple[int, str], str]:
    """Parts that are no capacitors and whose lines say something else now, by board and reference, in words; looks and places count for
    nothing."""
    was, now = before.devices, after.devices
    return {
        key: f"{key[1]} was {was[key].marked}, is {now[key].marked}"[:300]
        for key in was.keys() & now.keys()
        if replace(was[key], looks="", x=None, y=None) != replace(now[key], looks="", x=None, y=None)
    }


def _said(name: str, value: object) -> str:
    if value in (None, ""):
        return "not known"
    return (
        show(value, _UNITS[name])
        if name in _UNITS
        else {True: "yes", False: "no"}.get(value, str(value).replace("_", " "))
    )


@dataclass(frozen=True)
class UnitSnapshot:
    """A unit as it stands: its boards' rows and parts' as the database has them, and its job's settings."""

    boards: tuple[Row, ...]
    parts: tuple[Row, ...]
    settings: Row

    @cached_property
    def things(self) -> dict[str, Thing]:
        """Parts and boards as the record follows them, by row."""
        found: dict[str, Thing] = {}
        names: dict[int, str] = {}
        for values in self.boards:
            facts = dict(zip(_BOARD, values, strict=True))
            board, name, lines = facts.pop("pk"), facts.pop("name"), facts.pop("others").splitlines()
            facts.pop("zones")
            names[board] = name
            fuses = [line for line in lines if _is_fuse(line)]
            facts |= {"fuses": fuses, "devices": [line for line in lines if line not in fuses]}
            row = board_id(board)
            found[row] = Thing(row=row, board=row, name=name, facts=facts)
        for values in self.parts:
            told = dict(zip(_PART, values, strict=True))
            facts = {name: told[name] for name in PART_FACTS}
            facts["looks"] = _stands(facts["looks"])
            row, mains = part_id(told["pk"]), is_mains_place(facts["role"], facts["safety"])
            fitted = fitted_id(told["swap__item"], told["swap__pk"]) if told["swap__pk"] else ""
            board = told["board_id"]
            found[row] = Thing(
                row=row,
                board=board_id(board),
                name=f"{names[board]} {told['ref']}",
                facts=facts,
                fitted=fitted,
                mains=mains,
            )
        return found

    @property
    def stores(self) -> dict[str, Unlisted]:
        """The stores that it asks to be emptied, by row."""
        return _stores(self.boards, self.parts, self.settings)

    def only_grew(self, after: UnitSnapshot) -> bool:
        """Whether nothing but parts came to it: then no store can have gone, and none need be reckoned."""
        same = self.boards == after.boards and self.settings == after.settings
        return same and set(self.parts) <= set(after.parts)

    @property
    def listed(self) -> Listed:
        """The same as the core asks for it."""
        return Listed(self.things, self.stores)

    @property
    def devices(self) -> dict[tuple[int, str], Device]:
        """Parts that are no capacitors, by their board's key and their reference."""
        others = _BOARD.index("others")
        return {
            (row[0], one.ref): one for row in self.boards for one in read_lines(row[others], "others", read_device)[0]
        }

    @property
    def asked_of(self) -> dict[int, dict[str, object]]:
        """What a choice rests on, of each part by its key: the facts of its place."""
        at = {name: _PART.index(name) for name in CHOICE_FACTS}
        return {values[0]: {name: values[i] for name, i in at.items()} for values in self.parts}

    @property
    def way(self) -> Row:
        """The job's settings that what was proven rests on."""
        return self.settings[:3]


def look(pk: int) -> UnitSnapshot:
    """A unit as it stands now; a board that was replaced is out of it."""
    settings = _OF_JOB.rows(pk)
    if not settings:
        raise Unit.DoesNotExist
    return UnitSnapshot(tuple(_BOARDS.rows(pk)), tuple(_PARTS.rows(pk)), settings[0])


_BOARDS = Prepared(lambda pk: Board.objects.filter(unit=pk, replaced="").order_by("id").values_list(*_BOARD))
_PARTS = Prepared(
    lambda pk: Part.objects.filter(board__unit=pk, board__replaced="").order_by("board_id", "id").values_list(*_PART)
)
_OF_JOB = Prepared(lambda pk: Unit.objects.filter(pk=pk).order_by().values_list(*_SETTINGS))


@lru_cache(maxsize=64)
def _stores(boards: Sequence[Row], parts: Sequence[Row], settings: Row) -> dict[str, Unlisted]:
    mains, meter = Mains(settings[0], settings[1]), settings[3]
    rows = [dict(zip(_BOARD, values, strict=True)) for values in boards]
    by_board: dict[object, list[dict[str, object]]] = {row["pk"]: [] for row in rows}
    for values in parts:
        part = dict(zip(_PART, values, strict=True))
        by_board[part["board_id"]].append(part)
    refs = {pk: {part["ref"] for part in mine} for pk, mine in by_board.items()}
    monitors = {row["pk"]: monitor_lines(row["monitor_model"])[0] for row in rows}
    told = stages_told(monitors, refs)
    facts, rails = [], []
    for row in rows:
        own = by_board[row["pk"]]
        read, _ = read_lines(row["rails"], "rails", read_rail)
        rails += [abs(rail.nominal) for rail in read] if row["supply"] else []
        facts.append(_board(row, own, told[row["pk"]], monitors[row["pk"]], mains, meter))
    return stores_here(facts, max(rails, default=0.0))


def _board(
    row: dict[str, object], own: list[dict[str, object]], stages: dict[str, MonitorPlace], monitor: Monitor | None,
    mains: Mains, meter: float,
) -> BoardFacts:  # fmt: skip
    """As much of a board as its stores are reckoned from."""
    zones, _ = read_lines(row["zones"], "zones", read_zone)
    supply, _ = supply_lines(row["supply_model"])
    others, _ = read_lines(row["others"], "regulators, fuses and the like", read_device)
    here = [tell(Fitted(**{name: part[name] for name in FITTED_FIELDS}), zones).part for part in own]
    by_supply = supply_facts(supply, tuple(read_with(one, meter) for one in here), mains)[0] if supply else {}
    fitted, standing = {}, []
    for part, core in zip(own, here, strict=True):
        core = tell_monitor(tell_supply(core, by_supply)[0], stages)[0]
        if part["swap__pk"]:
            fitted[core.ref] = fitted_id(part["swap__item"], part["swap__pk"])
            core = core.after_swap(*(part[f"swap__{name}"] for name in _SWAP))
        if part["swap__item"] != LEFT_OUT:
            standing.append(core)
    return BoardFacts(
        name=row["name"], supply=row["supply"], parts=tuple(standing), devices=with_source(others, supply), row=board_id(row["pk"]),
        from_rails=feeding_rails(supply),
        rows={part["ref"]: part_id(part["pk"]) for part in own}, fitted=fitted, monitor=monitor,
        windings=windings_of(row["source_volts"], row["source_va"], others, supply),
    )  # fmt: skip


def _is_fuse(line: str) -> bool:
    try:
        return read_device(line).what == "fuse"
    except BadInput:
        return False


def _stands(looks: str) -> str:
    """Looks as far as they change what stands there: that somebody looked at a part changes nothing."""
    return looks if looks in interlocks.BAD_LOOKS else ""
