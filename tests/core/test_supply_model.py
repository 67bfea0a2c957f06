"""A board's supply from typed lines: what it reads, what it tells its places, what a chosen part changes, what cannot work."""

from dataclasses import replace

import pytest

from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.choose.branch_circuit import new_store, old_store, sound_store, supply_of, together
from idlebench.core.choose.need import Mains
from idlebench.core.choose.supply_model import places_of, read_model, reckon, tell_supply
from idlebench.core.circuit.converter import ripple_current
from idlebench.core.circuit.supply import simulate
from idlebench.core.circuit.transformer import winding
from idlebench.core.draw.plots import fuse_plot, life_plot, plot, ripple_plot, strip, waves
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

LINEAR = "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A dropout 2 heatsink 8"
FLYBACK = """bridge mains 10.6ohm store C7 converter flyback 30W eff 0.78 at 42k fuse T1.6A
rail +5V 3.1A duty 0.47 stores C14,C15
rail -12V 0.2 A duty 0.47 stores C21"""
PARTS = {
    p.ref: p
    for p in (
        Fitted(ref="C1", value=4700e-6, volts=25.0, role="bulk"), Fitted(ref="C7", value=220e-6, volts=400.0, role="bulk"), Fitted(ref="C14", value=2200e-6, volts=10.0), Fitted(ref="C15", value=2200e-6, volts=10.0),
        Fitted(ref="C21", value=100e-6, volts=25.0),
    )
}  # fmt: skip
SMALL = Capacitor(part="S", series="S", kind="wet", value=1000e-6, volts=25.0, esr=0.1, esr_frequency=120.0)
LARGE = Capacitor(part="L", series="L", kind="wet", value=6800e-6, volts=25.0, esr=0.02, esr_frequency=120.0)
LOW = Capacitor(
    part="Z", series="Z", kind="wet", value=2200e-6, volts=16.0, esr=0.012, esr_frequency=100e3, low_impedance=True
)


def figure(state, name):
    return next(f for f in state.figures if f.name.startswith(name))


def test_lines_are_read():
    linear, fly = read_model(f"{LINEAR}\n\n{FLYBACK}")
    assert (linear.volts, linear.va, linear.regulator.dropout, linear.regulator.theta_sa) == (9.0, 25.0, 2.0, 8.0)
    assert fly.volts == 0 and fly.ohms == 10.6 and fly.converter.frequency == 42e3 and fly.fuse == "T1.6A"
    assert [(r.name, r.stores) for r in fly.converter.rails] == [("+5 V", ("C14", "C15")), ("−12 V", ("C21",))]
    assert read_model("centre 15V 12 VA store C2 current 400 mA")[0].current == pytest.approx(0.4)
    assert read_model("half 12V 2ohm store C1 load 100ohm")[0].resistance == 100.0


@pytest.mark.parametrize(
    ("text", "said"),
    [("ring 9V 25VA store C1 current 1A", "half, centre, bridge, doubler first"), ("bridge 25VA store C1 current 1A", "winding's volts"), ("bridge 9V store C1 current 1A", "size or resistance"),
     ("bridge 9V 25VA current 1A", "the reservoir capacitor after"), ("bridge 9V 25VA store C1", "one thing it feeds"), ("bridge 9V 25VA store C1 current 1A load 8ohm", "one thing it feeds"),
     ("bridge 9V 25VA store one current 1A", "references"), ("bridge 9V 25VA store C1 regulator 5V 1A", "the regulator's reference"), ("rail +5V 1A stores C1", "a converter above"),
     (f"{FLYBACK.splitlines()[0]}\nrail +5V 1A duty 1 stores C14", "below 1"), (f"{FLYBACK.splitlines()[0]}\nrail +5V 1A", "with its capacitors"), ("bridge 9V 25VA store C1 current", "something after"),
     ("bridge 9V 25VA store C1 currant 1A", "volts, size"), ("bridge mains 4ohm store C7 converter ring 30W", "one of flyback")],
)  # fmt: skip
def test_a_line_that_cannot_be_read_names_itself(text, said):
    with pytest.raises(BadInput, match=said) as told:
        read_model(text)
    assert told.value.field.startswith("supply, line")


def test_a_store_is_told_the_peak_at_plus_ten_and_its_ripple():
    (branch,) = read_model(LINEAR)
    told = reckon(branch, PARTS).places["C1"]
    source = winding(9, 25)
    # two diodes of n 1.75 and 5 nA at 1 mA: 0.55 V each
    assert told.volts == pytest.approx(1.1 * 2**0.5 * source.open_circuit - 1.105, abs=0.005)
    by_hand = simulate(supply_of(branch, sound_store(PARTS["C1"]), Mains()))
    assert told.ripple == pytest.approx(by_hand.store_rms) and told.frequency == 100.0
    part, said = tell_supply(PARTS["C1"], {"C1": told})
    assert (part.rail_volts, part.ripple, part.frequency) == (told.volts, told.ripple, 100.0) and len(said) == 2
    typed = PARTS["C1"].with_(rail_volts=14.0, ripple=1.4)
    assert tell_supply(typed, {"C1": told}) == (typed.with_(rail="+5 V"), ()), "what was typed for the place wins"
    assert reckon(branch, PARTS, Mains(115, 60)).places["C1"].frequency == 120.0


def test_converter_stores_share_the_ripple_of_their_rail():
    (branch,) = read_model(FLYBACK)
    places = reckon(branch, PARTS).places
    assert places["C14"].ripple == pytest.approx(ripple_current("flyback", 3.1, 0.47) / 2, rel=1e-6)
    assert places["C21"].ripple == pytest.approx(ripple_current("flyback", 0.2, 0.47))
    assert "50 % of +5 V's" in places["C14"].said[0] and "keeps +5 V within" in places["C14"].said[1]


def test_a_larger_store_moves_the_supply():
    (branch,) = read_model(LINEAR)
    state = reckon(branch, PARTS, chosen={"C1": LARGE})
    ripple = figure(state, "Ripple on the reservoir")
    assert ripple.after < ripple.before and ripple in state.moved
    assert figure(state, "Regulator headroom").after > figure(state, "Regulator headroom").before
    assert not figure(state, "Lowest volts").bad, "no limit, nothing to miss"


def test_a_headroom_below_nothing_says_what_would_work_and_that_does():
    (branch,) = read_model(LINEAR)
    state = reckon(branch, PARTS, chosen={"C1": SMALL})
    head = figure(state, "Regulator headroom")
    assert head.bad and head.after < 0 and "A reservoir of" in head.say and state.troubles
    from idlebench.core.text.quantity import read

    enough = read(head.say.split("A reservoir of ")[1].split(" or more")[0], "F")
    better = replace(SMALL, value=enough * 1.02)
    assert not figure(reckon(branch, PARTS, chosen={"C1": better}), "Regulator headroom").bad
    (hopeless,) = read_model(LINEAR.replace("5V 1A", "9V 1A"))
    assert "No reservoir capacitor repairs it" in figure(reckon(hopeless, PARTS), "Regulator headroom").say


def test_inrush_is_held_against_the_fuse_and_esr_against_the_rail():
    (branch,) = read_model(FLYBACK)
    tight, wide = (reckon(branch, PARTS, melting=m) for m in (2.0, 100.0))
    assert figure(tight, "Inrush").bad and not figure(wide, "Inrush").bad
    lower = reckon(branch, PARTS, chosen={"C14": LOW, "C15": LOW})
    assert figure(lower, "Ripple on +5 V").after < figure(lower, "Ripple on +5 V").before


@pytest.mark.parametrize(
    ("text", "said"),
    [("bridge 9V 25VA store C1 current 60A", "above the winding"), ("bridge 9V 25VA store C9 current 1A", "that the survey lists"),
     ("bridge 9V 25VA store C1 load 0.05ohm", "above the winding")],
)  # fmt: skip
def test_a_model_that_cannot_work_names_its_number(text, said):
    (branch,) = read_model(text)
    with pytest.raises(BadInput, match=said):
        reckon(branch, PARTS)
    told, wrong = places_of((branch,), PARTS)
    assert told == {} and said in wrong[0], "the rest of the board goes on"


def test_one_parts_own_change_is_told_from_the_others():
    (branch,) = read_model(FLYBACK)
    both = reckon(branch, PARTS, chosen={"C14": LOW, "C21": LOW}, already={"C14": LOW})
    assert [f.name for f in both.moved] == ["Ripple on −12 V"]


def test_stores_old_new_and_together():
    worn = PARTS["C1"].with_(capacitance=3000e-6, esr=0.2)
    assert (old_store(worn).value, old_store(worn).esr) == (3000e-6, 0.2)
    inside = worn.with_(in_circuit=True)
    assert old_store(inside).value == 4700e-6, "in circuit it is not its own reading"
    assert new_store(LOW).esr_high == 0.012 and new_store(replace(LOW, esr=0.0)).esr > 0
    both = together([new_store(LOW), new_store(LOW)])
    assert both.value == pytest.approx(4400e-6) and both.esr_high == pytest.approx(0.006)


def test_strip_and_waves_are_drawn():
    (branch,) = read_model(LINEAR)
    state = reckon(branch, PARTS, chosen={"C1": LARGE})
    shown = strip(branch, state)
    assert [b.kind for b in shown.blocks] == ["source", "diode", "store", "regulator", "rail"]
    assert show(state.after.ripple_pp, "V") in shown.says and strip(branch, None).blocks[2].lines == ()
    volts, amps = waves(state)
    assert [c.name for c in volts.curves] == ["old", "new"] and len(amps.curves[0].points.split()) == 240
    for x, y in (map(float, pair.split(",")) for c in volts.curves for pair in c.points.split()):
        assert 0 <= x <= volts.width and 0 <= y <= volts.height
    assert len(waves(reckon(branch, PARTS))[0].curves) == 1, "no part chosen, one curve"


def test_plots_have_round_ticks_and_curves_bend_the_right_way():
    flat = plot([("a", "new", [0, 10], [0, 97])], units=("s", "V"))
    assert [t.text for t in flat.up] == ["0 V", "50 V", "100 V"]
    life = life_plot(
        Capacitor(part="P", series="P", kind="wet", value=1e-4, volts=16, life=2000, temperature=105, ripple=0.5)
    )
    first, last = life.curves[1].points.split()[0], life.curves[1].points.split()[-1]
    assert float(first.split(",")[1]) < float(last.split(",")[1]), "hotter is lower on the page"
    assert ripple_plot(LOW) is None and life_plot(LOW) is None, "nothing is drawn that is not given"


def test_a_fuse_has_its_pulse_on_its_curve():
    from idlebench.catalogue import house_devices

    fuse = next(f for f in house_devices("fuse") if f.rating == 1.6 and f.characteristic == "T")
    times = [t for _, t in fuse.curve()]
    assert times == sorted(times, reverse=True) and fuse_plot(fuse, 1.1, 30.0).dot[2] == "switch-on 1.1 A²s"
