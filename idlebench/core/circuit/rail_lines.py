"""A rail of a converter as it is typed: its volts and amps, its capacitors, and a coil with what stands behind it."""

from __future__ import annotations

from dataclasses import dataclass

from ..refusal import BadInput
from ..text.rails_and_chips import rail_name
from .line_words import REF, Words

#: Words for the capacitors of a line: behind a rectifier, and on a rail of a converter. "store" is how lines of before have both.
RESERVOIR, OUTPUTS = ("reservoir", "reservoirs", "store", "stores"), ("capacitor", "capacitors", "store", "stores")


@dataclass(frozen=True, kw_only=True)
class RailOut:
    """A rail of a converter: V, A, duty of the switch, the stores on it, the choke's ripple A p-p (buck, forward), and the
    reference of its rectifier, "" where none is named. coil: H of a coil behind the stores, 0 without one; after: the stores behind it.
    label: its own name, "" for none.
    """

    volts: float
    current: float
    stores: tuple[str, ...]
    duty: float = 0.45
    choke: float = 0.0
    rectifier: str = ""
    coil: float = 0.0
    after: tuple[str, ...] = ()
    label: str = ""

    @property
    def name(self) -> str:
        return rail_name(self.volts, self.label)


def read_rail_out(text: str) -> RailOut:
    """Read a converter's rail as typed.

    >>> read_rail_out('rail +5V 3.1A duty 0.47 capacitors C14,C15').stores
    ('C14', 'C15')
    >>> read_rail_out('rail +5V 3A capacitors C14 coil L2 10u then C16').after
    ('C16',)
    """
    words = Words(text)
    words.next("the line")
    (volts, label), current = words.rail("rail", -5000, 5000), words.number("rail", "A", 1e-6, 200)
    facts: dict[str, object] = {"stores": (), "label": label}
    while words.left:
        word = words.next("rail").lower()
        if word == "duty":
            facts["duty"] = words.number("duty", "", 0, 10)
        elif word == "choke":
            facts["choke"] = words.number("choke", "A", 1e-6, 100)
        elif word == "rectifier":
            facts["rectifier"] = words.refs("rectifier")[0]
        elif word == "coil":
            if words.left and REF.fullmatch(words.left[0].upper()):
                words.left.pop(0)
            facts["coil"] = words.number("coil", "H", 1e-9, 10)
        elif word in ("then", "after"):
            facts["after"] = words.refs(word)
        elif word in OUTPUTS:
            facts["stores"] = words.refs(word)
        else:
            raise BadInput(word, "duty, choke, rectifier, capacitors, or coil and then", field="rail")
    if not volts or not facts["stores"]:
        raise BadInput(text, "a rail with its capacitors, such as rail +5V 3.1A duty 0.47 capacitors C14", field="rail")
    if bool(facts.get("coil")) != bool(facts.get("after")):
        raise BadInput(
            text,
            "a coil with the capacitors behind it",
            "Such as rail +5V 3A capacitors C14 coil 10u then C16.",
            field="coil",
        )
    if twice := set(facts["stores"]) & set(facts.get("after", ())):
        raise BadInput(", ".join(sorted(twice)), "capacitors before the coil and others behind it", field="coil")
    if not 0 < facts.get("duty", 0.45) < 1:
        raise BadInput(f"{facts['duty']:g}", "a duty above 0 and below 1", "At 1 the switch never opens.", field="duty")
    return RailOut(volts=volts, current=current, **facts)  # type: ignore[arg-type]
