"""Rules by size and standing: what goes into a place, and how it fits there.

Source: sizes, lead forming and mountings are worked here from the room on the board.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..board.parts import MOUNTINGS
from .columns import KIND_CODE, Alike, Columns
from .need import Need
from .ruling import Ruling, graded
from .stand_in import FAILS, FITS, MOUNT_FOR_MOUNT

#: Forming of leads: at most this much at each lead, mm. Pitches this close count as equal.
FORM_EACH, PITCH_EQUAL = 2.5, 0.5


#: Under a measured lid, less than this much air wants the can's top insulated, mm.
LID_AIR = 1.5


#: Room that a radial part standing up in an axial one's place takes for its bent lead, mm.
STAND_UP = 4.0


@lru_cache(maxsize=64)
def mounting_grades(old: str) -> tuple[np.ndarray, tuple[str, ...]]:
    """What each mounting is worth in the place of an old one: its grade and the words, by number."""
    found = [
        MOUNT_FOR_MOUNT.get(
            (old, name), (FITS, "") if name == old else (FAILS, f"{name.capitalize()} for {old} does not go")
        )
        for name in MOUNTINGS
    ]
    return np.array([grade for grade, _ in found], dtype=np.int8), tuple(words for _, words in found)


def mounting_rule(need: Alike, cols: Columns) -> Ruling:
    mountings, words = cols["mounting"], mounting_grades(need.first.mounting)[1]
    status = need.by_place(lambda one: mounting_grades(one.mounting)[0], mountings)
    return Ruling(rule="mounting", status=status, say=lambda i: words[mountings[i]])


def _laid_flat(need: Alike, cols: Columns) -> np.ndarray:
    """Radial parts lying on surface pads."""
    return cols.is_mounted("radial") & need.on_pads


def standing_height(need: Alike, cols: Columns) -> np.ndarray:
    """Height each row takes in the place, mm: laid flat on pads, standing on end where it is axial and the place is not."""
    height = np.where(_laid_flat(need, cols), cols["diameter"], cols["height"])
    return height + STAND_UP * (cols.is_mounted("axial") & need.radial)


def _guess(need: Need) -> str:
    """Whether the room was only guessed, in words: nobody measured it, so the old part's size stands for it."""
    return "" if need.lid or need.old.room_diameter else ", guessed by the old part"


def diameter_rule(need: Alike, cols: Columns) -> Ruling:
    diameter = cols["diameter"]
    first = need.first
    unknown = np.isinf(need.diameter) & np.ones(len(cols), bool)
    fails = (diameter > need.diameter + 0.05) & ~_laid_flat(need, cols)

    def say(i: int) -> str:
        if fails[i]:
            what = "long" if cols["kind"][i] == KIND_CODE["film"] else "wide"
            over = diameter[i] - first.diameter
            return (
                f"{diameter[i]:g} mm {what}, room for {first.diameter:.3g} mm{_guess(first)}: misses by {over:.1f} mm"
            )
        return "The room is not known: measure the old part" if unknown[i] else ""

    return Ruling(
        rule="diameter",
        status=graded(fails, unknown),
        say=say,
        value=diameter,
        limit=first.diameter,
        unit="mm",
        at_least=False,
    )


def height_rule(need: Alike, cols: Columns) -> Ruling | None:
    height, first = standing_height(need, cols), need.first
    fails = height > need.height + 0.05
    if need.any("axial"):
        stands = cols.is_mounted("radial") & np.isfinite(need.lid) & (height + STAND_UP <= need.lid)
        fails &= ~(stands & need.axial)
    air = need.lid - height
    # a part no taller than the old one has the air that the old one had
    lower = (need.old_height > 0) & (height <= need.old_height + 0.05)
    tight = (air < LID_AIR) & ~need.axial & ~lower
    word = "long" if first.mounting == "axial" else "tall"

    def say(i: int) -> str:
        if fails[i]:
            over = height[i] - first.height
            return f"{height[i]:g} mm {word}, room for {first.height:.3g} mm{_guess(first)}: misses by {over:.1f} mm"
        return f"{max(air[i], 0):.1f} mm under the lid: insulate the can top" if tight[i] else ""

    return Ruling(
        rule="height",
        status=graded(fails, tight),
        say=say,
        value=height,
        limit=first.height,
        unit="mm",
        at_least=False,
    )


def pitch_rule(need: Alike, cols: Columns) -> Ruling | None:
    if not need.any("holed"):
        return None
    pitch, first = cols["pitch"], need.first
    off = np.abs(pitch - need.pitch)
    stiff = cols.is_kind("film") | cols.is_mounted("snap")
    fails = (off > np.where(stiff, PITCH_EQUAL, 2 * FORM_EACH + 0.01)) & (pitch > 0) & need.holed

    def say(i: int) -> str:
        if fails[i]:
            more = "must match" if stiff[i] else f"leads form {FORM_EACH} mm each at most"
            return f"Pitch {pitch[i]:g} mm for holes at {first.pitch:g} mm: {more}"
        return f"Form each lead by {off[i] / 2:.2g} mm" if off[i] > PITCH_EQUAL and pitch[i] else ""

    return Ruling(rule="pitch", status=graded(fails), say=say, value=pitch, limit=first.pitch, unit="mm")
