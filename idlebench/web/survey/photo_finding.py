"""Parts found in the photo under a board: looked for in a process of its own, proposed, and listed when somebody says so.

What was found lies in a file beside the squared-up photo and goes with it; it can be found again at any time. Which proposals are listed
is told by the places of the parts, never kept: a part that is removed is proposed again.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import threading
from collections.abc import Callable
from dataclasses import astuple, dataclass, replace
from functools import cached_property

from idlebench.core.board.listing import is_device
from idlebench.core.board.quickline import read_line
from idlebench.core.photo.listing import alike, from_photo, in_rows, listed_at, marked, named, offered_line, room_of
from idlebench.core.photo.proposals import Found
from idlebench.core.refusal import BadInput

from .. import home
from ..records.models import Board, Part, Underlay
from ..unit.door import in_unit_transaction
from ..unit.log import log
from ..unit.parts import BoardState
from ..unit.photo_seen import near_joints, seen_in
from ..unit.series import save_part
from .services import asked_about, find_before
from .typed import field_of, in_full, on_board, write_typed

#: One photo is looked at at a time: it takes some hundred megabytes. Longer than this it takes none, s.
_one = threading.Lock()
#: What somebody set aside is written by one at a time.
_written = threading.Lock()
LONGEST = 180.0


#: The largest diameter that a place takes, mm, and the neighbour it meets then.
Room = tuple[float, str] | None


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """Something found: its number, what was seen, the reference that is listed there, whether somebody said that it is no part, and how
    it would be called as one of those that look alike."""

    number: int
    found: Found
    listed: str
    away: bool
    called: str = ""

    @property
    def open(self) -> bool:
        """Whether it waits for somebody."""
        return not self.listed and not self.away

    @property
    def radius(self) -> float:
        """Of the ring round a can, mm in the photo."""
        return (self.found.seen or 0.0) / 2 + 0.6

    @property
    def left(self) -> float:
        return self.found.x - (self.found.width or 0.0) / 2

    @property
    def above(self) -> float:
        return self.found.y - (self.found.height or 0.0) / 2

    @property
    def label_y(self) -> float:
        """Where its name is written, mm: above it."""
        turned = self.found.kind == "box" and 45 < self.found.angle < 135
        high = (self.found.width if turned else self.found.height) or 0.0
        return self.found.top[1] - (self.radius if self.found.kind == "can" else high / 2) - 0.8

    @property
    def stripe_side(self) -> str:
        """The side its stripe is on, in a word."""
        return ("right", "below", "left", "above")[round((self.found.stripe or 0.0) / 90) % 4]

    @property
    def percent(self) -> int:
        return round(100 * self.found.share)

    @property
    def offered(self) -> str:
        """Its line as what is printed gives it."""
        return offered_line(self.found)

    @property
    def read(self) -> list[tuple[str, str, int]]:
        """What was read: where, what, and how surely in per cent; a marking with what it says."""
        found, marking = self.found, marked(self.found)
        on_it = f"{found.text}, {marking.text}" if marking else found.text
        told = (("on the board", found.ref, found.ref_share), ("on the part", on_it, found.text_share))
        return [(where, words, round(100 * (share or 0.0))) for where, words, share in told if words]

    @property
    def name(self) -> str:
        """What it is called: as it is listed, as it was read, or by its kind."""
        return self.listed or (f"{self.found.ref}?" if self.found.ref else f"A {self.found.kind}")


@dataclass(frozen=True, kw_only=True)
class Findings:
    """All that was found in a photo, in the order it is read. distance: of the camera, mm, where the cans told it. read: whether what
    is printed was read."""

    proposals: tuple[Proposal, ...]
    distance: float | None
    read: bool

    @cached_property
    def open(self) -> list[Proposal]:
        return [one for one in self.proposals if one.open]

    def of(self, number: int) -> Proposal:
        """A proposal by its number.

        Raises:
            BadInput: there is none such.
        """
        for one in self.proposals:
            if one.number == number:
                return one
        raise BadInput(str(number), "something that was found in this photo", "Find the parts again.", field="at")

    def beside(self, number: int, step: int) -> int:
        """The number of the next open proposal, or the one before."""
        numbers = [one.number for one in self.proposals if one.open or one.number == number]
        if not numbers:
            return number
        at = numbers.index(number) if number in numbers else -step
        return numbers[(at + step) % len(numbers)]

    def like(self, number: int) -> list[Proposal]:
        """Open proposals that look like one, in the order they are read from there on, those before it last: as boards are numbered."""
        one = self.of(number)
        at = self.proposals.index(one)
        order = (*self.proposals[at + 1 :], *self.proposals[:at])
        return [p for p in order if p.open and alike(one.found, p.found)]

    def room(self, number: int) -> Room:
        """The largest diameter that a place takes, mm, and what it meets."""
        one = self.of(number)
        return room_of(
            one.found,
            [
                (p.listed or p.found.ref or f"the {p.found.kind} beside it", p.found)
                for p in self.proposals
                if not p.away and p is not one
            ],
        )


def find(board: BoardState, tell: Callable[[str], object]) -> int:
    """Look for parts in the photo under a board, and after a swap for solder between joints in that of the solder side; says how many
    things were found.

    Raises:
        BadInput: another photo is being looked at, or nothing can be found in this one; it says what to do.
    """
    if not _one.acquire(blocking=False):
        raise BadInput("a second photo", "one photo at a time", "Try again when the other is done.", field="photo")
    try:
        told = {underlay: _looked(board, underlay, tell) for underlay in to_look_at(board)}
    finally:
        _one.release()
    for underlay, kept in told.items():
        home.written(underlay.found_path, json.dumps({**kept, "away": []}).encode())
    return sum(len(kept.get("parts", ())) + len(kept.get("joined", ())) for kept in told.values())


def to_look_at(board: BoardState) -> list[Underlay]:
    """The photos under a board that something can be found in: the parts side's, and the solder side's once a part was swapped."""
    there = board.row.underlays.select_related("photo", "board").order_by("side")
    return [one for one in there if one.side == "parts" or near_joints(board, one)]


def _looked(board: BoardState, underlay: Underlay, tell: Callable[[str], object]) -> dict[str, list[object]]:
    """What the process that looks prints."""
    row = board.row
    command = [sys.executable, "-m", "idlebench.seeing", str(underlay.path), f"{row.width:g}", f"{row.height:g}"]
    asked = ""
    if underlay.side != "parts":
        command.append("joints")
        asked = json.dumps([(astuple(one), astuple(other)) for one, other in near_joints(board, underlay)])
    process = subprocess.Popen(
        command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    )
    clock = threading.Timer(LONGEST, process.kill)
    clock.start()
    last = ""
    try:
        if process.stdin:
            process.stdin.write(asked)
            process.stdin.close()
        for line in process.stdout or ():
            last = line.strip()
            if not last.startswith("{"):
                tell(last[:80])
        code = process.wait()
    except BaseException:
        process.kill()
        process.wait()
        raise
    finally:
        clock.cancel()
        if process.stdout:
            process.stdout.close()
    if code == 2:
        said = json.loads(last)
        raise BadInput(said["read"], said["expected"], said["mend"], field=said["field"])
    if code != 0:
        raise BadInput(
            "this photo", "one that can be looked through", "Take another, and square it up again.", field="photo"
        )
    return json.loads(last)


def findings(board: BoardState, underlay: Underlay) -> Findings | None:
    """What was found in the photo under a board; None before somebody asked."""
    seen = seen_in(underlay)
    if seen is None:
        return None
    numbers = {id(one): i for i, one in enumerate(seen.parts)}
    places = [(p.ref, p.core.x, p.core.y) for p in board.parts if p.core.side == underlay.side]
    places += [(d.ref, d.device.x, d.device.y) for d in board.devices]
    places += [(c.ref, c.x, c.y) for c in board.chips]
    found = (
        Proposal(number=numbers[id(one)], found=one, listed=listed_at(one, places), away=numbers[id(one)] in seen.away)
        for one in in_rows(seen.parts)
    )
    return Findings(proposals=tuple(found), distance=seen.distance, read=seen.read)


def set_aside(underlay: Underlay, number: int, away: bool = True) -> None:
    """Say that something found is no part, or that it may be one after all."""
    path = underlay.found_path
    with _written:
        kept = json.loads(path.read_bytes())
        if not 0 <= number < len(kept["parts"]):
            raise BadInput(str(number), "something that was found in this photo", field="at")
        kept["away"] = sorted({*kept["away"], number} if away else {*kept["away"]} - {number})
        home.written(path, json.dumps(kept).encode())


@in_unit_transaction("The survey cannot be changed")
def take(board: Board, typed: str, found: Found, room: Room = None) -> tuple[str, str]:
    """List something found as it was typed, its place and diameter from the photo. Says its reference, and the words that were not
    understood: they are saved as its note.

    Raises:
        BadInput: the line cannot be read, or its part stands elsewhere already.
    """
    return _taken(board, typed, found, room)


def _standing(board: Board, found: Found) -> str:
    """The capacitor that is listed where something was found, asked inside the unit's door: somebody else may have listed it since."""
    return listed_at(found, board.parts.filter(side="parts").values_list("ref", "x", "y"))


def _taken(board: Board, typed: str, found: Found, room: Room) -> tuple[str, str]:
    if standing := _standing(board, found):
        raise BadInput(standing, "a place where nothing is listed yet", f"{standing} stands there.", field="line")
    text = in_full(board, typed.strip())
    if is_device(text) or field_of(text):
        ref = text.split()[0].upper()
        lines = [*board.others.splitlines(), *board.chips.splitlines()]
        if any(line.split()[:1] == [ref] and " at " in line for line in lines):
            raise BadInput(
                ref, f"a reference that has no place yet; {ref} stands elsewhere on {board.name}", field="line"
            )
        at = "" if " at " in f" {text} " else f" at {found.x:.1f},{found.y:.1f}"
        write_typed(board, f"{text}{_size_if_chip(text, found)}{at}")
        return ref, ""
    line = read_line(text)
    before = find_before(board, line)
    if before is not None and before.x is not None:
        raise BadInput(
            line.ref,
            f"a reference that has no place yet; {line.ref} stands at {before.x:g},{before.y:g} mm",
            field="line",
        )
    fitted = from_photo(found, line.part(before.to_core() if before else None), line.changes, room)
    asked_about(line, fitted, text)
    on_board(board, fitted.x, fitted.y)
    part = before or Part(board=board)
    part.take(fitted)
    save_part(part)
    log(board.unit, "survey", f"{board.name} {part.ref}: {text}, place from the photo"[:600])
    return part.ref, " ".join(line.rest)


def _size_if_chip(text: str, found: Found) -> str:
    """The size of a chip as it was found, where its line says none: across and down, as it stands."""
    field = field_of(text)
    if field is None or field.name != "chips" or found.kind != "box" or re.search(r"\d[x×]\d", text):
        return ""
    sides = found.width or 0.0, found.height or 0.0
    across, down = sides[::-1] if 45 < found.angle < 135 else sides
    return f" {across:.1f}x{down:.1f}"


@in_unit_transaction("The survey cannot be changed")
def take_alike(board: Board, ref: str, places: list[tuple[Found, Room]]) -> list[str]:
    """List all that look like one that is listed: value, volts and the rest as typed for it, each at its own place. Says their references.

    Raises:
        BadInput: that one is not listed on this board.
    """
    one = Part.objects.filter(board=board, ref=ref).first()
    if one is None:
        raise BadInput(ref, f"a capacitor that is listed on {board.name}", field="line")
    model, free = one.to_core(), [place for place in places if not _standing(board, place[0])]
    refs = named(ref, [found for found, _ in free], set(board.parts.values_list("ref", flat=True)))
    for name, (place, room) in zip(refs, free, strict=True):
        # what was seen and measured of the one is not known of the others
        same = replace(
            model, ref=name, x=None, y=None, looks="", esr=None, capacitance=None, leakage=None, note="", date=""
        )
        fitted = from_photo(place, replace(same, angle=0.0, room_diameter=None), (), room)
        on_board(board, fitted.x, fitted.y)
        part = Part(board=board)
        part.take(fitted)
        save_part(part)
    log(board.unit, "survey", f"{board.name} {', '.join(refs)}: like {ref}, places from the photo"[:600])
    return refs
