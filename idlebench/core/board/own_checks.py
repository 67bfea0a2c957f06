"""A check of one's own on any board, from one typed line.

``C7 + to U5 8 continuity``, ``J2 3 to J2 4 isolation``, ``R5 1 to R5 2 4k7 5%``, ``+5V to GND over 100``, ``look SK1 legs bright``.

Source: continuity as everywhere, isolation: workshop practice, because charred board conducts some megohms and clean board none that a
meter shows.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than
from ..text.quantity import read, show, show_range

#: At most for what is joined, Ω; at least between what must not meet, Ω; how far a value without limits may stray.
JOINED_MOST, ISOLATED_LEAST, STRAY = 2.0, 10e6, 0.1
#: Letters of one end, and of what is looked at.
LONGEST_END, LONGEST_LOOK = 40, 160
EXAMPLE = "C7 + to U5 8 continuity"
_UNIT = r"\s*(?:[kMm]?(?:Ω|ohms?)|[kMR])"
_VALUE = rf"\d+(?:[.,]\d+)?(?:{_UNIT})?|\d*[kMR]\d+"
#: A value by itself has its unit: a bare number is a pin.
_SURE = rf"\d+(?:[.,]\d+)?{_UNIT}|\d*[kMR]\d+"
_LIMIT = re.compile(
    r"(?:(?P<word>continuity|joined|connected|beeps|isolation|isolated|apart|open|no connection)|"
    rf"(?P<side>under|at most|below|over|at least|above) (?P<bound>{_VALUE})|(?P<low>{_VALUE}) ?(?:to|-|–) ?(?P<high>{_SURE})|"
    rf"(?P<value>{_SURE})(?: ?±? ?(?P<share>\d+(?:[.,]\d+)?) ?%)?)",
    re.I,
)
_REF = re.compile(r"[A-Z]{1,4}\d{1,5}[A-Z]?(?=[\s.\-+/]|$)", re.I)


@dataclass(frozen=True, kw_only=True)
class OwnCheck:
    """A check that a person added to a board. a, b: from where to where, or a alone for a look. low, high: Ω, None for none."""

    a: str
    b: str = ""
    low: float | None = None
    high: float | None = None
    note: str = ""

    @property
    def seen(self) -> bool:
        """Whether it is looked at, not read."""
        return not self.b

    @property
    def point(self) -> str:
        return self.a if self.seen else f"{self.a} to {self.b}"

    @property
    def limit(self) -> str:
        """What it should read, in words."""
        if self.seen:
            return "as it should be"
        if self.low is not None and self.high is not None:
            return show_range(self.low, self.high, "Ω")
        return f"at most {show(self.high, 'Ω')}" if self.high is not None else f"at least {show(self.low, 'Ω')}"

    def as_line(self) -> str:
        """The check as it is typed."""
        note = f" note {self.note}" if self.note else ""
        if self.seen:
            return f"look {self.a}{note}"
        if (self.low, self.high) == (None, JOINED_MOST):
            told = "continuity"
        elif (self.low, self.high) == (ISOLATED_LEAST, None):
            told = "isolation"
        elif self.low is not None and self.high is not None:
            told = f"{self.low:.12g}ohm to {self.high:.12g}ohm"
        else:
            told = f"under {self.high:.12g}ohm" if self.high is not None else f"over {self.low:.12g}ohm"
        return f"{self.a} to {self.b} {told}{note}"

    @property
    def refs(self) -> tuple[str, ...]:
        """References that its ends begin with."""
        return tuple(hit[0].upper() for end in (self.a, self.b) if (hit := _REF.match(end)))


def read_own_check(text: str) -> OwnCheck:
    """Read a check of one's own.

    Args:
        text: as it was typed; the word check may stand before it.

    Returns:
        The check.

    Raises:
        BadInput: no two ends, or nothing that it should read.

    >>> read_own_check('J2 3 to J2 4 isolation').limit, read_own_check('R5 1 to R5 2 4k7 5%').limit
    ('at least 10 MΩ', '4.46–4.94 kΩ')
    """
    line = " ".join(no_longer_than(text, 300, "check").split()).removeprefix("check ")
    line, _, note = line.partition(" note ")
    if line.lower().startswith("look "):
        what = line[5:].strip()
        if not 3 <= len(what) <= LONGEST_LOOK:
            raise BadInput(
                text,
                f"what is looked at, in 3 to {LONGEST_LOOK} letters",
                "Such as look SK1 legs bright.",
                field="check",
            )
        return OwnCheck(a=what, note=note[:200])
    # the limit stands last: the longest that is one
    words = line.split(" ")
    for at in range(1, len(words)):
        hit = _LIMIT.fullmatch(" ".join(words[at:]))
        ends = " ".join(words[:at])
        if hit is None or " to " not in ends:
            continue
        a, _, b = ends.partition(" to ")
        if not (0 < len(a) <= LONGEST_END and 0 < len(b) <= LONGEST_END):
            break
        if a.lower() == b.lower():
            raise BadInput(text, "two different ends", field="check")
        low, high = _limits(hit)
        return OwnCheck(a=_end(a), b=_end(b), low=low, high=high, note=note[:200])
    raise BadInput(
        text,
        "from, to, and what it should read",
        f"Such as {EXAMPLE}, J2 3 to J2 4 isolation, +5V to GND over 100, or look SK1 legs bright.",
        field="check",
    )


def _end(text: str) -> str:
    hit = _REF.match(text)
    return hit[0].upper() + text[len(hit[0]) :] if hit else text


def _limits(hit: re.Match[str]) -> tuple[float | None, float | None]:
    if word := hit["word"]:
        joined = word.lower() in ("continuity", "joined", "connected", "beeps")
        return (None, JOINED_MOST) if joined else (ISOLATED_LEAST, None)
    if hit["side"]:
        bound = _ohms(hit["bound"])
        return (None, bound) if hit["side"].lower() in ("under", "at most", "below") else (bound, None)
    if hit["low"]:
        low, high = _ohms(hit["low"]), _ohms(hit["high"])
        if low >= high:
            raise BadInput(hit[0], "the smaller limit first", field="check")
        return low, high
    value, share = _ohms(hit["value"]), float((hit["share"] or f"{STRAY * 100:g}").replace(",", ".")) / 100
    if not 0 < share < 1:
        raise BadInput(hit[0], "a tolerance under 100 %", field="check")
    return value * (1 - share), value * (1 + share)


def _ohms(text: str) -> float:
    return read(re.sub(r"(?i)\s*ohms?$", "Ω", text), "Ω", field="check", above=0, high=1e9)


def check_ends(check: OwnCheck, listed: Iterable[str], board: str) -> None:
    """Refuse a check that names a part which the board does not list.

    Args:
        check: the check.
        listed: references that the board lists; () for a board without any, which takes every name.
        board: its name.

    Raises:
        BadInput: it names the part.
    """
    known = set(listed)
    if known and (missing := next((ref for ref in check.refs if ref not in known), "")):
        raise BadInput(
            missing, f"a part that is listed on {board}", "List it first, or name the point in words.", field="check"
        )
