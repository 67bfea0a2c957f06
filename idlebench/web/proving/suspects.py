"""Suspects of a unit: what its record, signs and further readings say of each part, what to measure next, what it turned out to be."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from idlebench.catalogue import house_evidence
from idlebench.core.board.devices import TITLES
from idlebench.core.board.listing import LETTERS, letters_of
from idlebench.core.faults.by_table import as_measured, by_table
from idlebench.core.faults.clues import RankedSuspects, Suspect
from idlebench.core.faults.further import Further, further
from idlebench.core.faults.hypotheses import hypotheses
from idlebench.core.faults.outcome import Shop
from idlebench.core.faults.signs import read_signs
from idlebench.core.faults.suspects import Inquiry
from idlebench.core.faults.table import Place, places_of
from idlebench.core.prove.leads import GROUND, Leads
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.state import State
from idlebench.core.simulate.supply import Bench
from idlebench.core.text.rails_and_chips import rail_volts

from ..records.models import Clue
from ..unit.expecting import Known, bench_of, known_of, setting_of
from ..unit.parts import BoardState
from ..unit.picture import board_picture
from ..unit.state import UnitState
from . import clue_keeping, faulting
from .evidence import SHOWN, clues_told, failed_marks, marks_of, renewed_of, told_by, typed_readings
from .rail_places import store_on

#: Kinds whose letters say what an assumed part is, so that its line may begin with the kind.
LISTED = ("diode", "transistor", "resistor", "fuse", "choke", "transformer")


@lru_cache(maxsize=8)
def _inquiry(known: Known, shop: Shop, elsewhere: tuple[str, ...], places: tuple[Place, ...]) -> Inquiry:
    """Runs are kept: the same supply is asked about again and again."""
    return Inquiry(bench=bench_of(known), shop=shop, evidence=house_evidence(), elsewhere=elsewhere, places=places)


@dataclass(frozen=True, kw_only=True)
class SuspectRow:
    """A suspect as it is shown: what the shop knows of such, the first look that tells it, and whether it is in hand."""

    suspect: Suspect
    shop: str
    look: str
    in_hand: bool
    called: str = ""

    @property
    def to_list(self) -> str:
        """The line that lists a part which was only assumed, "" where it is listed."""
        kind = LETTERS.get(letters_of(self.suspect.ref), ("",))[0]
        return f"{self.suspect.ref} {TITLES[kind]} " if self.called and kind in LISTED else ""

    @property
    def named(self) -> bool:
        """Whether it is a reference, and not said in words."""
        return self.suspect.ref == self.suspect.ref.upper()


@dataclass(frozen=True, kw_only=True)
class Next:
    """A measurement as it is shown: where the leads go, what it would have to be typed as, and why it cannot be taken now."""

    further: Further
    leads: Leads
    typed: str
    shut: tuple[object, ...]
    called: str = ""


def look(case: faulting.Case, seen: str, typed: str) -> dict[str, object]:
    """The suspects of a supply, and the next measurements.

    Raises:
        BadInput: signs or readings that cannot be read, or that contradict each other.
    """
    state, board = case.state, case.board
    known, how = known_of(state, board), setting_of(state, board)
    bench = bench_of(known)
    told = told_by(state, board, bench)
    full = clue_keeping.live_state(state, board, state.live_step or "")
    kept, also, signs, left_out = clues_told(case, bench)
    signs = list(dict.fromkeys((*signs, *read_signs(seen, bench))))
    read_signs("\n".join(sign.words for sign in signs), bench)
    readings = (*told.readings, *also, *typed_readings(typed, bench, full))
    context = {"told": told, "kept": kept, "left_out": (*told.left_out, *left_out), "ticked": {s.words for s in signs}}
    live = told.failing or any(one.state.on for one in told.readings) or len(readings) > len(told.readings)
    if not signs and not live and not failed_marks(state):
        return {**context, "nothing": True}
    places = _places(state, dict.fromkeys((one.ref for one in hypotheses(bench)), board))
    elsewhere = tuple(dict.fromkeys(sign.what for sign in signs))
    inquiry = _inquiry(known, case.shop, elsewhere, places)
    found = inquiry.look(readings, signs, full, marks_of(case))
    if found.sound_fits:
        measured = as_measured(
            bench, renewed_of(board, known, bench), readings, lambda one: inquiry.width(one.state, one.asked, one.value)
        )
        if measured:
            found, context["measured"] = RankedSuspects(measured, False), True
    now = full if state.live_step else State(frequency=how.frequency, load="none")
    called = _assumed(board, bench)
    following = further(inquiry, found, now, readings)
    return {
        **context,
        "found": found,
        "beside": (
            ("Nothing is wrong here", found.sound_percent),
            ("Something else than the parts listed", found.none_percent),
        ),
        "rows": _rows(case, found.named[:SHOWN], called),
        "next": [_next(state, board, one, called) for one in following],
        "picture": _picture(state, board, following[0].asked) if following else {},
        "readings": readings,
        "cold": not state.live_step,
        "failing": told.failing or tuple(bench.rails),
    }


def look_without(case: faulting.Case, seen: str) -> dict[str, object]:
    """What the table alone says, of a unit whose supply has no lines.

    Raises:
        BadInput: signs that cannot be read.
    """
    state, kept = case.state, case.clues
    signs = [sign for one in kept if one.row.kind == Clue.SIGN and not one.void for sign in read_signs(one.row.text)]
    signs = list(dict.fromkeys((*signs, *read_signs(seen))))
    context = {
        "kept": kept,
        "left_out": [f"{one.row.text}: {one.void}" for one in kept if one.void],
        "ticked": {s.words for s in signs},
    }
    if not signs:
        return {**context, "nothing": True}
    suspects = by_table(house_evidence(), signs, _places(state, {}), marks_of(case))
    return {
        **context,
        "found": RankedSuspects(suspects, not suspects),
        "rows": _rows(case, suspects[:SHOWN], {}),
        "failing": (),
    }


def _places(state: UnitState, of_model: dict[str, BoardState]) -> tuple[Place, ...]:
    """What the unit has that a cause outside of the supply may be; what the model speaks of is left to it."""
    several = len(state.boards) > 1
    found: list[Place] = []
    for board in state.boards:
        name = board.row.name if several else ""
        parts = [p.standing for p in board.parts if not p.swap and of_model.get(p.ref) is not board]
        devices = [d.standing for d in board.devices if of_model.get(d.ref) is not board]
        found += places_of(name, parts, devices, board.chips)
    return tuple(found)


def _rows(case: faulting.Case, suspects: Sequence[Suspect], called: dict[str, str]) -> list[SuspectRow]:
    causes, open_ = house_evidence().causes, {(c.ref, c.failure) for c in case.open}
    rows = []
    for one in suspects:
        cause = causes.get(one.place)
        refs = zip(one.ref.split(" + "), one.failure.split(" + "), strict=True)
        taken = any((ref, failure) in open_ or (ref.split(" ")[-1], failure) in open_ for ref, failure in refs)
        says = [
            case.shop.says(place, ref) for place, ref in zip(one.place.split(" + "), one.ref.split(" + "), strict=False)
        ]
        rows.append(
            SuspectRow(
                suspect=one,
                shop="; ".join(dict.fromkeys(filter(None, says))),
                look=cause.look if cause else "",
                in_hand=taken,
                called=called.get(one.ref, ""),
            )
        )
    return rows


def _assumed(board: BoardState, bench: Bench) -> dict[str, str]:
    """Parts that the model assumes by their usual names, and neither the board nor its lines list: what they are, by reference."""
    named = {p.ref for p in board.parts} | {d.ref for d in board.devices} | {c.ref for c in board.chips}
    named |= {word.upper() for word in re.findall(r"\w+", board.row.supply_model)}
    return {ref: words for ref in bench.refs - named if (words := bench.called(ref))}


def _next(state: UnitState, board: BoardState, one: Further, called: dict[str, str]) -> Next:
    """A measurement as the page asks for it. called: parts that nobody listed, as _assumed has them."""
    asked = one.asked
    ends = tuple(
        replace(end, suspects=tuple(" ".join(called.get(w, w) for w in words.split(" ")) for words in end.suspects))
        for end in one.outcomes
    )
    shut = clue_keeping.may_read(state, board, asked)
    named = called.get(asked.point, "")
    return Next(
        further=replace(one, outcomes=ends),
        leads=_leads(board, asked, named),
        typed=f"{asked.typed} {asked.what}",
        shut=shut,
        called=named,
    )


def _leads(board: BoardState, asked: Asked, called: str = "") -> Leads:
    """Where the two leads go for a reading that the page asks for. called: what a part is that nobody listed."""
    if asked.point == "l-n":
        return Leads("neutral pin of the plug", "line pin of the plug, switch on, unplugged")
    if asked.point in ("lamp", "gnd", "mains"):
        return Leads(GROUND, asked.typed)
    if asked.point[:1] in "+−":
        store = store_on(board, rail_volts(asked.point))
        ends = f", {store.ref} minus" if store else "", f", {store.ref} plus" if store else ""
        return Leads(f"{GROUND}{ends[0]}", f"{asked.typed}{ends[1]}")
    part = board.find(asked.point)
    if part is not None:
        return (
            Leads(f"{part.ref} minus", f"{part.ref} plus")
            if part.core.polar
            else Leads(f"one end of {part.ref}", "the other end")
        )
    device = board.find_device(asked.point)
    if called.endswith("transistor") or (device is not None and device.device.what == "transistor"):
        ref = asked.point
        return Leads(f"{ref} emitter or source", f"{ref} collector or drain, then the other way round")
    if asked.what == "diode":
        return Leads(f"{asked.point} cathode", f"{asked.point} anode, then the other way round")
    return Leads(f"one end of {asked.point}", "the other end")


def _picture(state: UnitState, board: BoardState, asked: Asked) -> dict[str, object]:
    """The board with the place of a measurement lit; {} where its place is not known."""
    part = store_on(board, rail_volts(asked.point)) if asked.point[:1] in "+−" else board.find(asked.point)
    if part is not None and part.core.x is not None:
        return {"where": board, **board_picture(board, part, part.core.side)}
    device = board.find_device(asked.point)
    if device is not None and device.standing.x is not None:
        return {"where": board, "here": device.ref, **board_picture(board)}
    return {}
