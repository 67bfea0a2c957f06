"""What the forms of Intake ask: read into plain values, before a service sees them; all that cannot be taken is told at once."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from idlebench.core.board.devices import Device, read_device
from idlebench.core.board.first_look import BURNS, TRAITS
from idlebench.core.board.listing import named
from idlebench.core.board.monitor_lines import read_monitor
from idlebench.core.board.replacement import Wire, read_wire
from idlebench.core.board.zones import Zone, read_zone
from idlebench.core.choose.supply_model import read_model
from idlebench.core.judge.evidence import ESR_CRITERIA
from idlebench.core.judge.triage import TIMES, read_condition
from idlebench.core.prove import EARTH_MOST, WAYS
from idlebench.core.prove.rounds import DEPTHS
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.truth import read_truth
from idlebench.core.text.rails_and_chips import Rail, chip_line, read_chip, read_rail
from idlebench.core.text.stored import canonical
from idlebench.instruments import meter_address

from ..records.models import Board
from ..ui.fields import Boxes, TypedField, TypedForm, number_field, option_field, whole_field, words, words_field
from ..unit.policies import all_policies

T = TypeVar("T")

#: Values of a row by their fields.
Facts = dict[str, Any]


def _lines_field(read_one: Callable[[str], T], write: Callable[[T], str], key: Callable[[T], str]) -> TypedField:
    """Typed lines in their canonical form, each once; the line number is in the complaint."""

    def reader(text: str, name: str) -> str:
        seen, out = {}, []
        for i, line in enumerate(text.splitlines(), 1):
            if not line.strip():
                continue
            try:
                out.append(canonical(line, read_one, write))
                its = key(read_one(line))
                if its in seen:
                    raise BadInput(line, f"each once; {its} is in line {seen[its]} already")
                seen[its] = i
            except BadInput as error:
                raise error.within(f"line {i}") from None
        return "\n".join(out)

    return TypedField(reader)


def _whole_text_field(read_all: Callable[[str], object]) -> TypedField:
    """Lines that are read together, so that what is stored can be read again; stored as they were typed."""

    def reader(text: str, name: str) -> str:
        lines = "\n".join(line.strip() for line in text.splitlines() if line.strip())
        read_all(lines)
        return lines

    return TypedField(reader)


def _traits(text: str, name: str) -> list[str]:
    for word in text.split():
        if word not in TRAITS:
            raise BadInput(word, f"some of {', '.join(TRAITS)}", field=name)
    return [one for one in TRAITS if one in text.split()]


def _meter(text: str, name: str) -> str:
    return meter_address(text) if words(text, name, "an address", 120) else ""


class JobForm(TypedForm):
    """A job and its ways of working."""

    name = words_field("a name for the job", 120, required=True)
    owner = words_field("an owner", 120)
    machine = words_field("the kind of machine", 120, required=True)
    made = whole_field(1900, 2100)
    policy = option_field(all_policies, "renew")
    school = option_field(ESR_CRITERIA, "strict")
    way = option_field(WAYS, "lamp")
    rounds = option_field(DEPTHS, "")
    mains_volts = number_field("V", 230.0, low=90, high=260)
    earth_limit = number_field("Ω", EARTH_MOST, above=0, high=EARTH_MOST)
    mains_frequency = number_field("Hz", 50.0, low=16, high=400)
    meter_frequency = number_field("Hz", 120.0, low=20, high=1e6)
    hour_rate = number_field("", 20.0, low=0, high=10_000)
    traits = TypedField(_traits, widget=Boxes(TRAITS))
    meter = TypedField(_meter)


def _unit_names(text: str, name: str) -> list[str]:
    names = [n.strip() for n in words(text, name, "names", 200).split(",") if n.strip()] or ["A"]
    if len(names) != len(set(names)) or len(names) > 24 or any(len(n) > 40 for n in names):
        raise BadInput(", ".join(names), "up to 24 different short names, such as A, B, C", field=name)
    return names


class NewJobForm(JobForm):
    """A new job with its units, from a list with commas; A where none is named."""

    units = TypedField(_unit_names)


class UnitNameForm(TypedForm):
    """The name of one more unit."""

    name = words_field("a short name, such as D", 40, required=True)


class UnitForm(TypedForm):
    """Serial number, symptoms as told, what is missing, found or mended before, date codes, burn-in."""

    serial = words_field("a serial number", 60)
    symptoms = words_field("symptoms", 2000)
    missing = words_field("missing parts", 2000)
    found = words_field("what was found", 2000)
    repairs = words_field("earlier repairs", 2000)
    dates = words_field("date codes", 2000)
    burn = option_field(BURNS, "")


class WorthForm(TypedForm):
    """What a unit is worth, None where nobody said, and how many pads and traces are damaged."""

    worth = number_field("", low=0, high=1e7)
    damage = whole_field(0, 500, 0)
    condition = TypedField(lambda text, name: read_condition(text))


class BoardForm(TypedForm):
    """A board; its lines are read, so that what is stored can be read again."""

    name = words_field("the board's name, such as MB-80", 60, required=True)
    title = words_field("its kind", 80)
    serial = words_field("the number on the board", 60)
    supply = option_field(("", Board.LINEAR, Board.SWITCHING), "")
    width = number_field("mm", 200.0, low=10, high=1000)
    height = number_field("mm", 140.0, low=10, high=1000)
    expected = whole_field(0, 2000)
    fuse = words_field("the fuse's marking", 60)
    source_volts = number_field("V", above=0, high=1000)
    source_va = number_field("", above=0, high=5000)
    rails = _lines_field(read_rail, Rail.as_line, lambda r: r.name)
    chips = _lines_field(read_chip, chip_line, lambda c: c.ref)
    zones = _lines_field(read_zone, Zone.as_line, Zone.as_line)
    others = _lines_field(lambda line: read_device(named(line)), Device.as_line, lambda d: d.ref)
    supply_model = _whole_text_field(read_model)
    monitor_model = _whole_text_field(read_monitor)
    truth = _whole_text_field(read_truth)


#: What typed lines of a board look like, by field.
HINTS = {
    "rails": ("+5 V 3.1 A min 0.5 A"),
    "chips": ("U1 processor 46x14 at 100,26 gnd 20 +5V 40 clock 18 moves 33,34"),
    "others": ("VR1 regulator 7805 1A\nBT1 battery 3.6V leaking"),
    "zones": ("heat 70 heatsink at 40,30 60x20\ndaughter 12 MB-81 at 60,40 50x30 hides C12,C13"),
    "supply_model": (
        "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A heatsink 8\n"
        "bridge mains 10ohm reservoir C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A\n"
        "rail +5V 3.1A duty 0.47 capacitors C14,C15"
    ),
    "monitor_model": (
        "monitor 15.625kHz 50Hz tube 12kV nominal 12in\n"
        "line stage B+ 12V retrace C12 6n8 yoke 1.2mH deflection C15 boost C18 transformer T2 shutdown TP3\n"
        "field output IC1 capacitor C22 1000u into 12mH 8ohm\n"
        "heater 12V 0.6A"
    ),
    "truth": ("C14 esr 1.2@100k\nJ2 joint 0.06 pressed 0.01"),
}


def _wires(text: str, name: str) -> tuple[Wire, ...]:
    return tuple(read_wire(line) for line in text.splitlines() if line.strip())


class ModernUnitForm(BoardForm):
    """A modern unit that replaces a supply: its facts as a board's, its rails and its harness."""

    wiring = TypedField(_wires)


class DonorForm(TypedForm):
    """A donor's board in the place of another: which, and its harness."""

    donor = TypedField(lambda text, name: _donor(text))
    wiring = TypedField(_wires)


class OwnTimesForm(TypedForm):
    """The shop's own times, minutes; an empty field goes back to what a shop starts with."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields.update({name: number_field("", low=0, high=10_000) for name in TIMES})


def job_facts(typed: Mapping[str, str]) -> Facts:
    """The fields of a job as typed.

    Raises:
        SeveralRefused: all that cannot be taken.
    """
    return JobForm(typed).facts()


def new_job(typed: Mapping[str, str]) -> tuple[Facts, list[str]]:
    """The fields of a new job as typed, and the names of its units.

    Raises:
        SeveralRefused: all that cannot be taken.
    """
    facts = NewJobForm(typed).facts()
    return facts, facts.pop("units")


def unit_name(typed: Mapping[str, str]) -> str:
    """The name of one more unit."""
    return UnitNameForm(typed).facts()["name"]


def unit_facts(typed: Mapping[str, str]) -> Facts:
    """What is known of a unit."""
    return UnitForm(typed).facts()


def worth_facts(typed: Mapping[str, str]) -> Facts:
    """What a unit is worth, and its damage."""
    return WorthForm(typed).facts()


def own_minutes(typed: Mapping[str, str]) -> dict[str, float]:
    """The shop's own times that were typed, minutes."""
    return {name: minutes for name, minutes in OwnTimesForm(typed).facts().items() if minutes is not None}


def board_facts(typed: Mapping[str, str]) -> Facts:
    """The fields of a board as typed.

    Raises:
        SeveralRefused: all that cannot be taken.
    """
    return BoardForm(typed).facts()


#: What a modern unit has none of: it is closed.
_CLOSED = dict.fromkeys(("chips", "zones", "others", "supply_model", "monitor_model", "truth"), "")


def replacement(typed: Mapping[str, str]) -> tuple[Facts, tuple[Rail, ...], tuple[Wire, ...]]:
    """A modern unit as typed: its facts as a board's, its rails and its harness.

    Raises:
        SeveralRefused: all that cannot be taken.
    """
    facts = ModernUnitForm({**typed, "supply": Board.SWITCHING, **_CLOSED}).facts()
    wires, rails = facts.pop("wiring"), tuple(read_rail(line) for line in facts["rails"].splitlines())
    if not rails:
        raise BadInput("", "its rails, one a line, such as +5 V 5 A", field="rails")
    return facts, rails, wires


def donor(typed: Mapping[str, str]) -> tuple[int, tuple[Wire, ...]]:
    """The donor's board that was chosen, by its key, and its harness.

    Raises:
        SeveralRefused: all that cannot be taken.
    """
    facts = DonorForm(typed).facts()
    return facts["donor"], facts["wiring"]


def _donor(text: str) -> int:
    text = text.strip()
    row = Board.objects.filter(pk=int(text)).first() if re.fullmatch(r"[0-9]{1,15}", text) else None
    if row is None:
        raise BadInput(text, "a board of another unit of this job", "Choose one of the list.", field="donor")
    return row.pk
