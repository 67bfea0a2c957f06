"""What a check is, what a unit looks like to the proof, and how readings are read.

Source: each limit names its own beside it; the rest: workshop practice, because what nobody knows is taken at its worst.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import TYPE_CHECKING

from ..board.devices import Device
from ..board.monitor_lines import Monitor
from ..board.own_checks import OwnCheck
from ..board.parts import Fitted
from ..board.replacement import Wire
from ..board.roles import is_mains_place
from ..circuit import discharge, transformer
from ..judge.measure import MAINS_PEAK
from ..refusal import BadInput
from ..text.quantity import show
from ..text.rails_and_chips import Chip, Rail, rail_volts
from .facts import INSIDE, MAINS_READ
from .windings import Winding, windings_of

if TYPE_CHECKING:
    from .changed_facts import Changed, Mended, Modified

#: Most from the earth pin to bare metal, Ω (IEC 60335-1:2010, 27.5: 0.1 Ω and the lead); a local limit may only be lower.
EARTH_MOST = 0.3
#: The same at 10 A or more, the machine's own lead subtracted, Ω. Source: IEC 60335-1:2010, 27.5.
EARTH_CARRIES = 0.1
#: Least insulation at 500 V DC: line and neutral to earth, or to what can be touched where there is no earth, Ω.
INSULATION, INSULATION_CLASS_2 = 1e6, 2e6
#: A store of so much at so many volts is discharged and logged, too: it welds a screwdriver and hurts a meter.
BIG, BIG_VOLTS = 100e-6, 25.0
#: Stored energy from which a store is discharged and logged, J, whatever its role.
STORED = 0.5


UNITS = {
    "continuity": "Ω",
    "resistance": "Ω",
    "dc_volts": "V",
    "ac_volts": "V",
    "turns": "turns",
    "ripple": "V",
    "frequency": "Hz",
    "temperature": "°C",
    "amps": "A",
    "tube_volts": "V",
    "tube_ratio": "× B+",
}
SEEN = ("look", "function", "activity")
#: What is measured, in words.
WHAT = {
    "continuity": "continuity", "resistance": "resistance", "dc_volts": "volts DC", "ac_volts": "volts AC", "turns": "turns from its stop",
    "ripple": "ripple, peak to peak", "frequency": "frequency", "temperature": "temperature", "amps": "current",
    "tube_volts": "volts at the tube", "tube_ratio": "volts at the tube against B+",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Check:
    """One thing to look at or measure.

    Attributes:
        key: its name in the record, made from rows and so its own for ever. names: what a table may call it by, from the
            names of boards and parts; two checks may share one. step: the key of the step it belongs to.
        kind: look, function, activity, continuity, resistance, dc_volts, ac_volts, ripple, frequency, temperature.
        point: where. ask: what to do. low, high: limits in SI, None for none.
        live: whether it is read under power. safety: whether someone can be hurt, so that no override exists.
        board: the board's name. caution: what bites here. why: where the limit comes from.
        rail: the rail's name for a rail reading. aspect: volts, ripple or lowest.
        reckoning, inputs: the registered reckoning behind its numbers, with what went in.
        fact: what it establishes, a key of record.VOIDS. rows, boards: the rows whose events count for it.
        of: what the thing is like now, as people say it; a reading keeps a copy. does: what a reading of it tells beside the
            number. dead_below: under this by size nothing came up. serves: the steps it is wanted for, () for all.
        hold: minutes of power before it can be answered. optional: asked of those who have the meter; the sheet says where it
            was not done, and a bad reading counts all the same.
        after: the key of the check before it, and s that must have gone by since that passed. kept_by: the check whose yes keeps
            a discharge from growing old. off_now: failed, the machine is switched off at once.
    """

    key: str
    step: str
    kind: str
    point: str
    ask: str
    low: float | None = None
    high: float | None = None
    live: bool = False
    safety: bool = False
    board: str = ""
    caution: str = ""
    why: str = ""
    rail: str = ""
    aspect: str = ""
    nominal: float | None = None
    reckoning: str = ""
    inputs: tuple[tuple[str, float], ...] = ()
    fact: str = ""
    names: tuple[str, ...] = ()
    rows: frozenset[str] = frozenset()
    boards: frozenset[str] = frozenset()
    of: tuple[tuple[str, str], ...] = ()
    does: str = ""
    dead_below: float | None = None
    serves: tuple[str, ...] = ()
    hold: float = 0.0
    optional: bool = False
    after: tuple[()] | tuple[str, float] = ()
    kept_by: str = ""
    off_now: bool = False

    @property
    def evidence(self) -> dict[str, str]:
        """What a reading taken now is taken of."""
        said = {
            **dict(self.of),
            "does": self.does,
            "hands": "" if self.live or self.fact in (INSIDE, MAINS_READ) else "in",
        }
        if self.dead_below is not None:
            said["dead below"] = f"{self.dead_below:g}"
        return {name: text for name, text in said.items() if text}

    @property
    def told(self) -> str:
        """Board, place and what is checked, as a sheet has it: ``C1 on MB-80: the stripe is the negative side``."""
        place = self.point if not self.board or self.board in self.point else f"{self.point} on {self.board}"
        if self.seen:
            what = self.ask.partition(": ")[2] if self.ask.startswith("Polarity checked again: ") else self.ask
            what = re.split(r"(?<=[a-z])\. |\.$", what, maxsplit=1)[0]
            what = what if what[:2].isupper() else what[:1].lower() + what[1:]
        else:
            what = "lowest volts under a load step" if self.aspect == "lowest" else WHAT.get(self.kind, self.kind)
        return f"{place}: {what}"

    @property
    def unit(self) -> str:
        return UNITS.get(self.kind, "")

    @property
    def seen(self) -> bool:
        """Whether it is answered by yes or no."""
        return self.kind in SEEN

    @property
    def limits(self) -> str:
        """The limits as people read them."""
        if self.low is not None and self.high is not None and self.low == -self.high:
            return f"within ±{show(self.high, self.unit)}"
        if self.low is not None and self.high is not None:
            return f"{show(self.low, self.unit)} to {show(self.high, self.unit)}"
        if self.high is not None:
            return f"at most {show(self.high, self.unit)}"
        return f"at least {show(self.low, self.unit)}" if self.low is not None else "yes"

    def passes(self, value: float) -> bool:
        """Whether a reading is inside. Yes counts 1, no 0."""
        if self.seen:
            return value == 1
        return (self.low is None or value >= self.low - 1e-12) and (self.high is None or value <= self.high + 1e-12)


@dataclass(frozen=True, kw_only=True)
class Store:
    """A charged store and how it is emptied. volts: the most it may hold; row: of the part; fitted: what was swapped in."""

    ref: str
    board: str
    value: float
    volts: float
    row: str = ""
    fitted: str = ""


@dataclass(frozen=True, kw_only=True)
class BoardFacts:
    """What the proof needs to know of a board.

    Attributes:
        name: of the board. supply: "" for a board that is fed, else "linear" or "switching".
        parts: as they now stand. swapped: references of the parts that were changed.
        rails: made by a supply; a fed board's are those of the supplies. chips: with the pins to test.
        fuse: its marking, if it has one. source_volts, source_va: label of its transformer winding.
        devices: fuses, regulators, batteries. row: the board's row; rows: those of its parts, by reference.
        fitted: what was swapped in, by reference. expected: how many parts it should have, None where nobody said.
        left_out: mains filter parts that are out for a test, by reference; nothing stands in their places.
        windings: of its transformers, each read alone; those of source_volts where none are given.
        earthed: whether its plug has an earth pin. earth_limit: Ω from there to bare metal, never above EARTH_MOST.
        unread: stored lines that cannot be read, so that nobody knows what they would ask.
        changed: parts that are no capacitors and were changed. mended: mends that join two ends. modified: modifications.
            wiring: the harness of a unit
            that took an old supply's place. classes: the safety class of each fitted piece, "" for none, by reference; one of which
            nobody knows it is left out. monitor: its picture tube and stages, None where it has none.
            untuned: tube tuning parts that are not what the service sheet says, in words. hot: a supply of a machine whose chassis is
            joined to the mains. modelled: whether its supply's lines tell what its rails should read. own: checks that a person added.
            from_rails: rails of other boards from which all lines of its supply begin. joined: what is on one signal net with a part, by
            reference, where a netlist tells.
    """

    name: str
    supply: str = ""
    parts: tuple[Fitted, ...] = ()
    swapped: frozenset[str] = frozenset()
    rails: tuple[Rail, ...] = ()
    chips: tuple[Chip, ...] = ()
    fuse: str = ""
    source_volts: float | None = None
    source_va: float | None = None
    devices: tuple[Device, ...] = ()
    row: str = ""
    rows: Mapping[str, str] = field(default_factory=dict)
    fitted: Mapping[str, str] = field(default_factory=dict)
    expected: int | None = None
    left_out: tuple[str, ...] = ()
    windings: tuple[Winding, ...] = ()
    earthed: bool = True
    earth_limit: float = EARTH_MOST
    unread: tuple[str, ...] = ()
    changed: tuple[Changed, ...] = ()
    mended: tuple[Mended, ...] = ()
    modified: tuple[Modified, ...] = ()
    wiring: tuple[Wire, ...] = ()
    classes: Mapping[str, str] = field(default_factory=dict)
    monitor: Monitor | None = None
    untuned: tuple[str, ...] = ()
    hot: bool = False
    modelled: bool = False
    own: tuple[OwnCheck, ...] = ()
    from_rails: tuple[str, ...] = ()
    joined: Mapping[str, frozenset[str]] = field(default_factory=dict)

    @property
    def behind(self) -> tuple[str, ...]:
        """The rails of other boards that feed its supply; () where the mains, an adapter or cells do, or where a part says mains."""
        mains = (
            any(is_mains_place(p.role, p.safety) for p in self.parts) or self.windings or self.source_volts or self.hot
        )
        return self.from_rails if self.supply and not mains and self.adapter is None else ()

    @property
    def hot_chassis(self) -> bool:
        """Whether its chassis is joined to the mains, as its machine or its monitor's line says."""
        return self.hot or bool(self.monitor and self.monitor.hot)

    @property
    def adapter(self) -> Device | None:
        """The adapter that feeds it, where one is listed with its volts; or cells that are its source. None on a board with parts of the
        mains side: mains come into it, whatever else is listed, and cells never stand for them."""
        if not self.supply or any(is_mains_place(part.role, part.safety) for part in self.parts):
            return None
        found = next((d for d in self.devices if d.what == "adapter" and d.volts), None)
        cells = next((d for d in self.devices if d.what == "battery" and d.volts and d.feeds), None)
        mains = self.supply == "switching" or self.windings or self.source_volts or self.hot
        return found or (replace(cells, output="cells") if cells and not mains else None)

    @property
    def sources(self) -> tuple[Winding, ...]:
        """The windings to be read without load; an adapter has steps of its own."""
        if self.adapter is not None:
            return ()
        return self.windings or windings_of(self.source_volts, self.source_va, (), ())

    @property
    def id(self) -> str:
        """Its row, or its name where it has none."""
        return self.row or key_of(self.name)

    def part_id(self, ref: str) -> str:
        """A part's row, or board and reference where it has none."""
        return self.rows.get(ref) or key_of(self.id, ref)


@dataclass(frozen=True, kw_only=True)
class PowerStep:
    """A step of the proof, in order. live: it is done under power. rewire: something is plugged first, so idle first."""

    key: str
    title: str
    detail: str
    checks: tuple[Check, ...]
    live: bool = False
    rewire: bool = False
    caution: str = ""


#: The highest mains that are nominal anywhere, V.
HIGHEST_MAINS = 240.0
#: What a primary may hold where nobody knows, V.
UNKNOWN_PRIMARY = 400.0
#: A store of unknown volts counts from this size, F.
UNKNOWN_SIZE = 100e-6


#: A label of an adapter without amps is taken as this much, A.
UNKNOWN_AMPS = 0.5


def adapter_volts(adapter: Device) -> float:
    """The most a store behind an adapter may be charged to, V: without load, on mains 10 % up, the peak where it is AC."""
    volts, output = abs(adapter.volts or 0.0), adapter.output or "unregulated"
    try:
        found = transformer.adapter(volts, adapter.current or UNKNOWN_AMPS, output).values
    except BadInput:
        return 2 * volts
    return round(float(found["at_plus_10"]) * (2**0.5 if output == "ac" else 1.0), 1)


def most_volts(board: BoardFacts, part: Fitted, rails: float = 0.0) -> float:
    """The most volts a part's place may hold: marked or seen, else what its supply could put there.

    Args:
        board: the board, with what is known of it.
        part: the part in its place.
        rails: the highest rail of the unit, V: what a store of unknown volts on a fed board may hold.

    Returns:
        V.
    """
    if is_mains_place(part.role, part.safety):
        return MAINS_PEAK
    known = max(abs(part.rail_volts or 0.0), 0.0) or abs(part.volts or 0.0)
    if known:
        return known
    if board.adapter is not None:
        return adapter_volts(board.adapter)
    if board.behind:
        return max(rails, *(abs(rail_volts(rail) or 0.0) for rail in board.behind))
    if board.supply == "linear" and board.sources:
        # peak of the highest winding without load, on mains 10 % up
        # on a tap under the mains everything reads more; HIGHEST_MAINS is the most that is nominal anywhere
        most = max(w.expected[0] * max(1.0, HIGHEST_MAINS / w.at if w.at else 1.0) for w in board.sources)
        return round(most * 2**0.5 * 1.1, 1)
    return UNKNOWN_PRIMARY if part.role == "bulk" or board.supply else rails


def stores_of(board: BoardFacts, rails: float = 0.0) -> tuple[Store, ...]:
    """The stores that are discharged before anything is touched. rails: as for most_volts."""
    found = []
    for part in board.parts:
        volts = most_volts(board, part, rails)
        big = part.value >= BIG * 0.999 and volts >= BIG_VOLTS
        unknown = not (part.rail_volts or part.volts) and part.value >= UNKNOWN_SIZE
        stores = part.role == "bulk" or unknown or big or part.value * volts**2 / 2 >= STORED
        if part.looks != "missing" and volts > discharge.SAFE_TO_HANDLE and stores:
            row = board.part_id(part.ref)
            found.append(
                Store(
                    ref=part.ref,
                    board=board.name,
                    value=part.value,
                    volts=volts,
                    row=row,
                    fitted=board.fitted.get(part.ref, ""),
                )
            )
    return tuple(found)


def key_of(*words: str) -> str:
    return ".".join(map(_as_key, words))


@lru_cache(maxsize=4096)
def _as_key(word: str) -> str:
    return re.sub(r"[^a-z0-9+−.-]+", "-", word.lower()).strip("-")
