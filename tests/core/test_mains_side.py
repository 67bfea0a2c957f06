"""What stands across the mains: classes, varistors, bleeders, the plug's pins, insulation, poles, the hot chassis; and what empties them."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.device_lines import doubts
from idlebench.core.board.devices import read_device
from idlebench.core.board.first_look import TRAITS, first_look
from idlebench.core.board.parts import Fitted
from idlebench.core.board.spills import SPILLS, UNKNOWN, spill_of
from idlebench.core.choose.supply_model import read_model
from idlebench.core.circuit.discharge import OVERLOAD, PIECES, bleed_for, discharge, plug_pins
from idlebench.core.judge.policy import POLICIES
from idlebench.core.judge.verdict import REPLACE, by_hand, decide, judge, may_override
from idlebench.core.prove import BoardFacts, Changed, cold_checks, lamp_watts, power_up, windings_of
from idlebench.core.prove.interlocks import mains_parts, new_varistor, varistors
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail

X, Y = (
    Fitted(ref="C1", value=47e-9, volts=630.0, kind="film", mounting="radial", role="mains_x", looks="sound"),
    Fitted(ref="C2", value=2.2e-9, volts=1000.0, kind="ceramic", mounting="radial", role="mains_y", looks="sound"),
)


def supply(*lines, parts=(), **more):
    return BoardFacts(
        name="PS-9",
        supply="switching",
        parts=parts,
        rails=(read_rail("+5 V 2 A"),),
        devices=tuple(map(read_device, lines)),
        row="b1",
        **more,
    )


def cold(board):
    return {c.key: c for c in cold_checks([board])}


@pytest.mark.parametrize("policy", POLICIES)
@pytest.mark.parametrize(
    ("part", "wrong"),
    [
        # 47 nF 630 V film across the line, 2.2 nF 1000 V ceramic to earth, an X part to earth
        (X, "no safety class: X1, X2, Y1 or Y2"),
        (Y, "no safety class: Y1 or Y2"),
        (replace(Y, safety="X2"), "class X2: Y1 or Y2"),
        (replace(X, safety="X3"), ""),
    ],
)
def test_a_mains_part_without_its_class_goes_whatever_the_policy(policy, part, wrong):
    verdict = judge(part, year=2026, made=2020)
    if part.safety == "X3":
        assert verdict.name == REPLACE, "X3 is a class, but none that goes in there"
        return
    assert verdict.name == REPLACE and wrong in verdict.leading
    assert decide(part, verdict, policy).replace
    assert by_hand(verdict, "sound", "it reads well").name == REPLACE
    with pytest.raises(BadInput, match="type it: C"):
        may_override(part, "sound", "it reads well", 2026, 2020)
    # and no power before it is swapped; the piece that is in counts then
    assert {r.rule for r in mains_parts([supply(parts=(part,))])} == {"mains part"}
    swapped = supply(parts=(part,), swapped=frozenset({part.ref}), classes={part.ref: "Y1"}, fitted={part.ref: "Y #1"})
    assert not mains_parts([swapped])


def test_a_part_of_its_class_stays_and_other_places_ask_for_none():
    assert judge(replace(X, safety="X2"), year=2026, made=2020).name == "sound"
    assert judge(replace(Y, safety="X1/Y2"), year=2026, made=2020).name == "sound"
    assert judge(replace(X, role="coupling"), year=2026, made=2020).name == "sound"


def test_old_paper_goes_though_it_bears_a_class():
    assert judge(replace(X, kind="paper", safety="X2"), year=2026, made=2000).name == REPLACE
    assert judge(replace(X, kind="paper", safety="X2"), year=2026, made=2010).name == "sound"
    assert "age not known" in judge(replace(X, kind="paper", safety="Y2"), year=2026).leading


@pytest.mark.parametrize(
    ("line", "again"),
    [
        ("MOV1 varistor 275V~", "MOV1 varistor 275Vac"),
        ("MOV1 mov 14D431 275vac", "MOV1 varistor 275Vac note 14D431"),
        ("TH1 ntc 10R", "TH1 thermistor 10ohm"),
        ("R1 discharge 1M", "R1 bleeder 1000000ohm note discharge"),
        ("R9 bleeder 220k for C7", "R9 bleeder 220000ohm note for C7"),
        ("GD1 arrester", "GD1 arrester"),
    ],
)
def test_parts_of_the_mains_side_are_read_and_written(line, again):
    device = read_device(line)
    assert device.as_line() == again and read_device(again) == device
    assert not doubts(device) or device.what == "arrester"


def test_a_varistor_as_old_as_the_machine_is_replaced_by_one_for_the_mains():
    board = supply("MOV1 varistor 250V~")
    assert [r.rule for r in varistors([board])] == ["varistor"]
    assert not varistors(
        [replace(board, changed=(Changed(row="d1", ref="MOV1", what="varistor", item="14 mm 275V~"),))]
    )
    # 1.1 × 230 V = 253 V
    assert not new_varistor("MOV1", "14 mm 275 V~", 230.0) and not new_varistor("MOV1", "S14K275~ 275VAC", 230.0)
    for typed in ("14 mm 250V~", "130 V~", "275V", "", "a varistor", "-275", "2.75V~", "0275"):
        assert new_varistor("MOV1", typed, 230.0), typed
    assert not new_varistor("MOV1", "14 mm 132V~", 120.0) and new_varistor("MOV1", "14 mm 130V~", 120.0)


def test_the_plugs_pins_after_unplugging():
    # 470 nF, 1 MΩ, 230 V: 325.3 · e^(−1/0.47) = 38.7 V after 1 s, 4.6 V after 2 s
    got = plug_pins(470e-9, 1e6)
    assert got.values["volts_1s"] == pytest.approx(38.75, abs=0.05) and got.values["volts_2s"] == pytest.approx(
        4.62, abs=0.02
    )
    assert len(got.cautions) == 1 and "IEC 60335-1" in got.cautions[0]
    # 1 s ÷ (470 nF · ln(325.3/34)) = 942 kΩ keeps both
    assert got.values["resistance_most"] == pytest.approx(942e3, rel=2e-3)
    assert not plug_pins(470e-9, got.values["resistance_most"] * 0.999).cautions
    # 1 µF and 2.2 MΩ keep neither: 325.3 · e^(−2/2.2) = 131 V
    both = plug_pins(1e-6, 2.2e6)
    assert len(both.cautions) == 2 and both.values["volts_2s"] == pytest.approx(131.1, abs=0.2)
    for wrong in ((0.0, 1e6, 230.0), (1e-6, -1.0, 230.0), (1e-6, 1e6, 0.0)):
        with pytest.raises(BadInput):
            plug_pins(*wrong)


def test_what_empties_by_itself_is_read_and_the_pins_are_spoken_of():
    filters = replace(X, value=470e-9, safety="X2")
    read = cold(supply("R1 discharge 1M", "R9 bleeder 220k for C7", "TH1 ntc 10R", parts=(filters,)))
    across = read["cold.bleeder.b1.r1"]
    assert across.passes(1.05e6) and across.passes(300e3) and not across.passes(1.2e6) and not across.passes(math.inf)
    assert "38.7 V after 1 s" in across.why and "IEC 60335-1" in across.caution and across.safety
    assert "cold.resistor.b1.r5" not in cold(supply("R5 resistor 2R2"))
    assert "C7 stays charged" in read["cold.bleeder.b1.r9"].why
    thermistor = read["cold.thermistor.b1.th1"]
    assert thermistor.passes(9.0) and not thermistor.passes(0.5) and not thermistor.passes(30.0)
    assert "may hold" not in read["cold.cont.b1.plug"].caution
    # nobody listed one: the pins are not touched
    assert "325 V" in cold(supply(parts=(filters,)))["cold.cont.b1.plug"].caution
    assert not cold(supply(parts=(replace(filters, value=47e-9),)))["cold.cont.b1.plug"].caution


def test_insulation_says_what_is_lifted_here():
    plain = cold(supply())["cold.insulation.b1"]
    assert "Lift" not in plain.ask and "EN 50678" in plain.why
    full = cold(supply("GD1 arrester", "MOV1 varistor 275V~", "R9 bleeder 220k for C7"))["cold.insulation.b1"]
    assert "Lift one leg of GD1 first" in full.ask and "MOV1 and R9 first, or test at 250 V" in full.ask
    # another part listed is another test
    assert full.evidence != plain.evidence


def test_line_and_neutral_and_a_hot_chassis_are_asked():
    assert "both poles count as line" in cold(supply())["cold.pole.b1"].ask
    assert "hot" in TRAITS and "chassis" in {look.key for look in first_look(["supply"])}
    hot = supply(hot=True)
    assert "cold.hot.b1" in cold(hot) and "cold.hot.b1" not in cold(supply())
    live = [step for step in power_up([hot]) if step.live]
    assert live and all(step.caution.startswith("Hot chassis") for step in live)
    assert not any("Hot chassis" in step.caution for step in power_up([supply()]))


@pytest.mark.parametrize(
    ("farads", "volts", "words"),
    [
        # 48 W into 2.2 kΩ was too much for what lies about; 1 kV stands across two
        (220e-6, 325, "4.7 kΩ 5 W wire-wound rated 325 V or more"),
        (100e-6, 1000, "2 × 5.1 kΩ in series, each 10 W wire-wound rated 500 V or more"),
        (4700e-6, 16, "220 Ω 1 W film rated 16 V or more"),
    ],
)
def test_a_discharge_resistor_is_chosen_by_volts_and_watts(farads, volts, words):
    assert bleed_for(farads, volts).words == words


@given(st.floats(1e-9, 0.5), st.floats(1.0, 1500.0))
def test_no_resistor_is_asked_for_what_it_does_not_stand(farads, volts):
    try:
        bleed = bleed_for(farads, volts)
    except BadInput:
        assert farads * volts**2 / 2 > 500
        return
    across = volts / bleed.pieces
    assert across <= {w: most for w, most, _ in PIECES}[bleed.watts]
    assert across**2 / (bleed.ohms / bleed.pieces) <= OVERLOAD * bleed.watts * 1.0001
    assert discharge(farads, volts, bleed.ohms).values["seconds"] < 60


def test_what_no_two_resistors_stand_is_said_and_the_page_stands():
    store = Fitted(ref="C7", value=2.0, volts=450.0, role="bulk", rail_volts=450.0)
    ask = next(check for key, check in cold(supply(parts=(store,))).items() if "discharge" in key)
    assert "people trained for it" in ask.ask and not ask.reckoning
    with pytest.raises(BadInput, match="on one resistor"):
        discharge(1e-9, 25e3, 1e6)


@pytest.mark.parametrize(
    ("line", "title", "takes"),
    [
        ("BT1 battery 3.6V nicd leaking", "nickel-cadmium", "mild acid"), ("BT1 accumulator 3.6V leaking", "nickel-cadmium", "mild acid"),
        ("BT1 battery ni-mh leaking", "nickel-metal hydride", "mild acid"), ("BT1 battery alkaline leaking", "alkaline", "mild acid"),
        ("BT1 battery sealed lead 6V leaking", "sealed lead", "bicarbonate"), ("BT1 battery lithium leaking", "lithium", "No acid"),
        ("BT1 battery 4.5V leaking", "of unknown chemistry", "type it"),
    ],
)  # fmt: skip
def test_a_spill_is_named_by_its_chemistry(line, title, takes):
    found = spill_of(read_device(line))
    assert found.title == title and takes in found.says
    assert all(spill.procedure for spill in SPILLS.values()) and not UNKNOWN.procedure


def test_every_spill_names_a_procedure_that_ships():
    from idlebench.catalogue import house_procedures

    assert {spill.procedure for spill in SPILLS.values()} <= set(house_procedures())


def test_a_limiter_lamp_is_sized_by_what_a_linear_supply_draws():
    rails = [read_rail("+5 V 3 A"), read_rail("+12 V 0.5 A")]
    # dummy loads take a fifth: 3 W and 1.2 W; a linear supply draws twice that, 8.4 W, and its lamp is twice as large again
    assert lamp_watts(rails) == 25
    # 15 to 40 mA without any load for 45 VA: 25 mA · 230 V = 5.75 VA, a quarter turn behind; √(8.4² + 5.75²) · 2 = 20.4 W
    assert lamp_watts(rails, va=45) == 25
    # without load the transformer alone asks 2 · 5.75 W
    assert lamp_watts([], va=45) == 15 and lamp_watts([], va=180) == 25
    # four times 4.2 W ÷ 0.7 = 24 W
    assert lamp_watts(rails, "switching") == 25
    # the model's supply says what it reads behind the lamp, and without a model nothing is asked there
    keys = {c.key for step in power_up([supply(modelled=True)]) for c in step.checks}
    assert "up.limited.+5-v.behind" in keys and "up.limited.+5-v.behind" not in {
        c.key for step in power_up([supply()]) for c in step.checks
    }
    behind = next(c for s in power_up([supply(modelled=True)]) for c in s.checks if c.key.endswith("behind"))
    assert behind.passes(3.0) and behind.passes(0.0) and not behind.passes(-3.0) and not behind.passes(6.0)


def test_the_lamp_on_b_plus_is_made_for_the_mains_here():
    from idlebench.core.board.monitor_lines import read_monitor
    from idlebench.core.prove.monitors import monitor_steps

    lines = "monitor 15.625kHz 50Hz tube 16kV nominal\nline stage B+ 115V retrace C12 4n7 yoke 1.2mH draws 0.2A"
    board = BoardFacts(name="VM", row="b6", monitor=read_monitor(lines))
    assert (
        "230 V lamp" in monitor_steps(board, ())[0].detail
        and "120 V lamp" in monitor_steps(board, (), mains=120.0)[0].detail
    )


def test_the_size_on_the_label_counts_for_the_winding_of_the_supply_line():
    """15 V 40 VA on the label, and `bridge 15V 0.8ohm` in the lines: one winding of 40 VA, not one of unknown size."""
    lines = read_model("bridge 15V 0.8ohm store C1 regulator VR1 12V 1.2A")
    assert [(w.volts, w.va) for w in windings_of(15.0, 40.0, (), lines)] == [(15.0, 40.0)]
    assert [(w.volts, w.va) for w in windings_of(9.0, 40.0, (), lines)] == [(15.0, 0.0), (9.0, 40.0)]
    assert [(w.volts, w.va) for w in windings_of(None, None, (), lines)] == [(15.0, 0.0)]
