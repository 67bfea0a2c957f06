"""Cells and diodes against the place they go into: each rule says its number.

Source: IEC 60086-4:2019, clause 7 (a primary cell is never charged); IEC 60747-2:2016, clause 5, for the ratings of rectifiers; the
windows of a memory's volts are worked here from chips that keep what they hold down to about half of their supply.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..board.devices import Device
from ..refusal import BadInput
from ..text.quantity import show
from .rank import Reason
from .regulators_and_fuses import Judged, ranked
from .rules import FAILS, FITS
from .stand_in import LOOK_TWICE

HOURS_A_YEAR = 8766.0
#: The memory's volts with the new cell ÷ those with the old one: under the first it may forget, under the second it does, over the
#: third it is more than the chips behind it were made for.
KEEPS, FORGETS, TOO_MUCH = 0.85, 0.65, 1.25
#: How a cell is held.
BOARD, HOLDER, LEADS = "board", "holder", "leads"
HELD = {BOARD: "soldered to the board", HOLDER: "in a holder on the board", LEADS: "on leads, off the board"}
#: A switching rectifier recovers at least so fast, s; and a rectifier's current is used up to this share.
FAST, USED = 100e-9, 0.8
#: Reverse volts of a rectifier ÷ the most it sees: what a spike on the mains asks on top.
SPIKES = 1.5
DIODE_KINDS = {
    "plain": "plain rectifier",
    "fast": "fast rectifier",
    "low-drop": "low-drop rectifier",
    "bridge": "bridge",
}


@dataclass(frozen=True)
class Chemistry:
    """A kind of cell: its name, whether it may be charged, how long it lasts whatever it gives (years), and whether what is in it
    runs out of it when it is old."""

    title: str
    charged: bool
    years: float
    runs_out: bool


CHEMISTRIES = {
    "accumulator": Chemistry("nickel-metal hydride accumulator", True, 8, True),
    "lithium": Chemistry("lithium cell", False, 10, False),
    "alkaline": Chemistry("alkaline cells", False, 5, True),
    "store": Chemistry("memory backup capacitor", True, 15, False),
}


@dataclass(frozen=True, kw_only=True)
class Battery:
    """A cell or set of cells that keeps a memory.

    chemistry: a key of CHEMISTRIES. volts: V, of the set. capacity: Ah. diode: V that a diode in its lead takes, 0 without one.
    held: a key of HELD. diameter, height: mm.
    """

    part: str
    series: str
    chemistry: str
    volts: float
    capacity: float
    diode: float = 0.0
    held: str = LEADS
    diameter: float = 0.0
    height: float = 0.0
    price: float = 0.0
    stock: int = 0

    @property
    def at_memory(self) -> float:
        """V that the memory gets of it."""
        return self.volts - self.diode

    @property
    def may_be_charged(self) -> bool:
        return CHEMISTRIES[self.chemistry].charged


@dataclass(frozen=True, kw_only=True)
class BatteryNeed:
    """What the place of a cell asks.

    volts: V of the old one. charged: whether the machine charges it, None where nobody knows. draw: A while the machine is off,
    None where nobody read it. room: mm of height, None where not known.
    """

    old: Device
    volts: float
    charged: bool | None = None
    draw: float | None = None
    room: float | None = None


def battery_need(old: Device, room: float | None = None) -> BatteryNeed:
    """What the place of a cell asks, from its line.

    Args:
        old: what stands there.
        room: mm free; None where nobody measured it.

    Returns:
        Chemistry, volts, size, charging, and what blocks it.

    Raises:
        BadInput: its volts are not known.
    """
    if not old.volts or old.volts < 0:
        raise BadInput(old.ref, "its volts", "Read them off the cell, and type them: BT1 battery 3.6V.", field="volts")
    return BatteryNeed(old=old, volts=old.volts, charged=old.charged, draw=old.current, room=room)


def judge_battery(need: BatteryNeed, part: Battery) -> Judged:
    """One cell against a place."""
    said = [_charge(need, part), _memory(need, part), _lasts(need, part)]
    kind = CHEMISTRIES[part.chemistry]
    if part.held == BOARD and kind.runs_out:
        text = "An old cell leaks and its fluid eats the board: put a barrier under it, or use a cell on leads"
        said.append(Reason(rule="held", text=text, status=LOOK_TWICE))
    if need.room is not None and part.held != LEADS and part.height > need.room:
        text = f"{part.height:g} mm tall, room for {need.room:g} mm"
        said.append(Reason(rule="height", text=text, status=FAILS, value=part.height, limit=need.room, unit="mm"))
    off_board = {LEADS: 0.0, HOLDER: 0.3, BOARD: 0.8}[part.held]
    score = off_board + abs(part.at_memory / need.volts - 1) + 0.05 * part.price + 0.25 * (part.stock <= 0)
    return _judged(part, said, score + 0.2 * kind.runs_out)


def _charge(need: BatteryNeed, part: Battery) -> Reason:
    """A cell that must not be charged asks a diode, wherever nobody knows that it is not charged."""
    if part.may_be_charged:
        if need.charged is False and part.chemistry == "accumulator":
            return Reason(rule="charge", text="Nothing charges it here: it runs down and stays empty", status=FAILS)
        known = (
            "The machine charges it"
            if need.charged
            else "It is not known whether the machine charges it: find out, and type it (BT1 battery charged)"
        )
        return Reason(rule="charge", text=known, status=FITS if need.charged else LOOK_TWICE)
    if need.charged is False:
        return Reason(rule="charge", text="Nothing charges it here: it needs no diode", status=FITS)
    known = (
        "the machine charges the cell here" if need.charged else "it is not known that nothing charges the cell here"
    )
    if not part.diode:
        text = (
            f"Must never be charged, and {known}: use a cell with a diode in its lead, or type that it is not "
            "charged (BT1 battery not charged)"
        )
        return Reason(rule="charge", text=text, status=FAILS)
    return Reason(
        rule="charge",
        text=f"Must never be charged, and {known}: its diode prevents that; check the diode with a meter",
        status=FITS,
    )


def _memory(need: BatteryNeed, part: Battery) -> Reason:
    share = part.at_memory / need.volts
    text = f"{show(part.at_memory, 'V')} at the memory"
    if part.diode:
        text += f" behind its diode of {show(part.diode, 'V')}"
    text += f", it had {show(need.volts, 'V')}"
    status = FAILS if share < FORGETS or share > TOO_MUCH else LOOK_TWICE if share < KEEPS else FITS
    if status == FAILS:
        text += ": the memory loses its contents" if share < 1 else ": more than the circuit after it was made for"
    elif status == LOOK_TWICE:
        text += ": a memory keeps its contents at half its supply, a clock may stop"
    limit = TOO_MUCH * need.volts if share > 1 else FORGETS * need.volts
    return Reason(rule="volts", text=text, status=status, value=part.at_memory, limit=limit, unit="V")


def _lasts(need: BatteryNeed, part: Battery) -> Reason:
    """How long it keeps the memory: what it holds through what is drawn, at most as long as such a cell lasts."""
    kind = CHEMISTRIES[part.chemistry]
    if not need.draw:
        text = (
            f"{kind.title[:1].upper()}{kind.title[1:]}: {kind.years:g} years at most; type what the memory "
            "draws (5uA) to see how long it lasts"
        )
        return Reason(rule="lasts", text=text, status=FITS)
    hours = part.capacity / need.draw
    if part.may_be_charged:
        days = hours / 24
        text = f"Keeps the memory {days:.0f} days from full at {show(need.draw, 'A')}"
        return Reason(
            rule="lasts",
            text=text,
            status=LOOK_TWICE if days < 30 else FITS,
            value=hours * 3600,
            limit=30 * 86400.0,
            unit="s",
        )
    years = min(hours / HOURS_A_YEAR, kind.years)
    text = f"Keeps the memory {years:.2g} years at {show(need.draw, 'A')}"
    return Reason(
        rule="lasts",
        text=text,
        status=LOOK_TWICE if years < 2 else FITS,
        value=years * HOURS_A_YEAR * 3600,
        limit=None,
        unit="s",
    )


def rank_batteries(need: BatteryNeed, parts: Iterable[Battery], fits: int = 6, refused: int = 3) -> list[Judged]:
    """Those that go in, best first; then the nearest refused."""
    return ranked([judge_battery(need, part) for part in parts], fits, refused)


@dataclass(frozen=True, kw_only=True)
class Diode:
    """A diode or bridge.

    kind: a key of DIODE_KINDS. volts: V reverse. current: A average (of a bridge what it gives). surge: A, one half cycle. drop: V at its
    current. recovery: s, 0 where none is given.
    """

    part: str
    series: str
    kind: str
    volts: float
    current: float
    surge: float = 0.0
    drop: float = 1.0
    recovery: float = 0.0
    mounting: str = "axial"
    price: float = 0.0
    stock: int = 0


@dataclass(frozen=True, kw_only=True)
class DiodeNeed:
    """What the place of a diode asks.

    volts, current: as marked, V and A; 0 where not marked. reverse: the most it sees, V, 0 where not reckoned. average: A that it
    carries, 0 where not reckoned. pulse: A at switch-on. bridge: whether one stands there. kind: of the old one, "" where nobody
    said. switching: whether it may rectify at a switching rate.
    """

    old: Device
    volts: float
    current: float
    reverse: float = 0.0
    average: float = 0.0
    pulse: float = 0.0
    bridge: bool = False
    kind: str = ""
    switching: bool = False


def diode_need(
    old: Device, *, reverse: float = 0.0, average: float = 0.0, pulse: float = 0.0, switching: bool = False
) -> DiodeNeed:
    """What the place of a diode asks; what is marked is always kept.

    Args:
        old: what stands there.
        reverse: V it must hold in reverse.
        average: average current, A.
        pulse: A at the peak.
        switching: whether it may rectify at a switching rate.

    Returns:
        A, V and speed that it must have at least.

    Raises:
        BadInput: neither marked nor reckoned.
    """
    words = old.note.lower()
    kind = (
        "low-drop" if re.search(r"\blow[ -]drop\b|\bschottky\b", words) else "fast" if "fast" in words.split() else ""
    )
    if not (old.volts or reverse) or not (old.current or average):
        missing = "volts" if not (old.volts or reverse) else "current"
        raise BadInput(
            old.ref,
            f"its {missing}",
            f"Type what is marked: {old.ref} diode 1A 400V, or what it charges: for C1.",
            field=missing,
        )
    return DiodeNeed(
        old=old,
        volts=abs(old.volts or 0.0),
        current=old.current or 0.0,
        reverse=reverse,
        average=average,
        pulse=pulse,
        bridge="bridge" in words,
        kind=kind,
        switching=switching,
    )


def judge_diode(need: DiodeNeed, part: Diode) -> Judged:
    """One diode against a place."""
    said = []
    if need.bridge != (part.kind == "bridge"):
        said.append(
            Reason(
                rule="kind",
                text="A bridge stands here" if need.bridge else "One diode stands here, this is a bridge",
                status=FAILS,
            )
        )
    asked = max(need.volts, SPIKES * need.reverse)
    why = (
        f"marked {show(need.volts, 'V')}"
        if need.volts >= SPIKES * need.reverse
        else f"{show(need.reverse, 'V')} reverse × {SPIKES:g} for spikes"
    )
    status = FAILS if part.volts < asked else FITS
    said.append(
        Reason(
            rule="volts",
            text=f"Rated {show(part.volts, 'V')}, needed {show(asked, 'V')} ({why})",
            status=status,
            value=part.volts,
            limit=asked,
            unit="V",
        )
    )
    carries = max(need.current, need.average / USED)
    why = (
        f"marked {show(need.current, 'A')}"
        if need.current >= need.average / USED
        else f"carries {show(need.average, 'A')}, used to {USED:.0%}"
    )
    status = FAILS if part.current < carries * 0.999 else FITS
    said.append(
        Reason(
            rule="current",
            text=f"{show(part.current, 'A')}, needed {show(carries, 'A')} ({why})",
            status=status,
            value=part.current,
            limit=carries,
            unit="A",
        )
    )
    if need.pulse and part.surge < need.pulse:
        text = (
            f"Withstands a surge of {show(part.surge, 'A')}, the capacitor draws {show(need.pulse, 'A')} at switch-on"
        )
        said.append(Reason(rule="surge", text=text, status=FAILS, value=part.surge, limit=need.pulse, unit="A"))
    said += _speed(need, part)
    status = max(r.status for r in said)
    over = part.volts / asked - 1
    score = 0.02 * over + 0.1 * abs(part.current / carries - 1) + 0.1 * part.price + 0.25 * (part.stock <= 0)
    return _judged(
        part, said, score + 0.3 * (status == FITS and part.kind not in ("plain", "bridge") and not need.switching)
    )


def _speed(need: DiodeNeed, part: Diode) -> list[Reason]:
    """What follows from how fast it recovers and what it drops."""
    quick = part.kind == "low-drop" or 0 < part.recovery <= FAST
    said = []
    if need.switching and not quick:
        told = f"recovers in {show(part.recovery, 's')}" if part.recovery else "its recovery time is not known"
        text = f"May work at a switching rate, and {told}: a slow diode would heat up until it fails"
        said.append(Reason(rule="recovery", text=text, status=FAILS, value=part.recovery or None, limit=FAST, unit="s"))
    if need.kind == "low-drop" and part.kind != "low-drop":
        amps = need.average or need.current
        heat = (part.drop - 0.5) * amps
        text = (
            f"The old diode has a low drop; this one has {show(part.drop, 'V')}, {show(max(heat, 0.0), 'W')} "
            f"more at {show(amps, 'A')}"
        )
        said.append(Reason(rule="drop", text=text, status=LOOK_TWICE))
    if part.kind == "low-drop" and need.kind != "low-drop" and not need.switching:
        said.append(
            Reason(
                rule="leakage",
                text="Lower drop than the old one, more leakage when hot: the rail rises a little",
                status=LOOK_TWICE,
            )
        )
    return said


def rank_diodes(need: DiodeNeed, parts: Iterable[Diode], fits: int = 6, refused: int = 3) -> list[Judged]:
    """Those that go in, best first; then the nearest refused."""
    return ranked([judge_diode(need, part) for part in parts], fits, refused)


def _judged(part: Battery | Diode, said: list[Reason], score: float) -> Judged:
    said.sort(key=lambda r: -r.status)
    return Judged(part, max(r.status for r in said), tuple(said), score)
