"""Suspects of a unit: what its record, signs and further readings say of each part, what to measure next, what it turned out to be."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from idlebench.catalogue import house_evidence
from idlebench.core.board.devices import TITLES
from idlebench.core.board.listing import LETTERS, letters_of
from idlebench.core.draw.picture_signs import Face, faces
from idlebench.core.faults.by_table import by_table
from idlebench.core.faults.clues import ClueReading, Mark, RankedSuspects, Suspect
from idlebench.core.faults.further import Further, further
from idlebench.core.faults.hypotheses import PRIORS, hypotheses
from idlebench.core.faults.outcome import Shop
from idlebench.core.faults.signs import GROUPS, Sign, joints_noted, read_signs, signs_in
from idlebench.core.faults.suspects import Inquiry, as_measured
from idlebench.core.faults.table import Place, places_of
from idlebench.core.judge.verdict import REPLACE
from idlebench.core.prove.checks import Check
from idlebench.core.prove.expect import rails_are_read, state_at
from idlebench.core.prove.leads import GROUND, Leads
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.simulate.readings import COLD, FUSE_OHMS, Asked, read_asked
from idlebench.core.simulate.state import State
from idlebench.core.simulate.stores import SHORT
from idlebench.core.simulate.supply import USUAL, Bench
from idlebench.core.simulate.truth import Fault
from idlebench.core.text.quantity import show
from idlebench.core.text.rails_and_chips import rail_volts
from idlebench.instruments import HOUSE

from ..records.models import Cause, Clue
from ..unit.expecting import Known, bench_of, known_of, setting_of
from ..unit.parts import BoardState
from ..unit.picture import board_picture
from ..unit.state import UnitState, unit_state
from . import faulting
from .faulting import reading_of
from .metered import clue_read
from .rail_places import store_on

#: What is read of a rail for each aspect of a check.
READS = {"volts": "dc", "ripple": "ripple", "lowest": "lowest"}
#: Most lines of further readings, and suspects and measurements that are shown.
MOST_LINES, SHOWN = 40, 6
#: How much likelier its looks make a part, a joint that was noted as broken, and how much less likely it is once it was ruled out.
LOOKS, NOTED, RULED_OUT = 8.0, 20.0, 0.02
#: A part is as bad as it was measured from so many times a new one's ESR on, or under so much of its value.
WORSE, LESS = 2.0, 0.75
#: Kinds whose letters say what an assumed part is, so that its line may begin with the kind.
LISTED = ("diode", "transistor", "resistor", "fuse", "choke", "transformer")


@lru_cache(maxsize=8)
def _inquiry(known: Known, shop: Shop, elsewhere: tuple[str, ...], places: tuple[Place, ...]) -> Inquiry:
    """Runs are kept: the same supply is asked about again and again."""
    return Inquiry(bench=bench_of(known), shop=shop, evidence=house_evidence(), elsewhere=elsewhere, places=places)


@dataclass(frozen=True)
class KnownReadings:
    """What is known of a supply's readings. failing: rails of which one failed. left_out: those that something was changed after."""

    readings: tuple[ClueReading, ...]
    failing: tuple[str, ...]
    left_out: tuple[str, ...]


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


def told_by(state: UnitState, board: BoardState, bench: Bench) -> KnownReadings:
    """Readings of the record that count, the newest of each point."""
    how, left_out, failing = setting_of(state, board), [], {}
    newest: dict[tuple[str, str, str], tuple[float, ClueReading]] = {}
    for step in state.proof.steps:
        for check in step.checks:
            live = check.live and check.aspect in READS and check.rail in bench.rails and rails_are_read(step.key)
            if not live and not _is_cold_read(check, board, bench):
                continue
            stood = state.proof.status_of(check)
            event = stood.event
            if event is None or event.overridden:
                continue
            if stood.void:
                what = f"{check.rail} {check.aspect}" if live else check.point
                left_out.append(f"{what} at {step.title}: {stood.void}")
                continue
            if live:
                where = state_at(step.key, how.way, how.mains, how.frequency, how.lamp, check.aspect == "lowest")
                one = _live_read(check, event.value, where)
            else:
                one = _cold_read(check, event.value, stood.failed, how.frequency)
            if one is None:
                continue
            if stood.failed and check.rail:
                failing[check.rail] = None
            key = (one.asked.point, one.asked.what, one.state.load)
            if key not in newest or newest[key][0] <= event.at:
                newest[key] = event.at, one
    return KnownReadings(tuple(one for _, one in newest.values()), tuple(failing), tuple(left_out))


def _is_cold_read(check: Check, board: BoardState, bench: Bench) -> bool:
    """Whether the model tells something of a cold check: a rail to ground, the fuse, line to neutral."""
    if check.key.startswith("cold.rail."):
        return check.rail in bench.rails
    own = check.board == board.row.name
    return own and (check.key.startswith("cold.mains-ohms.") or (check.point == "fuse" and check.kind == "continuity"))


def _live_read(check: Check, value: float | None, where: State | None) -> ClueReading | None:
    if where is None or value is None or not math.isfinite(value):
        return None
    # the least of a rail is told by size
    value = abs(value) if check.aspect == "lowest" else value
    return ClueReading(where, Asked(point=check.rail, what=READS[check.aspect], typed=check.rail), value)


def _cold_read(check: Check, value: float | None, failed: bool, frequency: float) -> ClueReading | None:
    """A cold check as the model reads it. What else stands on a rail reads some ohms; only a short tells, or that there is none."""
    off = State(frequency=frequency, load="none")
    if check.key.startswith("cold.rail."):
        shown = f"{check.point} {show(value, 'Ω') if value is not None and math.isfinite(value) else 'off the scale'}"
        return ClueReading(
            off, Asked(point=check.rail, what="ohms", typed=check.point), SHORT if failed else None, shown
        )
    if check.point == "fuse":
        said = "fuse open" if failed else "fuse whole"
        return ClueReading(
            off, Asked(point=USUAL["fuse"], what="ohms", typed="fuse"), None if failed else FUSE_OHMS, said
        )
    # what passes is copper, which its label told already
    open_ = value is None or math.isinf(value)
    return ClueReading(off, Asked(point="l-n", what="ohms", typed="L-N"), None if open_ else value) if failed else None


def clues_told(
    case: faulting.Case, bench: Bench
) -> tuple[list[faulting.ClueStatus], tuple[ClueReading, ...], list[Sign], list[str]]:
    """Kept signs and readings: all of them; the readings and signs that count; and in words those that do not."""
    kept, readings, signs, left_out = case.clues, [], [], []
    for one in kept:
        if one.void:
            left_out.append(f"{one.row.text}: {one.void}")
            continue
        try:
            if one.row.kind == Clue.SIGN:
                signs += read_signs(one.row.text, bench)
            else:
                live = faulting.live_state(case.state, case.board, one.row.step)
                readings.append(reading_of(one.row.text, bench, live, cold=not one.row.step))
        except BadInput as error:
            # the lines or the survey were typed anew, and it speaks of what is there no more
            left_out.append(f"{one.row.text}: {error.plain}")
    return kept, tuple(readings), signs, left_out


def typed_readings(text: str, bench: Bench, live: State) -> tuple[ClueReading, ...]:
    """Further readings, a line each: a point, what was read there, the number, such as ``C1 ripple 1.2``.

    Raises:
        BadInput: naming the line.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise BadInput(f"{len(lines)} lines", f"at most {MOST_LINES}", field="read")
    found = []
    for number, line in enumerate(lines, 1):
        try:
            found.append(reading_of(line, bench, live))
        except BadInput as error:
            raise error.within(f"line {number}") from None
    return tuple(found)


def marks_of(case: faulting.Case) -> tuple[Mark, ...]:
    """What is known of parts themselves: how they look, and what was ruled out."""
    marks = [
        Mark(p.ref, "", LOOKS, f"{p.ref} looks {p.core.looks}")
        for p in (case.board.parts if case.board else ())
        if p.core.looks not in ("", "sound") and not p.swap
    ]
    # outside of the supply's lines no model weighs what a part itself read
    marks += [
        Mark(f"{b.row.name} {p.ref}", "", LOOKS, f"{p.ref}: {p.verdict.leading}")
        for b in case.state.boards
        for p in b.parts
        if p.verdict.name == REPLACE and not p.swap
    ]
    # a joint that was noted at Intake, wherever it stands
    for ref, sentence in joints_noted(case.state.row.found).items():
        homes = ["", *(f"{b.row.name} " for b in case.state.boards)]
        marks += [Mark(f"{home}{ref}", "cracked", NOTED, f"noted at Intake: {sentence}") for home in homes]
    for row in (one for one in case.causes if one.outcome == Cause.RULED_OUT):
        home = next((b.row.name for b in case.state.boards if b.row.pk == row.board_id), "")
        for ref in {row.ref, f"{home} {row.ref}"}:
            marks.append(
                Mark(ref, row.failure, RULED_OUT, f"ruled out on {timezone.localtime(row.settled):%-d %b}: {row.words}")
            )
    return tuple(marks)


def renewed_of(board: BoardState, known: Known, bench: Bench) -> dict[str, tuple[Fault, ...]]:
    """What new parts would be where the old ones were measured as bad, by reference."""
    plain = tuple(p.with_(esr=None, capacitance=None, leakage=None) for p in known.parts)
    fresh = bench_of(replace(known, parts=plain))
    return {
        ref: (Fault(ref, "cap", new.value), Fault(ref, "esr", new.esr))
        for ref, new in fresh.stores.items()
        if (now := bench.stores.get(ref)) and (now.esr > WORSE * new.esr or now.value < LESS * new.value)
    }


def look(case: faulting.Case, seen: str, typed: str) -> dict[str, object]:
    """The suspects of a supply, and the next measurements.

    Raises:
        BadInput: signs or readings that cannot be read, or that contradict each other.
    """
    state, board = case.state, case.board
    known, how = known_of(state, board), setting_of(state, board)
    bench = bench_of(known)
    told = told_by(state, board, bench)
    full = faulting.live_state(state, board, state.live_step or "")
    kept, also, signs, left_out = clues_told(case, bench)
    signs = list(dict.fromkeys((*signs, *read_signs(seen, bench))))
    read_signs("\n".join(sign.words for sign in signs), bench)
    readings = (*told.readings, *also, *typed_readings(typed, bench, full))
    context = {"told": told, "kept": kept, "left_out": (*told.left_out, *left_out), "ticked": {s.words for s in signs}}
    live = told.failing or any(one.state.on for one in told.readings) or len(readings) > len(told.readings)
    if not signs and not live:
        return {**context, "nothing": True}
    places = _places(state, dict.fromkeys((one.ref for one in hypotheses(bench)), board))
    elsewhere = tuple(dict.fromkeys(sign.what for sign in signs))
    inquiry = _inquiry(known, case.shop, elsewhere, places)
    found = inquiry.look(readings, signs, full, marks_of(case))
    if found.sound:
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
        "rows": _rows(case, found.suspects[:SHOWN], called),
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
    shut = faulting.may_read(state, board, asked)
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


def suspects(request: HttpRequest, pk: int) -> HttpResponse:
    """Which parts explain what was read and seen: of the record, kept on this page, and in the address."""
    return _page(request, unit_state(pk), request.GET)


def _page(request: HttpRequest, state: UnitState, asked: object, status: int = 200, **extra: object) -> HttpResponse:
    made = [b for b in state.boards if b.row.supply and b.supply]
    board = next((b for b in made if str(b.row.pk) == asked.get("board", "")), next(iter(made), None))
    seen, typed = asked.get("seen", "")[:4000], asked.get("read", "")[:4000]
    case = faulting.Case(state, board)
    context: dict[str, object] = {
        "state": state, "stage": "", "on_suspects": True, "board": board, "supplies": made, "seen": seen, "read": typed,
        "groups": _groups(), "stripes": faces()["stripes"],
        "causes": case.in_hand, "settled": [c for c in case.causes if c.outcome],
        "stand_in": state.job.meter == HOUSE, "as_told": list(signs_in(state.row.symptoms)), **extra,
    }  # fmt: skip
    try:
        context |= look(case, seen, typed) if board is not None else look_without(case, seen)
    except BadInput as error:
        context["complaint"], status = extra.get("complaint") or error, 422
        context["ticked"] = {one.row.text for one in case.clues if not one.void}
    if "typed_signs" in extra:
        context["ticked"] = set(extra["typed_ticks"])
    context["rest"] = _rest(context.get("ticked", set()))
    context["settles"] = next((c for c in case.in_hand if not c.shut), None)
    context["leads"] = _main_act(context)
    return render(request, "proving/suspects.html", context, status=status)


def _main_act(shown: dict[str, object]) -> str:
    """What is filled on the page: a cause that can be confirmed, the next measurement, or the signs that are still to be told."""
    if shown["settles"] is not None:
        return "confirm"
    following = shown.get("next")
    if following:
        return "" if following[0].shut else "weigh"
    return "" if shown.get("rows") else "signs"


def _groups() -> list[tuple[str, list[tuple[str, Face | None]]]]:
    """The signs as they are ticked, those of a picture with their drawing."""
    drawn = faces()
    return [(title, [(word, drawn.get(word)) for word in words]) for title, words in GROUPS]


def _rest(ticked: set[str]) -> str:
    """Signs that are typed and not ticked: of a rail, a part, or stripes."""
    known = {word for _, words in GROUPS for word in words}
    return "\n".join(sorted(word for word in ticked if word not in known))


def _back(pk: int, board: str, place: str = "") -> HttpResponse:
    query = f"?{urlencode({'board': board})}" if board else ""
    return redirect(f"{reverse('suspects', args=[pk])}{query}{place}")


def _number(text: str) -> int | None:
    return int(text) if text.isdecimal() and len(text) < 16 else None


def _refused(request: HttpRequest, pk: int, error: BadInput | Blocked, **typed: object) -> HttpResponse:
    """The page with the complaint, and what was typed still in its fields."""
    said, status = error, 422
    if isinstance(error, Blocked):
        said, status = f"{error.title}. {' '.join(str(one) for one in error.reasons)}", 409
    asked = {"board": request.POST.get("board", "")}
    return _page(request, unit_state(pk), asked, status, complaint=said, **typed)


@require_POST
def tell(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep signs that are ticked and typed, and readings that are typed."""
    board = request.POST.get("board", "")
    try:
        words = (*request.POST.getlist("sign"), *request.POST.get("seen", "")[:4000].replace(";", "\n").splitlines())
        faulting.tell(pk, _number(board), words, request.POST.get("read", "")[:4000].splitlines())
    except (BadInput, Blocked) as error:
        asked = request.POST
        typed = {f"typed_{name}": asked.get(key, "")[:4000] for name, key in (("signs", "seen"), ("read", "read"))}
        return _refused(request, pk, error, **typed, typed_ticks=asked.getlist("sign"))
    return _back(pk, board)


@require_POST
def answer(request: HttpRequest, pk: int) -> HttpResponse:
    """The answer to a measurement that the page asked for: typed, or by the stand-in."""
    board, point = request.POST.get("board", ""), request.POST.get("point", "")[:80]
    try:
        if request.POST.get("by") == "meter":
            state = unit_state(pk)
            own = next((b for b in state.boards if str(b.row.pk) == board), None)
            if own is None or not own.supply:
                raise BadInput(board, "a supply whose lines are typed", "Load the page again.", field="board")
            (asked,) = read_asked(point, bench_of(known_of(state, own)))
            if reasons := faulting.may_read(state, own, asked):
                raise Blocked(f"{point} cannot be read now", reasons)
            live = faulting.live_state(state, own, state.live_step or "")
            setting = State(frequency=live.frequency, load="none") if asked.what in COLD else live
            if asked.what == "lowest":
                setting = replace(setting, step="all")
            value = clue_read(state, own, asked, setting)
            faulting.keep_reading(
                pk, own.row.pk, f"{point} {'OL' if value is None else f'{value:.5g}'}", simulated=True
            )
        else:
            faulting.keep_reading(pk, _number(board) or 0, f"{point} {request.POST.get('value', '').strip()[:60]}")
    except (BadInput, Blocked) as error:
        typed = request.POST.get("value", "")[:60]
        return _refused(request, pk, error, wrong_point=point, typed_value=typed)
    return _back(pk, board, "#suspects")


@require_POST
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    faulting.drop(pk, _number(request.POST.get("clue", "")) or 0)
    return _back(pk, request.POST.get("board", ""))


@require_POST
def take_on(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a suspect on as it stands now."""
    state, asked = unit_state(pk), request.POST
    made = [b for b in state.boards if b.row.supply and b.supply]
    board = next((b for b in made if str(b.row.pk) == asked.get("board", "")), None)
    case = faulting.Case(state, board)
    told = look(case, asked.get("seen", "")[:4000], "") if board else look_without(case, asked.get("seen", "")[:4000])
    one = next((r.suspect for r in told.get("rows", ()) if r.suspect.words == asked.get("suspect", "")), None)
    if one is None:
        raise BadInput(asked.get("suspect", "")[:80], "a suspect as it is now", "Load the page again.", field="suspect")
    several = zip(
        one.ref.split(" + "), one.failure.split(" + "), one.place.split(" + ") if one.place else [""] * 9, strict=False
    )
    of_model = all(place in PRIORS or not place for place in one.place.split(" + ")) and board is not None
    faulting.take_on(
        pk,
        board.row.pk if board else None,
        [(*each, one.share) for each in several],
        told["failing"] if of_model else (),
    )
    return _back(pk, asked.get("board", ""), "#in-hand")


@require_POST
def settle(request: HttpRequest, pk: int) -> HttpResponse:
    """Confirm that it was this, or rule it out."""
    board, words = request.POST.get("board", ""), request.POST.get("words", "")
    does = faulting.confirm if request.POST.get("what") == "confirm" else faulting.rule_out
    try:
        does(pk, _number(request.POST.get("cause", "")) or 0, words)
    except (BadInput, Blocked) as error:
        cause = request.POST.get("cause", "")
        return _refused(request, pk, error, typed_cause=_number(cause), typed_words=words[:400])
    return _back(pk, board, "#in-hand")
