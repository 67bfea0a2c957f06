"""``idlebench find-parts``: what a squared-up photo of a board shows, as proposals."""

from __future__ import annotations

import argparse
import json
import math
import re
import sys
from pathlib import Path

from ..core.photo.can_sizes import asked_distance
from ..core.refusal import BadInput

#: Longest side of a board, mm.
LONGEST = 2000.0


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command."""
    find = commands.add_parser("find-parts", help="cans and boxes in a photo of a board, squared up edge to edge")
    find.add_argument("--photo", required=True, type=Path, help="JPEG or PNG, edge to edge")
    find.add_argument("--mm", required=True, help="width × height of the board in mm, such as 180x120")
    find.add_argument("--distance", help="of the camera from the board, such as 350mm; left out, the cans tell it")
    find.add_argument("--json", action="store_true")
    find.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Find them and print them."""
    width, height = board_size(args.mm)
    distance = asked_distance(_millimetres(args.distance)) if args.distance else None
    from ..seeing.finder import find

    seen = find(args.photo, width, height, distance=distance, tell=_nothing if args.json else _told)
    if args.json:
        print(json.dumps({"parts": [part.as_json() for part in seen.parts]}, ensure_ascii=False, indent=1))
        return 0
    for part in seen.parts:
        size = f"ø{part.diameter:g} mm" if part.diameter else f"{part.width:.1f} × {part.height:.1f} mm"
        stripe = "" if part.stripe is None else f", stripe at {part.stripe:.0f}°"
        print(
            f"{part.ref or '?':<6} {part.kind:<4} {size:<16} at {part.x:.1f}, {part.y:.1f} mm, {part.share:.0%}{stripe}"
        )
    if seen.known and math.isfinite(seen.distance):
        print(f"The cans put the camera {seen.distance:.0f} mm from the board.")
    if not seen.read:
        print("Print was not read: idlebench[read] is not installed.")
    return 0


def _told(words: str) -> None:
    """What is being done, for whoever waits."""
    print(words, file=sys.stderr)


def _nothing(words: str) -> None:
    """A program that waits is told nothing."""


def _millimetres(words: str) -> float:
    """A distance as typed, mm."""
    length = re.fullmatch(r"\s*(\d{1,5}(?:[.,]\d{1,3})?)\s*(mm|cm|m)?\s*", words)
    if not length:
        raise BadInput(words[:40], "the camera's distance, such as 350mm or 40cm", field="distance")
    return float(length[1].replace(",", ".")) * {"mm": 1, "cm": 10, "m": 1000, None: 1}[length[2]]


def board_size(words: str) -> tuple[float, float]:
    """Width and height of a board as typed, mm.

    Raises:
        BadInput: not two lengths of a board.

    >>> board_size("180x120")
    (180.0, 120.0)
    """
    sides = re.fullmatch(r"\s*(\d{1,4}(?:[.,]\d{1,3})?)\s*[x×*]\s*(\d{1,4}(?:[.,]\d{1,3})?)\s*(?:mm)?\s*", words)
    lengths = tuple(float(side.replace(",", ".")) for side in sides.groups()) if sides else ()
    if not lengths or not all(1 <= side <= LONGEST for side in lengths):
        raise BadInput(words[:40], "width × height in mm, such as 180x120", field="mm")
    return lengths[0], lengths[1]
