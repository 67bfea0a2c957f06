"""Copying a part along a row: the decouplers beside a row of chips, in one gesture."""

from __future__ import annotations

import re
from collections.abc import Collection

from ..refusal import BadInput
from .parts import Fitted

#: What a copy takes over: what it is and does, nothing that was seen or measured of the one part.
SEEN = {
    "looks": "", "esr": None, "esr_frequency": None, "capacitance": None, "leakage": None, "in_circuit": False,
    "date": "", "note": "",
}  # fmt: skip
MOST = 64


def copy_row(part: Fitted, more: int, last: tuple[float, float], taken: Collection[str]) -> tuple[Fitted, ...]:
    """Copies of a part, evenly spaced up to the place of the last one. References count on, leaving out those taken.

    Args:
        part: with its place.
        more: how many copies.
        last: x, y of the last one, mm.
        taken: references in use.

    Returns:
        The copies, in the order of the row.

    Raises:
        BadInput: the part has no place, or a number that cannot be.

    >>> [(p.ref, p.x) for p in copy_row(Fitted(ref='C8', value=1e-5, x=10, y=5), 3, (40, 5), {'C8', 'C10'})]
    [('C9', 20.0), ('C11', 30.0), ('C12', 40.0)]
    """
    if part.x is None or part.y is None:
        raise BadInput(part.ref, "a part that has a place", "Place it first, then copy it.", field="ref")
    if not 1 <= more <= MOST:
        raise BadInput(str(more), f"1 to {MOST} copies", field="more")
    if abs(last[0] - part.x) < 0.5 and abs(last[1] - part.y) < 0.5:
        raise BadInput(f"{last[0]:g},{last[1]:g}", "a place away from the part itself", field="last")
    hit = re.fullmatch(r"([A-Z]+)(\d+)[A-Z]?", part.ref)
    letters, number = (hit[1], int(hit[2])) if hit else ("C", 0)
    copies, used = [], set(taken)
    for i in range(1, more + 1):
        number += 1
        while f"{letters}{number}" in used:
            number += 1
        share = i / more
        x, y = part.x + (last[0] - part.x) * share, part.y + (last[1] - part.y) * share
        copies.append(part.with_(ref=f"{letters}{number}", x=round(x, 2), y=round(y, 2), **SEEN))
        used.add(f"{letters}{number}")
    return tuple(copies)
