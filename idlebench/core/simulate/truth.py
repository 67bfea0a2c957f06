"""What the parts really are: lines that say how a part differs from the survey, and the numbers of many variants at once.

``C1 cap 400u esr 2.1`` · ``C14 esr 1.2@100k`` · ``C7 short`` · ``C2 leak 3m`` · ``D1 open`` · ``VR1 dead`` · ``F1 blown`` ·
``J2 joint 0.4 pressed 0.02`` · ``load +5V short`` · ``load +5V 2x`` · ``FB drift 3%`` · ``F1 ohms 2``

Source: how far a drift or a load may be typed: workshop practice, because beyond half its volts a supply has failed otherwise.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..refusal import BadInput, no_longer_than
from ..text.quantity import read
from ..text.rails_and_chips import rail_called

Floats = NDArray[np.float64]
#: What can befall a part by the letter its reference begins with.
WAYS: dict[str, tuple[str, ...]] = {
    "C": ("cap", "esr", "leak", "open", "short"),
    "D": ("open", "short"),
    "VR": ("dead", "short"),
    "F": ("blown", "ohms"),
    "J": ("joint", "pressed", "open"),
    "R": ("open",),
    "Q": ("open", "short"),
    "FB": ("open", "drift"),
    "AD": ("open", "weak"),
    "BT": ("open", "weak"),
    "X": ("short", "open"),
    "L": ("open",),
    "T": ("open", "joint"),
    "U": ("open", "short", "drift"),
}
#: What follows a word, and its unit.
_NUMBERS = {"cap": "F", "esr": "Ω", "leak": "A", "joint": "Ω", "pressed": "Ω", "ohms": "Ω"}
LOAD_SHORT, LOAD = "load short", "load"
#: What befalls a rail and not a part.
OF_RAIL = (LOAD_SHORT, LOAD)
#: How far a feedback drifts at most, a share; how much a load may be of what is typed.
MOST_DRIFT, MOST_LOAD = 0.5, 100.0


@dataclass(frozen=True)
class Fault:
    """What befell a part, or a rail's load: the field of it, and its value. at: Hz an ESR was given at, 0 where at 120."""

    ref: str
    what: str
    value: float = 1.0
    at: float = 0.0

    @property
    def words(self) -> str:
        return f"{self.ref} {self.what}"


def read_truth(text: str) -> tuple[Fault, ...]:
    """Read truth lines, one a line or apart by semicolons.

    Args:
        text: as it was typed.

    Returns:
        The faults, in the order they were typed.

    Raises:
        BadInput: naming the line, what is not understood in it, and what could befall such a part.

    >>> read_truth('C1 cap 400u esr 2.1')
    (Fault(ref='C1', what='cap', value=0.0004, at=0.0), Fault(ref='C1', what='esr', value=2.1, at=0.0))
    """
    no_longer_than(text, 20_000, "truth")
    found: list[Fault] = []
    for number, line in enumerate(re.split(r"[\n;·]", text), 1):
        words = line.split()
        if not words or line.strip().startswith("#"):
            continue
        try:
            found += _line(words)
        except BadInput as error:
            raise error.within(f"truth, line {number}") from None
    return tuple(found)


#: How a line begins whose part was changed since.
CURED = "# changed: "


def changed(text: str, words: str, back: bool = False, mend: bool = False) -> str:
    """Truth lines once parts were changed or mended: what was true of the old one is kept, and counts no more.

    Args:
        text: the truth lines.
        words: what was done, with the references it was done to.
        back: it was taken back, and the old part is in again.
        mend: only mended: a wire at its pad makes no capacitor new.

    Returns:
        The lines; those that count no more are kept behind “# changed”.

    >>> changed('C1 cap 400u; J2 joint 0.1', 'C1: GP in')
    '# changed: C1 cap 400u\\nJ2 joint 0.1'
    >>> changed(changed('C1 short', 'C1'), 'C1', back=True)
    'C1 short'
    """
    refs = set(re.findall(r"[A-Z]{1,4}\d{1,5}[A-Z]?", words.upper()))
    found = []
    for line in filter(str.strip, re.split(r"[\n;·]", text)):
        plain = line.strip().removeprefix(CURED)
        ref = plain.split()[0].upper()
        hit = ref in refs and not (mend and ref.startswith("C"))
        gone = line.strip().startswith(CURED) if not hit else not back
        found.append(f"{CURED}{plain}" if gone and not plain.startswith("#") else plain)
    return "\n".join(found)


def _line(words: list[str]) -> list[Fault]:
    if words[0].lower() == "load":
        rail = rail_called(words[1]) if len(words) == 3 else ""
        how = words[2].lower() if rail else ""
        if how == "short":
            return [Fault(rail, LOAD_SHORT)]
        if not how.endswith(("x", "×")):
            raise BadInput(
                " ".join(words),
                "load, a rail, and short or how many times its load, such as load +5V 2x",
                field="truth",
            )
        return [Fault(rail, LOAD, read(how[:-1], "", field="load", low=0.0, high=MOST_LOAD))]
    ref, rest = words[0].upper(), words[1:]
    kind = re.match(r"[A-Z]+", ref)
    ways = next(
        (ways for start, ways in sorted(WAYS.items(), key=lambda w: -len(w[0])) if kind and kind[0] == start), ()
    )
    if not ways or not rest:
        raise BadInput(" ".join(words), "a reference and its fault, such as C1 cap 400u esr 2.1", field="truth")
    found = []
    while rest:
        what = rest.pop(0).lower()
        if what == "drift" and what in ways:
            if not rest:
                raise BadInput(what, "per cent after “drift”, such as FB drift 3%", field="truth")
            percent = rest.pop(0).removesuffix("%")
            share = read(percent, "", field="drift", low=-100 * MOST_DRIFT, high=100 * MOST_DRIFT) / 100
            found.append(Fault(ref, what, share))
            continue
        if what not in ways:
            raise BadInput(what, f"a fault of {ref}: {', '.join(ways)}", field="truth")
        if what not in _NUMBERS:
            found.append(Fault(ref, what))
            continue
        if not rest:
            raise BadInput(what, f"a number after “{what}”", field="truth")
        text, _, at = rest.pop(0).partition("@")
        value = read(text, _NUMBERS[what], field=what, low=0.0, high=1e9)
        found.append(Fault(ref, what, value, read(at, "Hz", field="frequency", low=1, high=1e7) if at else 0.0))
    return found


class Values:
    """Numbers of many variants: by reference and field, one for each variant; what was not put is as it was made."""

    def __init__(self, count: int, alike: bool = False) -> None:
        self.count = count
        # whether they are draws of one supply that stray a little, each by itself
        self.alike = alike
        self._kept: dict[tuple[str, str], Floats] = {}

    def get(self, ref: str, field: str, otherwise: float | Floats) -> Floats:
        """The numbers of a field."""
        kept = self._kept.get((ref, field))
        if kept is not None:
            return kept
        # a full array is made in a fraction of the time that a broadcast view takes, and this is asked very often
        if isinstance(otherwise, np.ndarray) and otherwise.shape == (self.count,):
            return otherwise
        return np.full(self.count, otherwise, float)

    def put(self, ref: str, field: str, value: float | Floats, row: int | None = None, otherwise: float = 0.0) -> None:
        """Put a field, of one variant or of all. otherwise: what the other variants have where nothing was put before."""
        if row is None:
            self._kept[ref, field] = np.broadcast_to(np.asarray(value, float), (self.count,)).copy()
            return
        kept = self._kept.setdefault((ref, field), np.full(self.count, otherwise))
        kept[row] = value

    def has(self, ref: str, field: str) -> NDArray[np.bool_]:
        """Whether a field that is yes or no is yes."""
        kept = self._kept.get((ref, field))
        return np.zeros(self.count, bool) if kept is None else kept > 0

    def first(self, count: int) -> Values:
        """The first so many of them."""
        found = Values(min(count, self.count), self.alike)
        found._kept = {key: kept[:count] for key, kept in self._kept.items()}
        return found

    def columns(self) -> list[Floats]:
        """Everything that was put, a column each."""
        return list(self._kept.values())

    def refs(self) -> set[str]:
        """All references something was put for."""
        return {ref for ref, _ in self._kept}


def known_refs(faults: Iterable[Fault], refs: Mapping[str, object] | set[str], rails: Iterable[str]) -> None:
    """Refuse truth about what is not there.

    Args:
        faults: truth lines of what is wrong.
        refs: references.
        rails: the rails.

    Raises:
        BadInput: naming it.
    """
    names = set(rails)
    for fault in faults:
        there = names if fault.what in OF_RAIL else refs
        if fault.ref not in there:
            raise BadInput(
                fault.words, f"a part of this supply: {', '.join(sorted(there)[:40])}",
                "Write it in the supply lines, or list it in the survey.", field="truth",
            )  # fmt: skip
