"""What a whole unit is asked: every supply, winding and store of it, the mains as they are, earth and insulation."""

import math
from dataclasses import replace

import pytest

from idlebench.core import prove
from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import Fitted
from idlebench.core.choose.supply_model import read_model
from idlebench.core.prove import BoardFacts, Event, Proof, Record, Winding, interlocks, windings_of
from idlebench.core.prove.checks import stores_of
from idlebench.core.prove.record import MAINS, POWER, READ
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_rail

from .test_prove import passing


def supply(name, row, *rails, **also):
    return BoardFacts(
        name=name,
        supply="linear",
        parts=(Fitted(ref="C1", value=1e-6, volts=16),),
        rails=tuple(map(read_rail, rails)),
        row=row,
        **also,
    )


def refs(*parts, rails=0.0, **also):
    return [s.ref for s in stores_of(BoardFacts(name="B", parts=parts, **also), rails)]


# stores


@pytest.mark.parametrize(
    ("value", "volts", "asked"),
    [
        (100e-6, 25, True),
        (100e-6, 24, False),
        (99e-6, 25, False),
        (4700e-6, 16, True),
        (1000e-6, 16, False),
        (220e-6, 63, True),
    ],
)
def test_half_a_joule_or_a_hundred_microfarads_at_25_volts_is_asked(value, volts, asked):
    """½ · 4700 µF · 16² = 0.60 J; 1000 µF at 16 V 0.13 J; 100 µF at 25 V only 31 mJ, and it welds."""
    assert (refs(Fitted(ref="C1", value=value, volts=volts)) == ["C1"]) == asked


def test_the_sign_of_a_store_does_not_matter():
    part = Fitted(ref="C7", value=220e-6, volts=400, role="bulk", rail_volts=-325.0)
    board = BoardFacts(name="PS-1", supply="switching", parts=(part,))
    (check,) = [c for c in prove.cold_checks([board]) if c.fact == "discharged"]
    assert check.nominal == 325.0 and not check.passes(-325.0) and not check.passes(-11.0) and check.passes(-9.0)


def test_a_store_of_unknown_volts_on_a_fed_board_counts_as_the_highest_rail():
    fed = BoardFacts(name="MB", supply="", parts=(Fitted(ref="C1", value=470e-6),), row="b2")
    found = prove.cold_checks([supply("PS", "b1", "+5 V 1 A", "-24 V 0.1 A"), fed])
    (check,) = [c for c in found if c.fact == "discharged" and c.board == "MB"]
    assert check.nominal == 24.0


def test_the_stores_of_every_supply_are_asked():
    big = (Fitted(ref="C1", value=220e-6, volts=400, role="bulk"),)
    boards = [replace(supply(n, r, "+5 V 1 A"), parts=big) for n, r in (("PS 1", "b1"), ("PS-1", "b2"))]
    keys = [c.key for c in prove.cold_checks(boards) if c.fact == "discharged"]
    assert len(keys) == len(set(keys)) == 2


# supplies, each with a way up of its own

TWO = (supply("PS-1", "b1", "+5 V 1 A", source_volts=9.0, source_va=25.0), supply("PS-2", "b2", "+12 V 1 A"))
FED = BoardFacts(name="MB", supply="", parts=(Fitted(ref="C1", value=1e-6, volts=16),), row="b3")


def test_every_supply_goes_up_on_its_own_before_the_boards():
    steps = prove.power_up([*TWO, FED])
    assert [s.key for s in steps] == [
        "cold", "dummy", "dummy.b2", "source", "limited", "full", "limited.b2", "full.b2", "feed",
    ]  # fmt: skip
    keys = [c.key for s in steps for c in s.checks]
    assert len(keys) == len(set(keys))
    assert all(c.step == s.key for s in steps for c in s.checks), "a reading is taken at its own step"
    assert steps[-2].title.endswith("PS-2")


def test_two_rails_of_one_name_have_a_reading_each():
    steps = prove.power_up([supply("PS-1", "b1", "+5 V 1 A"), supply("PS-2", "b2", "+5 V 1 A"), FED])
    keys = [c.key for s in steps for c in s.checks]
    assert len(keys) == len(set(keys)) and len([k for k in keys if k.startswith("up.feed.+5-v.volts")]) == 2


def test_the_second_supply_is_shut_until_the_first_has_passed():
    proof = Proof(boards=(*TWO, FED))
    assert {r.rule for r in interlocks.power(proof, "full.b2")} >= {"missing"}
    assert any("PS-2" in r.text or "Dummy" in r.text for r in interlocks.power(proof, "feed"))


def test_a_supply_without_rails_beside_another_is_not_handed_over():
    proof = Proof(boards=(TWO[0], supply("PS-9", "b9"), FED))
    assert [r.text for r in interlocks.hand_over(proof) if r.rule == "no rails"] == [
        "PS-9 is a supply, and no rail of it is listed."
    ]


# windings


def test_every_winding_and_tap_is_read_from_the_supplys_own_lines():
    devices = [
        read_device("T1A winding 9V 1.5A"),
        read_device("T1B winding 15V 0.3A"),
        read_device("F1 fuse T 1A 250V"),
    ]
    branches = read_model("bridge 9V 25VA reservoir C1 regulator VR1 5V 1A\nhalf 24V 2ohm store C2 current 0.1A")
    found = windings_of(9.0, 25.0, devices, branches)
    assert [(w.name, w.volts) for w in found] == [("T1A", 9.0), ("T1B", 15.0), ("24 V winding", 24.0)]
    board = supply("PS-1", "b1", "+5 V 1 A", windings=found)
    source = prove.power_up([board])[2]
    assert [c.point.split(",")[0] for c in source.checks] == ["T1A", "T1B", "24 V winding"]
    # 9 V 13.5 VA: regulation between 0.22 at 10 VA and 0.15 at 25 VA; the band is ± 6 % of it
    assert 9 * 1.15 < source.checks[0].low / 0.94 < 9 * 1.22
    assert source.checks[2].low == pytest.approx(24 * 0.94), "of an open winding the volts as typed"


def test_a_stores_unknown_volts_are_the_peak_of_the_highest_winding():
    board = supply("PS-1", "b1", "+5 V 1 A", windings=(Winding("T1A", 9, 25), Winding("T1B", 40, 25)))
    (store,) = stores_of(replace(board, parts=(Fitted(ref="C1", value=470e-6),)))
    assert store.volts == pytest.approx(40 * 1.15 * 1.1 * math.sqrt(2), abs=0.1)


# the mains as they are


def read_mains(proof, volts):
    check = proof.check("cold.mains")
    return proof.again(
        record=proof.record.with_(Event(kind=READ, at=proof.now, key=check.key, value=volts, was=check.evidence))
    )


def test_the_mains_are_asked_before_the_first_step_under_power():
    proof = Proof(boards=(TWO[0],))
    assert any("mains at the socket" in r.text or "not done" in r.text for r in interlocks.power(proof, "source"))
    asked = [c for s in proof.steps[1::-1] for c in s.checks if c.key != "cold.mains"]
    others = [Event(kind=READ, at=0.0, key=c.key, value=passing(c), was=c.evidence) for c in asked]
    assert [r.text for r in interlocks.power(replace(proof, record=Record(tuple(others))), "source")] == [
        "Cold checks: 1 not done (mains at the socket)."
    ]


def test_measured_mains_move_what_the_winding_should_give():
    """242 V on 230 V: everything 1.052 times."""
    proof = Proof(boards=(TWO[0],))
    before = proof.check("up.source.volts")
    after = read_mains(proof, 242.0).check("up.source.volts")
    assert after.low / before.low == after.high / before.high == pytest.approx(242 / 230)
    assert "on 242 V" in after.ask


def test_mains_outside_ten_per_cent_fail_and_move_nothing():
    proof = read_mains(Proof(boards=(TWO[0],)), 180.0)
    assert proof.status_of(proof.check("cold.mains")).failed and proof.measured is None
    assert any(r.rule == "failed" for r in interlocks.power(proof, "source"))


def test_other_mains_or_another_way_ask_the_reading_again():
    proof = read_mains(Proof(boards=(TWO[0],)), 231.0)
    assert proof.measured == 231.0
    later = proof.again(record=proof.record.with_(Event(kind=MAINS, at=1.0)))
    assert later.measured is None and not later.done(later.check("cold.mains"))


def test_a_winding_that_passed_is_asked_again_where_the_mains_read_otherwise():
    proof = read_mains(Proof(boards=(TWO[0],)), 230.0)
    source = proof.check("up.source.volts")
    found = proof.record.with_(
        Event(kind=POWER, at=2.0, step="source"),
        Event(kind=READ, at=3.0, key=source.key, value=passing(source), was=source.evidence),
    )
    proof = proof.again(record=found)
    assert proof.done(source)
    later = read_mains(proof, 245.0)
    assert "mains as read was 230 V then and is 245 V now" in later.status_of(later.check("up.source.volts")).void


# earth and insulation


def check_of(key, **also):
    board = supply("PS-1", "b1", "+5 V 1 A", **also)
    return next((c for c in prove.cold_checks([board]) if c.key.startswith(key)), None)


def test_earth_is_at_most_three_tenths_with_the_leads_subtracted():
    check = check_of("cold.earth")
    assert check.high == 0.3 and check.safety
    assert prove.read_reading(check, "0.42 - 0.15") == pytest.approx(0.27)
    assert prove.read_reading(check, "0.42 leads 0.15") == pytest.approx(0.27)
    assert prove.read_reading(check, "420m - 150m") == pytest.approx(0.27)
    assert prove.read_reading(check, "2e-1") == pytest.approx(0.2), "an exponent is no pair of leads"
    assert not check.passes(prove.read_reading(check, "0.42")) and check.passes(prove.read_reading(check, "0.42-0.15"))
    with pytest.raises(BadInput, match="leads of at most"):
        prove.read_reading(check, "0.1 - 0.5")


@pytest.mark.parametrize(("asked", "limit"), [(0.1, 0.1), (0.3, 0.3), (2.0, 0.3), (50.0, 0.3)])
def test_a_local_earth_limit_only_goes_down(asked, limit):
    assert check_of("cold.earth", earth_limit=asked).high == limit


def test_without_an_earth_pin_it_is_insulation_to_what_is_touched():
    assert check_of("cold.earth", earthed=False) is None
    assert check_of("cold.insulation", earthed=False).low == 2e6 and check_of("cold.insulation").low == 1e6


def test_insulation_is_for_those_who_have_the_meter_and_a_bad_one_shuts():
    proof = Proof(boards=(TWO[0],))
    check = next(c for c in proof.steps[0].checks if c.key.startswith("cold.insulation"))
    assert not proof.wanted(check), "nobody is stopped for want of the meter"
    bad = proof.again(record=Record((Event(kind=READ, at=0.0, key=check.key, value=2e5, was=check.evidence),)))
    assert bad.wanted(check) and any(
        "insulation" in r.text.lower() and r.rule == "failed" for r in interlocks.power(bad, "source")
    )
    assert interlocks.override(bad, check), "no reason passes it"


def test_a_multimeter_shows_that_earth_is_connected_and_a_tester_that_it_carries():
    """0.3 Ω by a multimeter; 0.1 Ω and the lead at 10 A or more (IEC 60335-1, clause 27.5), for those who have the tester."""
    by_meter, carries = check_of("cold.earth."), check_of("cold.earth10.")
    assert by_meter.high == 0.3 and "not that it carries" in by_meter.ask
    assert carries.optional and carries.high == 0.1 and prove.read_reading(carries, "0.18 - 0.1") == pytest.approx(0.08)
    assert carries.passes(0.08) and not carries.passes(0.12)
