"""Parts that are no capacitors in the survey table: which of its columns say what of them, and the columns that only they have.

Source: bounds of DEVICE_COLUMNS: workshop practice, because beyond them a cell was shifted or a unit mistaken.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ..refusal import BadInput
from ..text.csvtable import choice, number, words
from ..text.quantity import read
from .device_readings import read_measured, write_measured
from .devices import CHARACTERISTICS, JUDGED, TITLES, Device, read_device
from .parts import SIDES

#: What a table's kind column may say beside the kinds of capacitors; a chip is no line of a survey.
DEVICE_KINDS = tuple(what for what in TITLES if what not in ("chip",))
#: Columns that only such parts have; a table of capacitors alone is written without them.
DEVICE_COLUMNS = (
    number("ohms", "Ω", "resistance of a resistor, coil or cold thermistor", above=0, high=1e9),
    number("watts", "W", "watts that a part is made for", above=0, high=1e4),
    number("tolerance", "%", "tolerance, percent", above=0, high=100),
    number("henries", "H", "inductance of a choke", above=0, high=1e3),
    number("hertz", "Hz", "frequency of a crystal", above=0, high=10e9),
    number("current", "A", "rated current", above=0, high=200),
    words("family", "type family of a regulator, such as 7805", 12),
    choice("characteristic", tuple(CHARACTERISTICS), "of a fuse: T, F and so on"),
    choice("output", ("ac", "regulated", "unregulated"), "what an adapter gives"),
    choice("centre", ("+", "-"), "the sign of an adapter's plug at its centre"),
    words("reads", "what was measured of it, as it is typed: drop 0.58, back OL lifted", 300),
    choice("judged", JUDGED, "a verdict by hand; the reason stands in note"),
)
#: What the value column says of a kind.
VALUE_IS = {
    "resistor": "ohms", "bleeder": "ohms", "thermistor": "ohms", "trimmer": "ohms", "relay": "ohms", "speaker": "ohms", "choke": "henries",
    "crystal": "hertz", "fuse": "current",
}  # fmt: skip
_UNITS = {"ohms": "Ω", "henries": "H", "hertz": "Hz", "current": "A"}


def device_of(row: Mapping[str, Any]) -> Device:
    """A part from a row of the survey table.

    Args:
        row: its cells by column, as they were read; value is text still.

    Returns:
        The part, as its typed line would be read.

    Raises:
        BadInput: a cell that such a part does not have, or a value without a meaning for its kind.
    """
    kind, facts = row["kind"], dict(row)
    if facts.get("value"):
        name = VALUE_IS.get(kind)
        if name is None:
            raise BadInput(
                facts["value"],
                f"no value for a {TITLES[kind]}",
                "Put its volts, amps or ohms into their columns.",
                field="value",
            )
        facts[name] = facts.get(name) or read(facts["value"], _UNITS[name], field="value", above=0)
    if facts.get("side") not in (None, "", *SIDES[:1]):
        raise BadInput(str(facts["side"]), f"the {SIDES[0]} side: other parts are listed there", field="side")
    note = str(facts.get("note") or "")
    for name, unit in (("henries", "H"), ("hertz", "Hz"), ("watts", "W")):
        if facts.get(name) and not _told(note, name, kind):
            note = f"{note} {_in_words(facts[name], unit)}".strip()
    if facts.get("tolerance") and not re.search(r"\d ?%", note):
        note = f"{note} {facts['tolerance']:g}%".strip()
    reads, lifted = (), None
    if facts.get("reads"):
        told = read_measured(facts["reads"], kind, note)
        if told.rest or not told.readings:
            raise BadInput(facts["reads"], f"readings of a {TITLES[kind]}, such as drop 0.58, back OL", field="reads")
        reads, lifted = told.readings, told.lifted
    part = Device(
        ref=facts["ref"],
        what=kind,
        volts=facts.get("volts"),
        current=facts.get("current"),
        family=str(facts.get("family") or "").upper(),
        characteristic=facts.get("characteristic") or "",
        looks=facts.get("looks") or "",
        across=facts.get("diameter"),
        length=facts.get("height"),
        x=facts.get("x"),
        y=facts.get("y"),
        note=note[:400],
        output=facts.get("output") or "",
        centre=(facts.get("centre") or "").replace("-", "−"),
        ohms=facts.get("ohms"),
        reads=reads,
        lifted=lifted,
        judged=facts.get("judged") or "",
    )
    # as its line reads back: a family tells its volts, a note its words
    return read_device(part.as_line())


def _told(note: str, name: str, kind: str) -> bool:
    return getattr(Device(ref="A1", what=kind, note=note), name) is not None


def _in_words(value: float, unit: str) -> str:
    for letter, scale in (("M", 1e6), ("k", 1e3), ("", 1.0), ("m", 1e-3), ("u", 1e-6), ("n", 1e-9)):
        if (
            value >= scale * 0.9999999
            and (unit != "W" or letter in ("", "m"))
            and (unit != "H" or letter not in ("M", "k"))
        ):
            return f"{value / scale:.9g}{letter}{unit}"
    return f"{value:.9g}{unit}"


def row_of(part: Device) -> dict[str, Any]:
    """A part as a row of the survey table; what its note tells stands in its column as well."""
    return {
        "ref": part.ref,
        "value": "",
        "kind": part.what,
        "volts": None if part.family else part.volts,
        "diameter": part.across,
        "height": part.length,
        "looks": part.looks,
        "x": part.x,
        "y": part.y,
        "note": part.note,
        "ohms": part.ohms,
        "watts": part.watts,
        "tolerance": round(part.tolerance * 100, 9) if part.tolerance else None,
        "henries": part.henries,
        "hertz": part.hertz,
        "current": part.current,
        "family": part.family,
        "characteristic": part.characteristic,
        "output": part.output,
        "centre": part.centre.replace("−", "-"),
        "reads": write_measured(part.reads, part.lifted),
        "judged": part.judged,
    }
