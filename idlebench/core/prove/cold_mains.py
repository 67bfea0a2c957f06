"""Cold checks of what stands before the rails: the tap, line to neutral, windings, the pins of regulators."""

from __future__ import annotations

from ..circuit import transformer
from ..text.quantity import show
from .checks import BoardFacts, Check, key_of
from .facts import MAINS_SIDE, NO_SHORT

#: Half of what a transformer loses under load is lost in its mains side, half in its other windings.
HALF = 0.5
#: How far copper may read from what the label lets expect: sizes are rough, makers differ.
SPREAD = 3.0
#: A winding that is not open reads under this much more, Ω: leads, plugs and a fusible wire in it.
LEADS = 2.0
#: Line to neutral of a switching supply under this is a shorted part, Ω.
SHORTED = 1000.0
#: A mains winding whose size nobody knows: of a kVA or so at the one end, of two VA at the other, Ω.
UNKNOWN_WINDING = (2.0, 5000.0)
#: Two pins of a regulator under this are shorted, Ω.
SHORT = 2.0
SOURCE = "Copper from the label: regulation by size, half of it in each side."


def copper(volts: float, va: float, mains: float) -> tuple[float, float]:
    """Ohms of the mains side and of the other side of a transformer with one winding, by its label.

    A 25 VA transformer loses 15 % under load: 0.15 · V²/VA, half of it in each side.

    >>> tuple(round(ohms, 2) for ohms in copper(15, 25, 230))
    (158.7, 0.68)
    """
    share = HALF * transformer.regulation(va)
    return share * mains**2 / va, share * volts**2 / va


def mains_side(board: BoardFacts, mains: float) -> list[Check]:
    """The tap, line to neutral and every winding of a supply."""
    if not board.supply or board.adapter is not None:
        return []
    common = {
        "step": "cold", "board": board.name, "fact": MAINS_SIDE, "rows": frozenset({board.id}), "boards": frozenset({board.id}),
    }  # fmt: skip
    checks = [
        Check(
            f"cold.tap.{board.id}",
            kind="look",
            point="mains tap or selector",
            ask=f"Stands at {mains:g} V, or the next above it. Where there is none, the label says {mains:g} V.",
            safety=True,
            why="On a tap too low everything behind it runs higher and hotter.",
            names=(key_of("cold.tap", board.name),),
            of=(("mains", f"{mains:g} V"),),
            **common,
        ),
        _line_to_neutral(board, mains, common),
    ]
    for number, winding in enumerate(board.sources):
        if winding.open:
            # the label of an open winding tells nothing of its copper
            continue
        ohms = copper(winding.volts, winding.va or 25.0, mains)[1]
        checks.append(
            Check(
                key_of(
                    "cold.winding", board.id, winding.name, f"{winding.volts:g}", *([str(number)] if number else [])
                ),
                kind="resistance",
                point=f"{winding.name}, across it",
                ask=f"Its plug off the board. About {show(ohms, 'Ω', 2)} is expected; with leads subtracted it may read a little more.",
                high=SPREAD * ohms + LEADS,
                why=f"{SOURCE} Open: a wire is off, or its thermal fuse went.",
                names=(key_of("cold.winding", board.name, winding.name, f"{winding.volts:g}"),),
                of=(("winding", f"{winding.volts:g} V {winding.va:g} VA"),),
                **common,
            )
        )
    return checks


def _line_to_neutral(board: BoardFacts, mains: float, common: dict) -> Check:
    own = {
        "kind": "resistance", "point": "line to neutral at the plug", "safety": True, "names": (key_of("cold.mains-ohms", board.name),),
        **common,
    }  # fmt: skip
    key, unplugged = f"cold.mains-ohms.{board.id}", "Unplugged, fuse in, switch on."
    loaded = [w for w in board.sources if not w.open]
    if loaded:
        va = sum(w.va or 25.0 for w in loaded)
        ohms = copper(1.0, va, mains)[0]
        return Check(
            key,
            ask=f"{unplugged} The mains winding: about {show(ohms, 'Ω', 2)} is expected. OL: fuse, switch, lead or thermal fuse is open.",
            low=ohms / SPREAD,
            high=ohms * SPREAD,
            why=f"{SOURCE} Far under it, turns are shorted.",
            of=(("transformer", f"{va:g} VA at {mains:g} V"),),
            **own,
        )
    if board.supply == "linear":
        low, high = UNKNOWN_WINDING
        return Check(
            key,
            ask=f"{unplugged} The mains winding: its size is not known, so between a short and an open wire all may be right.",
            low=low,
            high=high,
            why="Type the transformer's volts and VA at Intake to have what it should read.",
            of=(("transformer", f"not known, {mains:g} V"),),
            **own,
        )
    return Check(
        key,
        ask=f"{unplugged} Wait until it stands still: the store behind the rectifier charges. Read it both ways, type the lower.",
        low=SHORTED,
        why="Under 1 kΩ the bridge, the store, the switch or an X part is shorted; the fuse would go.",
        of=(("supply", board.supply),),
        **own,
    )


def regulators(board: BoardFacts) -> list[Check]:
    """Pin to pin of each regulator that stayed; one that was changed has checks of its own."""
    changed = {one.ref for one in board.changed}
    return [
        Check(
            key_of("cold.reg", board.id, device.ref),
            "cold",
            "resistance",
            f"{device.ref}, pin to pin",
            "The lowest of the three pairs, once it stands still: stores charge first.",
            low=SHORT,
            board=board.name,
            why="Under 2 Ω is a short. One that is shorted from input to output puts its input on the rail.",
            fact=NO_SHORT,
            names=(key_of("cold.reg", board.name, device.ref),),
            rows=frozenset({board.id}),
            boards=frozenset({board.id}),
            safety=True,
            of=(("regulator", device.marked or device.ref),),
        )
        for device in board.devices
        if device.what == "regulator" and device.ref not in changed
    ]
