"""Writes the page of each room, README.md, from the docstrings of its package and its files; `--check` only tells which is out of date."""

from __future__ import annotations

import ast
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
HEAD = "<!-- from the docstrings by make rooms: change those -->"


def rooms() -> list[Path]:
    """The packages of the product that hold files of their own, but not their migrations, tests or tags."""
    found = sorted({path.parent for path in (ROOT / "idlebench").rglob("__init__.py")})
    return [
        room
        for room in found
        if not {"migrations", "templatetags"} & set(room.parts) and len(list(room.glob("*.py"))) > 1
    ]


def told(path: Path) -> str:
    """The docstring of a file."""
    return ast.get_docstring(ast.parse(path.read_text(encoding="utf-8"))) or ""


def _cell(text: str) -> str:
    return text.replace("|", "\\|")


def page(room: Path) -> str:
    """What a room's README.md should say."""
    rows = []
    for path in sorted(room.glob("*.py")):
        if path.name != "__init__.py":
            first = " ".join(told(path).split("\n\n")[0].split())
            rows.append(f"| `{path.name}` | {_cell(first)} |")
    name = room.relative_to(ROOT / "idlebench").as_posix()
    title = "idlebench" if name == "." else name
    return "\n".join(
        (HEAD, f"# {title}", "", told(room / "__init__.py"), "", "| File | What it holds |", "| --- | --- |", *rows, "")
    )


def out_of_date() -> list[Path]:
    """The pages that do not say what their docstrings say."""
    return [
        place
        for room in rooms()
        if not (place := room / "README.md").exists() or place.read_text(encoding="utf-8") != page(room)
    ]


def main() -> int:
    """Write the pages, or check them; 1 where one is out of date."""
    if "--check" in sys.argv:
        for place in out_of_date():
            print(f"{place.relative_to(ROOT)} is out of date: make rooms")
        return 1 if out_of_date() else 0
    for place in out_of_date():
        place.write_text(page(place.parent), encoding="utf-8")
        print(place.relative_to(ROOT))
    return 0


if __name__ == "__main__":
    sys.exit(main())
