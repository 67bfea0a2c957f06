"""What was found in a photo, as JSON in the last line of standard output: a process of its own, so that its memory goes with it.

Each line before says what it is doing. A refusal is an object with what the core said of it, and exit code 2.
"""

from __future__ import annotations

import json
import math
import sys
from dataclasses import asdict
from pathlib import Path

from idlebench.core.photo.bridges import Pad
from idlebench.core.refusal import BadInput

from .finder import bridges, find


def main(path: str, width: str, height: str, joints: str = "") -> int:
    """Find, and print what was found: parts, or with "joints" solder between the pairs that standard input lists."""

    def tell(words: str) -> None:
        print(words, flush=True)

    try:
        if joints:
            pairs = [(Pad(*one), Pad(*other)) for one, other in json.load(sys.stdin)]
            told = bridges(Path(path), float(width), float(height), pairs, tell=tell)
            print(json.dumps({"joined": [(one.words, other.words) for one, other in told]}))
            return 0
        seen = find(Path(path), float(width), float(height), tell=tell)
    except BadInput as error:
        print(json.dumps({"read": error.read, "expected": error.expected, "mend": error.mend, "field": error.field}))
        return 2
    distance = seen.distance if seen.known and math.isfinite(seen.distance) else None
    print(json.dumps({"parts": [asdict(part) for part in seen.parts], "distance": distance, "read": seen.read}))
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:5]))
