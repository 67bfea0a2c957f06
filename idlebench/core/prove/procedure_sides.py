"""A procedure in as many sides as are typed: its steps for each of them, once more where one side needs it.

Source: twelve sides: workshop practice, because nobody plans more of one machine at once.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from ..refusal import BadInput
from ..wording import many
from .procedures import MOST_STEPS, Procedure, ProcedureStep

#: Most sides of a procedure.
MOST_SIDES = 12


def read_sides(text: str) -> tuple[str, ...]:
    """Sides as typed: their names apart by commas, or how many there are.

    Args:
        text: as it was typed.

    Returns:
        A name for each side; () for none typed.

    Raises:
        BadInput: none or too many, or a name twice.

    >>> read_sides('lid, front, left'), read_sides('3'), read_sides('')
    (('lid', 'front', 'left'), ('side 1', 'side 2', 'side 3'), ())
    """
    plain = " ".join(text.split())
    if not plain:
        return ()
    if hit := re.fullmatch(r"(\d{1,3})(?: sides?)?", plain):
        count = int(hit[1])
        names = tuple(f"side {n}" for n in range(1, count + 1)) if count <= MOST_SIDES else ()
    else:
        names = tuple(filter(None, (name.strip().lower()[:40] for name in re.split(r"[,;]", plain))))
    if not 1 <= len(names) <= MOST_SIDES or len(set(names)) < len(names):
        raise BadInput(
            plain[:60], f"1 to {MOST_SIDES} sides, each once", "Such as lid, front, left, right; or 4.", field="sides"
        )
    return names


def in_sides(procedure: Procedure, names: Sequence[str]) -> Procedure:
    """A procedure whose steps for each side are there once for each of some sides, one side after the other.

    Args:
        procedure: the procedure.
        names: of the sides; none for the procedure as it is.

    Returns:
        The procedure; the same where no step of it is for each side.

    Raises:
        BadInput: more steps than a procedure has.
    """
    block = [number for number, step in enumerate(procedure.steps, 1) if step.each]
    if not block or not names:
        return procedure
    first, last = block[0], block[-1]
    made = [_of_side(procedure.steps[first - 1 : last], name, (i * (last - first + 1))) for i, name in enumerate(names)]
    return _with(procedure, first, last, [step for steps in made for step in steps], len(made))


def again(procedure: Procedure, number: int) -> tuple[Procedure, int]:
    """A procedure in which the steps of a side follow once more after that side.

    Args:
        procedure: the procedure.
        number: a step of the side.

    Returns:
        The procedure, and the number of the first step that is new.

    Raises:
        BadInput: a step that is for no side, or more steps than a procedure has.
    """
    side = procedure.steps[number - 1].side if 1 <= number <= len(procedure.steps) else ""
    if not side:
        raise BadInput(f"step {number}", "a step that is for a side", field="step")
    first = last = number
    while first > 1 and procedure.steps[first - 2].side == side:
        first -= 1
    while last < len(procedure.steps) and procedure.steps[last].side == side:
        last += 1
    once = list(procedure.steps[first - 1 : last])
    # of a side that was done more than once, one round
    length = len(once) // max(1, sum(step.text == once[0].text for step in once))
    new = [replace(step, after=tuple(n + len(once) for n in step.after)) for step in once[:length]]
    new[0] = replace(new[0], after=(last,))
    steps = [*procedure.steps[:last], *new, *(_moved(step, last, length) for step in procedure.steps[last:])]
    _few_enough(steps)
    return replace(procedure, steps=tuple(steps)), last + 1


def _of_side(steps: Sequence[ProcedureStep], name: str, by: int) -> list[ProcedureStep]:
    """Some steps for one side, so many steps further on."""
    return [
        replace(step, text=f"{name[:1].upper()}{name[1:]}: {step.text[:1].lower()}{step.text[1:]}"[:300], side=name, each=False,
                after=tuple(n + by for n in step.after))
        for step in steps
    ]  # fmt: skip


def _with(procedure: Procedure, first: int, last: int, made: list[ProcedureStep], rounds: int) -> Procedure:
    """The block from first to last in so many rounds; each round comes after the one before it."""
    length = last - first + 1
    entry = procedure.steps[first - 1].after
    for i in range(rounds):
        at = i * length
        made[at] = replace(made[at], after=entry if i == 0 else (first + at - 1,))
    more = length * (rounds - 1)
    steps = [*procedure.steps[: first - 1], *made, *(_moved(step, last, more) for step in procedure.steps[last:])]
    _few_enough(steps)
    return replace(procedure, steps=tuple(steps))


def _moved(step: ProcedureStep, last: int, more: int) -> ProcedureStep:
    """A step that stands so many steps further on; what came after the block comes after all of it."""
    return replace(step, after=tuple(n + more if n >= last else n for n in step.after))


def _few_enough(steps: Sequence[ProcedureStep]) -> None:
    if len(steps) > MOST_STEPS:
        raise BadInput(
            many(len(steps), "step"), f"at most {MOST_STEPS}", "Fewer sides, or two procedures.", field="sides"
        )
