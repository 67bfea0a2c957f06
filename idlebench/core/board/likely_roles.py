"""What a capacitor's place may do, where nobody said it: by its neighbours, its value, its volts and what stands beside it.

Source: workshop practice, because no standard says what a place does; each guess says its reason, and a person confirms it.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..text.quantity import show
from ..text.rails_and_chips import Chip
from .devices import Device, is_plug
from .parts import Fitted
from .roles import ROLES

#: How near a chip, a regulator or a crystal stands to what serves it, mm.
BESIDE_CHIP, BESIDE_REGULATOR, BESIDE_CRYSTAL = 18.0, 30.0, 15.0
#: Stores: from this size on (F), and on the mains side from these volts on (V) and this size.
STORE, MAINS_VOLTS, MAINS_STORE = 1000e-6, 160.0, 22e-6
#: Sizes by which a small part is told: crystal load at most, chip decoupling from and to, coupling from and to, F.
CRYSTAL_LOAD, CHIP, COUPLING = 150e-12, (10e-9, 470e-6), (0.1e-6, 100e-6)
#: At most so many guesses.
MOST = 3


@dataclass(frozen=True)
class LikelyRole:
    """A role that a place may have: a key of ROLES, and why."""

    role: str
    why: str

    @property
    def title(self) -> str:
        return ROLES[self.role].title


def likely_roles(
    part: Fitted, parts: Sequence[Fitted], devices: Iterable[Device] = (), chips: Iterable[Chip] = (), supply: str = ""
) -> tuple[LikelyRole, ...]:
    """The likeliest roles of a place whose role nobody said, the likeliest first; () where it is said.

    Args:
        part: the part in its place.
        parts: all capacitors of its board.
        devices: other parts of its board.
        chips: chips listed on the board.
        supply: of its board: "linear", "switching" or "" for a board that is fed.

    Returns:
        At most MOST, each once.

    >>> likely_roles(Fitted(ref='C1', value=4700e-6, volts=25.0), [], supply='linear')[0].why
    '4700 µF on a linear supply'
    """
    if part.role != "unknown":
        return ()
    found = [
        *_like_others(part, parts),
        *_by_size(part, supply),
        *_by_neighbours(part, devices, chips),
        *_by_kind(part),
    ]
    unique = {one.role: one for one in reversed(found)}
    return tuple(unique[role] for role in dict.fromkeys(one.role for one in found))[:MOST]


def _like_others(part: Fitted, parts: Sequence[Fitted]) -> list[LikelyRole]:
    """The role that most of the same value, volts and kind have on this board."""
    alike = [
        p
        for p in parts
        if p.ref != part.ref
        and p.role != "unknown"
        and (p.value, p.volts, p.kind) == (part.value, part.volts, part.kind)
    ]
    if not alike:
        return []
    role, count = Counter(p.role for p in alike).most_common(1)[0]
    if 2 * count <= len(alike):
        return []
    refs = [p.ref for p in alike if p.role == role]
    return [LikelyRole(role, f"{', '.join(refs[:3])} of the same size {'does' if len(refs) == 1 else 'do'} so")]


def _by_size(part: Fitted, supply: str) -> list[LikelyRole]:
    volts, size = part.volts or part.rail_volts or 0.0, show(part.value, "F")
    if part.kind not in ("wet", "polymer"):
        return []
    if volts >= MAINS_VOLTS and part.value >= MAINS_STORE:
        return [LikelyRole("bulk", f"{size} for {show(volts, 'V')}: a reservoir behind the mains rectifier")]
    if part.value >= STORE and supply == "switching":
        return [
            LikelyRole("converter_output", f"{size} on a switching supply"),
            LikelyRole("bulk", f"{size} is a reservoir's size"),
        ]
    if part.value >= STORE and supply:
        return [LikelyRole("bulk", f"{size} on a linear supply")]
    if part.value >= STORE:
        return [LikelyRole("decoupling", f"{size} where the rails come onto a board")]
    return []


def _by_neighbours(part: Fitted, devices: Iterable[Device], chips: Iterable[Chip]) -> list[LikelyRole]:
    if part.x is None or part.y is None:
        return [LikelyRole("decoupling", f"it stands on {part.rail}")] if part.rail else []

    def apart(x: float | None, y: float | None) -> float:
        return math.inf if x is None or y is None else math.hypot(x - part.x, y - part.y)

    found = []
    near = sorted(((apart(d.x, d.y), d) for d in devices), key=lambda pair: pair[0])
    for away, device in near:
        if device.what == "crystal" and away <= BESIDE_CRYSTAL and part.value <= CRYSTAL_LOAD:
            found.append(LikelyRole("timing", f"{away:.0f} mm from crystal {device.ref}"))
        if device.what == "regulator" and away <= BESIDE_REGULATOR and part.kind in ("wet", "polymer", "tantalum"):
            found.append(LikelyRole("regulator_output", f"{away:.0f} mm from regulator {device.ref}"))
    if part.rail:
        found.append(LikelyRole("decoupling", f"it stands on {part.rail}"))
    beside = min(((apart(c.x, c.y), c.ref) for c in chips if not is_plug(c.ref)), default=(math.inf, ""))
    if beside[0] <= BESIDE_CHIP and CHIP[0] <= part.value <= CHIP[1]:
        found.append(LikelyRole("decoupling", f"{beside[0]:.0f} mm from {beside[1]}"))
    return found


def _by_kind(part: Fitted) -> list[LikelyRole]:
    size = show(part.value, "F")
    if part.kind == "wet" and part.bipolar:
        return [LikelyRole("coupling", f"{size} bipolar carries a signal both ways")]
    if part.kind == "film" and part.value < 1e-6:
        return [
            LikelyRole("filter", f"{size} film sets a frequency"),
            LikelyRole("timing", f"{size} film may set a time"),
        ]
    if part.kind == "ceramic" and part.value >= CHIP[0]:
        return [LikelyRole("decoupling", f"{size} ceramic")]
    if part.kind in ("wet", "tantalum") and COUPLING[0] <= part.value <= COUPLING[1]:
        return [LikelyRole("coupling", f"{size} between two stages"), LikelyRole("decoupling", f"{size} on a supply")]
    return [LikelyRole("decoupling", f"{size} on a supply")] if part.kind in ("wet", "polymer", "tantalum") else []
