"""A unit in an owner's words: what was done, by kind and board, without references and limits."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from idlebench.core.text.quantity import show
from idlebench.core.wording import many

from ..records.models import Cause, KnownFault
from ..unit.state import UnitState

#: What is called what in plain words.
CALLED = {
    "wet": "electrolytic capacitor", "polymer": "electrolytic capacitor", "tantalum": "tantalum capacitor",
    "ceramic": "ceramic capacitor", "film": "film capacitor", "paper": "paper capacitor", "regulator": "voltage regulator",
    "fuse": "fuse", "battery": "cell", "diode": "diode", "transistor": "transistor",
}  # fmt: skip
#: Lines of each kind on the one page, and letters of a line.
MOST, LETTERS = 5, 110


@dataclass(frozen=True)
class Supply:
    """A rail as the owner sees it: its name, what it gave last, and what it may."""

    rail: str
    read: str
    allowed: str


@dataclass(frozen=True, kw_only=True)
class Plain:
    """Lines for the one page; more: how many of each kind are only on the whole sheet."""

    done: list[str]
    wrong: list[str]
    supplies: list[Supply]
    care: list[str]
    more: int
    accepted: list[str]


def plain_words(state: UnitState) -> Plain:
    """What was done and found, for the owner."""
    done: list[str] = []
    for board in state.boards:
        changed = Counter(CALLED.get(p.swap.kind, "part") for p in board.parts if p.swap and not p.is_out)
        changed += Counter(CALLED.get(d.device.what, "part") for d in board.devices if d.swap)
        if changed:
            words = ", ".join(many(count, what) for what, count in changed.most_common())
            done.append(f"{board.row}: {words} renewed.")
        done += [f"{board.row}: {m.core.title}. It can be put back." for m in board.work.modifications]
        if board.work.mends:
            done.append(f"{board.row}: {many(len(board.work.mends), 'break')} in the wiring repaired.")
    done += [f"{row}: replaced. {row.replaced}" for row in state.replaced]
    causes = Cause.objects.filter(unit=state.row, outcome=Cause.CONFIRMED).select_related("board")
    wrong = [f"{c.ref}{f' on {c.board}' if c.board else ''}: {c.failure}." for c in causes]
    out = [p for p in state.parts if p.is_out]
    care = [f"{p.ref} on {p.board} is left out for a test: it is not finished." for p in out[:1]]
    care += [
        f"There is a battery in it ({d.ref} on {b.row}). Take it out before storage."
        for b in state.boards
        for d in b.devices
        if d.device.what == "battery" and d.device.looks != "missing"
    ]
    if state.row.burn not in ("", "none"):
        care.append("Its screen has burnt in. Use a lower brightness, and switch the picture off when nobody looks.")
    doubtful = sum(p.verdict.name != "sound" for p in state.parts if not p.swap)
    if doubtful:
        care.append(f"{many(doubtful, 'old part')} stayed in and should be inspected again.")
    supplies = _supplies(state)
    more = sum(max(0, len(lines) - MOST) for lines in (done, wrong, supplies, care))
    accepted = [f"{f.text} (accepted by {f.owner})." for f in KnownFault.objects.filter(unit=state.row)]
    more += max(0, len(accepted) - MOST)
    return Plain(
        accepted=_cut(accepted),
        done=_cut(done),
        wrong=_cut(wrong),
        supplies=supplies[:MOST],
        care=_cut(care),
        more=more,
    )


def _cut(lines: list[str]) -> list[str]:
    """As many lines as go on the page, each as long as it may be."""
    return [line if len(line) <= LETTERS else f"{line[: LETTERS - 1].rstrip()}…" for line in lines[:MOST]]


def _supplies(state: UnitState) -> list[Supply]:
    """The volts of each rail as they were read last and stand."""
    found: dict[str, Supply] = {}
    several = sum(bool(board.row.supply) for board in state.boards) > 1
    for step in state.proof.steps:
        for check in step.checks:
            reading = state.reading_of(check)
            if (
                check.live
                and check.aspect == "volts"
                and reading
                and reading.value is not None
                and state.proof.done(check)
            ):
                rail = f"{check.rail}, {check.board}" if several else check.rail
                found[rail] = Supply(rail, show(reading.value, "V"), reading.limits)
    return list(found.values())
