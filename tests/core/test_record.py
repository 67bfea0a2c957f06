"""What voids what: each row of the table, and what is not touched by it; gates that ask the record."""

from dataclasses import replace

import pytest

from idlebench.core.board.devices import read_device
from idlebench.core.board.first_look import first_look
from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, Event, Proof, Record, Thing, changes, interlocks
from idlebench.core.prove import record as r
from idlebench.core.prove.cold import cold_checks
from idlebench.core.prove.status import UNKNOWN, status_of
from idlebench.core.text.rails_and_chips import read_chip, read_rail

BULK = Fitted(ref="C7", value=220e-6, volts=400, role="bulk", rail_volts=325)
ACROSS = Fitted(ref="C3", value=100e-9, volts=275, kind="film", role="mains_x", safety="X2")
OUT = Fitted(ref="C9", value=470e-6, volts=16)
SUPPLY = BoardFacts(
    name="PS-2", supply="switching", parts=(BULK, ACROSS, OUT), swapped=frozenset({"C9"}), rails=(read_rail("+5 V 2 A"),), chips=(), fuse="T 1 A 250 V",
    row="b1", rows={"C7": "p1", "C3": "p2", "C9": "p3"}, fitted={"C9": "LZ-470u #5"},
)  # fmt: skip
MAIN = BoardFacts(
    name="MB-80", supply="", parts=(Fitted(ref="C1", value=1e-4, volts=16),), swapped=frozenset({"C1"}), rails=(), chips=(read_chip("U1 cpu gnd 20 +5V 40"),),
    row="b2", rows={"C1": "p9"}, fitted={"C1": "LZ-100u #6"},
)  # fmt: skip
UNIT = Proof(boards=(SUPPLY, MAIN))


def check(name: str, proof: Proof = UNIT):
    found = proof.check(name)
    assert found is not None, name
    return found


def read(name: str, value: float, at: float = 0.0, proof: Proof = UNIT) -> Event:
    c = check(name, proof)
    return Event(kind=r.READ, at=at, key=c.key, value=value, was=c.evidence)


GOOD = {
    "cold.discharge.ps-2.c7": 0.4, "cold.polarity.ps-2.c9": 1.0, "cold.polarity.mb-80.c1": 1.0, "cold.rail.ps-2.+5-v": 9.0,
    "cold.rail.mb-80.+5-v": 9.0, "cold.pin.mb-80.u1.20": 0.2, "cold.fuse.ps-2": 0.1, "cold.fuse.rating.ps-2": 1.0,
    "cold.cont.ps-2.plug": 1.0, "up.dummy.+5-v": 13.0, "up.limited.lamp": 1.0, "up.full.+5-v.volts": 5.0,
    "up.feed.+5-v.volts": 5.0,
}  # fmt: skip
AFTER = tuple(read(name, value) for name, value in GOOD.items())


def voided(event: Event, *more: Event) -> set[str]:
    """The names of what counts no more after something."""
    record = Record((*AFTER, event, *more))
    return {name for name in GOOD if status_of(check(name), record, 0.0).void}


ALL = set(GOOD)
STEPS = {"up.limited.lamp", "up.full.+5-v.volts", "up.feed.+5-v.volts"}
RAILS = {"cold.rail.ps-2.+5-v", "cold.rail.mb-80.+5-v"}


@pytest.mark.parametrize(
    ("event", "gone"),
    [
        (Event(kind=r.IDLE, at=1), set()),
        (Event(kind=r.POWER, at=1, step="source"), {"cold.discharge.ps-2.c7"}),
        (Event(kind=r.SWAP, at=1, row="p1", board="b1"), {"cold.discharge.ps-2.c7"} | RAILS | STEPS),
        (Event(kind=r.SWAP_BACK, at=1, row="p3", board="b1"), {"cold.polarity.ps-2.c9"} | RAILS | STEPS),
        (Event(kind=r.PART, at=1, row="p9", board="b2"), {"cold.polarity.mb-80.c1"}),
        (Event(kind=r.PART, at=1, row="p2", board="b1", mains=True), set()),
        (Event(kind=r.MEND, at=1, row="b2", board="b2"), {"cold.pin.mb-80.u1.20", "up.feed.+5-v.volts"} | RAILS),
        (Event(kind=r.MEND, at=1, row="b1", board="b1"), {"cold.cont.ps-2.plug"} | RAILS | STEPS),
        (Event(kind=r.BOARD, at=1, row="b1", board="b1", what="rails"), {"up.dummy.+5-v"} | RAILS | STEPS),
        (Event(kind=r.BOARD, at=1, row="b1", board="b1", what="fuse"), {"cold.fuse.ps-2", "cold.fuse.rating.ps-2", "cold.cont.ps-2.plug"} | RAILS | STEPS),
        (Event(kind=r.BOARD, at=1, row="b2", board="b2", what="chips"), {"cold.pin.mb-80.u1.20", "up.feed.+5-v.volts"} | RAILS),
        (Event(kind=r.FUSE, at=1, row="b1", board="b1", mains=True), {"cold.fuse.ps-2", "cold.fuse.rating.ps-2", "cold.cont.ps-2.plug"} | STEPS),
        (Event(kind=r.MAINS, at=1), {"up.dummy.+5-v"} | STEPS),
        (Event(kind=r.MOVED, at=1, row="b7", board="b7"), RAILS | STEPS),
        (Event(kind=r.REFORM, at=1, row="p1", board="b1"), {"cold.discharge.ps-2.c7"}),
        (Event(kind=r.REOPENED, at=1), ALL),
        (read("up.feed.plug", 1.0, 1), {"up.dummy.+5-v"}),
        (read("up.full.+5-v.volts", 0.1, 1), {"cold.fuse.ps-2", "cold.fuse.rating.ps-2"} | RAILS),
        (read("up.full.+5-v.volts", 4.0, 1), set()),
        (read("up.limited.lamp", 0.0, 1), {"cold.fuse.ps-2", "cold.fuse.rating.ps-2"} | RAILS),
    ],
)  # fmt: skip
def test_what_voids_what(event, gone):
    assert voided(event) == gone


def test_moved_away_and_back_a_board_asks_for_everything_of_its_own():
    gone = voided(Event(kind=r.MOVED, at=1, row="b1", board="b1"), Event(kind=r.MOVED, at=2, row="b1", board="b1"))
    assert {n for n in ALL if "ps-2" in n} <= gone and "cold.pin.mb-80.u1.20" not in gone


@pytest.mark.parametrize("later", ["cold.fuse.ps-2", "cold.discharge.ps-2.c7", "up.dummy.+5-v", "up.feed.plug"])
def test_hands_inside_ask_for_a_last_look(later):
    record = Record((read("cold.look.loose", 1.0), read(later, 1.0)))
    assert "opened again" in status_of(check("cold.look.loose"), record, 0.0).void
    under_power = Record(
        (read("cold.look.loose", 1.0), Event(kind=r.POWER, at=1, step="full"), read("up.full.+5-v.volts", 5.0))
    )
    assert status_of(check("cold.look.loose"), under_power, 0.0).passed


def test_a_verdict_is_made_from_the_limit_as_it_is_now():
    """7.4 V was read while somebody had typed ±50 %: it counts under neither limit now."""
    wide = replace(SUPPLY, rails=(read_rail("+5 V 2 A tol 50"),))
    unit = Proof(boards=(wide, MAIN))
    record = Record((read("up.full.+5-v.volts", 7.4, proof=unit),))
    assert status_of(check("up.full.+5-v.volts", unit), record, 0.0).passed
    now = status_of(check("up.full.+5-v.volts"), record, 0.0)
    assert not now.done and "rail was +5 V 2 A tol 50" in now.void and "is +5 V 2 A tol 5 " in now.void


@pytest.mark.parametrize(
    ("name", "then", "says"),
    [
        ("cold.fuse.rating.ps-2", replace(SUPPLY, fuse="T 16 A 250 V"), "marking was T 16 A 250 V then and is T 1 A 250 V now"),
        ("cold.discharge.ps-2.c7", replace(SUPPLY, parts=(replace(BULK, rail_volts=450.0), OUT)), "most volts was 450 V"),
        ("cold.polarity.ps-2.c9", replace(SUPPLY, fitted={"C9": "LZ-470u #4"}), "part was LZ-470u #4 then"),
    ],
)  # fmt: skip
def test_what_the_thing_was_like_then_is_held_against_what_it_is_now(name, then, says):
    """Even where no event tells of it: by another program, or a service that forgot."""
    record = Record((read(name, 1.0, proof=Proof(boards=(then, MAIN))),))
    assert says in status_of(check(name), record, 0.0).void


def test_a_discharge_above_60_v_counts_for_half_an_hour():
    record = Record((read("cold.discharge.ps-2.c7", 0.4, at=1000.0),))
    c7 = check("cold.discharge.ps-2.c7")
    assert status_of(c7, record, 1000.0 + 1800).passed
    assert "charge creeps back above 60 V" in status_of(c7, record, 1000.0 + 1801).void
    low = replace(SUPPLY, parts=(replace(BULK, rail_volts=59.0),))
    record = Record((read("cold.discharge.ps-2.c7", 0.4, proof=Proof(boards=(low,))),))
    assert status_of(check("cold.discharge.ps-2.c7", Proof(boards=(low,))), record, 1e9).passed


def test_what_was_read_before_the_record_is_asked_again_unless_the_unit_was_handed_over():
    old = Event(kind=r.READ, at=0.0, key="cold.fuse.ps-2", value=0.1)
    assert status_of(check("cold.fuse.ps-2"), Record((old,)), 0.0).void == UNKNOWN
    closed = Record((old, Event(kind=r.POWER, at=1), Event(kind=r.IDLE, at=2), Event(kind=r.HANDED, at=3)))
    assert status_of(check("cold.fuse.ps-2"), closed, 1e9).passed
    assert status_of(check("cold.fuse.ps-2"), closed.with_(Event(kind=r.REOPENED, at=4)), 1e9).void


def test_checks_are_kept_by_row_so_that_names_never_share():
    one = replace(SUPPLY, name="PS 1", row="b1")
    two = replace(SUPPLY, name="PS-1", row="b4", rows={"C7": "p11", "C3": "p12", "C9": "p13"})
    unit = Proof(boards=(one, two))
    assert unit.check("cold.fuse.ps-1") is None, "a name that two have is nobody's"
    assert unit.check("cold.fuse.b1").board == "PS 1" and unit.check("cold.discharge.p11").board == "PS-1"
    other_script = Proof(boards=(replace(SUPPLY, name="БП", row="b1"), replace(SUPPLY, name="ПС", row="b4")))
    keys = [c.key for c in other_script.steps[0].checks if c.fact == "fuse"]
    assert len(keys) == len(set(keys)) == 4


@pytest.mark.parametrize(
    ("part", "supply", "volts"),
    [
        (Fitted(ref="C1", value=220e-6, volts=None, role="bulk"), "switching", 400.0),
        (Fitted(ref="C1", value=220e-6, volts=None), "switching", 400.0),
        (Fitted(ref="C1", value=220e-6, volts=None), "linear", 9 * 1.15 * 2**0.5 * 1.1),
        (Fitted(ref="C1", value=220e-6, volts=-35, rail_volts=-325.0), "switching", 325.0),
    ],
)  # fmt: skip
def test_a_store_counts_as_the_most_its_place_could_hold(part, supply, volts):
    """Unknown volts: the supply's peak, else 400 V on a primary (proof of the winding: 9 V, 25 VA, 15 % up unloaded)."""
    winding = (9.0, 25.0) if supply == "linear" else (None, None)
    board = BoardFacts(name="P", supply=supply, parts=(part,), source_volts=winding[0], source_va=winding[1])
    (store,) = [c for c in cold_checks([board]) if c.fact == "discharged"]
    assert store.nominal == pytest.approx(volts, rel=0.01)


# Gates


def test_first_look_shuts_power_by_name_and_the_rest_shuts_hand_over():
    looks = first_look({"supply", "tube"})
    unit = replace(UNIT, looks=looks)
    texts = [reason.text for reason in interlocks.power(unit, "full") if reason.rule == "first look"]
    assert len(texts) == 6 and any("Unplugged" in t for t in texts) and any("Tube inspected" in t for t in texts)
    hurts = frozenset(look.key for look in looks if look.hurts)
    ticked = replace(unit, looked=hurts)
    assert not interlocks.first_look(ticked)
    (left,) = interlocks.rest_of_first_look(ticked)
    assert "6 left" in left.text
    skipped = replace(ticked, skipped={look.key: "not for this one" for look in looks})
    assert not interlocks.rest_of_first_look(skipped)
    assert interlocks.first_look(replace(unit, skipped={look.key: "hurry" for look in looks})), (
        "what hurts is never skipped"
    )
    assert interlocks.skip(unit, "plug") and not interlocks.skip(unit, "smell")


@pytest.mark.parametrize("looks", ["burst", "leaking", "missing"])
def test_a_bad_mains_part_shuts_power(looks):
    for part in (replace(ACROSS, looks=looks), replace(ACROSS, role="unknown", looks=looks)):
        unit = Proof(boards=(replace(SUPPLY, parts=(BULK, part)), MAIN))
        assert f"C3 on PS-2, a mains part, is {looks}." in [reason.text for reason in interlocks.power(unit, "full")]
    assert not [x for x in interlocks.power(UNIT, "full") if x.rule == "mains part"]


def test_a_leaking_battery_or_a_board_that_nobody_listed_shuts_power():
    battery = replace(MAIN, devices=(read_device("BT1 battery 3.6V leaking"),))
    assert "BT1 on MB-80 leaks." in [
        reason.text for reason in interlocks.power(Proof(boards=(SUPPLY, battery)), "full")
    ]
    empty = replace(MAIN, parts=(), expected=None)
    assert "No part of MB-80 is listed." in [
        reason.text for reason in interlocks.power(Proof(boards=(SUPPLY, empty)), "full")
    ]
    assert not interlocks.mains_parts([replace(empty, expected=0)]), "said to have none"


def test_touch_asks_for_the_board_and_after_power_for_the_whole_unit():
    assert [x.rule for x in interlocks.touch(UNIT, "b1")] == ["charged"] and not interlocks.touch(UNIT, "b2")
    powered = replace(
        UNIT, record=Record((read("cold.discharge.ps-2.c7", 0.2), Event(kind=r.POWER, at=1), Event(kind=r.IDLE, at=2)))
    )
    assert "power was on after it" in interlocks.touch(powered, "b2")[0].text
    live = replace(powered, live="full")
    assert interlocks.touch(live, "b2")[0].rule == "live"
    new = replace(
        powered,
        record=powered.record.with_(
            read("cold.discharge.ps-2.c7", 0.2, 3), Event(kind=r.SWAP, at=4, row="p1", board="b1")
        ),
    )
    assert not interlocks.touch(new, "b2"), "a piece that came in since holds nothing"


def test_a_third_fuse_waits_for_a_cause_and_a_bad_mains_part_goes():
    assert not interlocks.third_fuse("F1", 1) and "2 fuses of F1 blew" in interlocks.third_fuse("F1", 2)[0].text
    assert interlocks.leave_in(ACROSS, True, "burst") and not interlocks.leave_in(OUT, True, "burst")
    assert interlocks.leave_in(replace(OUT, safety="Y2"), True, "burst"), "the class makes the place a mains place"


# Looking before and after


def thing(row: str, board: str, name: str, fitted: str = "", mains: bool = False, **facts) -> Thing:
    return Thing(row=row, board=board, name=name, facts=facts, fitted=fitted, mains=mains)


BEFORE = {
    "b1": thing("b1", "b1", "PS-2", rails="+5 V", fuse="T 1 A"),
    "p1": thing("p1", "b1", "PS-2 C7", value=1.0, volts=400.0),
}


@pytest.mark.parametrize(
    ("after", "told"),
    [
        ({}, []),
        ({"p1": thing("p1", "b1", "PS-2 C7", value=1.0, volts=450.0)}, [("part", "p1", "PS-2 C7: volts")]),
        ({"p1": thing("p1", "b1", "PS-2 C7", "LZ #5", value=1.0, volts=400.0)}, [("swap", "p1", "PS-2 C7: LZ in")]),
        ({"p2": thing("p2", "b1", "PS-2 C8", value=1.0)}, [("part", "p2", "PS-2 C8 listed")]),
        ({"p1": None}, [("part", "p1", "PS-2 C7 taken off the list")]),
        ({"b1": None, "p1": None}, [("moved", "b1", "PS-2 removed")]),
        ({"b1": thing("b1", "b1", "PS-9", rails="+5 V", fuse="T 1 A")}, []),
        ({"b1": thing("b1", "b1", "PS-2", rails="+5 V tol 50", fuse="T 16 A")}, [("board", "b1", "PS-2, its rails"), ("board", "b1", "PS-2, its fuse")]),
    ],
)  # fmt: skip
def test_changes_are_found_by_looking_before_and_after(after, told):
    now = {row: t for row, t in {**BEFORE, **after}.items() if t is not None}
    assert [(e.kind, e.row, e.words) for e in changes(BEFORE, now, 5.0)] == told


@pytest.mark.parametrize(
    ("was", "now", "told"),
    [
        ([], ["T1 transformer"], []),
        (["D4 diode"], ["D4 diode", "D5 diode"], []),
        (["D4 diode"], ["D4 zener 5V6"], ["PS-2, its supply or devices"]),
        (["D4 diode"], [], ["PS-2, its supply or devices"]),
        (["D4 diode"], ["D5 diode"], ["PS-2, its supply or devices"]),
    ],
)
def test_a_device_that_is_only_listed_voids_nothing_and_one_described_anew_does(was, now, told):
    before, after = ({"b1": thing("b1", "b1", "PS-2", devices=devices)} for devices in (was, now))
    assert [e.words for e in changes(before, after, 5.0)] == told
