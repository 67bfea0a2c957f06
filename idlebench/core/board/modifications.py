"""A modification of a board from one typed line: what is added, lifted, moved or removed, its size, and how it is put back.

``mod added video amplifier at 40,30 parts Q1 npn, R1 75ohm height 12 wire 0.25 level 1.05V of 1V ripple 4mV tried 68ohm, 82ohm back
unsolder three wires at J3``

Source: one volt peak to peak into 75 Ω within a tenth: SMPTE ST 170:2004, 8; ripple under a hundredth of the picture: workshop
practice, because a bar of more is seen; a junction under 125 °C: as in circuit.regulator.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..circuit.packages import PACKAGES, package_word
from ..refusal import BadInput, nearly, no_longer_than
from ..text.quantity import read, show
from .zones import KINDS, Zone

#: What is done: the word it is typed by.
ACTS = ("added", "lifted", "moved", "removed", "changed")
EXAMPLE = "mod added video amplifier parts Q1 npn, R1 75ohm height 12 wire 0.25 back unsolder three wires at J3"
#: Words that open a part of the line.
WORDS = ("parts", "at", "height", "wire", "tried", "heat", "level", "ripple", "back")
#: How far an output level may be off, a share; how much ripple beside a picture may be of it; °C of a junction, and of the air round it.
LEVEL_STRAYS, RIPPLE_MOST, JUNCTION, AMBIENT = 0.10, 0.01, 125.0, 45.0
#: Height that stays free under a lid, mm.
CLEAR = 1.0


@dataclass(frozen=True, kw_only=True)
class Modification:
    """A modification.

    Attributes:
        act: one of ACTS. what: it is, in words. parts: what it is made of, in words. x, y: mm on the board. height: mm. wire: mm, diameter
            of its wire. tried: values that were tried before. heat: W in package, a key of PACKAGES, "" where it is not known. level: V as
            read and V as wanted. ripple: V p-p beside it. back: how it is put back.
    """

    act: str
    what: str
    parts: str = ""
    x: float | None = None
    y: float | None = None
    height: float | None = None
    wire: float | None = None
    tried: str = ""
    heat: float | None = None
    package: str = ""
    level: tuple[float, float] | None = None
    ripple: float | None = None
    back: str = ""

    @property
    def title(self) -> str:
        """The modification in a few words."""
        return f"{self.act} {self.what}"

    def as_line(self) -> str:
        """The modification as it is typed."""
        bits = ["mod", self.act, self.what]
        if self.x is not None and self.y is not None:
            bits.append(f"at {self.x:g},{self.y:g}")
        bits += [f"parts {self.parts}"] if self.parts else []
        bits += [f"height {self.height:g}"] if self.height else []
        bits += [f"wire {self.wire:g}"] if self.wire else []
        bits += [f"heat {self.heat:g}W {self.package}".strip()] if self.heat else []
        bits += [f"level {self.level[0]:g}V of {self.level[1]:g}V"] if self.level else []
        bits += [f"ripple {self.ripple * 1000:g}mV"] if self.ripple is not None else []
        bits += [f"tried {self.tried}"] if self.tried else []
        return " ".join([*bits, f"back {self.back}"] if self.back else bits)


def is_modification(text: str) -> bool:
    """Whether a typed line speaks of a modification.

    >>> is_modification('mod added a socket'), is_modification('pad C7 + to D2 1')
    (True, False)
    """
    words = text.lower().split()
    return bool(words) and words[0] in ("mod", "modification")


def read_modification(text: str) -> Modification:
    """Read a modification as typed.

    Args:
        text: as it was typed.

    Returns:
        The modification.

    Raises:
        BadInput: no act, nothing said, a number that cannot be, or nothing of how it is put back.

    >>> found = read_modification('mod added reset button height 6 wire 0.25 back unsolder its two wires')
    >>> found.title, found.height, found.back
    ('added reset button', 6.0, 'unsolder its two wires')
    """
    no_longer_than(text, 300, "modification")
    words = text.replace("−", "-").split()[1:]
    act = words.pop(0).lower() if words else ""
    if act not in ACTS:
        raise BadInput(
            act or text, f"one of {', '.join(ACTS)} after mod", EXAMPLE, field="mend", instead=nearly(act, ACTS)
        )
    parts: dict[str, list[str]] = {"": []}
    here = ""
    for word in words:
        low = word.lower().rstrip(":")
        # what follows “back” are words to the end of the line
        if low in WORDS and low not in parts and here != "back":
            here = low
            parts[here] = []
        else:
            parts[here].append(word)
    told = {name: " ".join(some).strip(" ,;") for name, some in parts.items()}
    if len(told[""]) < 2:
        raise BadInput(text, f"what is {act}, in a few words", f"Such as {EXAMPLE}.", field="mend")
    if len(told.get("back", "")) < 4:
        raise BadInput(
            told.get("back", ""), "how it is put back, after the word back", f"Such as {EXAMPLE}.", field="mend"
        )
    facts: dict[str, object] = {"act": act, "what": told[""], "back": told["back"]}
    facts |= {name: told[name] for name in ("parts", "tried") if told.get(name)}
    for name, high in (("height", 200.0), ("wire", 5.0)):
        if name in told:
            facts[name] = read(told[name].removesuffix("mm").strip(), "mm", field=name, above=0, high=high)
    if "at" in told:
        x, _, y = told["at"].replace(" ", "").partition(",")
        facts["x"], facts["y"] = (
            read(x, "mm", field="at", low=0, high=2000),
            read(y, "mm", field="at", low=0, high=2000),
        )
    if "heat" in told:
        first, _, rest = told["heat"].partition(" ")
        facts["heat"] = read(first, "W", field="heat", above=0, high=500)
        facts["package"] = _package(rest)
    if "level" in told:
        hit = re.fullmatch(r"(\S+)\s+(?:of|for|wanted)\s+(\S+)", told["level"])
        if hit is None:
            raise BadInput(told["level"], "the level as read and as wanted, such as level 1.05V of 1V", field="level")
        facts["level"] = tuple(read(one, "V", field="level", above=0, high=1000) for one in hit.groups())
    if "ripple" in told:
        facts["ripple"] = read(told["ripple"], "V", field="ripple", low=0, high=100)
    return Modification(**facts)  # type: ignore[arg-type]


def _package(text: str) -> str:
    if not text:
        return ""
    if found := package_word(text):
        return found
    raise BadInput(text, f"a package: {', '.join(p.title for p in PACKAGES.values())}", field="heat")


def troubles(found: Modification, zones: Iterable[Zone], ambient: float = AMBIENT) -> tuple[str, ...]:
    """What of a modification is too much, by the numbers that are known.

    Args:
        found: the modification.
        zones: of its board: a lid or a drive above it.
        ambient: °C round it.

    Returns:
        A sentence for each; none where all is as it should be, or nothing is known.

    >>> from .zones import read_zone
    >>> troubles(read_modification('mod added amplifier at 40,30 height 20 back unsolder it'), [read_zone('lid 18 at 50,50 200x200')])
    ('It is 20 mm high, and 18 mm are free under the lid above: 3 mm too high with 1 mm to spare.',)
    """
    said = []
    rooms = [zone for zone in zones if zone.room and (found.x is None or zone.holds(found.x, found.y))]
    if found.height and rooms:
        least = min(rooms, key=lambda zone: zone.room or 0.0)
        free = least.room or 0.0
        if found.height + CLEAR > free:
            over = f"{found.height + CLEAR - free:g} mm too high with {CLEAR:g} mm to spare"
            said.append(
                f"It is {found.height:g} mm high, and {free:g} mm are free under the {least.label or KINDS[least.kind]}: {over}."
            )
    if found.level and abs(found.level[0] / found.level[1] - 1) > LEVEL_STRAYS:
        off = (found.level[0] / found.level[1] - 1) * 100
        said.append(
            f"Its level is {show(found.level[0], 'V')} where {show(found.level[1], 'V')} are wanted, {abs(off):.0f} % too "
            f"{'high' if off > 0 else 'low'}: read it again with its load in, then change the series or gain resistor."
        )
    if found.ripple is not None and found.level and found.ripple > RIPPLE_MOST * found.level[1]:
        said.append(
            f"{show(found.ripple, 'V')} of ripple beside a picture of {show(found.level[1], 'V')} shows as bars: decouple its supply, "
            f"{show(RIPPLE_MOST * found.level[1], 'V')} or less."
        )
    if found.heat and found.package:
        junction = ambient + found.heat * PACKAGES[found.package].to_air
        if junction > JUNCTION:
            bare = f"{show(found.heat, 'W')} in a {PACKAGES[found.package].title} without a heatsink"
            said.append(f"{bare} is {junction:.0f} °C: a heatsink, or less current.")
    return tuple(said)
