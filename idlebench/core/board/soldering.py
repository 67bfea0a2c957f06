"""How an old part comes out of its place and a new one goes in: the tip, the heat and the way, each with its reason.

Source: workshop practice, because pads, planes and glue differ from board to board; nothing here is hotter than MOST_CELSIUS or stays
longer on a pad than MOST_SECONDS.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from .devices import Device
from .parts import ON_PADS, Capacitor, Fitted

#: The hottest tip, °C, and the longest time on a pad, s; and both for phenolic boards, whose pads come off sooner.
MOST_CELSIUS, MOST_SECONDS = 400, 5
PHENOLIC_CELSIUS, PHENOLIC_SECONDS = 350, 3
#: From this year on machines were soldered without lead; before it a joint is leaded unless it looks grey and dull.
LEAD_FREE_FROM = 2006
#: A can as wide as this stands on a surface that drinks heat, mm; a part as tall as this goes in last, mm.
LARGE, TALL = 20.0, 25.0
#: Kinds with many legs, and those that are not soldered at all.
MANY_LEGS = ("relay", "switch", "connector", "socket", "display", "module", "optocoupler", "chip")
UNSCREWED = ("heatsink", "fan", "motor", "speaker")
#: Looks under which something has run out.
WET = ("leaking", "crusty", "burst", "corroded", "stained")


@dataclass(frozen=True, kw_only=True)
class SolderingMethod:
    """A way of taking a part out.

    tip: of the iron, with its width. leaded, lead_free: °C of the tip for such a joint. how: in words. reasons: why this way, from
    what is known of the place. cautions: what bites here.
    """

    name: str
    tip: str
    leaded: int
    lead_free: int
    how: str
    reasons: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    seconds: int = MOST_SECONDS

    def celsius(self, made: int | None) -> int:
        """Of the tip, for joints as they were made in that year."""
        return self.lead_free if made and made >= LEAD_FREE_FROM else self.leaded


WAYS = {
    way.name: way
    for way in (
        SolderingMethod(
            name="two thin tracks",
            tip="1.6–2.4 mm chisel",
            leaded=330,
            lead_free=360,
            how="Add fresh solder, heat, draw it off; or move the part out leg by leg.",
        ),
        SolderingMethod(
            name="one leg in a ground plane",
            tip="2.4–3.2 mm",
            leaded=360,
            lead_free=390,
            how="Flux and fresh solder first; the leg in the plane last. Preheat the board to 100 °C if you can.",
        ),
        SolderingMethod(
            name="axial",
            tip="2.4 mm",
            leaded=350,
            lead_free=380,
            how="Cut the leads close to the body and pull each from the other side. A clamp on the body's side "
            "carries the heat away.",
        ),
        SolderingMethod(
            name="chassis can",
            tip="3.2 mm or wider",
            leaded=380,
            lead_free=400,
            how="Note which lead is on which tag and lift the leads. Straighten the lugs with pliers, heat the "
            "soldered ones, push the can out.",
        ),
        SolderingMethod(
            name="large can",
            tip="3.2 mm or wider",
            leaded=380,
            lead_free=400,
            how="Heat both legs at once, or use a suction station. Never lever against the board.",
        ),
        SolderingMethod(
            name="surface can",
            tip="hot air at 320 °C with a shield, or two irons",
            leaded=330,
            lead_free=350,
            how="Heat both pads at once and lift straight up. Never twist: the pads tear off.",
        ),
        SolderingMethod(
            name="surface chip",
            tip="two irons, or hot air at 320 °C with a shield",
            leaded=330,
            lead_free=350,
            how="Fresh solder on both ends, heat both at once, push the part off its pads. Never lever.",
        ),
        SolderingMethod(
            name="many legs",
            tip="2.4 mm chisel and suction",
            leaded=350,
            lead_free=380,
            how="Fresh solder on every leg, then draw it off leg by leg. Move each leg with pliers: when all move freely, lift "
            "it out. A part that will be thrown away is cut off its legs first.",
        ),
        SolderingMethod(
            name="unscrewed",
            tip="2.4 mm, for wires that are soldered",
            leaded=330,
            lead_free=360,
            how="Note how it sits and where its wires go, take out its screws or clips, lift it off.",
        ),
        SolderingMethod(
            name="on a heatsink",
            tip="3.2 mm",
            leaded=380,
            lead_free=400,
            how="Unscrew the heatsink first, or take heatsink and pins out together.",
        ),
    )
}


def way_out(part: Fitted, *, planes: Iterable[str] = (), phenolic: bool = False) -> SolderingMethod:
    """How a capacitor comes out of its place.

    Args:
        part: the part in its place.
        planes: references of parts of which a leg is known to sit in a copper plane.
        phenolic: the board is brown phenolic paper.

    Returns:
        Iron, heat and steps, with the reasons for them.

    >>> way_out(Fitted(ref="C1", value=1e-4, mounting="axial")).tip
    '2.4 mm'
    """
    words = part.note.lower()
    if part.mounting in ON_PADS:
        found = _for(WAYS[f"surface {part.mounting}"], "It is soldered to surface pads")
        if re.search(r"\bpad\b|\blifted\b", words):
            found = replace(
                found, reasons=(*found.reasons, "Its note mentions a pad: melt all of its solder before the part moves")
            )
    elif part.mounting == "chassis":
        found = _for(WAYS["chassis can"], "Its lugs go through the chassis")
    elif part.mounting in ("snap", "screw") or (part.diameter or 0.0) >= LARGE:
        wide = f"It is {part.diameter:g} mm wide" if part.diameter else "Its legs are stiff"
        found = _for(WAYS["large can"], f"{wide} and {part.mounting}")
    elif part.mounting == "axial":
        found = _for(WAYS["axial"], "Its leads lie along the board, one at each end")
    elif part.ref in planes or "plane" in words:
        found = _for(WAYS["one leg in a ground plane"], "One of its legs sits in a copper plane")
    elif part.rail:
        found = _for(
            WAYS["one leg in a ground plane"],
            f"It is on {part.rail}: its other leg goes to ground, which is often a plane. If the solder melts "
            "at once, there is no plane",
        )
    else:
        found = _for(WAYS["two thin tracks"], "Nothing listed says that a leg sits in a plane")
    return _careful(found, part.looks, words, phenolic)


def way_out_of(device: Device, *, phenolic: bool = False) -> SolderingMethod:
    """How a regulator, fuse, diode or transistor comes out of its place."""
    words = device.note.lower()
    if device.what in UNSCREWED:
        found = _for(WAYS["unscrewed"], f"A {device.title} is held by screws or clips")
    elif device.what in MANY_LEGS:
        found = _for(WAYS["many legs"], f"A {device.title} has more than two legs in a row")
    elif device.what == "regulator" or "sink" in words:
        found = _for(WAYS["on a heatsink"], "It is screwed to a heatsink, which takes the heat away")
    else:
        found = _for(WAYS["two thin tracks"], f"A {device.title.lower()} between two tracks")
    return _careful(found, device.looks, words, phenolic)


def _for(way: SolderingMethod, *reasons: str) -> SolderingMethod:
    return replace(way, reasons=reasons)


def _careful(way: SolderingMethod, looks: str, words: str, phenolic: bool) -> SolderingMethod:
    cautions, reasons = [], list(way.reasons)
    if looks in WET:
        cautions.append("Fluid leaked here: neutralise and clean before heating. Do not breathe the fumes")
    if "glue" in words:
        cautions.append("It is glued: cut or warm the glue first, or the pads tear off")
    if phenolic:
        way = replace(
            way,
            leaded=min(way.leaded, PHENOLIC_CELSIUS),
            lead_free=min(way.lead_free, PHENOLIC_CELSIUS),
            seconds=PHENOLIC_SECONDS,
        )
        reasons.append(f"Brown phenolic board: {PHENOLIC_CELSIUS} °C and {PHENOLIC_SECONDS} s on a pad at most")
    return replace(way, reasons=tuple(reasons), cautions=tuple(cautions))


def way_in(old: Fitted, new: Capacitor) -> tuple[str, ...]:
    """What to do with the new part before it is soldered: its leads, its stand, what holds it; in the order of the hands."""
    steps = []
    apart = (old.pitch or 0.0) - new.pitch if old.pitch and new.pitch else 0.0
    if old.mounting == "axial" and new.mounting == "radial":
        steps.append("Stand it up with one long lead in a sleeve, or lay it where its length fits")
    elif old.mounting in ON_PADS and new.mounting == "radial":
        steps.append("Lay it flat, form the leads to the pads, and glue it")
    elif new.mounting in ON_PADS:
        steps.append("Pads clean, flat and thinly tinned; new flux")
        steps.append("Set it down, hold it, solder one end, check that it lies flat, then solder the other end")
    elif new.mounting == "chassis":
        steps.append("Lugs through the chassis and turned by an eighth at most; each lead to the tag it came from")
    elif old.mounting == "chassis":
        steps.append(
            "On a small board or in a clamp, each lead to the part of its own section; no part hangs by its legs"
        )
    elif abs(apart) > 0.05:
        way = "out" if apart > 0 else "in"
        steps.append(f"Form the leads {way} from {new.pitch:g} to {old.pitch:g} mm")
    else:
        steps.append("Down to the board, leads straight")
    if new.height >= TALL and new.mounting in ("radial", "snap"):
        steps.append(f"It is {new.height:g} mm high: put a spot of neutral glue at its foot once it is tested")
    flat = new.mounting in ON_PADS
    steps.append(
        "Inspect both joints: smooth, and solder up the tab"
        if flat
        else "Solder, trim, and inspect the joint: smooth, with solder all round"
    )
    return tuple(steps)


def swap_order(parts: Sequence[Fitted], here: Callable[[str], bool]) -> list[str]:
    """References in the order that is easiest for the hands: first those whose part lies here, tall ones last, value by value.

    Args:
        parts: the parts.
        here: whether the new part of a place lies here, by reference.

    Returns:
        References, the first to be swapped first.
    """

    def rank(part: Fitted) -> tuple[object, ...]:
        tall = (part.height or 0.0) >= TALL or (part.diameter or 0.0) >= LARGE
        return (not here(part.ref), tall, part.value, part.volts or 0.0, _natural(part.ref))

    return [part.ref for part in sorted(parts, key=rank)]


def _natural(ref: str) -> tuple[str, int]:
    letters = ref.rstrip("0123456789")
    return letters, int(ref[len(letters) :] or 0)
