"""What a component tester wrote, pasted as text: a line a part, its reference first: ``C5: 97.3 uF, ESR 0.32, Vloss 1.2 %``.

Source: workshop practice, because every tester words its lines its own way; what no rule knows is shown and not kept.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..board.device_readings import read_measured
from ..board.tables import REF
from ..refusal import BadInput, no_longer_than

#: Lines of one paste.
MOST_LINES = 120


@dataclass(frozen=True)
class TesterLine:
    """A line of a tester: the reference, what it read in the words that Measure knows, and what no rule knew."""

    ref: str
    reading: str
    unused: str


#: A unit that stands apart from its number, and what stands between a name and its value.
_APART = re.compile(r"(?i)(?<=\d)\s+(?=(?:[pnuµm]?f|[kmg]?(?:ω|Ω|ohms?)|m?v|[nuµm]?h|[km]?hz|%)(?:\b|$)(?!\s*[=:]))")
_WORDS = {"esr": "esr", "c": "cap", "cap": "cap", "capacitance": "cap"}


def read_tester_line(text: str, kind: str) -> TesterLine:
    """Read a line of a tester.

    Args:
        text: as it was pasted.
        kind: what the part is, a key of devices.TITLES, or "capacitor".

    Returns:
        What it read, as it is typed at Measure, and what was not used.

    Raises:
        BadInput: no reference, or nothing that can be read of such a part.

    >>> read_tester_line('C5: 97.3 uF, ESR = 0.32 Ohm, Vloss 1.2 %', 'capacitor')
    TesterLine(ref='C5', reading='97.3uF 0.32', unused='Vloss 1.2%')
    >>> read_tester_line('Q1 NPN hFE=230 Uf=680mV', 'transistor').reading
    'hfe 230, drop 0.68'
    """
    line = _APART.sub("", no_longer_than(text, 400, "line")).replace("=", " ").replace(":", " ")
    words = [word.strip(",;") for word in line.split() if word.strip(",;")]
    if not words or not REF.fullmatch(words[0].upper()):
        raise BadInput(text.strip(), "a reference first, then what the tester read: R5 2.19k", field="line")
    ref, words = words[0].upper(), words[1:]
    return _of_capacitor(ref, words, text) if kind == "capacitor" else _of_device(ref, words, kind, text)


def _of_capacitor(ref: str, words: list[str], text: str) -> TesterLine:
    value = esr = ""
    unused = []
    while words:
        word = words.pop(0)
        name = _WORDS.get(word.lower(), "")
        if name == "esr" and words:
            esr = re.sub(r"(?i)(ohms?|ω|Ω)$", "", words.pop(0))
        elif name == "cap" and words:
            value = words.pop(0)
        elif re.fullmatch(r"(?i)\d+(?:[.,]\d+)?[pnuµm]f?", word):
            value = word
        elif word.upper() in ("OL", "OPEN"):
            esr = "OL"
        else:
            unused += [word, *_value_of(words)]
    if not value and not esr:
        raise BadInput(text.strip(), f"capacitance or ESR of {ref}, such as 97.3uF ESR 0.32", field="line")
    return TesterLine(ref, " ".join(filter(None, [value, esr])), " ".join(unused))


def _value_of(words: list[str]) -> list[str]:
    """The number after a word that is not known, taken off with it."""
    return [words.pop(0)] if words and re.match(r"[\d.]", words[0]) else []


def _of_device(ref: str, words: list[str], kind: str, text: str) -> TesterLine:
    found: list[str] = []
    unused: list[str] = []
    while words:
        told = read_measured(" ".join(words), kind)
        found += [one.as_typed for one in told.readings]
        words = list(told.rest)
        if words:
            word = words.pop(0)
            unused += [
                word,
                *(_value_of(words) if not re.search(r"\d", word) and word.isalpha() and len(word) > 3 else []),
            ]
    if not found:
        raise BadInput(text.strip(), f"what was read of {ref}, such as 2.19k, Uf=0.58 or hFE=230", field="line")
    return TesterLine(ref, ", ".join(found), " ".join(unused))
