"""Serial numbers of cases and boards: swapped boards are told, and nothing is said where numbers say nothing."""

import pytest

from idlebench.core.board.serials import Numbered, swapped_boards, tail
from idlebench.core.judge.triage import UnitFacts, estimate


def unit(name, serial, **boards):
    return Numbered(
        name=name, serial=serial, boards=tuple((board.replace("_", "-"), number) for board, number in boards.items())
    )


@pytest.mark.parametrize(
    ("serial", "digits"), [("TW80-0117", "117"), ("0117-B", "117"), ("A12", ""), ("", ""), ("no. 000", "")]
)
def test_what_tells_a_machine_are_its_last_digits(serial, digits):
    assert tail(serial) == digits


@pytest.mark.parametrize(
    ("units", "said"),
    [
        ([unit("A", "TW-0117", MB_80="0117"), unit("B", "TW-0121", MB_80="0121")], []),
        (
            [unit("A", "TW-0117", MB_80="0121"), unit("B", "TW-0121", MB_80="0117")],
            ["as the case of unit B", "as the case of unit A"],
        ),
        ([unit("A", "TW-0117", MB_80="0117"), unit("B", "TW-0121", MB_80="0900")], ["the board was changed before"]),
        # boards that are never numbered as their cases say nothing
        ([unit("A", "TW-0117", MB_80="5501"), unit("B", "TW-0121", MB_80="5502")], []),
        (
            [unit("A", "TW-0117", MB_80="0117"), unit("B", "TW-0121", MB_80="0117")],
            ["read both again", "read both again"],
        ),
        ([unit("A", "", MB_80="0117"), unit("B", "", MB_80="")], []),
    ],
)
def test_swapped_boards_are_told(units, said):
    found = swapped_boards(units)
    assert len(found) == len(said) and all(words in line for words, line in zip(said, found, strict=True)), found


@pytest.mark.parametrize(("shown", "risk"), [((0, 2), 0.30), ((1, 2), 0.15), ((2, 2), 0.0), ((0, 0), 0.30)])
def test_what_was_bought_unseen_is_trusted_by_what_its_photos_show(shown, risk):
    facts = UnitFacts(name="C", swaps=("radial",), worth=100.0, condition=("unseen",), shown=shown)
    found = estimate(facts, rate=20.0)
    assert found.risk == pytest.approx(risk) and any("bought unseen" in r for r in found.reasons)
    assert estimate(UnitFacts(name="C", swaps=("radial",), worth=100.0, shown=shown), rate=20.0).risk == 0.0
