"""What was asked, what was measured, and whether it holds: each line in any order, and all of them as a table at the end."""

from __future__ import annotations

_rows: list[tuple[str, str, str, str]] = []


def asked(what: str, measured: float, limit: float | None, unit: str, *, least: bool = False) -> None:
    """Say a figure, and keep it for the table.

    Args:
        limit: the most that is asked, or with least the least; None where it is only told.
    """
    found = _figure(measured, unit)
    if limit is None:
        print(f"{what}: {found}")
        return
    holds = measured >= limit if least else measured <= limit
    wanted = f"{'at least' if least else 'at most'} {_figure(limit, unit)}"
    _rows.append((what, wanted, found, "holds" if holds else "DOES NOT HOLD"))
    print(f"{what}: {found} (asked: {wanted})")


def table() -> None:
    """All that was asked."""
    heads = ("", "asked", "measured", "")
    wide = [max(len(row[i]) for row in (*_rows, heads)) for i in range(4)]
    print()
    for row in (heads, *_rows):
        print("  ".join(cell.ljust(width) for cell, width in zip(row, wide, strict=True)).rstrip())
    missed = sum(row[3] != "holds" for row in _rows)
    print(f"{len(_rows) - missed} of {len(_rows)} hold")


def _figure(value: float, unit: str) -> str:
    digits = 0 if abs(value) >= 100 else 1 if abs(value) >= 10 else 2
    return f"{value:.{digits}f} {unit}".strip()
