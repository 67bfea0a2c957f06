"""Before a board is connected, its rails are proven on the highest mains: read there, or foreseen from today's reading and said to be so."""

from dataclasses import replace

import pytest

from idlebench.core.prove import BoardFacts, power_up
from idlebench.core.prove.highest import HighRail, over_volts
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail

FIVE = read_rail("+5 V 2 A clamp 6.2 most 7")
SUPPLY = BoardFacts(name="PS-1", supply="linear", rails=(FIVE,), row="b1", source_volts=9.0, source_va=25.0)
BOARD = BoardFacts(name="MB", row="b2")


def test_a_rail_says_its_clamp_and_what_its_chips_stand():
    assert (FIVE.clamp, FIVE.most) == (6.2, 7.0) and read_rail(FIVE.as_line()) == FIVE
    assert read_rail("-12 V crowbar 15V").clamp == 15.0
    for wrong in ("+5 V clamp", "+5 V clamp 4", "+5 V most 5", "+12 V most x"):
        with pytest.raises(BadInput):
            read_rail(wrong)
    full = next(s for s in power_up([SUPPLY, BOARD]) if s.key == "full")
    assert "crowbar or clamp acts at 6.2 V" in next(c.ask for c in full.checks if c.aspect == "volts")


def test_a_variable_transformer_reads_it_and_nothing_else_does():
    steps = [s.key for s in power_up([SUPPLY, BOARD], "variable")]
    assert steps.index("full") < steps.index("high") < steps.index("feed")
    high = next(s for s in power_up([SUPPLY, BOARD], "variable") if s.key == "high")
    # 1.1 · 230 V
    assert high.live and high.title.startswith("253 V in") and high.checks[0].safety
    assert "high" not in [s.key for s in power_up([SUPPLY, BOARD])]
    assert "high" not in [s.key for s in power_up([replace(SUPPLY, supply="switching"), BOARD], "variable")]


@pytest.mark.parametrize(
    ("line", "high", "over"),
    [
        # ±5 %: 5.25 V at the most, whatever the chips stand
        ("+5 V", 5.24, False), ("+5 V", 5.3, True), ("+5 V most 7", 5.3, True), ("-12 V", -12.5, False), ("-12 V", -13.5, True),
        # a wide band is cut where the chips end: 20 % of 5 V is 6 V, and they stand 5.5
        ("+5 V tol 20 most 5.5", 5.7, True), ("+5 V tol 20", 5.7, False),
    ],
)  # fmt: skip
def test_what_would_leave_its_band_is_not_connected(line, high, over):
    rail = read_rail(line)
    one = HighRail(rail, rail.nominal, high, 253.0)
    assert one.over is over and bool(over_volts([one], [rail])) is over
    assert "calculated from today's reading" in one.words


def test_a_clamp_above_what_the_chips_stand_protects_nothing():
    wrong = read_rail("+5 V clamp 7.5 most 7")
    assert [r.rule for r in over_volts([], [wrong])] == ["clamp"] and not over_volts([], [FIVE])
