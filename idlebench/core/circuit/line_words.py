"""The words of a typed line, taken one by one."""

from __future__ import annotations

import re
from collections.abc import Collection

from ..refusal import BadInput
from ..text.quantity import read

REF = re.compile(r"[A-Z]{1,4}\d{1,5}[A-Z]?")


class Words:
    """The words of a line, taken one after the other."""

    def __init__(self, text: str) -> None:
        joined = re.sub(r"(?<=[\d.])\s+(?=(?:V|A|VA|W|Hz|kHz|k|ohm|Ω|mA)\b)", "", text.strip().replace("−", "-"))
        self.text, self.left = text, joined.split()

    def next(self, after: str) -> str:
        if not self.left:
            raise BadInput(self.text, f"something after “{after}”", field="supply")
        return self.left.pop(0)

    def number(self, after: str, unit: str, low: float, high: float) -> float:
        word = self.next(after)
        return read(word, unit, field=after, low=low, high=high)

    def rail(self, after: str, low: float, high: float) -> tuple[float, str]:
        """The next word as a rail's volts, and its own name behind a colon, "" for none: ``+5V:standby``."""
        word, _, label = self.next(after).partition(":")
        if label and not re.fullmatch(r"[A-Za-z][A-Za-z0-9_-]{0,19}", label):
            raise BadInput(f"{word}:{label}", "a rail's name in one word of letters, such as +5V:standby", field=after)
        return read(word, "V", field=after, low=low, high=high), label.lower()

    def until(self, words: Collection[str]) -> str:
        """All words up to one of these."""
        found = []
        while self.left and self.left[0].lower() not in words:
            found.append(self.left.pop(0))
        return " ".join(found)

    def refs(self, after: str) -> tuple[str, ...]:
        found = tuple(self.next(after).upper().split(","))
        if not all(REF.fullmatch(ref) for ref in found):
            raise BadInput(",".join(found), "references such as C1 or C14,C15", field=after)
        return found

    def groups(self, after: str) -> tuple[tuple[str, ...], ...]:
        """Stores in parallel apart by commas, those in series joined by +: ``C8+C9``."""
        text = self.next(after).upper()
        found = tuple(tuple(group.split("+")) for group in text.split(","))
        refs = [ref for group in found for ref in group]
        if not all(REF.fullmatch(ref) for ref in refs) or len(set(refs)) < len(refs):
            raise BadInput(text, "references such as C1, C14,C15 or C8+C9, each once", field=after)
        return found
