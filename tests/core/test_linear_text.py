"""Every parser of one text takes so much longer for a longer one, and no more: 20 000 letters against 5 000.

The parsers are found, not listed: each public function of the core and the instruments whose only needed argument is a text or the bytes
of a file. A pattern that tries again from each letter takes sixteen times as long for four times the letters.
"""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import random
import time
from collections.abc import Callable
from types import ModuleType

import pytest

import idlebench.core
import idlebench.instruments
from idlebench.core.refusal import BadInput

#: Letters of the longer text; how much longer than the shorter one, and how many times the time it may take; what no one notices, s.
LONG, TIMES, MOST, UNNOTICED = 20_000, 4, 9.0, 0.05
NAMES = ("text", "line", "lines", "typed", "data", "label")
PIECES = (
    "1", " ", "a", "1 ", "1.", "1e", "x ", "(", "[", "\t", "-", "--", "µ", "Ω", ",", ";", "\n", "C1 ", "C1 10u 16V\n", "1x", "mm", "%", "/", "C",
    "0", " V", "+5V ", "V", "kHz", "±", "'", '"', "'\"", "a1", "1,1", "part,value\n", "=", ":", "U1 5 to ", "9" * 7, "aa aa", "K", "rms", "probe ",
)  # fmt: skip
STARTS = (
    "", "Ripple ", "C1 10u ", "+5 V ", "U1 cpu ", "monitor ", "raster ", "trace C1 + to ", "heat ", "1000 h at ", "D1 diode ", "F1 fuse T ", "ESR at ",
    "part,value,Ripple ", "ripple mA at ", "C1 cap ", "4 screws ", "1 x ", "12 kV probe ",
)  # fmt: skip


def parsers(*packages: ModuleType) -> dict[str, Callable[[str], object]]:
    """Each public function of some packages that takes one text, by its name."""
    found: dict[str, Callable[[str], object]] = {}
    for package in packages:
        for info in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
            module = importlib.import_module(info.name)
            for name, function in inspect.getmembers(module, inspect.isfunction):
                needed = [
                    p for p in inspect.signature(function).parameters.values() if p.default is inspect.Parameter.empty
                ]
                if (
                    function.__module__ == info.name
                    and not name.startswith("_")
                    and [p.name for p in needed if p.kind is not p.VAR_KEYWORD]
                    == [next((p.name for p in needed if p.name in NAMES), "")]
                ):
                    found[f"{info.name.removeprefix('idlebench.')}.{name}"] = function
    return found


PARSERS = parsers(idlebench.core, idlebench.instruments)


def seconds(read: Callable[[str], object], text: str | bytes) -> float:
    # of this thread alone: what else runs on the machine takes no time here
    start = time.thread_time()
    try:
        read(text)
    except BadInput as error:
        assert len(str(error)) < 3000
    except (TypeError, AttributeError, KeyError, ValueError, UnicodeError):
        # not a text's parser after all, or one that a typed text never reaches
        pass
    return time.thread_time() - start


def test_there_are_many():
    assert (
        len(PARSERS) > 40 and {"core.board.column_map.read_foreign", "core.board.quickline.read_line"} <= PARSERS.keys()
    )


@pytest.mark.parametrize("name", PARSERS)
def test_it_takes_no_longer_than_its_text_is_long(name):
    is_linear(name, PARSERS[name])


def is_linear(name: str, read: Callable[[str], object]) -> None:
    """Four times the letters take no more than nine times as long."""
    dice = random.Random(name)
    for start in dice.sample(STARTS, 5):
        for piece in dice.sample(PIECES, 9):
            long = (start + piece * LONG)[:LONG]
            taken = seconds(read, long)
            if taken > UNNOTICED:
                short = min(seconds(read, long[: LONG // TIMES]) for _ in range(3))
                taken = min(taken, *(seconds(read, long) for _ in range(3)))
                assert taken < max(UNNOTICED, MOST * short), (start, piece, short, taken)
