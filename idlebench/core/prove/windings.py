"""The windings of a supply, each to be read without load: by its own label, its line or the part that it belongs to.

Source: circuit.transformer.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..board.devices import Device
from ..circuit import transformer
from ..circuit.supply_lines import Branch


@dataclass(frozen=True)
class Winding:
    """A winding, a tap of one, or an adapter's output: what it is called, V rms as labelled, VA (0 where not known), and
    whether the label is that of an open winding. at: V of the mains that the label is for, 0 for those that are nominal here."""

    name: str
    volts: float
    va: float = 0.0
    open: bool = False
    at: float = 0.0

    @property
    def expected(self) -> tuple[float, float, float]:
        """What it should read without load on nominal mains, and the band, V."""
        if self.open:
            return self.volts, self.volts * (1 - transformer.SPREAD), self.volts * (1 + transformer.SPREAD)
        w = transformer.unloaded(self.volts, self.va or 25.0).values
        return w["volts"], w["low"], w["high"]


def windings_of(
    label: float | None, va: float | None, devices: Iterable[Device], branches: Iterable[Branch]
) -> tuple[Winding, ...]:
    """Every winding and tap of a supply, from its own lines: those listed as parts, those its supply starts from, its label.

    Args:
        label: V on the label, None where there is none.
        va: VA of the transformer; None where nobody said.
        devices: parts that are no capacitors.
        branches: the lines of the supply, one for each source or winding.

    Returns:
        The windings, with V where a label says them.
    """
    devices = tuple(devices)
    taps = {d.ref: d.tap for d in devices if d.what == "transformer" and d.tap}
    found = [
        Winding(
            d.ref,
            d.volts,
            d.volts * d.current if d.current else 0.0,
            at=d.tap or taps.get(d.ref.rstrip("BCDEFGH")) or 0.0,
        )
        for d in devices
        if d.what == "winding" and d.volts
    ]
    for d in devices:
        own = enumerate(d.secondaries, 1)
        found += [Winding(f"{d.ref} secondary {i}", volts, volts * amps, at=d.tap or 0.0) for i, (volts, amps) in own]

    def new(volts: float) -> bool:
        return all(abs(w.volts / volts - 1) > 0.01 for w in found)

    for b in branches:
        # an adapter has steps of its own, and DC no winding
        if b.volts and not b.outside and new(b.volts):
            half = ", one half of it" if b.topology == "centre" else ""
            # the board's label speaks of the same winding: its size is known from there
            of_label = va if label and va and abs(label / b.volts - 1) <= 0.01 else 0.0
            found.append(Winding(f"{b.volts:g} V winding{half}", b.volts, b.va or of_label, bool(b.ohms), b.tap))
    if label and new(label):
        found.append(Winding("transformer secondary", label, va or 25.0))
    return tuple(found)
