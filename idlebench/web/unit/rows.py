"""How the record calls rows: parts, boards, and what was fitted. By row, for names are given twice."""

from __future__ import annotations


def part_id(pk: int) -> str:
    return f"p{pk}"


def board_id(pk: int) -> str:
    return f"b{pk}"


def fitted_id(item: str, pk: int) -> str:
    """A fitted piece: the part it is of, and which one."""
    return f"{item} #{pk}"


def device_id(pk: int) -> str:
    """A swap of a part that is no capacitor."""
    return f"d{pk}"


def mend_id(pk: int) -> str:
    return f"m{pk}"


def modification_id(pk: int) -> str:
    return f"n{pk}"


def procedure_id(pk: int) -> str:
    return f"q{pk}"
