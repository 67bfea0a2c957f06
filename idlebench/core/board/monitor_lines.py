"""A monitor as it is typed, a line a stage, and what follows from it for its places.

``monitor 15.625kHz 50Hz tube 12kV nominal 12in`` · ``line stage B+ 12V retrace C12 6n8 yoke 1.2mH primary 5mH deflection C15
boost C18 transformer T2 transistor Q2 draws 1.1A`` · ``field output IC1 store C22 1000u into 12mH 8ohm 0.9A`` · ``heater 12V 0.6A``
· ``video rail 60V C30``

Source: workshop practice, because sheets give a nominal anode voltage without its spread, and a retrace part sets it: each per cent of
its value is half a per cent of the anode's volts.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..circuit.monitor import beside, retrace, rise
from ..refusal import BadInput, no_longer_than, with_units
from ..text.quantity import read

EXAMPLE = "monitor 15.625kHz 50Hz tube 12kV nominal 12in"
STAGE_EXAMPLE = "line stage B+ 12V retrace C12 6n8 yoke 1.2mH deflection C15 boost C18 transformer T2"
#: Words for the field output's capacitor; "store" is how lines of before have it.
CAPACITOR = ("capacitor", "store")
FIELD_EXAMPLE = "field output IC1 capacitor C22 1000u into 12mH 8ohm"
#: A nominal anode voltage may be passed by this share; a marked maximum by nothing.
OVER_NOMINAL = 0.05
_REF = re.compile(r"[A-Z]{1,4}\d{1,5}[A-Z]?")
_UNITS = r"kHz|Hz|kV|V|mH|uH|µH|H|ohms?|Ω|A|mA|in|cm"


@dataclass(frozen=True, kw_only=True)
class LineStage:
    """The line output stage. supply: B+, V. value: F of the retrace part by the service sheet. yoke, primary: H, primary 0 where
    it is not known. draws: A, 0 where not known. shutdown: where the service sheet says how to test the over-voltage shutdown,
    "" where it does not.
    """

    supply: float
    retrace: str
    value: float
    yoke: float
    primary: float = 0.0
    deflection: str = ""
    boost: str = ""
    transformer: str = ""
    transistor: str = ""
    draws: float = 0.0
    shutdown: str = ""

    @property
    def inductance(self) -> float:
        """H that the retrace part swings with."""
        return beside(self.yoke, self.primary)


@dataclass(frozen=True, kw_only=True)
class FieldOutput:
    """The field output. chip: its reference. value: F of the store by the sheet, 0 where not said. coil: H. ohms: Ω. current: A p-p."""

    chip: str
    store: str
    value: float
    coil: float
    ohms: float
    current: float = 0.0


@dataclass(frozen=True)
class Heater:
    """The tube's heater. by_line: it is fed by the line transformer."""

    volts: float
    current: float = 0.0
    by_line: bool = False


@dataclass(frozen=True, kw_only=True)
class Monitor:
    """A monitor. line, field: Hz. anode: V; maximum: whether that is a marked most. hot: its chassis is joined to the mains."""

    line: float
    field: float
    anode: float
    maximum: bool = False
    size: str = ""
    hot: bool = False
    stage: LineStage | None = None
    output: FieldOutput | None = None
    heater: Heater | None = None
    video: float = 0.0
    video_store: str = ""

    @property
    def refs(self) -> frozenset[str]:
        """Every part that its lines name."""
        s, out = self.stage, self.output
        named = (s.retrace, s.deflection, s.boost, s.transformer, s.transistor) if s else ()
        return frozenset((*named, *((out.chip, out.store) if out else ()), self.video_store)) - {""}

    @property
    def anode_most(self) -> float:
        """The most its anode may read, V."""
        return self.anode * (1.0 if self.maximum else 1 + OVER_NOMINAL)

    @property
    def pulse(self) -> float:
        """The pulse on the line transistor with the part of the sheet, V; 0 without a line stage."""
        s = self.stage
        return retrace(s.inductance, s.value, self.line, s.supply).values["pulse"] if s else 0.0

    def rise_with(self, value: float) -> float:
        """How much higher pulse and anode come with another retrace part, as a share; infinite where it cannot work at all."""
        s = self.stage
        if s is None or value <= 0:
            return float("inf")
        try:
            return rise(s.inductance, s.value, value, self.line, s.supply)
        except BadInput:
            return float("inf")


def read_monitor(text: str) -> Monitor | None:
    """Read a monitor's lines; None where there are none.

    Args:
        text: as it was typed.

    Returns:
        The monitor; None where there are no lines.

    Raises:
        BadInput: a line that is not understood, a retrace part without its value, a coil without its inductance.

    >>> m = read_monitor(EXAMPLE + chr(10) + STAGE_EXAMPLE)
    >>> round(m.pulse, 1), round(m.anode_most), round(m.rise_with(5.6e-9), 3)
    (127.6, 12600, 0.107)
    """
    no_longer_than(text, 4000, "monitor")
    lines = [line.strip() for line in re.split(r"[\n·;]", text) if line.strip()]
    if not lines:
        return None
    found: dict[str, object] = {}
    for number, line in enumerate(lines, 1):
        try:
            for name, value in _line(line).items():
                if name in found:
                    raise BadInput(line, "each stage once", field="monitor")
                found[name] = value
        except BadInput as error:
            raise error.within(f"line {number}") from None
    if "line" not in found:
        raise BadInput(lines[0], f"the monitor itself first, such as {EXAMPLE}", field="monitor")
    made = Monitor(**found)  # type: ignore[arg-type]
    if made.stage is not None:
        # what cannot swing back within a line is said at once
        retrace(made.stage.inductance, made.stage.value, made.line, made.stage.supply)
    return made


def _line(text: str) -> dict[str, object]:
    words = re.sub(rf"(?<=\d)\s+(?=(?:{_UNITS})\b)", "", text).split()
    low = [word.lower() for word in words]
    if low[0] == "monitor":
        return _monitor(words[1:])
    if low[:2] == ["line", "stage"]:
        return {"stage": _stage(words[2:])}
    if low[:2] == ["field", "output"]:
        return {"output": _field(words[2:])}
    if low[0] == "heater":
        return {"heater": _heater(words[1:])}
    if low[:2] == ["video", "rail"]:
        return _video(words[2:])
    raise BadInput(
        text, f"monitor, line stage, field output, heater or video rail first, such as {EXAMPLE}", field="monitor"
    )


def _monitor(words: list[str]) -> dict[str, object]:
    found: dict[str, object] = {}
    for word in words:
        low = word.lower()
        if low.endswith(("khz", "hz")):
            rate = read(word, "Hz", field="monitor", low=10, high=200e3)
            found["line" if rate >= 1000 else "field"] = rate
        elif low.endswith("kv"):
            found["anode"] = read(word, "V", field="anode", low=1000, high=40e3)
        elif low.endswith(("in", "cm")):
            found["size"] = word
        elif low in ("nominal", "max", "maximum"):
            found["maximum"] = low != "nominal"
        elif low == "hot":
            found["hot"] = True
        elif low not in ("tube", "anode", "chassis"):
            raise BadInput(
                word,
                f"rates, kV of the anode, nominal or max, a size, hot chassis: {EXAMPLE}",
                field="monitor",
                instead=with_units(word, "Hz", "kHz", "kV"),
            )
    if missing := [name for name in ("line", "field", "anode") if name not in found]:
        raise BadInput(
            " ".join(words),
            f"its line rate, field rate and anode kV, such as {EXAMPLE}",
            f"Missing: {', '.join(missing)}.",
            field="monitor",
        )
    return found


def _after(words: list[str], names: Mapping[str, str], of: str, example: str) -> dict[str, object]:
    """What follows each word: a reference for those of unit "ref", else a value of that unit."""
    found: dict[str, object] = {}
    queue = list(words)
    while queue:
        word = queue.pop(0).lower()
        unit = names.get(word)
        if unit is None:
            raise BadInput(word, f"{', '.join(names)}: {example}", field=of)
        if not queue:
            raise BadInput(word, f"something after “{word}”", example, field=of)
        text = queue.pop(0)
        if unit == "ref":
            if not _REF.fullmatch(text.upper()):
                raise BadInput(text, f"a reference after “{word}”", example, field=of)
            found[word] = text.upper()
        else:
            found[word] = read(text, unit, field=word, low=1e-12, high=1e6)
        # a part and what the sheet says of it
        if word in ("retrace", *CAPACITOR) and queue and queue[0].lower() not in names:
            found[f"{word} value"] = read(queue.pop(0), "F", field=word, low=1e-12, high=1.0)
    return found


def _stage(words: list[str]) -> LineStage:
    names = {
        "b+": "V",
        "retrace": "ref",
        "yoke": "H",
        "primary": "H",
        "deflection": "ref",
        "boost": "ref",
        "transformer": "ref",
        "transistor": "ref",
        "draws": "A",
        "shutdown": "ref",
    }
    told = _after(words, names, "line stage", STAGE_EXAMPLE)
    if "b+" not in told:
        raise BadInput(" ".join(words), "B+ and its volts", STAGE_EXAMPLE, field="line stage")
    if "retrace" not in told or "retrace value" not in told:
        raise BadInput(
            " ".join(words),
            "the retrace part with its value by the service sheet, such as retrace C12 6n8",
            "Without the value nobody can tell whether the right part is fitted.",
            field="line stage",
        )
    if "yoke" not in told:
        raise BadInput(
            " ".join(words),
            "the coil's inductance, such as yoke 1.2mH",
            "Read it with an LCR meter, plug off; the retrace follows from it.",
            field="line stage",
        )
    return LineStage(
        supply=told["b+"],
        retrace=told["retrace"],
        value=told["retrace value"],
        yoke=told["yoke"],
        primary=told.get("primary", 0.0),
        deflection=told.get("deflection", ""),
        boost=told.get("boost", ""),
        transformer=told.get("transformer", ""),
        transistor=told.get("transistor", ""),
        draws=told.get("draws", 0.0),
        shutdown=told.get("shutdown", ""),
    )


def _field(words: list[str]) -> FieldOutput:
    if not words or not _REF.fullmatch(words[0].upper()):
        raise BadInput(" ".join(words), f"the field chip first, such as {FIELD_EXAMPLE}", field="field output")
    chip, rest = words[0].upper(), words[1:]
    if "into" not in [word.lower() for word in rest]:
        raise BadInput(" ".join(words), "into, and the coil's mH and ohms", FIELD_EXAMPLE, field="field output")
    at = [word.lower() for word in rest].index("into")
    told = _after(rest[:at], dict.fromkeys(CAPACITOR, "ref"), "field output", FIELD_EXAMPLE)
    called = next((word for word in CAPACITOR if word in told), "")
    coil, ohms, current = 0.0, 0.0, 0.0
    for word in rest[at + 1 :]:
        low = word.lower()
        if low.endswith("h"):
            coil = read(word, "H", field="field output", low=1e-6, high=1)
        elif low.endswith(("ohm", "ohms", "ω", "Ω")):
            ohms = read(re.sub(r"ohms?$", "Ω", low), "Ω", field="field output", low=0.1, high=1e3)
        elif low.endswith("a"):
            current = read(word, "A", field="field output", low=0.001, high=20)
        elif low != "pp":
            raise BadInput(word, "mH, ohms and perhaps A peak to peak", FIELD_EXAMPLE, field="field output")
    if not ohms:
        raise BadInput(" ".join(words), "the coil's ohms", FIELD_EXAMPLE, field="field output")
    return FieldOutput(
        chip=chip,
        store=told.get(called, ""),
        value=told.get(f"{called} value", 0.0),
        coil=coil,
        ohms=ohms,
        current=current,
    )


def _heater(words: list[str]) -> Heater:
    volts = current = 0.0
    by_line = False
    for word in words:
        low = word.lower()
        if low.endswith("v"):
            volts = read(word, "V", field="heater", low=1, high=60)
        elif low.endswith("a"):
            current = read(word, "A", field="heater", low=0.01, high=5)
        elif low == "line":
            by_line = True
        elif low != "by":
            raise BadInput(word, "volts, amps and perhaps “by line”, such as heater 6.3V 0.6A", field="heater")
    if not volts:
        raise BadInput(" ".join(words), "its volts, such as heater 6.3V 0.6A", field="heater")
    return Heater(volts, current, by_line)


def _video(words: list[str]) -> dict[str, object]:
    if not words:
        raise BadInput("video rail", "its volts, such as video rail 80V C30", field="video rail")
    store = words[1].upper() if len(words) > 1 else ""
    if len(words) > 2 or (store and not _REF.fullmatch(store)):
        raise BadInput(" ".join(words), "its volts and its capacitor, such as video rail 80V C30", field="video rail")
    return {"video": read(words[0], "V", field="video rail", low=5, high=500), "video_store": store}
