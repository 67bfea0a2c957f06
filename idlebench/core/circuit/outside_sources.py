"""What feeds a supply from outside the board: an adapter, cells, a bench supply or the rail of another supply.

``adapter 9V DC 1A``, ``adapter 9V DC 1A regulated``, ``adapter 9V AC 1A bridge``, ``cells 6V 0.5A``, ``bench 9V 1A``,
``from +10V``, ``from +10V:main 2A``: each stands first in a line of a supply.

Source: circuit.transformer for what an adapter gives without load; the ohms of a regulated source, of cells and of wiring:
workshop practice, because labels do not give them.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..refusal import BadInput
from ..text.quantity import read, show
from ..text.rails_and_chips import rail_name
from . import transformer
from .line_words import REF, Words

#: Words that begin a line whose source is outside the board.
OUTSIDE = {
    "adapter": "adapter",
    "cells": "cells",
    "cell": "cells",
    "battery": "cells",
    "bench": "bench",
    "from": "rail",
}
#: What a source drops at its labelled amps, as a share of its volts, by its kind; Ω of the wire to another supply's rail.
DROPS, WIRE_OHMS = {"regulated": 0.02, "bench": 0.01, "cells": 0.10}, 0.02
#: What a source of electronics gives into a short, times its label.
SHORTED = 1.5
#: Labels that adapters have, V, and what a linear regulator needs above its output whatever the mains do, V.
LABELS, HEADROOM = (5.0, 6.0, 7.5, 9.0, 12.0, 15.0, 18.0, 24.0, 30.0, 48.0), 3.0
#: A of a source whose label does not say it.
UNKNOWN_AMPS = 0.5


@dataclass(frozen=True, kw_only=True)
class OutsideSource:
    """A source outside the board.

    kind: "ac", "regulated" or "unregulated" of an adapter; "cells", "bench", or "rail" of another supply. volts, current: as labelled,
    V and A; current is 0 where no label says it. ref: of the adapter or the cells, "" for none. rail: the name of the rail that feeds
    it. counts: whether what is drawn of it is what the meter in front of the whole supply reads; the rail's own supply counts it
    otherwise.
    """

    kind: str
    volts: float
    current: float = 0.0
    ref: str = ""
    rail: str = ""
    counts: bool = True

    @property
    def amps(self) -> float:
        """A by its label, or a usual size."""
        return self.current or UNKNOWN_AMPS

    @property
    def strays(self) -> bool:
        """Whether its volts follow the mains."""
        return self.kind in ("ac", "unregulated")

    @property
    def open_volts(self) -> float:
        """V without load."""
        if self.kind == "unregulated":
            return float(transformer.adapter(abs(self.volts), self.amps, "unregulated").values["expected_unloaded"])
        return abs(self.volts)

    @property
    def ohms(self) -> float:
        """Ω between its volts without load and its plug."""
        if self.kind == "rail":
            return WIRE_OHMS
        if self.kind == "unregulated":
            return max((self.open_volts - abs(self.volts)) / self.amps, WIRE_OHMS)
        return max(DROPS.get(self.kind, 0.0) * abs(self.volts) / self.amps, WIRE_OHMS)

    @property
    def most(self) -> float:
        """A that it gives into a short; inf where only its ohms say."""
        return SHORTED * self.amps if self.kind in ("regulated", "bench") else float("inf")

    @property
    def title(self) -> str:
        """The source in a few words."""
        if self.kind == "rail":
            return self.rail
        name = {"cells": "cells", "bench": "bench supply"}.get(self.kind, "adapter")
        return f"{show(self.volts, 'V')} {'AC ' if self.kind == 'ac' else ''}{name}"


def label_for(regulated: float) -> float:
    """The label of an adapter that feeds a linear regulator, V: the first size with its headroom.

    >>> label_for(5.0), label_for(12.0), label_for(60.0)
    (9.0, 15.0, 63.0)
    """
    return next((volts for volts in LABELS if volts >= regulated + HEADROOM), regulated + HEADROOM)


def read_outside(word: str, words: Words) -> tuple[OutsideSource, str]:
    """Read a source that begins a line, after its word.

    Args:
        word: a key of OUTSIDE.
        words: what follows; what belongs to the source is taken from them.

    Returns:
        The source, and the topology of what follows it: "direct", or the rectifier behind an AC adapter.

    Raises:
        BadInput: volts that are missing, or amps that are not amps.

    >>> source, topology = read_outside('adapter', Words('9V DC 1A regulated'))
    >>> source.kind, source.volts, source.ohms, topology
    ('regulated', 9.0, 0.18, 'direct')
    """
    kind = OUTSIDE[word]
    if kind == "rail":
        volts, label = words.rail("from", -1000, 1000)
        if not volts:
            raise BadInput("0 V", "the rail that feeds the line, such as from +10V", field="from")
        current = _amps(words)
        return OutsideSource(kind="rail", volts=volts, current=current, rail=rail_name(volts, label)), "direct"
    ref = words.left.pop(0).upper() if words.left and REF.fullmatch(words.left[0].upper()) else ""
    glued = re.fullmatch(r"(.*?V)(AC|DC|~)", words.left[0], re.I) if words.left else None
    if glued:
        words.left[:1] = [glued[1], "ac" if glued[2] == "~" else glued[2]]
    volts = words.number(word, "V", 0.5, 400)
    output = "regulated" if kind == "bench" else "unregulated"
    current, topology = 0.0, ""
    while words.left:
        low = words.left[0].lower()
        if low in ("ac", "dc", "regulated", "unregulated"):
            output = {"dc": output}.get(low, low)
        elif low in ("bridge", "half") and output == "ac":
            topology = low
        elif not current and (found := _amps(words)):
            current = found
            continue
        else:
            break
        words.left.pop(0)
    if kind != "adapter":
        if output == "ac":
            raise BadInput("AC", f"DC from {'cells' if kind == 'cells' else 'a bench supply'}", field=word)
        return OutsideSource(kind=kind, volts=volts, current=current, ref=ref), "direct"
    if output == "ac":
        return OutsideSource(kind="ac", volts=volts, current=current, ref=ref), topology or "bridge"
    return OutsideSource(kind=output, volts=volts, current=current, ref=ref), "direct"


def _amps(words: Words) -> float:
    """Amps that stand next; 0 where something else does."""
    if not words.left or not re.fullmatch(r"\d+(?:[.,]\d+)?m?A", words.left[0], re.I):
        return 0.0
    return read(words.left.pop(0), "A", field="amps", above=0, high=200)
