"""What is worth telling of a unit beside its readings: how a fault was found, what to watch, what can be undone, when next."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from django.utils import timezone

from idlebench.core.choose.need import need_of
from idlebench.core.choose.next_look import NextLook, Wearing, next_look, wears
from idlebench.core.choose.supply_model import reckon
from idlebench.core.circuit.supply_lines import Branch
from idlebench.core.draw.plots import Plot, waves
from idlebench.core.judge.verdict import NOT_SEEN
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

from ..records.models import Cause, Clue, Photo
from ..unit.parts import BoardState
from ..unit.photo_pairs import PHOTOS, PhotoPair, before_and_after, photo_pairs
from ..unit.picture import board_picture
from ..unit.state import UnitState
from ..unit.supply import measured
from .sheets import Sheet


@dataclass(frozen=True, kw_only=True)
class SettledSuspect:
    """A suspect that came to an end: its place, what it was, how it ended, in words, when, and the clues that led there."""

    place: str
    failure: str
    outcome: str
    words: str
    simulated: bool
    clues: tuple[str, ...]


@dataclass(frozen=True)
class Waves:
    """The volts of a store and its charging current, old parts against new: its board and branch, and both plots."""

    board: str
    branch: str
    plots: tuple[Plot, ...]


@dataclass(frozen=True, kw_only=True)
class Story:
    """What a sheet tells beside readings. watch, undo: a place and why, a line each."""

    found: list[SettledSuspect]
    watch: list[tuple[str, str]]
    undo: list[tuple[str, str]]
    waves: list[Waves]
    before: list[Photo]
    after: list[Photo]
    pairs: list[PhotoPair]
    drawn: list[tuple[BoardState, Mapping[str, object]]]
    look: NextLook | None
    look_on: date | None
    look_of: str


def story(state: UnitState, told: Sheet, whole: bool = True, ready: bool = True) -> Story:
    """The story of a unit.

    Args:
        told: its sheet. whole: with causes, photos, waves and drawings. ready: whether it can be handed over, or was.
    """
    look = when_next(state) if ready and not state.row.next_look else None
    photos = photos_of(state) if whole else []
    before, after = before_and_after(state, photos[:PHOTOS])
    return Story(
        found=_found(state) if whole else [],
        watch=_watch(state, told, {place for place, outcome in told.reformed if outcome == "reformed"}),
        undo=_undo(state),
        waves=_waves(state) if whole else [],
        before=before,
        after=after,
        pairs=photo_pairs(state, photos),
        drawn=[(b, board_picture(b)) for b in state.boards if b.work.mends] if whole else [],
        look=look,
        look_on=state.row.next_look or (day_of(state, look) if look else None),
        look_of=state.row.next_look_of or (look_words(look) if look else ""),
    )


def when_next(state: UnitState) -> NextLook | None:
    """When a unit is looked at again, counted from the day it is handed over."""
    wearing = []
    for part in state.parts:
        if part.is_out or part.core.looks == "missing":
            continue
        need = need_of(part.core, state.mains, policy=state.policy)
        fitted = state.fitted.get(part.swap.item) if part.swap else None
        found = wears(f"{part.ref} on {part.board.name}", need, fitted)
        if found is not None:
            wearing.append(
                Wearing(place=found.place, part=part.swap.item, hours=found.hours, ambient=found.ambient)
                if part.swap
                else found
            )
    return next_look(wearing, state.row.hours_a_day)


def day_of(state: UnitState, look: NextLook) -> date:
    """The day of a next look."""
    return timezone.localtime(state.row.handed_over or state.now).date() + timedelta(days=look.days)


def look_words(look: NextLook) -> str:
    """What the next look is because of."""
    if look.by_age:
        return "every new electrolytic: seals age, 15 years at most"
    return f"{look.first.place}: {look.first.part}, at {look.first.ambient:.0f} °C"


def _found(state: UnitState) -> list[SettledSuspect]:
    """Suspects with their end, the confirmed ones first, each with what was seen and read before."""
    causes = list(Cause.objects.filter(unit=state.row).exclude(outcome=Cause.OPEN).select_related("board"))
    clues = list(Clue.objects.filter(unit=state.row, dropped=None)) if causes else []
    found = []
    for cause in sorted(causes, key=lambda c: (c.outcome != Cause.CONFIRMED, c.pk)):
        led = tuple(c.text for c in clues if c.at <= (cause.settled or cause.at))
        failed = (f"failed: {cause.rails}",) if cause.rails else ()
        place = f"{cause.board.name} {cause.ref}" if cause.board else cause.ref
        found.append(
            SettledSuspect(
                place=place,
                failure=cause.failure,
                outcome=cause.outcome,
                words=cause.words,
                simulated=cause.simulated,
                clues=(*failed, *led),
            )
        )
    return found


def _watch(state: UnitState, told: Sheet, reformed: Collection[str]) -> list[tuple[str, str]]:
    """What whoever opens it next looks at first."""
    found = []
    for part in state.parts:
        place = f"{part.board.name} {part.ref}"
        if part.swap or part.left_out:
            continue
        if part.verdict.name != "sound":
            judged = part.verdict.shown if part.verdict.name == NOT_SEEN else f"judged {part.verdict.shown}"
            found.append((place, ": ".join(filter(None, [f"kept, {judged}", part.verdict.leading]))))
        elif place in reformed:
            found.append((place, "an old reservoir capacitor that was reformed"))
    found += [(row.told, f"passed by a written reason: {row.reading.reason}") for row in told.overridden]
    skipped = state.row.look_skipped
    found += [("First look", f"{x.text}: skipped, {skipped[x.key]}") for x in state.first_look if x.key in skipped]
    for board in state.boards:
        for device in board.devices:
            if device.device.what == "battery" and device.device.looks != "missing":
                found.append(
                    (f"{board.row.name} {device.ref}", "a battery: it leaks in the end, take it out for storage")
                )
    return found


def _undo(state: UnitState) -> list[tuple[str, str]]:
    """What was changed beyond like for like, and how it goes back."""
    found = []
    for board in state.boards:
        for device in board.devices:
            if device.swap and device.swap.was:
                found.append((f"{board.row.name} {device.ref}", f"{device.swap.item} for {device.swap.was}"))
        found += [
            (board.row.name, f"{mend.core.title}: the board underneath is unchanged") for mend in board.work.mends
        ]
        found += [(board.row.name, f"{m.core.title}: {m.core.back}") for m in board.work.modifications]
    found += [(row.name, row.replaced) for row in state.replaced]
    return found


def _waves(state: UnitState) -> list[Waves]:
    """The waves of each branch in which parts were changed; a branch that cannot be reckoned is left out."""
    found = []
    for board in state.boards:
        swapped = {p.ref: p.swap.item for p in board.parts if p.swap}
        new = {ref: state.fitted[item] for ref, item in swapped.items() if item in state.fitted}
        for branch in board.supply:
            try:
                reckoned = reckon(branch, measured(state, board), state.mains, new)
            except BadInput:
                continue
            if reckoned.before.waves is not reckoned.after.waves:
                found.append(Waves(board.row.name, _called(branch), waves(reckoned)))
    return found


def _called(branch: Branch) -> str:
    """A branch by what it is: where it comes from, what it fills, and the rails that it ends in."""
    winding = f"{branch.volts:g} V winding" if branch.volts else "mains"
    begins = "outside source" if branch.outside is not None else winding
    feeds = ""
    if branch.regulator is not None:
        feeds = f", behind it {branch.regulator.ref}, {show(branch.regulator.volts, 'V')}"
    elif branch.converter is not None:
        feeds = ", behind it the converter"
    return f"{begins} to {' and '.join(branch.stores)}{feeds}"


def head_photo(photos: list[Photo]) -> Photo | None:
    """The photo for the head of a sheet, of a unit's: the newest that is pinned to no place or step, else the newest of all."""
    newest = sorted(photos, key=lambda photo: (photo.at, photo.pk), reverse=True)
    loose = [p for p in newest if (p.part_id, p.board_id, p.step_id, p.ref) == (None, None, None, "")]
    return next(iter(loose or newest), None)


def photos_of(state: UnitState) -> list[Photo]:
    """The photos of a unit, in the order they were taken in."""
    return list(Photo.objects.filter(unit=state.row, removed=None).select_related("board", "part__board", "step"))
