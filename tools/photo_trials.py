"""Made-up boards by seeds: how many of their cans, boxes, stripes and references are found in a photo, and how many that are none."""

from __future__ import annotations

import math
import re
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import cv2
from asked import asked, table
from photos import Drawn, Rendered, rendered

from idlebench.core.photo.proposals import Found
from idlebench.seeing.finder import find
from idlebench.seeing.texts import can_read

#: Seeds that nothing was tuned on: those below 100 were.
SEEDS = range(5000, 5040)


@dataclass
class Tally:
    """What was drawn and what was found of it."""

    cans: int = 0
    found: int = 0
    false: int = 0
    sized: int = 0
    stripes: int = 0
    right: int = 0
    boxes: int = 0
    boxed: int = 0
    boxes_false: int = 0
    refs: int = 0
    read: int = 0
    wrong: int = 0

    def take(self, board: Rendered, seen: list[Found]) -> None:
        """Add a board."""
        left = [one for one in seen if one.kind == "can"]
        for drawn in board.cans:
            self.cans += 1
            near = nearest(drawn, left, max(2.0, 0.3 * drawn.diameter))
            if near is None:
                continue
            left.remove(near)
            self.found += 1
            self.sized += near.diameter == drawn.diameter
            if near.stripe is not None and drawn.stripe is not None:
                self.stripes += 1
                self.right += abs((near.stripe - drawn.stripe + 180) % 360 - 180) < 45
        self.false += len(left)
        left = [one for one in seen if one.kind == "box"]
        for drawn in board.parts:
            if drawn.kind == "box":
                self.boxes += 1
                near = nearest(drawn, left, 2.5)
                if near is not None:
                    left.remove(near)
                    self.boxed += 1
        self.boxes_false += len(left)
        for drawn in board.parts:
            near = nearest(drawn, seen, 3.0)
            self.refs += 1
            if near is not None and near.ref:
                self.read += near.ref == drawn.ref
                self.wrong += near.ref != drawn.ref


def nearest(drawn: Drawn, seen: list[Found], most: float) -> Found | None:
    """What was found nearest to where a part stands, mm."""
    near = min(seen, key=lambda one: math.hypot(one.x - drawn.x, one.y - drawn.y), default=None)
    return near if near and math.hypot(near.x - drawn.x, near.y - drawn.y) <= most else None


def photos(seeds: range = SEEDS) -> None:
    """All of them, and one of twelve megapixels."""
    tally = Tally()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "board.jpg"
        for seed in seeds:
            board = rendered(seed)
            cv2.imwrite(str(path), board.photo)
            tally.take(board, list(find(path, board.width, board.height).parts))
        small = rendered(seeds[0])
        large = rendered(seeds[0], scale=math.sqrt(12e6 / (small.width * small.height)))
        cv2.imwrite(str(path), large.photo)
        # as the page has it done: in a process of its own, which says how much it took (resource would count this one's, too)
        code = "import sys; from idlebench.seeing.__main__ import main; main(*sys.argv[1:]); print(open('/proc/self/status').read())"
        looked = [sys.executable, "-c", code, str(path), f"{large.width:g}", f"{large.height:g}"]
        begun = time.perf_counter()
        said = subprocess.run(looked, check=True, capture_output=True, text=True).stdout
        took = time.perf_counter() - begun
        memory = int(re.search(r"VmHWM:\s+(\d+)", said)[1]) / 1024
    t = tally
    asked(f"photos: of {t.cans} cans on {len(seeds)} boards found", 100 * t.found / t.cans, 95, "%", least=True)
    asked("photos: of what was said to be a can none is", 100 * t.false / (t.found + t.false), 5, "%")
    asked("photos: diameter to the nearest size", 100 * t.sized / t.found, 90, "%", least=True)
    asked(f"photos: side of the stripe, told of {t.stripes}", 100 * t.right / t.stripes, 95, "%", least=True)
    asked(f"photos: of {t.boxes} boxes found, {t.boxes_false} that are none", 100 * t.boxed / t.boxes, None, "%")
    if can_read():
        asked(f"photos: of {t.refs} references read", 100 * t.read / t.refs, 65, "%", least=True)
        asked("photos: references read wrongly, of those read", 100 * t.wrong / max(1, t.read + t.wrong), 2, "%")
    else:
        print("references: not read, idlebench[read] is not installed")
    megapixels = large.photo.shape[0] * large.photo.shape[1] / 1e6
    # what is asked is the finding: reading comes on top where the extra is installed
    asked(f"photos: {megapixels:.0f} megapixels looked through", took, None if can_read() else 5, "s")
    asked("photos: its memory", memory, 600, "MB")


if __name__ == "__main__":
    photos(range(SEEDS[0], SEEDS[0] + int(sys.argv[1])) if len(sys.argv) > 1 else SEEDS)
    table()
