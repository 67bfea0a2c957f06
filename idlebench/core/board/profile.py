"""Board profiles: what a board should carry, without what was found on one unit's; and the difference to a board in hand."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..circuit.supply_lines import read_model
from ..refusal import BadInput
from ..text.quantity import show
from ..text.rails_and_chips import read_chip, read_rail
from .copies import SEEN
from .devices import read_device
from .monitor_lines import read_monitor
from .parts import Fitted
from .tables import describe, read_survey, write_survey
from .zones import read_zone

FORMAT, VERSION = "idlebench-board-profile", 1
#: Fields that make two parts of one place differ, with the words for them.
COMPARED = {
    "value": "value", "volts": "volts", "kind": "kind", "mounting": "mounting", "bipolar": "bipolar",
    "safety": "safety class", "side": "side",
}  # fmt: skip
#: What a profile carries as typed lines.
LINES = ("rails", "chips", "zones", "others", "steps", "supply_model", "monitor_model")
#: Values this near are the same.
SAME = 0.02
MOST_BYTES = 4_000_000


@dataclass(frozen=True, kw_only=True)
class Profile:
    """What a board should carry.

    Attributes:
        board: its name, MB-80. title, width, height (mm), supply, fuse: as of the board.
        parts: with place, role and room, nothing measured. rails, chips, zones, others, supply_model, monitor_model: typed lines.
        steps: dismantling steps as typed. source_volts, source_va: of its transformer, as labelled.
    """

    board: str
    title: str = ""
    width: float = 200.0
    height: float = 140.0
    supply: str = ""
    fuse: str = ""
    parts: tuple[Fitted, ...] = ()
    rails: tuple[str, ...] = ()
    chips: tuple[str, ...] = ()
    zones: tuple[str, ...] = ()
    others: tuple[str, ...] = ()
    steps: tuple[str, ...] = ()
    supply_model: tuple[str, ...] = ()
    monitor_model: tuple[str, ...] = ()
    source_volts: float | None = None
    source_va: float | None = None


def bare(part: Fitted) -> Fitted:
    """A part without what was seen, measured and noted of it on one unit."""
    return part.with_(**{**SEEN, "series": "", "note": ""})


def bare_device(line: str) -> str:
    """A regulator's, fuse's, battery's or winding's line as a board should have it: no looks, and not taken out.

    >>> bare_device('BT1 battery 3.6V missing at 222,163 note taken out, was leaking')
    'BT1 battery 3.6V at 222,163'
    """
    device = read_device(line)
    notes = [note for note in device.note.split("; ") if not note.startswith("taken out")]
    return replace(device, looks="", note="; ".join(notes)).as_line()


def write_profile(profile: Profile) -> str:
    """A profile as the JSON that is handed to others."""
    data: dict[str, Any] = {"format": FORMAT, "version": VERSION}
    for name in ("board", "title", "width", "height", "supply", "fuse"):
        data[name] = getattr(profile, name)
    for name in ("source_volts", "source_va"):
        if getattr(profile, name) is not None:
            data[name] = getattr(profile, name)
    for name in LINES:
        data[name] = list(getattr(profile, name))
    data["others"] = [bare_device(line) for line in profile.others]
    data["parts"] = write_survey(map(bare, profile.parts)).splitlines()
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def read_profile(data: bytes) -> Profile:
    """Read a profile from JSON; every line in it has to be readable.

    Args:
        data: the file's bytes.

    Returns:
        The profile, every line in its one spelling.

    Raises:
        BadInput: not a profile, or a line of it that cannot be read.
    """
    if len(data) > MOST_BYTES:
        raise BadInput(f"{len(data) / 1e6:.0f} MB", f"at most {MOST_BYTES / 1e6:.0f} MB", field="profile")
    try:
        found = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        raise BadInput(
            "the file",
            "a board profile as it is saved from Survey",
            "The file was changed or cut off.",
            field="profile",
        ) from None
    if not isinstance(found, Mapping) or found.get("format") != FORMAT or found.get("version") != VERSION:
        raise BadInput("the file", f'"format": "{FORMAT}" and "version": {VERSION}', field="profile")
    board = _text(found, "board", 60)
    if not board:
        raise BadInput("", "the name of the board it describes", field="board")
    table = read_survey("\n".join(_lines(found, "parts")) + "\n") if found.get("parts") else None
    if table and table.problems:
        raise BadInput("parts", "a table in which every row can be read", str(table.problems[0]), field="profile")
    for name, read_one in (("rails", read_rail), ("chips", read_chip), ("zones", read_zone), ("others", read_device)):
        for line in _lines(found, name):
            read_one(line)
    read_model("\n".join(_lines(found, "supply_model")))
    read_monitor("\n".join(_lines(found, "monitor_model")))
    return Profile(
        board=board,
        title=_text(found, "title", 80),
        width=_size(found, "width"),
        height=_size(found, "height"),
        supply=found.get("supply") if found.get("supply") in ("linear", "switching") else "",
        fuse=_text(found, "fuse", 60),
        parts=tuple(map(bare, table.parts)) if table else (),
        **{name: tuple(_lines(found, name)) for name in LINES},
        source_volts=_number(found, "source_volts", 2000.0),
        source_va=_number(found, "source_va", 5000.0),
    )


def _text(found: Mapping[str, Any], name: str, longest: int) -> str:
    text = found.get(name, "")
    if not isinstance(text, str) or len(text) > longest:
        raise BadInput(str(text)[:60], f"a text of at most {longest} characters", field=name)
    return text.strip()


def _number(found: Mapping[str, Any], name: str, most: float) -> float | None:
    number = found.get(name)
    if number is None:
        return None
    if isinstance(number, bool) or not isinstance(number, (int, float)) or not 0 < number <= most:
        raise BadInput(str(number), f"a number up to {most:g}", field=name)
    return float(number)


def _size(found: Mapping[str, Any], name: str) -> float:
    size = found.get(name)
    if isinstance(size, bool) or not isinstance(size, (int, float)) or not 10 <= size <= 1000:
        raise BadInput(str(size), "a size of 10 to 1000 mm", field=name)
    return float(size)


def _lines(found: Mapping[str, Any], name: str) -> list[str]:
    lines = found.get(name, [])
    if not isinstance(lines, list) or not all(isinstance(line, str) for line in lines) or len(lines) > 5000:
        raise BadInput(str(lines)[:60], "a list of texts", field=name)
    return lines


@dataclass(frozen=True)
class Changed:
    """A place whose part differs from the profile, and in what."""

    ref: str
    words: str


@dataclass(frozen=True)
class Difference:
    """A board in hand against its profile.

    Attributes:
        missing: parts of the profile that are not on the board. extra: parts that the profile does not know.
        changed: places with another part. same: how many agree.
    """

    missing: tuple[Fitted, ...]
    extra: tuple[Fitted, ...]
    changed: tuple[Changed, ...]
    same: int

    @property
    def agrees(self) -> bool:
        return not (self.missing or self.extra or self.changed)


def belongs(profile: Profile, board: str) -> None:
    """Refuse a profile that is for another board.

    Args:
        profile: what a board should carry.
        board: the board's name.

    Raises:
        BadInput: it is for another.
    """
    if profile.board.casefold() != board.casefold():
        raise BadInput(
            f"a profile of {profile.board}",
            f"one of {board}",
            f"If this board is a {profile.board}, rename it at Intake first.",
            field="profile",
        )


def difference(profile: Profile, parts: Sequence[Fitted]) -> Difference:
    """What is missing, extra or changed on a board against its profile. A part marked as missing is missing.

    >>> p = Profile(board='MB-80', parts=(Fitted(ref='C1', value=1e-4, volts=16), Fitted(ref='C2', value=1e-5, volts=16)))
    >>> d = difference(p, [Fitted(ref='C1', value=2.2e-4, volts=16), Fitted(ref='C9', value=1e-6, volts=50)])
    >>> [m.ref for m in d.missing], [e.ref for e in d.extra], d.changed[0].words
    (['C2'], ['C9'], 'value 220 µF, should be 100 µF')
    """
    here = {p.ref: p for p in parts if p.looks != "missing"}
    wanted = {p.ref: p for p in profile.parts}
    changed, same = [], 0
    for ref, part in wanted.items():
        if ref not in here:
            continue
        words = [text for name in COMPARED if (text := _differs(name, here[ref], part))]
        if words:
            changed.append(Changed(ref, "; ".join(words)))
        else:
            same += 1
    return Difference(
        tuple(p for ref, p in wanted.items() if ref not in here),
        tuple(p for ref, p in here.items() if ref not in wanted),
        tuple(changed),
        same,
    )


def _differs(name: str, here: Fitted, should: Fitted) -> str:
    """How one field differs, in words; "" where it does not."""
    one, other = getattr(here, name), getattr(should, name)
    if name in ("value", "volts"):
        if one is None or other is None or abs(one - other) <= SAME * abs(other):
            return ""
        unit = "F" if name == "value" else "V"
        return f"{COMPARED[name]} {show(one, unit)}, should be {show(other, unit)}"
    if one == other:
        return ""
    if name == "bipolar":
        return "bipolar, should have a polarity" if one else "has a polarity, should be bipolar"
    return f"{COMPARED[name]} {one or 'none'}, should be {other or 'none'}"


__all__ = [
    "Changed",
    "Difference",
    "Profile",
    "bare",
    "belongs",
    "describe",
    "difference",
    "read_profile",
    "write_profile",
]
