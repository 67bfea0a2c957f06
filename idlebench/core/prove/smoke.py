"""A smoke test: a machine of low volts on its source with a limit for a moment, between two swaps.

Source: 1.3 times what the model gives: workshop practice, because boards of one kind draw by as much more when they are cold.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..refusal import BadInput
from ..text.quantity import read, show

if TYPE_CHECKING:
    from ..simulate.expected import Band

#: How far over the model's amps a machine still counts as expected.
MORE = 1.3
#: What is seen and heard, by the key that says it.
SEEN = {"quiet": "nothing seen, heard or smelt that is not right", "wrong": "something was not right"}


@dataclass(frozen=True, kw_only=True)
class SmokeTest:
    """What came of it: amps as read, None where nobody read them; whether they are as expected; what was seen and heard."""

    amps: float | None
    expected: bool
    seen: str
    words: str

    @property
    def good(self) -> bool:
        return self.seen == "quiet" and self.expected


def read_smoke(
    amps: str, seen: str, limit: float, band: Band | None, symptom: str = "", swapped: str = ""
) -> SmokeTest:
    """A smoke test as it was typed.

    Args:
        amps: as typed, "" where nobody read them.
        seen: a key of SEEN.
        limit: A at which the source was set to hold.
        band: A that the machine's own model gives; None without one.
        symptom: what it should cure, in words.
        swapped: the place that was swapped last.

    Returns:
        What came of it, in words.

    Raises:
        BadInput: amps that are none, or neither word of what was seen.

    >>> from idlebench.core.simulate.expected import Band
    >>> read_smoke('0.21', 'quiet', 0.5, Band(0.18, 0.25, 0.21), 'no picture', 'C3').words
    'smoke test after C3, for “no picture”: 210 mA, 180 mA to 250 mA expected; nothing seen, heard or smelt that is not right'
    """
    if seen not in SEEN:
        raise BadInput(seen, f"one of {', '.join(SEEN)}", field="seen")
    value = read(amps, "A", field="amps", low=0, high=100) if amps.strip() else None
    most = max(limit, 1e-9) if band is None else MORE * band.high
    inside = value is None or (value <= most and value < limit)
    about = "".join((f" after {swapped}" if swapped else "", f", for “{symptom}”" if symptom else ""))
    told = "amps not read" if value is None else show(value, "A")
    if value is not None and band is not None:
        told += f", {show(band.low, 'A', 2)} to {show(band.high, 'A', 2)} expected"
    elif value is not None:
        told += f", at most {show(limit, 'A', 2)}"
    told += "" if inside else ": more than expected"
    return SmokeTest(amps=value, expected=inside, seen=seen, words=f"smoke test{about}: {told}; {SEEN[seen]}")
