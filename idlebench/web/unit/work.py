"""What was taken for parts that are no capacitors, what of them was changed, and what was mended: read together."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from django.db.models import Model

from idlebench.core.board.mends import Mend as CoreMend
from idlebench.core.board.modifications import Modification as CoreModification
from idlebench.core.prove import Modified
from idlebench.core.refusal import BadInput
from idlebench.core.text.stored import Unread

from ..records.models import Board, DeviceChoice, DeviceSwap, FuseBlown, Mend, Modification
from ..records.prepared import Prepared
from .rows import modification_id


@dataclass(frozen=True)
class MendState:
    """A mend with its row, as the core reads it."""

    row: Mend
    core: CoreMend


@dataclass(frozen=True)
class ModificationState:
    """A modification with its row, as the core reads it."""

    row: Modification
    core: CoreModification

    @property
    def asked(self) -> Modified:
        """The modification as its cold check asks for it."""
        return Modified(row=modification_id(self.row.pk), title=self.core.title, wire=bool(self.core.wire))


@dataclass(kw_only=True)
class Work:
    """Of a board: what was taken and what was changed, by reference; its mends and modifications, and
    those that this version cannot read; fuses
    that blew since a cause was last logged, by reference."""

    choices: dict[str, DeviceChoice] = field(default_factory=dict)
    outdated: dict[str, str] = field(default_factory=dict)
    swaps: dict[str, DeviceSwap] = field(default_factory=dict)
    mends: list[MendState] = field(default_factory=list)
    modifications: list[ModificationState] = field(default_factory=list)
    unread: list[Unread] = field(default_factory=list)
    blown: dict[str, int] = field(default_factory=dict)


def _asked(model: type[Model], *columns: str) -> Prepared:
    """Rows of a table for one board, in the order they were written."""
    return Prepared(
        lambda board: model.objects.order_by("pk").filter(board=board).values_list("pk", "board_id", *columns)
    )


_CHOICES = _asked(DeviceChoice, "ref", "item", "verdict", "reasons", "at")
_SWAPS = _asked(DeviceSwap, "ref", "what", "was", "item", "facts", "read_out", "note", "at")
_MENDS = _asked(Mend, "line", "net", "at")
_MODIFICATIONS = _asked(Modification, "line", "at")
_BLOWN = _asked(FuseBlown, "ref", "cause")


def work_of(boards: Iterable[int]) -> dict[int, Work]:
    """The work on some boards, by their keys."""
    return {board: _of_board(board) for board in boards}


def _of_board(board: int) -> Work:
    work = Work()
    for pk, _, ref, item, verdict, reasons, at in _CHOICES.rows(board):
        if verdict == DeviceChoice.OUTDATED:
            work.outdated[ref] = reasons[0] if reasons else ""
        else:
            work.choices[ref] = DeviceChoice(pk, board, ref, item, verdict, reasons, at)
    for row in _SWAPS.rows(board):
        work.swaps[row[2]] = DeviceSwap(*row)
    for row in (Mend(*values) for values in _MENDS.rows(board)):
        try:
            work.mends.append(MendState(row, row.to_core()))
        except BadInput as error:
            work.unread.append(Unread("mends", row.line, str(error)))
    for row in (Modification(*values) for values in _MODIFICATIONS.rows(board)):
        try:
            work.modifications.append(ModificationState(row, row.to_core()))
        except BadInput as error:
            work.unread.append(Unread("modifications", row.line, str(error)))
    for _, _, ref, cause in _BLOWN.rows(board):
        work.blown[ref] = 0 if cause else work.blown.get(ref, 0) + 1
    return work


def all_blown(board: Board) -> dict[str, int]:
    """How many fuses of each place of a board blew since a cause was last logged."""
    found: dict[str, int] = {}
    for ref, cause in board.blown.order_by("id").values_list("ref", "cause"):
        found[ref] = 0 if cause else found.get(ref, 0) + 1
    return found


def open_blown(board: Board, ref: str) -> int:
    """How many fuses of a place blew since a cause was last logged."""
    return all_blown(board).get(ref, 0)
