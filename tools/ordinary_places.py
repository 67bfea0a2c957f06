"""A table of 120 ordinary places: value, volts and case as common series of electrolytics share them, and how many find a part first."""

from __future__ import annotations

from idlebench.catalogue import house_columns
from idlebench.core.board.parts import Fitted, radial_pitch
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import rank

#: Mounting and volts: value and case, diameter × height in mm, of each place.
PLACES = """
radial 10V: 220u 6.3x11, 470u 8x11.5, 1000u 10x12.5, 2200u 10x20, 4700u 12.5x25
radial 16V: 10u 5x11, 100u 6.3x11, 220u 6.3x11, 470u 8x11.5, 1000u 10x16, 2200u 12.5x20, 3300u 12.5x25, 4700u 16x25
radial 25V: 22u 5x11, 47u 5x11, 100u 6.3x11, 220u 8x11.5, 470u 10x12.5, 1000u 12.5x20, 2200u 12.5x25, 3300u 16x25, 4700u 16x31.5
radial 35V: 22u 5x11, 47u 6.3x11, 100u 8x11.5, 220u 10x12.5, 470u 10x16, 1000u 12.5x20, 2200u 16x25
radial 50V: 1u 5x11, 4.7u 5x11, 10u 5x11, 22u 5x11, 47u 6.3x11, 100u 8x11.5, 220u 10x12.5, 330u 10x16, 470u 12.5x20, 1000u 12.5x25
radial 50V: 2200u 18x35.5
radial 63V: 22u 6.3x11, 47u 6.3x11, 100u 8x11.5, 220u 10x16, 470u 12.5x20, 1000u 16x25
radial 100V: 1u 5x11, 4.7u 5x11, 10u 6.3x11, 22u 8x11.5, 47u 10x12.5, 100u 12.5x20, 220u 16x25
radial 160V: 10u 10x12.5, 22u 10x16, 47u 12.5x20, 100u 16x25
radial 250V: 10u 10x16, 22u 12.5x20, 47u 16x25, 100u 16x31.5
radial 400V: 1u 6.3x11, 2.2u 8x11.5, 4.7u 10x12.5, 10u 10x16, 22u 12.5x20, 47u 16x25, 100u 18x35.5
radial 450V: 4.7u 10x12.5, 10u 10x20, 33u 16x25, 47u 16x31.5
snap 50V: 4700u 22x35, 10000u 30x40
snap 63V: 4700u 25x35
snap 35V: 10000u 25x35
snap 200V: 330u 22x25, 470u 22x30, 680u 25x35
snap 250V: 220u 22x25, 470u 25x35
snap 400V: 100u 22x25, 150u 22x30, 220u 22x30, 220u 25x30, 220u 25x35, 330u 30x35, 470u 30x40
snap 450V: 100u 22x30, 220u 25x40, 330u 30x40
axial 25V: 100u 8x17, 470u 10x26, 1000u 13x26, 2200u 16x31
axial 40V: 47u 8x17, 220u 10x21
axial 63V: 10u 6.5x17, 100u 10x21, 470u 16x31
axial 450V: 10u 13x26, 22u 16x31, 47u 18x41
chip 6.3V: 22u 4x5.4, 100u 6.3x5.4
chip 16V: 10u 4x5.4, 47u 6.3x5.4, 100u 6.3x7.7, 220u 8x10.2, 470u 10x10.2
chip 25V: 33u 6.3x5.4, 100u 8x10.2, 220u 10x10.2
chip 35V: 4.7u 4x5.4, 22u 6.3x5.4, 47u 6.3x7.7, 100u 8x10.2
chip 50V: 1u 4x5.4, 4.7u 5x5.4, 10u 6.3x5.4
"""
#: Least share of them whose first candidate goes in without a second look.
WANTED = 0.95


def ordinary_places() -> list[Fitted]:
    """The old parts of the table, a decoupling place each, a bulk store from 100 V on."""
    found = []
    for line in PLACES.strip().splitlines():
        head, rest = line.split(": ")
        mounting, volts = head.split()
        for one in rest.split(", "):
            value, case = one.split()
            diameter, height = map(float, case.split("x"))
            pitch = {"radial": radial_pitch(diameter), "snap": 10.0}.get(mounting)
            role = "bulk" if float(volts[:-1]) >= 100 else "decoupling"
            found.append(
                Fitted(
                    ref=f"C{len(found) + 1}", value=float(value[:-1]) * 1e-6, volts=float(volts[:-1]), mounting=mounting, diameter=diameter,
                    height=height, pitch=pitch, role=role, temperature=85,
                )
            )  # fmt: skip
    return found


def unserved() -> list[Fitted]:
    """Those whose first candidate of the house catalogue does not simply fit."""
    columns = house_columns()
    best = {place: rank(need_of(place), columns, fits=1, refused=0).best for place in ordinary_places()}
    return [place for place, first in best.items() if first is None or first.verdict != "fits"]
