"""A board's supply as it is typed: the lines, and what they are read as.

``bridge 9V 25VA store C1 regulator VR1 5V 1A dropout 2 heatsink 8``
``centre 15V 20VA store C2 current 0.4A``
``bridge mains 4ohm store C7 converter flyback 40W eff 0.8 at 42k fuse T1.6A``
``rail +5V 3.1A duty 0.47 stores C14,C15``
``adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A``
``from +10V regulator VR2 5V 0.2A``
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..refusal import BadInput, nearly, no_longer_than, with_units
from ..text.quantity import read
from ..text.rails_and_chips import rail_name, rail_volts
from . import converter
from .line_words import REF, Words
from .outside_sources import OUTSIDE, OutsideSource, read_outside
from .packages import PACKAGES, package_word
from .rail_lines import RESERVOIR, RailOut, read_rail_out
from .supply import TOPOLOGIES


@dataclass(frozen=True, kw_only=True)
class RegulatorIn:
    """A linear regulator after a store: name, V out, A, dropout V, θ junction to case and heatsink to air K/W, °C round it, and its
    package (a key of PACKAGES, "" where a heatsink holds it)."""

    ref: str
    volts: float
    current: float
    dropout: float = 2.0
    theta_jc: float = 3.0
    theta_sa: float = 8.0
    ambient: float = 45.0
    package: str = ""
    label: str = ""

    @property
    def rail(self) -> str:
        """What the rail is called that it makes."""
        return rail_name(self.volts, self.label)


#: Words that name a part of a converter, and what it is.
CONVERTER_PARTS = {
    "switch": "switch",
    "start": "start",
    "startcap": "start_store",
    "startstore": "start_store",
    "feedback": "feedback",
}
#: Words that may follow a fuse.
_PARTS = (
    *CONVERTER_PARTS,
    "sense",
    "least",
    "xcap",
    "joint",
    "rectifier",
    *RESERVOIR,
    "converter",
    "regulator",
    "current",
    "load",
)
#: A rectifier that charges two stores in series in turn, and so doubles the volts.
DOUBLER = "doubler"
#: DC comes in: there is nothing to rectify.
DIRECT = "direct"


@dataclass(frozen=True, kw_only=True)
class ConverterIn:
    """A converter after a store: topology, W out, efficiency, switching Hz, its rails.

    switch, start, start_store, feedback: references of its parts, "" where the usual one is meant. sense: the rail that is
    held, or ``aux`` for a winding of its own; "" for the first. least: A that the held rail must be loaded with, 0 where it is
    not known.
    """

    topology: str
    power: float
    efficiency: float = 0.8
    frequency: float = 50e3
    rails: tuple[RailOut, ...] = ()
    switch: str = ""
    start: str = ""
    start_store: str = ""
    feedback: str = ""
    sense: str = ""
    least: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Branch:
    """One way from a source to what it feeds.

    topology: of the rectifier. volts: V rms as labelled (of one half where tapped), 0 for the mains themselves.
    va: size, 0 where ohms (Ω) are given. stores: references. regulator, converter, current (A), resistance (Ω): one of them.
    fuse: as typed, "" for none. xcap, joint: references of the part across the mains and of the connector behind, "" where the
    usual one is meant. tap: V of the mains that the label holds at, 0 for the nominal ones. groups: the stores in parallel, each with
    those that stand in series in it: C8+C9 is one group of two. A doubler charges its two stores in turn, each from one half wave.
    outside: what feeds the line where that is neither the mains nor a winding; of DC the topology is "direct", and there may be no store.
    """

    topology: str
    volts: float
    va: float
    ohms: float
    stores: tuple[str, ...]
    regulator: RegulatorIn | None = None
    converter: ConverterIn | None = None
    current: float = 0.0
    resistance: float = 0.0
    fuse: str = ""
    groups: tuple[tuple[str, ...], ...] = ()
    xcap: str = ""
    joint: str = ""
    rectifier: str = ""
    tap: float = 0.0
    outside: OutsideSource | None = None

    @property
    def direct(self) -> OutsideSource | None:
        """Its DC source; None where mains or a winding are rectified."""
        return self.outside if self.topology == DIRECT else None

    def tapped(self, mains: float) -> float:
        """What the tap in use makes of a labelled winding on nominal mains (V), as a share: a 240 V tap on 228 V gives 0.95."""
        return mains / self.tap if self.tap and self.volts else 1.0

    def ratio(self, mains: float) -> float:
        """Volts of its winding for a volt of the nominal mains (V), 1 without one. What a DC source gives is not drawn of the mains: 1
        where the source's own amps are read, 0 where the supply in front of it counts them."""
        if self.direct is not None:
            return float(self.direct.counts)
        return self.volts * self.tapped(mains) / mains if self.volts else 1.0

    @property
    def in_groups(self) -> tuple[tuple[str, ...], ...]:
        """The groups, each store alone where none was typed."""
        return self.groups or tuple((ref,) for ref in self.stores)

    @property
    def doubles(self) -> bool:
        return self.topology == DOUBLER

    @property
    def title(self) -> str:
        """The branch in a few words."""
        start = self.outside.title if self.outside else f"{self.volts:g} V winding" if self.volts else "mains"
        if self.regulator:
            return f"{start} to {self.regulator.rail}"
        if self.converter:
            return f"{start} to a {self.converter.topology} converter"
        return f"{start} to {', '.join(self.stores) or 'its load'}"


def read_model(text: str) -> tuple[Branch, ...]:
    """Read the lines of a supply.

    Args:
        text: as it was typed.

    Returns:
        A branch for each source, in the order of the lines.

    Raises:
        BadInput: naming the line.

    >>> b, = read_model('bridge 9V 25VA reservoir C1 regulator VR1 5V 1A')
    >>> b.stores, b.regulator.volts, b.title
    (('C1',), 5.0, '9 V winding to +5 V')
    """
    no_longer_than(text, 20_000, "supply")
    branches: list[Branch] = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            if line.split()[0].lower() == "rail":
                branches[-1:] = [_with_rail(branches, read_rail_out(line))]
            else:
                branches.append(read_branch(line))
        except BadInput as error:
            raise error.within(f"supply, line {number}") from None
    return tuple(branches)


def _with_rail(branches: Sequence[Branch], rail: RailOut) -> Branch:
    last = branches[-1] if branches else None
    if last is None or last.converter is None:
        raise BadInput(
            "rail", "a line with a converter above it", "Write bridge mains … converter … first.", field="rail"
        )
    return replace(last, converter=replace(last.converter, rails=(*last.converter.rails, rail)))


def _lacking(facts: Mapping[str, object]) -> tuple[str, ...]:
    """The units of what a line has not said yet: of its volts and its size."""
    return ("V",) * (facts["volts"] == -1.0) + ("VA",) * (not facts["va"])


#: The words that may stand in a line of a supply.
_WORDS_OF_LINES = (
    "reservoir",
    "regulator",
    "converter",
    "current",
    "load",
    "fuse",
    "heatsink",
    "sense",
    "least",
    "capacitors",
)


def read_branch(text: str) -> Branch:
    """Read a branch as typed.

    Args:
        text: as it was typed.

    Returns:
        The branch: source, stores and what they feed.

    Raises:
        BadInput: a word that is not understood, or a source, store or load that is missing.
    """
    words = Words(text)
    topology = words.next("the line").lower()
    topology = {"center": "centre", "halfwave": "half", "full": "bridge"}.get(topology, topology)
    first = (*TOPOLOGIES, DOUBLER, *OUTSIDE)
    if topology not in first:
        raise BadInput(
            topology,
            f"{', '.join((*TOPOLOGIES, DOUBLER))} first, or adapter, cells, bench or from",
            "Such as bridge 9V 25VA reservoir C1 current 1A, or adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A.",
            field="supply",
            instead=nearly(topology, first),
        )
    facts: dict[str, object] = {"topology": topology, "volts": -1.0, "va": 0.0, "ohms": 0.0, "stores": ()}
    if topology in OUTSIDE:
        source, facts["topology"] = read_outside(topology, words)
        facts |= {"outside": source, "volts": abs(source.volts), "va": abs(source.volts) * source.amps}
    held: dict[str, object] = {}
    while words.left:
        word = words.next("the line")
        low = word.lower()
        if low == "mains":
            facts["volts"] = 0.0
        elif low in RESERVOIR:
            facts["groups"] = words.groups(low)
            facts["stores"] = tuple(ref for group in facts["groups"] for ref in group)
        elif low == "regulator":
            facts["regulator"] = _regulator(words)
        elif low == "converter":
            facts["converter"] = _converter(words)
        elif low in ("xcap", "joint", "rectifier"):
            facts[low] = words.refs(low)[0]
        elif low == "tap":
            facts["tap"] = words.number("tap", "V", 20, 600)
        elif low == "current":
            facts["current"] = words.number("current", "A", 1e-6, 200)
        elif low == "load":
            facts["resistance"] = words.number("load", "Ω", 1e-3, 1e7)
        elif low in CONVERTER_PARTS or low in ("sense", "least"):
            held.update(_of_converter(words, low))
        elif low == "fuse":
            facts["fuse"] = words.until(_PARTS)
        elif low.endswith("va"):
            facts["va"] = read(word[:-2], "", field="size", above=0, high=5000)
        elif low.endswith(("ohm", "ω", "Ω")):
            facts["ohms"] = read(word, "Ω", field="resistance", above=0, high=1e5)
        elif low.endswith("v"):
            facts["volts"] = read(word, "V", field="volts", low=0.5, high=2000)
        else:
            raise BadInput(
                word,
                "volts, size in VA or Ω, reservoir, regulator, converter, current, load or fuse",
                field="supply",
                instead=nearly(word, _WORDS_OF_LINES) or with_units(word, *_lacking(facts)),
            )
    if held:
        if "converter" not in facts:
            raise BadInput(
                text, "a converter, where its switch, start, feedback or rail held are named", field="supply"
            )
        facts["converter"] = replace(facts["converter"], **held)
    return _whole(text, facts)


def _of_converter(words: Words, word: str) -> dict[str, object]:
    """A part of a converter that is named, the rail that it holds, or the least load it asks."""
    if word == "least":
        return {"least": words.number("least", "A", 0.0, 200)}
    if word == "sense":
        text = words.next("sense")
        volts = rail_volts(text)
        if text.lower() != "aux" and not volts:
            raise BadInput(text, "the rail that is held, such as +5V, or aux", field="sense")
        return {"sense": rail_name(volts) if volts else "aux"}
    if word == "feedback":
        ref = words.next(word).upper()
        if not re.fullmatch(r"[A-Z]{1,4}\d{0,5}", ref):
            raise BadInput(ref, "a reference such as FB or U2", field="feedback")
        return {"feedback": ref}
    return {CONVERTER_PARTS[word]: words.refs(word)[0]}


def _whole(text: str, facts: dict[str, object]) -> Branch:
    outside = facts.get("outside")
    if outside is not None and (facts["volts"] != abs(outside.volts) or facts["ohms"] or "tap" in facts):
        raise BadInput(text, "one source: an adapter, cells or a rail has no winding beside it", field="supply")
    if facts["topology"] == DIRECT:
        _polarity(outside, facts.get("regulator"))
    elif facts["volts"] == -1.0:
        raise BadInput(text, "the winding's volts, or mains", "Such as 9V 25VA.", field="supply")
    if not facts["va"] and not facts["ohms"]:
        raise BadInput(text, "the winding's size or resistance", "Such as 25VA, or 0.6ohm.", field="supply")
    if not facts["stores"] and facts["topology"] != DIRECT:
        raise BadInput(text, "the reservoir capacitor after the rectifier", "Such as reservoir C1.", field="supply")
    if facts["topology"] == DOUBLER and [len(group) for group in facts["groups"]] != [2]:
        raise BadInput(text, "the doubler's two capacitors in series", "Such as reservoir C8+C9.", field="reservoir")
    if sum(bool(facts.get(name)) for name in ("regulator", "converter", "current", "resistance")) != 1:
        raise BadInput(text, "one thing it feeds: regulator, converter, current or load", field="supply")
    return Branch(**facts)  # type: ignore[arg-type]


def _polarity(source: OutsideSource, regulator: RegulatorIn | None) -> None:
    """Refuse a linear regulator that its source cannot feed: it lowers volts, and turns none round."""
    if regulator is None:
        return
    if source.kind == "rail" and source.volts * regulator.volts < 0:
        raise BadInput(
            regulator.rail,
            f"a rail of the same sign as {source.rail}",
            "A linear regulator turns no rail round.",
            field="regulator",
        )
    if abs(source.volts) <= abs(regulator.volts):
        raise BadInput(
            f"{source.title} for {regulator.rail}", f"a source of more than {abs(regulator.volts):g} V",
            "A linear regulator only lowers its volts.", field="regulator",
        )  # fmt: skip


def _regulator(words: Words) -> RegulatorIn:
    ref = words.next("regulator").upper()
    if not REF.fullmatch(ref):
        raise BadInput(ref, "the regulator's reference, such as VR1", field="regulator")
    volts, label = words.rail("regulator", -1000, 1000)
    facts: dict[str, float] = {"current": words.number("regulator", "A", 1e-6, 100)}
    names = {
        "dropout": ("dropout", "V"),
        "heatsink": ("theta_sa", ""),
        "junction": ("theta_jc", ""),
        "ambient": ("ambient", "°C"),
    }
    package = ""
    while words.left and (words.left[0].lower() in names or package_word(words.left[0])):
        word = words.left.pop(0).lower()
        if word in names:
            name, unit = names[word]
            facts[name] = words.number(word, unit, 0, 500)
        else:
            package = package_word(word)
    if package and not PACKAGES[package].sink and "theta_sa" in facts:
        raise BadInput(
            "heatsink", f"none: no heatsink is made for a {PACKAGES[package].title}", "Leave it out.", field="regulator"
        )
    return RegulatorIn(ref=ref, volts=volts, package=package, label=label, **facts)


def _converter(words: Words) -> ConverterIn:
    topology = words.next("converter").lower()
    if topology not in converter.TOPOLOGIES:
        raise BadInput(topology, f"one of {', '.join(converter.TOPOLOGIES)}", field="converter")
    facts: dict[str, float] = {"power": words.number("converter", "W", 0.01, 5000)}
    while words.left and words.left[0].lower() in ("eff", "at"):
        if words.left.pop(0).lower() == "eff":
            facts["efficiency"] = words.number("eff", "", 0.05, 0.99)
        else:
            facts["frequency"] = words.number("at", "Hz", 10, 1e7)
    return ConverterIn(topology=topology, **facts)
