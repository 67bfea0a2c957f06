"""Supply lines that begin with DC: read, chosen for, simulated, explained, and proven without anything of the mains."""

from dataclasses import replace

import pytest

from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.choose.supply_model import places_of, reckon
from idlebench.core.circuit.supply import DIRECT, Load, Supply, simulate
from idlebench.core.circuit.supply_lines import read_model
from idlebench.core.draw.plots import strip
from idlebench.core.faults.hypotheses import hypotheses
from idlebench.core.prove import BoardFacts, cold_checks, feeding_rails, power_up, with_source
from idlebench.core.prove.low_voltage import to_buy, why_not_low
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.expected import foreseen
from idlebench.core.simulate.explain import explain
from idlebench.core.simulate.readings import Asked
from idlebench.core.simulate.state import State
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.truth import Values, read_truth
from idlebench.core.text.rails_and_chips import read_rail

PARTS = [
    Fitted(ref="C1", value=1e-3, volts=25.0, kind="wet"),
    Fitted(ref="C2", value=470e-6, volts=16.0, kind="wet"),
    Fitted(ref="C3", value=1e-3, volts=10.0, kind="wet"),
]
BY_REF = {part.ref: part for part in PARTS}
ON = State(volts=230.0)
TWO = "bridge 15V 20VA reservoir C1 regulator VR1 10V 0.5A\nfrom +10V reservoir C2 regulator VR2 5V 0.2A"


@pytest.mark.parametrize(
    ("line", "kind", "topology", "title"),
    [
        ("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A", "unregulated", DIRECT, "9 V adapter to +5 V"),
        ("adapter AD2 9VDC 850mA regulated regulator VR1 5V 0.3A", "regulated", DIRECT, "9 V adapter to +5 V"),
        ("adapter 9V AC 1A half reservoir C1 regulator VR1 5V 0.3A", "ac", "half", "9 V AC adapter to +5 V"),
        ("adapter 9V~ 1A reservoir C1 current 0.3A", "ac", "bridge", "9 V AC adapter to C1"),
        ("cells 6V 0.5A regulator VR1 5V 0.1A dropout 0.3", "cells", DIRECT, "6 V cells to +5 V"),
        ("bench 9V 1A current 0.5A", "bench", DIRECT, "9 V bench supply to its load"),
        ("from +10V regulator VR2 5V 0.2A", "rail", DIRECT, "+10 V to +5 V"),
        ("from -12V:analog reservoir C2 regulator VR2 -5V 0.1A", "rail", DIRECT, "−12 V:analog to −5 V"),
    ],
)
def test_a_line_that_begins_outside(line, kind, topology, title):
    (branch,) = read_model(line)
    assert (branch.outside.kind, branch.topology, branch.title) == (kind, topology, title)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("from +10V regulator VR2 -5V 1A", "the same sign"),
        ("adapter 5V DC 1A regulator VR1 5V 1A", "more than 5 V"),
        ("adapter 9V DC 1A 12V regulator VR1 5V 1A", "one source"),
        ("adapter 9V DC 1A tap 240V regulator VR1 5V 1A", "one source"),
        ("adapter DC 1A regulator VR1 5V 1A", "a value in V"),
        ("adapter", "something after"),
        ("cells 6V AC 1A current 0.1A", "DC from cells"),
        ("from 0V current 1A", "the rail that feeds"),
        ("adapter 9V AC 1A current 0.3A", "reservoir"),
        ("adapter 9V DC 1A", "one thing it feeds"),
        ("adapter 9V DC -1A current 1A", "reservoir, regulator"),
    ],
)
def test_what_no_source_gives_is_refused(line, said):
    with pytest.raises(BadInput, match=said):
        read_model(line)


def test_a_dc_source_on_its_load_is_ohms_law():
    supply = Supply(
        topology=DIRECT,
        source=9.0,
        frequency=50.0,
        source_resistance=0.5,
        store=0.0,
        store_esr=0.0,
        load=Load("resistance", 8.5),
    )
    found = simulate(supply)
    assert found.v_avg == pytest.approx(9.0 * 8.5 / 9.0) and found.ripple_pp == 0.0 == found.store_rms
    assert found.source_rms == pytest.approx(1.0)
    with pytest.raises(BadInput, match="above the source"):
        simulate(replace(supply, load=Load("current", 40.0)))


def test_a_regulator_behind_an_adapter_has_its_headroom_and_heat():
    (branch,) = read_model("adapter 9V DC 1A regulated reservoir C1 regulator VR1 5V 0.8A")
    found = {figure.name: figure for figure in reckon(branch, BY_REF).figures}
    # 9 V − 0.18 Ω · 0.8 A, less 5 V and 2 V of dropout
    assert found["Regulator headroom"].after == pytest.approx(9 - 0.18 * 0.8 - 7, abs=1e-3)
    assert found["Regulator heat"].after == pytest.approx((9 - 0.144 - 5) * 0.8, abs=0.01)
    assert not found["Drawn from the 9 V adapter"].bad
    (weak,) = read_model("adapter 9V DC 500mA regulated regulator VR1 5V 0.8A")
    drawn = next(f for f in reckon(weak, {}).figures if f.name.startswith("Drawn"))
    assert drawn.bad and "960 mA" in drawn.say
    told = reckon(branch, BY_REF).places["C1"]
    assert told.volts == 9.0 and told.ripple == 0.0


def test_an_unregulated_adapter_without_load_is_what_its_capacitors_stand():
    told, wrong = places_of(read_model("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A"), BY_REF)
    assert not wrong and 13.0 < told["C1"].volts < 16.0
    assert (
        reckon(read_model("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A")[0], BY_REF).figures[2].name
        == "Regulator headroom at −10 %"
    )


def test_a_converter_draws_pulses_of_its_input_capacitor():
    branch = read_model(
        "cells 6V 1A reservoir C2 converter buck 3W eff 0.8 at 100k\nrail +3.3V 0.5A duty 0.55 choke 0.15A capacitors C3"
    )[0]
    ripple = reckon(branch, BY_REF).places["C2"].ripple
    # I · √((1 − D) / D)
    drawn = next(f for f in reckon(branch, BY_REF).figures if f.name.startswith("Drawn")).after
    assert ripple == pytest.approx(drawn * (0.45 / 0.55) ** 0.5)


def reads(lines, fault="", state=ON):
    bench = Bench.of(lines, PARTS)
    values = Values(1)
    bench.truth(values, read_truth(fault))
    return bench, run(bench, values, state)


def test_an_adapter_gives_its_rail_and_takes_no_mains():
    bench, outcome = reads("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A")
    assert bench.outside and not bench.refs & {"T1", "L1", "X1"}
    assert float(outcome.rails["+5 V"].volts.mean()) == pytest.approx(5.0)
    # what the meter in front reads is what the source gives
    assert float(outcome.mains_amps[0]) == pytest.approx(0.801, abs=0.002)


@pytest.mark.parametrize(
    ("fault", "low", "high"),
    [
        ("AD1 open", 0, 0.01),
        ("AD1 weak", 0.5, 4.0),
        ("VR1 dead", 0, 0.01),
        ("VR1 short", 8.0, 12.0),
        ("C1 short", 0, 0.01),
    ],
)
def test_what_befalls_it_shows_at_its_rail(fault, low, high):
    _, outcome = reads("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A", fault)
    assert low <= float(outcome.rails["+5 V"].volts.mean()) <= high


def test_a_rail_feeds_the_next_and_carries_its_current():
    _, outcome = reads(TWO)
    assert float(outcome.rails["+5 V"].volts.mean()) == pytest.approx(5.0)
    _, loaded = reads(TWO, state=replace(ON, load="none", loads={"+5 V": "rated"}))
    # 0.2 A of +5 V and the regulator's own come out of +10 V
    assert float(loaded.rails["+10 V"].amps[0]) == pytest.approx(0.201, abs=0.001)
    _, shorted = reads(TWO, "C2 short")
    assert float(abs(shorted.rails["+10 V"].volts).max()) == 0.0 and not shorted.shorted.any()
    _, dead = reads(TWO, "VR1 dead")
    assert float(abs(dead.rails["+5 V"].volts).max()) == 0.0


def test_lines_may_stand_in_any_order_and_in_no_ring():
    first, second = TWO.splitlines()
    _, outcome = reads(f"{second}\n{first}")
    assert float(outcome.rails["+5 V"].volts.mean()) == pytest.approx(5.0)
    with pytest.raises(BadInput, match="ring"):
        reads("from +10V regulator VR2 5V 0.2A\nfrom +5V converter flyback 5W\nrail +10V 0.3A capacitors C3")


def test_its_parts_explain_a_reading_that_is_not_expected():
    bench = Bench.of("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A", PARTS)
    asked = Asked(point="+5 V", what="dc", typed="+5 V")
    (band,), _ = foreseen(bench, ON, [asked])
    assert band.holds(5.0) and not band.holds(9.9)
    assert any("VR1 shorted" in one.words for one in explain(bench, ON, asked, 9.9, band))
    suspects = {one.suspect for one in hypotheses(bench)}
    assert (
        ("AD1", "dead") in suspects
        and ("AD1", "tired") in suspects
        and not any(ref in ("T1", "L1") for ref, _ in suspects)
    )
    assert sum(one.prior for one in hypotheses(bench)) == pytest.approx(1.0)


def test_the_strip_shows_the_source_and_no_rectifier():
    (branch,) = read_model("adapter 9V DC 1A reservoir C1 regulator VR1 5V 0.8A")
    titles = [block.title for block in strip(branch, reckon(branch, BY_REF)).blocks]
    assert titles == ["9 V adapter", "C1", "VR1", "5 V"]


def board(lines, *devices, name="MB-1", rails=("+5V 0.5A",), **more):
    model = read_model(lines) if lines else ()
    return BoardFacts(
        name=name, row=more.pop("row", "b1"), supply="linear", rails=tuple(map(read_rail, rails)), modelled=bool(model),
        devices=with_source(tuple(map(read_device, devices)), model), from_rails=feeding_rails(model), **more,
    )  # fmt: skip


def test_the_line_alone_names_the_adapter_and_opens_the_short_way():
    one = board("adapter 9V DC 1A regulated regulator VR1 5V 0.5A")
    assert why_not_low([one]) == ()
    assert [step.key for step in power_up([one], "low")] == ["cold", "source", "bench", "full"]
    assert not any("mains" in check.key or "earth" in check.key for check in cold_checks([one]))


def test_a_bench_supply_in_the_line_stands_for_what_is_missing():
    one = board("bench 9V 1A regulator VR1 5V 0.5A")
    assert [step.key for step in power_up([one], "low")] == ["cold", "bench", "full"]
    assert to_buy(one, one.rails).startswith("Buy an adapter of 9 V")


def test_a_missing_adapter_of_unknown_volts_is_known_by_the_regulator():
    one = board("", "AD1 adapter missing", "VR1 regulator 7805 1A")
    assert one.adapter.volts == 9.0
    said = to_buy(one, one.rails)
    assert "9 V DC, regulated or not, 600 mA or more" in said and "as the machine's plate says" in said


def test_lines_of_before_and_the_adapters_own_are_read_as_they_were():
    own = "AD1 adapter 12V DC 1A centre + 5.5x2.1"
    one = board("adapter 9V DC 1A regulator VR1 5V 0.5A", own)
    assert one.devices == (read_device(own),)
    # a winding beside it: nothing is assumed of an adapter
    mixed = read_model("bridge 9V 25VA reservoir C1 current 0.5A\nadapter 9V DC 1A current 0.1A")
    assert with_source((), mixed) == () and feeding_rails(mixed) == ()


def two_boards(way, **more):
    feeds = BoardFacts(
        name="PS-1", row="b2", supply="linear", rails=(read_rail("+10V 1A"),), source_volts=15.0, source_va=25.0
    )
    own = board("from +10V regulator VR2 5V 0.2A", name="MB-80", rails=("+5V 0.2A",), **more)
    return [own, feeds], power_up([own, feeds], way)


def test_a_board_with_its_own_regulator_comes_after_the_board_that_feeds_it():
    boards, steps = two_boards("lamp")
    assert boards[0].behind == ("+10 V",)
    titles = {step.key: step.title for step in steps}
    assert list(titles) == ["cold", "dummy", "dummy.b1", "source", "limited", "full", "full.b1"]
    assert titles["full.b1"] == "MB-80 on +10 V, full rails"
    last = steps[-1]
    assert last.rewire and "mains" in last.caution and any(check.fact == "plug" for check in last.checks)
    # no plug, no earth and no insulation of its own
    cold = [check for check in steps[0].checks if check.board == "MB-80" or check.key.endswith(".b1")]
    assert not any(word in check.key for check in cold for word in ("cont", "earth", "insul", "mains"))
    assert [step.key for step in two_boards("limited")[1]][-2:] == ["bench.b1", "full.b1"]


def test_a_part_of_the_mains_side_is_behind_no_rail():
    boards, _ = two_boards("lamp", parts=(Fitted(ref="C9", value=1e-7, role="mains_x", safety="X2"),))
    assert boards[0].behind == ()
    assert any("earth" in check.key for check in cold_checks(boards) if check.key.endswith(".b1") or "b1" in check.key)


def test_a_board_alone_is_fed_by_a_bench_supply_in_its_rails_place():
    one = board("from +10V regulator VR2 5V 0.2A")
    steps = power_up([one], "lamp")
    assert [step.key for step in steps] == ["cold", "dummy", "bench", "full"]
    assert "10 V, limit" in steps[2].title and "bench supply" in steps[3].title
