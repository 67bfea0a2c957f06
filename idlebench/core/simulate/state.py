"""What a simulated bench is set to: words between semicolons, in any order.

``mains 230V 50Hz; lamp 60W; load dummy; load +5V none; step +5V on; pressed J2; plugged MB-80``
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..refusal import BadInput, no_longer_than
from ..text.quantity import read
from ..text.rails_and_chips import rail_called

LOADS = ("rated", "dummy", "board", "none")
#: The loads of all rails step, one at a time.
ALL = "all"


@dataclass(frozen=True, kw_only=True)
class State:
    """The bench as it is set.

    volts: V rms of the mains, 0 when off. frequency: Hz. lamp: W of the lamp in series, 0 for none. variable: share of the
    mains a variable transformer passes on. limit: A that the source gives at most, 0 for no limit. load: of all rails, one of
    LOADS; loads: of rails by name. step: the rail whose load steps, ALL for each, "" for none.
    pressed: references of joints that are pressed.
    plugged: boards.
    """

    volts: float = 0.0
    frequency: float = 50.0
    lamp: float = 0.0
    variable: float = 1.0
    limit: float = 0.0
    load: str = "rated"
    loads: Mapping[str, str] = field(default_factory=dict)
    step: str = ""
    pressed: tuple[str, ...] = ()
    plugged: tuple[str, ...] = ()

    @property
    def on(self) -> bool:
        return self.volts > 0

    def steps(self, rail: str) -> bool:
        """Whether a rail's load steps."""
        return self.step in (rail, ALL)

    def load_of(self, rail: str) -> str:
        """How a rail is loaded."""
        return self.loads.get(rail, "board" if self.plugged and self.load == "rated" else self.load)


def read_state(text: str) -> State:
    """Read a state as typed; nothing typed is off.

    Args:
        text: as it was typed.

    Returns:
        Mains, loads, lamp and what is unplugged.

    Raises:
        BadInput: naming the words that are not understood.

    >>> s = read_state('mains 230V 50Hz; lamp 60W; load dummy; load +5V none')
    >>> s.volts, s.lamp, s.load_of('+5 V'), s.load_of('+12 V')
    (230.0, 60.0, 'none', 'dummy')
    """
    no_longer_than(text, 2000, "state")
    facts: dict[str, object] = {}
    loads: dict[str, str] = {}
    pressed: list[str] = []
    plugged: list[str] = []
    for piece in re.split(r"[;\n]", text):
        words = re.sub(r"(?<=\d)\s+(?=(?:V|Hz|W|A|%)\b)", "", piece.strip()).split()
        if not words:
            continue
        head, rest = words[0].lower(), words[1:]
        if head == "off" and not rest:
            facts["volts"] = 0.0
        elif head == "mains" and rest:
            facts["volts"] = read(rest[0], "V", field="mains", low=1, high=500)
            if len(rest) > 1:
                facts["frequency"] = read(rest[1], "Hz", field="frequency", low=16, high=400)
        elif head == "lamp" and len(rest) == 1:
            facts["lamp"] = read(rest[0], "W", field="lamp", above=0, high=2000)
        elif head == "variable" and len(rest) == 1:
            facts["variable"] = read(rest[0].rstrip("%"), "", field="variable", low=0, high=130) / 100
        elif head == "limit" and len(rest) == 1:
            facts["limit"] = read(rest[0], "A", field="limit", above=0, high=100)
        elif head == "load" and rest and rest[-1].lower() in LOADS and len(rest) <= 2:
            if len(rest) == 1:
                facts["load"] = rest[0].lower()
            else:
                loads[_rail(rest[0])] = rest[1].lower()
        elif head == "step" and len(rest) == 2 and rest[1].lower() in ("on", "off"):
            facts["step"] = "" if rest[1].lower() == "off" else ALL if rest[0].lower() == ALL else _rail(rest[0])
        elif head == "pressed" and len(rest) == 1:
            pressed.append(rest[0].upper())
        elif head == "plugged" and rest:
            plugged.append(" ".join(rest))
        else:
            raise BadInput(
                piece.strip(), "off, mains, lamp, variable, limit, load, step, pressed or plugged",
                "Such as mains 230V 50Hz; lamp 60W; load dummy.", field="state",
            )  # fmt: skip
    return State(**facts, loads=loads, pressed=tuple(pressed), plugged=tuple(plugged))  # type: ignore[arg-type]


def _rail(text: str) -> str:
    named = re.fullmatch(r"[+\-−]?\d+(?:[.,]\d+)?\s*V?(:[a-z][a-z0-9_-]*)?", text, re.I)
    if not named or not (rail := rail_called(text)):
        raise BadInput(text, "a rail, such as +5V", field="state")
    return rail
