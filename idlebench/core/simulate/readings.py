"""What an instrument reads of the simulated bench: a point, what is read there, and what cannot be read so.

Source: a meter of 6000 counts and 0.05 %: workshop practice, because that is what a good bench has.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..circuit import dummy_load
from ..refusal import BadInput
from ..text.quantity import show
from ..text.rails_and_chips import rail_called
from .outcome import Outcome
from .rectifier import Floats
from .state import State
from .stores import OPEN, SHORT, rail_shorted, store_of
from .supply import USUAL, Bench
from .switch_on import switch_on
from .truth import Values

#: What can be read, and its unit.
UNITS = {
    "dc": "V", "ac": "V", "ripple": "V", "ripple_mains": "V", "ripple_switching": "V", "ripple_1f": "V", "ripple_2f": "V",
    "lowest": "V", "amps": "A", "inrush": "A", "ohms": "Ω", "esr": "Ω", "cap": "F", "temp": "°C", "brightness": "%", "diode": "V",
}  # fmt: skip
#: Other words for them.
WORDS = {
    "volts": "dc",
    "capacitance": "cap",
    "temperature": "temp",
    "current": "amps",
    "resistance": "ohms",
    "bright": "brightness",
}
#: What is read with everything off, and V that may be on the point at most.
COLD, CHARGED = ("ohms", "esr", "cap", "diode"), 1.0
#: Meter: share of the reading, and counts of a display of so many.
NOISE, COUNTS, DISPLAY = 0.0005, 2.0, 6000.0
#: What a meter shows off its scale begins here, by unit; and V of a sound diode.
SCALE = {"Ω": 50e6, "V": 1500.0, "F": 1.0, "A": 20.0}
DIODE = 0.55
#: Ω of impedance over which an LCR meter shows no ESR.
FARTHEST = 100e3
#: Ω of a sound fuse, a start resistor, and share of a primary's ohms in a winding's.
FUSE_OHMS, START_OHMS = 0.1, 330e3


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A point and what is to be read there. at: ``supply`` or ``board`` where a joint parts the two. frequency: Hz of an LCR meter."""

    point: str
    what: str
    typed: str
    at: str = ""
    frequency: float = 120.0


def read_asked(text: str, bench: Bench) -> tuple[Asked, ...]:
    """Points and what to read there, apart by semicolons: ``+5V dc; C1 ripple; lamp; mains amps``.

    Args:
        text: as it was typed.
        bench: the supply as the simulated bench knows it.

    Returns:
        The points with what is read there.

    Raises:
        BadInput: a point that is not there, or what cannot be read.
    """
    found = [_one(piece.strip(), bench) for piece in re.split(r"[;\n]", text) if piece.strip()]
    if not found:
        raise BadInput("", "what to read, such as +5V dc; C1 ripple", field="read")
    return tuple(found)


def _one(text: str, bench: Bench) -> Asked:
    words = text.split()
    if text.lower() == "lamp":
        return Asked(point="lamp", what="brightness", typed=text)
    if len(words) < 2:
        raise BadInput(text, "a point and what to read there, such as +5V dc", field="read")
    point, what = " ".join(words[:-1]), words[-1].lower()
    what = WORDS.get(what, what)
    if what not in UNITS:
        raise BadInput(what, f"one of {', '.join(UNITS)}", field="read")
    name, _, at = point.partition("@")
    if at not in ("", "supply", "board"):
        raise BadInput(point, "@supply or @board after a rail", field="read")
    low = name.lower()
    if low in ("mains", "lamp", "l-n", "gnd"):
        return Asked(point=low, what=what, typed=point, at=at)
    if re.match(r"[+\-−\d]", name) and (rail := rail_called(name)) in bench.rails:
        return Asked(point=rail, what=what, typed=point, at=at)
    if name.upper() in bench.refs:
        return Asked(point=name.upper(), what=what, typed=point, at=at)
    raise BadInput(
        point, f"a rail, a part, lamp, mains, L-N or gnd: {', '.join([*bench.rails, *sorted(bench.refs)])[:200]}", field="read"
    )  # fmt: skip


def read_values(bench: Bench, values: Values, state: State, outcome: Outcome, asked: Asked) -> Floats:
    """What is there to be read, for each variant; infinite where it is off any scale.

    Args:
        bench: the supply as the simulated bench knows it.
        values: the values, in SI.
        state: the state the supply is in.
        outcome: what the simulated run gave.
        asked: what is asked for.

    Returns:
        A number for each variant; infinite where it is off any scale.

    Raises:
        BadInput: what cannot be read with the power on, or at all at such a point.
    """
    if asked.what in COLD:
        if state.on:
            raise BadInput(
                f"{asked.typed} {asked.what}",
                "everything off and discharged",
                "Make the bench idle: state off.",
                field="read",
            )
        return _cold(bench, values, state, asked)
    if asked.point == "lamp":
        return _there({"brightness": 100.0 * np.minimum(outcome.lamp, 1.0)}, asked)
    if asked.point == "mains":
        if asked.what == "inrush":
            return switch_on(bench, values, state).peak
        there = {"amps": outcome.mains_amps, "ac": state.volts * state.variable * values.get("mains", "share", 1.0)}
        return _there(there, asked)
    if asked.point == "gnd":
        drop = sum((rail.joint for rail in outcome.rails.values()), np.zeros(values.count))
        return _there({"dc": drop if asked.at == "board" else np.zeros(values.count)}, asked)
    if asked.point in outcome.rails:
        return _rail(outcome, asked)
    if asked.point in outcome.stores:
        store = outcome.stores[asked.point]
        there = _waves(store.volts, store.switching) | {"temp": store.warm, "amps": store.ripple}
        return _there(there, asked)
    raise _cannot(asked)


def _rail(outcome: Outcome, asked: Asked) -> Floats:
    rail = outcome.rails[asked.point]
    # what a joint takes is gone at the board, which is where a rail is read unless it is said
    lost = 0.0 if asked.at == "supply" else np.sign(rail.volts.mean(axis=1)) * rail.joint
    there = _waves(rail.volts - np.reshape(lost, (-1, 1)), rail.switching)
    there["lowest"] = rail.lowest + (rail.joint if asked.at == "supply" else 0.0)
    there["amps"] = rail.amps
    return _there(there, asked)


def _waves(volts: Floats, switching: Floats) -> dict[str, Floats]:
    mean = volts.mean(axis=1)
    swing = volts.max(axis=1) - volts.min(axis=1)
    tones = np.abs(np.fft.rfft(volts, axis=1)) / volts.shape[1] * math.sqrt(2)
    none = np.zeros(len(volts))
    return {
        "dc": mean,
        # a triangle at the switching rate beside what the mains leave
        "ac": np.sqrt(volts.var(axis=1) + (switching / (2 * math.sqrt(3))) ** 2),
        "ripple": swing + switching,
        "ripple_mains": swing,
        "ripple_switching": switching,
        "ripple_1f": tones[:, 1] if tones.shape[1] > 2 else none,
        "ripple_2f": tones[:, 2] if tones.shape[1] > 2 else none,
        "lowest": np.abs(volts).min(axis=1),
    }


def _there(there: dict[str, Floats], asked: Asked) -> Floats:
    if asked.what not in there:
        raise _cannot(asked)
    return np.asarray(there[asked.what], float)


def _cannot(asked: Asked) -> BadInput:
    return BadInput(
        f"{asked.typed} {asked.what}",
        "what can be read at such a point",
        "Such as +5V dc, C1 ripple, F1 ohms.",
        field="read",
    )


# cold


def _cold(bench: Bench, values: Values, state: State, asked: Asked) -> Floats:
    point, what, n = asked.point, asked.what, values.count
    if point in bench.stores and what in ("esr", "cap"):
        return _lcr(bench, values, asked)
    if what == "diode":
        return _diode(bench, values, asked)
    if what != "ohms":
        raise _cannot(asked)
    if point == "l-n":
        return _line_to_neutral(bench, values)
    if point in bench.rails:
        return _rail_ohms(bench, values, state, point)
    if point in bench.stores:
        near = [ref for group in _sharing(bench, point) for ref in group]
        across = np.full(n, np.inf)
        for ref in near or [point]:
            across = _beside(across, _store_ohms(bench, values, ref))
        return across
    if point == USUAL["fuse"]:
        return np.where(values.has(point, "blown"), np.inf, FUSE_OHMS + values.get(point, "ohms", 0.0))
    starts = {bench.named(b.converter, "start") for b in bench.branches if b.converter}
    if point in starts:
        return np.where(values.has(point, "open"), np.inf, START_OHMS)
    if point in (USUAL["joint"], *(b.joint for b in bench.branches)):
        pressed = values.get(point, "pressed", 0.0) if point in state.pressed else values.get(point, "joint", 0.02)
        return np.where(values.has(point, "open"), np.inf, np.maximum(pressed, 0.02))
    raise _cannot(asked)


def _beside(a: Floats, b: Floats) -> Floats:
    both = 1 / np.maximum(a, 1e-9) + 1 / np.maximum(b, 1e-9)
    return np.where(both > 0, 1 / np.maximum(both, 1e-300), np.inf)


def _store_ohms(bench: Bench, values: Values, ref: str) -> Floats:
    one = bench.stores[ref]
    leak = values.get(ref, "leak", one.leakage / one.volts)
    ohms = np.where(leak > 0, 1 / np.maximum(leak, 1e-15), np.inf)
    return np.where(values.has(ref, "short"), SHORT, np.where(values.has(ref, "open"), np.inf, ohms))


def _sharing(bench: Bench, ref: str) -> list[tuple[str, ...]]:
    """Stores that lie in parallel with one."""
    for branch in bench.branches:
        if (ref,) in branch.in_groups:
            return [group for group in branch.in_groups if len(group) == 1]
        for rail in branch.converter.rails if branch.converter else ():
            if ref in rail.stores:
                return [(other,) for other in rail.stores]
    return []


def _lcr(bench: Bench, values: Values, asked: Asked) -> Floats:
    """In circuit: what shares its rail lies in parallel, and is read with it."""
    omega, what = 2 * math.pi * asked.frequency, asked.what
    # between 120 Hz and 100 kHz an ESR falls with the logarithm of the frequency
    gone = float(np.clip(math.log(asked.frequency / 120) / math.log(100e3 / 120), 0.0, 1.0))
    admittance = np.zeros(values.count, complex)
    for (other,) in _sharing(bench, asked.point) or [(asked.point,)]:
        value, low, high = store_of(bench, values, other)
        esr = np.where(high >= OPEN, low, low * (1 - gone) + high * gone)
        short = values.has(other, "short")
        admittance = admittance + 1 / np.where(short, SHORT, esr + 1 / (1j * omega * value))
    both = 1 / admittance
    if what == "esr":
        # of what is open nothing is read but a stray
        return np.where(np.abs(both) > FARTHEST, np.inf, both.real)
    return np.where(both.imag < -1e-9, 1 / (omega * np.maximum(-both.imag, 1e-12)), np.inf)


def _diode(bench: Bench, values: Values, asked: Asked) -> Floats:
    known = {ref for one in bench.diodes for ref in one}
    for branch in bench.branches:
        if branch.converter:
            known |= {bench.named(branch.converter, "switch")}
            known |= {bench.rectifier_of(branch, rail) for rail in branch.converter.rails}
    if asked.point not in known - {""}:
        raise _cannot(asked)
    return np.where(values.has(asked.point, "open"), np.inf, np.where(values.has(asked.point, "short"), 0.0, DIODE))


def _line_to_neutral(bench: Bench, values: Values) -> Floats:
    across = np.full(values.count, np.inf)
    for ref in {*bench.x_parts, *(b.xcap for b in bench.branches), USUAL["xcap"]} - {""}:
        across = np.where(values.has(ref, "short"), SHORT, across)
    for branch, diodes in zip(bench.branches, bench.diodes, strict=True):
        if branch.outside:
            # no mains come in
            continue
        if branch.volts:
            _, ohms, _ = bench.source(branch, bench.nominal.volts)
            # copper is shared about evenly between a primary and its secondaries
            across = _beside(across, np.full(values.count, ohms / 2 * (1 / branch.ratio(bench.nominal.volts)) ** 2))
            continue
        shorted = np.ones(values.count, bool)
        for ref in diodes[:2]:
            shorted = shorted & values.has(ref, "short")
        across = np.where(shorted, branch.ohms or WIRE, across)
    return np.where(values.has(USUAL["fuse"], "blown"), np.inf, across)


#: A cold filament's share of its hot ohms.
COLD_LAMP = 0.1
#: Ω of the wiring to a rectifier that is shorted.
WIRE = 0.5


def _rail_ohms(bench: Bench, values: Values, state: State, name: str) -> Floats:
    rail = bench.rails[name]
    across = np.where(rail_shorted(bench, values, name), SHORT, np.inf)
    if state.load_of(name) == "dummy" and rail.lamp:
        watts, volts = rail.lamp
        across = _beside(across, np.full(values.count, COLD_LAMP * volts**2 / watts))
    elif state.load_of(name) == "dummy" and rail.minimum:
        ohms = dummy_load.dummy_load(rail.volts, rail.minimum).values["resistance"]
        across = _beside(across, np.full(values.count, ohms))
    elif state.load_of(name) == "board":
        across = _beside(across, np.full(values.count, abs(rail.volts) / max(rail.board or rail.current, 1e-6)))
    if rail.out:
        branch = bench.branches[rail.branch]
        rectifier = bench.rectifier_of(branch, rail.out)
        if rectifier:
            # a shorted rectifier reads through the winding
            across = np.where(values.has(rectifier, "short"), np.minimum(across, 0.1), across)
        for ref in rail.out.stores:
            across = _beside(across, _store_ohms(bench, values, ref))
    return across


# the meter


def metered(value: float, unit: str, rng: np.random.Generator) -> float | None:
    """What a meter shows of a value: its noise and counts; None off the scale."""
    shaken, counted = rng.uniform(-1, 1, 2)
    if not math.isfinite(value) or abs(value) > SCALE.get(unit, math.inf):
        return None
    if abs(value) < 1e-9 and unit != "F":
        return 0.0
    size = 10 ** math.ceil(math.log10(abs(value) * 10 / DISPLAY)) / 10 if value else 1.0
    return value * (1 + NOISE * shaken) + COUNTS * counted * size / 10


def shown(asked: Sequence[Asked], numbers: Sequence[float | None]) -> list[str]:
    """Readings in words."""
    return [
        f"{one.typed} {one.what}: " + ("off the scale" if number is None else show(number, UNITS[one.what]))
        for one, number in zip(asked, numbers, strict=True)
    ]
