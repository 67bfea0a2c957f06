"""What was found in a photo, as JSON in the last line of standard output: a process of its own, so that its memory goes with it.

Each line before says what it is doing. A refusal is an object with what the core said of it, and exit code 2.
"""

from __future__ import annotations

import json
import math
import sys
from dataclasses import asdict
from pathlib import Path

from idlebench.core.refusal import BadInput

from .finder import find


def main(path: str, width: str, height: str) -> int:
    """Find, and print what was found."""
    try:
        seen = find(Path(path), float(width), float(height), tell=lambda words: print(words, flush=True))
    except BadInput as error:
        print(json.dumps({"read": error.read, "expected": error.expected, "mend": error.mend, "field": error.field}))
        return 2
    distance = seen.distance if seen.known and math.isfinite(seen.distance) else None
    print(json.dumps({"parts": [asdict(part) for part in seen.parts], "distance": distance, "read": seen.read}))
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:4]))
