"""The supply that a board most likely has, from what is listed of it, where nobody typed its lines: for Suspects alone.

Nothing is proven, chosen or blocked by what is assumed here.

Source: three volts for a regulator, a fifth more for ripple, a flyback behind a reservoir on the mains: workshop practice,
because most supplies of such machines are made so.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..board.devices import Device
from ..board.parts import Fitted
from ..circuit.supply_lines import read_model
from ..refusal import BadInput
from ..text.rails_and_chips import Rail, is_on, rail_volts, read_rail

#: V from which a capacitor stands on the rectified mains; F from which one of unknown role may be a reservoir.
HIGH_VOLTS, LARGE = 150.0, 220e-6
#: A of a rail whose current nobody typed; V that a regulator needs above its output; what ripple and low mains take, a share.
AMPS, HEADROOM, TAKEN = 0.5, 3.0, 1.25
#: Two capacitors under so many volts stand in series on mains above so many, V.
SERIES_UNDER, SERIES_FROM = 260.0, 150.0
#: Roles of capacitors that may stand at a rail.
AT_RAIL = ("converter_output", "regulator_output", "decoupling", "filter", "unknown", "")


@dataclass(frozen=True, kw_only=True)
class AssumedSupply:
    """The lines of a supply as they would be typed, and what was assumed in words, one a line."""

    lines: str
    said: tuple[str, ...]


def assume_supply(
    supply: str, rails: Sequence[Rail], parts: Iterable[Fitted], devices: Iterable[Device], source_volts: float | None = None,
    source_va: float | None = None, mains: float = 230.0,
) -> AssumedSupply | None:  # fmt: skip
    """A supply of its kind, by roles and volts of what is listed.

    Args:
        supply: "linear" or "switching".
        rails: as listed.
        parts: the board's capacitors.
        devices: its other parts.
        source_volts: V of the winding by its label, None for none.
        source_va: VA of the transformer, None where nobody said.
        mains: V, nominal.

    Returns:
        Lines that are read and simulated; None where no rail or no reservoir is known.

    >>> parts = [Fitted(ref='C1', value=4.7e-3, volts=25.0, role='bulk', kind='wet')]
    >>> assume_supply('linear', [read_rail('+5V 1A')], parts, [], 9.0, 25.0).lines
    'bridge 9V 25VA reservoir C1 regulator VR1 5V 1A'
    """
    whole = [part for part in parts if part.value > 0 and part.looks != "missing"]
    devices = tuple(devices)
    made = tuple(rails) or _rails_of(whole, devices)
    if not made:
        return None
    source = next((d for d in devices if d.what == "adapter" and d.volts), None)
    cells = next((d for d in devices if d.what == "battery" and d.volts and d.feeds), None)
    if supply == "switching" and source is None:
        found = _switching(made, whole, devices, mains)
    else:
        found = _linear(made, whole, devices, source or cells, source_volts, source_va)
    if found is None:
        return None
    lines, said = found
    try:
        read_model(lines)
    except BadInput:
        return None
    return AssumedSupply(lines=lines, said=tuple(said))


def _rails_of(parts: Sequence[Fitted], devices: Sequence[Device]) -> tuple[Rail, ...]:
    """Rails by the regulators that are listed, else by what capacitors are said to stand on."""
    volts = [d.volts for d in devices if d.what == "regulator" and d.volts]
    volts += [v for part in parts if part.rail and (v := rail_volts(part.rail))]
    return tuple(read_rail(f"{v:+g}V {AMPS}A") for v in dict.fromkeys(volts))


def _amps(rail: Rail) -> float:
    return rail.current or AMPS


def _switching(
    rails: Sequence[Rail], parts: Sequence[Fitted], devices: Sequence[Device], mains: float
) -> tuple[str, list[str]] | None:
    high = [
        p for p in parts if (p.volts or 0.0) >= HIGH_VOLTS and p.value >= 1e-6 and p.role in ("bulk", "unknown", "")
    ]
    if not high:
        return None
    largest = max(p.value for p in high)
    bulk = [p for p in high if p.value > 0.5 * largest]
    in_series = len(bulk) == 2 and mains > SERIES_FROM and all((p.volts or 0.0) < SERIES_UNDER for p in bulk)
    stores = ("+" if in_series else ",").join(p.ref for p in bulk)
    outputs = _at_rails(rails, [p for p in parts if p not in high and p.role in AT_RAIL])
    kept = [rail for rail in rails if outputs[rail.name]]
    if not kept:
        return None
    watts = 1.3 * sum(abs(rail.nominal) * _amps(rail) for rail in kept)
    fuse = next((d for d in devices if d.what == "fuse" and d.current), None)
    marked = f" fuse {fuse.characteristic or 'T'} {fuse.current:g}A" if fuse else ""
    lines = [f"bridge mains 4ohm reservoir {stores} converter flyback {watts:.3g}W eff 0.75 at 50k{marked}"]
    said = [f"a flyback converter behind {stores.replace('+', ' and ')} on the mains"]
    for rail in kept:
        refs = ",".join(outputs[rail.name])
        lines.append(f"rail {_typed(rail)} {_amps(rail):g}A capacitors {refs}")
        said.append(f"{rail.name} on {refs.replace(',', ', ')}" + ("" if rail.current else f", {AMPS:g} A"))
    said += [f"no capacitor of {rail.name} is listed: left out" for rail in rails if rail not in kept]
    return "\n".join(lines), said


def _at_rails(rails: Sequence[Rail], parts: Sequence[Fitted]) -> dict[str, list[str]]:
    """Which capacitors stand at which rail: as they are said to, else by their volts; those of a converter's output before others."""
    found: dict[str, list[str]] = {rail.name: [] for rail in rails}
    outputs = [p for p in parts if p.role == "converter_output"]
    for part in outputs or [p for p in parts if p.value >= 10e-6]:
        on = next((rail for rail in rails if is_on(rail, part.rail)), None)
        if on is None and not part.rail:
            fitting = [rail for rail in rails if abs(rail.nominal) * 1.1 <= (part.volts or 0.0)]
            on = max(fitting, key=lambda rail: abs(rail.nominal), default=None)
        if on is not None:
            found[on.name].append(part.ref)
    for rail in rails:
        if not found[rail.name]:
            # whatever else is said to stand on it
            found[rail.name] = [p.ref for p in parts if is_on(rail, p.rail)][:4]
    return found


def _linear(
    rails: Sequence[Rail], parts: Sequence[Fitted], devices: Sequence[Device], source: Device | None, label: float | None,
    va: float | None,
) -> tuple[str, list[str]] | None:  # fmt: skip
    listed = {d.ref for d in devices}
    direct = source is not None and source.output != "ac"
    free = [
        p for p in sorted(parts, key=lambda p: -p.value)
        if (p.role == "bulk" or (p.role in ("unknown", "") and p.value >= LARGE)) and (p.volts or 0.0) < HIGH_VOLTS
    ]  # fmt: skip
    lines, said = [], []
    for rail in sorted(rails, key=lambda r: -abs(r.nominal) * _amps(r)):
        own = next((p for p in free if is_on(rail, p.rail)), None)
        store = own or next((p for p in free if (p.volts or 1e9) >= abs(rail.nominal) + HEADROOM and not p.rail), None)
        store = store or next((p for p in free if (p.volts or 1e9) >= abs(rail.nominal)), None)
        if store is None and not direct:
            said.append(f"no reservoir of {rail.name} is listed: left out")
            continue
        if store is not None:
            free.remove(store)
        regulator = next((d for d in devices if d.what == "regulator" and d.volts == rail.nominal), None)
        ref = regulator.ref if regulator else _unused("VR", listed)
        listed.add(ref)
        start, words = _start(rail, source, label, va)
        amps = (regulator.current if regulator and not rail.current else 0.0) or _amps(rail)
        held = f" reservoir {store.ref}" if store else ""
        lines.append(f"{start}{held} regulator {ref} {_typed(rail)} {amps:g}A".replace(" +", " "))
        said.append(
            f"{rail.name} from {words}{', ' + store.ref + ' as reservoir' if store else ''}, {ref}"
            f"{'' if regulator else ' (assumed)'}, {amps:g} A"
        )
    return ("\n".join(lines), said) if lines else None


def _start(rail: Rail, source: Device | None, label: float | None, va: float | None) -> tuple[str, str]:
    """How a line begins: its adapter or cells, its winding by the label, or one that would do."""
    if source is not None:
        amps = f" {source.current:g}A" if source.current else ""
        if source.what == "battery":
            return f"cells {source.ref} {source.volts:g}V{amps}", f"the cells {source.ref}"
        kind = {"ac": "AC", "regulated": "DC regulated"}.get(source.output, "DC")
        return (
            f"adapter {source.ref} {source.volts:g}V {kind.split()[0]}{amps}{' regulated' * kind.endswith('ed')}",
            f"the adapter {source.ref}",
        )
    volts = label or math.ceil(2 * (abs(rail.nominal) + HEADROOM) * TAKEN / math.sqrt(2)) / 2
    size = va or max(5.0, float(f"{2.2 * volts * _amps(rail):.2g}"))
    return f"bridge {volts:g}V {size:g}VA", f"a winding of {volts:g} V" + ("" if label else " (assumed)")


def _typed(rail: Rail) -> str:
    return rail.name.replace(" V", "V").replace("−", "-")


def _unused(letters: str, taken: Iterable[str]) -> str:
    numbers = {int(hit[1]) for ref in taken if (hit := re.fullmatch(rf"{letters}(\d+)", ref))}
    return f"{letters}{next(n for n in range(1, 999) if n not in numbers)}"
