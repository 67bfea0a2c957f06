"""The short way up of what stays under 60 V DC; what takes it away; the adapter to buy; an adapter's open volts as a band."""

from dataclasses import replace

import pytest

from idlebench.core.board.devices import read_device
from idlebench.core.board.monitor_lines import read_monitor
from idlebench.core.board.parts import Fitted
from idlebench.core.circuit.supply_lines import read_model
from idlebench.core.prove import BoardFacts, cold_checks, power_up, windings_of
from idlebench.core.prove.low_voltage import to_buy, why_not_low
from idlebench.core.refusal import BadInput
from idlebench.core.simulate.readings import read_asked
from idlebench.core.simulate.rectifier import MIDDLING
from idlebench.core.simulate.state import State, read_state
from idlebench.core.simulate.steady_state import run
from idlebench.core.simulate.supply import Bench
from idlebench.core.simulate.truth import Values, read_truth
from idlebench.core.text.rails_and_chips import is_on, read_chip, read_rail

ADAPTER = "AD1 adapter 9V DC 1A regulated centre - 5.5x2.1"


def machine(
    *lines, rails=("+5V 0.8A",), parts=(), chips=("U1 processor 40x14 at 20,20 gnd 20 +5V 40 clock 18",), **more
):
    return BoardFacts(
        name="MB-1", row="b1", supply="linear", rails=tuple(map(read_rail, rails)), devices=tuple(map(read_device, lines)), parts=tuple(parts),
        chips=tuple(map(read_chip, chips)), **more,
    )  # fmt: skip


def keys(boards, way="low"):
    return [step.key for step in power_up(boards, way)]


def asked(boards, way):
    return sum(len(step.checks) for step in power_up(boards, way))


def test_its_source_alone_then_a_limit_then_its_rails_and_life():
    boards = [machine(ADAPTER)]
    assert why_not_low(boards) == () and keys(boards) == ["cold", "source", "bench", "full", "life"]
    steps = {step.key: step for step in power_up(boards, "low")}
    every = [check for step in steps.values() for check in step.checks]
    # nothing of mains, earth, insulation or dummy loads is asked
    assert not any(word in check.key for check in every for word in ("mains", "dummy", "earth", "insul"))
    amps = next(c for c in steps["bench"].checks if c.kind == "amps")
    assert (
        amps.high == pytest.approx(1.5 * 5 * 0.8 / 0.5 / 9)
        and amps.safety
        and "the whole machine" in steps["bench"].detail
    )
    hold = next(c for c in steps["full"].checks if c.key == "up.full.hold")
    assert hold.hold == 1 and steps["full"].rewire
    assert asked(boards, "low") <= asked(boards, "lamp") - 3


def test_cells_are_a_source_where_their_line_says_so():
    cells = machine("BT1 battery 6V source 0.5A")
    assert why_not_low([cells]) == () and keys([cells]) == ["cold", "source", "bench", "full", "life"]
    (alone,) = next(step for step in power_up([cells], "low") if step.key == "source").checks
    assert alone.passes(6.4) and not alone.passes(4.0) and not alone.passes(-6.0)
    memory = machine("BT1 battery 3.6V charged")
    assert "fed by the mains" in " ".join(why_not_low([memory])) and "limited" in keys([memory])


@pytest.mark.parametrize(
    ("board", "says"),
    [
        (machine(), "fed by the mains"), (machine("AD1 adapter 48V DC 1A unregulated centre +"), "without load"), (machine(ADAPTER, rails=("+5V 1A", "+90V 0.01A")), "+90 V"),
        (machine(ADAPTER, "MOD1 module backlight inverter"), "may raise the volts: backlight"), (machine(ADAPTER, "DS1 display vacuum fluorescent"), "vacuum fluorescent"),
        (machine(ADAPTER, "NE1 lamp neon"), "neon"), (machine(ADAPTER, chips=("U9 step-up 8x6 at 5,5 gnd 4",)), "U9"), (machine(ADAPTER, parts=[Fitted(ref="C9", value=10e-6, volts=250.0)]), "C9"),
        (machine(ADAPTER, parts=[Fitted(ref="C1", value=1e-7, volts=275.0, kind="film", safety="X2")]), "mains part"), (machine(ADAPTER, parts=[Fitted(ref="C1", value=1e-9, kind="film", role="retrace_tuning")]), "picture tube"),
        (machine(ADAPTER, monitor=read_monitor("monitor 15.625kHz 50Hz tube 12kV nominal 12in")), "picture tube"), (machine(ADAPTER, "L1 choke flash trigger"), "flash"),
    ],
)  # fmt: skip
def test_what_takes_the_short_way_away_whatever_was_chosen(board, says):
    assert says in " ".join(why_not_low([board]))
    # the steps are those of the lamp, on the server, whoever asks
    assert keys([board], "low") == keys([board], "lamp") and "bench" not in keys([board], "low")


def test_one_board_with_more_takes_it_away_from_the_whole_unit():
    other = BoardFacts(name="INV-1", row="b2", devices=(read_device("T1 transformer note backlight"),))
    assert "T1 on INV-1" in " ".join(why_not_low([machine(ADAPTER), other]))
    # a film part for 250 V in a machine of 5 V is plain
    assert why_not_low([machine(ADAPTER, parts=[Fitted(ref="C3", value=1e-7, volts=250.0, kind="film")])]) == ()


def test_a_missing_adapter_is_named_to_be_bought_and_a_bench_supply_stands_for_it():
    gone = machine(f"{ADAPTER} missing")
    assert to_buy(gone, gone.rails) == "Buy an adapter of 9 V regulated DC, 1 A or more, plug 5.5 × 2.1 mm, centre −."
    assert to_buy(machine(ADAPTER), gone.rails) == ""
    for way in ("low", "lamp"):
        steps = power_up([gone], way)
        assert (
            "bench" in [s.key for s in steps]
            and "source" not in [s.key for s in steps]
            and "adapter" not in [s.key for s in steps]
        )
        assert "Bench supply in the place of AD1" in next(s.title for s in steps if s.key == "full")
    weak = machine("AD1 adapter 9V DC missing", rails=("+5V 2A",))
    assert "2.4 A or more" in to_buy(weak, weak.rails) and "polarity as the machine's plate says" in to_buy(
        weak, weak.rails
    )


def test_an_open_adapter_between_its_label_and_its_band_is_decided_under_load():
    """A 19 V AC adapter of 0.74 A reads 20.4 V without load: less than such a size should, more than its label."""
    ac = BoardFacts(
        name="PS",
        row="b1",
        supply="linear",
        rails=(read_rail("+5V 1A"),),
        devices=(read_device("AD1 adapter 19V AC 0.74A"),),
    )
    alone = next(step for step in power_up([ac]) if step.key == "source").checks[0]
    loaded = next(step for step in power_up([ac]) if step.key == "adapter").checks[1]
    assert (
        alone.passes(20.4)
        and not alone.passes(16.0)
        and not alone.passes(30.0)
        and "the reading under load decides" in alone.ask
    )
    assert loaded.passes(18.5) and not loaded.passes(15.0)
    exact = machine(ADAPTER)
    assert not next(s for s in power_up([exact]) if s.key == "source").checks[0].passes(-8.0)


@pytest.mark.parametrize(
    "more",
    [{"supply": "switching"}, {"source_volts": 9.0}, {"parts": (Fitted(ref="C1", value=1e-7, volts=275.0, kind="film", safety="X2"),)}, {"hot": True}, {"windings": windings_of(9.0, 20.0, (), ())}],
)  # fmt: skip
def test_no_line_of_cells_or_an_adapter_takes_the_checks_of_the_mains_away(more):
    mains = BoardFacts(**{"name": "PS", "row": "b1", "supply": "linear", "rails": (read_rail("+5V 1A"),), **more})
    plain = {c.key for c in cold_checks([mains])}
    for line in ("BT1 battery 6V source", *([ADAPTER] if "parts" in more else [])):
        listed = replace(mains, devices=(read_device(line),))
        assert plain <= {c.key for c in cold_checks([listed])}, line
        assert keys([listed], "low") == keys([mains], "lamp") and why_not_low([listed])


def test_dummy_loads_are_asked_where_there_is_a_plug_to_pull():
    own = BoardFacts(
        name="MB-1",
        row="b1",
        supply="linear",
        rails=(read_rail("+5V 1A min 0.1A"),),
        chips=(read_chip("U1 processor 40x14 at 20,20 gnd 20 +5V 40"),),
    )
    (load,) = next(step for step in power_up([own]) if step.key == "dummy").checks
    assert "Nothing unplugs here" in load.ask and "U1" in load.ask and load.safety and load.kind == "look"
    fed = BoardFacts(name="MB-2", row="b2", chips=own.chips)
    supply = BoardFacts(name="PS-1", row="b1", supply="linear", rails=own.rails)
    for boards in ([supply, fed], [own, fed], [supply]):
        assert any(c.kind == "resistance" for step in power_up(boards) if step.key == "dummy" for c in step.checks)


def test_two_rails_of_the_same_volts_have_names_and_checks_of_their_own():
    rails = tuple(map(read_rail, ("+5V:main 3A min 0.5A", "+5V:standby 0.5A", "+12V 1A")))
    supply = BoardFacts(name="PS-1", row="b1", supply="switching", rails=rails)
    fed = BoardFacts(
        name="MB-1", row="b2", chips=(read_chip("U1 processor 40x14 at 20,20 gnd 20 +5V:main 40 +5V:standby 39"),)
    )
    steps = {step.key: step for step in power_up([supply, fed])}
    every = [c for step in steps.values() for c in step.checks]
    assert len({c.key for c in every}) == len(every)
    full = [c for c in steps["full"].checks if c.aspect == "volts"]
    assert [c.rail for c in full] == ["+5 V:main", "+5 V:standby", "+12 V"] and all(4.7 < c.low < 11.5 for c in full)
    loads = [c for c in steps["dummy"].checks if c.kind == "resistance"]
    assert len(loads) == 3 and loads[0].high < loads[1].high
    # a rail without a name keeps its key, its name and its line
    plain = BoardFacts(name="PS-1", row="b1", supply="switching", rails=(read_rail("+5V 3A"),))
    keys_now = {c.key for step in power_up([plain]) for c in step.checks if c.rail}
    assert any(key.endswith("+5-v") or "+5-v." in key for key in keys_now) and read_rail(
        "+5 V 3 A"
    ).as_line().startswith("+5 V 3 A")
    # what stands on one of them is not counted with the other
    on = (Fitted(ref="C1", value=1e-3, volts=10.0, rail="+5V:standby"),)
    assert [sum(is_on(rail, p.rail) for p in on) for rail in rails] == [0, 1, 0]


def test_named_rails_are_simulated_each_by_its_own_line():
    parts = [
        Fitted(ref=ref, value=value, volts=volts)
        for ref, value, volts in (
            ("C7", 220e-6, 400.0),
            ("C9", 47e-6, 50.0),
            ("C14", 2200e-6, 10.0),
            ("C20", 470e-6, 16.0),
        )
    ]
    lines = "bridge mains 10.6ohm store C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A startstore C9\nrail +5V:main 3A duty 0.47 stores C14\nrail +5V:standby 0.3A duty 0.47 stores C20"
    bench = Bench.of(lines, parts, listed=[read_rail("+5V:main 3 A"), read_rail("+5V:standby 0.3 A")])
    assert list(bench.rails) == ["+5 V:main", "+5 V:standby"] and bench.rails["+5 V:standby"].current == 0.3
    outcome = run(bench, Values(1), State(volts=230.0), grids=MIDDLING)
    assert all(4.5 < float(outcome.rails[name].volts.mean()) < 5.5 for name in bench.rails)
    assert outcome.rails["+5 V:main"].amps[0] > 5 * outcome.rails["+5 V:standby"].amps[0]
    # each is read, loaded and shorted by its name
    asked = read_asked("+5V:standby dc", bench)[0]
    assert asked.point == "+5 V:standby" and read_state("load +5V:standby none").load_of("+5 V:standby") == "none"
    assert (
        read_truth("load +5V:standby short")[0].ref == "+5 V:standby" and read_truth("load +5V short")[0].ref == "+5 V"
    )
    with pytest.raises(BadInput, match="each rail once"):
        Bench.of(lines.replace(":standby", ":main"), parts)
    two = read_model(
        "bridge 9V 25VA reservoir C14 regulator VR1 5V:main 1A\nbridge 9V 5VA reservoir C20 regulator VR2 5V:standby 0.2A"
    )
    assert [b.regulator.rail for b in two] == ["+5 V:main", "+5 V:standby"] and two[0].title.endswith("+5 V:main")
    with pytest.raises(BadInput, match="in one word of letters"):
        read_model("bridge 9V 25VA reservoir C14 regulator VR1 5V:7 1A")
