"""Adapters before their machines, and boards on a bench supply with a limit."""

import pytest

from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, cold_checks, power_up, read_reading, stores_of
from idlebench.core.prove.adapters import label, unloaded
from idlebench.core.prove.by_meter import simulates
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail

RAILS = tuple(read_rail(line) for line in ("+5 V 1 A min 0.1 A", "+12 V 0.2 A"))


def behind(line, **more):
    return BoardFacts(name="PS", supply="linear", rails=RAILS, devices=(read_device(line),), **more)


def steps(line, way="lamp", boards=()):
    return {step.key: step for step in power_up([behind(line), *boards], way)}


@pytest.mark.parametrize(
    ("line", "output", "centre", "said"),
    [
        ("AD1 adapter 9V AC 1A", "ac", "", "9 V AC, 1 A"), ("AD1 adapter 9VAC 1A plug 5.5x2.1", "ac", "", "9 V AC, 1 A"),
        ("AD1 adapter 12V DC 0.5A centre -", "unregulated", "−", "12 V unregulated DC, 500 mA"),
        ("AD1 adapter 12Vdc 500mA regulated center positive 5.5x2.1", "regulated", "+", "12 V regulated DC, 500 mA"),
        ("AD1 adapter regulated DC 5V 2A centre plus", "regulated", "+", "5 V regulated DC, 2 A"),
    ],
)  # fmt: skip
def test_an_adapter_as_typed(line, output, centre, said):
    found = read_device(line)
    assert (found.output, found.centre, label(found)) == (output, centre, said)
    assert read_device(found.as_line()) == found


@pytest.mark.parametrize(
    "line",
    [
        "AD1 adapter 9V AC DC 1A",
        "AD1 adapter 9VAC regulated",
        "AD1 adapter 9V DC centre",
        "AD1 adapter 9V DC centre up",
    ],
)
def test_what_no_adapter_says(line):
    with pytest.raises(BadInput):
        read_device(line)


def test_alone_then_loaded_then_in():
    """9 V AC, 1 A: 9 VA lose 23 %, so 11.1 V without load, within 6 %."""
    found = steps("AD1 adapter 9V AC 1A 5.5x2.1")
    assert list(found) == ["cold", "dummy", "source", "adapter", "full"]
    (alone,) = found["source"].checks
    expected, low, high = unloaded(read_device("AD1 adapter 9V AC 1A"))
    assert (
        expected == pytest.approx(9 * 1.229, abs=0.03)
        and (alone.low, alone.high) == (0.9 * 9, high)
        and alone.kind == "ac_volts"
    )
    # from its label on it is checked first, and decided under load
    assert alone.passes(11.0) and alone.passes(9.2) and not alone.passes(8.0) and not alone.passes(0.0) and alone.safety
    assert "check first; the reading under load decides" in alone.ask and low > 9
    load, loaded = found["adapter"].checks
    assert load.passes(8.2) and not load.passes(90) and not load.live and found["adapter"].rewire
    assert loaded.passes(9.3) and not loaded.passes(7.9) and loaded.live


def test_polarity_is_in_the_sign():
    """An unregulated one of 12 V reads about 16 V open; wired the other way round it fails by its sign."""
    plus, minus = (steps(f"AD1 adapter 12V DC 0.5A centre {c}")["source"].checks[0] for c in "+-")
    assert (
        plus.kind == "dc_volts"
        and plus.passes(16.5)
        and not plus.passes(-16.5)
        and plus.passes(12.0)
        and not plus.passes(10.0)
    )
    assert minus.passes(-16.5) and not minus.passes(16.5) and minus.low < minus.high < 0
    exact = steps("AD1 adapter 12V DC 0.5A regulated centre +")["source"].checks[0]
    assert exact.passes(12.2) and not exact.passes(16.5)


def test_behind_an_adapter_no_mains_come_into_the_machine():
    points = [c.point for c in cold_checks([behind("AD1 adapter 12V DC 0.5A")])]
    assert "label of AD1" in points and "plug of AD1" in points
    assert not any(word in point for word in ("earth", "insulation", "line to neutral", "tap") for point in points)
    plug = next(c for c in cold_checks([behind("AD1 adapter 12V DC 0.5A")]) if c.point == "plug of AD1")
    assert "type centre" in plug.ask and plug.safety
    told = next(
        c for c in cold_checks([behind("AD1 adapter 12V DC 0.5A centre - 5.5x2.1")]) if c.point == "plug of AD1"
    )
    assert "centre −" in told.ask and "5.5 × 2.1 mm" in told.ask
    assert BoardFacts(name="MB", devices=(read_device("AD1 adapter 12V DC 0.5A"),)).adapter is None, (
        "a fed board has none"
    )
    assert behind("AD1 adapter DC").adapter is None, "without its volts nothing can be reckoned"


def test_a_store_behind_an_adapter_holds_what_the_adapter_gives_at_most():
    """Of unknown volts: not the 400 V of a primary, and never less than an unloaded peak on high mains."""
    part = Fitted(ref="C1", value=4700e-6, volts=None)
    (store,) = stores_of(behind("AD1 adapter 12V AC 1A", parts=(part,)))
    assert store.volts == pytest.approx(12 * 1.21 * 1.1 * 2**0.5, rel=0.02)
    assert stores_of(BoardFacts(name="PS", supply="linear", parts=(part,), rails=RAILS))[0].volts == 400


def test_a_bench_supply_stands_in_for_a_dc_adapter_only():
    bench = steps("AD1 adapter 12V DC 1A centre +", "limited")
    assert list(bench) == ["cold", "dummy", "source", "adapter", "bench", "full"]
    amps = bench["bench"].checks[0]
    assert amps.kind == "amps" and amps.unit == "A" and amps.passes(read_reading(amps, "20m")) and not amps.passes(3)
    assert "bench" not in steps("AD1 adapter 12V AC 1A", "limited")


def test_a_board_alone_is_limited_to_half_as_much_again():
    """5 V and 1 A: 1.5 A; 12 V and 0.2 A: 0.3 A."""
    found = steps("AD1 adapter 12V DC 1A centre +", "limited", [BoardFacts(name="MB-80"), BoardFacts(name="KB")])
    assert list(found)[-3:] == ["alone.mb-80", "alone.kb", "feed"]
    alone = found["alone.mb-80"]
    highs = {c.point: c.high for c in alone.checks if c.kind == "amps"}
    assert highs == {"amps at +5 V": pytest.approx(1.5), "amps at +12 V": pytest.approx(0.3)}
    assert alone.rewire and not alone.checks[0].live and all(c.boards == {"mb-80"} for c in alone.checks)
    assert all(not simulates(c) for c in alone.checks if c.live)
    with pytest.raises(BadInput):
        read_reading(next(c for c in alone.checks if c.kind == "amps"), "-1")
    assert "alone.mb-80" not in steps("AD1 adapter 12V DC 1A", "lamp", [BoardFacts(name="MB-80")])
    rails = tuple(read_rail(line) for line in ("+12 V 1 A", "-5 V 0.1 A"))
    way = {
        s.key: s
        for s in power_up([BoardFacts(name="PS", supply="linear", rails=rails), BoardFacts(name="MB")], "limited")
    }
    assert "−5 V first" in way["alone.mb"].caution and "limited" in way, "a supply on the mains keeps its lamp"


def test_what_steps_a_load_is_named_and_read_with_the_boards_on():
    """A rail that says what steps it is read for its lowest again when the boards are fed; one that does not is not."""
    rail = read_rail("+12 V 2 A step drive motor starts")
    assert rail.step == "drive motor starts" and read_rail(rail.as_line()) == rail
    way = {
        s.key: s
        for s in power_up([BoardFacts(name="PS", supply="linear", rails=(rail, RAILS[0])), BoardFacts(name="MB")])
    }
    full = next(c for c in way["full"].checks if c.rail == "+12 V" and c.aspect == "lowest")
    assert "drive motor starts" in full.ask and "dummy load off and on" in full.ask
    (fed,) = [c for c in way["feed"].checks if c.aspect == "lowest"]
    assert fed.rail == "+12 V" and "let it happen: drive motor starts" in fed.ask and fed.low == pytest.approx(11.4)
    with pytest.raises(BadInput):
        read_rail("+12 V 2 A step")
