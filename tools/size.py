"""Prints how much of the code is tests."""

from __future__ import annotations

import subprocess
from pathlib import Path

ENDINGS = (".py", ".html", ".js", ".mjs", ".css", ".svg")


def main() -> None:
    """Count the lines of tracked code, migrations left out."""
    listed = subprocess.run(["git", "ls-files"], capture_output=True, text=True, check=True).stdout.split("\n")
    lines = {"code": 0, "tests": 0}
    for name in listed:
        path = Path(name)
        if path.suffix in ENDINGS and "migrations" not in path.parts and path.is_file():
            lines["tests" if path.parts[0] == "tests" else "code"] += path.read_text(encoding="utf-8").count("\n")
    total = sum(lines.values())
    print(
        f"code {lines['code']} lines, tests {lines['tests']} lines: tests are {lines['tests'] / total:.0%} of {total}"
    )


if __name__ == "__main__":
    main()
