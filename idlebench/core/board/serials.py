"""Serial numbers of cases and boards held against each other: boards that were swapped between machines, or changed before.

Source: workshop practice, because makers numbered the boards of a machine as its case more often than not; that is held against the
machines at hand before anything is said.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

#: Digits that tell a machine from others.
LEAST = 3


@dataclass(frozen=True, kw_only=True)
class Numbered:
    """A machine with its numbers. name: of the unit. serial: of its case. boards: the name and number of each board."""

    name: str
    serial: str
    boards: tuple[tuple[str, str], ...] = ()


def tail(serial: str) -> str:
    """The last digits of a serial number, without leading zeros; "" where there are too few to tell anything.

    >>> tail('TW80-0117'), tail('MB 117 B'), tail('A1')
    ('117', '117', '')
    """
    runs = re.findall(r"\d+", serial)
    return runs[-1].lstrip("0") if runs and len(runs[-1]) >= LEAST else ""


def swapped_boards(units: Sequence[Numbered]) -> tuple[str, ...]:
    """What the numbers of machines of one kind say of boards that were swapped.

    Args:
        units: the machines with their numbers.

    Returns:
        A sentence for each; none where the numbers say nothing.

    >>> one = Numbered(name='A', serial='TW-0117', boards=(('MB-80', '0121'),))
    >>> swapped_boards([one, Numbered(name='B', serial='TW-0121', boards=(('MB-80', '0117'),))])[0]
    'MB-80 of unit A is numbered 0121, as the case of unit B: the boards were swapped.'
    """
    cases = {tail(unit.serial): unit.name for unit in units if tail(unit.serial)}
    told = [(unit, board, number) for unit in units for board, number in unit.boards if tail(number)]
    # boards are numbered as their cases where at least one is, here or in another machine of the job
    alike = {board for _, board, number in told if tail(number) in cases}
    said = []
    twice = {key for key, count in Counter((board, tail(number)) for _, board, number in told).items() if count > 1}
    for unit, board, number in told:
        own, digits = tail(unit.serial), tail(number)
        if (board, digits) in twice:
            said.append(
                f"{board} of unit {unit.name} is numbered {number}, and another {board} as well: read both again."
            )
        elif digits in cases and cases[digits] != unit.name:
            said.append(
                f"{board} of unit {unit.name} is numbered {number}, as the case of unit {cases[digits]}: the boards were swapped."
            )
        elif own and digits != own and board in alike:
            said.append(
                f"{board} of unit {unit.name} is numbered {number}, its case {unit.serial}: the board was changed before, or the case was."
            )
    return tuple(said)
