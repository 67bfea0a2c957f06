"""What the forms of Intake ask: read into plain values, before a service sees them."""

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
from idlebench.core.judge.triage import TIMES
from idlebench.core.judge.verdict import SCHOOLS
from idlebench.core.prove import EARTH_MOST, WAYS
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.truth import read_truth
from idlebench.core.text.quantity import read
from idlebench.core.text.rails_and_chips import Rail, chip_line, read_chip, read_rail
from idlebench.core.text.stored import canonical
from idlebench.instruments import meter_address

from ..records.models import Board
from ..ui.fields import number, option, whole, words
from ..unit.policies import all_policies

T = TypeVar("T")

#: Values of a row by their fields.
Facts = dict[str, Any]


def _or(value: float | None, default: float) -> float:
    """The value, nought included, or the default where nothing was typed."""
    return default if value is None else value


def job_facts(typed: Mapping[str, str]) -> dict[str, object]:
    """The fields of a job as typed.

    Raises:
        BadInput: naming the field.
    """
    return {
        "name": words(typed, "name", "a name for the job", 120, required=True),
        "owner": words(typed, "owner", "an owner", 120),
        "machine": words(typed, "machine", "the kind of machine", 120, required=True),
        "made": whole(typed, "made", 1900, 2100),
        "policy": option(typed, "policy", all_policies(), "renew"),
        "school": option(typed, "school", SCHOOLS, "strict"),
        "way": option(typed, "way", WAYS, "lamp"),
        "mains_volts": number(typed, "mains_volts", "V", low=90, high=260) or 230.0,
        "earth_limit": number(typed, "earth_limit", "Ω", above=0, high=EARTH_MOST) or EARTH_MOST,
        "mains_frequency": number(typed, "mains_frequency", "Hz", low=16, high=400) or 50.0,
        "meter_frequency": number(typed, "meter_frequency", "Hz", low=20, high=1e6) or 120.0,
        "hour_rate": _or(number(typed, "hour_rate", "", low=0, high=10_000), 20.0),
        "traits": _traits(typed),
        "meter": meter_address(typed["meter"]) if words(typed, "meter", "an address", 120) else "",
    }


def _traits(typed: Mapping[str, str]) -> list[str]:
    """What the machine has: a box each in a form, or one word a line."""
    listed = str(typed.get("traits") or "").split()
    for name in listed:
        if name not in TRAITS:
            raise BadInput(name, f"some of {', '.join(TRAITS)}", "", "traits")
    return [name for name in TRAITS if name in listed or typed.get(f"has_{name}")]


def unit_names(typed: Mapping[str, str]) -> list[str]:
    """The units of a new job, from a list with commas; A where none is named.

    Raises:
        BadInput: two alike, too many, or a long one.
    """
    names = [n.strip() for n in words(typed, "units", "names", 200).split(",") if n.strip()] or ["A"]
    if len(names) != len(set(names)) or len(names) > 24 or any(len(n) > 40 for n in names):
        raise BadInput(", ".join(names), "up to 24 different short names, such as A, B, C", "", "units")
    return names


def unit_name(typed: Mapping[str, str]) -> str:
    """The name of one more unit."""
    return words(typed, "name", "a short name, such as D", 40, required=True)


def unit_facts(typed: Mapping[str, str]) -> Facts:
    """Serial number, symptoms as told, what is missing, found or mended before, date codes."""
    return {
        "serial": words(typed, "serial", "a serial number", 60),
        "symptoms": words(typed, "symptoms", "symptoms", 2000),
        "missing": words(typed, "missing", "missing parts", 2000),
        "found": words(typed, "found", "what was found", 2000),
        "repairs": words(typed, "repairs", "earlier repairs", 2000),
        "dates": words(typed, "dates", "date codes", 2000),
        "burn": option(typed, "burn", BURNS, ""),
    }


def worth_facts(typed: Mapping[str, str]) -> Facts:
    """What a unit is worth, None where nobody said, and how many pads and traces are damaged."""
    return {"worth": number(typed, "worth", "", low=0, high=1e7), "damage": whole(typed, "damage", 0, 500) or 0}


def own_minutes(typed: Mapping[str, str]) -> dict[str, float]:
    """The shop's own times, minutes; an empty field goes back to what a shop starts with."""
    typed_times = {name: str(typed.get(name) or "").strip() for name in TIMES}
    return {name: read(text, "", field=name, low=0, high=10_000) for name, text in typed_times.items() if text}


def board_facts(typed: Mapping[str, str]) -> dict[str, object]:
    """The fields of a board as typed; rails and chips are read, so that what is stored can be read again."""
    rails = _lines(typed, "rails", read_rail, Rail.as_line, lambda r: r.name)
    chips = _lines(typed, "chips", read_chip, chip_line, lambda c: c.ref)
    zones = _lines(typed, "zones", read_zone, Zone.as_line, Zone.as_line)
    others = _lines(typed, "others", lambda line: read_device(named(line)), Device.as_line, lambda d: d.ref)
    return {
        "name": words(typed, "name", "the board's name, such as MB-80", 60, required=True),
        "title": words(typed, "title", "its kind", 80),
        "supply": option(typed, "supply", ("", Board.LINEAR, Board.SWITCHING), ""),
        "width": number(typed, "width", "mm", low=10, high=1000) or 200.0,
        "height": number(typed, "height", "mm", low=10, high=1000) or 140.0,
        "expected": whole(typed, "expected", 0, 2000),
        "fuse": words(typed, "fuse", "the fuse's marking", 60),
        "source_volts": number(typed, "source_volts", "V", above=0, high=1000),
        "source_va": number(typed, "source_va", "", above=0, high=5000),
        "rails": rails,
        "chips": chips,
        "zones": zones,
        "others": others,
        "supply_model": _supply(typed),
        "monitor_model": _monitor(typed),
        "truth": _truth(typed),
    }


def replacement(typed: Mapping[str, str]) -> tuple[dict[str, object], tuple[Rail, ...], tuple[Wire, ...]]:
    """A modern unit as typed: its facts as a board's, its rails and its harness."""
    facts = board_facts(
        {
            **typed,
            "supply": Board.SWITCHING,
            "chips": "",
            "zones": "",
            "others": "",
            "supply_model": "",
            "monitor_model": "",
            "truth": "",
        }
    )
    rails = tuple(read_rail(line) for line in str(facts["rails"]).splitlines())
    if not rails:
        raise BadInput("", "its rails, one a line, such as +5 V 5 A", "", "rails")
    return facts, rails, harness(typed)


def harness(typed: Mapping[str, str]) -> tuple[Wire, ...]:
    """A harness as typed, a wire a line."""
    return tuple(read_wire(line) for line in str(typed.get("wiring") or "").splitlines() if line.strip())


def donor(typed: Mapping[str, str]) -> int:
    """The donor's board that was chosen, by its key."""
    text = str(typed.get("donor") or "").strip()
    row = Board.objects.filter(pk=int(text)).first() if re.fullmatch(r"[0-9]{1,15}", text) else None
    if row is None:
        raise BadInput(text, "a board of another unit of this job", "Choose one of the list.", "donor")
    return row.pk


def _supply(typed: Mapping[str, str]) -> str:
    """The lines of the supply, read so that what is stored can be read again."""
    text = "\n".join(line.strip() for line in str(typed.get("supply_model") or "").splitlines() if line.strip())
    read_model(text)
    return text


def _monitor(typed: Mapping[str, str]) -> str:
    """The lines of a monitor, read so that what is stored can be read again."""
    text = "\n".join(line.strip() for line in str(typed.get("monitor_model") or "").splitlines() if line.strip())
    read_monitor(text)
    return text


def _truth(typed: Mapping[str, str]) -> str:
    """What the stand-in finds different, read so that what is stored can be read again."""
    text = "\n".join(line.strip() for line in str(typed.get("truth") or "").splitlines() if line.strip())
    read_truth(text)
    return text


def _lines(
    typed: Mapping[str, str],
    name: str,
    read_one: Callable[[str], T],
    write: Callable[[T], str],
    key: Callable[[T], str],
) -> str:
    """Typed lines in their canonical form, each once; the line number is in the complaint."""
    seen, out = {}, []
    for i, line in enumerate(str(typed.get(name) or "").splitlines(), 1):
        if not line.strip():
            continue
        try:
            out.append(canonical(line, read_one, write))
            its = key(read_one(line))
            if its in seen:
                raise BadInput(line, f"each once; {its} is in line {seen[its]} already")
            seen[its] = i
        except BadInput as error:
            raise error.within(f"{name}, line {i}") from None
    return "\n".join(out)
