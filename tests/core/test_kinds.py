"""What to ask for without a catalogue: the fewest kinds, proven, and each kind good for all of its places."""

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.catalogue import house_columns
from idlebench.core.board.quickline import read_line
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import FAILS, judge_parts
from idlebench.core.plan.kinds import _cover, fewest

LINES = """
C1 100u 16V 6.3x11 p2.5 decoupling rail +5V
C2 100u 16V 6.3x11 p2.5 decoupling rail +12V
C3 100u 10V 6.3x11 p2.5 decoupling rail +5V
C4 22u 16V 5x11 p2 decoupling rail +5V
C5 2200u 16V 16x25 p7.5 bulk rail +5V worst 16 ripple 0.5
""".strip().splitlines()


def needs_of(lines):
    parts = [read_line(line).part() for line in lines]
    return {part.ref: need_of(part) for part in parts}


def test_places_that_ask_alike_share_a_kind():
    found = fewest(needs_of(LINES), house_columns())
    assert found.proved and not found.alone and len(found.kinds) == 3
    by_ref = {ref: kind for kind in found.kinds for ref in kind.places}
    assert by_ref["C1"] is by_ref["C2"] is by_ref["C3"] and set(by_ref) == {"C1", "C2", "C3", "C4", "C5"}
    asked = "; ".join(by_ref["C1"].must)
    assert "16 V or more" in asked and "radial" in asked and "pitch 2.5 mm" in asked
    assert "ripple 500 mA or more" in "; ".join(by_ref["C5"].must)
    text = found.as_text()
    assert "3 × " in text and "for C1, C2, C3" in text and text.count("must be:") == 3


def test_the_example_of_a_kind_goes_into_all_of_its_places():
    found = fewest(needs_of(LINES), house_columns())
    for kind in found.kinds:
        for need in kind.places.values():
            assert judge_parts(need, [kind.example])[0].status != FAILS


def test_what_nothing_serves_is_said():
    found = fewest(needs_of([*LINES, "C9 1u 16V 2x3 p1 decoupling rail +5V"]), house_columns())
    assert found.alone == ("C9",)
    assert fewest({}, house_columns()).kinds == ()


@given(st.lists(st.sets(st.integers(0, 6), min_size=1, max_size=4), min_size=1, max_size=9))
@settings(max_examples=60)
def test_no_fewer_kinds_do_it(sets):
    """Held against trying all choices of kinds."""
    best = {tuple(sorted(s)): i for i, s in enumerate(sets)}
    wanted = sorted(set().union(*sets))
    chosen, bound = _cover(best, dict.fromkeys(best.values(), 0), wanted, 2.0)
    covers = {row: set(key) for key, row in best.items()}
    assert set().union(*(covers[row] for row in chosen)) == set(wanted)
    least = next(
        n
        for n in range(1, len(covers) + 1)
        if any(set().union(*c) >= set(wanted) for c in combinations(covers.values(), n))
    )
    assert len(chosen) == least == bound


def test_sixty_places_are_proven():
    many = [line.replace("C", f"C{k}", 1) for k in range(1, 13) for line in LINES]
    found = fewest(needs_of(many), house_columns())
    assert found.proved and len(found.kinds) == 3 and sum(k.pieces for k in found.kinds) == 60


@pytest.mark.parametrize("line", ["C1 100n 275~ X2 15x18 p15 line filter", "C1 4n7 Y2 250~ p7.5 earth filter"])
def test_a_mains_place_asks_its_class(line):
    part = read_line(line.replace("275~", "").replace("250~", "")).part()
    found = fewest({"C1": need_of(part)}, house_columns())
    for kind in found.kinds:
        assert any("class" in words and "V~" in words for words in kind.must)
