"""What was taken for parts that are no capacitors, what of them was changed, and what was mended: read together, in one query."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from django.db.models import CharField, JSONField, QuerySet, Value

from idlebench.core.board.mends import Mend as CoreMend
from idlebench.core.refusal import BadInput
from idlebench.core.text.stored import Unread

from ..records.models import Board, DeviceChoice, DeviceSwap, FuseBlown, Mend
from ..records.prepared import Prepared


@dataclass(frozen=True)
class MendState:
    """A mend with its row, as the core reads it."""

    row: Mend
    core: CoreMend


@dataclass
class Work:
    """Of a board: what was taken and what was changed, by reference; its mends, and those that this version cannot read; fuses
    that blew since a cause was last logged, by reference."""

    choices: dict[str, DeviceChoice] = field(default_factory=dict)
    outdated: dict[str, str] = field(default_factory=dict)
    swaps: dict[str, DeviceSwap] = field(default_factory=dict)
    mends: list[MendState] = field(default_factory=list)
    unread: list[Unread] = field(default_factory=list)
    blown: dict[str, int] = field(default_factory=dict)


def _rows_of(boards: Sequence[int]) -> QuerySet:
    """What was done on some boards, of four tables in one."""
    none, empty = Value("", CharField()), Value({}, JSONField())
    choices = DeviceChoice.objects.order_by().values_list(
        Value("c", CharField()), "pk", "board_id", "ref", "item", "verdict", "reasons", none, none, none, "at"
    )
    swaps = DeviceSwap.objects.order_by().values_list(
        Value("s", CharField()), "pk", "board_id", "ref", "item", "what", "facts", "was", "read_out", "note", "at"
    )
    mends = Mend.objects.order_by().values_list(
        Value("m", CharField()), "pk", "board_id", none, "line", "net", empty, none, none, none, "at"
    )
    blown = FuseBlown.objects.order_by().values_list(
        Value("f", CharField()), "pk", "board_id", "ref", "cause", none, empty, none, none, none, "at"
    )
    here = {"board__in": boards}
    return choices.filter(**here).union(swaps.filter(**here), mends.filter(**here), blown.filter(**here), all=True)


_WORK = Prepared(lambda board: _rows_of([board]))
#: So many boards are asked for one by one: that of a unit, whose query is written down.
FEW = 4


def work_of(boards: Iterable[int]) -> dict[int, Work]:
    """The work on some boards, by their keys."""
    found = {key: Work() for key in boards}
    few = len(found) <= FEW
    rows = [row for key in found for row in _WORK.rows(key)] if few else list(_rows_of(list(found)))
    for what, pk, board, ref, item, word, told, was, read_out, note, at in sorted(rows, key=lambda row: row[1]):
        work = found[board]
        if what == "c" and word == DeviceChoice.OUTDATED:
            work.outdated[ref] = told[0] if told else ""
        elif what == "c":
            work.choices[ref] = DeviceChoice(pk, board, ref, item, word, told, at)
        elif what == "s":
            work.swaps[ref] = DeviceSwap(pk, board, ref, word, was, item, told, read_out, note, at)
        elif what == "f":
            work.blown[ref] = 0 if item else work.blown.get(ref, 0) + 1
        else:
            row = Mend(pk, board, item, word, at)
            try:
                work.mends.append(MendState(row, row.to_core()))
            except BadInput as error:
                work.unread.append(Unread("mends", item, str(error)))
    return found


def all_blown(board: Board) -> dict[str, int]:
    """How many fuses of each place of a board blew since a cause was last logged."""
    found: dict[str, int] = {}
    for ref, cause in board.blown.order_by("id").values_list("ref", "cause"):
        found[ref] = 0 if cause else found.get(ref, 0) + 1
    return found


def open_blown(board: Board, ref: str) -> int:
    """How many fuses of a place blew since a cause was last logged."""
    return all_blown(board).get(ref, 0)
