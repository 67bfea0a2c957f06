"""Packages of fixed three-terminal regulators: the order of the pins, what the tab is joined to, and the way of the heat.

Source: JEDEC outlines TO-220AB (TO-220), TO-226AA (TO-92), TO-204AA (TO-3), TO-252AA (DPAK) and TO-243AA (SOT-89); the order of the
pins is the one that makers of the 78xx and 79xx type families share, so the data sheet of the part in hand counts before it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Package:
    """A package of a fixed regulator.

    Attributes:
        title: its name. to_air: K/W from junction to air without a heatsink. sink: whether a heatsink can be fitted.
        positive, negative: of the 78xx and 79xx type families, three pins in order and what the tab or case is joined to, "" for none.
        front: how the part is held for that order.
    """

    title: str
    to_air: float
    sink: bool
    positive: tuple[str, str, str, str]
    negative: tuple[str, str, str, str]
    front: str

    def pins(self, negative: bool) -> tuple[str, str, str, str]:
        """Three pins in order, then the tab."""
        return self.negative if negative else self.positive


_POSITIVE, _NEGATIVE = ("input", "ground", "output", "ground"), ("ground", "input", "output", "input")
PACKAGES = {
    "to220": Package(
        title="TO-220", to_air=65.0, sink=True, positive=_POSITIVE, negative=_NEGATIVE, front="marking to the front"
    ),
    "to92": Package(
        title="TO-92",
        to_air=180.0,
        sink=False,
        positive=("output", "ground", "input", ""),
        negative=("ground", "input", "output", ""),
        front="flat side to the front",
    ),
    "to3": Package(
        title="TO-3",
        to_air=35.0,
        sink=True,
        positive=("input", "output", "case", "ground"),
        negative=("ground", "output", "case", "input"),
        front="pins towards you, case behind",
    ),
    "dpak": Package(
        title="DPAK", to_air=90.0, sink=False, positive=_POSITIVE, negative=_NEGATIVE, front="marking to the front"
    ),
    "sot89": Package(
        title="SOT-89",
        to_air=130.0,
        sink=False,
        positive=("output", "ground", "input", "ground"),
        negative=_NEGATIVE,
        front="marking to the front, three pins down",
    ),
}
#: What people write for a package, without its hyphen.
WORDS = {**{name: name for name in PACKAGES}, "to252": "dpak", "to243": "sot89", "to226": "to92"}
#: Current up to which an old entry without a package may be a TO-92, A.
SMALL = 0.15
_FAMILY = re.compile(r"7[89]([LMS]?)\d\d", re.I)


def package_word(word: str) -> str:
    """The package that a typed word names, "" for none.

    >>> package_word('TO-92'), package_word('to252'), package_word('blue')
    ('to92', 'dpak', '')
    """
    return WORDS.get(word.lower().replace("-", "").strip(",;()"), "")


def package_of(family: str, note: str = "") -> str:
    """The package of a fixed regulator: as its note says, else the usual one of its type; "" where its type is not known.

    >>> package_of('78L05'), package_of('7812'), package_of('78L05', 'in SOT-89')
    ('to92', 'to220', 'sot89')
    """
    said = next((name for name in map(package_word, note.split()) if name), "")
    kind = _FAMILY.fullmatch(family)
    return said or ("" if kind is None else "to92" if kind[1].upper() == "L" else "to220")
