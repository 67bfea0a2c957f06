"""Damage to a board and how it was mended, from one typed line: ``pad C7 + to D2 1 wire 0.25 insulated glued before OL``.

Ends are pins of parts; what is known of the nets they are on is held against each other, so that no mend joins what must not meet.
Source: workshop practice, because a repair wire is short and lies free: about 10 A a mm².
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than
from ..text.nets import Node, use_of
from ..text.quantity import read, show
from ..text.rails_and_chips import Chip, Rail, rail_name, rail_volts
from .devices import Device, is_plug
from .parts import Fitted

#: What may be damaged: the word it is typed by, and what people read.
DAMAGES = {
    "pad": "lifted pad", "trace": "broken trace", "hole": "torn hole", "joint": "joint made new", "stub": "pin cut to a stub, joined",
    "leg": "lost leg", "paint": "conductive paint", "scrape": "short scraped away",
}  # fmt: skip
#: What else they are called, and the words that people put before them.
ALSO = {"track": "trace", "via": "hole", "scraped": "scrape", "short": "scrape", "bridge": "scrape", "pin": "leg"}
BEFORE = (
    "lifted",
    "broken",
    "cut",
    "torn",
    "lost",
    "conductive",
    "silver",
    "solder",
    "scraped",
    "burnt",
    "new",
    "a",
    "the",
)
#: Most of conductive paint where no limit is typed, Ω, and least where a short was scraped away, Ω.
PAINT_MOST, SCRAPED_LEAST = 20.0, 10e6
#: A/mm² that a short free wire carries.
DENSITY = 10.0
GROUND = "ground"
EXAMPLE = "pad C7 + to D2 1 wire 0.25 insulated glued before OL"
_END = re.compile(
    r"([A-Za-z]{1,4}\d{1,5}[A-Za-z]?)(?:[.\-/]?\s*(?:pin\s*)?([+\-−]|[A-Za-z]?\d{1,3}|plus|minus|anode|cathode|band))?",
    re.I,
)
_SIDES = {"plus": "+", "minus": "-", "−": "-", "band": "cathode"}


@dataclass(frozen=True)
class End:
    """An end of a mend: a pin of a part, "" where only the part was said; or a point of the board, mm, without one."""

    ref: str = ""
    pin: str = ""
    x: float | None = None
    y: float | None = None

    @property
    def words(self) -> str:
        return f"{self.ref} {self.pin}".strip() if self.ref else f"{self.x:g},{self.y:g}"


@dataclass(frozen=True, kw_only=True)
class Mend:
    """A damage and its mend.

    damage: a key of DAMAGES. a, b: its ends; b None where nothing is joined. wire: mm across the copper, 0 for none. insulated, glued.
    before: Ω between the ends before it was mended, None where nobody read it. under: Ω that it may have, None for the usual. note: the
    words left over.
    """

    damage: str
    a: End
    b: End | None = None
    wire: float = 0.0
    insulated: bool = False
    glued: bool = False
    before: float | None = None
    note: str = ""
    under: float | None = None

    @property
    def most(self) -> float | None:
        """Ω that may be read between its ends, None where they must not meet, or for a plain joint the usual."""
        return self.under or (PAINT_MOST if self.damage == "paint" else None)

    @property
    def least(self) -> float | None:
        """Ω that must be read between its ends, where a short was scraped away."""
        return SCRAPED_LEAST if self.damage == "scrape" else None

    @property
    def title(self) -> str:
        """The mend in words."""
        bits = [DAMAGES[self.damage], "at" if self.b is None else "from", self.a.words]
        if self.b is not None:
            bits += ["to", self.b.words]
        told = " ".join(bits)
        how = []
        if self.wire:
            how.append(f"wire {self.wire:g} mm" + (", insulated" if self.insulated else ", bare"))
        how += ["glued"] if self.glued else []
        return f"{told}: {', '.join(how)}" if how else told

    def as_line(self) -> str:
        """The mend as it is typed."""
        bits = [self.damage, self.a.words]
        bits += ["to", self.b.words] if self.b is not None else []
        bits += [f"wire {self.wire:g}"] if self.wire else []
        bits += [word for word, so in (("insulated", self.insulated), ("glued", self.glued)) if so]
        bits += [f"under {self.under:g}"] if self.under else []
        if self.before is not None:
            bits.append("before " + ("OL" if math.isinf(self.before) else f"{self.before:g}"))
        bits += [f"note {self.note}"] if self.note else []
        return " ".join(bits)

    @property
    def carries(self) -> float:
        """What its wire carries, A; endless without one."""
        return math.pi / 4 * self.wire**2 * DENSITY if self.wire else math.inf


def _damage_first(words: list[str]) -> list[str]:
    """A line's words with its damage first, by its one name: ``lifted pad C7 +`` as ``pad C7 +``."""
    at = 0
    while at < len(words) - 1 and words[at].lower() in BEFORE and words[at].lower() not in DAMAGES:
        at += 1
    low = words[at].lower() if words else ""
    if ALSO.get(low, low) in DAMAGES:
        return [ALSO.get(low, low), *words[at + 1 :]]
    low = words[0].lower() if words else ""
    return [ALSO.get(low, low), *words[1:]] if words else []


def is_mend(text: str) -> bool:
    """Whether a line tells a damage at a place; any other mend is kept in its own words.

    >>> is_mend('lifted pad C7 + to D2 1'), is_mend('scraped short U3 4 to U3 5'), is_mend('new grommet')
    (True, True, False)
    """
    typed = text.lower().split()
    words = _damage_first(text.split())
    if len(words) < 2 or words[0] not in DAMAGES:
        return False
    # a short cable or a bridge rectifier is no damage: such a word is one only between two ends
    return words[0] in typed or "to" in typed or "and" in typed


def read_end(text: str) -> End:
    """An end as typed.

    Args:
        text: as it was typed.

    Returns:
        A part's leg, a pin, a rail or a net.

    Raises:
        BadInput: neither a pin of a part nor a point.

    >>> read_end('U3 pin 4').words, read_end('C7+').words, read_end('C7 minus').words, read_end('40,32').words
    ('U3 4', 'C7 +', 'C7 -', '40,32')
    """
    text = text.strip()
    if hit := re.fullmatch(r"(?:at )?(\d+(?:\.\d+)?),\s*(\d+(?:\.\d+)?)", text):
        x, y = (read(n, "mm", field="mend", low=0, high=2000) for n in hit.groups())
        return End(x=x, y=y)
    hit = _END.fullmatch(text)
    if hit is None:
        raise BadInput(text, "a pin such as C7 + or U3 4, or a point such as 40,32", field="mend")
    pin = (hit[2] or "").lower()
    return End(hit[1].upper(), _SIDES.get(pin, pin.upper() if pin[:1].isalpha() and pin[1:].isdigit() else pin))


def read_mend(text: str) -> Mend:
    """Read a mend.

    Args:
        text: as it was typed.

    Returns:
        The mend with its ends and its kind.

    Raises:
        BadInput: an end or a number cannot be read, or a damage that is mended by joining has one end.

    >>> read_mend('trace U3 4 to U7 12 wire 0.2 insulated before OL').title
    'broken trace from U3 4 to U7 12: wire 0.2 mm, insulated'
    """
    no_longer_than(text, 300, "mend")
    words = _damage_first(text.strip().split())
    if not words or words[0] not in DAMAGES:
        raise BadInput(text, f"{', '.join(DAMAGES)} first, such as {EXAMPLE}", field="mend")
    facts: dict[str, object] = {"damage": words[0].lower()}
    ends: list[list[str]] = [[]]
    queue = words[1:]
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low in ("wire", "before", "note") and not queue:
            raise BadInput(word, f"something after “{low}”", EXAMPLE, field="mend")
        if low == "to" or (low == "and" and facts["damage"] == "scrape" and ends[-1]):
            ends.append([])
        elif low == "wire":
            facts["wire"] = read(queue.pop(0).lower().removesuffix("mm"), "", field="wire", low=0.05, high=5)
            if queue and queue[0].lower() == "mm":
                queue.pop(0)
        elif low in ("under", "below") and queue:
            facts["under"] = read(re.sub(r"(?i)ohms?$", "Ω", queue.pop(0)), "Ω", field="under", above=0, high=1e6)
            if queue and queue[0].lower() in ("Ω", "ohm", "ohms"):
                queue.pop(0)
        elif low in ("and", "from", "between") and not ends[-1]:
            continue
        elif low in ("insulated", "glued"):
            facts[low] = True
        elif low == "bare":
            facts["insulated"] = False
        elif low == "before":
            text_ = queue.pop(0)
            if queue and queue[0] in ("Ω", "ohm"):
                queue.pop(0)
            endless = text_.lower() in ("ol", "open", "inf", "∞")
            facts["before"] = math.inf if endless else read(text_, "Ω", field="before", low=0, high=1e9)
        elif low == "note":
            facts["note"], queue = " ".join(queue)[:200], []
        else:
            ends[-1].append(word)
    if len(ends) > 2:
        raise BadInput(text, "two ends", "Log a repair for each wire.", field="mend")
    a, b = read_end(" ".join(ends[0])), (read_end(" ".join(ends[1])) if len(ends) == 2 else None)
    if facts["damage"] == "scrape" and (facts.get("wire") or facts.get("under")):
        raise BadInput(text, "no wire and no upper limit where a short was scraped away", field="mend")
    if facts["damage"] != "joint" and b is None:
        raise BadInput(text, "what it is connected to", f"Such as {EXAMPLE}.", field="mend")
    if b is not None and a == b:
        raise BadInput(text, "two different ends", field="mend")
    return Mend(a=a, b=b, **facts)  # type: ignore[arg-type]


def known_net(end: End, parts: Iterable[Fitted], chips: Iterable[Chip], nets: Iterable[Node]) -> str:
    """What is known of the net an end is on: a rail's name, GROUND, the net's own name, "" for nothing.

    The netlist stands first, then the pins that are listed for chips, then the rail that a capacitor stands on.
    """
    for node in nets:
        if node.ref == end.ref and node.pin.upper() == end.pin.upper():
            use, rail = use_of(node.net)
            use = node.use or use
            return GROUND if use == "ground" else rail or node.net
    for chip in chips:
        if chip.ref == end.ref:
            pin = next((p for p in chip.pins if p.number == end.pin), None)
            return "" if pin is None else GROUND if pin.is_ == "ground" else pin.rail
    part = next((p for p in parts if p.ref == end.ref), None)
    if part is None or not part.polar or end.pin not in ("+", "-"):
        return ""
    volts = rail_volts(part.rail) if part.rail else None
    if volts is None:
        return ""
    live = "+" if volts > 0 else "-"
    return rail_name(volts) if end.pin == live else GROUND


def check_mend(
    mend: Mend,
    parts: Sequence[Fitted],
    chips: Sequence[Chip] = (),
    devices: Sequence[Device] = (),
    nets: Sequence[Node] = (),
) -> str:
    """Hold a mend against what is known of its board; the net it is on, "" where none is known.

    Args:
        mend: the mend.
        parts: the parts.
        chips: chips listed on the board.
        devices: parts that are no capacitors.
        nets: the board's nets.

    Returns:
        The net it is on; "" where none is known.

    Raises:
        BadInput: an end that is not on this board, or two nets that must not meet.
    """
    listed = {p.ref for p in parts} | {c.ref for c in chips} | {d.ref for d in devices} | {n.ref for n in nets}
    for end in (mend.a, mend.b):
        if end is not None and end.ref and end.ref not in listed:
            raise BadInput(
                end.ref, "a part that is listed on this board", "List it first, or give the point: 40,32.", field="mend"
            )
    if mend.b is None:
        return known_net(mend.a, parts, chips, nets)
    one, other = (known_net(end, parts, chips, nets) for end in (mend.a, mend.b))
    if mend.least is not None:
        if one and one == other:
            raise BadInput(
                f"{mend.a.words} to {mend.b.words}",
                "two nets that must not meet",
                f"Both are on {one}: no short was there.",
                field="mend",
            )
        return ""
    if one and other and one != other:
        raise BadInput(
            f"{mend.a.words} to {mend.b.words}",
            "two ends of one net",
            f"{mend.a.words} is on {one}, {mend.b.words} on {other}: these must not be joined. Look again "
            "where the trace went.",
            field="mend",
        )
    return one or other


def too_thin(mend: Mend, net: str, rails: Iterable[Rail]) -> str:
    """What is said of a wire that may carry more than it is good for; "" where it is not so."""
    rail = next((r for r in rails if r.name == net), None)
    if rail is None or rail.current <= mend.carries:
        return ""
    thick = math.sqrt(rail.current / DENSITY * 4 / math.pi)
    return (
        f"{rail.name} may carry {show(rail.current, 'A')}. A wire of {mend.wire:g} mm is good for "
        f"{show(mend.carries, 'A')}; {thick:.2g} mm would be"
    )


def placed(end: End, parts: Iterable[Fitted], others: Iterable[Device | Chip]) -> tuple[float, float] | None:
    """Where an end is on its board, mm seen from the parts side: a capacitor's leg, else the middle of a part. None where not known."""
    if end.x is not None and end.y is not None:
        return end.x, end.y
    part = next((p for p in parts if p.ref == end.ref), None)
    if part is not None and part.x is not None and part.y is not None:
        sign = {"+": -1, "1": -1, "-": 1, "2": 1}.get(end.pin, 0)
        return leg(part, sign)
    other = next((o for o in others if o.ref == end.ref and o.x is not None and o.y is not None), None)
    return (other.x, other.y) if other is not None else None


def leg(part: Fitted, sign: int) -> tuple[float, float]:
    """A leg of a placed capacitor, mm: the plus one for −1, the minus one for 1, its middle for 0."""
    half = apart(part) / 2 * sign
    turn = math.radians(part.angle)
    return part.x + half * math.cos(turn), part.y + half * math.sin(turn)


def apart(part: Fitted) -> float:
    """How far the two legs of a capacitor stand apart, mm."""
    if part.mounting == "axial":
        return (part.height or 2 * (part.diameter or 6.0)) + 5.0
    if part.mounting == "can":
        return 0.7 * (part.diameter or 6.0)
    return part.pitch or (part.diameter or 6.0) * 0.4


def reflow(parts: Iterable[Fitted], devices: Iterable[Device], chips: Iterable[Chip]) -> tuple[tuple[str, str], ...]:
    """Joints that are looked at with a lens and made new while the iron is hot: reference and why, those that crack first first."""
    found = [(c.ref, "a connector: each pull on its plug bends the joints") for c in chips if is_plug(c.ref)]
    found += [(d.ref, "runs hot, and its heatsink pulls at the pins") for d in devices if d.what == "regulator"]
    found += [(d.ref, "heavy, and warm") for d in devices if d.what == "transformer"]
    found += [(d.ref, "runs hot") for d in devices if d.what == "transistor"]
    for part in parts:
        if part.mounting in ("snap", "screw", "chassis") or (part.diameter or 0) >= 16:
            found.append((part.ref, "heavy: its weight strains the joints"))
        elif part.ambient is not None and part.ambient >= 60:
            found.append((part.ref, f"stands at {part.ambient:g} °C"))
    return tuple(dict(reversed(found)).items())[::-1]
