"""A part of one's own for the Shelf, from one typed line.

``100u 16V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.13@100k €0.20 x10 stock 4`` is a capacitor, ``7805 1.5A €0.40 stock 3`` a
regulator, ``fuse T 1.6A 250V 5x20 high €0.30`` a fuse, ``battery lithium 3V 220mAh leads diode 0.3V`` a cell, ``diode fast 1A 600V``
a diode. Without ``name …`` it is called by what it is.

Source: 35 and 40 V: absolute maximum of the 78xx-type family's data; breaking capacity: IEC 60127-2:2014, standard sheets 1 to 3; melting
I²t: workshop practice, because IEC 60127-2:2014, clause 9, gives times and not I²t: the low end of what makers print.
"""

from __future__ import annotations

import re

from ..board.devices import CHARACTERISTICS
from ..board.parts import KINDS, MOUNTING_WORDS, MOUNTINGS, Capacitor, read_safety
from ..board.quickline import joined
from ..board.tables import read_value
from ..circuit.packages import PACKAGES, package_of, package_word
from ..refusal import BadInput
from ..text.quantity import read, show
from .by_limits import LimitPart
from .cells_and_diodes import CHEMISTRIES, DIODE_KINDS, HELD, Battery, Diode
from .fuses import Fuse
from .regulators_and_fuses import LINEAR, MODULE, SIZES, Regulator
from .shelf_line_limits import FIRST, read_by_limits

Own = Capacitor | Regulator | Fuse | Battery | Diode | LimitPart
EXAMPLE = "100u 16V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.13@100k €0.20 x10 stock 4"
#: Volts that a 78xx or 79xx-type stands at its input, V, by its own output: 35, from 24 V on 40.
FAMILY_IN, FAMILY_IN_24 = 35.0, 40.0
#: Melting I²t of a fuse that names none, A²s for 1 A, by characteristic: the low end of what is usual, so that a pulse is rather
#: refused than let by.
MELTING = {"FF": 0.5, "F": 1.4, "M": 6.0, "T": 20.0, "TT": 60.0}
HIGH_BREAKING, LOW_BREAKING = 1500.0, 35.0


def read_own(text: str) -> Own:
    """Read a line for the Shelf.

    Args:
        text: as it was typed.

    Returns:
        A capacitor, regulator, fuse, cell or diode, with its stock.

    Raises:
        BadInput: it names the word that cannot be read, or what is missing.

    >>> part = read_own(EXAMPLE)
    >>> part.part, part.ripple_frequency, part.pack, part.stock, part.price
    ('100u-16V-6.3x11', 100000.0, 10, 4, 0.2)
    >>> read_own('7912 1A stock 2').tab
    'input'
    """
    if not text.strip() or len(text) > 400:
        raise BadInput(text, f"a part in one line of at most 400 characters, such as {EXAMPLE}", field="line")
    words = joined(f" {text.strip()}").split()
    common, words = _common(words)
    first = words[0].lower() if words else ""
    if first == "fuse":
        return _fuse(words[1:], common)
    if first in ("battery", "cell"):
        return _battery(words[1:], common)
    if first in ("diode", "bridge"):
        return _diode(words if first == "bridge" else words[1:], common)
    if first in FIRST:
        # what was typed is read whole, for its volts may stand for something else there
        return read_by_limits(" ".join(words), _kept(common))
    if first == "regulator" or re.fullmatch(r"(78|79)[lms]?\d\d", first):
        return _regulator(words[1:] if first == "regulator" else words, common)
    return _capacitor(words, common)


def _common(words: list[str]) -> tuple[dict[str, object], list[str]]:
    """Name, series, price, pack, supplier and stock, wherever they stand; and the words that are left."""
    found: dict[str, object] = {}
    left: list[str] = []
    queue = list(words)
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low in ("name", "series", "stock", "supplier", "days") and not queue:
            raise BadInput(word, f"something after “{low}”", field="line")
        if low == "name":
            found["part"] = queue.pop(0)[:60]
        elif low in ("series", "supplier"):
            found[low] = queue.pop(0).replace("_", " ")[:60]
        elif low == "stock":
            found["stock"] = int(_whole(queue.pop(0), "stock"))
        elif low == "days":
            found["lead_days"] = int(_whole(queue.pop(0), "days"))
        elif hit := re.fullmatch(r"€?(\d+(?:[.,]\d+)?)€?", word) if "€" in word else None:
            found["price"] = read(hit[1], "", field="price", low=0, high=1e5)
        elif hit := re.fullmatch(r"x(\d+)", word):
            found["pack"] = int(_whole(hit[1], "pack", 1))
        else:
            left.append(word)
    return found, left


def _whole(text: str, field: str, low: int = 0) -> float:
    value = read(text, "", field=field, low=low, high=1e6)
    if value != int(value):
        raise BadInput(text, "a whole number", field=field)
    return value


def _at(text: str, unit: str, field: str) -> tuple[float, float]:
    """A number, and the frequency it is given at: ``0.4@100k``; without one, 120 Hz."""
    number, _, frequency = text.partition("@")
    at = read(frequency, "Hz", field=field, above=0, high=1e9) if frequency else 120.0
    return read(number, unit, field=field, above=0, high=1e6), at


def _capacitor(words: list[str], common: dict[str, object]) -> Capacitor:
    kind = next((w.lower() for w in words if w.lower() in KINDS), "")
    safety = next((w for w in words if re.fullmatch(r"[xy]\d(/?[xy]\d)?", w.lower())), "")
    kind = kind or ("film" if safety else "wet")
    facts: dict[str, object] = {"kind": kind}
    queue = list(words)
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low in ("ripple", "esr") and not queue:
            raise BadInput(word, f"a number after “{low}”, such as 0.13@100k", field="line")
        if low in ("ripple", "esr"):
            facts[low], facts[f"{low}_frequency"] = _at(queue.pop(0), "A" if low == "ripple" else "Ω", low)
        elif low == kind:
            continue
        elif low in MOUNTINGS or low in MOUNTING_WORDS:
            facts["mounting"] = MOUNTING_WORDS.get(low, low)
        elif word == safety:
            facts["safety"] = read_safety(word)
        elif low in ("bipolar", "pulse"):
            facts[low] = True
        elif low in ("low", "low-impedance", "low-esr"):
            facts["low_impedance"] = True
        elif hit := re.fullmatch(r"(\d+(?:[.,]\d+)?)v?(~|ac)", low):
            facts["ac_volts"] = read(hit[1], "V", field="volts", above=0, high=10e3)
        elif re.fullmatch(r"\d+(?:[.,]\d+)?v(dc)?", low):
            facts["volts"] = read(word.lower().removesuffix("dc"), "V", field="volts", above=0, high=100e3)
        elif hit := re.fullmatch(r"(\d{2,3})°?c", low):
            facts["temperature"] = read(hit[1], "°C", field="temperature", low=40, high=250)
        elif hit := re.fullmatch(r"(\d+)h", low):
            facts["life"] = read(hit[1], "h", field="life", above=0, high=1e6)
        elif hit := re.fullmatch(r"(\d+(?:[.,]\d+)?)%", low):
            facts["tolerance"] = read(hit[1], "", field="tolerance", above=0, high=100) / 100
        elif hit := re.fullmatch(r"p(\d+(?:[.,]\d+)?)", low):
            facts["pitch"] = read(hit[1], "mm", field="pitch", above=0, high=120)
        elif hit := re.fullmatch(r"(\d+(?:[.,]\d+)?)[x×](\d+(?:[.,]\d+)?)(?:mm)?", low):
            facts["diameter"], facts["height"] = (read(n, "mm", field="size", low=1, high=300) for n in hit.groups())
        elif "value" not in facts and re.match(r"[\d.,µunpR]", word):
            facts["value"] = read_value(word, kind)
        else:
            raise BadInput(
                word, f"a word of a line such as {EXAMPLE}", "Leave it out, or write name … before it.", field="line"
            )
    if "value" not in facts:
        raise BadInput(" ".join(words), "a value, such as 100u", field="value")
    if "volts" not in facts and not (safety and "ac_volts" in facts):
        raise BadInput(
            " ".join(words),
            "rated volts, such as 16V",
            "A safety part may have AC volts alone: 275V~ X2.",
            field="volts",
        )
    if safety and "ac_volts" not in facts:
        raise BadInput(safety, "AC volts with a safety class", "Such as 275V~ X2.", field="ac_volts")
    size = f"-{facts['diameter']:g}x{facts['height']:g}" if "diameter" in facts else ""
    volts = f"{facts['ac_volts']:g}V{facts['safety']}" if safety else f"{facts['volts']:g}V"
    made = f"{show(facts['value'], 'F').replace(' ', '').replace('µF', 'u').replace('F', '')}-{volts}{size}"
    facts.setdefault("volts", 0.0)
    # what is not said is not known: read it on the sleeve
    facts.setdefault("temperature", 0.0)
    return Capacitor(**{"part": made.replace("/", ""), "series": "", **facts, **common})


def _regulator(words: list[str], common: dict[str, object]) -> Regulator:
    facts: dict[str, object] = {"type": LINEAR, "dropout": 2.0}
    family = ""
    queue = list(words)
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if hit := re.fullmatch(r"(78|79)[lms]?(\d\d)", low):
            family, facts["volts"] = low, float(hit[2]) * (-1 if hit[1] == "79" else 1)
            facts.setdefault("series", f"{hit[1]}xx")
        elif low == MODULE:
            facts["type"] = MODULE
        elif package := package_word(low):
            facts["package"] = package
        elif low in ("dropout", "in", "eff", "high") and queue:
            name, unit = {
                "dropout": ("dropout", "V"),
                "in": ("v_in_max", "V"),
                "eff": ("efficiency", ""),
                "high": ("height", "mm"),
            }[low]
            facts[name] = read(queue.pop(0), unit, field=low, above=0, high=500)
        elif re.fullmatch(r"[+\-−]?\d+(?:[.,]\d+)?v", low):
            facts["volts"] = read(word, "V", field="volts", low=-200, high=200)
        elif re.fullmatch(r"\d+(?:[.,]\d+)?m?a", low):
            facts["current"] = read(word, "A", field="current", above=0, high=100)
        else:
            raise BadInput(word, "a word of a line such as 7805 1.5A dropout 2 in 35V €0.40 stock 3", field="line")
    for name, example in (("volts", "7805, or 5V"), ("current", "1.5A")):
        if not facts.get(name):
            raise BadInput(" ".join(words), f"its {name}, such as {example}", field=name)
    if facts["type"] == MODULE and "efficiency" not in facts:
        raise BadInput(" ".join(words), "the efficiency of a module, such as eff 0.9", field="eff")
    package = str(facts.setdefault("package", package_of(family)))
    pins = PACKAGES[package].pins(facts["volts"] < 0) if package and facts["type"] != MODULE else ()
    facts.setdefault("v_in_max", FAMILY_IN_24 if abs(facts["volts"]) >= 24 else FAMILY_IN)
    made = f"{'MOD' if facts['type'] == MODULE else 'REG'}-{facts['volts']:g}V-{facts['current']:g}A"
    legs = {"pins": pins[:3], "tab": pins[3] if pins else ""}
    return Regulator(**{"part": made, "series": "", **legs, **facts, **_kept(common)})


def _fuse(words: list[str], common: dict[str, object]) -> Fuse:
    facts: dict[str, object] = {"mounting": "holder", "breaking": LOW_BREAKING, "volts_ac": 250.0, "volts_dc": 0.0}
    queue = list(words)
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if word.upper() in CHARACTERISTICS:
            facts["characteristic"] = word.upper()
        elif hit := re.fullmatch(r"(FF|TT|F|M|T)(\d.*a)", word, re.I):
            facts["characteristic"], facts["rating"] = (
                hit[1].upper(),
                read(hit[2], "A", field="rating", above=0, high=200),
            )
        elif re.fullmatch(r"\d+(?:[.,]\d+)?m?a", low):
            facts["rating"] = read(word, "A", field="rating", above=0, high=200)
        elif hit := re.fullmatch(r"(\d+)v(dc)?", low):
            facts["volts_dc" if hit[2] else "volts_ac"] = read(hit[1], "V", field="volts", above=0, high=1000)
        elif low.replace("×", "x") in SIZES:
            facts["size"] = low.replace("×", "x")
        elif low in ("high", "low"):
            facts["breaking"] = HIGH_BREAKING if low == "high" else LOW_BREAKING
        elif low == "leads":
            facts["mounting"] = "leads"
        elif low == "melting" and queue:
            facts["melting"] = read(queue.pop(0), "", field="melting", above=0, high=1e6)
        else:
            raise BadInput(word, "a word of a line such as fuse T 1.6A 250V 5x20 high €0.30 stock 10", field="line")
    for name, example in (("rating", "1.6A"), ("characteristic", "T"), ("size", "5x20")):
        if not facts.get(name):
            raise BadInput(" ".join(words), f"its {name}, such as {example}", field=name)
    facts.setdefault("melting", MELTING[str(facts["characteristic"])] * float(facts["rating"]) ** 2)
    made = (
        f"FUSE-{facts['characteristic']}{facts['rating']:g}A-{facts['size']}{'-H' if facts['breaking'] >= 1000 else ''}"
    )
    return Fuse(**{"part": made, "series": "", **facts, **_kept(common)})


def _battery(words: list[str], common: dict[str, object]) -> Battery:
    facts: dict[str, object] = {}
    queue = list(words)
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low in CHEMISTRIES:
            facts["chemistry"] = low
        elif low in HELD:
            facts["held"] = low
        elif low == "diode" and queue:
            facts["diode"] = read(queue.pop(0), "V", field="diode", above=0, high=3)
        elif hit := re.fullmatch(r"(\d+(?:[.,]\d+)?)(m?)ah", low):
            facts["capacity"] = read(hit[1], "", field="capacity", above=0, high=1e6) / (1000 if hit[2] else 1)
        elif re.fullmatch(r"\d+(?:[.,]\d+)?v", low):
            facts["volts"] = read(word, "V", field="volts", above=0, high=100)
        elif hit := re.fullmatch(r"(\d+(?:[.,]\d+)?)[x×](\d+(?:[.,]\d+)?)(?:mm)?", low):
            facts["diameter"], facts["height"] = (read(n, "mm", field="size", low=1, high=200) for n in hit.groups())
        else:
            raise BadInput(
                word, "a word of a line such as battery lithium 3V 220mAh leads diode 0.3V €1.90", field="line"
            )
    for name, example in (("chemistry", ", ".join(CHEMISTRIES)), ("volts", "3V")):
        if not facts.get(name):
            raise BadInput(" ".join(words), f"its {name}, such as {example}", field=name)
    made = f"{str(facts['chemistry']).upper()}-{facts['volts']:g}V{'-D' if facts.get('diode') else ''}"
    return Battery(**{"part": made, "series": "", "capacity": 0.0, **facts, **_kept(common)})


def _diode(words: list[str], common: dict[str, object]) -> Diode:
    facts: dict[str, object] = {"kind": "plain"}
    queue = list(words)
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if low == "low" and queue and queue[0].lower() == "drop":
            queue.pop(0)
            facts["kind"] = "low-drop"
        elif low in DIODE_KINDS or low == "schottky":
            facts["kind"] = "low-drop" if low == "schottky" else low
        elif low in ("surge", "drop", "recovers") and queue:
            name, unit = {"surge": ("surge", "A"), "drop": ("drop", "V"), "recovers": ("recovery", "s")}[low]
            facts[name] = read(queue.pop(0), unit, field=low, above=0, high=1e5)
        elif low in ("axial", "radial", "tab"):
            facts["mounting"] = low
        elif re.fullmatch(r"\d+(?:[.,]\d+)?v", low):
            facts["volts"] = read(word, "V", field="volts", above=0, high=50e3)
        elif re.fullmatch(r"\d+(?:[.,]\d+)?m?a", low):
            facts["current"] = read(word, "A", field="current", above=0, high=1e3)
        else:
            raise BadInput(word, "a word of a line such as diode fast 1A 600V recovers 75n €0.20", field="line")
    for name, example in (("volts", "600V"), ("current", "1A")):
        if not facts.get(name):
            raise BadInput(" ".join(words), f"its {name}, such as {example}", field=name)
    made = f"{str(facts['kind']).replace(' ', '-').upper()}-{facts['current']:g}A-{facts['volts']:g}V"
    return Diode(**{"part": made, "series": "", **facts, **_kept(common)})


def _kept(common: dict[str, object]) -> dict[str, object]:
    """Of what stands in any line, that which a part that is no capacitor has."""
    return {name: value for name, value in common.items() if name in ("part", "series", "price", "stock")}


__all__ = ["EXAMPLE", "Own", "read_own"]
