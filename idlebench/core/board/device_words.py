"""What a part's own words tell of it: its watts, its tolerance, what feeds it, what it serves.

They stand in its note as they were typed, so that what an older line said is read as well.
"""

from __future__ import annotations

import re

from ..text.quantity import read


class DeviceWords:
    """A part whose note is read. what: a key of devices.TITLES. note: its words."""

    what: str
    note: str

    @property
    def fed_from(self) -> str:
        """The rail that feeds it, where its note says so: ``from +12V``."""
        hit = re.search(r"\bfrom ([+\-−]?\d+(?:[.,]\d+)?) ?v\b", self.note, re.I)
        return f"{hit[1].replace('−', '-')}V" if hit else ""

    @property
    def va(self) -> float | None:
        """VA of an adapter or a transformer, where its label says them: ``14VA``."""
        hit = re.search(r"(?<![\d.,])(\d+(?:[.,]\d+)?) ?va\b", self.note, re.I)
        return float(hit[1].replace(",", ".")) if hit else None

    @property
    def watts(self) -> float | None:
        """W that it may turn into heat, where its line says so: ``1W``, ``250mW``.

        >>> from idlebench.core.board.devices import read_device
        >>> read_device('R5 resistor 2R2 0.5W fusible').watts, read_device('R6 resistor 10k 250mW').watts
        (0.5, 0.25)
        """
        hit = re.search(r"(?<![\w.,])(\d+(?:[.,]\d+)?) ?(m?)w\b|(?<![\w.,])(\d)/(\d) ?w\b", self.note, re.I)
        if hit is None:
            return None
        return int(hit[3]) / int(hit[4]) if hit[3] else float(hit[1].replace(",", ".")) * (1e-3 if hit[2] else 1.0)

    @property
    def tolerance(self) -> float | None:
        """Share by which it may differ from what is marked, where its line says so: ``5%``."""
        hit = re.search(r"(?<![\w.,])(\d+(?:[.,]\d+)?) ?%", self.note)
        return float(hit[1].replace(",", ".")) / 100 if hit else None

    @property
    def henries(self) -> float | None:
        """H of a choke, where its line says so: ``10u``, ``4.7mH``.

        >>> from idlebench.core.board.devices import read_device
        >>> read_device('L3 choke 10u').henries
        1e-05
        """
        hit = (
            re.search(r"(?<![\w.,])(\d+(?:[.,]\d+)?) ?([nuµm]h?|h)\b", self.note, re.I)
            if self.what == "choke"
            else None
        )
        return read(hit[1] + hit[2].rstrip("hH") + "H", "H") if hit else None

    @property
    def hertz(self) -> float | None:
        """Hz of a crystal, where its line says so: ``4MHz``, ``32.768kHz``."""
        hit = re.search(r"(?<![\w.,])(\d+(?:[.,]\d+)?) ?([km]?hz)\b", self.note, re.I)
        return float(hit[1].replace(",", ".")) * {"k": 1e3, "m": 1e6}.get(hit[2].lower()[0], 1.0) if hit else None

    @property
    def feeds(self) -> bool:
        """Whether cells feed the machine, as their line says: ``BT1 battery 6V source``; others keep a memory."""
        return bool(re.search(r"\b(source|feeds)\b", self.note.lower()))

    @property
    def tap(self) -> float | None:
        """V of the mains that a transformer's labels are for: of the tap in use, where its line says so: ``tap 240V``."""
        hit = re.search(r"\btap (\d{2,3}(?:[.,]\d+)?) ?v?\b", self.note, re.I)
        return float(hit[1].replace(",", ".")) if hit and self.what in ("transformer", "winding") else None

    @property
    def secondaries(self) -> tuple[tuple[float, float], ...]:
        """V rms and A (0 where not told) of each secondary of a transformer, in order; one with a middle counts as its two halves.

        >>> from idlebench.core.board.devices import read_device
        >>> read_device('T1 transformer 30VA tap 240V secondary 9V 1.5A secondary 12-0-12V 0.5A').secondaries
        ((9.0, 1.5), (12.0, 0.5), (12.0, 0.5))
        """
        if self.what != "transformer":
            return ()
        found = []
        for hit in re.finditer(
            r"\bsecondary (\d+(?:[.,]\d+)?)(-0-\d+(?:[.,]\d+)?)? ?v(?:ac|~)?(?: (\d+(?:[.,]\d+)?) ?(m?)a)?\b",
            self.note,
            re.I,
        ):
            amps = float((hit[3] or "0").replace(",", ".")) * (1e-3 if hit[4] else 1.0)
            found += [(float(hit[1].replace(",", ".")), amps)] * (2 if hit[2] else 1)
        return tuple(found)

    @property
    def sink(self) -> float | None:
        """K/W of its heatsink, where its note says so: ``sink 15``."""
        hit = re.search(r"\b(?:heat)?sink (\d+(?:[.,]\d+)?)", self.note, re.I)
        return float(hit[1].replace(",", ".")) if hit else None

    @property
    def serves(self) -> str:
        """The store it charges, where its note says so: ``for C1``."""
        hit = re.search(r"\bfor ([a-z]{1,4}\d{1,5})\b", self.note, re.I)
        return hit[1].upper() if hit else ""

    @property
    def charged(self) -> bool | None:
        """Whether the machine charges it, as its note says; an accumulator was charged. None where nothing says so.

        >>> from idlebench.core.board.devices import read_device
        >>> read_device('BT1 accumulator 3.6V').charged, read_device('BT1 battery 3V not charged').charged
        (True, False)
        """
        words = self.note.lower()
        if re.search(r"\b(not|never) charged\b|\buncharged\b", words):
            return False
        return True if re.search(r"\bcharged\b|\baccumulator\b|\bnicd\b|\bnimh\b", words) else None

    @property
    def across_mains(self) -> bool:
        """Whether a bleeder stands across the mains and empties the filter parts there, as its line says.

        >>> from idlebench.core.board.devices import read_device
        >>> read_device('R1 discharge 1M').across_mains, read_device('R9 bleeder 220k for C7').across_mains
        (True, False)
        """
        return self.what == "bleeder" and bool(re.search(r"\b(discharge|mains|line)\b", self.note.lower()))
