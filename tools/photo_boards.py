"""The demo's mainboard and solder sides as made-up photos, with the truth beside them."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from photos import SLEEVES, BoardDrawing, Rendered

from idlebench.core.board.tables import read_survey
from idlebench.core.text.rails_and_chips import read_chip

DEMO = Path(__file__).parents[1] / "idlebench/demo/skerry-point"


def code(farads: float) -> str:
    """A value as it is printed on a film part: two digits and how many noughts follow, picofarads."""
    digits, power = f"{farads * 1e12:.1e}".split("e")
    return f"{digits.replace('.', '')}{int(power) - 1}"


def mainboard(seed: int, *, scale: float = 8.4) -> Rendered:
    """The demo's mainboard with its 41 capacitors where unit B's survey has them, as unit C's photo shows it."""
    job = json.loads((DEMO / "job.json").read_text())
    made = next(one for unit in job["units"] for one in unit["boards"] if one["name"] == "MB-80")
    survey = read_survey((DEMO / "B-MB-80.csv").read_bytes())
    board = BoardDrawing(seed, scale=scale, size=(made["width"], made["height"]), colour="green")
    board.ground_work()
    for chip in map(read_chip, made["chips"]):
        wide, high = max(chip.width, chip.height), min(chip.width, chip.height)
        what = "plug" if chip.ref[0] == "J" else "chip"
        board.body(what, chip.x, chip.y, wide, 0.8 * high, chip.height > chip.width, chip.ref)
    sleeves: dict[tuple[float, float | None], int] = {}
    for part in survey.parts:
        if part.mounting == "axial" or part.kind == "film":
            axial = part.mounting == "axial"
            sides = (part.height, part.diameter) if axial else (part.diameter, 0.5 * part.diameter)
            what, text = ("axial", "") if axial else ("film", code(part.value))
            board.body(what, part.x, part.y, *sides, part.angle % 180 == 90, part.ref, text)
        else:
            sleeve = sleeves.setdefault((part.value, part.volts), len(sleeves) % len(SLEEVES))
            board.round(part.x, part.y, part.diameter, part.height, part.angle, sleeve, ref=part.ref)
    return Rendered(
        photo=board.seen(), width=board.width, height=board.height, distance=board.distance, parts=board.parts
    )


@dataclass(frozen=True, kw_only=True)
class SolderSide:
    """A photo of a solder side, its joints (reference, sign, x and y in mm as it is seen), and which of them solder joins."""

    photo: np.ndarray
    width: float
    height: float
    joints: list[tuple[str, str, float, float]]
    bridges: list[tuple[str, str]]


def solder_side(seed: int, *, scale: float = 9.0, cans: int = 24, bridges: int = 3) -> SolderSide:
    """The solder side of a board by a seed: two joints to a can, tracks from them, and solder between some that stand near."""
    board = BoardDrawing(seed, scale=scale)
    dice, s = board.dice, board.s
    board.ground_work()
    joints: list[tuple[str, str, float, float]] = []
    for i in range(cans):
        pitch = dice.choice((2.0, 2.5, 2.5, 3.5, 5.0))
        turned = dice.random() < 0.5
        across, down = (0.0, pitch) if turned else (pitch, 0.0)
        place = board.room(across + 2.4, down + 2.4, 0.3)
        if place is None:
            continue
        for sign, way in (("plus", -0.5), ("minus", 0.5)):
            joints.append((f"C{i + 1}", sign, place[0] + way * across, place[1] + way * down))
    for _, _, x, y in joints:
        to = (x + dice.uniform(-25, 25), y) if dice.random() < 0.5 else (x, y + dice.uniform(-25, 25))
        ends = (round(x * s), round(y * s)), (round(to[0] * s), round(to[1] * s))
        cv2.line(board.image, *ends, board.copper, round(dice.choice((0.6, 1.0)) * s))
    near = [
        (a, b) for i, a in enumerate(joints) for b in joints[i + 1 :] if 0 < math.hypot(a[2] - b[2], a[3] - b[3]) <= 4.0
    ]
    drawn = dice.sample(near, min(bridges, len(near)))
    for _, _, x, y in joints:
        grey = dice.randint(170, 205)
        board.disc(x * s, y * s, dice.uniform(0.75, 0.95) * s, (grey, grey, grey - 4))
    for a, b in drawn:
        grey = dice.randint(170, 205)
        bend = dice.uniform(-0.3, 0.3)
        middle = (a[2] + b[2]) / 2 + bend, (a[3] + b[3]) / 2 - bend
        way = np.array([(a[2] * s, a[3] * s), (middle[0] * s, middle[1] * s), (b[2] * s, b[3] * s)], np.int32)
        cv2.polylines(board.image, [way], False, (grey, grey, grey - 4), round(dice.uniform(0.6, 1.3) * s), cv2.LINE_AA)
    for _, _, x, y in joints:
        # the leg that was cut, and what shines
        board.disc(x * s, y * s, 0.32 * s, (120, 126, 128))
        board.disc((x - 0.3) * s, (y - 0.3) * s, 0.2 * s, (244, 246, 246))
    return SolderSide(
        photo=board.seen(),
        width=board.width,
        height=board.height,
        joints=joints,
        bridges=[(f"{a[0]} {a[1]}", f"{b[0]} {b[1]}") for a, b in drawn],
    )


if __name__ == "__main__":
    # the photo that is shipped with the demo
    cv2.imwrite(str(DEMO / "photos/C-MB-80.jpg"), mainboard(80).photo, [cv2.IMWRITE_JPEG_QUALITY, 66])
