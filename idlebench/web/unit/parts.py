"""Parts and boards as they stand: judged, with what the policy asks and what was decided and done."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property
from typing import Any

from idlebench.core import prove
from idlebench.core.board.devices import Device, is_plug
from idlebench.core.board.mains_question import mains_question
from idlebench.core.board.monitor_lines import Monitor
from idlebench.core.board.own_checks import OwnCheck, read_own_check
from idlebench.core.board.parts import LEFT_OUT, Capacitor, Fitted
from idlebench.core.board.replacement import Wire
from idlebench.core.board.roles import disagreement, is_mains_place
from idlebench.core.board.zones import Zone, hidden
from idlebench.core.choose.supply_model import Branch
from idlebench.core.faults.assumed import AssumedSupply
from idlebench.core.judge.device_verdict import judge_device
from idlebench.core.judge.verdict import REPLACE, SHEET, Decision, Verdict
from idlebench.core.refusal import BadInput
from idlebench.core.text.nets import Node, joined_by, read_nets
from idlebench.core.text.rails_and_chips import Chip, Rail
from idlebench.core.text.stored import Unread, read_lines

from ..records.models import UNKNOWN, Board, CatalogueItem, Choice, DeviceChoice, DeviceSwap, Job, Part
from .rows import board_id, device_id, fitted_id, mend_id, part_id
from .work import Work

#: How a place is settled in which the old part stays.
LEFT_IN = "old part kept"


#: Kinds that no verdict alone puts on Swap: cells may be left out, and chips and adapters are judged by what they do.
STAY = ("battery", "chip", "adapter")

#: The columns of a board and of a part, in the order of their tables.
BOARD_COLUMNS = tuple(f.attname for f in Board._meta.concrete_fields)
PART_COLUMNS = tuple(f.attname for f in Part._meta.concrete_fields)
_PK, _VERSION = PART_COLUMNS.index("id"), PART_COLUMNS.index("version")


@dataclass(frozen=True, kw_only=True)
class ChoiceState:
    """What was decided for a place: the columns of its row."""

    pk: int
    action: str
    item: str
    by_hand: bool
    verdict: str
    reasons: tuple[str, ...]
    outdated: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class SwapState:
    """What was soldered into a place: the columns of its row."""

    pk: int
    item: str
    value: float
    kind: str
    mounting: str
    bipolar: bool
    safety: str
    note: str
    at: datetime
    took: bool | None


@dataclass(frozen=True, kw_only=True)
class PartState:
    """A part with its verdict, what the policy asks, and what was decided and done.

    values: the columns of its row. core: the part with what the zones tell its place; told: that in words. outdated: what was
    corrected since it was chosen for, in words; such a choice is none. on_mains: whether mains come onto its board. board: the row of it.
    """

    values: tuple[Any, ...]
    core: Fitted
    verdict: Verdict
    decision: Decision
    choice: ChoiceState | None
    swap: SwapState | None
    told: tuple[str, ...]
    outdated: str
    on_mains: bool
    board: Board

    @property
    def pk(self) -> int:
        return self.values[_PK]

    @property
    def version(self) -> int:
        """How often it was written: a form that was opened on an older one is told so."""
        return self.values[_VERSION]

    @cached_property
    def row(self) -> Part:
        """Its row, made when somebody asks."""
        row = Part.from_db(self.board._state.db, PART_COLUMNS, self.values)
        row.board = self.board
        return row

    def given_out(self, board: Board) -> PartState:
        """The same for somebody else, with rows of its own."""
        new = object.__new__(PartState)
        new.__dict__.update(self.__dict__)
        new.__dict__["board"] = board
        new.__dict__.pop("row", None)
        return new

    @property
    def ref(self) -> str:
        return self.core.ref

    @property
    def standing(self) -> Fitted:
        """What stands in the place now: the new part once it is swapped."""
        new = self.swap
        return self.core.after_swap(new.value, new.kind, new.mounting, new.bipolar) if new else self.core

    @property
    def to_fill(self) -> bool:
        """Whether the place is one to settle: the policy asks it, or a person decided about it."""
        return self.decision.replace or self.choice is not None

    @property
    def taken(self) -> bool:
        return self.choice is not None and self.choice.action == Choice.TAKE

    @property
    def kept(self) -> bool:
        return self.choice is not None and self.choice.action == Choice.KEEP

    @property
    def left_out(self) -> bool:
        """Whether the place is to be left empty for a test."""
        return self.choice is not None and self.choice.action == Choice.OUT

    @property
    def is_out(self) -> bool:
        """Whether it is empty for a test now."""
        return self.swap is not None and self.swap.item == LEFT_OUT

    @property
    def question(self) -> str:
        """What the page asks about the place, "" for nothing: a role that contradicts the safety class."""
        return disagreement(self.core.role, self.core.safety)

    @property
    def mains_question(self) -> str:
        """Whether it stands across the mains, where nobody said so; "" where it was said or cannot be."""
        return "" if self.swap else mains_question(self.core, self.on_mains)

    @property
    def may_be_left_out(self) -> bool:
        return is_mains_place(self.core.role, self.core.safety)

    @property
    def settled_as(self) -> str:
        """What a page says is settled for the place: the part taken, LEFT_IN, LEFT_OUT, or "open"."""
        if self.choice is None:
            return "open"
        return self.choice.item if self.taken else LEFT_OUT if self.left_out else LEFT_IN

    @property
    def outcome(self) -> str:
        """The state its gabled tag tells."""
        if self.choice is None:
            return "not yet"
        return "keep" if self.kept else "look twice" if self.left_out else self.choice.verdict


@dataclass(frozen=True)
class DeviceState:
    """A part that is no capacitor, with what was taken for it and what was put in."""

    device: Device
    choice: DeviceChoice | None = None
    swap: DeviceSwap | None = None

    @property
    def ref(self) -> str:
        return self.device.ref

    @property
    def verdict(self) -> Verdict:
        """How the old part is judged by its looks and readings."""
        return judge_device(self.device)

    @property
    def to_swap(self) -> bool:
        """Whether the place is a step of Swap: decided, done, judged bad, or a varistor, for each goes with the machine's age. A cell
        is decided first, for a machine may stay without."""
        bad = self.verdict.name == REPLACE and self.device.what not in STAY
        return bad or self.choice is not None or self.swap is not None or self.device.what == "varistor"

    @property
    def settled_as(self) -> str:
        """What a list says is in, or is to go in."""
        return self.swap.item if self.swap else self.choice.item if self.choice else "no part chosen"

    @property
    def standing(self) -> Device:
        """What stands in the place now, as far as the proof asks it: a new part neither leaks nor is it missing."""
        return replace(self.device, looks="") if self.swap else self.device


@dataclass(frozen=True, kw_only=True)
class BoardState:
    """A board with its parts judged."""

    row: Board
    parts: tuple[PartState, ...]
    rails: tuple[Rail, ...]
    chips: tuple[Chip, ...]
    zones: tuple[Zone, ...] = ()
    others: tuple[Device, ...] = ()
    supply: tuple[Branch, ...] = ()
    supply_wrong: tuple[str, ...] = ()
    unread: tuple[Unread, ...] = ()
    work: Work = field(default_factory=Work)
    wiring: tuple[Wire, ...] = ()
    monitor: Monitor | None = None
    assumed: AssumedSupply | None = None

    @property
    def lines(self) -> str:
        """Its supply's lines as typed, else as they are assumed."""
        return self.assumed.lines if self.assumed else self.row.supply_model

    def given_out(self, row: Board) -> BoardState:
        """The same for somebody else, with rows of its own; what was reckoned of it stays."""
        new = object.__new__(BoardState)
        new.__dict__.update(self.__dict__)
        new.__dict__["row"] = row
        new.__dict__["parts"] = tuple(part.given_out(row) for part in self.parts)
        return new

    @cached_property
    def devices(self) -> tuple[DeviceState, ...]:
        """What is no capacitor: parts from its lines, and chips."""
        choices, swaps = self.work.choices, self.work.swaps
        chips = (Device(ref=c.ref, what="chip", x=c.x, y=c.y, note=c.label) for c in self.chips if not is_plug(c.ref))
        # a winding is a line of its own of the transformer it belongs to
        things = [d for d in (*self.others, *chips) if d.what != "winding"]
        return tuple(DeviceState(d, choices.get(d.ref), swaps.get(d.ref)) for d in things)

    @property
    def untuned(self) -> tuple[str, ...]:
        """Tube tuning parts that are not what the service sheet says, in words."""
        return tuple(
            f"{p.ref}: {e.text}" for p in self.parts if not p.swap for e in p.verdict.evidence if e.rule == SHEET
        )

    @cached_property
    def nets(self) -> tuple[Node, ...]:
        """The netlist of the board; none where it has none that can be read."""
        try:
            return read_nets(self.row.nets).nodes if self.row.nets else ()
        except BadInput:
            return ()

    @cached_property
    def chosen(self) -> dict[str, Capacitor]:
        """The catalogue parts that were taken for its places, by reference; asked for once."""
        names = {p.ref: p.choice.item for p in self.parts if p.taken}
        items = CatalogueItem.cores(set(names.values()))
        return {ref: items[name] for ref, name in names.items() if name in items}

    @property
    def devices_to_swap(self) -> tuple[DeviceState, ...]:
        """Those whose place is a step of Swap."""
        return tuple(d for d in self.devices if d.to_swap)

    def find_device(self, ref: str) -> DeviceState | None:
        return next((d for d in self.devices if d.ref == ref.upper()), None)

    @property
    def donor_key(self) -> str:
        """The name of its form for a donor's board, for a page that shows a refused one again."""
        return f"donor{self.row.pk}"

    @property
    def replace_key(self) -> str:
        """What the form that replaces it is called."""
        return f"replace{self.row.pk}"

    @property
    def hidden(self) -> tuple[str, ...]:
        """Parts under a daughter board that are not listed yet."""
        return hidden(self.zones, (p.ref for p in self.parts))

    @property
    def bad(self) -> int:
        """Parts judged to be replaced that still stand there."""
        return sum(p.verdict.name == REPLACE and not p.swap for p in self.parts)

    def find(self, ref: str) -> PartState | None:
        return next((p for p in self.parts if p.ref == ref.upper()), None)

    @property
    def places(self) -> tuple[PartState, ...]:
        return tuple(p for p in self.parts if p.to_fill)

    @property
    def to_swap(self) -> tuple[PartState, ...]:
        return tuple(p for p in self.parts if p.taken or p.left_out)

    @property
    def out(self) -> tuple[str, ...]:
        """Mains filter parts that are left out for a test now."""
        return tuple(p.ref for p in self.parts if p.is_out)

    @property
    def counted(self) -> str:
        """How many were found of how many the board should have."""
        expected = self.row.expected
        return f"{len(self.parts)} of {expected}" if expected is not None else f"{len(self.parts)}"

    @property
    def complete(self) -> bool:
        """Whether all it should have are listed; a board that is said to have none is."""
        expected = self.row.expected
        return len(self.parts) == expected if expected is not None else bool(self.parts)

    def tally(self, name: str) -> int:
        return sum(p.verdict.name == name for p in self.parts)

    def facts(self, job: Job) -> prove.BoardFacts:
        """The board as the proof needs it."""
        row = self.row
        swapped = {p.ref: p.swap for p in self.parts if p.swap}
        return prove.BoardFacts(
            name=row.name,
            supply=row.supply,
            parts=tuple(p.standing for p in self.parts if not p.is_out),
            swapped=frozenset(swapped),
            rails=self.rails,
            chips=self.chips,
            fuse=row.fuse,
            source_volts=row.source_volts,
            source_va=row.source_va,
            devices=prove.with_source(
                tuple(d.standing for d in self.devices if d.device.what != "chip") + self._windings, self.supply
            ),
            from_rails=prove.feeding_rails(self.supply),
            row=board_id(row.pk),
            rows={p.ref: part_id(p.pk) for p in self.parts},
            fitted={ref: fitted_id(swap.item, swap.pk) for ref, swap in swapped.items()},
            expected=row.expected,
            left_out=self.out,
            windings=prove.windings_of(row.source_volts, row.source_va, self.others, self.supply),
            earthed="class2" not in job.traits,
            earth_limit=job.earth_limit,
            unread=tuple(f"{one.field}: {one.line}" for one in self.unread),
            changed=tuple(
                prove.changed_from(
                    device_id(d.swap.pk), d.ref, d.swap.what, d.swap.item, d.swap.facts, d.device.charged is not False
                )
                for d in self.devices
                if d.swap
            ),
            mended=tuple(
                prove.Mended(
                    row=mend_id(m.row.pk),
                    a=m.core.a.words,
                    b=m.core.b.words,
                    **{name: getattr(m.core, name) for name in ("title", "before", "most", "least")},
                )
                for m in self.work.mends
                if m.core.b is not None
            ),
            modified=tuple(m.asked for m in self.work.modifications),
            wiring=self.wiring,
            classes={ref: swap.safety for ref, swap in swapped.items() if swap.safety != UNKNOWN},
            monitor=self.monitor,
            untuned=self.untuned,
            hot=bool(row.supply) and "hot" in job.traits,
            modelled=bool(self.supply),
            own=self.own_checks,
            joined=joined_by(self.nets),
        )

    @cached_property
    def own_checks(self) -> tuple[OwnCheck, ...]:
        """The checks that a person added to it, those that can be read."""
        return read_lines(self.row.own_checks, "checks of your own", read_own_check)[0]

    @property
    def _windings(self) -> tuple[Device, ...]:
        return tuple(d for d in self.others if d.what == "winding")
