"""What no model of a supply tells: sound, logic, contacts, picture. Causes and what speaks for each, read from two tables.

A row says how much likelier a sign is where its cause is there (a likelihood ratio), with its reason and where that is known from.
Combined with the model's shares where both speak: a cause outside of the supply leaves the supply sound.

Source: each row of the tables names its own.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from ..board.devices import Device, is_plug
from ..board.parts import Fitted
from ..refusal import BadInput
from ..text.csvtable import number, read_table, words
from ..text.rails_and_chips import Chip
from .hypotheses import PRIORS, Hypothesis

CAUSES = (
    words("cause", "name of the cause", 40, required=True),
    words("title", "what it is, for people", 80, required=True),
    number("weight", "", "how often it is the cause, beside the weights of a supply's places", low=0.01, high=1000),
    words("finds", "what it is on a board: plug, role:…, device:…, chip:any or a word of its line, joint:…", 120),
    words("failure", "what is wrong with it then, in a word", 40, required=True),
    words("look", "what confirms it, and how", 300, required=True),
    number("minutes", "", "minutes that takes", low=0.1, high=600),
)
EVIDENCE = (
    words("sign", "a symptom as it is typed", 40, required=True),
    words("cause", "a cause of the other table, or a place of a supply", 40, required=True),
    number("ratio", "", "how much likelier the symptom is with this cause", low=0.01, high=100),
    words("reason", "why", 200, required=True),
    words("source", "where that is known from", 200, required=True),
)
#: Most places that one cause names on a unit.
MOST_PLACES = 6


@dataclass(frozen=True, kw_only=True)
class Cause:
    """A cause outside of what the supply's lines tell. finds: what it is on a board, () where nothing on a board shows it."""

    key: str
    title: str
    weight: float
    finds: tuple[str, ...]
    failure: str
    look: str
    minutes: float


@dataclass(frozen=True, kw_only=True)
class Says:
    """One row: a sign, a cause, how much likelier the one is with the other, why, and where that is known from."""

    sign: str
    cause: str
    ratio: float
    reason: str
    source: str


@dataclass(frozen=True)
class Place:
    """Something on a unit that may be a cause. ref: its reference, with its board where the unit has several. words: what finds it."""

    ref: str
    words: frozenset[str]


@dataclass(frozen=True)
class Evidence:
    """Both tables."""

    causes: Mapping[str, Cause]
    rows: tuple[Says, ...]

    @cached_property
    def signs(self) -> tuple[str, ...]:
        """Every sign that a row speaks of."""
        return tuple(dict.fromkeys(row.sign for row in self.rows))

    def of(self, sign: str) -> dict[str, Says]:
        """The rows of a sign, by cause."""
        return {row.cause: row for row in self.rows if row.sign == sign}

    def elsewhere(self, signs: Iterable[str], places: Sequence[Place] = ()) -> tuple[Hypothesis, ...]:
        """What outside of the supply may be behind some signs: each cause by the places that the unit has for it.

        Their weights stand beside those of a supply's places, which sum to one.
        """
        named = dict.fromkeys(cause for sign in signs for cause, row in self.of(sign).items() if row.ratio > 1)
        whole = sum(PRIORS.values())
        found = []
        for cause in (self.causes[key] for key in named if key in self.causes):
            refs = [place.ref for place in places if set(cause.finds) & place.words][:MOST_PLACES]
            for ref in refs or [cause.title]:
                found.append(
                    Hypothesis(
                        ref=ref,
                        failure=cause.failure,
                        place=cause.key,
                        severity=0,
                        prior=cause.weight / whole / max(len(refs), 1),
                        faults=(),
                    )
                )
        return tuple(found)


def read_evidence(causes: bytes | str, rows: bytes | str) -> Evidence:
    """Read the two tables.

    Args:
        causes: the causes' table, as a file or text.
        rows: the rows.

    Returns:
        Causes by sign, each with its likelihood ratio and reason.

    Raises:
        BadInput: a row cannot be read, or names a cause that is in neither table nor a place of a supply.
    """
    known = read_table(causes, CAUSES, unique="cause")
    told = read_table(rows, EVIDENCE)
    for problem in (*known.problems, *told.problems):
        raise BadInput(problem.text, str(problem), field="file")
    found = {row["cause"]: _cause(row) for row in known.rows}
    says = tuple(
        Says(sign=row["sign"], cause=row["cause"], ratio=row["ratio"], reason=row["reason"], source=row["source"])
        for row in told.rows
    )
    for row in says:
        if row.cause not in found and row.cause not in PRIORS:
            raise BadInput(row.cause, f"a cause of the table, or one of {', '.join(PRIORS)}", field=row.sign)
    return Evidence(found, says)


def _cause(row: Mapping[str, Any]) -> Cause:
    plain = {name: row[name] for name in ("title", "weight", "failure", "look", "minutes")}
    return Cause(key=row["cause"], finds=tuple(row["finds"].split()), **plain)


def places_of(
    board: str, parts: Iterable[Fitted], devices: Iterable[Device], chips: Iterable[Chip]
) -> tuple[Place, ...]:
    """What a board has that a cause may be, in order; references with the board's name before them.

    Args:
        board: its name, "" where the unit has one only.
        parts: the parts.
        devices: parts that are no capacitors.
        chips: chips listed on the board.

    Returns:
        The places, in the order of the table.
    """
    before = f"{board} " if board else ""
    found = [Place(f"{before}{part.ref}", frozenset({f"role:{part.role}"})) for part in parts]
    for device in devices:
        found.append(Place(f"{before}{device.ref}", frozenset({f"device:{device.what}"})))
    for chip in chips:
        told = {f"chip:{word.lower()}" for word in chip.label.split()} | {"chip:any"}
        found.append(Place(f"{before}{chip.ref}", frozenset({"plug"} if is_plug(chip.ref) else told)))
    return tuple(found)
