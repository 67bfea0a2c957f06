"""Fuses: what a place asks, and which may go in.

Source: IEC 60127-2:2014, clause 9, for fuse characteristics;
the power factor of old supplies: workshop practice, because no label names it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from ..board.devices import CHARACTERISTICS, Device
from ..circuit import inrush
from ..circuit.supply_lines import ConverterIn
from ..refusal import BadInput
from ..text.quantity import show
from .rank import Reason
from .regulators_and_fuses import Judged, ranked, reason
from .rules import FAILS, FITS
from .stand_in import LOOK_TWICE


@dataclass(frozen=True, kw_only=True)
class Fuse:
    """A fuse of the catalogue: A, characteristic, V AC and DC, breaking capacity A, size, holder or leads, melting A²s."""

    part: str
    series: str
    rating: float
    characteristic: str
    volts_ac: float
    volts_dc: float
    breaking: float
    size: str
    mounting: str
    melting: float
    price: float = 0.0
    stock: int = 0

    def curve(self) -> tuple[tuple[float, float], ...]:
        """Time it stands a current: pairs of A and s, from a little over its rating to the pulses that melt it at once."""
        slow = {"FF": 0.02, "F": 0.3, "M": 2.0, "T": 10.0, "TT": 60.0}[self.characteristic]
        points = [(1.5 * self.rating, 3600.0), (2.1 * self.rating, 30.0 + 9 * slow), (4 * self.rating, slow)]
        return (
            *points,
            *((k * self.rating, min(slow, self.melting / (k * self.rating) ** 2)) for k in (10, 20, 50, 100)),
        )


@dataclass(frozen=True, kw_only=True)
class FuseNeed:
    """What a fuse's place asks.

    Attributes:
        rating: A marked, or worked out. marked: whether it was read from the part or the print. characteristic: as marked, ""
        where it was not. volts: V of the circuit. dc: whether it stands on DC. primary: on the mains side. size: as marked or "".
        low_breaking: whether the makers marked a low breaking capacity. pulse: A²s at switch-on, 0 where
        none is known. charges: whether a store behind it is charged at switch-on, also through a transformer.
    """

    rating: float
    marked: bool
    characteristic: str = ""
    volts: float = 250.0
    dc: bool = False
    primary: bool = True
    size: str = ""
    low_breaking: bool = False
    pulse: float = 0.0
    charges: bool = False


#: Power factor of a rectifier and store without correction; the current of such a supply comes in short pulses.
POWER_FACTOR = 0.6


def worked_out_rating(fed: ConverterIn | None, va: float | None, mains: float) -> float:
    """The rating that stands in for a missing fuse marking, A; 0 where neither power nor winding is known.

    Args:
        fed: the converter behind it, if one is.
        va: of the winding, VA.
        mains: V rms, taken 10 % low.

    Returns:
        A; 0 where neither power nor winding is known.
    """
    if fed:
        return inrush.fuse(fed.power, fed.efficiency, POWER_FACTOR, 0.9 * mains).values["rating"]
    return inrush.fuse(va, 1.0, 1.0, 0.9 * mains).values["rating"] if va else 0.0


def fuse_need(
    old: Device,
    primary: bool,
    pulse: float = 0.0,
    worked_out: float = 0.0,
    dc: float = 0.0,
    charges: bool = False,
) -> FuseNeed:
    """What the place of a fuse asks; the marked rating is always kept.

    Args:
        old: what stands there.
        primary: whether it is in the primary circuit.
        pulse: A at the peak.
        worked_out: A that the supply was reckoned to draw.
        dc: V of the DC circuit it stands in, 0 on AC.
        charges: whether it charges a store.

    Returns:
        A, kind and pulse that it must meet, and what is asked.

    Raises:
        BadInput: no rating is marked, and none was worked out.
    """
    if not old.current and not worked_out:
        raise BadInput(
            old.ref,
            "its marked rating, or a calculated one",
            "Type what is marked; else calculate it in the Calculators.",
            field="current",
        )
    size = f"{old.across:g}x{old.length:g}" if old.across and old.length else ""
    low = "low" in old.note.lower().split()
    return FuseNeed(
        rating=old.current or worked_out,
        marked=bool(old.current),
        characteristic=old.characteristic,
        volts=dc or old.volts or 250.0,
        dc=dc > 0,
        primary=primary,
        size=size,
        low_breaking=low,
        pulse=pulse,
        charges=charges or pulse > 0,
    )


def judge_fuse(need: FuseNeed, part: Fuse) -> Judged:
    """One fuse against a place."""
    said = []
    kept = "the marked rating stays" if need.marked else "worked out, stands in for a missing marking"
    if abs(part.rating / need.rating - 1) > 0.01:
        way = "never a bigger fuse to stop it blowing" if part.rating > need.rating else kept
        text = f"{show(part.rating, 'A')}, the place needs {show(need.rating, 'A')}: {way}"
        said.append(reason("rating", text, FAILS, part.rating, need.rating, "A"))
    elif not need.marked:
        said.append(reason("rating", f"{show(need.rating, 'A')} {kept}: check it against the circuit", LOOK_TWICE))
    if need.characteristic and part.characteristic != need.characteristic:
        text = f"{CHARACTERISTICS[part.characteristic]}, marked {CHARACTERISTICS[need.characteristic]}"
        said.append(reason("characteristic", text, FAILS))
    elif not need.characteristic:
        wanted = "T" if need.charges else "F"
        ok = part.characteristic == wanted
        why = "a capacitor is charged at switch-on" if need.charges else "nothing charges at switch-on"
        text = f"The marking is missing; {CHARACTERISTICS[wanted]} suits, for {why}"
        said.append(reason("characteristic", text, LOOK_TWICE if ok else FAILS))
    rated = part.volts_dc if need.dc else part.volts_ac
    if rated < need.volts:
        kind = "DC" if need.dc else "AC"
        text = f"{show(rated, 'V')} {kind}, the circuit has {show(need.volts, 'V')}"
        said.append(reason("volts", text, FAILS, rated, need.volts, "V"))
    high = part.breaking >= 1000
    if need.primary and not need.low_breaking and not high:
        text = f"Breaks {show(part.breaking, 'A')}: on the mains side high breaking capacity is wanted, unless low is marked"
        said.append(reason("breaking", text, FAILS, part.breaking, 1000.0, "A"))
    if need.size and part.size != need.size:
        said.append(reason("size", f"{part.size} mm, the holder is for {need.size} mm", FAILS))
    if need.pulse:
        said.append(_pulse(need, part))
    said.sort(key=lambda r: -r.status)
    status = max((r.status for r in said), default=FITS)
    # of those that are refused the next rating stands first
    far = abs(math.log(part.rating / need.rating)) + 0.01 * (bool(need.size) and part.size != need.size)
    score = 0.1 * part.price + 0.25 * (part.stock <= 0) + 0.5 * (part.mounting != "holder")
    return Judged(part, status, tuple(said), far if status == FAILS else score)


def _pulse(need: FuseNeed, part: Fuse) -> Reason:
    share = need.pulse / part.melting
    limit = inrush.PULSES * part.melting
    text = f"The switch-on pulse of {show(need.pulse, 'A²s')} is {share * 100:.0f} % of its melting {show(part.melting, 'A²s')}"
    tired = need.pulse > limit
    if tired:
        text += f": over {inrush.PULSES * 100:.0f} % it tires. Limit the pulse, not the fuse"
    return reason("pulse", text, LOOK_TWICE if tired else FITS, need.pulse, limit, "A²s")


def rank_fuses(need: FuseNeed, parts: Iterable[Fuse], fits: int = 6, refused: int = 3) -> list[Judged]:
    """Those that go in, best first; then the nearest refused."""
    return ranked([judge_fuse(need, part) for part in parts], fits, refused)
