"""Every typed line that the guide shows is read by the program."""

import re
from pathlib import Path

import pytest

from idlebench.core.board.devices import read_device
from idlebench.core.board.listing import is_device, named
from idlebench.core.board.mends import read_mend
from idlebench.core.board.modifications import is_modification, read_modification
from idlebench.core.board.monitor_lines import read_monitor
from idlebench.core.board.own_checks import read_own_check
from idlebench.core.board.quickline import read_line
from idlebench.core.board.zones import read_zone
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.circuit.supply_lines import read_model
from idlebench.core.text.rails_and_chips import read_chip, read_rail

GUIDE = Path(__file__).parents[2] / "docs" / "guide"


def lines_of(page: str, heading: str = "Typed line") -> list[str]:
    """What stands in the first column of a page's tables of typed lines."""
    text = (GUIDE / f"{page}.md").read_text("utf-8")
    tables = re.findall(rf"\| {heading} \|.*?\n\| --- \|.*?\n((?:\|.*\n)+)", text)
    return [line for table in tables for line in re.findall(r"^\| `([^`]+)` \|", table, re.M)]


def read_intake(line: str) -> object:
    """A line of a board's fields by the reader that its first word asks for."""
    first = line.split()[0]
    if first in ("heat", "lid", "drive", "room", "shield", "daughter"):
        return read_zone(line)
    if first in ("bridge", "half", "centre", "doubler", "adapter", "cells", "bench", "from"):
        return read_model(line)
    if first == "rail":
        return read_model(f"bridge mains 10ohm reservoir C7 converter flyback 30W at 42k\n{line}")
    if first == "monitor":
        return read_monitor(line)
    if line[0] in "+-":
        return read_rail(line)
    return read_chip(line) if " gnd " in line else read_device(line)


READERS = {"intake": read_intake, "survey": lambda line: read_device(named(line)) if is_device(named(line)) else read_line(line),
           "gather": read_own, "swap": lambda line: read_modification(line) if is_modification(line) else read_mend(line)}  # fmt: skip


@pytest.mark.parametrize(("page", "line"), [(page, line) for page in READERS for line in lines_of(page)])
def test_a_line_of_the_guide_is_read(page, line):
    found = READERS[page](line)
    assert found
    assert not getattr(found, "rest", []), "every word of it is understood"


@pytest.mark.parametrize("line", lines_of("cold-checks", "Check of your own"))
def test_a_check_of_the_guide_is_read(line):
    assert read_own_check(line).limit


def test_there_are_lines_on_each_page():
    assert {page: len(lines_of(page)) > 2 for page in READERS} == dict.fromkeys(READERS, True)
