"""The tables of the open formats: survey and catalogue, from CSV to parts and back."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Any

from ..refusal import Ambiguous, BadInput
from ..text.csvtable import Column, Problem, choice, exact, number, read_table, whole, words, write_table, yes_no
from ..text.marking import PLAUSIBLE, read_marking
from ..text.quantity import read, show
from .device_table import DEVICE_COLUMNS, DEVICE_KINDS, device_of, row_of
from .devices import Device
from .listing import not_of_a_capacitor
from .parts import FITTED_FIELDS, KINDS, LOOKS, MOUNTINGS, SIDES, Capacitor, Fitted, read_looks, read_safety
from .roles import ROLES

REF = re.compile(r"[A-Z]{1,4}\d{1,5}[A-Z]?")


#: A bare decimal from this to under 1 is µF.
BARE_MICRO = 0.001


def read_ref(text: str) -> str:
    """A reference as printed on the board: letters, then a number."""
    ref = text.strip().upper()
    if not REF.fullmatch(ref):
        raise BadInput(
            text, "a reference such as C22 or C4A", "The reference is printed next to the part.", field="ref"
        )
    return ref


def read_value(text: str, kind: str = "") -> float:
    """A capacitor's value, F: with its unit, in SI, or as a marking that has one reading.

    Args:
        text: as it was typed.
        kind: the kind, a word of the open formats.

    Returns:
        F.

    Raises:
        BadInput: unreadable, absurd, or with two readings (both are named).
    """
    plain = text.strip()
    if re.search(r"\d\s*mF$", plain) and kind in ("wet", "polymer", "tantalum", "paper"):
        # on an electrolytic mF is the old spelling of µF, whatever it means elsewhere
        plain = plain[:-2] + "u"
    if re.fullmatch(r"0?[.,]\d+", plain) and BARE_MICRO <= float(f"0{plain.lstrip('0')}".replace(",", ".")) < 1:
        # that is how film, paper and tantalum are printed; under it nobody prints, and SI is meant
        plain = f"{plain}u"
    try:
        value = read(plain, "F")
    except Ambiguous:
        raise
    except BadInput:
        value = None
    bare = re.fullmatch(r"[\d.,]+", plain)
    if value is None or (bare and value >= 1):
        try:
            marking = read_marking(plain, kind if kind in PLAUSIBLE else "")
        except BadInput:
            raise BadInput(text, "a value such as 100u, 4n7 or 0.1 MFD", "Write its unit.", field="value") from None
        if marking.doubtful:
            both = " or ".join(r.text for r in marking.readings)
            units = tuple(show(r.capacitance, "F").replace(" ", "") for r in marking.readings)
            raise Ambiguous(plain, both, "Write the unit, such as 220u or 22p.", field="value", instead=units)
        value = marking.best.capacitance
    if not 1e-13 <= value <= 10:
        raise BadInput(plain, "a value between 0.1 pF and 10 F", "Check the unit and the decimal point.", field="value")
    return value


def write_value(value: float) -> str:
    """A capacitance so that it reads back the same: with its prefix, or in farads with the unit said.

    >>> write_value(0.0047), write_value(1.5)
    ('4700u', '1.5F')
    """
    text = exact(value, "pnu") if value < 1 else repr(value)
    # without its unit a decimal would be read as µF
    return text if text[-1:].isalpha() else f"{text}F"


SURVEY = (
    Column(name="ref", take=read_ref, required=True, about="reference printed on the board"),
    Column(name="value", take=str, required=True, about="marked value", unit="F"),
    number("volts", "V", "marked volts", above=0, high=100e3),
    choice("kind", KINDS, "kind of capacitor; electrolytic (wet) where it is empty"),
    choice("mounting", MOUNTINGS, "mounting", "radial"),
    number("diameter", "mm", "diameter, or length of a box", low=0.5, high=200),
    number("height", "mm", "height, or length of an axial part", low=0.5, high=300),
    number("pitch", "mm", "lead pitch", low=0.3, high=120),
    number("temperature", "°C", "marked temperature", low=-55, high=250),
    yes_no("bipolar", "no plus and minus"),
    Column(name="safety", take=read_safety, default="", about="safety class, one or two, such as X1/Y2"),
    choice("role", tuple(ROLES), "what the place does", "unknown"),
    words("rail", "supply rail it is on", 40),
    number("rail_volts", "V", "highest volts at the place", low=-100e3, high=100e3),
    number("ripple", "A", "ripple the place carries", low=0, high=200),
    number("frequency", "Hz", "at this frequency", above=0, high=1e9),
    number("ambient", "°C", "round the part", low=-40, high=200),
    number("room_diameter", "mm", "room across", low=0.5, high=300),
    number("room_height", "mm", "room above the board", low=0.5, high=500),
    words("series", "make series", 60),
    words("date", "date code", 20),
    Column(name="looks", take=read_looks, default="", about=f"looks: {', '.join(LOOKS)}"),
    number("esr", "Ω", "ESR read", low=0, high=10e6),
    number("esr_frequency", "Hz", "at this frequency", above=0, high=10e6),
    number("capacitance", "F", "capacitance read", low=0, high=100),
    number("leakage", "A", "leakage read", low=0, high=10),
    yes_no("in_circuit", "ESR was read in circuit"),
    number("x", "mm", "from the left edge", low=-50, high=2000),
    number("y", "mm", "from the top edge", low=-50, high=2000),
    number("angle", "", "° clockwise from the right to the minus side", default=0.0, low=-360, high=360),
    words("note", "anything else", 1000),
    choice("side", SIDES, "side of the board it stands on", "parts"),
)
#: The same for boards with parts of every kind: a value may be empty, and volts below ground.
WHOLE_SURVEY = (
    *SURVEY[:1],
    Column(
        name="value", take=str, headed=True, default="", about="marked value: F, or Ω, H, Hz or A by its kind", unit="F"
    ),
    number("volts", "V", "marked volts", low=-100e3, high=100e3),
    choice(
        "kind", (*KINDS, *DEVICE_KINDS), "kind of capacitor, electrolytic (wet) where it is empty; or of another part"
    ),
    *SURVEY[4:],
    *DEVICE_COLUMNS,
)

CATALOGUE = (
    words("part", "name in the catalogue", 60, required=True),
    words("series", "series", 60),
    choice("kind", KINDS, "what it is made of", "wet"),
    Column(name="value", take=str, required=True, about="value", unit="F"),
    number("tolerance", "%", "symmetric tolerance, percent", default=20.0, low=0, high=100),
    number(
        "volts",
        "V",
        "rated volts DC; a part with a safety class may have AC volts alone",
        default=0.0,
        above=0,
        high=100e3,
    ),
    number("ac_volts", "V", "rated volts AC", default=0.0, low=0, high=10e3),
    Column(name="safety", take=read_safety, default="", about="safety class, one or two, such as X1/Y2"),
    number("temperature", "°C", "rated temperature", default=85.0, low=-55, high=250),
    number("life", "h", "rated life at that temperature", default=0.0, low=0, high=1e6),
    number("ripple", "A", "rated ripple", low=0, high=200),
    number("ripple_frequency", "Hz", "at this frequency", default=120.0, above=0, high=1e9),
    number("esr", "Ω", "ESR or impedance", default=0.0, low=0, high=10e6),
    number("esr_frequency", "Hz", "at this frequency", default=120.0, above=0, high=1e9),
    yes_no("bipolar", "no plus and minus"),
    choice("mounting", MOUNTINGS, "how it stands", "radial"),
    number("diameter", "mm", "diameter, or length of a box", default=0.0, low=1, high=200),
    number("height", "mm", "height, or length of an axial part", default=0.0, low=1, high=300),
    number("pitch", "mm", "lead pitch", default=0.0, low=0, high=120),
    yes_no("low_impedance", "made for switching supplies"),
    yes_no("pulse", "pulse-rated"),
    number("price", "", "for one", default=0.0, low=0, high=1e6),
    whole("pack", "pieces in a pack", 1, 1),
    words("supplier", "who sells it", 60),
    whole("lead_days", "days until it comes"),
    whole("stock", "pieces on the shelf"),
    words("note", "anything else", 400),
)

#: What lies on a shelf of parts that are known, and what they cost.
STOCK = (
    words("part", "name in the catalogue", 60, required=True),
    *(column for column in CATALOGUE if column.name in ("price", "pack", "supplier", "lead_days", "stock")),
)

#: What was decided for each place, in a job bundle.
PLAN = (
    words("board", "the board's name", 60, required=True),
    Column(name="ref", take=read_ref, required=True, about="place"),
    choice("action", ("take", "keep", "out"), "take a new part, keep the old one, or leave it out for a test", "take"),
    words("item", "the part taken; empty for the best that fits", 60),
    yes_no("swapped", "soldered in already"),
    words("note", "damage and the like", 300),
)

#: Readings of checks in the order they were taken, in a job bundle.
READINGS = (
    words("check", "the check's key", 120, required=True),
    words("reading", "as typed", 60, required=True),
    words("reason", "for an override", 500),
)


@dataclass(frozen=True)
class TableParts:
    """What a file gave: the parts that could be read, and the problems of the rows that could not. devices: of a survey, the parts that are
    no capacitors."""

    parts: tuple[Any, ...]
    problems: tuple[Problem, ...]
    unknown: tuple[str, ...]
    devices: tuple[Device, ...] = ()


def _with_values(table, build, default_kind: str) -> TableParts:
    parts, problems = [], list(table.problems)
    for row in table.rows:
        line = row.pop("line")
        try:
            if not row["value"]:
                raise BadInput("", "a value", "", field="value")
            row["value"] = read_value(row["value"], row.get("kind") or default_kind)
            parts.append(build(row))
        except BadInput as error:
            problems.append(Problem(line, error.field or "value", error.read[:60], str(error)))
    return TableParts(tuple(parts), tuple(sorted(problems, key=lambda p: p.line)), tuple(table.unknown))


def read_survey(data: bytes | str) -> TableParts:
    """Read a survey CSV into Fitted parts.

    Args:
        data: the file's bytes.

    Returns:
        The parts, and a problem for each row that cannot be read.

    Raises:
        BadInput: the file as a whole cannot be taken.
    """
    table = read_table(data, WHOLE_SURVEY, unique="ref")
    others = [row for row in table.rows if row["kind"] in DEVICE_KINDS]
    devices, problems = [], []
    for row in others:
        try:
            devices.append(device_of(row))
        except BadInput as error:
            problems.append(Problem(row["line"], error.field or "kind", error.read[:60], str(error)))
    table.rows = [row for row in table.rows if row["kind"] not in DEVICE_KINDS]
    table.problems += problems
    return replace(_with_values(table, _fitted, "wet"), devices=tuple(devices))


def _fitted(row: dict[str, Any]) -> Fitted:
    """A row of a survey; a reference that no capacitor has is one only where its kind is said."""
    if not row["kind"] and (other := not_of_a_capacitor(row["ref"])):
        raise BadInput(
            row["ref"], f"a capacitor, and {row['ref']} is {other}'s reference",
            f"Fill in its kind if it is a capacitor; else type it as a line: {row['ref']} and what it is.", field="ref",
        )  # fmt: skip
    if row["volts"] is not None:
        read(f"{row['volts']:.12g}", "V", field="volts", above=0)
    if extra := next((c.name for c in DEVICE_COLUMNS if row[c.name] not in (None, "")), ""):
        raise BadInput(
            f"{extra} {row[extra]}",
            "an empty cell for a capacitor",
            "Only other parts have it: fill in kind.",
            field=extra,
        )
    return Fitted(
        **{name: row[name] for name in FITTED_FIELDS if name in row and name != "kind"}, kind=row["kind"] or "wet"
    )


def write_survey(parts: Iterable[Fitted], devices: Iterable[Device] = ()) -> str:
    """Write parts as a survey CSV that reads back the same; without other parts their columns are left out."""
    rows = [{**{f: getattr(p, f) for f in FITTED_FIELDS}, "value": write_value(p.value)} for p in parts]
    others = [row_of(one) for one in devices]
    return write_table(WHOLE_SURVEY if others else SURVEY, [*rows, *others])


def _capacitor(row: dict[str, Any]) -> Capacitor:
    row["tolerance"] = row["tolerance"] / 100
    if not row["volts"] and not (row["safety"] and row["ac_volts"]):
        raise BadInput("", "rated volts", "Only a part with a safety class may have AC volts alone.", field="volts")
    if row["safety"] and not row["ac_volts"]:
        raise BadInput(row["part"], "AC volts for a part with a safety class", "Fill in ac_volts.", field="ac_volts")
    if row["ripple"] == 0 and row["kind"] in ("wet", "polymer"):
        raise BadInput("0", "the rated ripple of an electrolytic", "Leave it empty if it is not known.", field="ripple")
    row["ripple"] = row["ripple"] or 0.0
    return Capacitor(**row)


def read_catalogue(data: bytes | str, tell: Callable[[int, int], None] | None = None) -> TableParts:
    """Read a catalogue CSV into Capacitors.

    Args:
        data: the file's bytes.
        tell: as read_table has it.

    Returns:
        The parts, and a problem for each row that cannot be read.

    Raises:
        BadInput: the file as a whole cannot be taken.
    """
    return _with_values(read_table(data, CATALOGUE, unique="part", tell=tell), _capacitor, "")


def write_catalogue(parts: Iterable[Capacitor]) -> str:
    """Write capacitors as a catalogue CSV that reads back the same."""
    rows = []
    for part in parts:
        row = {c.name: getattr(part, c.name) for c in CATALOGUE}
        row["ripple"] = part.ripple or None
        row["volts"] = part.volts or None
        rows.append({**row, "value": write_value(part.value), "tolerance": round(part.tolerance * 100, 9)})
    return write_table(CATALOGUE, rows)


def describe(part: Fitted) -> str:
    """A part as it is marked, in one line."""
    bits = [show(part.value, "F")]
    if part.volts:
        bits.append(show(part.volts, "V"))
    if part.temperature:
        bits.append(show(part.temperature, "°C"))
    if part.safety:
        bits.append(part.safety)
    return " ".join(bits)
