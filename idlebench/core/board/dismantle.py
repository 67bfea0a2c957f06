"""The dismantling log: what came off, in which order, with its screws, plugs and clips; read backwards, how it goes back."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than
from ..wording import listed, many

#: Most screws, clips or other pieces in one step.
MOST = 200


@dataclass(frozen=True)
class Screws:
    """Some screws of one kind, such as 4 of M3x8."""

    count: int
    kind: str


@dataclass(frozen=True)
class Plug:
    """A plug and where its lead goes: “to supply”, “from switch”, or "" when nobody said."""

    name: str
    where: str

    @property
    def text(self) -> str:
        return f"{self.name} {self.where}".strip()


@dataclass(frozen=True, kw_only=True)
class DismantlingStep:
    """One step of taking apart.

    Attributes:
        what: what came off. screws, plugs, clips, glue: what held it. cautions, notes: in words.
    """

    what: str
    screws: tuple[Screws, ...] = ()
    plugs: tuple[Plug, ...] = ()
    clips: int = 0
    glue: str = ""
    cautions: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


_SCREWS = re.compile(r"(\d+)\s*(?:x\s+)?(?:screws?\s+(\S.*)|(\S+)\s+screws?|(M\d\S*))", re.I)
#: Screws as people say them: a count, perhaps their size before or after the word, and where they were.
_SAID = re.compile(
    r"(\d+)\s*(?:x\s*|×\s*)?((?:[\w.,/-]+\s+){0,3}?)(?:screws?|bolts?)\b\s*(M\d\S*|\d[\d.,]*\s*mm)?\s*(.*)", re.I
)
#: What screws are called whose size nobody said.
ANY_SCREW = "size not said"
#: Numbers as words, at the beginning of a piece.
NUMBERS = {
    "a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10,
    "eleven": 11, "twelve": 12,
}  # fmt: skip
_PLUG = re.compile(r"(?:plug\s+)(\S+)(?:\s+((?:to|from)\s+.+))?", re.I)
_CLIPS = re.compile(r"(\d+)\s*clips?", re.I)


def read_step(text: str) -> DismantlingStep:
    """Read a step as typed: what came off, a colon, then what held it, with commas between.

    Args:
        text: as it was typed.

    Returns:
        The step, its fasteners counted.

    Raises:
        BadInput: nothing that came off, or a count that cannot be.

    >>> s = read_step('lid: 4 screws M3x8, 2 clips, plug J4 to supply, caution sharp edge')
    >>> s.what, s.screws, s.clips, s.plugs[0].text, s.cautions
    ('lid', (Screws(count=4, kind='M3x8'),), 2, 'J4 to supply', ('sharp edge',))
    """
    no_longer_than(text, 400, "step")
    what, colon, rest = text.strip().partition(":")
    if not colon:
        # said without a colon: what holds something stands behind a comma, or is all of it
        first, _, behind = what.partition(",")
        pieces = [first, *behind.split(",")] if _held(first) else behind.split(",")
        rest = ",".join(piece for piece in pieces if _held(piece))
        what = ",".join([first, *(piece for piece in behind.split(",") if piece and not _held(piece))])
    what = " ".join(what.split())
    if not what or len(text) > 400:
        raise BadInput(
            text, "what came off, then what held it, such as lid: 4 screws M3x8, plug J4 to supply", field="step"
        )
    screws, plugs, clips, glue, cautions, notes = [], [], 0, "", [], []
    for piece in (_in_figures(p.strip()) for p in rest.split(",")):
        low = piece.lower()
        if not piece:
            continue
        if found := _SCREWS.fullmatch(piece):
            screws.append(Screws(_count(found[1], piece), (found[2] or found[3] or found[4]).strip()))
        elif found := _SAID.fullmatch(piece):
            kind = " ".join((found[2] or found[3] or "").split()) or ANY_SCREW
            screws.append(Screws(_count(found[1], piece), kind))
            notes += [found[4].strip()] if found[4].strip() else []
        elif found := _CLIPS.fullmatch(piece):
            clips += _count(found[1], piece)
        elif found := _PLUG.fullmatch(piece):
            plugs.append(Plug(found[1], (found[2] or "").strip()))
        elif low.startswith("plug"):
            raise BadInput(piece, "a plug with its name, such as plug J4 to supply", field="step")
        elif low.startswith("glue"):
            glue = piece[4:].strip() or "glued"
        elif low.startswith("caution "):
            cautions.append(piece[8:].strip())
        else:
            notes.append(piece.removeprefix("note ").strip())
    return DismantlingStep(
        what=what,
        screws=tuple(screws),
        plugs=tuple(plugs),
        clips=clips,
        glue=glue,
        cautions=tuple(cautions),
        notes=tuple(notes),
    )


def _in_figures(piece: str) -> str:
    """A piece whose count stands as a figure: ``six screws`` as ``6 screws``."""
    first, _, rest = piece.partition(" ")
    number = NUMBERS.get(first.lower())
    return f"{number} {rest}" if number and re.search(r"\b(screws?|bolts?|clips?)\b", rest, re.I) else piece


def _held(piece: str) -> bool:
    """Whether a piece says what held something: screws or clips with their count."""
    piece = _in_figures(piece.strip())
    return bool(_SAID.fullmatch(piece) or _CLIPS.fullmatch(piece))


def _count(text: str, piece: str) -> int:
    count = int(text)
    if not 1 <= count <= MOST:
        raise BadInput(piece, f"a count of 1 to {MOST}", field="step")
    return count


@dataclass(frozen=True)
class Tray:
    """The screws that lie in the tray, by kind: (kind, count, x of up to ten drawn ones, y), in units of a 100 wide tray."""

    rows: tuple[tuple[str, int, tuple[float, ...], float], ...]
    height: float


def tray(steps: Sequence[tuple[DismantlingStep, bool]]) -> Tray:
    """What of the screws is not back yet. steps: each with whether it is back."""
    counts: Counter[str] = Counter()
    for step, back in steps:
        for screws in () if back else step.screws:
            counts[screws.kind] += screws.count
    rows = tuple(
        (kind, count, tuple(46.0 + 5.2 * i for i in range(min(count, 10))), 6.0 + 9.0 * row)
        for row, (kind, count) in enumerate(sorted(counts.items()))
    )
    return Tray(rows, 9.0 * len(rows) + 3.0)


def still_open(steps: Sequence[tuple[DismantlingStep, bool]]) -> tuple[str, ...]:
    """What is not back, in words, plugs first because they are forgotten first.

    >>> still_open([(read_step('lid: 4 screws M3x8, plug J4 to supply'), False)])
    ('1 plug not back: J4 to supply', '4 screws not back: 4 M3x8', '1 step not reversed: lid')
    """
    waiting = [step for step, back in steps if not back]
    if not waiting:
        return ()
    plugs = [p.text for step in waiting for p in step.plugs]
    kinds: Counter[str] = Counter()
    for step in waiting:
        for screws in step.screws:
            kinds[screws.kind] += screws.count
    said = []
    if plugs:
        said.append(f"{many(len(plugs), 'plug')} not back: {', '.join(plugs)}")
    if kinds:
        by_kind = ", ".join(f"{count} {kind}" for kind, count in sorted(kinds.items()))
        said.append(f"{many(sum(kinds.values()), 'screw')} not back: {by_kind}")
    clips = sum(step.clips for step in waiting)
    if clips:
        said.append(f"{many(clips, 'clip')} not back")
    said.append(f"{many(len(waiting), 'step')} not reversed: {', '.join(step.what for step in reversed(waiting))}")
    return tuple(said)


def look_alikes(steps: Sequence[DismantlingStep]) -> tuple[str, ...]:
    """Screws of one thread and different lengths, which are mixed up first.

    >>> look_alikes([read_step('lid: 4 screws M3x8'), read_step('fan: 2 screws M3x12')])
    ('M3x8 (lid) and M3x12 (fan) look alike. The wrong screw is too long or shorts something',)
    """
    seen: dict[str, list[tuple[str, str]]] = {}
    for step in steps:
        for screws in step.screws:
            if found := re.fullmatch(r"(M\d+(?:\.\d)?)x\S+", screws.kind, re.I):
                places = seen.setdefault(found[1].upper(), [])
                if screws.kind not in [kind for kind, _ in places]:
                    places.append((screws.kind, step.what))
    return tuple(
        f"{listed([f'{kind} ({what})' for kind, what in places])} look alike. The wrong screw is too long "
        "or shorts something"
        for places in seen.values()
        if len(places) > 1
    )


#: The steps at a picture tube, in the order in which they go: each as it is logged.
TUBE_STEPS = (
    "anode cap: 1 clip, caution tube discharged three times by the clock and clipped to its braid",
    "neck board: plug neck to tube, caution straight back and never to the side as the neck is thin glass",
    "plugs of the deflection coils: plug line to coil, plug field to coil, note photo of which plug is which",
    "ground lead of the braid: plug ground to chassis, caution last one off and first one on",
)


def tube_steps_left(steps: Iterable[DismantlingStep]) -> tuple[str, ...]:
    """Those of the tube's own steps that are not logged yet, in their order.

    >>> len(tube_steps_left([])), len(tube_steps_left([read_step(TUBE_STEPS[0])]))
    (4, 3)
    """
    logged = {step.what.casefold() for step in steps}
    return tuple(text for text in TUBE_STEPS if read_step(text).what.casefold() not in logged)
