"""A kit that arrives, held against the survey: enough, short, too many, or wrong for its place, before anything is unsoldered."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from ..board.parts import Capacitor
from ..board.tables import read_catalogue
from ..choose.need import Need
from ..choose.rank import FAILS, FITS, Candidate, judge_parts
from ..choose.shelf_line import read_own
from ..refusal import BadInput
from ..text.csvtable import Column, read_table
from ..wording import listed, many
from .solve import Model

#: Lines and pieces of a kit that are taken.
MOST_LINES, MOST_PIECES = 300, 1000
#: What a part that is to be looked at twice is worse by than one that fits, as a share of a place.
DOUBT = 0.01
#: The columns that tell of which parts of a table a temperature is said.
_SAID = (
    Column(name="part", take=str, required=True, about="the part"),
    Column(name="temperature", take=str, default="", about="°C"),
)
_COUNT = re.compile(r"\s*(\d{1,5})\s*[x×]\s+(?=\S)", re.I)


@dataclass(frozen=True)
class KitLine:
    """A line of a kit: its part, and how many pieces there are."""

    part: Capacitor
    pieces: int


def read_kit(text: str) -> tuple[KitLine, ...]:
    """A kit as it was typed, a part a line with its number before it; or as a table like the Shelf's, stock being the pieces.

    Args:
        text: as it was typed.

    Returns:
        The lines, each with its number of pieces.

    Raises:
        BadInput: a line that cannot be read, and which one.

    >>> [(line.pieces, line.part.volts) for line in read_kit('10 x 100u 16V 6.3x11 p2.5\\n1 x 22u 25V 5x11 p2')]
    [(10, 16.0), (1, 25.0)]
    """
    rows = [row for row in text.splitlines() if row.strip()]
    if not rows:
        raise BadInput("", "a kit: a part a line, such as 10 x 100u 16V 6.3x11 p2.5", field="kit")
    if len(rows) > MOST_LINES:
        raise BadInput(f"{len(rows)} lines", f"at most {MOST_LINES}", field="kit")
    if "," in rows[0] and "value" in rows[0].lower():
        found = read_catalogue(text)
        if found.problems:
            raise BadInput(
                str(found.problems[0])[:60],
                "a table in which every row can be read",
                str(found.problems[0]),
                field="kit",
            )
        said = {row["part"] for row in read_table(text, _SAID).rows if row["temperature"]}
        # what the Shelf takes as 85 °C is not known of a kit
        parts = [part if part.part in said else replace(part, temperature=0.0) for part in found.parts]
        return tuple(KitLine(part, _pieces(str(part.stock), part.part)) for part in parts)
    lines = []
    for number, row in enumerate(rows, 1):
        count = _COUNT.match(row)
        _which_fuse(row, number)
        try:
            part = read_own(row[count.end() :] if count else row)
        except BadInput as error:
            raise BadInput(row, error.expected, error.mend, field=f"kit, line {number}") from None
        if not isinstance(part, Capacitor):
            raise BadInput(
                row, "a capacitor", "Regulators and fuses are counted in on the Shelf.", field=f"kit, line {number}"
            )
        lines.append(KitLine(part, _pieces(count[1], row) if count else 1))
    names = [line.part.part for line in lines]
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise BadInput(twice, "each part in one line", "Add the two up, or give one a name.", field="kit")
    return tuple(lines)


def _which_fuse(row: str, number: int) -> None:
    """Ask which kind a fuse is that is typed without one.

    Args:
        row: of the kit.
        number: of the row.

    Raises:
        BadInput: a fuse without its kind; the likelier kind is offered.
    """
    words = row.split()
    at = next((i for i, word in enumerate(words) if word.lower() in ("fuse", "fuses")), None)
    if at is None or any(re.fullmatch(r"(?:FF|F|M|TT|T)(?:\d.*)?", word) for word in words[at + 1 :]):
        return
    instead = " ".join([*words[: at + 1], "T", *words[at + 1 :]])
    raise BadInput(
        row, "T for time-lag, or F for fast, as the old fuse is marked", "A fast fuse in the place of a time-lag one blows at switch-on.",
        field=f"kit, line {number}", instead=instead,
    )  # fmt: skip


def _pieces(text: str, row: str) -> int:
    pieces = int(text)
    if not 1 <= pieces <= MOST_PIECES:
        raise BadInput(row, f"1 to {MOST_PIECES} pieces", f"There are {pieces}.", field="kit")
    return pieces


@dataclass(frozen=True)
class KitPlace:
    """A place held against the kit. candidate: what it gets, judged; None where nothing is left that goes in, and why then says what
    the nearest is refused for, or that too few of it came.
    """

    ref: str
    candidate: Candidate | None
    why: str = ""

    @property
    def verdict(self) -> str:
        return self.candidate.verdict if self.candidate else "fails"


@dataclass(frozen=True)
class Counted:
    """A line of the kit once all is shared out. used: pieces that a place gets. short: places that it would fit and that get nothing.
    why: of a line that fits no place, what the nearest place refuses it for."""

    line: KitLine
    used: int
    short: int
    why: str = ""

    @property
    def left(self) -> int:
        return self.line.pieces - self.used

    @property
    def words(self) -> str:
        """What came of it, in words."""
        if not self.used:
            return "for no place"
        if self.short:
            return f"short by {self.short}"
        return f"{self.left} too many" if self.left else "enough"


@dataclass(frozen=True)
class Kit:
    """A kit held against places."""

    places: tuple[KitPlace, ...]
    lines: tuple[Counted, ...]

    @cached_property
    def wrong(self) -> tuple[KitPlace, ...]:
        """Places that get nothing."""
        return tuple(held for held in self.places if held.candidate is None)

    @property
    def words(self) -> str:
        """What came of the kit, in one sentence."""
        served = len(self.places) - len(self.wrong)
        short = [c for c in self.lines if c.short]
        said = [f"{served} of {many(len(self.places), 'place')} served"]
        if short:
            said.append(f"{many(len(short), 'kind')} short")
        if useless := [c for c in self.lines if not c.used]:
            said.append(f"{many(len(useless), 'line')} for no place")
        return listed(said)


def hold(needs: Mapping[str, Need], lines: Sequence[KitLine]) -> Kit:
    """Share a kit out so that as many places as can be get a part that goes in, without a doubt before with one.

    Args:
        needs: what each place asks, by reference.
        lines: typed lines.

    Returns:
        Which piece goes where, what is left over and what is missing.
    """
    parts = [line.part for line in lines]
    judged = {ref: judge_parts(need, parts) for ref, need in needs.items()}
    model = Model()
    given = {
        (ref, i): model.whole(1, -1.0 + (0.0 if c.status == FITS else DOUBT) + DOUBT * 1e-3 * min(c.score, 50.0) / 50.0)
        for ref, candidates in judged.items()
        for i, c in enumerate(candidates)
        if c.status < FAILS
    }
    for ref in needs:
        model.at_most({v: 1.0 for (r, _), v in given.items() if r == ref}, 1.0)
    for i, line in enumerate(lines):
        model.at_most({v: 1.0 for (_, j), v in given.items() if j == i}, float(line.pieces))
    values = model.solve(5.0).values or []
    got = {ref: i for (ref, i), v in given.items() if values and values[v] > 0.5}
    used = [sum(1 for i in got.values() if i == n) for n in range(len(lines))]
    short = [0] * len(lines)
    places = []
    for ref, candidates in judged.items():
        if ref in got:
            places.append(KitPlace(ref, candidates[got[ref]]))
            continue
        fitting = [i for i, c in enumerate(candidates) if c.status < FAILS]
        if fitting:
            nearest = min(fitting, key=lambda i: candidates[i].score)
            short[nearest] += 1
            places.append(KitPlace(ref, None, f"too few {parts[nearest].part} received"))
        else:
            places.append(KitPlace(ref, None, _nearest(needs[ref], candidates, used)))
    counted = tuple(
        Counted(line, used[n], short[n], "" if used[n] or short[n] else _fits_none(needs, judged, n))
        for n, line in enumerate(lines)
    )
    return Kit(tuple(places), counted)


def _off(need: Need, part: Capacitor) -> float:
    """How far a part's value is from what a place asks, in octaves to a tenth."""
    return round(abs(math.log2(part.value / need.value)), 1) if need.value else 0.0


def _fits_none(needs: Mapping[str, Need], judged: Mapping[str, Sequence[Candidate]], n: int) -> str:
    """The place that a line was most likely meant for, by value, then by the fewest refusals; "" where no place is left."""
    found = [
        (_off(needs[ref], candidates[n].part), len(reasons), candidates[n].score, ref, reasons)
        for ref, candidates in judged.items()
        if (reasons := [reason.text for reason in candidates[n].reasons if reason.status == FAILS])
    ]
    if not found:
        return ""
    *_, ref, reasons = min(found)
    return f"nearest {ref}: {'; '.join(reasons)}"


def _nearest(need: Need, candidates: Sequence[Candidate], used: Sequence[int]) -> str:
    """What the part is refused for that was most likely meant: one that serves no other place, then by value, then the fewest reasons."""

    def refusals(candidate: Candidate) -> list[str]:
        return [reason.text for reason in candidate.reasons if reason.status == FAILS]

    def by_value(i: int) -> tuple[bool, float, int, float]:
        return used[i] > 0, _off(need, candidates[i].part), len(refusals(candidates[i])), candidates[i].score

    n = min(range(len(candidates)), key=by_value)
    return f"nothing for it; the nearest, {candidates[n].part.part}: {'; '.join(refusals(candidates[n]))}"
