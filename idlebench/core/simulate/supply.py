"""A supply as the simulated bench holds it: its branches, stores and parts by reference, as they are known.

Source: as in judge.ageing and circuit.inrush; a sound part at 0.55 of the limit: workshop practice, because limits are printed for the
worst piece.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ..board.parts import Capacitor, Fitted
from ..choose.need import Mains
from ..circuit.rail_lines import RailOut
from ..circuit.supply_lines import DIRECT, Branch, ConverterIn, read_model
from ..circuit.transformer import winding
from ..judge import ageing
from ..refusal import BadInput, no_longer_than
from ..text.quantity import read
from ..text.rails_and_chips import Rail
from .branch_order import each_rail_once, fed_in_turn
from .truth import LOAD, Fault, Values, known_refs

#: ESR at 100 kHz as a share of that at 120 Hz, of a general and of a low-impedance part.
SHARE_HIGH = {False: 0.4, True: 0.15}
#: ESR of a sound part as a share of the limit of a new one.
SOUND = 0.55
#: Melting I²t of a fuse as a multiple of its rating squared, A²s, by characteristic.
MELTING = {"T": 25.0, "F": 1.4}
#: What the parts of a converter are called where nobody listed them.
CALLED = {"switch": "the switch transistor", "start": "the start resistor", "feedback": "the feedback"}
#: Names of parts that the supply lines leave out.
USUAL = {"switch": "Q1", "start": "R5", "feedback": "FB", "joint": "J2", "rectifier": "D5", "xcap": "X1", "fuse": "F1"}
#: What a source from outside is called where its line does not name it.
OF_SOURCE = {"ac": "AD1", "regulated": "AD1", "unregulated": "AD1", "cells": "BT1"}
_FUSE = re.compile(r"(\d+(?:[.,]\d+)?)\s*(m?)\s*A\b", re.I)
_QUICK = re.compile(r"\bF{1,2}(?=\b|\s*\d)", re.I)


@dataclass(frozen=True, kw_only=True)
class Element:
    """A store as it is known: F, Ω at 120 Hz and at 100 kHz, V and °C marked, mm; limit: Ω of a new one at 120 Hz.

    value_read, esr_read: whether those were measured, out of circuit. marked: F as marked. dry: film or ceramic, whose ESR is next
    to nothing.
    """

    ref: str
    value: float
    esr: float
    esr_high: float
    limit: float
    volts: float
    temperature: float = 85.0
    diameter: float = 10.0
    height: float = 16.0
    low_impedance: bool = False
    value_read: bool = False
    esr_read: bool = False
    dry: bool = False
    leakage: float = 0.0
    ambient: float = 25.0
    marked: float = 0.0

    @property
    def share(self) -> float:
        return SHARE_HIGH[self.low_impedance]


def element(part: Fitted, new: Capacitor | None = None) -> Element:
    """A place's store: the part that stands there by the survey, or a new one of the catalogue.

    Args:
        part: the part in its place.
        new: what goes in.

    Returns:
        F, Ω and rating of the store.

    Raises:
        BadInput: a part without a value.
    """
    value = new.value if new else part.value
    if not value > 0:
        raise BadInput(part.ref, "its value", "Type it in the survey.", field="value")
    volts = (new.volts if new else part.volts) or part.rail_volts or 25.0
    kind, low = (new.kind, new.low_impedance) if new else (part.kind, False)
    size = (new.diameter, new.height, new.temperature) if new else (part.diameter, part.height, part.temperature)
    common = {
        "volts": volts, "diameter": size[0] or 10.0, "height": size[1] or 16.0, "temperature": size[2] or 85.0,
        "low_impedance": low, "ambient": part.ambient or 25.0, "marked": new.value if new else part.value,
    }  # fmt: skip
    if kind not in ("wet", "polymer", "tantalum"):
        return Element(ref=part.ref, value=value, esr=0.005, esr_high=0.005, limit=0.01, dry=True, **common)
    limit = ageing.new_esr(value, volts)
    esr, read_esr, read_value = SOUND * limit, False, False
    if new and new.esr:
        at_high = new.esr_frequency >= 10e3
        esr = new.esr / SHARE_HIGH[low] if at_high else new.esr
        limit = esr / SOUND
    elif not new and not part.in_circuit:
        if part.esr is not None:
            esr, read_esr = ageing.esr_at(part.esr, part.esr_frequency or 120.0, 120.0), True
        if part.capacitance:
            value, read_value = part.capacitance, True
    leakage = 0.0 if new or not part.leakage else part.leakage
    return Element(
        ref=part.ref,
        value=value,
        esr=esr,
        esr_high=esr * SHARE_HIGH[low],
        limit=limit,
        value_read=read_value,
        esr_read=read_esr,
        leakage=leakage,
        **common,
    )


@dataclass(frozen=True)
class Fuse:
    """A fuse by its marking: A, and what melts it, A²s."""

    rating: float
    melting: float


def read_fuse(text: str) -> Fuse | None:
    """A fuse as it is marked; None where nothing is said.

    >>> read_fuse('T 1.6A 250V'), read_fuse('FF 500 mA').melting, read_fuse('F2A').melting
    (Fuse(rating=1.6, melting=64.0), 0.35, 5.6)
    """
    if not text.strip():
        return None
    hit = _FUSE.search(no_longer_than(text, 400, "fuse"))
    if not hit:
        raise BadInput(text, "a fuse as it is marked, such as T 1.6A 250V", field="fuse")
    rating = read(hit[1], "A", field="fuse", above=0, high=1e5) / (1000 if hit[2] else 1)
    return Fuse(rating, round(MELTING["F" if _QUICK.search(text) else "T"] * rating**2, 9))


@dataclass(frozen=True, kw_only=True)
class RailPlace:
    """A rail of a supply: its volts, rated A, the branch that makes it, and how it is loaded where the machine says.

    minimum: A of its dummy load; board: A that its boards were read to draw, 0 where nothing was read.
    """

    name: str
    volts: float
    current: float
    branch: int
    out: RailOut | None = None
    minimum: float = 0.0
    board: float = 0.0
    lamp: tuple[float, float] | None = None
    trimmed: bool = False


@dataclass(frozen=True, kw_only=True)
class Bench:
    """A supply on the bench.

    branches: as typed. stores: by reference. rails: as the machine lists them, for dummy loads; those it does not list are loaded
    with a fifth. nominal: mains for which it is made. measured: A that boards draw from rails, by name. x_parts: across the mains.
    start_stores: those a converter may start from, by their role.
    """

    branches: tuple[Branch, ...]
    stores: Mapping[str, Element]
    fuse: Fuse | None = None
    nominal: Mains = field(default_factory=Mains)
    listed: tuple[Rail, ...] = ()
    measured: Mapping[str, float] = field(default_factory=dict)
    x_parts: tuple[str, ...] = ()
    start_stores: tuple[str, ...] = ()

    @classmethod
    def of(
        cls, lines: str, parts: Iterable[Fitted], fuse: str = "", nominal: Mains = Mains(), listed: Sequence[Rail] = (),
        new: Mapping[str, Capacitor] | None = None, measured: Mapping[str, float] | None = None,
    ) -> Bench:  # fmt: skip
        """A supply from its typed lines and its survey.

        Args:
            lines: typed lines.
            parts: the parts.
            fuse: the fuse.
            nominal: V that the rail should have.
            listed: what the survey lists.
            new: parts of the catalogue that stand in places.
            measured: what was read, None where it was not.

        Returns:
            The supply, its parts by reference.

        Raises:
            BadInput: lines that cannot be read, or a store that the survey does not list.
        """
        branches = read_model(lines)
        if not branches:
            raise BadInput(
                "", "the lines of a supply", "Such as bridge 9V 25VA reservoir C1 regulator VR1 5V 1A.", field="supply"
            )
        each_rail_once(branches)
        branches = fed_in_turn(branches)
        by_ref = {part.ref: part for part in parts}
        wanted = {ref for branch in branches for ref in branch.stores}
        wanted |= {
            ref for b in branches if b.converter for rail in b.converter.rails for ref in (*rail.stores, *rail.after)
        }
        if missing := sorted(wanted - set(by_ref)):
            raise BadInput(
                ", ".join(missing), "a capacitor that the survey lists", "List it, or type another.", field="store"
            )
        stores = {ref: element(part, (new or {}).get(ref)) for ref, part in by_ref.items() if part.value > 0}
        marked = fuse or next((b.fuse for b in branches if b.fuse), "")
        across = tuple(part.ref for part in by_ref.values() if part.role == "mains_x" or part.safety.startswith("X"))
        starts = tuple(part.ref for part in by_ref.values() if part.role == "startup" and part.ref in stores)
        return cls(
            branches=branches,
            stores=stores,
            fuse=read_fuse(marked),
            nominal=nominal,
            listed=tuple(listed),
            measured=dict(measured or {}),
            x_parts=across,
            start_stores=starts,
        )

    @cached_property
    def rails(self) -> dict[str, RailPlace]:
        """The rails it makes, by name."""
        found: dict[str, RailPlace] = {}
        by_name = {rail.name: rail for rail in self.listed}
        for i, branch in enumerate(self.branches):
            made: list[tuple[str, float, float, RailOut | None]] = []
            if branch.regulator:
                made.append((branch.regulator.rail, branch.regulator.volts, branch.regulator.current, None))
            if branch.converter:
                made += [(rail.name, rail.volts, rail.current, rail) for rail in branch.converter.rails]
            for name, volts, current, out in made:
                listed = by_name.get(name)
                rated = listed.current if listed and listed.current else current
                least = listed.dummy_current if listed and listed.dummy_current else rated / 5
                found[name] = RailPlace(
                    name=name,
                    volts=volts,
                    current=rated,
                    branch=i,
                    out=out,
                    minimum=least,
                    lamp=listed.lamp if listed else None,
                    board=self.measured.get(name, 0.0),
                )
        return found

    @cached_property
    def diodes(self) -> tuple[tuple[str, ...], ...]:
        """References of each branch's diodes, counted on in the order typed unless the lines name the first."""
        found, following = [], 1
        for branch in self.branches:
            # in the way of DC there is a diode where its line names one
            one = int(bool(branch.rectifier and not branch.converter))
            count = {"bridge": 4, "centre": 2, "half": 1, "doubler": 2, DIRECT: one}[branch.topology]
            first = following
            if branch.rectifier and not branch.converter and (hit := re.fullmatch(r"D(\d+)", branch.rectifier)):
                first = int(hit[1])
            found.append(tuple(f"D{n}" for n in range(first, first + count)))
            following = max(following, first + count)
        return tuple(found)

    def named(self, fed: ConverterIn, what: str) -> str:
        """The reference of a converter's part: as typed, else the survey's part of that role, else the usual one."""
        if typed := getattr(fed, what, ""):
            return str(typed)
        return USUAL.get(what, "")

    def called(self, ref: str) -> str:
        """What a part is in this supply, in words, where nobody listed it: its reference is only the usual one. "" for one of no such role.

        A reference of two is said one by one.
        """
        for branch, diodes in zip(self.branches, self.diodes, strict=True):
            if ref in diodes:
                where = f" before {branch.stores[0]}" if branch.stores else ""
                return f"rectifier diode {diodes.index(ref) + 1} of {len(diodes)}{where}"
            fed = branch.converter
            if fed:
                roles = {self.named(fed, what): words for what, words in CALLED.items()}
                roles |= {self.rectifier_of(branch, rail): f"the output rectifier of {rail.name}" for rail in fed.rails}
                if ref in roles:
                    return roles[ref]
            if branch.outside and ref == (branch.outside.ref or OF_SOURCE.get(branch.outside.kind)):
                return "the cells" if branch.outside.kind == "cells" else "the adapter"
            if ref == (branch.joint or USUAL["joint"]):
                return "a connector or its joints"
            if ref == (branch.xcap or USUAL["xcap"]):
                return "the filter capacitor across the line"
        return {USUAL["fuse"]: "the fuse", "L1": "the filter choke", "T1": "the transformer"}.get(ref, "")

    def start_store(self, fed: ConverterIn) -> str:
        """The store a converter starts from: as typed, else C9 where the survey has it."""
        return fed.start_store or next(iter(self.start_stores), "C9" if "C9" in self.stores else "")

    def rectifier_of(self, branch: Branch, rail: RailOut) -> str:
        """The reference of the diode that makes a converter's rail."""
        first = branch.converter is not None and branch.converter.rails[:1] == (rail,)
        return rail.rectifier or (branch.rectifier or USUAL["rectifier"] if first else "")

    @cached_property
    def refs(self) -> set[str]:
        """All references that something can be said of."""
        found = set(self.stores) | {ref for one in self.diodes for ref in one} | {USUAL["fuse"], USUAL["joint"]}
        # a lead or switch, and the transformer or its thermal fuse
        found |= set(self.x_parts)
        if not self.outside:
            found |= {USUAL["xcap"], "L1"} | (
                {"T1"} if any(b.volts and not b.outside for b in self.branches) else set()
            )
        found |= {b.outside.ref or OF_SOURCE.get(b.outside.kind, "") for b in self.branches if b.outside}
        for branch in self.branches:
            found |= {branch.xcap, branch.joint, branch.rectifier}
            if branch.regulator:
                found.add(branch.regulator.ref)
            if branch.converter:
                found |= {self.named(branch.converter, what) for what in ("switch", "start", "feedback")}
                found |= {self.rectifier_of(branch, rail) for rail in branch.converter.rails}
                found.add(self.start_store(branch.converter))
        return found - {""}

    @cached_property
    def outside(self) -> bool:
        """Whether all of it is fed from outside: no mains come into it."""
        return all(branch.outside for branch in self.branches)

    def fed_by(self, rail: str) -> tuple[Branch, ...]:
        """The branches that a rail of this supply feeds."""
        return tuple(b for b in self.branches if b.direct and b.direct.rail == rail and rail in self.rails)

    def source(self, branch: Branch, volts: float) -> tuple[float, float, float]:
        """A branch's winding when the mains are so many volts: V rms without load, Ω, and its regulation, a share. A DC source: V, Ω, 0."""
        share = volts / self.nominal.volts
        if direct := branch.direct:
            return direct.open_volts * (share if direct.strays else float(volts > 0)), direct.ohms, 0.0
        if not branch.volts:
            return volts, branch.ohms or self.nominal.volts**2 / branch.va * 0.05, 0.0
        if branch.ohms:
            return branch.volts * share, branch.ohms, 0.0
        found = winding(branch.volts, branch.va)
        return found.open_circuit * share, found.resistance, found.open_circuit / found.rated - 1

    def peak(self, branch: Branch) -> float:
        """Peak of a branch's winding on its own mains without load, V."""
        if branch.direct:
            return branch.direct.open_volts
        return self.source(branch, self.nominal.volts)[0] * branch.tapped(self.nominal.volts) * math.sqrt(2)

    def truth(self, values: Values, faults: Sequence[Fault], row: int | None = None) -> None:
        """Put what befell parts into numbers, of one variant or of all.

        Args:
            values: the values, in SI.
            faults: truth lines of what is wrong.
            row: the row, where there is one.

        Raises:
            BadInput: a part that is not there.
        """
        known_refs(faults, self.refs, self.rails)
        for fault in faults:
            store = self.stores.get(fault.ref)
            if fault.what == "cap" and store:
                values.put(fault.ref, "value", fault.value, row, store.value)
            elif fault.what == "esr" and store:
                high = fault.at >= 10e3
                low_esr = fault.value / store.share if high else fault.value
                values.put(fault.ref, "esr", low_esr, row, store.esr)
                values.put(
                    fault.ref, "esr_high", fault.value if high else fault.value * store.share, row, store.esr_high
                )
            elif fault.what == LOAD:
                values.put(fault.ref, "heavy", fault.value, row, 1.0)
            elif fault.what == "leak" and store:
                values.put(fault.ref, "leak", fault.value / store.volts, row)
            else:
                values.put(fault.ref, fault.what, fault.value, row)
