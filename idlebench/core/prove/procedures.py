"""Procedures: named lists of steps with hands-on minutes, waits, checks with limits, cautions; data in the open, one file each.

A procedure is a JSON object: ``format``, ``version``, ``name``, ``title``, ``of`` (unit, board, drive, keyboard), ``opens`` (hands inside
the machine), ``about``, ``revision``, and ``steps``: each with ``text`` and, where it has them, ``minutes``, ``wait`` (minutes),
``after`` (numbers of steps; the one before where it is not given), ``occupies``, ``dries``, ``needs``, ``caution``, ``check``
(``kind``, ``low``, ``high``), ``each`` (it is done once for each side that is typed) and ``side`` (the side it is for).
 Source: workshop practice, because each of them went wrong once; each caution says itself why.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from graphlib import CycleError, TopologicalSorter
from typing import Any

from ..plan.schedule import DAY
from ..refusal import BadInput, no_longer_than
from ..text.quantity import read, show
from .checks import UNITS, Check

FORMAT, VERSION = "idlebench-procedure", 1
#: What a procedure may be for.
OF = {"unit": "a whole machine", "board": "a board", "drive": "a drive", "keyboard": "a keyboard"}
#: Steps of a procedure, minutes of a step and of a wait at most; characters of a file.
MOST_STEPS, MOST_MINUTES, MOST_WAIT, LARGEST = 100, 600, 60 * DAY, 200_000
#: What a check of a step may be: the words people type, and the kind.
KINDS = {
    "look": "look", "works": "function", "continuity": "continuity", "resistance": "resistance", "volts": "dc_volts",
    "ac volts": "ac_volts", "temperature": "temperature",
    "turns": "turns", "frequency": "frequency",
}  # fmt: skip
WORDS = {kind: words for words, kind in KINDS.items()}


@dataclass(frozen=True)
class Limit:
    """What a step's reading is held against: a kind of check, and its ends in SI, None for none."""

    kind: str
    low: float | None = None
    high: float | None = None

    @property
    def words(self) -> str:
        """The limit as it is typed.

        >>> Limit('resistance', high=100.0).words, Limit('look').words
        ('resistance at most 100 Ω', 'look')
        """
        unit = UNITS.get(self.kind, "")
        if self.low is not None and self.high is not None:
            return f"{WORDS[self.kind]} {show(self.low, unit)} to {show(self.high, unit)}"
        if self.high is not None:
            return f"{WORDS[self.kind]} at most {show(self.high, unit)}"
        return WORDS[self.kind] + (f" at least {show(self.low, unit)}" if self.low is not None else "")


def read_limit(text: str) -> Limit | None:
    """A limit as typed, None for an empty one.

    Args:
        text: as it was typed.

    Returns:
        Low, high and unit; None for an empty one.

    Raises:
        BadInput: an unknown check, or a limit that cannot be read or holds nothing.

    >>> read_limit('resistance at most 100 Ω'), read_limit('volts 4.75 to 5.25 V').low
    (Limit(kind='resistance', low=None, high=100.0), 4.75)
    """
    said = " ".join(no_longer_than(text, 80, "check").strip().split())
    if not said:
        return None
    word = next((w for w in sorted(KINDS, key=len, reverse=True) if re.match(rf"{w}\b", said, re.I)), None)
    if word is None:
        raise BadInput(said, f"a check: {', '.join(KINDS)}", "Such as resistance at most 100 Ω.", field="check")
    kind, rest = KINDS[word], said[len(word) :].strip()
    unit = UNITS.get(kind, "")
    if not rest:
        if unit:
            raise BadInput(said, "a limit", f"Such as {word} at most 100 {unit}.", field="check")
        return Limit(kind)
    if not unit:
        raise BadInput(said, f"“{word}” alone: it is answered by yes or no", field="check")
    if hit := re.fullmatch(r"at (most|least) (.+)", rest, re.I):
        value = read(hit[2], unit, field="check", low=-1e6, high=1e9)
        return Limit(kind, high=value) if hit[1].lower() == "most" else Limit(kind, low=value)
    if hit := re.fullmatch(r"(.+?) to (.+)", rest, re.I):
        low, high = (read(end, unit, field="check", low=-1e6, high=1e9) for end in hit.groups())
        if low > high:
            raise BadInput(rest, "the lower end first", field="check")
        return Limit(kind, low, high)
    raise BadInput(rest, "at most 100, at least 5, or 4 to 6", field="check")


@dataclass(frozen=True, kw_only=True)
class ProcedureStep:
    """A step. minutes: hands on. wait: minutes after it. after: numbers of the steps before it, from 1. occupies: a thing that only one
    task uses. dries: whether something is wet in its wait, so that no power goes on. needs, caution: in words. each: whether it is done
    once for each side that is typed; side: the side it is for, "" for none."""

    text: str
    minutes: int = 0
    wait: int = 0
    after: tuple[int, ...] = ()
    occupies: str = ""
    dries: bool = False
    needs: str = ""
    caution: str = ""
    check: Limit | None = None
    each: bool = False
    side: str = ""


@dataclass(frozen=True, kw_only=True)
class Procedure:
    """A named list of steps. of: a key of OF. opens: whether hands go inside the machine for it. revision: counted on by each change."""

    name: str
    title: str
    steps: tuple[ProcedureStep, ...]
    of: str = "board"
    opens: bool = True
    about: str = ""
    revision: int = 1

    @property
    def minutes(self) -> int:
        """Hands-on, min."""
        return sum(step.minutes for step in self.steps)

    @property
    def longest(self) -> int:
        """From its first step to the end of its last wait, by an idle pair of hands, min."""
        free: dict[int, int] = {}
        for number in order(self.steps):
            step = self.steps[number - 1]
            begins = max((free[before] for before in step.after), default=0)
            free[number] = begins + step.minutes + step.wait
        return max(free.values(), default=0)

    @property
    def needs(self) -> tuple[str, ...]:
        """What is to be laid ready, each once."""
        return tuple(dict.fromkeys(step.needs for step in self.steps if step.needs))

    def as_data(self) -> dict[str, Any]:
        """The object that is written to a file."""
        steps = []
        for number, step in enumerate(self.steps, 1):
            told: dict[str, Any] = {"text": step.text}
            for name in ("minutes", "wait", "occupies", "dries", "needs", "caution", "each", "side"):
                if getattr(step, name):
                    told[name] = getattr(step, name)
            if step.after != before(number):
                told["after"] = list(step.after)
            if step.check:
                ends = {"low": step.check.low, "high": step.check.high}
                told["check"] = {"kind": step.check.kind, **{k: v for k, v in ends.items() if v is not None}}
            steps.append(told)
        head = {"format": FORMAT, "version": VERSION, "name": self.name, "title": self.title, "revision": self.revision}
        return {**head, "of": self.of, "opens": self.opens, "about": self.about, "steps": steps}

    def as_text(self) -> str:
        """The file."""
        return json.dumps(self.as_data(), indent=1, ensure_ascii=False) + "\n"


def before(number: int) -> tuple[int, ...]:
    """What a step comes after where nobody says: the one before it."""
    return (number - 1,) if number > 1 else ()


def order(steps: Sequence[ProcedureStep]) -> list[int]:
    """The numbers of the steps, each after those it waits for.

    Args:
        steps: the steps.

    Returns:
        Numbers, each after those it waits for.

    Raises:
        BadInput: steps that wait on each other, or for one that is not there.
    """
    graph = {number: set(step.after) for number, step in enumerate(steps, 1)}
    for number, after in graph.items():
        if odd := sorted(after - graph.keys()):
            raise BadInput(f"step {number} after {odd[0]}", f"a step from 1 to {len(steps)}", field="after")
    try:
        return list(TopologicalSorter(graph).static_order())
    except CycleError as error:
        loop = " → ".join(f"step {number}" for number in error.args[1])
        raise BadInput(
            loop, "steps that do not wait on each other", "Remove one of these from “after”.", field="after"
        ) from None


def _word(data: Mapping[str, Any], name: str, most: int, least: int = 0) -> str:
    value = data.get(name, "")
    if not isinstance(value, str) or not least <= len(value.strip()) <= most or "\x00" in value:
        raise BadInput(str(value)[:60], f"{name}: {least} to {most} characters", field=name)
    return " ".join(value.split())


def _whole(data: Mapping[str, Any], name: str, most: int) -> int:
    value = data.get(name, 0)
    if not isinstance(value, int | float) or isinstance(value, bool) or not 0 <= value <= most or value != int(value):
        raise BadInput(str(value)[:40], f"{name}: whole minutes, 0 to {most}", field=name)
    return int(value)


def procedure_from(data: object) -> Procedure:
    """A procedure from the object of its file.

    Args:
        data: the file's bytes.

    Returns:
        The procedure.

    Raises:
        BadInput: it says what of it cannot be taken, and at which step.
    """
    if not isinstance(data, Mapping) or data.get("format") != FORMAT:
        raise BadInput(str(data)[:60], f'an object with "format": "{FORMAT}"', field="file")
    if data.get("version") != VERSION:
        raise BadInput(
            f"version {str(data.get('version'))[:20]}",
            f"version {VERSION}",
            "It was made by a newer Idle Bench.",
            field="file",
        )
    listed = data.get("steps")
    if not isinstance(listed, list) or not 1 <= len(listed) <= MOST_STEPS:
        count = len(listed) if isinstance(listed, list) else 0
        raise BadInput(f"{count} steps", f"1 to {MOST_STEPS} steps", "Split it into two procedures.", field="steps")
    steps = []
    for number, one in enumerate(listed, 1):
        try:
            steps.append(_step(one, number))
        except BadInput as error:
            raise error.within(f"step {number}, {error.field}") from None
    order(steps)
    of, revision = data.get("of", "board"), data.get("revision", 1)
    if of not in OF:
        raise BadInput(str(of)[:40], f"one of {', '.join(OF)}", field="of")
    if not isinstance(revision, int) or isinstance(revision, bool) or not 1 <= revision <= 10**6:
        raise BadInput(str(revision)[:40], "a revision from 1 on", field="revision")
    title = _word(data, "title", 80, 3)
    name = _word(data, "name", 60) or slug(title)
    if not re.fullmatch(r"[a-z0-9][a-z0-9-]{1,59}", name):
        raise BadInput(name, "a name of small letters, digits and dashes", field="name")
    return Procedure(
        name=name,
        title=title,
        steps=tuple(steps),
        of=of,
        opens=bool(data.get("opens", True)),
        about=_word(data, "about", 600),
        revision=revision,
    )


def _step(one: object, number: int) -> ProcedureStep:
    if not isinstance(one, Mapping):
        raise BadInput(str(one)[:60], "an object with its text", field="text")
    after = one.get("after")
    if after is None:
        after = before(number)
    if not isinstance(after, list | tuple) or not all(isinstance(n, int) and not isinstance(n, bool) for n in after):
        raise BadInput(str(after)[:40], "a list of step numbers", field="after")
    return ProcedureStep(
        text=_word(one, "text", 300, 3),
        minutes=_whole(one, "minutes", MOST_MINUTES),
        wait=_whole(one, "wait", MOST_WAIT),
        after=tuple(sorted(set(after))),
        occupies=_word(one, "occupies", 30),
        dries=bool(one.get("dries", False)),
        needs=_word(one, "needs", 200),
        caution=_word(one, "caution", 300),
        check=_limit_from(one.get("check")),
        each=bool(one.get("each", False)),
        side=_word(one, "side", 40),
    )


def _limit_from(check: object) -> Limit | None:
    if check is None:
        return None
    if not isinstance(check, Mapping) or check.get("kind") not in WORDS:
        kind = check.get("kind") if isinstance(check, Mapping) else check
        raise BadInput(str(kind)[:40], f"a check: {', '.join(WORDS)}", field="check")
    ends = [check.get("low"), check.get("high")]
    for end in ends:
        if end is not None and (
            not isinstance(end, int | float) or isinstance(end, bool) or abs(end) > 1e9 or end != end
        ):
            raise BadInput(str(end)[:40], "a number in SI units", field="check")
    if check["kind"] in UNITS and ends == [None, None]:
        raise BadInput(check["kind"], "a limit: low, high or both", field="check")
    low, high = (float(end) if end is not None else None for end in ends)
    if low is not None and high is not None and low > high:
        raise BadInput(f"{low:g} to {high:g}", "the lower end first", field="check")
    return Limit(check["kind"], low, high)


def read_procedure(data: bytes | str) -> Procedure:
    """A procedure from its file.

    Args:
        data: the file's bytes.

    Returns:
        The procedure.

    Raises:
        BadInput: it is too long, no JSON, or no procedure.
    """
    text = data.decode("utf-8", "replace") if isinstance(data, bytes) else data
    no_longer_than(text, LARGEST, "file")
    try:
        return procedure_from(json.loads(text))
    except (ValueError, RecursionError) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput(str(error)[:60], "a procedure as Idle Bench writes it, JSON", field="file") from None


def slug(title: str) -> str:
    """The name of a procedure, from its title.

    >>> slug('Board wash, by alcohol')
    'board-wash-by-alcohol'
    """
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:60] or "procedure"


def check_of(procedure: Procedure, number: int, row: str) -> Check | None:
    """The check of a step, None where it has none. row: of the procedure on its unit."""
    step = procedure.steps[number - 1]
    if step.check is None:
        return None
    return Check(
        key=f"proc.{row}.{number}",
        step="procedure",
        kind=step.check.kind,
        point=f"{procedure.title}, step {number}",
        ask=step.text,
        low=step.check.low,
        high=step.check.high,
        of=(("limit", step.check.words),),
    )


def with_limit(procedure: Procedure, number: int, limit: Limit) -> Procedure:
    """The same with another limit for a step: that of this very machine."""
    steps = list(procedure.steps)
    steps[number - 1] = replace(steps[number - 1], check=limit)
    return replace(procedure, steps=tuple(steps))
